"""The one error that input can cause."""

from dataclasses import dataclass


@dataclass(eq=False)
class UnusableInput(Exception):
    """Input that cannot be worked with: what, where, and the way out, in the user's words.

    ``code`` is stable for programs, ``where`` names the thing (a part, a field, a line).
    """

    code: str
    where: str
    message: str

    def __str__(self) -> str:
        return self.message

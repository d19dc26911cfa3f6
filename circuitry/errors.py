"""The one error that input can cause."""

from dataclasses import dataclass

from circuitry.finding import Mend


@dataclass(eq=False)
class UnusableInput(Exception):
    """Input that cannot be worked with: what, where, and the way out, in the user's words.

    ``code`` is stable for programs, ``where`` names the thing (a part, a field, a line). ``mends``
    are edits after which it can be asked for again.
    """

    code: str
    where: str
    message: str
    mends: tuple[Mend, ...] = ()

    def __str__(self) -> str:
        return self.message

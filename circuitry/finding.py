"""What the checks want the builder to look at, and how it can be put right."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

SEVERITIES = ("stop", "look", "note")


@dataclass(frozen=True)
class Mend:
    """A way to put a finding right: what its button says, and the operations behind it."""

    label: str
    operations: tuple[Mapping[str, Any], ...]


@dataclass(frozen=True)
class Finding:
    """Something to look at: what was found against what limit, and why it matters.

    ``about`` is what it is about where ``parts`` come and go, such as a trunk.
    ``accepted`` is the reason why the builder lives with it, ``once_accepted`` the one from when it
    said something else. ``id`` is the same as long as it is about the same.
    """

    code: str
    severity: str
    parts: tuple[str, ...]
    circuit: str | None
    title: str
    found: str
    limit: str
    why: str
    mends: tuple[Mend, ...] = ()
    about: str = ""
    accepted: str = ""
    once_accepted: str = ""
    id: str = field(init=False, default="")

    def __post_init__(self) -> None:
        words = self.about or "\n".join(self.parts)
        about = hashlib.sha256(words.encode()).hexdigest()[:12]
        object.__setattr__(self, "id", f"{self.code}-{about}")

"""What the checks want the builder to look at, and how it can be put right."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

SEVERITIES = ("stop", "look", "note")


@dataclass(frozen=True)
class Mend:
    """A way to put a finding right: what its button says, and the operations behind it."""

    label: str
    operations: tuple[Mapping[str, Any], ...]


@dataclass(frozen=True)
class Finding:
    """Something to look at: what was found against what limit, and why it matters."""

    code: str
    severity: str
    parts: tuple[str, ...]
    circuit: str | None
    title: str
    found: str
    limit: str
    why: str
    mends: tuple[Mend, ...] = ()

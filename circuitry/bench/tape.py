"""The tape: what happened, when, and why."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Event:
    """Something notable: its kind, what happened in words, why where that is known, and the parts
    or wires that it concerns."""

    t_s: float
    kind: str
    what: str
    why: str = ""
    of: tuple[str, ...] = ()

"""What a way is: the steps that current takes to a part and back, and the positions they need."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from circuitry.design.model import Terminal

TAKES_POWER = frozenset({"resistor", "field", "sender"})


@dataclass(frozen=True)
class Step:
    """One element crossed on the way, in the direction from supply to return."""

    kind: str
    owner: str
    from_terminal: Terminal
    to_terminal: Terminal


@dataclass(frozen=True)
class Path:
    """The way to a load and back: steps before it, steps after it, and the positions it needs.

    ``positions`` maps switch parts to their position; relays follow from the coils.
    """

    feed: tuple[Step, ...]
    back: tuple[Step, ...]
    positions: Mapping[str, str]

    @property
    def steps(self) -> tuple[Step, ...]:
        """Feed and return steps, without the load itself."""
        return self.feed + self.back


@dataclass(frozen=True)
class Ways:
    """Ways between a part and the battery, how many terminals the search for them visited, and
    whether it gave up before its end."""

    each: tuple[Path, ...]
    visited: int
    gave_up: bool


def reversed_steps(steps: Iterable[Step]) -> tuple[Step, ...]:
    """The same way walked from its end."""
    return tuple(
        Step(step.kind, step.owner, step.to_terminal, step.from_terminal)
        for step in reversed(list(steps))
    )

"""What moves by itself: it looks at the solved voltages and says which contacts it wants closed.

A position that something may take, such as a relay pulled in, is a row; a state is a column.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from circuitry.design.logic import VALUES, Memory
from circuitry.design.model import Part, Terminal
from circuitry.design.state import State, position_of

LIT = "lit"
AWAKE_V, ASLEEP_V = 6.0, 4.5
"""Typical least voltage between supply and ground at which electronics begin to work, and below
which they stop: what they switch on themselves takes some of their own feed."""

Volts = npt.NDArray[np.float64]
"""Volts by node and state; zero where a node floats."""
Flags = npt.NDArray[np.bool_]
Nodes = Mapping[Terminal, int]
Closed = frozenset[tuple[str, str]]
"""Contacts that moved by themselves: pairs of a part and its position."""


class Asked:
    """States that are asked for, and what the movers ask of them, as flags or figures by state.

    ``by_hand`` is kept by the network: which elements conduct in each before anything moves; and
    so are ``changes``, what of the build is otherwise in each.
    ``memory`` is what conditions remember where time passes; None where they are to settle.
    """

    by_hand: Flags | None = None
    changes: Sequence[Any] = ()
    memory: Memory | None = None

    def __init__(self, states: Sequence[State]) -> None:
        self.states = states
        self._kept: dict[object, npt.NDArray[Any]] = {}

    @property
    def alternator_share(self) -> npt.NDArray[np.float64]:
        """The share of its most that an alternator can give."""
        return np.array([state.alternator_share for state in self.states], dtype=float)

    def take(self, columns: Sequence[int]) -> "Asked":
        """Only some of the states, by number."""
        some = Asked([self.states[column] for column in columns])
        some._kept = {what: rows[columns] for what, rows in self._kept.items()}
        some.by_hand = None if self.by_hand is None else self.by_hand[:, columns]
        some.changes = [self.changes[column] for column in columns] if self.changes else ()
        return some

    def lit_of(self, owner: str) -> Flags:
        """Whether what this part flashes is in its lit phase."""
        return np.array([state.phase == LIT for state in self.states], dtype=bool)

    def at(self, switch: Part, number: int) -> Flags:
        """Whether a switch is in the position of this number."""
        names = [row.name for row in switch.contacts.positions] if switch.contacts else [""]
        asked = switch.id, names[number]
        if asked not in self._kept:
            rows = (position_of(switch, state) == names[number] for state in self.states)
            self._kept[asked] = np.fromiter(rows, dtype=bool, count=len(self.states))
        return self._kept[asked]

    def lost(self, what: str) -> Flags:
        """Whether this is lost."""
        if ("lost", what, "") not in self._kept:
            rows = (what in state.lost for state in self.states)
            self._kept["lost", what, ""] = np.fromiter(rows, dtype=bool, count=len(self.states))
        return self._kept["lost", what, ""]

    def value(self, name: str) -> npt.NDArray[np.float64]:
        """What sensors tell of a value."""
        if name not in self._kept:
            rows = (state.values.get(name, VALUES[name]) for state in self.states)
            self._kept[name] = np.fromiter(rows, dtype=float, count=len(self.states))
        return self._kept[name]


class Mover:
    """Things of one kind that move by themselves."""

    positions: list[tuple[str, str]]
    """Each position that one of them may take: a row of what is closed."""
    closes_s = opens_s = 0.005
    """How long it takes one of them to come there, and to go back: nothing does so at once, or what
    takes its own feed away would do so for ever in one instant."""

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        """The positions they want from the voltages, the states and those they have now."""
        raise NotImplementedError

    def delays_s(self) -> tuple[Sequence[float], Sequence[float]]:
        """How long each position takes to come to, and to leave."""
        count = len(self.positions)
        return [self.closes_s] * count, [self.opens_s] * count


def awake(supply_v: Volts, closed: Flags) -> Flags:
    """Whether electronics work with this supply, by whether they do already."""
    working: Flags = (supply_v >= AWAKE_V) | (closed & (supply_v >= ASLEEP_V))
    return working


def nodes(parts: Iterable[Part], name: str, node: Nodes) -> npt.NDArray[np.int_]:
    """The nodes of the terminal of this name of each part."""
    return np.array([node[Terminal(part.id, name)] for part in parts], dtype=int)


def column(figures: Iterable[float]) -> Volts:
    """Figures as a column, one a row."""
    return np.array([float(figure) for figure in figures])[:, None]

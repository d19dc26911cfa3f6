"""What moves by itself: it looks at the solved voltages and says which contacts it wants closed.

A position that something may take, such as a relay pulled in, is a row; a state is a column.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

import numpy as np
import numpy.typing as npt

from circuitry.design.logic import spoken
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
    """States that are asked for, and what the movers ask of them.

    ``by_hand`` is kept by the network: which elements conduct in each before anything moves.
    """

    by_hand: Flags | None = None

    def __init__(self, states: Sequence[State]) -> None:
        self.states = states
        self.lit = np.array([state.phase == LIT for state in states], dtype=bool)
        self.rpm = np.array([state.values.get("engine_rpm", 0.0) for state in states], dtype=float)
        self._known: dict[int, Mapping[str, bool | float]] = {}

    def take(self, columns: Sequence[int]) -> "Asked":
        """Only some of the states, by number."""
        some = Asked([self.states[column] for column in columns])
        known = ((number, self._known.get(column)) for number, column in enumerate(columns))
        some._known = {number: names for number, names in known if names is not None}
        some.by_hand = None if self.by_hand is None else self.by_hand[:, columns]
        return some

    def known(self, column: int, switches: Iterable[Part]) -> Mapping[str, bool | float]:
        """What conditions may know in a state: which controls are away from rest, and values."""
        if column not in self._known:
            state = self.states[column]
            moved: dict[str, bool | float] = {
                spoken(part.id): position_of(part, state) != part.contacts.positions[0].name
                for part in switches
                if part.contacts
            }
            self._known[column] = {**moved, **state.values}
        return self._known[column]


class Mover(Protocol):
    """Things of one kind that move by themselves."""

    positions: list[tuple[str, str]]
    """Each position that one of them may take: a row of what is closed."""

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        """The positions they want from the voltages, the states and those they have now."""
        ...


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

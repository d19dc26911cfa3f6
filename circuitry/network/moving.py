"""What moves by itself: relays, flashers, alternators and electronic outputs.

Each looks at the solved voltages and says which of its contacts it wants closed; the network solves
again until none wants to move. A position that something may take, such as a relay pulled in, is a
row; a state is a column.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

from circuitry.catalogue import catalogue
from circuitry.design.kinds import SWITCH_KINDS, outputs_of, relay_row, supply_pins
from circuitry.design.logic import holds, spoken
from circuitry.design.model import Build, Part, Terminal
from circuitry.network.elements import on
from circuitry.network.state import State, position_of

PULLED_IN = "pulled in"
LIT = "lit"
CHARGING = "charging"
AWAKE = "awake"
AWAKE_V, ASLEEP_V = 6.0, 4.5
"""Typical least voltage between supply and ground at which electronics begin to work, and below
which they stop: what they switch on themselves takes some of their own feed."""
EXCITED_V = 0.1
CUT_IN_RPM = 600.0
INPUT_SHARE = 0.5
ALTERNATOR_CURVE = ((600.0, 0.0), (900.0, 0.5), (1500.0, 0.75), (2500.0, 0.92), (4000.0, 1.0))
"""Engine speed in rpm against the share of the rated current; typical, warm, pulleys 2.5 to 1."""

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


class _Relays:
    """Pull in at their pull-in voltage, and drop out at their drop-out voltage."""

    def __init__(self, parts: list[Part], node: Nodes) -> None:
        rows = [relay_row(part) for part in parts]
        self.positions = [(part.id, PULLED_IN) for part in parts]
        self._plus, self._minus = _nodes(parts, "86", node), _nodes(parts, "85", node)
        self._pull_in_v = _column(row.pull_in_max_v for row in rows)
        self._drop_out_v = _column(row.drop_out_min_v for row in rows)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        coil_v = np.abs(volts[self._plus] - volts[self._minus])
        held: Flags = closed & (coil_v > self._drop_out_v)
        return held | (coil_v >= self._pull_in_v)


class _Flashers:
    """Closed while lit; electronic ones must be fed and grounded."""

    def __init__(self, parts: list[Part], node: Nodes) -> None:
        kinds = [catalogue().flashers[part.catalogue or ""] for part in parts]
        self.positions = [(part.id, LIT) for part in parts]
        self._plus, self._minus = _nodes(parts, "49", node), _nodes(parts, "31", node)
        self._by_heat = _column(not kind.is_electronic for kind in kinds) > 0

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        fed = _awake(volts[self._plus] - volts[self._minus], closed)
        lit: Flags = (fed | self._by_heat) & asked.lit
        return lit


class _Alternators:
    """Charge above their cut-in speed once the field has been excited, through the warning lamp."""

    def __init__(self, parts: list[Part], node: Nodes) -> None:
        self.positions = [(part.id, CHARGING) for part in parts]
        self._field, self._case = _nodes(parts, "D+", node), _nodes(parts, "-", node)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        excited = closed | (volts[self._field] - volts[self._case] >= EXCITED_V)
        return excited & (asked.rpm > CUT_IN_RPM)


class _Box:
    """Outputs of a control box or module are on while their condition holds and it is fed."""

    def __init__(self, part: Part, node: Nodes, switches: list[Part]) -> None:
        ends = supply_pins(part)
        assert ends is not None
        self._supply, self._ground = (node[Terminal(part.id, name)] for name in ends)
        self._conditions = [condition for _, condition in outputs_of(part)]
        self.positions = [(part.id, AWAKE), *((part.id, on(name)) for name, _ in outputs_of(part))]
        inputs = [pin for pin in part.pins if pin.function.startswith("input")]
        self._names = [spoken(pin.name) for pin in inputs]
        self._inputs = np.array([node[Terminal(part.id, pin.name)] for pin in inputs], dtype=int)
        self._high = _column(pin.function == "input" for pin in inputs) > 0
        self._switches = switches

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        supply_v = volts[self._supply] - volts[self._ground]
        wanted = np.zeros((len(self.positions), volts.shape[1]), dtype=bool)
        wanted[0] = _awake(supply_v, closed[0])
        high = volts[self._inputs] - volts[self._ground] >= INPUT_SHARE * supply_v
        active = (high == self._high).T.tolist()
        if self._conditions:
            for column in np.flatnonzero(wanted[0]).tolist():
                inputs = zip(self._names, active[column], strict=True)
                known = {**asked.known(column, self._switches), **dict(inputs)}
                wanted[1:, column] = [holds(condition, known) for condition in self._conditions]
        return wanted


@dataclass(frozen=True)
class Movers:
    """Everything of a build that moves by itself, relays first."""

    kinds: Sequence[Mover]

    @property
    def positions(self) -> list[tuple[str, str]]:
        """The position of each row."""
        return [position for kind in self.kinds for position in kind.positions]

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        """The positions that each thing wants, by row and state."""
        wanted = np.empty(closed.shape, dtype=bool)
        first = 0
        for kind in self.kinds:
            rows = slice(first, first + len(kind.positions))
            wanted[rows] = kind.wants(volts, asked, closed[rows])
            first = rows.stop
        return wanted


def movers(build: Build, node: Nodes) -> Movers:
    """Everything of a build that moves by itself; ``node`` numbers its terminals."""
    switches = [part for part in build.parts_of_kind(*SWITCH_KINDS) if part.contacts]
    boxes = [part for part in build.parts_of_kind("module", "box") if supply_pins(part)]
    kinds: list[Mover] = [
        _Relays(list(build.parts_of_kind("relay")), node),
        _Flashers(list(build.parts_of_kind("flasher")), node),
        _Alternators(list(build.parts_of_kind("alternator")), node),
        *(_Box(part, node, switches) for part in boxes),
    ]
    return Movers([kind for kind in kinds if kind.positions])


def _awake(supply_v: Volts, awake: Flags) -> Flags:
    """Whether electronics work with this supply, by whether they do already."""
    working: Flags = (supply_v >= AWAKE_V) | (awake & (supply_v >= ASLEEP_V))
    return working


def alternator_share(engine_rpm: float) -> float:
    """Share of its rated current that an alternator gives at an engine speed, by straight lines."""
    speeds, shares = zip(*ALTERNATOR_CURVE, strict=True)
    return float(np.interp(engine_rpm, speeds, shares))


def _nodes(parts: Iterable[Part], name: str, node: Nodes) -> npt.NDArray[np.int_]:
    return np.array([node[Terminal(part.id, name)] for part in parts], dtype=int)


def _column(figures: Iterable[float]) -> Volts:
    return np.array([float(figure) for figure in figures])[:, None]

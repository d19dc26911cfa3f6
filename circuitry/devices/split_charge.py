"""A relay that joins a second battery to the first while that is being charged."""

from collections.abc import Iterable, Iterator, Sequence

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.device import (
    BLADE,
    STUD,
    Around,
    Branch,
    Condition,
    Crossing,
    Device,
    Figure,
    Need,
)
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, column, nodes

JOINED = "joined"
CLOSES_AT_V, OPENS_AT_V = 13.3, 12.8
CONTACT_MOHM = 0.5
ELECTRONICS_S = 1e-3
"""Typical figures: a lead battery stands above the first only while it is charged, and falls below
the second only once that has ended."""


class SplitCharge(Device):
    """A contact that its own electronics close by the voltage of the first battery."""

    kind = "split-charge relay"
    figures = (
        Figure("closes_at_v", "closes at", "V", CLOSES_AT_V),
        Figure("opens_at_v", "opens at", "V", OPENS_AT_V),
        Figure("rated_a", "rating", "A", 140.0),
    )
    glyph = "M0 8 h5 l10 -8 m0 8 h5 M8 10 h4"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "in", "out", "ground"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        crossing = Crossing(needs=(part.id, JOINED))
        siemens = 1000 / CONTACT_MOHM / around.joint_resistance
        yield Branch("contact", "in", "out", siemens, position=JOINED, crossing=crossing)
        yield Branch("electronics", "in", "ground", ELECTRONICS_S)

    def needs(self, part: Part, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        plus, minus = Terminal(part.id, "in"), Terminal(part.id, "ground")
        yield (part.id, JOINED), (Need((plus,), (minus,)),)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield _Joining(parts, node)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[BLADE if name == "ground" else STUD]


class _Joining(Mover):
    """Join above one voltage, and part below a lower one."""

    closes_s, opens_s = 2.0, 2.0
    """They wait a moment, so that a starter or a bump in the volts does not move them; typical."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        self.positions = [(part.id, JOINED) for part in parts]
        self._plus, self._minus = nodes(parts, "in", node), nodes(parts, "ground", node)
        self._closes_at = column(part.number("closes_at_v", CLOSES_AT_V) for part in parts)
        self._opens_at = column(part.number("opens_at_v", OPENS_AT_V) for part in parts)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        across_v = volts[self._plus] - volts[self._minus]
        wanted: Flags = (across_v >= self._closes_at) | (closed & (across_v > self._opens_at))
        return wanted

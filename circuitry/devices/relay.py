"""A relay: a coil that moves a contact."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

from circuitry.catalogue import Relay as RelayRow
from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, ContactTable, Part, Position, Terminal
from circuitry.devices.device import (
    BLADE,
    LARGE_BLADE,
    STUD,
    Around,
    Branch,
    Condition,
    Device,
    Need,
    contact_branches,
)
from circuitry.devices.laws import Diode
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, column, nodes

PULLED_IN = "pulled in"
BOLTED_A, LARGE_BLADE_A = 100.0, 70.0
"""Currents from which a relay's contacts are screwed, or are the large blade; typical."""


class Relay(Device):
    """A coil from 86 to 85, and contacts from 30 (ISO 7588 numbering)."""

    kind = "relay"
    usual_row = "mini 4-pin"
    row_changes = True
    row_joins = True
    put_into = ("86", "87")

    def rows(self) -> Mapping[str, object] | None:
        return catalogue().relays

    def terminals(self, part: Part) -> tuple[str, ...]:
        return relay_terminals(relay_row(part))

    def without(self, part: Part, name: str) -> str:
        if name != "87a":
            return ""
        pins = "five pins, both 87" if relay_row(part).has_twin_outputs else "four pins"
        return (
            f"relay “{part.name}” has {pins}. "
            "Choose a changeover five-pin relay or another terminal."
        )

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        row = relay_row(part)
        yield Branch("coil", "86", "85", 1 / row.coil_ohm_12v)
        if row.suppression.startswith("diode"):
            yield Branch("suppression", "85", "86", law=Diode())
        yield from contact_branches(part, relay_contacts(row), row.contact_mohm, around, {})

    def needs(self, part: Part, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        plus, minus = (Terminal(part.id, name) for name in ("86", "85"))
        either = [Need((plus,), (minus,))]
        if not relay_row(part).suppression.startswith("diode"):
            either.append(Need((minus,), (plus,)))
        yield (part.id, PULLED_IN), tuple(either)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield _Relays(parts, node)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[relay_terminal(relay_row(part), name)]

    def detail(self, part: Part) -> str:
        return part.catalogue or ""

    def is_left(self, part: Part, name: str) -> bool:
        return name in ("30", "86")

    def says(self, part: Part, kind: str) -> str:
        return relay_row(part).kind


class _Relays(Mover):
    """Pull in at their pull-in voltage, and drop out at their drop-out voltage."""

    closes_s, opens_s = 0.008, 0.005
    """Typical of plug-in relays."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        rows = [relay_row(part) for part in parts]
        self.positions = [(part.id, PULLED_IN) for part in parts]
        self._plus, self._minus = nodes(parts, "86", node), nodes(parts, "85", node)
        self._pull_in_v = column(row.pull_in_max_v for row in rows)
        self._drop_out_v = column(row.drop_out_min_v for row in rows)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        coil_v = abs(volts[self._plus] - volts[self._minus])
        held: Flags = closed & (coil_v > self._drop_out_v)
        return held | (coil_v >= self._pull_in_v)


def relay_row(part: Part) -> RelayRow:
    """The catalogue row of a relay that has passed the checks."""
    return catalogue().relays[part.catalogue or ""]


def relay_terminals(row: RelayRow) -> tuple[str, ...]:
    """30, 85, 86, 87 and, where the kind has them, 87a or 87b (ISO 7588 numbering)."""
    extra = ("87a",) if row.has_rest_contact else ("87b",) if row.has_twin_outputs else ()
    return ("30", "85", "86", "87", *extra)


def relay_contacts(row: RelayRow) -> ContactTable:
    """The contact table of a relay: positions ``rest`` and ``pulled in``."""
    rest = (("30", "87a"),) if row.has_rest_contact else ()
    working = ("30", "87", "87b") if row.has_twin_outputs else ("30", "87")
    return ContactTable("30", (Position("rest", rest), Position(PULLED_IN, (working,))))


def relay_terminal(row: RelayRow, name: str) -> str:
    """The row of what a wire ends on at a terminal of a kind of relay."""
    if name in ("85", "86"):
        return BLADE
    if row.no_continuous_a_23c >= BOLTED_A:
        return STUD
    return LARGE_BLADE if row.no_continuous_a_23c >= LARGE_BLADE_A else BLADE

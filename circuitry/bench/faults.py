"""What goes wrong in cars: each kind of fault, where it can be, and what it does to the network.

Most faults open, loosen or join something and leave the rest as it is; a wire on the wrong terminal
or a lamp in the wrong holder makes another build of it (``miswired``).
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.devices import is_switch, terminals_of
from circuitry.devices.alternator import CHARGING
from circuitry.devices.connector import cavity_halves
from circuitry.devices.electronics import on, supply_of
from circuitry.devices.hearing import buses_of
from circuitry.devices.load import output_word
from circuitry.devices.relay import PULLED_IN, relay_row
from circuitry.errors import UnusableInput
from circuitry.network.equations import Join
from circuitry.network.network import Change, Network

SHORT_OHM, JOINT_OHM = 0.02, 2.0
"""What a short has, and a joint that has gone bad, where nothing is said; typical."""
WEAK_MOHM, WEAK_CHARGE = 60.0, 0.35
"""A battery at the end of its life; typical."""


@dataclass(frozen=True)
class Fault:
    """One fault: its kind, the wire or part that has it, what else it takes, and its ohms."""

    kind: str
    of: str
    other: str = ""
    ohm: float | None = None
    blind: bool = False

    @property
    def id(self) -> str:
        """What it is known by: there is one of a kind on a thing."""
        return f"{self.kind}: {self.of}"

    def as_row(self) -> dict[str, Any]:
        """As plain data."""
        row: dict[str, Any] = {"kind": self.kind, "of": self.of}
        if self.other:
            row["other"] = self.other
        if self.ohm is not None:
            row["ohm"] = self.ohm
        if self.blind:
            row["blind"] = True
        return row


@dataclass
class Effects(Change):
    """What faults and what is pulled do: a change of the network, positions that switches are held
    in, motors that stand, and what is lost.

    ``taps`` are the joins at both ends of a wire that touches something in its middle.
    """

    switches: dict[str, str] = field(default_factory=dict)
    stalled: set[str] = field(default_factory=set)
    lost: set[str] = field(default_factory=set)
    taps: dict[int, tuple[int, int]] = field(default_factory=dict)


@dataclass(frozen=True)
class FaultKind:
    """A kind of fault: its words, whether it is on a ``wire`` or a ``part``, which of them can have
    it, what else it can take, and what it does. ``minutes`` is what it usually takes to find by
    hand, ``hard`` how hard it is: 0 easy, 1 fair, 2 nasty."""

    words: str
    on: str
    hard: int
    fits: Callable[[Build, Any], bool]
    acts: Callable[["Acting"], None] | None = None
    others: Callable[[Build, Any], Sequence[str]] = lambda build, thing: ()
    miswires: Callable[[Build, Fault], Build] | None = None
    takes_ohm: float | None = None


@dataclass(frozen=True)
class Acting:
    """A fault on a network, and where its effects are gathered."""

    fault: Fault
    network: Network
    effects: Effects
    touches: bool = True

    def rows(self, *kinds: str, position: str | None = None) -> list[int]:
        """The elements of the thing that has the fault."""
        elements = self.network.elements
        return [
            row
            for row in self.network.rows_of.get(self.fault.of, ())
            if (not kinds or elements[row].kind in kinds)
            and (position is None or elements[row].position == position)
        ]

    def open(self, *kinds: str, position: str | None = None) -> None:
        """Open these elements of it."""
        self.effects.opens |= set(self.rows(*kinds, position=position))

    def stick(self, position: str, moved: bool) -> None:
        """Hold a contact that moves by itself."""
        at = (self.fault.of, position)
        positions = self.network.positions
        if at in positions:
            self.effects.sticks[positions.index(at)] = moved

    def touch(self, node: int) -> None:
        """Let the middle of the wire touch a node: the star of its halves and the short, as the
        triangle of the same three ends (Kennelly, 1899)."""
        if not self.touches:
            return
        (row,) = self.rows("wire")
        element, siemens = self.network.elements[row], float(self.network.siemens[row])
        half, short = 2 * siemens, 1 / max(self.fault.ohm or SHORT_OHM, 1e-4)
        whole = 2 * half + short
        between, aside = half * half / whole, half * short / whole
        self.effects.ohms[row] = 1 / between - 1 / siemens
        first = len(self.effects.joins)
        self.effects.joins += [Join(element.node_a, node, aside), Join(element.node_b, node, aside)]
        self.effects.taps[row] = first, first + 1


def _ground_node(network: Network) -> int:
    return network.make.body_node if network.build.body_conducts else network.reference


def _opens(*kinds: str) -> Callable[[Acting], None]:
    return lambda acting: acting.open(*kinds)


def _loosens(acting: Acting) -> None:
    (row,) = acting.rows("wire")
    acting.effects.ohms[row] = acting.fault.ohm or JOINT_OHM


def _shorts(acting: Acting) -> None:
    acting.touch(_ground_node(acting.network))


def _bridges(acting: Acting) -> None:
    wire = acting.network.build.wires[acting.fault.other]
    acting.touch(acting.network.node[wire.to_terminal])


def _of_kind(*kinds: str) -> Callable[[Build, Part], bool]:
    return lambda build, part: part.kind in kinds


def _is_lamp(build: Build, part: Part) -> bool:
    return part.kind == "load" and output_word(part) == "light"


def _other_lamps(build: Build, part: Part) -> list[str]:
    own = part.catalogue or ""
    return [name for name in catalogue().loads if name != own and _goes_into(name, own)]


def _goes_into(lamp: str, own: str) -> bool:
    """Whether a lamp goes into the holder of another."""
    holder = catalogue().loads[own].holder if own in catalogue().loads else ""
    return bool(holder) and catalogue().loads[lamp].holder == holder


def _other_ratings(build: Build, part: Part) -> list[str]:
    rows = catalogue().fuses.get(part.catalogue or "", ())
    return [f"{row.rating_a:g}" for row in rows if row.rating_a != part.number("rating_a", 0)]


def _other_positions(build: Build, part: Part) -> list[str]:
    return [row.name for row in part.contacts.positions] if part.contacts else []


def _pairs(build: Build, part: Part) -> list[str]:
    """Pairs of terminals of a part on which different wires land."""
    used = {
        end.name
        for wire in build.wires.values()
        for end in (wire.from_terminal, wire.to_terminal)
        if end.part == part.id
    }
    names = [name for name in terminals_of(part) if name in used]
    return [f"{a}/{b}" for i, a in enumerate(names) for b in names[i + 1 :]]


def _neighbours(build: Build, plug: Part) -> list[str]:
    return [
        other.id
        for other in build.parts_of_kind("connector")
        if other.id != plug.id and other.place == plug.place
    ]


def _studs(build: Build, wire: Wire) -> list[str]:
    """Other studs and bus bars at the place where a wire ends."""
    here = build.parts[wire.to_terminal.part]
    return [
        str(Terminal(part.id, name))
        for part in build.parts_of_kind("stud", "bus bar", "ground point")
        if part.place == here.place and part.id != here.id
        for name in terminals_of(part)[:1]
    ]


def _exchanged(build: Build, ends: Mapping[Terminal, Terminal]) -> Build:
    wires = dict(build.wires)
    for name, wire in build.wires.items():
        first, last = wire.from_terminal, wire.to_terminal
        if first in ends or last in ends:
            first, last = ends.get(first, first), ends.get(last, last)
            wires[name] = replace(wire, from_terminal=first, to_terminal=last)
    return replace(build, wires=wires)


def _swapped(build: Build, part: str, one: str, other: str) -> Build:
    a, b = Terminal(part, one), Terminal(part, other)
    return _exchanged(build, {a: b, b: a})


def _pins_swapped(build: Build, fault: Fault) -> Build:
    one, _, other = fault.other.partition("/")
    return _swapped(build, fault.of, one, other)


def _coil_reversed(build: Build, fault: Fault) -> Build:
    return _swapped(build, fault.of, "85", "86")


def _plugs_exchanged(build: Build, fault: Fault) -> Build:
    """The loose halves of two plugs, cavity by cavity as far as both have them."""
    names = [{pin.name for pin in build.parts[plug].pins} for plug in (fault.of, fault.other)]
    ends: dict[Terminal, Terminal] = {}
    for name in names[0] & names[1]:
        half = cavity_halves(name)[1]
        one, other = Terminal(fault.of, half), Terminal(fault.other, half)
        ends |= {one: other, other: one}
    return _exchanged(build, ends)


def _on_wrong_stud(build: Build, fault: Fault) -> Build:
    wire = replace(build.wires[fault.of], to_terminal=Terminal.parse(fault.other))
    return replace(build, wires={**build.wires, wire.id: wire})


def _with_part(build: Build, part: Part) -> Build:
    return replace(build, parts={**build.parts, part.id: part})


def _another_lamp(build: Build, fault: Fault) -> Build:
    lamp = build.parts[fault.of]
    return _with_part(build, replace(lamp, catalogue=fault.other, figures={}))


def _lamps_exchanged(build: Build, fault: Fault) -> Build:
    one, other = build.parts[fault.of], build.parts[fault.other]
    build = _with_part(build, replace(one, catalogue=other.catalogue, figures=other.figures))
    return _with_part(build, replace(other, catalogue=one.catalogue, figures=one.figures))


def _other_holders(build: Build, part: Part) -> list[str]:
    return [
        row.id
        for row in build.parts_of_kind("load")
        if row.id != part.id
        and row.catalogue != part.catalogue
        and row.catalogue
        and _goes_into(row.catalogue, part.catalogue or "")
    ]


def _another_fuse(build: Build, fault: Fault) -> Build:
    fuse = build.parts[fault.of]
    figures = {**fuse.figures, "rating_a": float(fault.other)}
    return _with_part(build, replace(fuse, figures=figures))


def _weak(build: Build, fault: Fault) -> Build:
    battery = build.parts[fault.of]
    figures = {**battery.figures, "resistance_mohm": WEAK_MOHM}
    return _with_part(build, replace(battery, figures=figures))


def _is_switch_of_two(build: Build, part: Part) -> bool:
    two = part.contacts is not None and len(part.contacts.positions) == 2
    return part.kind in ("switch", "sensor") and two


def _stand_in(build: Build, fault: Fault) -> Build:
    """A switch of the other kind in its place: closed where it should be open."""
    switch = build.parts[fault.of]
    assert switch.contacts is not None
    first, last = switch.contacts.positions
    positions = replace(first, joins=last.joins), replace(last, joins=first.joins)
    table = replace(switch.contacts, positions=positions)
    return _with_part(build, replace(switch, contacts=table))


def _stuck_at(acting: Acting) -> None:
    acting.effects.switches[acting.fault.of] = acting.fault.other


def _channels(build: Build, part: Part) -> list[str]:
    """The channels of a module that conditions switch."""
    return [way.name for way in part.ways if way.when] if part.kind == "module" else []


def _is_load_with_motor(build: Build, part: Part) -> bool:
    return part.kind == "load" and output_word(part) == "speed"


def _has_rest_contact(build: Build, part: Part) -> bool:
    return part.kind == "relay" and relay_row(part).has_rest_contact


def _has_diode(build: Build, part: Part) -> bool:
    return part.kind == "relay" and relay_row(part).suppression.startswith("diode")


def _is_grounded(build: Build, part: Part) -> bool:
    return part.kind == "ground point" and build.body_conducts


def _is_wiper(build: Build, part: Part) -> bool:
    contacts = part.contacts
    return bool(contacts and [row.name for row in contacts.positions] == ["parked", "away"])


def _any_wire(build: Build, wire: Wire) -> bool:
    return True


def _other_wires(build: Build, wire: Wire) -> list[str]:
    """Wires that run beside it for some way; only a choice of them."""
    places = {build.parts[end.part].place for end in (wire.from_terminal, wire.to_terminal)}
    return [
        other.id
        for other in build.wires.values()
        if other.id != wire.id
        and places & {build.parts[e.part].place for e in (other.from_terminal, other.to_terminal)}
    ][:40]


KINDS: dict[str, FaultKind] = {
    "open wire": FaultKind("wire broken", "wire", 0, _any_wire, _opens("wire")),
    "bad joint": FaultKind(
        "joint with too much resistance", "wire", 1, _any_wire, _loosens, takes_ohm=JOINT_OHM
    ),
    "short to ground": FaultKind(
        "wire worn through to ground", "wire", 0, _any_wire, _shorts, takes_ohm=SHORT_OHM
    ),
    "short to wire": FaultKind(
        "two wires worn into each other",
        "wire",
        2,
        _any_wire,
        _bridges,
        _other_wires,
        takes_ohm=SHORT_OHM,
    ),
    "chafe": FaultKind(
        "wire that touches ground now and then", "wire", 2, _any_wire, _shorts, takes_ohm=SHORT_OHM
    ),
    "wrong stud": FaultKind(
        "wire on the wrong stud",
        "wire",
        2,
        lambda build, wire: bool(_studs(build, wire)),
        others=_studs,
        miswires=_on_wrong_stud,
    ),
    "blown fuse": FaultKind("fuse blown", "part", 0, _of_kind("fuse"), _opens()),
    "missing fuse": FaultKind("fuse missing", "part", 0, _of_kind("fuse"), _opens()),
    "wrong fuse": FaultKind(
        "fuse of the wrong rating",
        "part",
        1,
        _of_kind("fuse"),
        others=_other_ratings,
        miswires=_another_fuse,
    ),
    "blown lamp": FaultKind("lamp blown", "part", 0, _is_lamp, _opens("load")),
    "missing lamp": FaultKind("lamp missing", "part", 0, _is_lamp, _opens("load")),
    "wrong lamp": FaultKind(
        "wrong lamp fitted", "part", 1, _is_lamp, others=_other_lamps, miswires=_another_lamp
    ),
    "lamps exchanged": FaultKind(
        "lamp in the holder of another",
        "part",
        1,
        _is_lamp,
        others=_other_holders,
        miswires=_lamps_exchanged,
    ),
    "missing relay": FaultKind("relay missing", "part", 0, _of_kind("relay"), _opens()),
    "stuck relay": FaultKind(
        "relay that never pulls in",
        "part",
        1,
        _of_kind("relay"),
        lambda acting: acting.stick(PULLED_IN, False),
    ),
    "welded relay": FaultKind(
        "relay welded shut",
        "part",
        1,
        _of_kind("relay"),
        lambda acting: acting.stick(PULLED_IN, True),
    ),
    "four-pin relay": FaultKind(
        "four-pin relay in a five-pin socket",
        "part",
        2,
        _has_rest_contact,
        lambda acting: acting.open("contact", position="rest"),
    ),
    "coil reversed": FaultKind(
        "coil of a diode relay connected backwards",
        "part",
        2,
        _has_diode,
        miswires=_coil_reversed,
    ),
    "missing ground": FaultKind(
        "ground not joined to the body", "part", 1, _is_grounded, _opens("body")
    ),
    "swapped pins": FaultKind(
        "two wires exchanged at a part",
        "part",
        2,
        lambda build, part: (
            part.kind in ("switch", "box", "relay", "connector") and len(_pairs(build, part)) > 0
        ),
        others=_pairs,
        miswires=_pins_swapped,
    ),
    "plug off": FaultKind("plug not joined", "part", 0, _of_kind("connector"), _opens("plug")),
    "wrong plug": FaultKind(
        "plug in its neighbour",
        "part",
        2,
        lambda build, part: part.kind == "connector" and bool(_neighbours(build, part)),
        others=_neighbours,
        miswires=_plugs_exchanged,
    ),
    "weak battery": FaultKind(
        "battery weak and half empty", "part", 1, _of_kind("battery"), miswires=_weak
    ),
    "dead alternator": FaultKind(
        "alternator dead",
        "part",
        1,
        _of_kind("alternator"),
        lambda acting: acting.stick(CHARGING, False),
    ),
    "stuck switch": FaultKind(
        "switch that stays where it is",
        "part",
        1,
        lambda build, part: is_switch(part) and part.kind != "key switch" and bool(part.contacts),
        _stuck_at,
        _other_positions,
    ),
    "stand-in switch": FaultKind(
        "switch of the other kind, closed where it should be open",
        "part",
        1,
        _is_switch_of_two,
        miswires=_stand_in,
    ),
    "stalled motor": FaultKind(
        "motor that cannot turn",
        "part",
        1,
        _is_load_with_motor,
        lambda acting: acting.effects.stalled.add(acting.fault.of),
    ),
    "tripped channel": FaultKind(
        "channel that stays tripped",
        "part",
        1,
        lambda build, part: bool(_channels(build, part)),
        lambda acting: acting.open("output", position=on(acting.fault.other)),
        _channels,
    ),
    "lost module": FaultKind(
        "module, box or keypad dead",
        "part",
        1,
        lambda build, part: supply_of(part) is not None,
        lambda acting: acting.effects.lost.add(acting.fault.of),
    ),
    "lost bus": FaultKind(
        "data bus lost",
        "bus",
        2,
        lambda build, bus: True,
        lambda acting: acting.effects.lost.add(acting.fault.of),
    ),
    "out of step": FaultKind(
        "wiper motor fitted out of step", "part", 2, _is_wiper, lambda acting: None
    ),
}


def can_have(build: Build, kind: str) -> Iterator[tuple[str, str]]:
    """The wires, parts or buses that can have a kind of fault: id and name."""
    row = KINDS[kind]
    if row.on == "wire":
        rows = [(wire.id, wire.label, wire) for wire in build.wires.values()]
    elif row.on == "bus":
        rows = [(bus.id, bus.name, bus) for bus in buses_of(build)]  # type: ignore[misc]
    else:
        wired = build.wired_parts()
        rows = [(p.id, p.name, p) for p in build.parts.values() if p.id in wired or p.fitted]  # type: ignore[misc]
    return ((identity, name) for identity, name, thing in rows if row.fits(build, thing))


def others_for(build: Build, kind: str, of: str) -> Sequence[str]:
    """What else a kind of fault on a thing can take: positions, ratings, other parts or wires."""
    row = KINDS[kind]
    thing = build.wires.get(of) if row.on == "wire" else build.parts.get(of)
    return row.others(build, thing) if thing is not None else ()


def problem_of(fault: Fault, build: Build) -> str:
    """Why a build cannot have a fault, and the way out; empty where it can."""
    row = KINDS[fault.kind]
    if fault.of not in {identity for identity, _ in can_have(build, fault.kind)}:
        return f"“{fault.of}” cannot have this: {row.words}. Choose another wire or part."
    others = others_for(build, fault.kind, fault.of)
    if others and fault.other not in others:
        shown = ", ".join(others[:8])
        return f"“{fault.other}” does not go with it. It can be {shown}."
    return ""


def fault_from(row: Any, where: str) -> Fault:
    """A fault from plain data; raises UnusableInput."""
    if not isinstance(row, Mapping) or row.get("kind") not in KINDS:
        kind = row.get("kind") if isinstance(row, Mapping) else row
        raise UnusableInput(
            "unknown-fault", where, f"No fault is called “{kind}”. Known: {', '.join(KINDS)}."
        )
    ohm = row.get("ohm")
    known = isinstance(ohm, int | float) and not isinstance(ohm, bool) and 1e-4 <= ohm <= 1e7
    if ohm is not None and not known:
        raise UnusableInput("bad-fault", where, f"{ohm} Ω is none from 0.0001 to 10,000,000.")
    return Fault(
        row["kind"],
        str(row.get("of") or ""),
        str(row.get("other") or ""),
        None if ohm is None else float(ohm),
        bool(row.get("blind")),
    )


def miswired(build: Build, faults: Iterable[Fault]) -> Build:
    """The build as these faults have it wired and fitted."""
    for fault in faults:
        change = KINDS[fault.kind].miswires
        if change is not None:
            build = change(build, fault)
    return build


def effects_of(
    network: Network, faults: Iterable[Fault], touching: frozenset[str], out: Iterable[str]
) -> Effects:
    """What faults and parts that are taken out do to a network; ``touching`` are the ids of chafes
    that touch now."""
    effects = Effects()
    for fault in faults:
        acts = KINDS[fault.kind].acts
        if acts is not None:
            touches = fault.kind != "chafe" or fault.id in touching
            acts(Acting(fault, network, effects, touches))
    for name in out:
        effects.opens |= set(network.rows_of.get(name, ()))
    return effects


def said(build: Build, fault: Fault) -> str:
    """A fault in words: ``wire worn through to ground: W33, dipped beam left``."""
    row = KINDS[fault.kind]
    if fault.of in build.wires:
        wire = build.wires[fault.of]
        name = f"{wire.label}, {build.parts[wire.to_terminal.part].name}"
    elif fault.of in build.parts:
        name = build.parts[fault.of].name
    else:
        name = next((bus.name for bus in buses_of(build) if bus.id == fault.of), fault.of)
    other = f" ({_other_said(build, fault.other)})" if fault.other else ""
    return f"{row.words}: {name}{other}"


def _other_said(build: Build, other: str) -> str:
    """The other part, wire, stud (``bar-3.stud``) or pair of pins (``in/head``) of a fault."""
    if other in build.wires:
        return build.wires[other].label
    part = build.parts.get(other.partition(".")[0])
    return part.name if part is not None else other.replace("/", " and ")

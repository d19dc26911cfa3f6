"""What moves by itself: relays, flashers, alternators and electronic outputs.

Each looks at the solved voltages and says which of its contacts it wants closed; the network solves
again until none wants to move. A closed contact is a pair of a part and its position.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from circuitry.build.kinds import SWITCH_KINDS, outputs_of, relay_row, supply_pins
from circuitry.build.logic import holds, spoken
from circuitry.build.model import Build, Part, Terminal
from circuitry.catalogue import catalogue
from circuitry.network.elements import on
from circuitry.network.state import State, position_of

PULLED_IN = "pulled in"
LIT = "lit"
CHARGING = "charging"
AWAKE = "awake"
AWAKE_V = 6.0
"""Typical least voltage between supply and ground at which electronics work."""
EXCITED_V = 0.1
CUT_IN_RPM = 600.0
INPUT_SHARE = 0.5
ALTERNATOR_CURVE = ((600.0, 0.0), (900.0, 0.5), (1500.0, 0.75), (2500.0, 0.92), (4000.0, 1.0))
"""Engine speed in rpm against the share of the rated current; typical, warm, pulleys 2.5 to 1."""

Closed = frozenset[tuple[str, str]]
Volts = Callable[[Terminal], float]


@dataclass(frozen=True)
class Mover:
    """One thing that moves by itself.

    ``wants`` yields the positions it wants from the voltages, the state and those it has now.
    """

    part: Part
    wants: Callable[[Volts, State, Closed], Iterator[str]]


def movers(build: Build) -> list[Mover]:
    """Everything of a build that moves by itself, relays first."""
    rows = [_relay(part) for part in build.parts_of_kind("relay")]
    rows += [_flasher(part) for part in build.parts_of_kind("flasher")]
    rows += [_alternator(part) for part in build.parts_of_kind("alternator")]
    known = _switches(build)
    boxes = build.parts_of_kind("module", "box")
    return rows + [_box(part, known) for part in boxes if supply_pins(part)]


def _relay(part: Part) -> Mover:
    """Pulls in at its pull-in voltage, and drops out at its drop-out voltage."""
    row = relay_row(part)
    plus, minus = Terminal(part.id, "86"), Terminal(part.id, "85")

    def wants(volts: Volts, state: State, closed: Closed) -> Iterator[str]:
        held = (part.id, PULLED_IN) in closed
        coil_v = abs(volts(plus) - volts(minus))
        if coil_v >= row.pull_in_max_v or (held and coil_v > row.drop_out_min_v):
            yield PULLED_IN

    return Mover(part, wants)


def _flasher(part: Part) -> Mover:
    """Closed while lit; electronic ones must be fed and grounded."""
    electronic = catalogue().flashers[part.catalogue or ""].is_electronic
    plus, minus = Terminal(part.id, "49"), Terminal(part.id, "31")

    def wants(volts: Volts, state: State, closed: Closed) -> Iterator[str]:
        if state.phase == LIT and (not electronic or volts(plus) - volts(minus) >= AWAKE_V):
            yield LIT

    return Mover(part, wants)


def _alternator(part: Part) -> Mover:
    """Charges above its cut-in speed once its field has been excited, through the warning lamp."""
    field, case = Terminal(part.id, "D+"), Terminal(part.id, "-")

    def wants(volts: Volts, state: State, closed: Closed) -> Iterator[str]:
        excited = (part.id, CHARGING) in closed or volts(field) - volts(case) >= EXCITED_V
        if excited and state.values.get("engine_rpm", 0.0) > CUT_IN_RPM:
            yield CHARGING

    return Mover(part, wants)


def alternator_share(engine_rpm: float) -> float:
    """Share of its rated current that an alternator gives at an engine speed, by straight lines."""
    below = ALTERNATOR_CURVE[0]
    for point in ALTERNATOR_CURVE:
        if engine_rpm <= point[0]:
            span = point[0] - below[0] or 1.0
            return below[1] + (point[1] - below[1]) * max(engine_rpm - below[0], 0.0) / span
        below = point
    return 1.0


Known = Callable[[State], Mapping[str, bool | float]]


def _switches(build: Build) -> Known:
    """What conditions may know of the driver's controls: which are away from rest."""
    parts = [part for part in build.parts_of_kind(*SWITCH_KINDS) if part.contacts]

    def known(state: State) -> Mapping[str, bool | float]:
        moved: dict[str, bool | float] = {
            spoken(part.id): position_of(part, state) != part.contacts.positions[0].name
            for part in parts
            if part.contacts
        }
        return {**moved, **state.values}

    return known


def _box(part: Part, known: Known) -> Mover:
    """Outputs are on while their condition holds and the box is fed."""
    ends = supply_pins(part)
    assert ends is not None
    supply, ground = (Terminal(part.id, name) for name in ends)
    outputs = outputs_of(part)
    inputs = [pin for pin in part.pins if pin.function.startswith("input")]

    def wants(volts: Volts, state: State, closed: Closed) -> Iterator[str]:
        supply_v = volts(supply) - volts(ground)
        if supply_v < AWAKE_V:
            return
        yield AWAKE
        if not outputs:
            return
        names = dict(known(state))
        for pin in inputs:
            high = volts(Terminal(part.id, pin.name)) - volts(ground) >= INPUT_SHARE * supply_v
            names[spoken(pin.name)] = high == (pin.function == "input")
        for name, condition in outputs:
            if holds(condition, names):
                yield on(name)

    return Mover(part, wants)

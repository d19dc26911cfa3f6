"""On the bench, before it goes in: every wire end to end, controls by hand, each function on a
small supply, and the instruments by themselves."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

from circuitry.design.model import Part, Terminal, Wire
from circuitry.design.state import Supply
from circuitry.devices.sensor import SENDERS, Scale, thermistor_ohm
from circuitry.errors import UnusableInput
from circuitry.proving.car import CRANK, Car, Row
from circuitry.proving.draft import drafted, look_at, look_for, reading
from circuitry.proving.functions import relied_on
from circuitry.proving.situation import METER_OHM, Band, Probe, Situation
from circuitry.proving.step import Look, Reading, Step
from circuitry.proving.words import (
    FUEL_SENDER,
    cautions_of,
    end_said,
    listed,
    place_said,
    seen,
    wire_said,
)
from circuitry.reach.gauges import dials

HOMES = ("connector", "module", "panel", "box")
"""Where wires are proved pin by pin: the first of these kinds that one ends on."""
AT_PART, OF_CIRCUIT = "at", "of"
MOST_TOGETHER = 8
SUPPLY_V, SUPPLY_OHM, SUPPLY_MOST_A, LEAST_TOLD_A = 13.0, 0.02, 10.0, 0.02
SHORT_LEAD_OHM = 0.02
SENDER_SPREAD = 0.2
"""How far senders of one kind lie from what they should tell; typical."""
GARAGE_C = 20.0


def loom(car: Car) -> Iterator[Step]:
    """Wires, controls, functions, instruments."""
    yield from _continuity(car)
    yield from _controls(car)
    yield from _on_supply(car)
    yield from _units(car)
    yield from _gauges(car)


def _continuity(car: Car) -> Iterator[Step]:
    build = car.build
    homes: dict[tuple[str, str], list[Wire]] = {}
    for wire in build.wires.values():
        homes.setdefault(_home(car, wire), []).append(wire)
    for home, wires in homes.items():
        parts = math.ceil(len(wires) / MOST_TOGETHER)
        each = math.ceil(len(wires) / parts)
        for number in range(parts):
            some = wires[number * each : (number + 1) * each]
            yield _ends(car, home, some, number, parts)


def _home(car: Car, wire: Wire) -> tuple[str, str]:
    """The plug, module, panel or box at which a wire is proved; else its circuit. Kind and id."""
    ends = [car.build.parts[end.part] for end in (wire.from_terminal, wire.to_terminal)]
    for kind in HOMES:
        for part in ends:
            if part.kind == kind:
                return AT_PART, part.id
    return (OF_CIRCUIT, wire.circuit) if wire.circuit else (AT_PART, ends[0].id)


def _ends(car: Car, home: tuple[str, str], wires: Sequence[Wire], number: int, parts: int) -> Step:
    build = car.build
    kind, identity = home
    part = build.parts[identity] if kind == AT_PART else None
    circuit = part.circuit if part else identity
    name = part.name if part else build.circuits[identity].name
    some = f", {number + 1} of {parts}" if parts > 1 else ""
    return drafted(
        car,
        id=f"loom/ends/{kind}/{identity}/{number + 1}",
        section="loom",
        circuit=circuit,
        title=f"{name}{some}: {len(wires)} {'wire' if len(wires) == 1 else 'wires'}, end to end",
        how="Both ends loose, nothing plugged in. Touch the probes together first and take off "
        "what they read." + (_neighbours(car, part, wires) if part else ""),
        place=place_said(build, part) if part else "",
        looks=[Look("neighbours", "Each against all the others here", "", "open")] if part else [],
        readings=[_end_to_end(car, wire) for wire in wires],
        relies_on=[wire.id for wire in wires],
        minutes=0.4 * len(wires) + (0.5 if part else 0.0),
    )


def _neighbours(car: Car, part: Part, wires: Sequence[Wire]) -> str:
    """Which pins of a part are one net by the loom alone, so that they read closed."""
    net = _nets(car)
    ends = {e for w in wires for e in (w.from_terminal, w.to_terminal) if e.part == part.id}
    together: dict[Terminal, list[str]] = {}
    for end in sorted(ends):
        together.setdefault(net[end], []).append(end.name)
    shared = [" and ".join(names) for names in together.values() if len(names) > 1]
    return f" Closed to each other by the loom: {listed(shared)}." if shared else ""


def _nets(car: Car) -> dict[Terminal, Terminal]:
    """The first terminal of the net of wires and splices that each terminal is on."""
    known: dict[Terminal, Terminal] | None = car.build.derived.get("nets of the loom")
    if known is not None:
        return known
    parent: dict[Terminal, Terminal] = {}

    def root(end: Terminal) -> Terminal:
        while parent.setdefault(end, end) != end:
            parent[end] = parent[parent[end]]
            end = parent[end]
        return end

    for wire in car.build.wires.values():
        parent[root(wire.from_terminal)] = root(wire.to_terminal)
    for part in car.build.parts_of_kind("splice", "stud", "bus bar"):
        ends = [end for end in list(parent) if end.part == part.id]
        for end in ends[1:]:
            parent[root(end)] = root(ends[0])
    found = {end: root(end) for end in list(parent)}
    car.build.derived["nets of the loom"] = found
    return found


def _end_to_end(car: Car, wire: Wire) -> Reading:
    return reading(
        f"ohms/{wire.id}",
        wire_said(car.build, wire),
        f"from {end_said(car.build, wire.from_terminal)} "
        f"to {end_said(car.build, wire.to_terminal)}",
        Situation(),
        Probe("wire", wire.from_terminal, wire.to_terminal, wire.id),
        high="Open: a pin not crimped, not home in its cavity, or in the wrong one.",
        tells="An ohmmeter does not find a joint that is poor only under load.",
    )


def _controls(car: Car) -> Iterator[Step]:
    """Switches and sensors worked by hand, and senders measured, before anything hangs on them."""
    build = car.build
    wired = build.wired_parts()
    for part in build.parts_of_kind("key switch", "switch", "sensor"):
        if part.id not in wired:
            continue
        readings = list(_contacts(car, part) if part.contacts else _sender(car, part))
        by_hand = "Work it by hand" if part.kind != "sensor" else "Move what it feels by hand"
        yield drafted(
            car,
            id=f"loom/control/{part.id}",
            section="loom",
            circuit=part.circuit,
            title=f"{part.name}: its contacts in each position"
            if part.contacts
            else f"{part.name}: its ohms",
            how=f"{by_hand}, its plug off."
            + (
                ""
                if part.contacts
                else " Float, bulb or lever from end to end: no jump on the way."
            ),
            place=place_said(build, part),
            readings=readings,
            waits_for=(part.id,) if part.id in car.today.missing else (),
            relies_on=(part.id,),
            minutes=0.5 + 0.3 * len(readings),
        )


def _contacts(car: Car, part: Part) -> Iterator[Reading]:
    """From the common terminal to each other, in each position in which that differs."""
    assert part.contacts is not None
    table = part.contacts
    loose = frozenset(
        wire.id
        for wire in car.build.wires.values()
        if car.build.lands(wire.from_terminal).part == part.id
        or car.build.lands(wire.to_terminal).part == part.id
        or (part.housed and part.housed.unit in (wire.from_terminal.part, wire.to_terminal.part))
    )
    for position in table.positions:
        joined = [group for group in position.joins if len(group) > 1]
        pairs = [(group[0], other) for group in joined for other in group[1:]]
        first = position.name == table.positions[0].name
        if not pairs and not first and len(table.positions) > 2:
            continue
        for one, other in pairs or [(table.common, _last(table.terminals, table.common))]:
            if part.kind == "key switch":
                situation = Situation(position.name, out=loose)
            else:
                situation = Situation(at=frozenset({(part.id, position.name)}), out=loose)
            yield reading(
                f"ohms/{position.name}/{one}/{other}",
                f"At {position.name}: {one} to {other}",
                f"between terminals {one} and {other}",
                situation,
                Probe("ohms", Terminal(part.id, one), Terminal(part.id, other)),
                low="Closed where it should be open: the other kind of switch, or worn contacts.",
                high="Open where it should be closed: burnt contacts, or another pin.",
            )


def _last(names: tuple[str, ...], common: str) -> str:
    return next((name for name in names[::-1] if name != common), common)


def _sender(car: Car, part: Part) -> Iterator[Reading]:
    """At the ends of its scale that a hand can bring it to; as it is now where it has none."""
    scale = SENDERS.get(part.catalogue or "")
    probe = Probe("ohms", Terminal(part.id, "signal"), Terminal(part.id, "ground"))
    for name, ohm, most in _by_hand(part, scale) if scale else ():
        yield Reading(
            f"ohms/{name}",
            f"Ohms {name}",
            "between its signal and its ground",
            probe,
            probe.unit,
            Band(ohm, round(ohm * (1 - SENDER_SPREAD), 1), round(most + METER_OHM, 1)),
            "Shorted, or another kind of sender: its gauge will go past its end.",
            "Open, a worn track, or another kind of sender.",
        )
    if scale:
        return
    loose = frozenset(
        wire.id
        for wire in car.build.wires.values()
        if part.id in (wire.from_terminal.part, wire.to_terminal.part)
    )
    yield reading(
        "ohms",
        "Ohms as it is now",
        "between its signal and its ground",
        Situation(out=loose),
        probe,
        low="Shorted, or another kind of sender: the gauge will read full or hot.",
        high="Open: the gauge will read empty or cold.",
    )


def _by_hand(part: Part, scale: Scale) -> Iterator[tuple[str, float, float]]:
    """Where a hand can bring a sender to, what it then tells in Ω, and the most that it may."""
    least_ohm, most_ohm = scale.ends_ohm(part)
    if scale is SENDERS["Temperature sender"]:
        garage_ohm = thermistor_ohm(least_ohm, GARAGE_C)
        yield "cold, as it is now", garage_ohm, garage_ohm**2 / least_ohm
        return
    yield f"at {scale.least}", least_ohm, least_ohm * (1 + SENDER_SPREAD)
    if scale is SENDERS["Fuel-level sender"]:
        yield f"at {scale.most}", most_ohm, most_ohm * (1 + SENDER_SPREAD)


def _on_supply(car: Car) -> Iterator[Step]:
    """Each function that a small supply can feed."""
    key = next(iter(car.keys), "")
    tried = [
        (circuit, next((r for r in rows if not r.is_off and dict(r.at).get(key) != CRANK), None))
        for circuit, rows in car.rows.items()
        if not car.is_engine(circuit)
    ]
    fed = [(circuit, row) for circuit, row in tried if row is not None]
    supply = Supply(SUPPLY_V, SUPPLY_OHM)
    situations = [replace(car.situation(row.at, of=circuit), supply=supply) for circuit, row in fed]
    settled = car.sound.settled(situations)
    for (circuit, row), situation, solved in zip(fed, situations, settled, strict=True):
        if isinstance(solved, UnusableInput):
            continue
        takes_a = car.sound.network.battery_a(solved)
        if LEAST_TOLD_A <= takes_a <= SUPPLY_MOST_A:
            yield _supplied(car, circuit, row, situation, takes_a, car.on(solved))


def _supplied(
    car: Car,
    circuit: str,
    row: Row,
    situation: Situation,
    takes_a: float,
    alive: frozenset[str],
) -> Step:
    build = car.build
    loads = [build.parts[load] for load in row.words]
    on = [load for load in loads if row.words[load.id] != "off"]
    flashes = "flashing" in row.words.values()
    limit_a = min(max(1.0, math.ceil(2 * takes_a)), 2 * SUPPLY_MOST_A)
    operate = car.operate(row.at)
    beside = [build.parts[p].name for p in sorted(alive - set(row.words))]
    also = f" Alive beside it: {listed(beside)}." if beside else ""
    return drafted(
        car,
        id=f"loom/supply/{circuit}",
        section="loom",
        circuit=circuit,
        title=f"{build.circuits[circuit].name} on a small supply, {SUPPLY_V:.0f} V, "
        f"limit {limit_a:.0f} A",
        how=f"Plus to the battery's positive lead, minus to its negative lead"
        f"{'; ' if operate else ''}{', '.join(o.said for o in operate)}. "
        f"Lamps and motors take more for a moment: the supply may dip.{also}",
        place=place_said(build, on[0]),
        cautions=[*cautions_of(on), "Battery off the car: the supply is all that feeds it."],
        operate=operate,
        looks=[look_for(car, load, row.words[load.id]) for load in on],
        readings=[
            reading(
                "draw",
                "Amps that the supply shows" + (", lamps lit" if flashes else ""),
                "on the supply's own meter",
                situation,
                Probe("supply"),
                low="Less than that: one of them is open or not plugged in.",
                high="More, or the limit holds it: a short, the wrong lamp, or a motor that binds.",
            )
        ],
        waits_for=car.waits_for(row.at)
        or tuple(p.id for p in on if on and all(q.id in car.today.missing for q in on)),
        relies_on=relied_on(car, circuit, loads),
        situation=situation,
        minutes=3.0,
    )


def _units(car: Car) -> Iterator[Step]:
    """Instruments by themselves: a clip for live, a clip for ground, each lamp in turn."""
    build = car.build
    units: dict[str, list[Part]] = {}
    for load in build.parts_of_kind("load"):
        if load.housed is not None:
            units.setdefault(load.housed.unit, []).append(load)
    for name, loads in units.items():
        unit = build.parts[name]
        telltales = [load for load in loads if seen(load, "on") == "lights"]
        if not telltales:
            continue
        steps = [_lit_alone(car, unit, load) for load in telltales]
        complaints = _complaints(car, unit, loads)
        yield drafted(
            car,
            id=f"loom/unit/{name}",
            section="loom",
            circuit=unit.circuit,
            title=f"{unit.name} on the bench: each lamp in turn",
            how="A clip for live and a clip for ground, through a 5 A fuse. " + complaints,
            place=place_said(build, unit),
            looks=[look_at(car, load, "lights") for load in telltales],
            readings=[row for row in steps if row is not None],
            waits_for=(name,) if name in car.today.missing else (),
            relies_on=[name, *(load.id for load in loads)],
            minutes=1.0 + 0.7 * len(telltales),
        )


def _lit_alone(car: Car, unit: Part, load: Part) -> Reading | None:
    assert load.housed is not None
    ends = {own: Terminal(unit.id, pin) for own, pin in load.housed.pins.items()}
    if set(ends) < {"+", "-"}:
        return None
    situation = Situation(
        supply=Supply(SUPPLY_V, SUPPLY_OHM),
        out=frozenset(car.build.wires),
        joined=(
            (car.plus, ends["+"], SHORT_LEAD_OHM),
            (car.minus, ends["-"], SHORT_LEAD_OHM),
        ),
    )
    return reading(
        f"lit/{load.id}",
        f"{load.name}: amps",
        f"live on pin {ends['+'].name}, ground on pin {ends['-'].name}",
        situation,
        Probe("supply"),
        low="Dark: the lamp is out or sits in another holder.",
        high="The wrong lamp, or pins exchanged.",
    )


def _gauges(car: Car) -> Iterator[Step]:
    """Each gauge with a resistor in place of its sender, at both ends of what that tells."""
    build = car.build
    for dial in dials(build):
        gauge, sender, scale = dial.gauge, dial.sender, dial.scale
        plus, minus = (build.lands(Terminal(gauge.id, name)) for name in "+-")
        supply_v = min(SUPPLY_V, dial.made_for_v)
        ends = [(scale.least, dial.least_ohm), (scale.most, dial.most_ohm)]
        at = build.parts[plus.part]
        yield drafted(
            car,
            id=f"loom/gauge/{gauge.id}",
            section="loom",
            circuit=gauge.circuit,
            title=f"{gauge.name} on the bench: a resistor in place of {sender.name}",
            how=f"Supply at {supply_v:g} V through a 5 A fuse, live on {end_said(build, plus)}; "
            f"resistor from {end_said(build, minus)} to supply minus. Its pointer takes its time. "
            "A gauge for another sender stops short or goes past: type what your sender tells.",
            place=place_said(build, at),
            cautions=(FUEL_SENDER,) if scale is SENDERS["Fuel-level sender"] else (),
            looks=[
                replace(
                    look_at(car, gauge, end), id=f"look/{end}", name=f"{gauge.name} with {ohm:g} Ω"
                )
                for end, ohm in ends
            ],
            readings=[
                reading(
                    f"amps/{end}",
                    f"Amps with {ohm:g} Ω",
                    "on the supply's own meter",
                    Situation(
                        supply=Supply(supply_v, SUPPLY_OHM),
                        out=frozenset(build.wires),
                        joined=(
                            (car.plus, plus, SHORT_LEAD_OHM),
                            (minus, car.minus, max(ohm, SHORT_LEAD_OHM)),
                        ),
                    ),
                    Probe("supply"),
                    low="Open: its winding, or a pin.",
                    high="Shorted, or something else hangs on that pin.",
                )
                for end, ohm in ends
            ],
            waits_for=[p for p in (gauge.id, at.id) if p in car.today.missing],
            relies_on=(gauge.id, sender.id),
            minutes=3.0,
        )


def _complaints(car: Car, unit: Part, loads: Sequence[Part]) -> str:
    """What it says because the rest of the car is absent."""
    lit = [p.name for p in loads if p.housed and p.housed.pins.get("-") not in (None, "31")]
    dark = f"{listed(lit)}: dark until the pin is touched to ground. " if lit else ""
    return dark + "It complains of senders and boxes that are not there: that is no fault."

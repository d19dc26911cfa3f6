"""Every function in every position that matters, with its loads and its interlocks; then the engine
cranked, running, and charging."""

from collections.abc import Iterator

from circuitry.design.model import Part, Terminal
from circuitry.devices.load import output_word, rated_current_a
from circuitry.proving.car import CRANK, Car, Row
from circuitry.proving.draft import drafted, look_at, look_for, reading
from circuitry.proving.facts import short
from circuitry.proving.situation import Band, Probe
from circuitry.proving.step import Look, Operation, Reading, Step
from circuitry.proving.words import (
    BELTS,
    EXHAUST,
    LEAD_OFF,
    RINGS_OFF,
    cautions_of,
    end_said,
    is_starter,
    listed,
    moving,
    place_said,
    wire_said,
)

CLAMPED_A = 0.25
"""Below it a clamp tells a load from none no longer."""
CHARGED_RPM = (900, 2500)
CHARGED_AT = 0.8
CHARGE_SPREAD_V = 0.25
MINUTES_EACH, MINUTES_READING = 0.5, 0.7


def functions(car: Car) -> Iterator[Step]:
    """The steps of every circuit, the chassis before the engine; cranking and charging last."""
    measured: set[str] = set()
    starters = {part.id for part in _starters(car)}
    cranked: list[Row] = []
    turning: list[Row] = []
    for circuit, rows in car.rows.items():
        for row in rows:
            at = dict(row.at)
            turns = any(row.words.get(part, "off") != "off" for part in starters)
            if turns or at.get(_key_of(car)) == CRANK:
                cranked.append(row)
            elif float(at.get("engine_rpm", 0)) > 0:
                turning.append(row)
            else:
                yield _tried(car, circuit, row, measured)
    yield from _parks(car)
    yield from _isolators(car)
    yield from _cranking(car, cranked, measured)
    yield from _charging(car)
    for row in turning:
        yield _tried(car, row.circuit, row, measured)


def _key_of(car: Car) -> str:
    return next(iter(car.keys), "")


def _tried(car: Car, circuit: str, row: Row, measured: set[str]) -> Step:
    """One line of a truth table."""
    build = car.build
    loads = [build.parts[load] for load in row.words]
    on = [load for load in loads if row.words[load.id] != "off"]
    there = [load for load in on if load.id not in car.today.missing]
    operate = car.operate(row.at)
    looks = tuple(look_for(car, load, row.words[load.id]) for load in loads)
    waits = car.waits_for(row.at) or (tuple(load.id for load in on) if on and not there else ())
    fresh = [load for load in there if load.id not in measured]
    measured |= {load.id for load in fresh}
    name = build.circuits[circuit].name
    starters = [load for load in loads if is_starter(load)]
    cautions = list(cautions_of(on))
    if starters:
        cautions.append(LEAD_OFF)
    if dict(row.at).get("engine_rpm", "0") != "0":
        cautions += [BELTS, EXHAUST]
    return drafted(
        car,
        id=f"works/{circuit}/{short(row.at)}",
        section="functions",
        circuit=circuit,
        title=f"{name}: {_operated(operate)}",
        how=_how(car, row, on),
        place=place_said(build, on[0]) if on else "",
        cautions=cautions,
        stays_out=[f"the heavy lead of {load.name}" for load in starters],
        operate=operate,
        looks=looks,
        readings=tuple(_under_load(car, row, fresh)),
        waits_for=waits,
        relies_on=relied_on(car, circuit, loads),
        situation=car.situation(row.at, of=circuit),
        minutes=MINUTES_EACH + MINUTES_READING * len(fresh),
    )


def _how(car: Car, row: Row, on: list[Part]) -> str:
    if not on:
        return "Nothing of it comes alive."
    plugged = [load for load in on if load.id in car.plugged_in]
    takes = listed(f"{load.name} {rated_current_a(load):.0f} A" for load in plugged)
    return f"Plug in what takes about as much: {takes}." if plugged else ""


def _operated(operate: tuple[Operation, ...]) -> str:
    return ", ".join(row.said for row in operate) or "nothing to operate"


def relied_on(car: Car, circuit: str, loads: list[Part]) -> tuple[str, ...]:
    """The parts and wires of a circuit, and what lies on the way to these loads."""
    build = car.build
    own = [part.id for part in build.parts.values() if part.circuit == circuit]
    own += [wire.id for wire in build.wires.values() if wire.circuit == circuit]
    return tuple(
        dict.fromkeys([*own, *(owner for load in loads for owner in car.way_owners(load))])
    )


def _under_load(car: Car, row: Row, loads: list[Part]) -> Iterator[Reading]:
    """Volts at each load; for the largest its amps, and what is lost before and after it."""
    situation = car.situation(row.at, of=row.circuit)
    most = max(loads, key=rated_current_a, default=None)
    for load in loads:
        plus, minus = Terminal(load.id, "+"), Terminal(load.id, "-")
        if output_word(load) == "current":  # how much is left for it goes with what it shows
            minus = car.minus
        before, ground = car.guards(load)
        backwards = row.words[load.id] == "reverse"
        flashes = row.words[load.id] == "flashing"
        held = ", the meter holding its most while it flashes" if flashes else ""
        ends = (minus, plus) if backwards else (plus, minus)
        yield reading(
            f"volts/{load.id}",
            f"Volts at {load.name}",
            f"red on {end_said(car.build, ends[0])}, black on {end_said(car.build, ends[1])}, "
            f"plugged in and working{held}",
            situation,
            Probe("volts", *ends),
            low=f"Near nothing: {before}, or a broken wire before it. Short by some: a poor joint "
            f"before it, or {ground}. Volts of its feed and of its ground against the battery "
            "tell which.",
            high="The battery stands higher than was typed, or something beside it that shares its "
            "feed is missing.",
            waits=load.id in car.today.missing,
        )
        clamped = _clamp(car, load)
        if clamped is not None and rated_current_a(load) >= CLAMPED_A:
            yield reading(
                f"amps/{load.id}",
                f"Amps of {load.name}",
                f"clamp round {wire_said(car.build, car.build.wires[clamped])}{held}",
                situation,
                Probe("amps", wire=clamped),
                low="Volts are there and amps are not: it is open, the wrong one, or its plug is "
                "off.",
                high="Switch off first. The wrong one, one that binds, or a wire worn through.",
                waits=load.id in car.today.missing,
            )
        steady = not backwards and not flashes
        if load is most and rated_current_a(load) >= CLAMPED_A and steady:
            yield reading(
                f"before/{load.id}",
                f"Lost before {load.name}",
                f"red on {end_said(car.build, car.plus)}, black on {end_said(car.build, plus)}",
                situation,
                Probe("volts", car.plus, plus),
                low="Less than a sound car loses: is it working?",
                high=f"A poor joint or contact on its way: {before}.",
            )
            yield reading(
                f"after/{load.id}",
                f"Lost after {load.name}",
                f"red on {end_said(car.build, minus)}, black on {end_said(car.build, car.minus)}",
                situation,
                Probe("volts", minus, car.minus),
                low="Less than a sound car loses: is it working?",
                high=f"A poor ground: {ground}, its ring, or paint under it.",
            )


def _clamp(car: Car, load: Part) -> str | None:
    """The wire that carries what a load takes and nothing else; None where all are shared."""
    build = car.build
    ends = {p.id: _landed(car, p) for p in build.parts_of_kind("load")}
    for end in ends[load.id]:
        wires = [w.id for w in build.wires.values() if end in (w.from_terminal, w.to_terminal)]
        shared = any(end in others for name, others in ends.items() if name != load.id)
        if len(wires) == 1 and not shared:
            return wires[0]
    return None


def _landed(car: Car, load: Part) -> tuple[Terminal, Terminal]:
    return car.build.lands(Terminal(load.id, "+")), car.build.lands(Terminal(load.id, "-"))


def _parks(car: Car) -> Iterator[Step]:
    """Wipers switched off in mid-sweep."""
    for name, cam in car.cams.items():
        circuit = cam.circuit or ""
        if circuit not in car.rows:
            continue
        motors = moving(car.build.loads_of(circuit))
        yield drafted(
            car,
            id=f"works/park/{name}",
            section="functions",
            circuit=circuit,
            title=f"{car.build.circuits[circuit].name}: off in mid-sweep",
            how="It runs on by its park contact and stops where the blades lie at rest.",
            place=place_said(car.build, cam),
            cautions=cautions_of(motors),
            looks=[
                Look("parks", "Runs on after it is switched off, and parks", "", "parks"),
                Look("sweeps", "Parks at the bottom of its sweep, not at the top", "", "so"),
            ],
            relies_on=relied_on(car, circuit, motors),
            waits_for=tuple(p.id for p in (cam,) if p.id in car.today.missing),
            minutes=1.0,
        )


def _isolators(car: Car) -> Iterator[Step]:
    for name in sorted(car.isolators):
        isolator = car.build.parts[name]
        if isolator.contacts is None or len(isolator.contacts.positions) < 2:
            continue
        off = isolator.contacts.positions[-1].name
        at = [(key, "run") for key in car.keys] + [(name, off)]
        alive = _alive(car, at)
        looks = [
            Look("dead", "Everything but what is named", "", "dead"),
            *(look_for(car, load, "on") for load in alive),
        ]
        yield drafted(
            car,
            id=f"works/isolator/{name}",
            section="functions",
            circuit=isolator.circuit,
            title=f"{isolator.name} to {off}, key at run",
            how="What must stay alive does: "
            + (listed(load.name for load in alive) or "nothing")
            + ".",
            place=place_said(car.build, isolator),
            operate=car.operate(at),
            looks=tuple(looks),
            readings=(
                reading(
                    "draw",
                    "Amps from the battery",
                    "clamp round the battery's negative lead",
                    car.situation(at),
                    Probe("draw"),
                    low="Nothing flows where something should stay alive: its own fuse.",
                    high="Something is fed past the isolator.",
                ),
            ),
            cautions=(RINGS_OFF,),
            relies_on=(name,),
            waits_for=(name,) if name in car.today.missing else (),
            situation=car.situation(at),
            minutes=1.0,
        )


def _alive(car: Car, at: list[tuple[str, str]]) -> list[Part]:
    (settled,) = car.sound.settled([car.situation(at)])
    on = car.on(settled)
    return [load for load in car.build.parts_of_kind("load") if load.id in on]


def _starters(car: Car) -> list[Part]:
    return [load for load in car.build.parts_of_kind("load") if is_starter(load)]


def _cranking(car: Car, rows: list[Row], measured: set[str]) -> Iterator[Step]:
    """First with the starter's lead off: what drops and what stays; then the engine turned."""
    starters = _starters(car)
    key = _key_of(car)
    if not rows or not key:
        return
    by_key = any(dict(row.at).get(key) == CRANK and not row.is_off for row in rows)
    running, cranking = [(key, "run")], [(key, CRANK)]
    before, during = ({load.id for load in _alive(car, at)} for at in (running, cranking))
    build = car.build
    drops = [build.parts[load] for load in sorted(before - during)]
    stays = [build.parts[load] for load in sorted(before & during)]
    refuses = [row for row in rows if row.is_off]
    out = [part.id for part in starters]
    lead_off = drafted(
        car,
        id="works/crank/lead-off",
        section="functions",
        circuit=None,
        title="Starter's heavy lead off and insulated; key from run to crank, and hold",
        how=f"Must drop: {listed(p.name for p in drops) or 'nothing'}. Must stay: "
        f"{listed(p.name for p in stays) or 'nothing'}.",
        place="",
        cautions=[
            "Battery negative off while the starter's lead comes off; insulate its ring.",
            *cautions_of([*stays]),
        ],
        operate=(Operation(key, "Key", CRANK, held=True),),
        looks=tuple(
            [look_for(car, load, "off") for load in drops]
            + [look_for(car, load, "on") for load in stays]
        ),
        relies_on=tuple(
            dict.fromkeys(owner for load in [*drops, *stays] for owner in car.way_owners(load))
        ),
        stays_out=tuple(part.name for part in starters),
        situation=car.situation(cranking, out),
        minutes=4.0,
    )
    if by_key:
        yield lead_off
    for row in refuses:
        if set(dict(row.at)) - {key} and any(load.id in row.words for load in starters):
            yield _tried(car, row.circuit, row, measured)
    for row in rows:
        turned = [p for p in starters if row.words.get(p.id, "off") != "off"]
        if not turned:
            continue
        situation = car.situation(row.at)
        plus = Terminal(turned[0].id, "+")
        yield drafted(
            car,
            id=f"works/crank/{turned[0].id}",
            section="functions",
            circuit=row.circuit,
            title=f"Crank: {_operated(car.operate(row.at))}, five seconds at most",
            how="Ignition or injection held off, so that it does not start.",
            place=place_said(build, turned[0]),
            cautions=[*cautions_of(turned), RINGS_OFF],
            operate=car.operate(row.at),
            looks=tuple(look_at(car, load, "turns the engine") for load in turned),
            readings=(
                reading(
                    "battery",
                    "Volts at the battery while cranking",
                    "red on the positive post, black on the negative post, not on their clamps",
                    situation,
                    Probe("volts", car.plus, car.minus),
                    low="A weak or flat battery, or an engine that is hard to turn.",
                    high="It hardly draws: is the starter turning the engine?",
                ),
                reading(
                    "lost",
                    "Lost before the starter",
                    f"red on the positive post, black on {end_said(build, plus)}",
                    situation,
                    Probe("volts", car.plus, plus),
                    low="It hardly draws: is the starter turning the engine?",
                    high="A poor joint in the heavy cable, the isolator, or the solenoid.",
                ),
                reading(
                    "ground",
                    "Lost after the starter",
                    "red on the starter's body, black on the negative post",
                    situation,
                    Probe("volts", Terminal(turned[0].id, "-"), car.minus),
                    low="It hardly draws: is the starter turning the engine?",
                    high="The engine strap, or paint under a ring of the battery's negative lead.",
                ),
            ),
            waits_for=car.waits_for(row.at)
            or tuple(p.id for p in turned if p.id in car.today.missing),
            relies_on=relied_on(car, row.circuit, turned),
            situation=situation,
            minutes=3.0,
        )


def _charging(car: Car) -> Iterator[Step]:
    """The engine running: volts at the battery by engine speed."""
    alternators = car.build.parts_of_kind("alternator")
    key = _key_of(car)
    for rpm in CHARGED_RPM if alternators and key else ():
        at = ((key, "run"), ("engine_rpm", str(rpm)))
        volts = car.sound.charging_v(car.situation(at), CHARGED_AT)
        if volts is None:
            continue
        band = Band(volts, volts - CHARGE_SPREAD_V, volts + CHARGE_SPREAD_V)
        alternator = alternators[0]
        yield drafted(
            car,
            id=f"works/charging/{rpm}",
            section="functions",
            circuit=alternator.circuit,
            title=f"Engine at {rpm} rpm: charging",
            how="Fuel, oil and coolant in; exhaust led outside; a hand at the isolator.",
            place=place_said(car.build, alternator),
            cautions=[BELTS, EXHAUST, RINGS_OFF],
            operate=(
                Operation(key, "Key", "run"),
                Operation("engine_rpm", "Engine speed", f"{rpm} rpm"),
            ),
            readings=(
                Reading(
                    "charging",
                    "Volts at the battery",
                    "red on the positive post, black on the negative post",
                    Probe("volts", car.plus, car.minus),
                    "V",
                    band,
                    "No charge: the exciter with its telltale, the charge fuse, the belt. Between: "
                    "the alternator gives all it has; switch off what is on.",
                    "The regulator, or its sensing wire. Stop: it boils the battery.",
                ),
            ),
            waits_for=tuple(p.id for p in alternators if p.id in car.today.missing),
            relies_on=(alternator.id,),
            situation=car.situation(at),
            minutes=3.0,
        )

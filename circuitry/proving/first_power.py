"""First power: the battery last, its negative last, through a lamp; then one fuse at a time."""

from collections.abc import Iterator
from dataclasses import replace

from circuitry.design.model import Part, Terminal
from circuitry.design.state import Supply
from circuitry.devices.terminals import is_screwed
from circuitry.network.network import Settled
from circuitry.proving.car import Car
from circuitry.proving.draft import drafted, look_for, reading
from circuitry.proving.situation import Probe, Situation
from circuitry.proving.step import Look, Step
from circuitry.proving.words import (
    EXTINGUISHER,
    NEAR_BATTERY,
    RINGS_OFF,
    cautions_of,
    end_said,
    is_starter,
    listed,
    moving,
    place_said,
)

LAMP_W, LAMP_V, COLD_SHARE = 21.0, 13.5, 0.067
LAMP_COLD_OHM = LAMP_V**2 / LAMP_W * COLD_SHARE
"""A 21 W lamp that does not light is as cold as the air."""
BOLTED = "Battery negative off while a spanner is on its studs; on again when its cover is on."
SMALL_FUSE_A, SMALL_HOLDS_A = 5, 3.0
"""What stands in the negative lead at first, and what it holds for as long as one looks."""


def first_power(car: Car) -> Iterator[Step]:
    """The lamp, the small fuse, then every fuse in its order."""
    fuses = _in_order(car)
    nothing = car.situation((), (fuse.id for fuse in fuses))
    yield _lamp(car, nothing)
    yield _negative_on(car, nothing, fuses)
    situations = [_as_fitted(car, fuses, number) for number in range(len(fuses))]
    alive, draws_a = _newly(car, fuses, situations)
    beyond = [number for number, draw_a in enumerate(draws_a) if draw_a > SMALL_HOLDS_A]
    last = min(beyond, default=len(fuses))
    for number, situation in enumerate(situations):
        if number == last:
            yield _small_fuse_out(car, fuses, number)
        yield _fitted(car, fuses, number, situation, alive[number])
    if last == len(fuses):
        yield _small_fuse_out(car, fuses, last)
    yield _all_in(car)


def _in_order(car: Car) -> list[Part]:
    """Fuses as they are fitted: feeds before what hangs on them, by stage, the chassis before the
    engine."""
    order = {circuit.id: number for number, circuit in enumerate(car.circuits)}
    fuses = car.build.parts_of_kind("fuse")

    def rank(fuse: Part) -> tuple[bool, int, int, int]:
        circuits = [
            c for c in (fuse.circuit, *(p.circuit for p in car.behind.get(fuse.id, ()))) if c
        ]
        engine = bool(circuits) and all(car.is_engine(circuit) for circuit in circuits)
        stage = min((car.stage(circuit) for circuit in circuits), default=1)
        first = min((order.get(circuit, 0) for circuit in circuits), default=-1)
        return engine, stage, car.fuse_levels.get(fuse.id, 0), first

    return sorted(fuses, key=rank)


def _listed_out(fuses: list[Part]) -> list[str]:
    return [listed((fuse.name for fuse in fuses), 6)] if fuses else []


def _circuits(car: Car, fuse: Part) -> list[str]:
    """The circuits that a fuse serves, its own first."""
    rows = (fuse.circuit, *(load.circuit for load in car.behind.get(fuse.id, ())))
    return list(dict.fromkeys(circuit for circuit in rows if circuit))


def _lamp(car: Car, nothing: Situation) -> Step:
    situation = Situation(
        out=nothing.out, supply=Supply(car.sound.supply.emf_v, max(LAMP_COLD_OHM, 1e-3))
    )
    return drafted(
        car,
        id="power/lamp",
        section="first power",
        circuit=None,
        title=f"Battery positive on; a {LAMP_W:.0f} W lamp from its negative post to its lead",
        how="Key off, every switch at rest, doors shut, isolator on. The lamp takes the place of "
        "the negative lead: whatever flows lights it, and no more flows than it lets through.",
        place=place_said(car.build, car.battery),
        cautions=[RINGS_OFF, NEAR_BATTERY, EXTINGUISHER],
        goes_in=["the lamp, in the negative lead"],
        stays_out=["every fuse", *(["the starter's heavy lead"] if _has_starter(car) else [])],
        looks=[Look("lamp", "The lamp", place_said(car.build, car.battery), "dark")],
        readings=[
            reading(
                "lamp",
                "Volts across the lamp",
                "red on the end of the negative lead, black on the negative post",
                situation,
                Probe("lamp"),
                high="Bright: a dead short before any fuse, or a lead on the wrong stud. Glowing: "
                "something is fed past all fuses. Stop here and find it.",
                tells="Right also with the lamp out: try it across the battery first.",
            )
        ],
        relies_on=[car.battery.id],
        situation=situation,
        minutes=4.0,
    )


def _has_starter(car: Car) -> bool:
    return any(is_starter(load) for load in car.build.parts_of_kind("load"))


def _negative_on(car: Car, nothing: Situation, fuses: list[Part]) -> Step:
    return drafted(
        car,
        id="power/negative",
        section="first power",
        circuit=None,
        title=f"Lamp out; negative lead on through a {SMALL_FUSE_A} A fuse",
        how="Every fuse still out. Nothing may be live beyond the first fuse of each feed.",
        place=place_said(car.build, car.battery),
        cautions=[RINGS_OFF, NEAR_BATTERY, EXTINGUISHER],
        goes_in=[f"a {SMALL_FUSE_A} A fuse in the negative lead"],
        stays_out=_listed_out(fuses),
        readings=[
            reading(
                "battery",
                "Volts at the battery",
                "red on the positive post, black on the negative post",
                nothing,
                Probe("volts", car.plus, car.minus),
                low="A battery that is not charged: charge it before you go on.",
                high="It is on a charger: take that off.",
            ),
            reading(
                "draw",
                "Amps from the battery",
                "meter in the negative lead",
                nothing,
                Probe("leak"),
                high="Something is fed past all fuses.",
                tells="Right also with the lead off: the volts beside it tell.",
            ),
        ],
        relies_on=[car.battery.id],
        situation=nothing,
        minutes=3.0,
    )


def _small_fuse_out(car: Car, fuses: list[Part], number: int) -> Step:
    """The negative lead itself on, before more is drawn than the small fuse holds."""
    situation = car.situation((), (fuse.id for fuse in fuses[number:]))
    return drafted(
        car,
        id="power/small-fuse-out",
        section="first power",
        circuit=None,
        title="Key off; small fuse out, the negative lead itself on its post",
        how=f"From here more is drawn than {SMALL_FUSE_A} A holds. All before it stood the test.",
        place=place_said(car.build, car.battery),
        cautions=[RINGS_OFF, NEAR_BATTERY, EXTINGUISHER],
        stays_out=_listed_out(fuses[number:]),
        readings=[
            reading(
                "draw",
                "Amps from the battery",
                "clamp round the negative lead",
                situation,
                Probe("draw"),
                high="Something has come alive meanwhile: negative off, and look.",
            )
        ],
        relies_on=[car.battery.id],
        situation=situation,
        minutes=2.0,
    )


def _needed(car: Car, fuse: Part) -> tuple[tuple[str, str], ...]:
    """The positions in which a fuse is fed."""
    return tuple((car.paths.positions_to_feed(Terminal(fuse.id, "in")) or {}).items())


def _as_fitted(car: Car, fuses: list[Part], number: int) -> Situation:
    """The car with this fuse just in and those after it out, in positions in which it is fed."""
    return car.situation(_needed(car, fuses[number]), (row.id for row in fuses[number + 1 :]))


def _fitted(
    car: Car, fuses: list[Part], number: int, situation: Situation, alive: list[Part]
) -> Step:
    build, fuse = car.build, fuses[number]
    at = _needed(car, fuse)
    loads = car.behind.get(fuse.id, [])
    circuits = _circuits(car, fuse)
    engine = bool(circuits) and all(car.is_engine(circuit) for circuit in circuits)
    rating = f"{fuse.number('rating_a', 0):g} A"
    serves = listed(dict.fromkeys(build.circuits[c].name for c in circuits), 6)
    operate = car.operate(at)
    cautions = [*cautions_of([*alive, *moving(loads)]), RINGS_OFF]
    bolted = is_screwed(build, build.lands(Terminal(fuse.id, "out")))
    if bolted:
        cautions.insert(0, BOLTED)
    if engine:
        cautions.append("Only once the chassis is proved. Starter's lead off, out of gear.")
    waits = car.waits_for(at) or ((fuse.id,) if fuse.id in car.today.missing else ())
    return drafted(
        car,
        id=f"power/fuse/{fuse.id}",
        section="first power",
        circuit=circuits[0] if circuits else None,
        title=("Negative off; bolt in " if bolted else "Fit ")
        + f"{fuse.name}, {rating}"
        + ("; negative on" if bolted else "")
        + (f"; then {', '.join(o.said for o in operate)}" if operate else ""),
        how=f"For {serves}." if serves else "A feed: what hangs on it is still out.",
        place=place_said(build, fuse),
        cautions=cautions,
        goes_in=[f"{fuse.name}, {rating}"],
        stays_out=_listed_out(fuses[number + 1 :]),
        operate=operate,
        looks=[
            *(look_for(car, load, "on") for load in alive),
            Look("nothing", "Nothing else comes alive, nothing smells, nothing warms", "", "so"),
        ],
        readings=[
            reading(
                "out",
                f"Volts after {fuse.name}",
                f"red on {end_said(build, Terminal(fuse.id, 'out'))}, black on the negative post",
                situation,
                Probe("volts", Terminal(fuse.id, "out"), car.minus),
                low=f"Nothing: {_before(car, fuse)}. Some: it is not seated, or its contacts are "
                "spread.",
                high="The battery stands higher than was typed.",
                waits=bool(waits),
            ),
            reading(
                "draw",
                "Amps from the battery",
                "clamp round the negative lead",
                situation,
                Probe("draw"),
                low="Less than what should be on: look which does not work.",
                high="Something is on that should not be: a switch that is not at rest, or a wire "
                "worn through. Fuse out again, then look.",
                tells="Right also with the fuse open: the volts after it tell.",
                waits=bool(waits),
            ),
        ],
        waits_for=waits,
        relies_on=[fuse.id, *_fed_by(car, fuse)],
        situation=situation,
        minutes=2.0,
    )


def _before(car: Car, fuse: Part) -> str:
    """What stands before a fuse, to be suspected where nothing arrives."""
    wires = [
        wire.label
        for wire in car.build.wires.values()
        if car.build.lands(Terminal(fuse.id, "in")) in (wire.from_terminal, wire.to_terminal)
    ]
    return f"its feed by {listed(wires, 3)}, or the fuse itself" if wires else "its feed"


def _fed_by(car: Car, fuse: Part) -> list[str]:
    at = car.build.lands(Terminal(fuse.id, "in"))
    return [w.id for w in car.build.wires.values() if at in (w.from_terminal, w.to_terminal)]


def _newly(
    car: Car, fuses: list[Part], situations: list[Situation]
) -> tuple[list[list[Part]], list[float]]:
    """The loads that come alive as each fuse goes in, and what the battery then gives, in A."""
    rows = zip(fuses, situations, strict=True)
    without = [replace(row, out=row.out | {fuse.id}) for fuse, row in rows]
    settled = car.sound.settled([*situations, *without])
    on = [car.on(row) for row in settled]
    loads = car.build.parts_of_kind("load")
    pairs = zip(on, on[len(fuses) :], strict=False)
    newly = [[load for load in loads if load.id in new - old] for new, old in pairs]
    draws_a = [
        car.sound.network.battery_a(row) if isinstance(row, Settled) else 0.0
        for row in settled[: len(fuses)]
    ]
    return newly, draws_a


def _all_in(car: Car) -> Step:
    at_rest = car.at_rest
    (settled,) = car.sound.settled([at_rest])
    on = car.on(settled)
    alive = [load for load in car.build.parts_of_kind("load") if load.id in on]
    return drafted(
        car,
        id="power/all-in",
        section="first power",
        circuit=None,
        title="Every fuse in, key off, every switch at rest",
        how="Doors shut, nothing in the sockets.",
        place=place_said(car.build, car.battery),
        cautions=[RINGS_OFF],
        looks=[
            *(look_for(car, load, "on") for load in alive),
            Look("nothing", "Nothing else is alive" if alive else "Nothing is alive", "", "so"),
        ],
        readings=[
            reading(
                "draw",
                "Amps from the battery",
                "clamp round the negative lead",
                at_rest,
                Probe("draw"),
                high="Something is live that should not be: fuses out one by one until it falls.",
                tells="Right also where nothing is fed: the volts after each fuse have told.",
            )
        ],
        relies_on=[car.battery.id],
        situation=at_rest,
        minutes=2.0,
    )

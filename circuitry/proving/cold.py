"""In the car with its battery off: rings, grounds, feeds, the isolator, edges."""

from collections.abc import Iterator

from circuitry.catalogue import catalogue
from circuitry.design.model import Part, Run, Terminal, Wire
from circuitry.layout.findings import run_name
from circuitry.proving.car import Car
from circuitry.proving.draft import drafted, reading
from circuitry.proving.situation import OPEN_OHM, Probe, Situation
from circuitry.proving.step import Look, Step
from circuitry.proving.words import AIRBAGS, NEGATIVE_OFF, end_said, listed, place_said

RING_KINDS = ("stud", "bus bar", "ground point")
ALL_OUT = "every fuse"
ELECTRONIC = "Electronics read anything from a hundred ohms up, and more as they charge."
ELECTRONIC_OHM = 100.0
EDGES = {"edge": "an edge", "hot part": "a hot part", "moving hinge": "a moving hinge"}


def cold(car: Car) -> Iterator[Step]:
    """Everything that can be seen and measured before the battery is on."""
    yield from _rings(car)
    yield from _grounds(car)
    yield from _feeds(car)
    yield from _isolators(car)
    yield from _ways(car)


def _landing(car: Car, part: Part) -> list[Wire]:
    rows = car.build.wires.values()
    return [w for w in rows if part.id in (w.from_terminal.part, w.to_terminal.part)]


def _rings(car: Car) -> Iterator[Step]:
    build = car.build
    for part in (car.battery, *build.parts_of_kind(*RING_KINDS)):
        wires = _landing(car, part)
        if not wires:
            continue
        looks = [
            Look(
                f"ring/{wire.id}",
                f"{wire.label} to {_other_end(car, wire, part)}"
                + (f", on {_own_end(wire, part)}" if part.kind == "battery" else ""),
                place_said(build, part),
                "on",
            )
            for wire in wires
        ]
        ground = part.kind == "ground point"
        yield drafted(
            car,
            id=f"cold/rings/{part.id}",
            section="cold",
            circuit=part.circuit,
            title=f"{part.name}: {len(wires)} {'ring' if len(wires) == 1 else 'rings'}",
            how="Bright metal under the ring, grease over it, a washer that bites."
            if ground
            else "Tight, covered, and no other ring on it.",
            place=place_said(build, part),
            cautions=[NEGATIVE_OFF],
            looks=looks,
            relies_on=[part.id, *(wire.id for wire in wires)],
            minutes=0.5 + 0.2 * len(wires),
        )


def _own_end(wire: Wire, part: Part) -> str:
    end = wire.from_terminal if wire.from_terminal.part == part.id else wire.to_terminal
    return {"+": "positive", "-": "negative"}.get(end.name, end.name)


def _other_end(car: Car, wire: Wire, part: Part) -> str:
    far = wire.to_terminal if wire.from_terminal.part == part.id else wire.from_terminal
    return end_said(car.build, far)


def _grounds(car: Car) -> Iterator[Step]:
    build = car.build
    for part in build.parts_of_kind("ground point", "bus bar"):
        end = next((w for w in _landing(car, part)), None)
        if end is None:
            continue
        terminal = end.from_terminal if end.from_terminal.part == part.id else end.to_terminal
        if build.lands(terminal) not in car.paths.grounded:
            continue
        yield drafted(
            car,
            id=f"cold/ground/{part.id}",
            section="cold",
            circuit=part.circuit,
            title=f"Ohms from {part.name} to the battery's negative lead",
            place=place_said(build, part),
            cautions=[NEGATIVE_OFF, AIRBAGS],
            stays_out=[ALL_OUT],
            readings=[
                reading(
                    "ohms",
                    "Ohms",
                    f"red on {part.name}, black on the ring of the negative lead",
                    Situation(),
                    Probe("ohms", terminal, car.minus),
                    high="Paint under the ring, a strap off, or a body that does not conduct.",
                    tells="An ohmmeter passes a joint that is poor under load; the volts lost "
                    "after each load find that.",
                )
            ],
            relies_on=[part.id, end.id],
            situation=Situation(),
            minutes=1.0,
        )


def _feeds(car: Car) -> Iterator[Step]:
    """Ohms from what each fuse feeds to ground, each by itself, with every fuse out."""
    build = car.build
    fuses = build.parts_of_kind("fuse")
    out = car.situation((), (fuse.id for fuse in fuses))
    for fuse in fuses:
        loads = car.behind.get(fuse.id, [])
        circuit = fuse.circuit or next((p.circuit for p in loads), None)
        terminal = Terminal(fuse.id, "out")
        wires = [
            w
            for w in build.wires.values()
            if build.lands(terminal) in (w.from_terminal, w.to_terminal)
        ]
        if not wires:
            continue
        yield drafted(
            car,
            id=f"cold/feed/{fuse.id}",
            section="cold",
            circuit=circuit,
            title=f"Ohms from what {fuse.name} feeds to ground, all off",
            how="Every switch at rest, doors shut, lamps and boxes plugged in, nothing in the "
            "sockets." + (f" {ELECTRONIC}" if _electronic(loads) else ""),
            place=place_said(build, fuse),
            cautions=[NEGATIVE_OFF, AIRBAGS],
            stays_out=[ALL_OUT],
            readings=[
                reading(
                    "ohms",
                    "Ohms",
                    f"red on {end_said(build, terminal)}, black on the ring of the negative lead",
                    out,
                    Probe("ohms", terminal, car.minus),
                    open_from=ELECTRONIC_OHM if _electronic(loads) else OPEN_OHM,
                    low="A short to ground, or a switch that is not at rest: "
                    f"{listed(w.label for w in wires)}.",
                    high="Something that hangs straight on it is not there: its plug, its ground.",
                )
            ],
            relies_on=[fuse.id, *(wire.id for wire in wires)],
            situation=out,
            minutes=1.0,
        )


def _electronic(loads: list[Part]) -> bool:
    """Whether electronics hang on it, which an ohmmeter's milliamp tells little of."""
    rows = catalogue().loads
    return any(rows[load.catalogue or ""].kind.startswith(("constant", "led")) for load in loads)


def _isolators(car: Car) -> Iterator[Step]:
    for name in sorted(car.isolators):
        isolator = car.build.parts[name]
        if isolator.contacts is None:
            continue
        ends = Terminal(name, "in"), Terminal(name, "out")
        if not {end.name for end in ends} <= set(isolator.contacts.terminals):
            continue
        readings = [
            reading(
                f"ohms/{position.name}",
                f"Ohms across it at {position.name}",
                f"red on {end_said(car.build, ends[0])}, black on {end_said(car.build, ends[1])}",
                Situation(
                    at=frozenset({(name, position.name)}),
                    out=frozenset(
                        wire.id
                        for wire in car.build.wires.values()
                        if name in (wire.from_terminal.part, wire.to_terminal.part)
                    ),
                ),
                Probe("ohms", *ends),
                low="Its contacts are welded, or it is bridged.",
                high="Its contacts are burnt, or it is the other way round.",
            )
            for position in isolator.contacts.positions
        ]
        yield drafted(
            car,
            id=f"cold/isolator/{name}",
            section="cold",
            circuit=isolator.circuit,
            title=f"{isolator.name}: its contacts in each position, its heavy leads off",
            place=place_said(car.build, isolator),
            cautions=[NEGATIVE_OFF],
            readings=readings,
            waits_for=(name,) if name in car.today.missing else (),
            relies_on=(name,),
            minutes=2.0,
        )


def _ways(car: Car) -> Iterator[Step]:
    for run in car.build.runs.values():
        hazards = _hazards(run)
        if hazards:
            yield drafted(
                car,
                id=f"cold/way/{run.id}",
                section="cold",
                circuit=None,
                title=f"The way {run_name(car.build, run)}: past {listed(hazards)}",
                how="Nothing rubs, nothing pulls tight when it moves, nothing lies on metal.",
                place=run_name(car.build, run),
                cautions=[NEGATIVE_OFF],
                looks=[
                    Look("covered", f"Covered: {run.cover}", "", "so"),
                    *(
                        [Look("hole", f"In the hole: {run.hole_fit}", "", "so")]
                        if run.hole_mm
                        else []
                    ),
                ],
                minutes=1.0,
            )


def _hazards(run: Run) -> list[str]:
    hazards = [EDGES.get(name, f"a {name}") for name in run.passes if name != "bulkhead"]
    return hazards + (["a bulkhead"] if run.hole_mm or "bulkhead" in run.passes else [])

"""What may share a fuse, and what must not: lamps of which all must not go dark at once, engine
electronics beside comfort, and what people plug in beside what keeps them safe."""

from collections.abc import Iterator
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.finding import Finding, Mend
from circuitry.reach.paths import paths_of
from circuitry.recipes.protection import ways
from circuitry.sizing.result import Sizing

DIPPED = ("Dipped beam", "Headlamp LED", "H4 dipped", "H7", "H11")
STOP = ("Stop lamp", "High stop", "Trailer stop")
PLUGGED = ("Power socket", "USB charger", "Radio", "Amplifier", "Inverter")
MOST_NAMED = 4


def sharing_findings(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """Loads behind one fuse that should not fail together."""
    headlamps = [row for row in sizing.build.parts_of_kind("load") if _is(row, *DIPPED)]
    for fuse, loads in _behind_each(sizing).items():
        yield from _all_headlamps(headlamps, fuse, loads)
        yield from _stop_lamps(original, sizing, fuse, loads)
        yield from _engine_with_comfort(sizing, fuse, loads)
        yield from _plugged_with_safety(sizing, fuse, loads)


@dataclass(frozen=True)
class Guard:
    """A fuse, or a channel of a module: its part, its name, and what tells it from others."""

    id: str
    name: str
    about: str


def _behind_each(sizing: Sizing) -> dict[Guard, list[Part]]:
    """The loads for which each fuse, or channel of a module, is the last on their way."""
    behind: dict[Guard, list[Part]] = {}
    parts = sizing.build.parts
    for row in sizing.loads.values():
        last = [
            step
            for step in row.path.feed
            if step.kind == "fuse" or (step.kind == "output" and parts[step.owner].kind == "module")
        ][-1:]
        for step in last:
            part, channel = parts[step.owner], step.to_terminal.name
            guard = (
                Guard(part.id, part.name, part.id)
                if step.kind == "fuse"
                else Guard(part.id, f"{part.name}, {channel}", f"{part.id}.{channel}")
            )
            behind.setdefault(guard, []).append(parts[row.load])
    return behind


def _is(load: Part, *words: str) -> bool:
    return any(word in (load.catalogue or "") for word in words)


def _criticality(build: Build, load: Part) -> str:
    circuit = build.circuits.get(load.circuit or "")
    return circuit.criticality if circuit else "comfort"


def _named(loads: list[Part]) -> str:
    names = [load.name for load in loads]
    more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return ", ".join(names[:MOST_NAMED]) + more


def _all_headlamps(every: list[Part], fuse: Guard, loads: list[Part]) -> Iterator[Finding]:
    here = [row for row in loads if _is(row, *DIPPED)]
    if len(every) > 1 and len(here) == len(every):
        yield Finding(
            "headlamps-share",
            "look",
            (fuse.id, *(row.id for row in here)),
            here[0].circuit,
            f"{fuse.name} alone keeps the road lit",
            _named(here),
            "left and right on fuses of their own",
            "One fuse parts, and the car is dark at speed. Give each side its own where there are "
            "ways for it.",
            about=fuse.about,
        )


def _stop_lamps(
    original: Build, sizing: Sizing, fuse: Guard, loads: list[Part]
) -> Iterator[Finding]:
    stops = [row for row in loads if _is(row, *STOP)]
    own = {row.circuit for row in stops}
    others = [row for row in loads if stops and not _is(row, *STOP) and row.circuit not in own]
    if not others:
        return
    yield Finding(
        "stop-lamps-share",
        "look",
        (fuse.id, *(row.id for row in stops)),
        stops[0].circuit,
        f"The stop lamps share {fuse.name}",
        f"with {_named(others)}",
        "a fuse of their own",
        "What is behind it parts the fuse, and nobody behind you sees you brake.",
        tuple(_own_way(original, stops[0])),
        about=fuse.about,
    )


def _own_way(build: Build, load: Part) -> Iterator[Mend]:
    """A free way of a panel that is live with the key off, for the circuit of a load."""
    circuit = build.circuits.get(load.circuit or "")
    if circuit is None:
        return
    for row in ways(build, paths_of(build)):
        if row.fuse is None and row.key == "always":
            panel = build.parts[row.panel].name
            operation = {
                "op": "move_circuit",
                "circuit": circuit.id,
                "panel": row.panel,
                "way": row.way,
            }
            yield Mend(f"Move {circuit.name} to {row.way} of {panel}", (operation,))
            return


def _engine_with_comfort(sizing: Sizing, fuse: Guard, loads: list[Part]) -> Iterator[Finding]:
    rows = catalogue().loads
    engine = [
        row for row in loads if rows[row.catalogue or ""].group == "engine" or _is(row, "Fuel pump")
    ]
    comfort = [
        row
        for row in loads
        if row not in engine
        and row.circuit not in {load.circuit for load in engine}
        and rows[row.catalogue or ""].criticality == "comfort"
    ]
    if engine and comfort:
        yield Finding(
            "engine-shares",
            "look",
            (fuse.id, *(row.id for row in engine)),
            engine[0].circuit,
            f"{_named(engine)} share {fuse.name} with comfort",
            f"with {_named(comfort)}",
            "a fuse of its own",
            "A radio that parts the fuse stops the engine.",
            about=fuse.about,
        )


def _plugged_with_safety(sizing: Sizing, fuse: Guard, loads: list[Part]) -> Iterator[Finding]:
    plugged = [row for row in loads if _is(row, *PLUGGED)]
    safety = [row for row in loads if _criticality(sizing.build, row) == "safety"]
    if plugged and safety:
        yield Finding(
            "sockets-share",
            "look",
            (fuse.id, *(row.id for row in plugged)),
            plugged[0].circuit,
            f"{_named(plugged)} share {fuse.name} with what keeps you safe",
            f"with {_named(safety)}",
            "a fuse of their own",
            "Nobody knows what will be plugged in. It must not take a lamp or wiper with it.",
            about=fuse.about,
        )

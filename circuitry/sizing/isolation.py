"""What an isolator leaves live, and what it takes away that should stay."""

from collections.abc import Iterator

from circuitry.design.model import Build, Part
from circuitry.design.state import State
from circuitry.errors import UnusableInput
from circuitry.finding import Finding
from circuitry.network.network import Solution
from circuitry.sizing.result import Sizing

LIVE_V = 1.0
STAYS_LIVE = ("second battery", "solar panel")
KEEPS = ("Memory feed", "Alarm", "Control box memory", "Radio memory", "Clock")
"""Loads that may stay live with the isolator off, and that lose something when they do not."""


def isolation_findings(sizing: Sizing) -> Iterator[Finding]:
    """For each isolator what is still live behind it, and which memories it cuts."""
    for isolator in sizing.build.parts_of_kind("isolator"):
        try:
            solution = sizing.network.solve(State("run", {isolator.id: _off(isolator)}))
        except UnusableInput:
            continue
        yield from _still_live(sizing, isolator, solution)
        yield from _cut_memories(sizing, isolator, solution)


def _off(isolator: Part) -> str:
    """The position in which an isolator joins least."""
    positions = isolator.contacts.positions if isolator.contacts else ()
    named = next((row.name for row in positions if row.name == "off"), None)
    return named or min(positions, key=lambda row: len(row.joins)).name


def _still_live(sizing: Sizing, isolator: Part, solution: Solution) -> Iterator[Finding]:
    build = sizing.build
    in_series = {part.id for part in build.parts_of_kind("battery", "isolator")}
    # sources of their own, of which their recipes say that they stay live
    beside = {part.circuit for part in build.parts_of_kind(*STAYS_LIVE)} - {None}
    live = []
    for wire in build.wires.values():
        ends = (wire.from_terminal, wire.to_terminal)
        volts = max(abs(solution.terminal_v[build.lands(end)] or 0.0) for end in ends)
        before = {end.part for end in ends} <= in_series
        kept = wire.circuit in beside or any(
            _keeps(build, load) for load in build.loads_of(wire.circuit or "")
        )
        if volts > LIVE_V and not before and not kept:
            live.append(wire)
    if live:
        labels = ", ".join(wire.label for wire in live[:5])
        more = f" and {len(live) - 5} more" if len(live) > 5 else ""
        yield Finding(
            "live-past-isolator",
            "look",
            (isolator.id, *(wire.id for wire in live)),
            isolator.circuit,
            f"{isolator.name} does not cut everything off",
            f"{labels}{more} stay live with it off",
            "only alarm and memory",
            "Who turns it off before working, or after a crash, takes the car for dead. Lead "
            "these wires from behind it.",
            about=isolator.id,
        )


def _keeps(build: Build, load: Part) -> bool:
    return any(word in (load.catalogue or "") for word in KEEPS)


def _cut_memories(sizing: Sizing, isolator: Part, solution: Solution) -> Iterator[Finding]:
    build = sizing.build
    cut = [
        load
        for load in build.parts_of_kind("load")
        if _keeps(build, load)
        and load.id in sizing.loads
        and abs(solution.loads[load.id].volts) < LIVE_V
    ]
    if cut:
        yield Finding(
            "memory-cut",
            "note",
            (isolator.id, *(load.id for load in cut)),
            isolator.circuit,
            f"{isolator.name} cuts {', '.join(load.name for load in cut[:4])}",
            "dead with it off",
            "live, if you want it to be",
            "Clock, settings and alarm are lost each time. A wire of their own from the battery's "
            "post, with a 3 A fuse at the post, keeps them.",
            about=isolator.id,
        )

"""Everything that may be wrong with a car, by how likely it is."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from itertools import product

from circuitry.bench.dealt import LIKELY
from circuitry.bench.faults import KINDS, Fault, can_have, others_for, said
from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State, position_of
from circuitry.devices import switches_of
from circuitry.devices.electronics import logic_of, supply_of
from circuitry.devices.load import rated_current_a
from circuitry.reach.paths import paths_of

JOINTS_OHM = ((0.5, 0.2), (2.0, 0.6), (15.0, 0.2))
"""How bad joints are, and how many of them; typical."""
BY_LOOK_ALONE = ("wrong fuse",)
"""What changes nothing until something else goes wrong: one suspect for all that it can be."""
TOUCHED = 5.0
"""How much likelier a fault is at what was worked on since the car was last right."""
OLD = 2.0
"""How much likelier a fault is in what was kept from the donor."""
MISDRAWN = ("swapped pins", "wrong plug")
"""What a car that is wired right shows too, where its diagram has it otherwise."""
CLOSE_AMPS = 1.25
COIL_VISITS = 4000


@dataclass(frozen=True)
class Suspect:
    """A fault that the car may have, and its weight against the others before anything is seen;
    ``beside`` it there may be another, where one alone does not explain what is amiss."""

    fault: Fault
    weight: float
    beside: Fault | None = None

    @property
    def of(self) -> str:
        """The part or wire that has it."""
        return self.fault.of

    @property
    def faults(self) -> tuple[Fault, ...]:
        """The one, or both."""
        return (self.fault,) if self.beside is None else (self.fault, self.beside)


def suspects(
    build: Build,
    touched: Collection[str] = (),
    missing: Collection[str] = (),
    near: Collection[str] = (),
) -> list[Suspect]:
    """The single faults of a build. ``touched`` are parts and wires that were worked on since it
    was last right; what is ``missing`` is known to be and is no fault. Wires that have worn into
    each other are many: only those at the wires of ``near``."""
    total = sum(LIKELY.get(kind, 1) for kind in KINDS)
    found: list[Suspect] = []
    for kind in KINDS:
        share = LIKELY.get(kind, 1) / total
        things = [name for name, _ in can_have(build, kind) if name not in missing]
        for name in things:
            each = share / len(things) * _own(build, name, touched)
            found += [
                Suspect(fault, each * part) for fault, part in _faults(build, kind, name, near)
            ]
    return found


def _own(build: Build, name: str, touched: Collection[str]) -> float:
    """How much likelier than usual a fault is at a thing."""
    part = build.parts.get(name)
    kept = part is not None and part.state in ("keep", "adapt")
    return (TOUCHED if name in touched else 1.0) * (OLD if kept else 1.0)


def _faults(
    build: Build, kind: str, name: str, near: Collection[str]
) -> Iterator[tuple[Fault, float]]:
    """The faults of a kind at a thing, each with its share."""
    others = others_for(build, kind, name)
    share = 1 / max(len(others), 1)
    if kind == "bad joint":
        for ohm, some in JOINTS_OHM:
            yield Fault(kind, name, ohm=ohm), some
        return
    if kind in BY_LOOK_ALONE:
        yield Fault(kind, name, others[0] if others else ""), 1.0
        return
    if kind == "short to wire":
        others = [other for other in others if name in near or other in near]
    if kind == "wrong lamp":
        others = unlike(build, name, others)
        share = 1 / max(len(others), 1)
    if kind == "lamps exchanged":
        others = [other for other in others if name in near or other in near]
    if KINDS[kind].others is not KINDS["open wire"].others and not others:
        return
    for other in others or [""]:
        yield Fault(kind, name, other), share


def unlike(build: Build, name: str, lamps: Collection[str]) -> list[str]:
    """Of lamps that may be fitted in place of another one of each current that is not its own."""
    lamp = build.parts[name]
    own_a = rated_current_a(lamp)
    rows: list[tuple[float, str]] = sorted(
        (rated_current_a(replace(lamp, catalogue=other, figures={})), other) for other in lamps
    )
    found: list[tuple[float, str]] = []
    for amps, other in rows:
        like = own_a / CLOSE_AMPS < amps < own_a * CLOSE_AMPS
        if not like and (not found or amps > CLOSE_AMPS * found[-1][0]):
            found.append((amps, other))
    return [other for _, other in found]


def concerned(build: Build, load: Part, state: State) -> set[str]:
    """The parts and wires that can make a load go wrong in a state by themselves: those on its way
    and back, of its circuit, of what switches it, and of the coils and boxes on its way; and those
    that can blow a fuse of it."""
    paths = paths_of(build)
    given = {part.id: position_of(part, state) for part in switches_of(build)}
    way = paths.to_load(load, given)
    found = {load.id} | ({step.owner for step in way.steps} if way else set())
    waiting = [load, *(build.parts[name] for name in found if name in build.parts)]
    waiting = [part for part in waiting if part is load or _is_asked(part)]
    while waiting:
        part = waiting.pop()
        owners = _on_way(build, part)
        for name in owners - found:
            other = build.parts.get(name)
            if other is not None and _is_asked(other):
                waiting.append(other)
        found |= owners
    levers = set(paths.concerning((load.id,)))
    found |= levers
    if load.circuit is not None:
        found |= {part.id for part in build.parts.values() if part.circuit == load.circuit}
        found |= {wire.id for wire in build.wires.values() if wire.circuit == load.circuit}
    for name in levers & build.parts.keys():
        found |= _on_way(build, build.parts[name])
    for name in list(found):
        if name in build.parts and build.parts[name].kind == "fuse":
            for step in paths.behind(Terminal(name, "out")):  # and what hangs there, as a coil
                found |= {step.owner, step.from_terminal.part, step.to_terminal.part}
    return found


ELECTRONIC = ("module", "box", "flasher", "keypad")


def _is_asked(part: Part) -> bool:
    """Whether a part on a way has a way of its own that decides."""
    return part.kind == "relay" or part.kind in ELECTRONIC


def _on_way(build: Build, part: Part) -> set[str]:
    """What lies on the easiest ways of a part to both posts of the battery."""
    paths = paths_of(build)
    found = {part.id}
    if part.kind == "load":
        path = paths.to_load(part)
        return found | ({step.owner for step in path.steps} if path else set())
    if part.kind == "relay":
        ways = paths.ways(Terminal(part.id, "86"), Terminal(part.id, "85"), COIL_VISITS).each
        return found | {step.owner for way in ways[:1] for step in way.steps}
    ends = {
        end
        for wire in build.wires.values()
        for end in (wire.from_terminal, wire.to_terminal)
        if end.part == part.id
    }
    found |= {
        wire.id for wire in build.wires.values() if ends & {wire.from_terminal, wire.to_terminal}
    }
    if part.kind in ELECTRONIC:
        feeds = {feed for feed in (supply_of(part), logic_of(part)) if feed}
        grounds = {end for end in ends if paths.lands(end) in paths.grounded}
        ends = {Terminal(part.id, name) for name, _ in feeds} | grounds
    for end, steps in product(ends, (paths.feeding, paths.grounding)):
        at = paths.lands(end)
        while (step := steps.get(at)) is not None:
            found.add(step.owner)
            at = step.from_terminal
    return found


def concerns(fault: Fault, things: Collection[str]) -> bool:
    """Whether a fault touches any of these things."""
    return fault.of in things or fault.other in things or fault.other.partition(".")[0] in things


def called(build: Build, suspect: Suspect, of: str = "") -> str:
    """A suspect in words; of two faults only the one ``of`` this part or wire, where it is asked
    for: the other is a suspect of its own."""
    words = [_called(build, fault) for fault in suspect.faults if of in ("", fault.of)]
    alone = len(words) == len(suspect.faults)
    return ", and beside it ".join(words) if alone else f"{words[0]}, beside another fault"


def _called(build: Build, fault: Fault) -> str:
    """A fault in words; where an old loom is kept, its diagram may be what is wrong."""
    words = said(build, fault)
    part = build.parts.get(fault.of)
    if fault.ohm is not None:
        return f"{words}, about {fault.ohm:g}\N{NO-BREAK SPACE}Ω"
    if fault.kind in MISDRAWN and part is not None and part.state in ("keep", "adapt"):
        return f"{words}, or its diagram is wrong there"
    return words

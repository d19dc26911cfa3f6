"""A drafted wiring as it is told before it is written: each load with what it sits behind and why,
what the whole takes, and what it comes to once it is sized."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.routes import length_m
from circuitry.devices import is_switch, switches_of
from circuitry.devices.contact_tables import TABLES
from circuitry.devices.load import rated_current_a
from circuitry.devices.module import channel_bears_a
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Path, Step
from circuitry.recipes.protection import KEY_WORDS, fuse_output
from circuitry.recipes.regroup import Guard, guard_of
from circuitry.sizing import Sizing, loom

HAZARD_TABLES = (TABLES["Hazard switch"], TABLES["Hazard switch with stop"])
"""At rest in what is told of a lamp: what works it otherwise says more."""


@dataclass(frozen=True)
class Branch:
    """One load of a draft: what it sits behind and why there, what works it, and the wire to it.

    ``at`` is the terminal behind what guards it."""

    load: str
    fuse: str
    worked_by: tuple[str, ...]
    relay: str
    key: str
    length_m: float
    why: str = ""
    id: str = ""
    at: str = ""


@dataclass(frozen=True)
class Alive:
    """A function of which a draft asks whether it lives with the key off, and whether it does."""

    recipe: str
    title: str
    is_alive: bool


@dataclass(frozen=True)
class DraftStep:
    """One function of a draft: its loads, why it is wired so, what the list lacks for it.

    ``problem`` says why nothing of it is written; ``left_out`` that the builder wants none of it.
    """

    id: str
    title: str
    why: str
    circuits: tuple[str, ...] = ()
    branches: tuple[Branch, ...] = ()
    proposed: tuple[str, ...] = ()
    problem: str = ""
    left_out: bool = False


@dataclass(frozen=True)
class Dark:
    """What goes dark when one protection opens."""

    fuse: str
    loads: tuple[str, ...]


@dataclass(frozen=True)
class Draft:
    """A drafted build and what it takes beyond the one before.

    ``ways_free`` of ``ways`` are left in the panels; ``darkest`` are the protections behind which
    most loads sit. ``keeps`` says that something of the list is to be kept; ``guards`` are what
    loads can be put behind. ``beside`` is what it asks for beside the wiring.
    """

    build: Build
    steps: tuple[DraftStep, ...]
    counts: Mapping[str, int]
    wires: int
    length_m: float
    ways: int
    ways_free: int
    ways_added: int
    darkest: tuple[Dark, ...]
    alive: tuple[Alive, ...]
    keeps: bool
    guards: tuple[Guard, ...]
    beside: tuple[str, ...]


class Telling:
    """Tells of each load of a drafted build what it sits behind and why."""

    def __init__(self, build: Build, moved: Collection[str] = ()) -> None:
        """``moved`` are the loads that the builder has put where they are."""
        self._build, self._moved = build, moved
        self._behind = _behind(build)
        self._calm = {
            part.id: part.contacts.positions[0].name
            for part in switches_of(build)
            if part.contacts in HAZARD_TABLES
        }

    def branches(self, step: DraftStep, loads: Iterable[str]) -> tuple[Branch, ...]:
        """The loads of a step in the order of the build; where none of it is written, their names
        alone."""
        bare = step.left_out or bool(step.problem)
        ordered = sorted(loads, key=list(self._build.parts).index)
        return tuple(self._branch(self._build.parts[load], bare) for load in ordered)

    def _branch(self, load: Part, bare: bool) -> Branch:
        paths = paths_of(self._build)
        path = None if bare else paths.to_load(load, self._calm) or paths.to_load(load)
        if path is None:
            return Branch(load.name, "", (), "", "", 0.0, id=load.id)
        parts = self._build.parts
        owners = dict.fromkeys(step.owner for step in path.feed)
        on_way = [parts[owner] for owner in owners if owner in parts]
        guards = (step for step in path.feed if step.kind in ("fuse", "output"))
        fuses = [self._guard(step) for step in guards if step.owner in parts]
        switches = [parts[row] for row in path.positions if row in parts and is_switch(parts[row])]
        key = next((path.positions[row.id] for row in switches if row.kind == "key switch"), "")
        own = {
            step.owner
            for step in path.steps
            if step.kind == "wire" and self._build.wires[step.owner].circuit == load.circuit
        }
        return Branch(
            load.name,
            fuses[-1] if fuses else "",
            tuple(
                row.name
                for row in switches
                if row.kind not in ("key switch", "isolator") and row.id not in self._calm
            ),
            next((part.name for part in on_way[::-1] if part.kind == "relay"), ""),
            key or "always",
            sum(length_m(self._build, self._build.wires[wire]) for wire in own),
            self._why_here(load, path),
            load.id,
            str(guard_of(self._build, load) or ""),
        )

    def _why_here(self, load: Part, path: Path) -> str:
        """Why a load sits behind the fuse or channel that it does."""
        guards = [step for step in path.feed if step.kind in ("fuse", "output")]
        guard = self._build.parts.get(guards[-1].owner) if guards else None
        if guard is None:
            return "Straight from the battery: no fuse bears what it takes."
        amps = rated_current_a(load)
        shared = self._behind.get((guard.id, guards[-1].to_terminal), [])
        others = [name for name in shared if name != load.name]
        together = f" It shares it with {', '.join(others)}." if others else " It has it alone."
        if load.id in self._moved:
            return f"You put it there.{together}"
        if guard.kind == "module":
            channel = guards[-1].to_terminal.name
            bears_a = channel_bears_a(guard, channel)
            return (
                f"{guard.name} is the module beside it; {channel} is the least channel left there "
                f"that bears {amps:.1f} A for ever and its start: {bears_a:g} A.{together}"
            )
        if guard.fitted is None:
            return f"A fuse of its own in the wire, beside what feeds it.{together}"
        live = KEY_WORDS[paths_of(self._build).key_needed(fuse_output(guard)) or "always"]
        panel = self._build.parts[guard.fitted.panel].name
        return f"{guard.fitted.way} of {panel} was free and is live {live}.{together}"

    def _guard(self, step: Step) -> str:
        part = self._build.parts[step.owner]
        return part.name if step.kind == "fuse" else f"{part.name}, {step.to_terminal.name}"


@dataclass(frozen=True)
class ToLookAt:
    """A finding that a draft would bring."""

    severity: str
    title: str


@dataclass(frozen=True)
class Bill:
    """What a sized draft comes to: sizes of wire, copper and the whole loom in kg, where most is
    lost, what is to be looked at, and the wire to each load by its id."""

    sizes: int
    copper_kg: float
    mass_kg: float
    most_lost_v: float
    most_lost_at: str
    findings: tuple[ToLookAt, ...]
    wires: Mapping[str, str]


def bill(sizing: Sizing) -> Bill:
    """What a sized draft comes to."""
    lost = {row.load: row.drop_v for row in sizing.loads.values() if row.drop_v is not None}
    worst = max(lost, key=lambda load: lost[load], default="")
    figures = loom(sizing)
    return Bill(
        len(figures.metres),
        figures.copper_kg,
        figures.mass_kg,
        lost.get(worst, 0.0),
        sizing.build.parts[worst].name if worst else "",
        tuple(
            ToLookAt(row.severity, row.title) for row in sizing.findings if row.severity != "note"
        ),
        {row.load: sizing.wires[row.wire].size for row in sizing.loads.values() if row.wire},
    )


def _behind(build: Build) -> dict[tuple[str, Terminal], list[str]]:
    """The names of the loads behind each fuse and channel, by its part and where it leads on."""
    behind: dict[tuple[str, Terminal], list[str]] = {}
    for load in build.parts_of_kind("load"):
        path = paths_of(build).to_load(load) if load.circuit else None
        guards = [s for s in path.feed if s.kind in ("fuse", "output")] if path else []
        if guards:
            at = guards[-1].owner, guards[-1].to_terminal
            behind.setdefault(at, []).append(load.name)
    return behind


def darkest(build: Build, most: int = 3) -> tuple[Dark, ...]:
    """The protections behind which most loads sit alone, the worst first."""
    behind: dict[str, list[str]] = {}
    for load in build.parts_of_kind("load"):
        path = paths_of(build).to_load(load) if load.circuit else None
        fuses = [step.owner for step in path.feed if step.kind == "fuse"] if path else []
        if fuses:
            behind.setdefault(fuses[-1], []).append(load.name)
    ranked = sorted(behind.items(), key=lambda row: -len(row[1]))
    return tuple(Dark(build.parts[fuse].name, tuple(names)) for fuse, names in ranked[:most])

"""The states to design for: for each key position, everything on that can be on at once."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.design.state import State, Supply, position_of
from circuitry.devices import switches_of
from circuitry.devices.load import rated_current_a
from circuitry.progress import report, told
from circuitry.reach.paths import Paths, paths_of, state_of
from circuitry.reach.ways import Path

MOST_NAMED = 4
CHARGES = ("alternator", "converter", "solar panel")
CHARGING = {"engine_rpm": 6000.0, "daylight_percent": 100.0}
"""What charges a battery, and what lets it give its most."""
DESIGN_SUPPLIES = (Supply(12.0, 1e-4), Supply(14.4, 1e-4))
"""Engine off and engine running: a wire answers for the worse."""
KEYS_FULLEST_FIRST = ("run", "accessory", "crank", "off")


@dataclass(frozen=True)
class DesignState:
    """One combination of key and switches, and the loads it energises with their paths.

    ``road`` names the road state in which drop is judged, with what is on anyway and one circuit
    at full; it is empty where the state is there for the currents. One without paths is there for
    the currents in it alone: some part carries most there.
    """

    state: State
    paths: Mapping[str, Path]
    road: str = ""

    @property
    def heats(self) -> bool:
        """Whether it is there for the currents in it alone."""
        return not self.paths and self is not AT_REST[0]


AT_REST = (DesignState(State(), {}),)


@dataclass(frozen=True)
class Reach:
    """All design states, at least one, and the easiest way to each load (None: there is none).

    ``fullest`` are the states of each key position with most on, what can be on together in each.
    ``unsearched`` are loads for which a search gave up, so that a way to them may be missing here.
    ``alive`` are the loads of each key position with a way to each, starters included.
    """

    states: tuple[DesignState, ...]
    easiest: Mapping[str, Path | None]
    fullest: tuple[State, ...]
    unsearched: frozenset[str] = frozenset()
    alive: Mapping[str, Mapping[str, Path]] = field(default_factory=dict)


def reach(build: Build) -> Reach:
    """Find a way to each load, then unite what can be on together.

    Positions of one switch exclude each other. While cranking only what lives in no other key
    position is switched on. In each key position the loads are united in
    order of their current; what conflicts starts a union of its own, so that each load is
    energised in at least one state. Starters turn alone.
    """
    paths = paths_of(build)
    loads = sorted(build.parts_of_kind("load"), key=rated_current_a, reverse=True)
    easiest = {load.id: paths.to_load(load) for load in told("Looking for ways", loads)}
    starters = {load.id: path for load in loads if starts(load) and (path := easiest[load.id])}
    cranking = unite(build, paths, starters)
    unsearched = {load.id for load in loads if paths.gave_up(load)}
    lasting = [load for load in loads if not starts(load)]
    keys = build.parts_of_kind("key switch")
    if not keys:
        alive = {load.id: path for load in lasting if (path := easiest[load.id])}
        states = unite(build, paths, alive)
        everywhere = {key: {**alive, **starters} for key in KEYS_FULLEST_FIRST}
        return Reach(
            (*states, *cranking) or AT_REST,
            easiest,
            tuple(row.state for row in states),
            frozenset(unsearched),
            everywhere,
        )
    states = []
    fullest = []
    by_key: dict[str, Mapping[str, Path]] = {}
    for position in KEYS_FULLEST_FIRST:
        every = _alive(paths, loads, easiest, keys[0].id, position)
        by_key[position] = every
        alive = {load.id: every[load.id] for load in lasting if load.id in every}
        given = {keys[0].id: position}
        unsearched |= {
            row.id for row in lasting if row.id not in alive and paths.gave_up(row, given)
        }
        united = unite(build, paths, alive)
        if position == "crank":
            alive = {load: path for load, path in alive.items() if _needs(easiest[load], position)}
        fullest += [row.state for row in united if not _shorted(build, paths, row)] or [
            State(position)
        ]
        if position == "off":
            # with less on, less is lost in the trunk: what is always live takes most with key off
            states += united[:1]
        for state in unite(build, paths, alive) if position == "crank" else united:
            if not any(_within(state, other) for other in states):
                states.append(state)
    states = [state for state in states if not _shorted(build, paths, state)]
    if build.parts_of_kind(*CHARGES):
        states.append(DesignState(State("run", values=CHARGING), {}))
    return Reach(
        (*states, *cranking) or AT_REST, easiest, tuple(fullest), frozenset(unsearched), by_key
    )


def apart(build: Build, reached: Reach, dark: Collection[str]) -> Reach:
    """The design states and more, for loads that the solver finds dark in all of them.

    They have a way over a relay at rest whose coil something else in their state feeds, such as
    fog lamps locked out by main beam.
    """
    alone = {load: path for load in dark if (path := reached.easiest[load])}
    return replace(reached, states=(*reached.states, *unite(build, paths_of(build), alone)))


def starts(load: Part) -> bool:
    """Whether a load is a starter, which turns for seconds."""
    return catalogue().loads[load.catalogue or ""].kind == "starter"


def _needs(path: Path | None, key: str) -> bool:
    return path is not None and key in path.positions.values()


def _shorted(build: Build, paths: Paths, state: DesignState) -> bool:
    """Whether battery positive meets negative in a state; such a state sizes nothing."""
    if paths.short() is None:
        return False
    positions = {part.id: position_of(part, state.state) for part in switches_of(build)}
    return paths.short(positions) is not None


def _alive(
    paths: Paths, loads: list[Part], easiest: Mapping[str, Path | None], key: str, position: str
) -> dict[str, Path]:
    alive = {}
    for load in told(f"Looking for ways with the key at {position}", loads):
        path = easiest[load.id]
        if path is None:
            continue
        if path.positions.get(key, position) != position:
            path = paths.to_load(load, {key: position})
        if path is not None:
            positions = {**path.positions, key: position}
            alive[load.id] = Path(path.feed, path.back, positions)
    return alive


def unite(
    build: Build,
    paths: Paths,
    alive: Mapping[str, Path],
    wanted: Collection[str] | None = None,
    road: str = "",
) -> list[DesignState]:
    """States in which all that are wanted are on, each with what else can be on beside them."""
    states = []
    waiting = [load for load in alive if wanted is None or load in wanted]
    many = len(waiting)
    while waiting:
        report("Putting together what can be on at once", 1 - len(waiting) / many)
        positions: dict[str, str] = {}
        together: dict[str, Path] = {}
        for load in [*waiting, *(load for load in alive if load not in waiting)]:
            path: Path | None = alive[load]
            if path and any(positions.get(part, at) != at for part, at in path.positions.items()):
                path = _another_way(paths, build.parts[load], alive[load], positions)
            if path is not None:
                positions.update(path.positions)
                together[load] = path
        waiting = [load for load in waiting if load not in together]
        states.append(DesignState(state_of(build, positions), together, road))
    return states


def _another_way(
    paths: Paths, load: Part, usual: Path, positions: Mapping[str, str]
) -> Path | None:
    """A way to a load with these positions as they are, naming only those that matter to it."""
    found = paths.to_load(load, positions)
    if found is None:
        return None
    needs = {
        part: at
        for part, at in found.positions.items()
        if part in usual.positions or part not in positions
    }
    return Path(found.feed, found.back, needs)


def _within(state: DesignState, other: DesignState) -> bool:
    """Whether everything that is on in one state is on, by the same way, in the other."""
    return all(
        load in other.paths and other.paths[load].steps == path.steps
        for load, path in state.paths.items()
    )


def in_words(build: Build, state: State) -> str:
    """The state as the builder would say it: ``key run, light switch head``."""
    return Words(build, state).said()


class Words:
    """A state as the builder would say it, whole or with only the switches that matter."""

    def __init__(self, build: Build, state: State) -> None:
        self._key = [f"key {state.key}"] if build.parts_of_kind("key switch") else []
        self._switches: dict[str, str] = {}
        for part_id, position in state.switches.items():
            part = build.parts[part_id]
            if part.contacts and position != part.contacts.positions[0].name:
                self._switches[part_id] = f"{part.name.lower()} {position}"
        self._rank = {part_id: rank for rank, part_id in enumerate(self._switches)}

    def said(self, mattering: Collection[str] | None = None) -> str:
        """Key and switches away from rest; ``mattering`` leaves out others, many are counted."""
        shown = self._switches if mattering is None else self._switches.keys() & set(mattering)
        switches = [self._switches[part] for part in sorted(shown, key=self._rank.__getitem__)]
        if len(switches) > MOST_NAMED:
            switches = [f"{len(switches)} switches on"]
        return ", ".join([*self._key, *switches]) or "everything at rest"

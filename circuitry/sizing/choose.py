"""One round of choosing: fuses by headroom, wires by what they must carry and by drop."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.build.model import Build, Part, Wire
from circuitry.build.routes import length_m, places_passed, way_of
from circuitry.catalogue import Conductor, Fuse, catalogue
from circuitry.network.network import Solution, conductor_ohm
from circuitry.network.paths import Paths
from circuitry.recipes.protection import fuse_output
from circuitry.sizing.ampacity import (
    GROUPING_COUNTS_FROM,
    cover_factor,
    free_air_ampacity_a,
    hottest_c,
    insulation_of,
)
from circuitry.sizing.states import DesignState

LEAST_MM2 = 0.5
LEAST_ENGINE_BAY_MM2 = 0.75
FUSE_DERATING_PER_K = 0.0015
FUSE_REFERENCE_C = 25.0
TAP_LIMIT_M = 0.3
DROP_MARGIN_V = 0.001


@dataclass(frozen=True)
class Protection:
    """For each wire on the supply side the fuse nearest before it; and wires before any fuse.

    ``taps`` are short wires that lead to fuses only, with those fuses: what can go wrong behind
    them is cleared there, so they need not carry what the larger fuse before them lets pass.
    """

    fuse_of_wire: Mapping[str, str]
    unprotected: frozenset[str]
    taps: Mapping[str, tuple[str, ...]]


@dataclass(frozen=True)
class Peak:
    """The largest current of a wire or fuse, and the number of the solution that gave it."""

    current_a: float
    solution: int


@dataclass(frozen=True)
class LoadDrop:
    """The worst drop of one load: lost in all, and by each wire on its way at fixed current.

    ``wire_a`` maps the wires of the path to their current in A along it.
    """

    load: str
    solution: int
    drop_v: float
    source_v: float
    limit_percent: float
    wire_a: Mapping[str, float]

    @property
    def limit_v(self) -> float:
        """The drop to choose for, in V: a millivolt inside what is allowed."""
        return self.limit_percent / 100 * self.source_v - DROP_MARGIN_V


def protection(build: Build) -> Protection:
    """Which fuse stands nearest before each wire; raises nothing, a wire may have none."""
    paths = Paths(build)
    fuse_of_wire: dict[str, str] = {}
    ratings = {part.id: part.number("rating_a", 0) for part in build.parts_of_kind("fuse")}
    unprotected = {s.owner for s in paths.behind(paths.plus) if s.kind == "wire"}
    for fuse in sorted(build.parts_of_kind("fuse"), key=lambda part: ratings[part.id]):
        for step in paths.behind(fuse_output(fuse)):
            if step.kind == "wire" and step.owner not in unprotected:
                fuse_of_wire[step.owner] = fuse.id
    return Protection(fuse_of_wire, frozenset(unprotected), _taps(build, paths))


def _taps(build: Build, paths: Paths) -> dict[str, tuple[str, ...]]:
    taps = {}
    for wire in build.wires.values():
        if length_m(build, wire) > TAP_LIMIT_M + 1e-9:
            continue
        for end in (wire.from_terminal, wire.to_terminal):
            onward = [edge.step for edge in paths.edges[end] if edge.step.owner != wire.id]
            if onward and all(step.kind == "fuse" for step in onward):
                taps[wire.id] = tuple(step.owner for step in onward)
    return taps


def wire_peaks(solutions: list[Solution]) -> dict[str, Peak]:
    """The largest current of each wire over all solutions."""
    return _peaks([solution.wire_a for solution in solutions])


def fuse_peaks(solutions: list[Solution]) -> dict[str, Peak]:
    """The largest current of each fuse over all solutions."""
    return _peaks([solution.fuse_a for solution in solutions])


def _peaks(currents: list[Mapping[str, float]]) -> dict[str, Peak]:
    peaks: dict[str, Peak] = {}
    for number, amps in enumerate(currents):
        for owner, current_a in amps.items():
            if owner not in peaks or abs(current_a) > peaks[owner].current_a + 1e-9:
                peaks[owner] = Peak(abs(current_a), number)
    return peaks


def fuse_carries_a(build: Build, part: Part, row: Fuse) -> float:
    """What a fuse may carry for ever at its place: rating × headroom, −0.15 %/°C from 25 °C."""
    ambient_c = build.places[part.place].ambient_c
    derating = 1 - FUSE_DERATING_PER_K * (ambient_c - FUSE_REFERENCE_C)
    return row.rating_a * build.policy.fuse_headroom * derating


def choose_fuse_rating(build: Build, part: Part, current_a: float) -> Fuse:
    """The smallest rating of the family that carries the current; its largest when none does."""
    rows = catalogue().fuses[part.catalogue or ""]
    return next((r for r in rows if fuse_carries_a(build, part, r) >= current_a), rows[-1])


def least_area_mm2(build: Build, wire: Wire) -> float:
    """0.5 mm² generally; 0.75 in the engine bay, at doors and over moving hinges."""
    hard = any(
        place.zone.startswith("engine bay") or place.zone == "door"
        for place in places_passed(build, wire)
    ) or any("moving hinge" in run.passes for run in way_of(build, wire))
    return LEAST_ENGINE_BAY_MM2 if hard else LEAST_MM2


class Ampacities:
    """What each size carries in the place of each wire, with its neighbours of one round."""

    def __init__(self, build: Build, solutions: list[Solution], peaks: Mapping[str, Peak]) -> None:
        self.build = build
        self.free_a = {wire.id: self._single_a(wire, wire.size) for wire in build.wires.values()}
        self.factor = {
            wire_id: self._grouping(wire, solutions[peaks[wire_id].solution])
            for wire_id, wire in build.wires.items()
        }

    def carries_a(self, wire: Wire, size: str) -> float:
        """Ampacity of this size as this wire: alone, times cover, times grouping."""
        return self._single_a(wire, size) * self.factor[wire.id]

    def conductor_c(self, wire: Wire, size: str, current_a: float) -> float:
        """Working temperature: the rise goes with the square of current against ampacity."""
        ambient_c = hottest_c(self.build, wire)
        limit_c = insulation_of(self.build, wire).continuous_limit_c
        carries_a = self.carries_a(wire, size)
        if carries_a <= 0:
            return limit_c
        share = min(current_a / carries_a, 1.0)
        return ambient_c + max(limit_c - ambient_c, 0) * share**2

    def _single_a(self, wire: Wire, size: str | None) -> float:
        conductor = catalogue().conductor[size or ""]
        alone_a = free_air_ampacity_a(
            conductor, insulation_of(self.build, wire), hottest_c(self.build, wire)
        )
        return alone_a * cover_factor(self.build, wire)

    def _grouping(self, wire: Wire, solution: Solution) -> float:
        """Wires below 30 % of their own ampacity do not count (IEC 60364-5-52, 523.5)."""
        crowd = 1
        for run in way_of(self.build, wire):
            loaded = sum(
                abs(solution.wire_a[other]) > GROUPING_COUNTS_FROM * self.free_a[other]
                for other in self._wires_in(run.id)
                if other != wire.id
            )
            crowd = max(crowd, 1 + loaded)
        return catalogue().grouping_factor(crowd)

    def _wires_in(self, run: str) -> list[str]:
        if not hasattr(self, "_in_run"):
            self._in_run: dict[str, list[str]] = {}
            for wire in self.build.wires.values():
                for way in way_of(self.build, wire):
                    self._in_run.setdefault(way.id, []).append(wire.id)
        return self._in_run[run]


def load_drops(
    build: Build, states: list[DesignState], solutions: list[Solution]
) -> dict[str, LoadDrop]:
    """The worst drop of each load over the states that energise it, in % of the source."""
    worst: dict[str, LoadDrop] = {}
    for number, (state, solution) in enumerate(zip(states, solutions, strict=True)):
        for load, path in state.paths.items():
            drop_v = solution.battery_v - solution.loads[load].volts
            share = drop_v / solution.battery_v
            if load in worst and share <= worst[load].drop_v / worst[load].source_v + 1e-12:
                continue
            amps = {
                step.owner: abs(solution.wire_a[step.owner])
                for step in path.steps
                if step.kind == "wire"
            }
            limit = drop_limit_percent(build, build.parts[load])
            worst[load] = LoadDrop(load, number, drop_v, solution.battery_v, limit, amps)
    return worst


def drop_limit_percent(build: Build, load: Part) -> float:
    """The policy's limit for the class of the load's circuit."""
    circuit = build.circuits.get(load.circuit or "")
    if circuit is not None and circuit.criticality == "comfort":
        return build.policy.other_drop_percent
    return build.policy.critical_drop_percent


class WireChooser:
    """Sizes for all wires at fixed currents: the least copper that carries and drops little.

    The change in drop of a size is the solved current times the change in resistance; the
    solver confirms it in the next round. A pinned wire is sized like any other here, so that
    its neighbours are not made thick to make up for it.
    """

    def __init__(
        self,
        build: Build,
        floor: Mapping[str, str],
        drops: Mapping[str, LoadDrop],
        conductor_c: Mapping[str, float],
    ) -> None:
        self.build = build
        self.floor = floor
        self.drops = drops
        self.conductor_c = conductor_c
        self.rows = catalogue().conductors[build.policy.conductors]
        self.size = dict(floor)
        self._ohm: dict[tuple[str, str], float] = {}
        self.loads_of_wire: dict[str, list[LoadDrop]] = {}
        for drop in drops.values():
            for wire in drop.wire_a:
                self.loads_of_wire.setdefault(wire, []).append(drop)

    def choose(self) -> dict[str, str]:
        """The size of each wire by id."""
        for drop in sorted(self.drops.values(), key=lambda row: row.load):
            before = dict(self.size)
            while self.drop_v(drop) > drop.limit_v and self._grow(drop):
                pass
            if self.drop_v(drop) > drop.limit_v:
                self.size = before
        return self.trim()

    def drop_v(self, drop: LoadDrop, wire: str | None = None, size: str | None = None) -> float:
        """Drop of a load with the sizes chosen so far, one wire perhaps in another size."""
        changed_v = sum(
            amps
            * (
                self.ohm(owner, size if owner == wire and size else self.size[owner])
                - self.ohm(owner, self.build.wires[owner].size or "")
            )
            for owner, amps in drop.wire_a.items()
        )
        return drop.drop_v + changed_v

    def ohm(self, wire: str, size: str) -> float:
        """Conductor resistance of a wire in a size at its working temperature."""
        if (wire, size) not in self._ohm:
            row = self.build.wires[wire]
            self._ohm[wire, size] = conductor_ohm(self.build, row, self.conductor_c[wire], size)
        return self._ohm[wire, size]

    def _grow(self, drop: LoadDrop) -> bool:
        """Fit the next size on the wire that gains most volts for its copper; False at the end."""
        best: tuple[float, str, str] | None = None
        for wire, amps in drop.wire_a.items():
            larger = self._next(self.size[wire])
            if larger is None:
                continue
            gain_v = amps * (self.ohm(wire, self.size[wire]) - self.ohm(wire, larger.name))
            added = self._copper(wire, larger.name) - self._copper(wire, self.size[wire])
            rank = (gain_v / max(added, 1e-9), wire, larger.name)
            if gain_v > 0 and (best is None or rank > best):
                best = rank
        if best is None:
            return False
        self.size[best[1]] = best[2]
        return True

    def trim(self) -> dict[str, str]:
        """Take back what turned out not to be needed, most copper first; the sizes by id."""
        for wire in sorted(self.loads_of_wire, key=lambda w: -self._copper(w, self.size[w])):
            while self._index(self.size[wire]) > self._index(self.floor[wire]):
                smaller = self.rows[self._index(self.size[wire]) - 1].name
                if any(
                    self.drop_v(drop, wire, smaller) > max(drop.limit_v, self.drop_v(drop))
                    for drop in self.loads_of_wire[wire]
                ):
                    break
                self.size[wire] = smaller
        return self.size

    def _next(self, size: str) -> Conductor | None:
        index = self._index(size) + 1
        return self.rows[index] if index < len(self.rows) else None

    def _index(self, size: str) -> int:
        return next((n for n, row in enumerate(self.rows) if row.name == size), len(self.rows))

    def _copper(self, wire: str, size: str) -> float:
        """Copper area times resistance per area: in proportion to the volume for one wire."""
        area = catalogue().conductor[size].copper_area_mm2
        return area * area * self.ohm(wire, size)

"""One round of choosing: fuses by headroom, wires by what they must carry and by drop."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from circuitry.build.model import Build, Part
from circuitry.catalogue import Fuse, catalogue
from circuitry.network.elements import copper_factor
from circuitry.network.network import Solution
from circuitry.network.paths import TAKES_POWER, Path
from circuitry.sizing.facts import Facts
from circuitry.sizing.states import DesignState

GROUPING_COUNTS_FROM = 0.3
FUSE_DERATING_PER_K = 0.0015
FUSE_REFERENCE_C = 25.0
DROP_MARGIN_V = 0.001
CRANKING_SHARE = 1 / 3
"""What a current of 10 s counts for: within that time the copper of a wire of 6 mm² or more takes
up the heat of three times its ampacity and stays below its limit (adiabatic, 3.45 J/cm³K)."""


@dataclass(frozen=True)
class Peak:
    """The largest current of a wire or fuse, and the number of the solution that gave it.

    ``lasting_a`` is the current for ever that heats as much: cranking lasts seconds.
    """

    current_a: float
    solution: int
    lasting_a: float


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


def fuse_of_wire(build: Build, facts: Facts) -> dict[str, str]:
    """For each wire the largest fuse that stands next before it; a wire may have none."""
    before: dict[str, str] = {}
    fuses = build.parts_of_kind("fuse")
    for fuse in sorted(fuses, key=lambda part: part.number("rating_a", 0)):
        for wire in facts.wires_behind[fuse.id]:
            if wire not in facts.unprotected:
                before[wire] = fuse.id
    return before


def wire_peaks(states: list[DesignState], solutions: list[Solution]) -> dict[str, Peak]:
    """The largest current of each wire over all solutions."""
    return _peaks(states, [solution.wire_a for solution in solutions])


def fuse_peaks(states: list[DesignState], solutions: list[Solution]) -> dict[str, Peak]:
    """The largest current of each fuse over all solutions."""
    return _peaks(states, [solution.fuse_a for solution in solutions])


def _peaks(states: list[DesignState], currents: list[Mapping[str, float]]) -> dict[str, Peak]:
    most: dict[str, tuple[float, int]] = {}
    lasting_a: dict[str, float] = {}
    for number, (state, amps) in enumerate(zip(states, currents, strict=True)):
        share = CRANKING_SHARE if state.brief else 1.0
        for owner, signed_a in amps.items():
            current_a = abs(signed_a)
            if owner not in most or current_a > most[owner][0] + 1e-9:
                most[owner] = current_a, number
            if share * current_a > lasting_a.get(owner, -1.0):
                lasting_a[owner] = share * current_a
    return {owner: Peak(*peak, lasting_a[owner]) for owner, peak in most.items()}


def fuse_carries_a(build: Build, part: Part, row: Fuse) -> float:
    """What a fuse may carry for ever at its place: rating × headroom, −0.15 %/°C from 25 °C."""
    ambient_c = build.places[part.place].ambient_c
    derating = 1 - FUSE_DERATING_PER_K * (ambient_c - FUSE_REFERENCE_C)
    return row.rating_a * build.policy.fuse_headroom * derating


def choose_fuse_rating(build: Build, part: Part, current_a: float) -> Fuse:
    """The smallest rating of the family that carries the current; its largest when none does."""
    rows = catalogue().fuses[part.catalogue or ""]
    return next((r for r in rows if fuse_carries_a(build, part, r) >= current_a), rows[-1])


class Ampacities:
    """What each size carries in the place of each wire, with its neighbours of one round."""

    def __init__(
        self,
        facts: Facts,
        build: Build,
        solutions: list[Solution],
        peaks: Mapping[str, Peak],
    ) -> None:
        self.facts = facts
        loaded = [self._loaded(build, solution) for solution in solutions]
        self.factor = {
            wire: self._grouping(wire, loaded[peak.solution]) for wire, peak in peaks.items()
        }

    def carries_a(self, wire: str, size: str) -> float:
        """Ampacity of this size as this wire: alone, times grouping."""
        return self.facts.alone_a(wire, size) * self.factor[wire]

    def conductor_c(self, build: Build, peaks: Mapping[str, Peak]) -> dict[str, float]:
        """Working temperatures: the rise goes with the square of current against ampacity."""
        wires, table = build.wires, self.facts.table
        carries_a = [self.carries_a(wire.id, wire.size or "") for wire in wires.values()]
        lasting_a = [peaks[wire].lasting_a for wire in wires]
        warm_c = _conductor_c(
            np.array(lasting_a), np.array(carries_a), table.hottest_c, table.limit_c
        )
        return dict(zip(wires, warm_c.tolist(), strict=True))

    def floors(self, must_a: Mapping[str, float]) -> dict[str, int]:
        """Index of the smallest size of each wire that carries what it must, whatever the drop."""
        table = self.facts.table
        factor = np.array([self.factor[wire] for wire in must_a])
        carries = table.alone_a * factor[:, None] >= np.array(list(must_a.values()))[:, None]
        fits = carries & (table.area_mm2 >= 0.99 * table.least_mm2[:, None])
        smallest = np.where(fits.any(axis=1), fits.argmax(axis=1), len(self.facts.sizes) - 1)
        return dict(zip(must_a, smallest.tolist(), strict=True))

    def hot_ohm(self, peaks: Mapping[str, Peak]) -> dict[str, list[float]]:
        """Conductor resistance of each wire at its current in each size, as warm as it would be."""
        wires, table = self.facts.wires, self.facts.table
        conductor_c = _conductor_c(
            np.array([[peaks[wire].lasting_a] for wire in wires]),
            table.alone_a * np.array([[self.factor[wire]] for wire in wires]),
            table.hottest_c[:, None],
            table.limit_c[:, None],
        )
        ohm = table.ohm_20c * copper_factor(conductor_c)
        return dict(zip(wires, ohm.tolist(), strict=True))

    def _loaded(self, build: Build, solution: Solution) -> Mapping[str, set[str]]:
        """The wires of each run that count as neighbours in a solution.

        Wires below 30 % of their own ampacity do not (IEC 60364-5-52, 523.5).
        """
        counts = {
            wire
            for wire, amps in solution.wire_a.items()
            if abs(amps)
            > GROUPING_COUNTS_FROM * self.facts.alone_a(wire, build.wires[wire].size or "")
        }
        return {run: counts.intersection(w) for run, w in self.facts.wires_in_run.items()}

    def _grouping(self, wire: str, loaded: Mapping[str, set[str]]) -> float:
        crowd = max(
            (1 + len(loaded[run]) - (wire in loaded[run]) for run in self.facts.wires[wire].runs),
            default=1,
        )
        return catalogue().grouping_factor(crowd)


def load_drops(
    build: Build, states: list[DesignState], solutions: list[Solution]
) -> dict[str, LoadDrop]:
    """The worst drop of each load over the states that energise it, in % of the source."""
    worst: dict[str, LoadDrop] = {}
    for number, (state, solution) in enumerate(zip(states, solutions, strict=True)):
        for load, path in state.paths.items():
            drop_v = solution.battery_v - solution.loads[load].volts - _taken_v(path, solution)
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


def _taken_v(path: Path, solution: Solution) -> float:
    """What resistors and fields on the way are there to take: it is no loss."""
    return sum(
        abs(
            (solution.terminal_v[step.from_terminal] or 0.0)
            - (solution.terminal_v[step.to_terminal] or 0.0)
        )
        for step in path.steps
        if step.kind in TAKES_POWER
    )


def drop_limit_percent(build: Build, load: Part) -> float:
    """The policy's limit for the class of the load's circuit."""
    circuit = build.circuits.get(load.circuit or "")
    if circuit is not None and circuit.criticality == "comfort":
        return build.policy.other_drop_percent
    return build.policy.critical_drop_percent


def _conductor_c(current_a: Any, carries_a: Any, hottest_c: Any, limit_c: Any) -> Any:
    """Temperature of a conductor; floats or arrays. The limit where nothing may be carried."""
    share = np.minimum(current_a / np.maximum(carries_a, 1e-9), 1.0)
    warm_c = hottest_c + np.maximum(limit_c - hottest_c, 0) * share**2
    return np.where(np.greater(carries_a, 0), warm_c, limit_c)


class WireChooser:
    """Sizes for all wires at fixed currents: the least copper that carries and drops little.

    The change in drop of a size is the solved current times the change in resistance; the
    solver confirms it in the next round. A pinned wire is sized like any other here, so that
    its neighbours are not made thick to make up for it.
    """

    def __init__(
        self,
        ampacities: Ampacities,
        floor: Mapping[str, int],
        drops: Mapping[str, LoadDrop],
        peaks: Mapping[str, Peak],
        fitted_ohm: Mapping[str, float],
    ) -> None:
        """``floor`` is the index of the smallest size of each wire, whatever the drop.

        ``fitted_ohm`` is the resistance of each wire's conductor with which ``drops`` were solved.
        """
        self.facts = ampacities.facts
        self.floor = floor
        self.drops = drops
        self.fitted_ohm = fitted_ohm
        self.hot_ohm = ampacities.hot_ohm(peaks) if floor else {}
        self.chosen = dict(floor)
        self.loads_of_wire: dict[str, list[LoadDrop]] = {}
        for drop in drops.values():
            for wire in drop.wire_a:
                self.loads_of_wire.setdefault(wire, []).append(drop)
        self._recount()

    def choose(self) -> None:
        """Raise from the floor what drops too much, then take back what was not needed.

        Where no size meets the limit, copper is added until half of what it could save is saved.
        """
        for drop in sorted(self.drops.values(), key=lambda row: row.load):
            before, before_v = {w: self.chosen[w] for w in drop.wire_a}, self.drop_v[drop.load]
            self._grow_until(drop, drop.limit_v)
            least_v = self.drop_v[drop.load]
            if least_v > drop.limit_v:
                for wire, index in before.items():
                    self.fit(wire, index)
                self._grow_until(drop, (before_v + least_v) / 2)
        self.trim()

    def _grow_until(self, drop: LoadDrop, limit_v: float) -> None:
        while self.drop_v[drop.load] > limit_v and self._grow(drop):
            pass

    def trim(self) -> None:
        """Take back what turned out not to be needed, most copper first."""
        self._recount()
        for wire in sorted(self.loads_of_wire, key=lambda w: -self._copper(w, self.chosen[w])):
            while self.chosen[wire] > self.floor[wire]:
                index = self.chosen[wire] - 1
                if any(
                    self.drop_with(drop, wire, index) > max(drop.limit_v, self.drop_v[drop.load])
                    for drop in self.loads_of_wire[wire]
                ):
                    break
                self.fit(wire, index)

    def fit(self, wire: str, index: int) -> None:
        """Fit a size on a wire, and follow the drop of every load on it."""
        change_ohm = self._ohm(wire, index) - self._ohm(wire, self.chosen[wire])
        for drop in self.loads_of_wire.get(wire, ()):
            self.drop_v[drop.load] += drop.wire_a[wire] * change_ohm
        self.chosen[wire] = index

    def size(self, wire: str) -> str:
        """The name of the size chosen for a wire."""
        return self.facts.sizes[self.chosen[wire]].name

    def drop_with(self, drop: LoadDrop, wire: str, index: int) -> float:
        """Drop of a load with the sizes chosen so far, but one wire in another size."""
        change_ohm = self._ohm(wire, index) - self._ohm(wire, self.chosen[wire])
        return self.drop_v[drop.load] + drop.wire_a[wire] * change_ohm

    def _recount(self) -> None:
        """Drop of each load with the sizes chosen so far."""
        self.drop_v = {
            drop.load: drop.drop_v
            + sum(
                amps * (self._ohm(wire, self.chosen[wire]) - self.fitted_ohm[wire])
                for wire, amps in drop.wire_a.items()
            )
            for drop in self.drops.values()
        }

    def _ohm(self, wire: str, index: int) -> float:
        """Conductor resistance of a wire in a size at its working temperature."""
        return self.hot_ohm[wire][index]

    def _grow(self, drop: LoadDrop) -> bool:
        """Fit the next size on the wire that gains most volts for its copper; False at the end."""
        best: tuple[float, str] | None = None
        sizes = self.facts.sizes
        for wire, amps in drop.wire_a.items():
            index = self.chosen[wire]
            if index >= self.facts.wires[wire].most:
                continue
            gain_v = amps * (self.hot_ohm[wire][index] - self.hot_ohm[wire][index + 1])
            more_mm2 = sizes[index + 1].copper_area_mm2 - sizes[index].copper_area_mm2
            length_m = self.facts.wires[wire].length_m
            rank = (gain_v / max(more_mm2 * length_m, 1e-9), wire)
            if gain_v > 0 and (best is None or rank > best):
                best = rank
        if best is None:
            return False
        self.fit(best[1], self.chosen[best[1]] + 1)
        return True

    def _copper(self, wire: str, index: int) -> float:
        """Copper in mm² m."""
        return self.facts.sizes[index].copper_area_mm2 * self.facts.wires[wire].length_m

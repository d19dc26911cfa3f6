"""One round of choosing: fuses by headroom, wires by what they must carry and by drop."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array

from circuitry.build.model import Build, Part, Terminal
from circuitry.catalogue import Fuse, catalogue
from circuitry.network.elements import copper_factor
from circuitry.network.equations import Vector
from circuitry.network.network import Network, Settled
from circuitry.network.paths import TAKES_POWER
from circuitry.sizing.facts import Facts, Matrix, Numbers
from circuitry.sizing.states import DesignState

GROUPING_COUNTS_FROM = 0.3
NEAR_MOST = 0.9
"""Of the states in which a wire carries nearly its most, the one with most beside it counts."""
FUSE_DERATING_PER_K = 0.0015
FUSE_REFERENCE_C = 25.0
LEAST_RATING_A = 3.0
"""Smaller fuses part by themselves sooner or later: they are fitted only where they are pinned."""
DROP_MARGIN_V = 0.001
ALIVE_FROM = 0.5
"""Share of the battery's voltage from which a load counts as fed."""
SAME_A = 1e-9
CLEARLY = 1 + 1e-9
"""Of wires that gain alike, the one nearest to the feed is made thicker."""
SAME_SHARE = 1e-12
LEAST = (-float("inf"), 0, 0, 0.0, 0.0)
CRANKING_SHARE = 1 / 3
"""What a current of 10 s counts for: within that time the copper of a wire of 6 mm² or more takes
up the heat of three times its ampacity and stays below its limit (adiabatic, 3.45 J/cm³K)."""


@dataclass(frozen=True)
class Peaks:
    """The largest currents of wires or fuses, and the number of the solution that gave each.

    ``lasting_a`` are the currents for ever that heat as much: cranking lasts seconds.
    """

    current_a: Vector
    solution: Numbers
    lasting_a: Vector


@dataclass(frozen=True)
class LoadDrop:
    """The worst drop of one load: lost in all, and by each wire on its way at fixed current.

    ``wires`` are the numbers of the wires on its way, ``amps`` their currents in A.
    """

    load: str
    solution: int
    drop_v: float
    source_v: float
    limit_percent: float
    wires: list[int]
    amps: list[float]

    @property
    def limit_v(self) -> float:
        """The drop to choose for, in V: a millivolt inside what is allowed."""
        return self.limit_percent / 100 * self.source_v - DROP_MARGIN_V


def peaks(signed_a: Matrix, brief: npt.NDArray[np.bool_]) -> Peaks:
    """The largest currents over all solutions, from currents by solution and wire or fuse."""
    current_a = np.abs(signed_a)
    most_a = current_a.max(axis=0)
    first = (current_a > most_a - SAME_A).argmax(axis=0)
    lasting_a = (current_a * np.where(brief, CRANKING_SHARE, 1.0)[:, None]).max(axis=0)
    return Peaks(most_a, first, lasting_a)


def fuse_carries_a(build: Build, part: Part, row: Fuse) -> float:
    """What a fuse may carry for ever at its place: rating × headroom, −0.15 %/°C from 25 °C."""
    ambient_c = build.places[part.place].ambient_c
    derating = 1 - FUSE_DERATING_PER_K * (ambient_c - FUSE_REFERENCE_C)
    return row.rating_a * build.policy.fuse_headroom * derating


def fuse_ratings(part: Part) -> tuple[Fuse, ...]:
    """The ratings to choose from for a fuse: those of its family from the least that lasts."""
    rows = catalogue().fuses[part.catalogue or ""]
    return tuple(row for row in rows if row.rating_a >= LEAST_RATING_A) or rows


class FuseChooser:
    """The smallest rating of each fuse's family that carries its current; its largest when none
    does. One that has a rating keeps it."""

    def __init__(self, build: Build) -> None:
        self._pinned: list[float | None] = []
        self._rows: list[list[tuple[float, float]]] = []
        for part in build.parts_of_kind("fuse"):
            rows = fuse_ratings(part)
            pinned = "rating_a" in part.figures
            self._pinned.append(part.number("rating_a", 0) if pinned else None)
            self._rows.append([(fuse_carries_a(build, part, row), row.rating_a) for row in rows])

    def near(self, rating_a: float) -> Vector:
        """The ratings nearest to one, to begin with."""
        return self._each(
            min((made_a for _, made_a in rows), key=lambda made_a: abs(made_a - rating_a))
            for rows in self._rows
        )

    def choose(self, current_a: Vector) -> Vector:
        """The ratings for these currents."""
        return self._each(
            next((rating_a for carries_a, rating_a in rows if carries_a >= amps), rows[-1][1])
            for rows, amps in zip(self._rows, current_a.tolist(), strict=True)
        )

    def _each(self, chosen_a: Iterable[float]) -> Vector:
        pairs = zip(self._pinned, chosen_a, strict=True)
        return np.array([chosen if own is None else own for own, chosen in pairs], dtype=float)


class Ampacities:
    """What each size carries in the place of each wire, with its neighbours of one round."""

    def __init__(self, facts: Facts, size: Numbers, signed_a: Matrix, wires: Peaks) -> None:
        """``size`` is the fitted size of each wire by its number, ``signed_a`` by solution and
        wire."""
        self.facts = facts
        table, each = facts.table, np.arange(len(size))
        # A neighbour below 30 % of its own ampacity does not count (IEC 60364-5-52, 523.5).
        counts = np.abs(signed_a) > GROUPING_COUNTS_FROM * table.alone_a[each, size]
        wire, run = facts.bundled
        bundles = csr_array(
            (np.ones(len(wire), dtype=int), (wire, run)), shape=(len(size), len(facts.build.runs))
        )
        loaded = counts.astype(int) @ bundles
        near_most = np.abs(signed_a) >= NEAR_MOST * wires.current_a
        beside = np.where(near_most[:, wire], 1 + loaded[:, run] - counts[:, wire], 1)
        crowd = np.ones(len(size), dtype=int)
        np.maximum.at(crowd, wire, beside.max(axis=0))
        most = int(crowd.max(initial=1))
        factors = [catalogue().grouping_factor(number) for number in range(most + 1)]
        self.carries_a = table.alone_a * np.array(factors)[crowd][:, None]

    def conductor_c(self, size: Numbers, lasting_a: Vector) -> Vector:
        """Working temperatures: the rise goes with the square of current against ampacity."""
        table = self.facts.table
        fitted_a = self.carries_a[np.arange(len(size)), size]
        warm_c: Vector = _conductor_c(lasting_a, fitted_a, table.hottest_c, table.limit_c)
        return warm_c

    def floors(self, must_a: Vector) -> Numbers:
        """The smallest size of each wire that carries what it must, whatever the drop."""
        table, choosable = self.facts.table, self.facts.choosable
        carries = self.carries_a[:, :choosable] >= must_a[:, None]
        fits = carries & (table.area_mm2[:choosable] >= 0.99 * table.least_mm2[:, None])
        floors: Numbers = np.where(fits.any(axis=1), fits.argmax(axis=1), choosable - 1)
        return floors

    def hot_ohm(self, lasting_a: Vector) -> Matrix:
        """Conductor resistance of each wire at its current in each size, as warm as it would be."""
        table = self.facts.table
        conductor_c = _conductor_c(
            lasting_a[:, None], self.carries_a, table.hottest_c[:, None], table.limit_c[:, None]
        )
        hot_ohm: Matrix = table.ohm_20c * copper_factor(conductor_c)
        return hot_ohm


class LoadWays:
    """The ways to all loads in the design states, as numbers: what each drop is summed over."""

    def __init__(
        self, facts: Facts, designed: Sequence[DesignState], node: Mapping[Terminal, int]
    ) -> None:
        """``designed`` is the design state of each solution."""
        build, self.designed = facts.build, designed
        self.all_loads = [load.id for load in build.parts_of_kind("load")]
        load_at = {load: at for at, load in enumerate(self.all_loads)}
        self._at: dict[int, int] = {}
        for number, state in enumerate(designed):
            self._at.setdefault(id(state), number)
        ways = [
            (number, load, path)
            for number, state in enumerate(designed)
            if self._at[id(state)] == number
            for load, path in state.paths.items()
        ]
        self.loads = [load for _, load, _ in ways]
        self.limit_percent = [drop_limit_percent(build, build.parts[load]) for load in self.loads]
        self.load_at = np.array([load_at[load] for load in self.loads], dtype=int)
        self.design = np.array([number for number, _, _ in ways], dtype=int)
        self.wires = [
            list(dict.fromkeys(facts.at[s.owner] for s in path.steps if s.kind == "wire"))
            for _, _, path in ways
        ]
        takers = [
            (way, node[step.from_terminal], node[step.to_terminal])
            for way, (_, _, path) in enumerate(ways)
            for step in path.steps
            if step.kind in TAKES_POWER
        ]
        self.takers = np.array(takers, dtype=int).reshape(-1, 3)

    def energised(self, network: Network, settled: Sequence[Settled]) -> tuple[DesignState, ...]:
        """The design state of each solution, with only the loads that the solver finds fed: a
        relay may not have pulled in."""
        states = []
        for state, row in zip(self.designed, settled, strict=True):
            alive = dict(zip(self.all_loads, self._fed(network, row).tolist(), strict=True))
            paths = {load: path for load, path in state.paths.items() if alive[load]}
            states.append(replace(state, paths=paths))
        return tuple(states)

    @staticmethod
    def _fed(network: Network, row: Settled) -> npt.NDArray[np.bool_]:
        fed: npt.NDArray[np.bool_] = network.load_v(row) > ALIVE_FROM * network.battery_v(row)
        return fed

    def worst_drops(
        self, network: Network, settled: Sequence[Settled], signed_a: Matrix
    ) -> list[LoadDrop]:
        """The worst drop of each load over the solutions that feed it, in % of the source."""
        worst: dict[str, tuple[float, int, int, float, float]] = {}
        for number, row in enumerate(settled):
            ways = np.flatnonzero(self.design == self._at[id(self.designed[number])])
            source_v = network.battery_v(row)
            volts = network.load_v(row)[self.load_at[ways]]
            drop_v = source_v - volts - self._taken_v(row)[ways]
            fed = self._fed(network, row)[self.load_at[ways]]
            for way, lost_v in zip(ways[fed].tolist(), drop_v[fed].tolist(), strict=True):
                share = lost_v / source_v
                if share > worst.get(self.loads[way], LEAST)[0] + SAME_SHARE:
                    worst[self.loads[way]] = share, number, way, lost_v, source_v
        current_a = np.abs(signed_a)
        return [
            LoadDrop(
                load,
                number,
                lost_v,
                source_v,
                self.limit_percent[way],
                self.wires[way],
                current_a[number, self.wires[way]].tolist(),
            )
            for load, (_, number, way, lost_v, source_v) in worst.items()
        ]

    def _taken_v(self, row: Settled) -> Vector:
        """What resistors and fields on each way are there to take: it is no loss."""
        way, first, last = self.takers.T
        node_v = np.nan_to_num(row.operating.node_v)
        lost_v = np.abs(node_v[first] - node_v[last])
        return np.bincount(way, lost_v, len(self.loads)).astype(float)


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
    its neighbours are not made thick to make up for it. Wires are numbered as in the build, sizes
    as in the facts, loads as their drops are.
    """

    def __init__(
        self,
        facts: Facts,
        floor: Numbers,
        drops: Sequence[LoadDrop],
        hot_ohm: Matrix,
        fitted_ohm: Vector,
    ) -> None:
        """``floor`` is the smallest size of each wire, whatever the drop; ``fitted_ohm`` is the
        resistance of each wire's conductor with which ``drops`` were solved."""
        self.facts = facts
        self.floor = floor.tolist()
        self.drops = drops
        self.hot_ohm = hot_ohm.tolist()
        self.limit_v = [drop.limit_v for drop in drops]
        self._length_m = facts.table.length_m.tolist()
        self._area_mm2 = facts.table.area_mm2.tolist()
        self._most = [row.most for row in facts.wires.values()]
        self._hot, self._fitted_ohm = hot_ohm, fitted_ohm
        self._load = np.repeat(np.arange(len(drops)), [len(drop.wires) for drop in drops])
        self._wire = np.array([wire for drop in drops for wire in drop.wires], dtype=int)
        self._amps = np.array([amps for drop in drops for amps in drop.amps])
        self.loads_of_wire: list[list[tuple[int, float]]] = [[] for _ in self.floor]
        for number, drop in enumerate(drops):
            for wire, amps in zip(drop.wires, drop.amps, strict=True):
                self.loads_of_wire[wire].append((number, amps))
        self.hold(floor)

    def hold(self, size: Numbers) -> None:
        """Fit these sizes, and count the drop of every load with them."""
        self.chosen = size.tolist()
        change_ohm = self._hot[np.arange(len(size)), size] - self._fitted_ohm
        changes_v = self._amps * change_ohm[self._wire]
        solved_v = np.array([drop.drop_v for drop in self.drops])
        self.drop_v = (solved_v + np.bincount(self._load, changes_v, len(self.drops))).tolist()

    @property
    def sizes(self) -> Numbers:
        """The sizes chosen so far."""
        return np.array(self.chosen, dtype=int)

    def choose(self) -> None:
        """Raise from the floor what drops too much, then take back what was not needed.

        Where no size meets the limit, copper is added until half of what it could save is saved.
        """
        for number in sorted(range(len(self.drops)), key=lambda at: self.drops[at].load):
            wires, before_v = self.drops[number].wires, self.drop_v[number]
            before = [self.chosen[wire] for wire in wires]
            self._grow_until(number, self.limit_v[number])
            least_v = self.drop_v[number]
            if least_v > self.limit_v[number]:
                for wire, size in zip(wires, before, strict=True):
                    self.fit(wire, size)
                self._grow_until(number, (before_v + least_v) / 2)
        self.trim()

    def trim(self) -> None:
        """Take back what turned out not to be needed, most copper first."""
        self.hold(self.sizes)
        raised = [
            wire
            for wire, loads in enumerate(self.loads_of_wire)
            if loads and self.chosen[wire] > self.floor[wire]
        ]
        for wire in sorted(raised, key=lambda at: -round(self._copper(at, self.chosen[at]), 9)):
            while self.chosen[wire] > self.floor[wire] and self._may_shrink(wire):
                self.fit(wire, self.chosen[wire] - 1)

    def fit(self, wire: int, size: int) -> None:
        """Fit a size on a wire, and follow the drop of every load on it."""
        change_ohm = self.hot_ohm[wire][size] - self.hot_ohm[wire][self.chosen[wire]]
        for load, amps in self.loads_of_wire[wire]:
            self.drop_v[load] += amps * change_ohm
        self.chosen[wire] = size

    def drops_with(self, wire: int, size: int) -> list[tuple[int, float]]:
        """The loads on a wire and their drops in V with it in another size."""
        change_ohm = self.hot_ohm[wire][size] - self.hot_ohm[wire][self.chosen[wire]]
        return [
            (load, self.drop_v[load] + amps * change_ohm) for load, amps in self.loads_of_wire[wire]
        ]

    def _may_shrink(self, wire: int) -> bool:
        return all(
            drop_v <= max(self.limit_v[load], self.drop_v[load])
            for load, drop_v in self.drops_with(wire, self.chosen[wire] - 1)
        )

    def _grow_until(self, load: int, limit_v: float) -> None:
        while self.drop_v[load] > limit_v and self._grow(self.drops[load]):
            pass

    def _grow(self, drop: LoadDrop) -> bool:
        """Fit the next size on the wire that gains most volts for its copper; False at the end."""
        best, best_gain = None, 0.0
        for wire, amps in zip(drop.wires, drop.amps, strict=True):
            size = self.chosen[wire]
            if size >= self._most[wire]:
                continue
            gain_v = amps * (self.hot_ohm[wire][size] - self.hot_ohm[wire][size + 1])
            more = self._copper(wire, size + 1) - self._copper(wire, size)
            gain = gain_v / max(more, 1e-9)
            if gain > best_gain * CLEARLY:
                best, best_gain = wire, gain
        if best is None:
            return False
        self.fit(best, self.chosen[best] + 1)
        return True

    def _copper(self, wire: int, size: int) -> float:
        """Copper in mm² m."""
        return float(self._area_mm2[size] * self._length_m[wire])

"""One round of choosing: wires by what they must carry and by drop."""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from circuitry.design.model import CRANKING, Terminal
from circuitry.network.equations import Vector
from circuitry.network.network import Network, Settled
from circuitry.reach.ways import TAKES_POWER, Path, Step
from circuitry.sizing.drop import drop_limit_v
from circuitry.sizing.facts import Facts, Matrix, Numbers
from circuitry.sizing.least_copper import ALONE, Fit, Loss, least_copper
from circuitry.sizing.reels import fewer_reels
from circuitry.sizing.states import DesignState

TO_HAND_MM2 = (0.5, 1.0, 1.5, 2.5, 6.0, 16.0, 35.0, 50.0)
"""Of the thicker sizes those, or the nearest on the shelf, are taken where drop asks for them."""
WHOLE_CAR_M = 50.0
"""Metres of wire from which those sizes are there anyway, and thin wires may do without reels of
their own."""
DROP_MARGIN_V = 0.004
"""How far inside a limit sizes are chosen: currents change a little with the sizes."""
ALIVE_FROM, FED_FROM = 0.5, 0.1
"""Shares of the battery's voltage from which a load counts as coming on, and as fed at all."""
SAME_A = 1e-9
SAME_SHARE = 1e-12
HEALED = 0.96
"""The share of a limit that a mend leaves lost: with thicker wire a load takes a little more."""
TRUNK_SHARE = 0.5
"""The share of its limit that the way which a load shares with other circuits may lose."""
LEAST = (-float("inf"), 0, 0, 0.0, 0.0)


@dataclass(frozen=True)
class LoadDrop:
    """The worst drop of one load: lost in all, and by each wire on its way at fixed current.
    ``limit_v`` is what it may lose.

    ``wires`` are the numbers of the wires on its way, ``amps`` their currents in A. ``tapers`` are
    pairs of them without protection between, of one circuit, the first nearer to the battery;
    ``load_a`` is what the load takes. ``shared_v`` is lost in what it shares with other circuits,
    in ``shares`` among its wires and in fuses and contacts.
    """

    load: str
    solution: int
    drop_v: float
    source_v: float
    limit_v: float
    wires: list[int]
    amps: list[float]
    tapers: tuple[tuple[int, int], ...]
    load_a: float
    shared_v: float
    shares: frozenset[int]

    def lost_v(self, change_ohm: Vector) -> float:
        """What is lost when the resistance of each wire of the build changes by this in Ω."""
        return self.drop_v + float(np.dot(self.amps, change_ohm[self.wires]))


class LoadWays:
    """The ways to all loads in the design states, as numbers: what each drop is summed over."""

    def __init__(
        self,
        facts: Facts,
        designed: Sequence[DesignState],
        node: Mapping[Terminal, int],
        known: "dict[tuple[str, int], Way]",
    ) -> None:
        """``designed`` is the design state of each solution; ``known`` are ways that were counted
        before, by load and identity of the path, and takes up more."""
        build, self.designed = facts.build, designed
        self.all_loads = [load.id for load in build.parts_of_kind("load")]
        load_at = {load: at for at, load in enumerate(self.all_loads)}
        self._at: dict[int, int] = {}
        for number, state in enumerate(designed):
            self._at.setdefault(id(state), number)
        ways = [
            (number, load, path)
            for number, state in enumerate(designed)
            if self._at[id(state)] == number and state.road
            for load, path in state.paths.items()
        ]
        self.loads = [load for _, load, _ in ways]
        self._build = build
        self.load_at = np.array([load_at[load] for load in self.loads], dtype=int)
        self.design = np.array([number for number, _, _ in ways], dtype=int)
        self._known = known
        self.ways = [self._way(facts, node, load, path) for _, load, path in ways]
        self.takers = _numbered([way.takers for way in self.ways])
        self.shared = _numbered([way.shared for way in self.ways])

    def _way(self, facts: Facts, node: Mapping[Terminal, int], load: str, path: Path) -> "Way":
        if (load, id(path)) not in self._known:
            self._known[load, id(path)] = _way_of(facts, node, load, path)
        return self._known[load, id(path)]

    def energised(self, network: Network, settled: Sequence[Settled]) -> tuple[DesignState, ...]:
        """The design state of each solution, with only the loads that the solver finds fed: a
        relay may not have pulled in."""
        states = []
        for state, row in zip(self.designed, settled, strict=True):
            share = FED_FROM if state.road else ALIVE_FROM
            fed = self._fed(network, row, share).tolist()
            alive = dict(zip(self.all_loads, fed, strict=True))
            paths = {load: path for load, path in state.paths.items() if alive[load]}
            states.append(replace(state, paths=paths))
        return tuple(states)

    @staticmethod
    def _fed(network: Network, row: Settled, share: float) -> npt.NDArray[np.bool_]:
        fed: npt.NDArray[np.bool_] = network.load_v(row) > share * network.battery_v(row)
        return fed

    def worst_drops(self, network: Network, settled: Sequence[Settled]) -> list[LoadDrop]:
        """The worst drop of each load over the road states that feed it, against its limit."""
        worst: dict[str, tuple[float, int, int, float, float]] = {}
        for number, row in enumerate(settled):
            ways = np.flatnonzero(self.design == self._at[id(self.designed[number])])
            if not len(ways):
                continue
            source_v = network.battery_v(row)
            volts = network.load_v(row)[self.load_at[ways]]
            # what a second source feeds may stand above the first: it loses nothing
            drop_v = np.maximum(source_v - volts - self._summed_v(row, self.takers)[ways], 0.0)
            fed = self._fed(network, row, FED_FROM)[self.load_at[ways]]
            for way, lost_v in zip(ways[fed].tolist(), drop_v[fed].tolist(), strict=True):
                share = lost_v / self._limit_v(way, source_v, number)
                if share > worst.get(self.loads[way], LEAST)[0] + SAME_SHARE:
                    worst[self.loads[way]] = share, number, way, lost_v, source_v
        told_of = {number for _, number, *_ in worst.values()}
        shared_v = {number: self._summed_v(settled[number], self.shared) for number in told_of}
        current_a = {number: np.abs(network.wire_a(settled[number])) for number in told_of}
        return [
            LoadDrop(
                load,
                number,
                lost_v,
                source_v,
                self._limit_v(way, source_v, number),
                self.ways[way].wires,
                current_a[number][self.ways[way].wires].tolist(),
                self.ways[way].tapers,
                abs(float(network.loads_a(settled[number])[self.load_at[way]])),
                float(shared_v[number][way]),
                self.ways[way].shares,
            )
            for load, (_, number, way, lost_v, source_v) in worst.items()
        ]

    def _limit_v(self, way: int, source_v: float, number: int) -> float:
        load, cranking = self._build.parts[self.loads[way]], self.designed[number].road == CRANKING
        limit_v = drop_limit_v(self._build, load, source_v, cranking)
        return source_v if limit_v is None else limit_v

    def _summed_v(self, row: Settled, steps: Numbers) -> Vector:
        """The volts across these steps of each way."""
        way, first, last = steps.T
        node_v = np.nan_to_num(row.operating.node_v)
        lost_v = np.abs(node_v[first] - node_v[last])
        return np.bincount(way, lost_v, len(self.loads)).astype(float)


@dataclass(frozen=True)
class Way:
    """The way to one load: its wires by number, those that other circuits share, and the nodes of
    the steps that take power and of the others that are shared."""

    wires: list[int]
    tapers: tuple[tuple[int, int], ...]
    shares: frozenset[int]
    takers: list[tuple[int, int]]
    shared: list[tuple[int, int]]


def _way_of(facts: Facts, node: Mapping[Terminal, int], load: str, path: Path) -> Way:
    own = facts.build.parts[load].circuit
    takers = [step for step in path.steps if step.kind in TAKES_POWER]
    shared = [
        step
        for step in path.steps
        if step.kind not in TAKES_POWER
        and own is not None
        and facts.circuit_of.get(step.owner) not in (own, None)
    ]
    return Way(
        list(dict.fromkeys(facts.at[step.owner] for step in path.steps if step.kind == "wire")),
        tapers(facts, path),
        frozenset(facts.at[step.owner] for step in shared if step.kind == "wire"),
        [(node[step.from_terminal], node[step.to_terminal]) for step in takers],
        [(node[step.from_terminal], node[step.to_terminal]) for step in shared],
    )


def _numbered(ends: Sequence[Sequence[tuple[int, int]]]) -> Numbers:
    """The nodes of the steps of each way, after the number of the way."""
    rows = [(way, *pair) for way, pairs in enumerate(ends) for pair in pairs]
    return np.array(rows, dtype=int).reshape(-1, 3)


def tapers(facts: Facts, path: Path) -> tuple[tuple[int, int], ...]:
    """Pairs of wires next to each other on a way, the one nearer to the battery first: with nothing
    between them, or a fuse that sits in the wire itself. What leads to such a fuse carries the
    same and is guarded by less."""
    pairs: list[tuple[int, int]] = []
    for steps in (path.feed, path.back[::-1]):
        before: int | None = None
        for step in steps:
            if step.kind == "output" or (step.kind == "fuse" and not _in_a_wire(facts, step)):
                before = None
            elif step.kind == "wire":
                wire = facts.at[step.owner]
                if before is not None:
                    pairs.append((before, wire))
                before = wire
    return tuple(pairs)


def _in_a_wire(facts: Facts, fuse: Step) -> bool:
    return facts.build.parts[fuse.owner].fitted is None


def _tapered(floor: Numbers, most: Numbers, drops: Sequence[LoadDrop]) -> Numbers:
    """The floors with no thin piece inside a thick run, as far as its terminals allow."""
    tapered = np.array(floor)
    growing = True
    while growing:
        growing = False
        for drop in drops:
            for thick, thin in drop.tapers:
                if tapered[thick] < tapered[thin] <= most[thick]:
                    tapered[thick], growing = tapered[thin], True
    return tapered


def _from_reels(floor: Numbers, most: Numbers, reels: Sequence[int]) -> Numbers:
    """The floors in sizes that there are, as far as the terminals take them."""
    next_up = np.array([next((r for r in reels if r >= at), at) for at in range(max(reels) + 1)])
    inside = np.minimum(floor, len(next_up) - 1)
    raised = np.where(floor < len(next_up), next_up[inside], floor)
    return np.where(raised <= most, raised, floor)


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
        alone: Numbers,
        drops: Sequence[LoadDrop],
        hot_ohm: Matrix,
        fitted_ohm: Vector,
    ) -> None:
        """``floor`` is the smallest size of each wire, whatever the drop, ``alone`` that with
        nothing beside it; ``fitted_ohm`` is the resistance of each wire's conductor with which
        ``drops`` were solved."""
        self.facts, self.alone = facts, alone
        self.floor = _tapered(floor, facts.most, drops)
        self.drops = drops
        self.hot_ohm = hot_ohm
        self._fitted_ohm = fitted_ohm

    @cached_property
    def _loads_of_wire(self) -> Mapping[int, list[int]]:
        loads: dict[int, list[int]] = {}
        for number, drop in enumerate(self.drops):
            for wire in drop.wires:
                loads.setdefault(wire, []).append(number)
        return loads

    def choose(self) -> Fit:
        """The least copper for these limits, from few reels.

        Which reels of thin wire there are follows from what protection lets pass alone: so another
        limit or a warmer neighbour does not change them, and a looser limit takes no more copper.
        A branch that loses too much because its terminal takes none of these reels is given any
        size of the shelf.
        """
        table, facts = self.facts.table, self.facts
        most = np.maximum(facts.most, self.floor)
        areas = table.area_mm2[: facts.choosable]
        to_hand = [int(np.abs(areas - area_mm2).argmin()) for area_mm2 in TO_HAND_MM2]
        whole_car = table.length_m.sum() >= WHOLE_CAR_M
        there = to_hand if whole_car else []
        few = fewer_reels(self.alone, most, table.area_mm2, table.length_m, there)
        reels = sorted({*few.tolist(), *to_hand})
        tapers = list(dict.fromkeys(pair for drop in self.drops for pair in drop.tapers))

        def fitted(floor: Numbers, losses: Sequence[Loss], reels: Collection[int]) -> Fit:
            copper = (self.hot_ohm, table.area_mm2, table.length_m)
            return least_copper(
                floor, most, *copper, losses, tapers, self.legs, reels=reels, steps=to_hand
            )

        floor = _from_reels(self.floor, most, reels)
        fit = fitted(floor, self.losses(floor), reels)
        losing = self.losing(fit.size)
        branches = [
            row.without(drop.shares)
            for drop, row in zip(self.drops, self.losses(fit.size), strict=True)
            if drop.load in losing and row.trunk_v <= 0
        ]
        if not branches:
            return fit
        more = fitted(fit.size, branches, range(facts.choosable))
        return Fit(more.size, fit.copper_mm2_m + more.copper_mm2_m, max(fit.gap, more.gap))

    @cached_property
    def legs(self) -> list[set[int]]:
        """The wires that lead to the loads of one kind in a circuit alone, there and back, whatever
        else is on: a telltale's return that carries the alternator too is no leg of its. Circuits
        of one such load that one recipe wrote, as those of two windows, are one here."""
        carried_a: dict[int, float] = {}
        for drop in self.drops:
            for wire, amps in zip(drop.wires, drop.amps, strict=True):
                carried_a[wire] = max(carried_a.get(wire, 0.0), amps)
        loads_in = Counter(load.circuit for load in self.facts.build.parts_of_kind("load"))
        legs: dict[object, set[int]] = {}
        for drop in self.drops:
            load = self.facts.build.parts[drop.load]
            if load.circuit is None:
                continue
            written = self.facts.build.circuits[load.circuit].written
            kind = written.recipe if written and loads_in[load.circuit] == 1 else load.circuit
            leg = legs.setdefault((kind, load.catalogue), set())
            leg |= {
                wire
                for wire in drop.wires
                if carried_a[wire] <= ALONE * drop.load_a
                and self.facts.cables[wire] == load.circuit
            }
        return list(legs.values())

    def still_does(self, size: Numbers, losing: Collection[str]) -> bool:
        """Whether sizes that were chosen before still carry, and no load loses too much but those
        that were known to."""
        carries = bool((size >= self.floor).all())
        return carries and self.losing(size) <= set(losing)

    def losing(self, size: Numbers) -> frozenset[str]:
        """The loads that lose more than they may with these sizes."""
        lost = zip(self.drops, self.lost_v(size), strict=True)
        return frozenset(row.load for row, lost_v in lost if lost_v > row.limit_v)

    def to_heal(self, loads: Collection[str] | None = None) -> "WireChooser":
        """The same for these loads alone, or for all, with the limits that a mend keeps."""
        drops = [
            replace(drop, limit_v=drop.limit_v * HEALED)
            for drop in self.drops
            if loads is None or drop.load in loads
        ]
        return WireChooser(
            self.facts, self.floor, self.alone, drops, self.hot_ohm, self._fitted_ohm
        )

    def hopeless(self, most: Numbers) -> frozenset[str]:
        """The loads that lose too much with the thickest wires."""
        losses = zip(self.drops, self.losses(most, whole=True), strict=True)
        return frozenset(row.load for row, loss in losses if loss.lost_v > loss.limit_v)

    def choose_at_any_price(self, size: Numbers, most: Numbers) -> Numbers | None:
        """The least copper beyond these sizes with which every load keeps its limit, whatever it
        costs. None where no size can."""
        table = self.facts.table
        fit = least_copper(
            size,
            most,
            self.hot_ohm,
            table.area_mm2,
            table.length_m,
            self.losses(size, whole=True),
            price=None,
            worth=0.0,
        )
        return None if self.losing(fit.size) else fit.size

    def losses(self, size: Numbers, whole: bool = False) -> list[Loss]:
        """What each load loses with these sizes, as the programme asks for it.

        A trunk that loses more than its share of the limit must make up for that itself, and a
        branch that loses less than its own is left alone, unless the ``whole`` is asked for: six
        thick branches do not make up for a thin trunk.
        """
        losses: list[Loss] = []
        for drop, lost_v in zip(self.drops, self.lost_v(size), strict=True):
            limit_v = drop.limit_v - DROP_MARGIN_V
            shared_v = drop.shared_v + self._more_v(drop, size, drop.shares)
            too_much_v = shared_v - TRUNK_SHARE * limit_v
            spared = lost_v - shared_v <= (1 - TRUNK_SHARE) * limit_v and not whole
            wires = drop.shares if spared else set(drop.wires)
            pairs = [pair for pair in zip(drop.wires, drop.amps, strict=True) if pair[0] in wires]
            losses.append(
                Loss(
                    lost_v,
                    limit_v,
                    drop.source_v,
                    [wire for wire, _ in pairs],
                    [amps for _, amps in pairs],
                    [self.facts.cables[wire] for wire, _ in pairs],
                    drop.load_a,
                    drop.shares,
                    0.0 if spared or whole else too_much_v,
                )
            )
        return losses

    def _more_v(self, drop: LoadDrop, size: Numbers, wires: Collection[int]) -> float:
        """What is lost more in some wires of a way with these sizes than as it was solved."""
        return sum(
            amps * float(self.hot_ohm[wire, size[wire]] - self._fitted_ohm[wire])
            for wire, amps in zip(drop.wires, drop.amps, strict=True)
            if wire in wires
        )

    def lost_v(self, size: Numbers) -> list[float]:
        """What each load loses in V with these sizes."""
        change_ohm = self.hot_ohm[np.arange(len(size)), size] - self._fitted_ohm
        return [drop.lost_v(change_ohm) for drop in self.drops]

    def lost_with(self, wire: int, size: int, others: Numbers) -> list[tuple[int, float]]:
        """The loads on a wire and what they lose in V with it in this size, and the others in
        theirs."""
        fitted = np.array(others)
        fitted[wire] = size
        change_ohm = self.hot_ohm[np.arange(len(fitted)), fitted] - self._fitted_ohm
        loads = self._loads_of_wire.get(wire, [])
        return [(load, self.drops[load].lost_v(change_ohm)) for load in loads]

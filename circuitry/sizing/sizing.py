"""Sizing a build: solve, choose, solve again until the sizes stand."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cache, partial

import numpy as np

from circuitry.design.model import Build
from circuitry.design.state import State
from circuitry.network.elements import GARAGE_C, copper_factor
from circuitry.network.equations import Vector
from circuitry.network.network import Network, Settled, Solution
from circuitry.sizing.bearing import Ampacities, MustBear
from circuitry.sizing.charging import ChargingLoops
from circuitry.sizing.choose import LoadDrop, LoadWays, Way, WireChooser
from circuitry.sizing.duty import Duty, Peaks, peaks
from circuitry.sizing.explain import Healed, Reasons, circuit_sizings
from circuitry.sizing.facts import Facts, Matrix, Numbers
from circuitry.sizing.findings import findings
from circuitry.sizing.fuses import FuseChooser
from circuitry.sizing.result import Sizing
from circuitry.sizing.roads import by_themselves, road_states
from circuitry.sizing.states import DESIGN_SUPPLIES, DesignState, Reach, apart, reach
from circuitry.sizing.worst import (
    fewest_that_tell,
    fullest,
    packed,
    quieter,
    resting_in,
    worst_positions,
)

FIRST = "Solving the design states"
ROUNDS_THAT_MAY_SHRINK = 4
START_RATING_A = 20.0
LITTLE = 0.01
"""The share of all that can flow at once that may be on besides: no more than a hundredth of what
is lost then in the trunk is lost for it."""


@dataclass(frozen=True)
class Choice:
    """The size of each wire, numbered as in the facts, and the rating of each fuse in A."""

    size: Numbers
    rating_a: Vector

    def same_as(self, other: "Choice") -> bool:
        """Whether every size and rating is the same."""
        return bool((self.size == other.size).all() and (self.rating_a == other.rating_a).all())


@dataclass(frozen=True)
class Heat:
    """What heats: the most of each wire and fuse, and what lasts, by state and wire in A."""

    wires: Peaks
    fuses: Peaks
    lasting_a: Matrix


@dataclass(frozen=True)
class Round:
    """The operating points of all design states at one choice, and what follows from them.

    What heats is solved in ``cold``, with wires at 20 °C, for then most flows; what is lost on the
    road in ``warm``, with wires as warm as they would be and conductors of ``fitted_ohm``, for then
    most is lost.
    """

    choice: Choice
    cold: Network
    warm: Network
    settled: Sequence[Settled]
    fitted_ohm: Vector
    heat: Heat
    drops: Sequence[LoadDrop]
    ampacities: Ampacities


def size_build(build: Build) -> Sizing:
    """Choose every fuse and wire that is not pinned, with reasons, and check those that are.

    Raises UnusableInput when relays never settle or the voltages of a state do not.
    """
    work = _Work(build, reach(build))
    current = work.lit(work.first_round())
    current = work.judge_also(work.on_the_road(work.in_the_worst(current)))
    rounds = 0
    while True:
        chosen = work.choose(current, keep=rounds > 1)
        if rounds >= ROUNDS_THAT_MAY_SHRINK:
            chosen = _not_smaller(chosen, current.choice)
        if rounds > 0 and chosen.same_as(current.choice):
            return work.answer(current)
        current = work.next_round(chosen, current)
        rounds += 1


def _not_smaller(chosen: Choice, before: Choice) -> Choice:
    """The chosen sizes, but none smaller than before: this ends a search that goes to and fro."""
    return Choice(
        np.maximum(chosen.size, before.size), np.maximum(chosen.rating_a, before.rating_a)
    )


def _supplied(states: Iterable[DesignState]) -> list[DesignState]:
    """These states with the engine off, and with it running."""
    return [
        replace(design, state=replace(design.state, supply=supply))
        for design in states
        for supply in DESIGN_SUPPLIES
    ]


class _Work:
    """One build while it is being sized: what stays the same from round to round."""

    def __init__(self, build: Build, reached: Reach) -> None:
        self.build = build
        self.facts = Facts(build)
        self.reached = reached
        self.fuse_chooser = FuseChooser(build, reached.easiest)
        sizes = [wire.size for wire in build.wires.values()]
        self.pinned = np.array([size is not None for size in sizes], dtype=bool)
        # thick at the start, so that the first currents are near the last ones
        thickest = self.facts.choosable - 1
        self.start = Choice(
            np.array([self.facts.index[size] if size else thickest for size in sizes], dtype=int),
            self.fuse_chooser.near(START_RATING_A),
        )
        self.network = Network(build)
        self.duty = Duty(build)
        self.charging = ChargingLoops(self.facts, self.network.node)
        self.own = self.start.size
        self.unpinned, self.losing = self.start.size, frozenset[str]()
        self.worst = worst_positions(build)
        self.facts.guard_returns(self.worst.guards)
        self.unsearched = reached.unsearched | self.worst.unsearched
        self.fullest = tuple(
            replace(state, supply=supply) for state in reached.fullest for supply in DESIGN_SUPPLIES
        )
        self._known_ways: dict[tuple[str, int], Way] = {}
        self._solve_in(_supplied(reached.states))

    def _solve_in(self, designed: Sequence[DesignState]) -> None:
        """From now on solve in these states."""
        self.designed = designed
        self.ways = LoadWays(self.facts, designed, self.network.node, self._known_ways)

    def fitted(self, build: Build, choice: Choice) -> Build:
        """A build with these sizes on all wires and these ratings on all fuses."""
        sizes = self.facts.sizes
        wires = {
            wire.id: wire if wire.size else replace(wire, size=sizes[size].name)
            for wire, size in zip(build.wires.values(), choice.size.tolist(), strict=True)
        }
        rated = {
            part.id: replace(part, figures={**part.figures, "rating_a": rating_a})
            for part, rating_a in zip(
                build.parts_of_kind("fuse"), choice.rating_a.tolist(), strict=True
            )
            if part.figures.get("rating_a") != rating_a
        }
        return replace(build, wires=wires, parts={**build.parts, **rated})

    def first_round(self) -> Round:
        """In thick wires."""
        cold = self._cold(self.start)
        self.resting = resting_in(cold)
        settled = self._settled(cold, self.designed, FIRST)
        fitted_ohm = self._ohm(self.start, np.full(len(self.pinned), GARAGE_C))
        return self._round(self.start, cold, cold, settled, fitted_ohm)

    def _settled(
        self, network: Network, designed: Iterable[DesignState], doing: str
    ) -> list[Settled]:
        """States as they come of the car at rest with the key where it is."""
        states = [design.state for design in designed]
        return network.settle_many(states, self._near(states), doing, going_on=True)

    def _near(self, states: Iterable[State]) -> list[Settled | None]:
        return [self.resting.get((state.key, state.supply)) for state in states]

    def in_the_worst(self, first: Round) -> Round:
        """Solve also in the positions in which some part carries more than in any design state, in
        sizes that carry what they must there.

        Those that settle in no way are no positions that last, and size nothing.
        """
        current = self.next_round(self.choose(first, keep=False), first)
        cold, settled = current.cold, list(current.settled)
        full_a = max(cold.battery_a(row) for row in settled)
        states = packed(self.worst.asked, LITTLE * full_a)
        self.resting = resting_in(cold, self.resting)
        states += quieter(cold, states, self.resting)
        doing = "Solving the worst positions"
        tried = cold.try_many(states, self._near(states), doing, going_on=True)
        extra = [row for row in tried if isinstance(row, Settled)]
        self.fullest += fullest(cold, settled, extra)
        if not extra:
            return current
        most_a = np.abs([cold.carried_a(row) for row in settled]).max(axis=0)
        extra_a = np.abs([cold.carried_a(row) for row in extra])
        designed = [*self.designed]
        for at in fewest_that_tell(most_a, extra_a):
            designed.append(DesignState(extra[at].state, {}))
            settled.append(extra[at])
        self._solve_in(designed)
        return self._round(current.choice, cold, current.warm, settled, current.fitted_ohm)

    def lit(self, current: Round) -> Round:
        """Solve also with those loads apart that have a way in some design state, and are fed in
        none."""
        dark = self._dark(current)
        if not dark:
            return current
        before, self.reached = self.reached, apart(self.build, self.reached, dark)
        more = _supplied(self.reached.states[len(before.states) :])
        settled = [*current.settled, *self._settled(current.cold, more, FIRST)]
        self._solve_in([*self.designed, *more])
        cold = current.cold
        return self._round(current.choice, cold, cold, settled, current.fitted_ohm)

    def _dark(self, current: Round) -> list[str]:
        states = self.ways.energised(current.warm, current.settled)
        fed = {load for state in states if not state.road for load in state.paths}
        asked = {load: None for state in self.reached.states for load in state.paths}
        return [load for load in asked if load not in fed]

    def on_the_road(self, current: Round) -> Round:
        """What is lost on the road, in the sizes that carry what they must."""
        roads = [*road_states(self.build, self.reached), *self.charging.states()]
        choice = self.choose(current, keep=False)
        warm, fitted_ohm = self._warm(choice, current)
        settled = [*current.settled, *self._settled(warm, roads, "Solving the road states")]
        self._solve_in([*self.designed, *roads])
        return self._round(choice, current.cold, warm, settled, fitted_ohm, current.heat)

    def judge_also(self, current: Round) -> Round:
        """Judge also the drop of loads that something on the road keeps dark, by themselves."""
        states = self.ways.energised(current.warm, current.settled)
        judged = {load for state in states if state.road for load in state.paths}
        fed = {load: None for state in states for load in state.paths if load not in judged}
        alone = by_themselves(self.build, self.reached, list(fed))
        if not alone:
            return current
        warm = current.warm
        settled = [*current.settled, *self._settled(warm, alone, "Solving the road states")]
        self._solve_in([*self.designed, *alone])
        return self._round(
            current.choice, current.cold, warm, settled, current.fitted_ohm, current.heat
        )

    def next_round(self, choice: Choice, before: Round) -> Round:
        """Near the round before, with the wires as warm as they would be."""
        cold = self._cold(choice)
        warm, fitted_ohm = self._warm(choice, before)
        settled = list(before.settled)
        for network, on_the_road in ((cold, False), (warm, True)):
            rows = [n for n, row in enumerate(self.designed) if bool(row.road) == on_the_road]
            near = [before.settled[row] for row in rows]
            states = [row.state for row in near]
            again = network.settle_many(states, near, doing="Settling sizes")
            for row, found in zip(rows, again, strict=True):
                settled[row] = found
        return self._round(choice, cold, warm, settled, fitted_ohm)

    def _cold(self, choice: Choice) -> Network:
        fitted_ohm = self._ohm(choice, np.full(len(self.pinned), GARAGE_C))
        return self.network.resized(fitted_ohm, choice.rating_a.tolist())

    def _warm(self, choice: Choice, before: Round) -> tuple[Network, Vector]:
        """The network with wires as warm as in the round before, and their conductors in Ω."""
        conductor_c = before.ampacities.conductor_c(choice.size, before.heat.wires.lasting_a)
        fitted_ohm = self._ohm(choice, conductor_c)
        return self.network.resized(fitted_ohm, choice.rating_a.tolist()), fitted_ohm

    def _ohm(self, choice: Choice, conductor_c: Vector) -> Vector:
        ohm_20c = self.facts.table.ohm_20c[np.arange(len(choice.size)), choice.size]
        warm_ohm: Vector = ohm_20c * copper_factor(conductor_c)
        return warm_ohm

    def _round(
        self,
        choice: Choice,
        cold: Network,
        warm: Network,
        settled: Sequence[Settled],
        fitted_ohm: Vector,
        heat: Heat | None = None,
    ) -> Round:
        """A round; ``heat`` is that of the round before where what heats was not solved again."""
        heat = self._heat(cold, settled) if heat is None else heat
        return Round(
            choice,
            cold,
            warm,
            settled,
            fitted_ohm,
            heat,
            [
                *self.ways.worst_drops(warm, settled),
                *self.charging.drops(warm, self.designed, settled),
            ],
            Ampacities(self.facts, choice.size, self.own, heat.lasting_a),
        )

    def _heat(self, network: Network, settled: Sequence[Settled]) -> Heat:
        rows = np.array([n for n, design in enumerate(self.designed) if not design.road])
        wire_a = np.array([network.wire_a(settled[row]) for row in rows])
        fuse_a = np.array([network.fuse_a(settled[row]) for row in rows])
        lasting_a = self.duty.lasting_a(network, [settled[row] for row in rows])
        wires, fuses = wire_a.shape[1], fuse_a.shape[1]
        return Heat(
            peaks(wire_a, lasting_a[:, :wires], rows),
            peaks(fuse_a, lasting_a[:, wires : wires + fuses], rows),
            lasting_a[:, :wires],
        )

    def choose(self, current: Round, keep: bool) -> Choice:
        """Sizes and ratings for the currents of a round; what does still is kept where asked."""
        rating_a = self.fuse_chooser.choose(current.heat.fuses)
        chooser = self._chooser(current, rating_a)
        self.own = np.where(self.pinned, current.choice.size, chooser.alone)
        before = np.where(self.pinned, self.unpinned, current.choice.size)
        if keep and chooser.still_does(before, self.losing):
            return replace(current.choice, rating_a=rating_a)
        self.unpinned = chooser.choose().size
        self.losing = chooser.losing(self.unpinned)
        return Choice(np.where(self.pinned, current.choice.size, self.unpinned), rating_a)

    def _chooser(self, current: Round, rating_a: Vector) -> WireChooser:
        lasting_a = current.heat.wires.lasting_a
        must_a = self.facts.must_carry_a(lasting_a, rating_a)
        must = MustBear(must_a, lasting_a, *self.fuse_chooser.overloads(rating_a))
        return WireChooser(
            self.facts,
            current.ampacities.floors(must),
            current.ampacities.floors(must, alone=True),
            current.drops,
            current.ampacities.hot_ohm(current.heat.wires.lasting_a),
            current.fitted_ohm,
        )

    def answer(self, last: Round) -> Sizing:
        """Every size with its reasons, the solutions and the findings."""
        solutions = tuple(last.warm.solution(row) for row in last.settled)
        states = self.ways.energised(last.warm, last.settled)
        return self._told(last, solutions, states, {}, self.build)

    def _told(
        self,
        last: Round,
        solutions: tuple[Solution, ...],
        states: tuple[DesignState, ...],
        healed: Healed,
        build: Build,
    ) -> Sizing:
        """The last round in the words of a build that differs from the sized one in them alone."""
        sized = self.fitted(build, last.choice)
        reasons = Reasons(
            sized,
            self.facts,
            states,
            last.heat.fuses,
            last.heat.wires,
            last.ampacities,
            self._chooser(last, last.choice.rating_a),
            self.worst,
            self.pinned,
            self.fuse_chooser,
            healed,
        )
        sizing = Sizing(
            sized,
            states,
            reasons.wires(build),
            reasons.fuses(build),
            reasons.loads(solutions),
            reasons.charging(),
            {},
            self.reached.easiest,
            solutions,
            self.facts.unprotected,
            self.fullest,
            self.unsearched,
            reasons.candidates,
            reasons.healing,
            reasons.grouping,
            partial(self._told, last, solutions, states, healed),
            cache(partial(Network, sized)),
        )
        found = findings(build, sizing, solutions, self.facts.unprotected)
        circuits = circuit_sizings(sizing, solutions, found)
        return replace(sizing, findings=tuple(found), circuits=circuits)

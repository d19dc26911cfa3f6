"""Sizing a build: solve, choose, solve again until the sizes stand."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from circuitry.build.model import Build
from circuitry.errors import UnusableInput
from circuitry.network.elements import GARAGE_C, copper_factor
from circuitry.network.equations import Vector
from circuitry.network.network import Network, Settled
from circuitry.network.state import State
from circuitry.progress import told
from circuitry.sizing.choose import (
    Ampacities,
    Duty,
    FuseChooser,
    LoadDrop,
    LoadWays,
    Peaks,
    WireChooser,
    peaks,
)
from circuitry.sizing.explain import Reasons, circuit_sizings
from circuitry.sizing.facts import Facts, Matrix, Numbers
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing
from circuitry.sizing.roads import by_themselves, road_states
from circuitry.sizing.states import DESIGN_SUPPLIES, DesignState, Reach, apart, reach
from circuitry.sizing.worst import fewest_that_tell, foreseen_a, packed, worst_positions

ROUNDS_THAT_MAY_SHRINK = 4
START_RATING_A = 20.0
ALONE = 1.05
"""What a load may take more with nothing else on, at most, with wires as thick as at the start."""
LITTLE = 0.1
"""The share of all that can flow at once that may be on besides: a tenth of what is lost then in
the trunk, and so a tenth of what a load takes more with nothing else on."""


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

    ``fitted_ohm`` are the resistances of the wires' conductors with which they were solved.
    """

    choice: Choice
    network: Network
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
    current = work.first_round()
    if dark := work.dark(current):
        work = _Work(build, apart(build, work.reached, dark))
        current = work.first_round()
    current = work.judge_also(work.on_the_road(current))
    rounds = 0
    while True:
        chosen = work.choose(current, keep=rounds > 0)
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


def _expected(design: DesignState) -> Mapping[str, str]:
    """Where the switches and relays on the ways of a design state stand."""
    positions: dict[str, str] = {}
    for path in design.paths.values():
        positions |= path.positions
    return positions


class _Work:
    """One build while it is being sized: what stays the same from round to round."""

    def __init__(self, build: Build, reached: Reach) -> None:
        self.build = build
        self.facts = Facts(build)
        self.reached = reached
        self.facts.guard_returns(way for row in reached.states for way in row.paths.values())
        self.fuse_chooser = FuseChooser(build)
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
        self.unpinned, self.losing = self.start.size, frozenset[str]()
        self.worst = worst_positions(build)
        self.unsearched = reached.unsearched | self.worst.unsearched
        self._solve_in(
            [
                replace(design, state=replace(design.state, supply=supply))
                for design in reached.states
                for supply in DESIGN_SUPPLIES
            ]
        )

    def _solve_in(self, designed: Sequence[DesignState]) -> None:
        """From now on solve in these states."""
        self.designed = designed
        self.ways = LoadWays(self.facts, designed, self.network.node)

    def _with_the_worst(self, network: Network, first: Round) -> list[Settled]:
        """Solve also in the positions in which some part carries more than in any design state: by
        other loads, or by so little that they matter only where it decides a size.

        Those that settle in no way are no positions that last, and size nothing.
        """
        settled = list(first.settled)
        ways = [list(state.paths.items()) for state in self.reached.states]
        unforeseen = self.worst.unforeseen(foreseen_a(self.build, ways))
        deciding = self._deciding(first)
        full_a = max(network.battery_a(row) for row in settled)
        states = [self.worst.states[number] for number in sorted(unforeseen)]
        states += packed(
            (
                (self.worst.states[number], amps)
                for number, amps in deciding.items()
                if number not in unforeseen
            ),
            LITTLE * full_a,
        )
        extra: list[tuple[State, Settled]] = []
        for state in told("Solving the worst positions", states):
            with suppress(UnusableInput):
                extra.append((state, network.settle(state)))
        if not extra:
            return settled
        most_a = np.abs([network.carried_a(row) for row in settled]).max(axis=0)
        extra_a = np.abs([network.carried_a(row) for _, row in extra])
        designed = [*self.designed]
        for at in fewest_that_tell(most_a, extra_a):
            state, row = extra[at]
            designed.append(DesignState(state, {}))
            settled.append(row)
        self._solve_in(designed)
        return settled

    def fitted(self, choice: Choice) -> Build:
        """The build with these sizes on all wires and these ratings on all fuses."""
        build, sizes = self.build, self.facts.sizes
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
        """From rest, in a cold garage."""
        fitted_ohm = self._ohm(self.start, np.full(len(self.pinned), GARAGE_C))
        network = self.network.resized(fitted_ohm, self.start.rating_a.tolist())
        settled: list[Settled] = []
        for number, design in enumerate(told("Solving the design states", self.designed)):
            again = number > 0 and design.paths is self.designed[number - 1].paths
            settled.append(network.settle(design.state, settled[-1] if again else None))
        first = self._round(self.start, network, settled, fitted_ohm)
        settled = self._with_the_worst(network, first)
        return self._round(self.start, network, settled, fitted_ohm)

    def _deciding(self, first: Round) -> dict[int, float]:
        """Numbers, and what is taken there, of the worst positions of wires and fuses for which a
        little more would decide: alone, with less lost in the trunk, a load takes a little more."""
        rating_a = self.fuse_chooser.choose(first.heat.fuses)
        larger_a = self.fuse_chooser.choose(first.heat.fuses.times(ALONE))
        must_a = self.facts.must_carry_a(first.heat.wires.lasting_a, rating_a)
        more_a = self.facts.must_carry_a(first.heat.wires.lasting_a * ALONE, rating_a)
        thicker = first.ampacities.floors(must_a) != first.ampacities.floors(more_a)
        fuses = [part.id for part in self.build.parts_of_kind("fuse")]
        deciding = [("fuse", fuses[at]) for at in np.flatnonzero(rating_a != larger_a)]
        wires = list(self.build.wires)
        deciding += [("wire", wires[at]) for at in np.flatnonzero(thicker & ~self.pinned)]
        return dict(self.worst.of[carrier] for carrier in deciding if carrier in self.worst.of)

    def dark(self, current: Round) -> list[str]:
        """The loads that have a way in some design state, and are fed in none."""
        states = self.ways.energised(current.network, current.settled)
        fed = {load for state in states if not state.road for load in state.paths}
        asked = {load: None for state in self.reached.states for load in state.paths}
        return [load for load in asked if load not in fed]

    def on_the_road(self, first: Round) -> Round:
        """What is lost on the road, in the sizes that carry what they must."""
        roads = road_states(self.build, self.reached)
        choice = self.choose(first, keep=False)
        conductor_c = first.ampacities.conductor_c(choice.size, first.heat.wires.lasting_a)
        fitted_ohm = self._ohm(choice, conductor_c)
        network = first.network.resized(fitted_ohm, choice.rating_a.tolist())
        settled = list(first.settled)
        known: dict[str, Settled] = {}
        for design in told("Solving the road states", roads):
            near = known.get(design.road)
            row = network.settle(design.state, near, _expected(design))
            known.setdefault(design.road, row)
            settled.append(row)
        self._solve_in([*self.designed, *roads])
        return self._round(choice, network, settled, fitted_ohm, first.heat)

    def judge_also(self, current: Round) -> Round:
        """Judge also the drop of loads that something on the road keeps dark, by themselves."""
        states = self.ways.energised(current.network, current.settled)
        judged = {load for state in states if state.road for load in state.paths}
        fed = {load: None for state in states for load in state.paths if load not in judged}
        alone = by_themselves(self.build, self.reached, list(fed))
        if not alone:
            return current
        settled = [*current.settled, *(current.network.settle(row.state) for row in alone)]
        self._solve_in([*self.designed, *alone])
        return self._round(
            current.choice, current.network, settled, current.fitted_ohm, current.heat
        )

    def next_round(self, choice: Choice, before: Round) -> Round:
        """Near the round before, with the wires as warm as they would be."""
        conductor_c = before.ampacities.conductor_c(choice.size, before.heat.wires.lasting_a)
        fitted_ohm = self._ohm(choice, conductor_c)
        network = before.network.resized(fitted_ohm, choice.rating_a.tolist())
        rows = list(told("Settling sizes", before.settled))
        settled = [network.settle(near.state, near) for near in rows]
        return self._round(choice, network, settled, fitted_ohm)

    def _ohm(self, choice: Choice, conductor_c: Vector) -> Vector:
        ohm_20c = self.facts.table.ohm_20c[np.arange(len(choice.size)), choice.size]
        warm_ohm: Vector = ohm_20c * copper_factor(conductor_c)
        return warm_ohm

    def _round(
        self,
        choice: Choice,
        network: Network,
        settled: Sequence[Settled],
        fitted_ohm: Vector,
        heat: Heat | None = None,
    ) -> Round:
        """A round; ``heat`` is that of the round before where what heats was not solved again."""
        heat = self._heat(network, settled) if heat is None else heat
        return Round(
            choice,
            network,
            settled,
            fitted_ohm,
            heat,
            self.ways.worst_drops(network, settled),
            Ampacities(self.facts, choice.size, heat.lasting_a),
        )

    def _heat(self, network: Network, settled: Sequence[Settled]) -> Heat:
        rows = np.array([n for n, design in enumerate(self.designed) if not design.road])
        wire_a = np.array([network.wire_a(settled[row]) for row in rows])
        fuse_a = np.array([network.fuse_a(settled[row]) for row in rows])
        lasting_a = np.array([self.duty.lasting_a(network, settled[row]) for row in rows])
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
        before = np.where(self.pinned, self.unpinned, current.choice.size)
        if keep and chooser.still_does(before, self.losing):
            return replace(current.choice, rating_a=rating_a)
        self.unpinned = chooser.choose().size
        self.losing = chooser.losing(self.unpinned)
        return Choice(np.where(self.pinned, current.choice.size, self.unpinned), rating_a)

    def _chooser(self, current: Round, rating_a: Vector) -> WireChooser:
        must_a = self.facts.must_carry_a(current.heat.wires.lasting_a, rating_a)
        return WireChooser(
            self.facts,
            current.ampacities.floors(must_a),
            current.ampacities.floors(must_a, alone=True),
            current.drops,
            current.ampacities.hot_ohm(current.heat.wires.lasting_a),
            current.fitted_ohm,
        )

    def answer(self, last: Round) -> Sizing:
        """Every size with its reasons, the solutions and the findings."""
        sized = self.fitted(last.choice)
        solutions = tuple(last.network.solution(row) for row in last.settled)
        states = self.ways.energised(last.network, last.settled)
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
        )
        sizing = Sizing(
            sized,
            states,
            reasons.wires(self.build),
            reasons.fuses(self.build),
            reasons.loads(solutions),
            {},
            self.reached.easiest,
            solutions,
            self.facts.unprotected,
            self.reached.fullest,
            self.unsearched,
            reasons.candidates,
            reasons.healing,
        )
        found = findings(self.build, sizing, solutions, self.facts.unprotected)
        circuits = circuit_sizings(sizing, solutions, found)
        return replace(sizing, findings=tuple(found), circuits=circuits)

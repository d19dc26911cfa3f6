"""Sizing a build: solve, choose, solve again until the sizes stand."""

from collections.abc import Sequence
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
    FuseChooser,
    LoadDrop,
    LoadWays,
    Peaks,
    WireChooser,
    peaks,
)
from circuitry.sizing.explain import Reasons, circuit_sizings
from circuitry.sizing.facts import Facts, Numbers
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import DESIGN_SUPPLIES, DesignState, Reach, apart, reach, starts
from circuitry.sizing.worst import fewest_that_tell, foreseen_a, packed, worst_positions

MOST_ROUNDS = 10
ROUNDS_THAT_MAY_SHRINK = 4
MOST_TRIMS = 4
START_SIZE = {"metric": "50 mm²", "awg": "1/0 AWG"}
"""Thick, so that the first currents are near the last ones."""
START_RATING_A = 20.0
CRANKS_FROM_A = 20.0
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
class Round:
    """The operating points of all design states at one choice, and what follows from them.

    ``fitted_ohm`` are the resistances of the wires' conductors with which they were solved.
    """

    choice: Choice
    network: Network
    settled: Sequence[Settled]
    fitted_ohm: Vector
    wires: Peaks
    fuses: Peaks
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
    for number in range(MOST_ROUNDS):
        chosen = work.choose(current)
        if number >= ROUNDS_THAT_MAY_SHRINK:
            chosen = _not_smaller(chosen, current.choice)
        if chosen.same_as(current.choice):
            break
        current = work.next_round(chosen, current, every=number == 0)
    for _ in range(MOST_TRIMS):
        trimmed = work.trim(current)
        if trimmed.same_as(current.choice):
            break
        current = work.next_round(trimmed, current)
    current = work.next_round(current.choice, current, every=True)
    while not (widened := work.widen(current)).same_as(current.choice):
        current = work.next_round(widened, current, every=True)
    return work.answer(current)


def _not_smaller(chosen: Choice, before: Choice) -> Choice:
    """The chosen sizes, but none smaller than before: this ends a search that goes to and fro."""
    return Choice(
        np.maximum(chosen.size, before.size), np.maximum(chosen.rating_a, before.rating_a)
    )


class _Work:
    """One build while it is being sized: what stays the same from round to round."""

    def __init__(self, build: Build, reached: Reach) -> None:
        self.build = build
        self.facts = Facts(build)
        self.reached = reached
        self.fuse_chooser = FuseChooser(build)
        sizes = [wire.size for wire in build.wires.values()]
        self.pinned = np.array([size is not None for size in sizes], dtype=bool)
        start = START_SIZE[build.policy.conductors]
        self.start = Choice(
            np.array([self.facts.index[size or start] for size in sizes], dtype=int),
            self.fuse_chooser.near(START_RATING_A),
        )
        self.network = Network(build)
        self.starters = [
            number for number, load in enumerate(build.parts_of_kind("load")) if starts(load)
        ]
        self.worst = worst_positions(build)
        self.unsearched = reached.unsearched | self.worst.unsearched
        self._solve_in(
            [
                (state, replace(state.state, supply=supply))
                for state in reached.states
                for supply in DESIGN_SUPPLIES
            ]
        )

    def _solve_in(self, rows: Sequence[tuple[DesignState, State]]) -> None:
        """From now on solve in these states, each with the design state that it stands for."""
        self.solved = [state for _, state in rows]
        designed = [design for design, _ in rows]
        self.brief = np.array([design.brief for design in designed], dtype=bool)
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
        rows = [*zip(self.ways.designed, self.solved, strict=True)]
        for at in fewest_that_tell(most_a, extra_a):
            state, row = extra[at]
            cranking = any(network.loads_a(row)[self.starters] > CRANKS_FROM_A)
            rows.append((DesignState(state, {}, brief=cranking), state))
            settled.append(row)
        self._solve_in(rows)
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
        for number, state in enumerate(told("Solving the design states", self.solved)):
            again = number > 0 and self.ways.designed[number] is self.ways.designed[number - 1]
            settled.append(network.settle(state, settled[-1] if again else None))
        first = self._round(self.start, network, settled, fitted_ohm)
        settled = self._with_the_worst(network, first)
        return self._round(self.start, network, settled, fitted_ohm)

    def _deciding(self, first: Round) -> dict[int, float]:
        """Numbers, and what is taken there, of the worst positions of wires and fuses for which a
        little more would decide: alone, with less lost in the trunk, a load takes a little more."""
        rating_a = self.fuse_chooser.choose(first.fuses.current_a)
        larger_a = self.fuse_chooser.choose(first.fuses.current_a * ALONE)
        must_a = self.facts.must_carry_a(first.wires.lasting_a, rating_a)
        more_a = self.facts.must_carry_a(first.wires.lasting_a * ALONE, rating_a)
        thicker = first.ampacities.floors(must_a) != first.ampacities.floors(more_a)
        fuses = [part.id for part in self.build.parts_of_kind("fuse")]
        deciding = [("fuse", fuses[at]) for at in np.flatnonzero(rating_a != larger_a)]
        wires = list(self.build.wires)
        deciding += [("wire", wires[at]) for at in np.flatnonzero(thicker & ~self.pinned)]
        return dict(self.worst.of[carrier] for carrier in deciding if carrier in self.worst.of)

    def dark(self, current: Round) -> list[str]:
        """The loads that have a way in some design state, and are fed in none."""
        states = self.ways.energised(current.network, current.settled)
        fed = {load for state in states for load in state.paths}
        asked = {load: None for state in self.reached.states for load in state.paths}
        return [load for load in asked if load not in fed]

    def next_round(self, choice: Choice, before: Round, every: bool = False) -> Round:
        """Near the round before, with the wires as warm as they would be.

        What flows in the worst positions hardly changes with the sizes: it is solved again where
        ``every`` state is.
        """
        conductor_c = before.ampacities.conductor_c(choice.size, before.wires.lasting_a)
        fitted_ohm = self._ohm(choice, conductor_c)
        network = before.network.resized(fitted_ohm, choice.rating_a.tolist())
        rows = list(told("Settling sizes", before.settled))
        settled = [
            near if design.heats and not every else network.settle(near.state, near)
            for design, near in zip(self.ways.designed, rows, strict=True)
        ]
        return self._round(choice, network, settled, fitted_ohm)

    def _ohm(self, choice: Choice, conductor_c: Vector) -> Vector:
        ohm_20c = self.facts.table.ohm_20c[np.arange(len(choice.size)), choice.size]
        warm_ohm: Vector = ohm_20c * copper_factor(conductor_c)
        return warm_ohm

    def _round(
        self, choice: Choice, network: Network, settled: Sequence[Settled], fitted_ohm: Vector
    ) -> Round:
        wire_a = np.array([network.wire_a(row) for row in settled])
        wires = peaks(wire_a, self.brief)
        return Round(
            choice,
            network,
            settled,
            fitted_ohm,
            wires,
            peaks(np.array([network.fuse_a(row) for row in settled]), self.brief),
            self.ways.worst_drops(network, settled, wire_a),
            Ampacities(self.facts, choice.size, wire_a, wires),
        )

    def choose(self, current: Round) -> Choice:
        """Sizes and ratings for the currents of a round."""
        rating_a = self.fuse_chooser.choose(current.fuses.current_a)
        chooser = self._chooser(current, rating_a)
        chooser.choose()
        return self._chosen(chooser, current, rating_a)

    def trim(self, current: Round) -> Choice:
        """Take back copper that the rounds added and that the settled build does not need."""
        chooser = self._settled_chooser(current)
        chooser.trim()
        return self._chosen(chooser, current, current.choice.rating_a)

    def widen(self, current: Round) -> Choice:
        """Make thicker what carries too little since its neighbours got thinner and count more."""
        must_a = self.facts.must_carry_a(current.wires.lasting_a, current.choice.rating_a)
        thicker = np.maximum(current.choice.size, current.ampacities.floors(must_a))
        size = np.where(self.pinned, current.choice.size, thicker)
        return Choice(size, current.choice.rating_a)

    def _chosen(self, chooser: WireChooser, current: Round, rating_a: Vector) -> Choice:
        return Choice(np.where(self.pinned, current.choice.size, chooser.sizes), rating_a)

    def _settled_chooser(self, current: Round) -> WireChooser:
        """A chooser that holds the sizes as they are, and for a pinned wire what it should be."""
        chooser = self._chooser(current, current.choice.rating_a)
        if self.pinned.any():
            chooser.choose()
        chooser.hold(np.where(self.pinned, chooser.sizes, current.choice.size))
        return chooser

    def _chooser(self, current: Round, rating_a: Vector) -> WireChooser:
        must_a = self.facts.must_carry_a(current.wires.lasting_a, rating_a)
        return WireChooser(
            self.facts,
            current.ampacities.floors(must_a),
            current.drops,
            current.ampacities.hot_ohm(current.wires.lasting_a),
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
            last.fuses,
            last.wires,
            last.ampacities,
            self._settled_chooser(last),
            self.worst,
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
        )
        found = findings(self.build, sizing, solutions, self.facts.unprotected)
        circuits = circuit_sizings(sizing, solutions, found)
        return replace(sizing, findings=tuple(found), circuits=circuits)

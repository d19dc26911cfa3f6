"""A while of driving or standing as a mixture of states, each solved."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from circuitry.budget.lasting import share_in_heat
from circuitry.budget.scenarios import ALWAYS, Use
from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Scenario, Terminal
from circuitry.design.state import State
from circuitry.devices.alternator import REGULATED_V
from circuitry.devices.battery import charging_supply, supply_at
from circuitry.devices.load import rated_current_a
from circuitry.devices.moving import LIT
from circuitry.errors import UnusableInput
from circuitry.network.equations import Vector
from circuitry.network.network import Change, Network, Settled
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Path
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import unite

GIVERS = ("alternator", "converter", "solar", "second source")
DARK = "dark"
BESIDE_LOADS = ("coil", "electronics")
"""Elements that take current and are no loads: coils, and what modules and boxes need."""
LEAST_SHARE = 1e-9


@dataclass(frozen=True)
class Moment:
    """A state, what counts of it in the mean over the scenario, and the loads that are left off
    whatever the switches say."""

    weight: float
    state: State
    off: frozenset[str]


@dataclass(frozen=True)
class Mixture:
    """The moments of a scenario, the first with least on; and the loads that nothing feeds with its
    key, or that cannot be on beside the others."""

    scenario: Scenario
    moments: tuple[Moment, ...]
    not_fed: tuple[str, ...]


@dataclass(frozen=True)
class Mean:
    """The mean over a scenario: A by load, by other part, by fuse and by output; what gives, and
    the volts at the posts of the battery. ``base`` is solved of the first moment."""

    load_a: Mapping[str, float]
    other_a: Mapping[str, float]
    fuse_a: Mapping[str, float]
    output_a: Mapping[Terminal, float]
    given_a: float
    battery_a: float
    posts_v: float
    base: Settled

    @property
    def draws_a(self) -> float:
        """What the car takes, the charging of its battery left out."""
        return self.battery_a + self.given_a


def mixture(sizing: Sizing, scenario: Scenario, used: Mapping[str, Use]) -> Mixture:
    """The states of a scenario, one after the other: what comes and goes is on for its share of the
    time, one thing after the other as far as there is time. Loads that are shed are off in all."""
    build = sizing.build
    shed = set(scenario.shed)
    wanted = [build.parts[load] for load, use in used.items() if use.share > 0 and load not in shed]
    alive = dict(_alive(sizing, sorted(wanted, key=rated_current_a, reverse=True), scenario.key))
    lasting = {load: path for load, path in alive.items() if used[load].share >= ALWAYS}
    seldom = {load: path for load, path in alive.items() if load not in lasting}
    off = frozenset(load for load, use in used.items() if use.share < ALWAYS) | shed
    turns = []
    for share in sorted({used[load].share for load in seldom}):
        group = {load: path for load, path in seldom.items() if used[load].share == share}
        waiting = set(group)
        for united in unite(build, paths_of(build), {**group, **lasting}, group):
            on = waiting & united.paths.keys()
            waiting -= on
            turns.append((share, {load: group[load] for load in group if load in on}))
    missed = {load.id for load in wanted}
    moments: list[Moment] = []
    for weight, on_now in schedule(turns):
        together = {**on_now, **lasting}
        state, fed = State(), set[str]()
        if together:
            united = unite(build, paths_of(build), together)[0]
            state, fed = united.state, set(united.paths)
        missed -= fed
        left_off = off - on_now.keys()
        moments += _phases(weight, _of(scenario, state), left_off, _flashing(build, fed))
    return Mixture(scenario, tuple(moments), tuple(sorted(missed)))


def schedule(
    turns: Sequence[tuple[float, Mapping[str, Path]]],
) -> Iterator[tuple[float, dict[str, Path]]]:
    """Parts of the time and what is on in each: every turn begins where the one before ends, round
    and round, so that as few as can be are on at once. The part with least on comes first."""
    spans = []
    begins = 0.0
    for share, on in turns:
        spans.append((begins, share, on))
        begins = (begins + share) % 1.0
    edges = sorted({0.0, 1.0, *((begin + share) % 1.0 for begin, share, _ in spans)})
    parts = []
    for first, last in pairwise(edges):
        middle = (first + last) / 2
        now = [on for begin, share, on in spans if (middle - begin) % 1.0 < share]
        parts.append((last - first, {load: path for on in now for load, path in on.items()}))
    yield from sorted((row for row in parts if row[0] > LEAST_SHARE), key=lambda row: len(row[1]))


def _phases(weight: float, state: State, off: frozenset[str], flashes: bool) -> Iterator[Moment]:
    if not flashes:
        yield Moment(weight, state, off)
        return
    for phase in (LIT, DARK):
        yield Moment(weight / 2, replace(state, phase=phase), off)


def _of(scenario: Scenario, state: State) -> State:
    values = {**state.values, "engine_rpm": scenario.engine_rpm}
    share = share_in_heat(scenario.outside_c) if scenario.charges else 0.0
    return replace(state, key=scenario.key, values=values, alternator_share=share)


def _flashing(build: Build, loads: Collection[str]) -> bool:
    duties = catalogue().loads
    return any(duties[build.parts[load].catalogue or ""].duty == "flashing" for load in loads)


def _alive(sizing: Sizing, loads: Sequence[Part], key: str) -> Iterator[tuple[str, Path]]:
    """A way to each load with the key where it is."""
    build = sizing.build
    keys = build.parts_of_kind("key switch")
    at = {keys[0].id: key} if keys else {}
    for load in loads:
        path = sizing.easiest.get(load.id)
        if path and any(path.positions.get(part, to) != to for part, to in at.items()):
            path = paths_of(build).to_load(load, at)
        if path is not None:
            yield load.id, replace(path, positions={**path.positions, **at})


class Means:
    """Solves mixtures together, each moment with the battery as it then is."""

    def __init__(self, network: Network) -> None:
        self.network, self.build = network, network.build
        self._battery = self.build.parts_of_kind("battery")[0]
        self._regulated_v = max(
            (
                part.number("regulated_v", REGULATED_V)
                for part in self.build.parts_of_kind("alternator")
            ),
            default=REGULATED_V,
        )

    def of(self, mixtures: Sequence[Mixture]) -> list[Mean | UnusableInput]:
        """The mean of each mixture, or why it cannot be solved."""
        rows = [(mixture, moment) for mixture in mixtures for moment in mixture.moments]
        changes = [self._left_off(moment.off) for _, moment in rows]
        states = [self._state(mixture.scenario, moment, charged=True) for mixture, moment in rows]
        solved = self.network.try_many(states, doing="Solving scenarios", changes=changes)
        again = [
            at
            for at, ((mixture, _), row) in enumerate(zip(rows, solved, strict=True))
            if mixture.scenario.engine_rpm > 0
            and not isinstance(row, UnusableInput)
            and self._battery_a(row) > 0
        ]
        giving = self.network.try_many(
            [self._state(rows[at][0].scenario, rows[at][1], charged=False) for at in again],
            near=[row if isinstance(row := solved[at], Settled) else None for at in again],
            doing="Solving scenarios on the battery",
            changes=[changes[at] for at in again],
        )
        for at, row in zip(again, giving, strict=True):
            solved[at] = row
        found = iter(solved)
        return [self._mean(mixture, [next(found) for _ in mixture.moments]) for mixture in mixtures]

    def asked_a(self, mixtures: Sequence[Mixture]) -> list[float]:
        """What each would take at the volts of a battery that is charged: what its alternator has
        to give."""
        stiff = [
            replace(
                mixture,
                moments=tuple(
                    replace(moment, state=replace(moment.state, alternator_share=0.0))
                    for moment in mixture.moments
                ),
            )
            for mixture in mixtures
        ]
        rows = [(mixture, moment) for mixture in stiff for moment in mixture.moments]
        supply = replace(
            supply_at(self._battery, 1.0), emf_v=self._regulated_v, resistance_ohm=1e-4
        )
        states = [replace(moment.state, supply=supply) for _, moment in rows]
        changes = [self._left_off(moment.off) for _, moment in rows]
        found = iter(self.network.try_many(states, changes=changes))
        means = [self._mean(mixture, [next(found) for _ in mixture.moments]) for mixture in stiff]
        return [mean.draws_a if isinstance(mean, Mean) else 0.0 for mean in means]

    def _state(self, scenario: Scenario, moment: Moment, charged: bool) -> State:
        args = self._battery, scenario.charge, scenario.outside_c
        charges = charged and scenario.engine_rpm > 0
        supply = charging_supply(*args, self._regulated_v) if charges else supply_at(*args)
        return replace(moment.state, supply=supply)

    def _left_off(self, loads: frozenset[str]) -> Change:
        rows = self.network.rows_of
        return Change(opens={row for load in loads for row in rows.get(load, ())})

    def _battery_a(self, row: Settled) -> float:
        return 0.0 - float(row.operating.element_a[self.network.layout.source])

    def _given_a(self, row: Settled) -> float:
        kinds = (self.network.layout.by_owner(kind, row.operating.element_a) for kind in GIVERS)
        return 0.0 - sum(amps for each in kinds for amps in each.values())

    def _mean(
        self, mixture: Mixture, rows: Sequence[Settled | UnusableInput]
    ) -> Mean | UnusableInput:
        settled: list[Settled] = []
        for row in rows:
            if isinstance(row, UnusableInput):
                return row
            settled.append(row)
        weights = np.array([moment.weight for moment in mixture.moments])

        def mean(figures: Sequence[Vector | float]) -> Vector:
            return np.tensordot(weights, np.array(figures), axes=1)

        layout, network = self.network.layout, self.network
        load_a = mean([abs(network.loads_a(row)) for row in settled]).tolist()
        other_a: dict[str, float] = {}
        for kind in BESIDE_LOADS:
            owners, at = layout.kind(kind)
            amps = mean([abs(row.operating.element_a[at]) for row in settled])
            for owner, amp in zip(owners, amps.tolist(), strict=True):
                other_a[owner] = other_a.get(owner, 0.0) + amp
        fuse_a = mean([abs(network.fuse_a(row)) for row in settled]).tolist()
        output_a: dict[Terminal, float] = {}
        amps = mean([abs(row.operating.element_a[layout.output_rows]) for row in settled])
        for output, amp in zip(layout.outputs, amps.tolist(), strict=True):
            output_a[output] = max(amp, output_a.get(output, 0.0))
        return Mean(
            dict(zip(layout.loads, load_a, strict=True)),
            other_a,
            dict(zip(layout.kind("fuse")[0], fuse_a, strict=True)),
            output_a,
            float(mean([self._given_a(row) for row in settled])),
            float(mean([self._battery_a(row) for row in settled])),
            float(mean([network.battery_v(row) for row in settled])),
            settled[0],
        )

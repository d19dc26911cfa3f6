"""Scenarios solved, and what follows for alternator and battery.

What a car draws is the mean over time of solved states: one with everything on that is on all the
time, and for what comes and goes one with that on too, each by its share of the time; where
something flashes, the mean of lit and dark. The battery is what it is at its charge and in that
cold, or takes what it accepts while the alternator has something left.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from circuitry.budget.cranking import Cranking, Fitting, cranking, fit, least_battery
from circuitry.budget.judged import TOLD_A, Judge
from circuitry.budget.lasting import (
    HALF,
    IDLES_H,
    SPENT,
    SULPHATES_BELOW,
    bears_a,
    days_until,
    hours_until,
    self_discharge_a,
    share_in_heat,
)
from circuitry.budget.mixture import Mean, Means, Mixture, mixture
from circuitry.budget.result import Budget, Drawn, Parked, Point, ScenarioBudget, Sum
from circuitry.budget.scenarios import SHOW, USUAL_SCENARIOS, Use, scenarios_of, uses
from circuitry.catalogue import catalogue
from circuitry.design.model import Scenario
from circuitry.devices.alternator import CURVE, USUAL_A, alternator_share
from circuitry.errors import UnusableInput
from circuitry.finding import Mend
from circuitry.network.network import Network
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import in_words

SEEN_A = 0.01
"""A current that is told of a car that is used; of a parked one ``TOLD_A``."""


def budget(sizing: Sizing, network: Network) -> Budget:
    """The budget of a sized build; ``network`` is that of the sized build."""
    return _Budget(sizing, network).made()


def with_led_lamps(sizing: Sizing) -> Budget:
    """The same with every filament lamp for which there is one changed for LED, in the sizes that
    the build has."""
    build = sizing.build
    led_for = catalogue().led_for
    parts = {
        part.id: replace(part, catalogue=led_for[part.catalogue or ""], figures={})
        if part.kind == "load" and part.catalogue in led_for
        else part
        for part in build.parts.values()
    }
    lit = replace(build, parts=parts)
    return budget(replace(sizing, build=lit), Network(lit))


class _Budget:
    def __init__(self, sizing: Sizing, network: Network) -> None:
        self.sizing, self.build, self.means = sizing, sizing.build, Means(network)
        self.network = network
        self.battery = self.build.parts_of_kind("battery")[0]
        self.alternators = self.build.parts_of_kind("alternator")
        self.rated_a = sum(part.number("rated_a", USUAL_A) for part in self.alternators)

    def made(self) -> Budget:
        scenarios = scenarios_of(self.build)
        used = [uses(self.build, scenario) for scenario in scenarios]
        mixtures = [mixture(self.sizing, *row) for row in zip(scenarios, used, strict=True)]
        fuller = {
            number: mixture(self.sizing, replace(scenario, shed=()), used[number])
            for number, scenario in enumerate(scenarios)
            if scenario.shed
        }
        solved = self.means.of([*mixtures, *fuller.values()])
        before_shed = dict(zip(fuller, solved[len(mixtures) :], strict=True))
        rows, problems, bases = [], {}, {}
        asked = iter(self._asked_a(scenarios, mixtures, solved))
        for number, (scenario, mixed) in enumerate(zip(scenarios, mixtures, strict=True)):
            mean = solved[number]
            asked_a = next(asked)
            if isinstance(mean, UnusableInput):
                problems[scenario.id] = mean.message
                continue
            bases[scenario.id] = mean.base
            full = before_shed.get(number)
            rows.append(
                self._row(
                    mixed, used[number], mean, full if isinstance(full, Mean) else mean, asked_a
                )
            )
        cranked = cranking(self.sizing, self.network, [m.scenario for m in mixtures], bases)
        judge = Judge(self.build, cranked)
        rows = [judge.judged(row) for row in rows]
        parked = self._parked(rows, cranked)
        return Budget(
            tuple(rows),
            problems,
            parked,
            cranked,
            self._alternator(rows),
            least_battery(
                self.sizing,
                self.network,
                bases.get(cranked.scenario) if cranked else None,
                parked.draw_a if parked else 0.0,
            ),
            tuple(Point(rpm, self.rated_a * share) for rpm, share in CURVE),
            self.build.policy.charge_margin,
            self.build.policy.parked_days,
            self._second_battery_h(rows),
        )

    def _asked_a(
        self, scenarios: Sequence[Scenario], mixtures: Sequence[Mixture], solved: Sequence[object]
    ) -> list[float]:
        """What an alternator has to give in each: as solved where it does, at charging volts where
        the battery helps."""
        short = [
            number
            for number, scenario in enumerate(scenarios)
            if scenario.engine_rpm > 0
            and isinstance(mean := solved[number], Mean)
            and mean.battery_a > 0
        ]
        asked_a = dict(zip(short, self.means.asked_a([mixtures[n] for n in short]), strict=True))
        return [
            asked_a.get(number, mean.draws_a if isinstance(mean := solved[number], Mean) else 0.0)
            for number in range(len(scenarios))
        ]

    def _row(
        self, mixed: Mixture, used: Mapping[str, Use], mean: Mean, full: Mean, asked_a: float
    ) -> ScenarioBudget:
        scenario, build = mixed.scenario, self.build
        gives = alternator_share(scenario.engine_rpm) * share_in_heat(scenario.outside_c)
        runs = scenario.engine_rpm > 0 and scenario.charges
        most_a = self.rated_a * float(gives) if runs else 0.0
        needs_a = None
        if runs:
            helps_a = bears_a(self.battery, scenario.charge, HALF, IDLES_H)
            idles = scenario.pace == "idle"
            of_it_a = asked_a - helps_a if idles else asked_a * (1 + build.policy.charge_margin)
            needs_a = max(of_it_a, 0.0) / float(gives)
        return ScenarioBudget(
            id=scenario.id,
            name=scenario.name,
            key=scenario.key,
            road=scenario.road,
            pace=scenario.pace,
            engine_rpm=scenario.engine_rpm,
            outside_c=scenario.outside_c,
            charge=scenario.charge,
            charges=scenario.charges,
            usual=scenario == USUAL_SCENARIOS.get(scenario.id),
            own=scenario.id not in USUAL_SCENARIOS,
            when=in_words(build, mixed.moments[0].state),
            draws_a=mean.draws_a,
            measured_a=scenario.measured_a,
            alternator_a=mean.given_a,
            alternator_most_a=most_a,
            battery_a=mean.battery_a,
            posts_v=mean.posts_v,
            loads=tuple(self._drawn(scenario, used, mean, full)),
            others=self._others(scenario, mean),
            circuits=self._circuits(mean),
            feeds=self._feeds(mean),
            not_fed=tuple(build.parts[load].name for load in mixed.not_fed),
            shed_a=max(full.draws_a - mean.draws_a, 0.0),
            could_shed=(),
            needs_a=needs_a,
            lasts_h=None,
            until="",
            verdict="fine",
            says="",
        )

    def _drawn(
        self, scenario: Scenario, used: Mapping[str, Use], mean: Mean, full: Mean
    ) -> Iterator[Drawn]:
        for load in self.build.parts_of_kind("load"):
            use, shed = used.get(load.id), load.id in scenario.shed
            amps = (full if shed else mean).load_a[load.id]
            least_a = TOLD_A if scenario.key == "off" else SEEN_A
            if amps < least_a and not shed and load.id not in scenario.on:
                continue
            share, usual, why = (
                (use.share, use.usual, use.why) if use else (1.0, 1.0, "by its feed and its switch")
            )
            yield Drawn(load.id, load.name, load.circuit, amps, share, usual, why, shed)

    def _others(self, scenario: Scenario, mean: Mean) -> tuple[Sum, ...]:
        least_a = TOLD_A if scenario.key == "off" else SEEN_A
        rows = [
            Sum(part, self.build.parts[part].name, amps)
            for part, amps in mean.other_a.items()
            if amps >= least_a
        ]
        return tuple(sorted(rows, key=lambda row: -row.amps))

    def _circuits(self, mean: Mean) -> tuple[Sum, ...]:
        sums: dict[str, float] = {}
        for load in self.build.parts_of_kind("load"):
            if load.circuit:
                sums[load.circuit] = sums.get(load.circuit, 0.0) + mean.load_a[load.id]
        rows = [
            Sum(circuit, self.build.circuits[circuit].name, amps)
            for circuit, amps in sums.items()
            if amps >= TOLD_A
        ]
        return tuple(sorted(rows, key=lambda row: -row.amps))

    def _feeds(self, mean: Mean) -> tuple[Sum, ...]:
        """What main fuses, the buses of panels and modules carry."""
        sums: dict[str, Sum] = {}
        for fuse in self.build.parts_of_kind("fuse"):
            amps = mean.fuse_a[fuse.id]
            if fuse.fitted is None:
                sums[fuse.id] = Sum(fuse.id, fuse.name, amps, fuse.number("rating_a", 0) or None)
                continue
            panel = self.build.parts[fuse.fitted.panel]
            bus = next(way.bus for way in panel.ways if way.name == fuse.fitted.way)
            name = f"{panel.id}.{bus}"
            before = sums.get(name, Sum(name, f"{panel.name}, {bus}", 0.0))
            sums[name] = replace(before, amps=before.amps + amps)
        for output, amps in mean.output_a.items():
            part = self.build.parts[output.part]
            before = sums.get(part.id, Sum(part.id, part.name, 0.0))
            sums[part.id] = replace(before, amps=before.amps + amps)
        rows = (row for row in sums.values() if row.amps >= TOLD_A)
        return tuple(sorted(rows, key=lambda row: -row.amps))

    def _parked(self, rows: Sequence[ScenarioBudget], cranked: Cranking | None) -> Parked | None:
        standing = [row for row in rows if row.key == "off"]
        if not standing:
            return None
        row = max(
            standing, key=lambda row: row.draws_a if row.measured_a is None else row.measured_a
        )
        measured = row.measured_a is not None
        amps = row.battery_a if row.measured_a is None else row.measured_a
        starts_at = cranked.starts_at(row.outside_c) if cranked else None

        def days(down_to: float) -> float:
            return days_until(self.battery, amps, row.charge, down_to, row.outside_c)

        return Parked(
            amps,
            measured,
            self_discharge_a(self.battery, row.outside_c),
            days(SULPHATES_BELOW),
            days(HALF),
            None if starts_at is None else days(starts_at),
            self.build.policy.parked_days,
        )

    def _second_battery_h(self, rows: Sequence[ScenarioBudget]) -> float | None:
        """How long a second battery like the first, for what is on at a show, lasts until it is
        nearly flat: the first then starts the engine as if nothing had been."""
        shows = [row for row in rows if row.id == SHOW and row.battery_a > TOLD_A]
        return next((hours_until(self.battery, row.battery_a, 1.0, SPENT) for row in shows), None)

    def _alternator(self, rows: Sequence[ScenarioBudget]) -> Fitting:
        running = [row for row in rows if row.needs_a]
        has = self.rated_a or None
        if not running:
            return Fitting(has, None, "No scenario runs the engine.")
        margin = self.build.policy.charge_margin
        worst = max(running, key=lambda row: row.needs_a or 0.0)
        usual = (row.rated_a for row in catalogue().alternators)
        least_a = next((rated_a for rated_a in usual if rated_a >= (worst.needs_a or 0.0)), None)
        mends: tuple[Mend, ...] = ()
        if len(self.alternators) == 1 and least_a and least_a > self.rated_a:
            mends = (fit(self.alternators[0], f"Fit {least_a:g} A", {"rated_a": least_a}),)
        return Fitting(
            has,
            least_a,
            f"{worst.name} asks most: {worst.needs_a:.0f} A. On the road {100 * margin:.0f} % more "
            "is for the battery; while it idles the battery may help for an hour, to half.",
            mends,
        )

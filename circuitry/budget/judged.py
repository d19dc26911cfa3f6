"""The verdict on a scenario: how long the battery bears it, and what could be left off."""

from dataclasses import replace

from circuitry.budget.cranking import Cranking
from circuitry.budget.lasting import HALF, IDLES_H, SPENT, days_until, hours_until
from circuitry.budget.result import Drawn, ScenarioBudget
from circuitry.catalogue import catalogue
from circuitry.design.model import Build

TOLD_A = 0.0005
SHEDS = "comfort"
"""The criticality of circuits that may be shed."""
SHOW_H, HOME_H = 6.0, 0.5
"""How long the battery is to last with the engine off, and to get home without an alternator."""
HELD_SHARE = 0.02
"""What the battery may give in the mean and the alternator still counts as enough."""


class Judge:
    """Judges the scenarios of a build."""

    def __init__(self, build: Build, cranked: Cranking | None) -> None:
        self.build, self.cranked = build, cranked
        self.battery = build.parts_of_kind("battery")[0]
        self.alternators = build.parts_of_kind("alternator")

    def judged(self, row: ScenarioBudget) -> ScenarioBudget:
        """The verdict on a scenario, how long the battery bears it and what could be shed."""
        gives_a = row.battery_a
        if row.measured_a is not None:
            gives_a = (
                row.measured_a if row.engine_rpm == 0 else gives_a + row.measured_a - row.draws_a
            )
        if row.key == "crank":
            return _of_cranking(row, self.cranked)
        if row.engine_rpm > 0 and row.charges:
            return self._running(row, gives_a)
        starts_at = self.cranked.starts_at(row.outside_c) if self.cranked else None
        down_to, until = (
            (starts_at, "it no longer starts") if starts_at is not None else (HALF, "half")
        )
        if row.engine_rpm > 0:
            down_to, until = SPENT, "it is flat and the engine stops"
        if gives_a < TOLD_A:
            return replace(row, says="Nothing is drawn.")
        lasts_h = hours_until(self.battery, gives_a, row.charge, down_to)
        if row.key == "off":
            args = self.battery, gives_a, row.charge
            half_h, lasts_h = (24 * days_until(*args, to, row.outside_c) for to in (HALF, down_to))
            wanted_h = 24 * self.build.policy.parked_days
            says = f"Half empty after {duration(half_h)}"
            if half_h < wanted_h:
                says += f", and {self.build.policy.parked_days:g} days are wanted"
            if starts_at is not None:
                says += f"; no longer starts after {duration(lasts_h)}"
            verdict = "fine" if half_h >= wanted_h else "look"
            return replace(row, lasts_h=half_h, until="half", verdict=verdict, says=f"{says}.")
        says = f"Lasts {duration(lasts_h)} until {until}."
        wanted_h = SHOW_H if row.engine_rpm == 0 else HOME_H
        if lasts_h < wanted_h:
            says = f"{says[:-1]}, and {wanted_h:g} h are wanted."
        verdict = "fine" if lasts_h >= wanted_h else "look"
        return replace(row, lasts_h=lasts_h, until=until, verdict=verdict, says=says)

    def _running(self, row: ScenarioBudget, gives_a: float) -> ScenarioBudget:
        if gives_a <= HELD_SHARE * max(row.draws_a, 1.0):
            spare_a = row.alternator_most_a - row.draws_a
            says = f"The alternator carries it, with {spare_a:.0f} A left for the battery."
            return replace(row, says=says)
        lasts_h = hours_until(self.battery, gives_a, row.charge, HALF)
        if row.pace == "idle" and lasts_h >= IDLES_H and self.alternators:
            says = f"The battery helps with {gives_a:.0f} A: half empty after {duration(lasts_h)}."
            return replace(row, lasts_h=lasts_h, until="half", says=says)
        if not self.alternators:
            says = f"No alternator: the battery is half empty after {duration(lasts_h)}."
            return replace(row, lasts_h=lasts_h, until="half", verdict="look", says=says)
        if row.alternator_a < HELD_SHARE * row.alternator_most_a:
            says = (
                "The alternator gives nothing: its exciter is not fed, or its cable is open. "
                f"The battery is half empty after {duration(lasts_h)}."
            )
            return replace(row, lasts_h=lasts_h, until="half", verdict="stop", says=says)
        could = self._could_shed(row, gives_a)
        says = (
            f"The battery gives {gives_a:.0f} A of it and is half empty after "
            f"{duration(lasts_h)}: an alternator of {row.needs_a:.0f} A, or less that is on."
        )
        return replace(
            row, lasts_h=lasts_h, until="half", verdict="look", says=says, could_shed=could
        )

    def _could_shed(self, row: ScenarioBudget, too_much_a: float) -> tuple[str, ...]:
        """Whole circuits of comfort, the largest first, until the rest is carried; then those that
        are not needed for that after all are left on."""
        groups: dict[str, list[Drawn]] = {}
        for drawn in row.loads:
            if not drawn.shed and self._criticality(drawn) == SHEDS and drawn.amps >= TOLD_A:
                groups.setdefault(drawn.circuit or drawn.load, []).append(drawn)
        order = sorted(groups.values(), key=lambda group: -sum(drawn.amps for drawn in group))
        chosen: list[list[Drawn]] = []
        left_a = too_much_a
        for group in order:
            if left_a <= 0:
                break
            chosen.append(group)
            left_a -= sum(drawn.amps for drawn in group)
        if left_a > 0:
            return ()
        for group in sorted(chosen, key=lambda group: sum(drawn.amps for drawn in group)):
            amps = sum(drawn.amps for drawn in group)
            if left_a + amps <= 0:
                chosen.remove(group)
                left_a += amps
        return tuple(drawn.load for group in chosen for drawn in group)

    def _criticality(self, drawn: Drawn) -> str:
        if drawn.circuit:
            return self.build.circuits[drawn.circuit].criticality
        part = self.build.parts[drawn.load]
        return catalogue().loads[part.catalogue or ""].criticality


def _of_cranking(row: ScenarioBudget, cranked: Cranking | None) -> ScenarioBudget:
    if cranked is None:
        return replace(row, verdict="look", says="Nothing turns the engine in this scenario.")
    drops = f"; {', '.join(cranked.drop_out)} drop out" if cranked.drop_out else ""
    if cranked.turns_percent < cranked.turns_least_percent:
        says = f"The starter turns at {cranked.turns_percent:.0f} %: too slow to start"
        return replace(row, verdict="stop", says=f"{says}{drops}.")
    says = f"{cranked.posts_v:.1f} V at the posts, at least {cranked.least_v:.1f} V are usual"
    fine = cranked.posts_v >= cranked.least_v and not cranked.drop_out
    return replace(row, verdict="fine" if fine else "look", says=f"{says}{drops}.")


def duration(hours: float) -> str:
    """A length of time as people say it: ``40 min``, ``5.2 h``, ``23 days``."""
    if hours < 2:
        return f"{hours * 60:.0f} min"
    if hours < 48:
        return f"{hours:.1f} h"
    days = hours / 24
    return f"{days:.0f} days" if days < 700 else "over 2 years"

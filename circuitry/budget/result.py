"""What a budget answers."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.budget.cranking import Cranking, Fitting


@dataclass(frozen=True)
class Drawn:
    """A load in a scenario: what it draws in the mean, for which share of the time, and why."""

    load: str
    name: str
    circuit: str | None
    amps: float
    share: float
    usual: float
    why: str
    shed: bool


@dataclass(frozen=True)
class Sum:
    """What one circuit, or one feed, carries in the mean; ``rating_a`` where it has one."""

    id: str
    name: str
    amps: float
    rating_a: float | None = None


@dataclass(frozen=True)
class ScenarioBudget:
    """One scenario: what the car draws, what the alternator gives and could give at that speed and
    in that heat, what the battery gives (below zero: takes), the volts at its posts.

    ``others`` are coils, modules and boxes that take current and are no loads. ``needs_a`` is the
    rating of the least alternator that would carry it with the margin of the policy, ``shed_a``
    what is shed, ``could_shed`` what would do where it does not. ``lasts_h`` is how long the
    battery bears it, ``until`` down to what.
    """

    id: str
    name: str
    key: str
    road: str
    pace: str
    engine_rpm: float
    outside_c: float
    charge: float
    charges: bool
    usual: bool
    own: bool
    when: str
    draws_a: float
    measured_a: float | None
    alternator_a: float
    alternator_most_a: float
    battery_a: float
    posts_v: float
    loads: tuple[Drawn, ...]
    others: tuple[Sum, ...]
    circuits: tuple[Sum, ...]
    feeds: tuple[Sum, ...]
    not_fed: tuple[str, ...]
    shed_a: float
    could_shed: tuple[str, ...]
    needs_a: float | None
    lasts_h: float | None
    until: str
    verdict: str
    says: str


@dataclass(frozen=True)
class Parked:
    """How long a parked battery lasts at a draw: days until it sulphates if it is left so, until it
    is half empty, and until it no longer starts the engine."""

    draw_a: float
    measured: bool
    by_itself_a: float
    to_sulphation_days: float
    to_half_days: float
    to_no_start_days: float | None
    wanted_days: float


@dataclass(frozen=True)
class Point:
    """What the alternators of a car give at an engine speed, in A."""

    engine_rpm: float
    amps: float


@dataclass(frozen=True)
class Budget:
    """All scenarios, and the answers that follow from them."""

    scenarios: tuple[ScenarioBudget, ...]
    problems: Mapping[str, str]
    parked: Parked | None
    cranking: Cranking | None
    alternator: Fitting
    battery: Fitting
    curve: tuple[Point, ...]
    margin: float
    parked_days: float
    second_battery_h: float | None

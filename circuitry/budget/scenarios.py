"""What cars do, and how much of that time each load is on."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from circuitry.catalogue import catalogue
from circuitry.catalogue.tables import Habit
from circuitry.design.model import CRANKING, Build, Part, Scenario
from circuitry.sizing.roads import COLD_C, COLD_CHARGE, on_anyway

PARKED, ARMED, CRANK, SHOW, FAILED = "parked", "parked-with-alarm", "cranking", "show", "failed"
IDLE_RPM, TOWN_RPM, MOTORWAY_RPM = 900.0, 1800.0, 3000.0
"""What an engine turns at; typical, the builder's gearing says."""
RAIN = "night and rain"
USUAL_SCENARIOS: Mapping[str, Scenario] = {
    row.id: row
    for row in (
        Scenario(PARKED, "Parked", key="off", charge=1.0),
        Scenario(ARMED, "Parked with alarm", key="off", charge=1.0),
        Scenario("rain-idle", "Night and rain, idling", "run", RAIN, "idle", IDLE_RPM, 5.0),
        Scenario("rain-town", "Night and rain, in town", "run", RAIN, "town", TOWN_RPM, 5.0),
        Scenario(
            "rain-motorway", "Night and rain, motorway", "run", RAIN, "motorway", MOTORWAY_RPM, 5.0
        ),
        Scenario("hot-queue", "Hot day in a queue", "run", "day", "idle", IDLE_RPM, 35.0),
        Scenario(SHOW, "Show, engine off", "accessory", "", "show", charge=1.0),
        Scenario(CRANK, "Cranking at −10 °C", "crank", CRANKING, "", 0.0, COLD_C, COLD_CHARGE),
        Scenario(
            FAILED,
            "Alternator failed, night and rain",
            "run",
            RAIN,
            "town",
            TOWN_RPM,
            5.0,
            0.8,
            charges=False,
        ),
    )
}
ALARM = "Alarm"
ALWAYS, NEVER = 1.0, 0.0


@dataclass(frozen=True)
class Use:
    """The share of the time that a load is on, what it usually is, and where that comes from."""

    share: float
    usual: float
    why: str


def scenarios_of(build: Build) -> list[Scenario]:
    """The usual ones, or the builder's in their place, and then the builder's own."""
    usual = [build.scenarios.get(name, row) for name, row in USUAL_SCENARIOS.items()]
    return usual + [row for name, row in build.scenarios.items() if name not in USUAL_SCENARIOS]


def uses(build: Build, scenario: Scenario) -> dict[str, Use]:
    """How the loads of a build are used, of those that are said or usually on; others go with what
    their switches do."""
    road = {load.id for load in on_anyway(build, scenario.road)} if scenario.road else set()
    found = {}
    for load in build.parts_of_kind("load"):
        usual = _usual(load, scenario, load.id in road)
        if load.id in scenario.on:
            share = scenario.on[load.id]
            found[load.id] = Use(share, usual.share if usual else NEVER, "as you say")
        elif usual is not None:
            found[load.id] = usual
    return found


def _usual(load: Part, scenario: Scenario, in_road: bool) -> Use | None:
    if (load.catalogue or "").startswith(ALARM) and scenario.key == "off":
        armed = ALWAYS if scenario.id == ARMED else NEVER
        return Use(armed, armed, "armed" if armed else "not armed")
    habit = habit_of(load.catalogue or "")
    if habit and scenario.pace and (in_road or habit.anyway == "yes"):
        share = float(getattr(habit, scenario.pace))
        return Use(share, share, f"typical: {habit.why}")
    return Use(ALWAYS, ALWAYS, f"road state “{scenario.road}”") if in_road else None


@cache
def habit_of(name: str) -> Habit | None:
    """How often loads of this row of the catalogue are on; None where they simply are or are not.
    The longest name that fits says."""
    rows = [row for row in catalogue().habits if name.startswith(row.load)]
    return max(rows, key=lambda row: len(row.load), default=None)

"""What the rest of the car does by itself, as far as its wiring feels it: the engine, its heat, the
wiper's cam, the end stops of windows and locks. Small stand-ins, typical figures."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.sensor import LEAST_OHM, SENDERS, thermistor_ohm

IDLE_RPM, CRANKING_RPM = 900.0, 220.0
FIRES_ABOVE_RPM, FIRES_AFTER_S = 110.0, 0.8
REVS_UP_S, CRANKS_UP_S, RUNS_DOWN_S = 0.4, 0.12, 0.5
DIES_AFTER_S = 0.3
"""How long an engine runs on without its fuel or spark."""
WORKS_PERCENT = 40.0
"""Of rated: what the engine needs of its coils, injectors and pump to run."""
WARMS_S, COOLS_S = 240.0, 2400.0
HOT_C, FAN_COOLS_C = 110.0, 25.0
"""Where the coolant of a standing car that idles ends up, and what a fan takes from that."""
HOT_AT_C, COLD_AT_C = 92.0, 87.0
OIL_PRESSURE_RPM, FULL_PRESSURE_RPM = 150.0, 2500.0
"""Cranking builds up pressure enough for a switch that holds the fuel pump; it is full from a brisk
speed on."""
SLOW_PER_S, FAST_PER_S = 0.75, 1.1
"""Sweeps of the blades a second at rated speed."""
PARKED_FROM, PARKED_TO = 0.94, 0.06
"""The part of a turn of the wiper's cam in which the blades are parked."""
TRAVEL_S: Mapping[str, float] = {"Window motor": 4.0, "Door lock actuator": 0.25}
"""From one end stop to the other at rated speed."""
NEEDS = ("Ignition coil", "Ignition coils", "Injectors", "Fuel pump", "Engine control box")
FANS = ("Radiator fan",)
ENGINE_SENDERS = ("Temperature sender", "Pressure sender")


@dataclass(frozen=True)
class Engine:
    """An engine at an instant: its speed, its coolant, whether it runs, how long it has been
    cranked fast enough and how long it has been without what it needs."""

    rpm: float = 0.0
    coolant_c: float = 20.0
    runs: bool = False
    cranked_s: float = 0.0
    starved_s: float = 0.0

    def after(
        self, seconds: float, starter_percent: float, fed: bool, fan_percent: float, air_c: float
    ) -> "Engine":
        """The same some time later: turned by its starter, fed with spark and fuel or not."""
        cranking = starter_percent / 100 * CRANKING_RPM
        cranked_s = self.cranked_s + seconds if self.rpm > FIRES_ABOVE_RPM and fed else 0.0
        starved_s = 0.0 if fed else self.starved_s + seconds
        runs = self.runs or cranked_s >= FIRES_AFTER_S
        runs = runs and starved_s < DIES_AFTER_S
        target, settles_s = cranking, CRANKS_UP_S if cranking > self.rpm else RUNS_DOWN_S
        if runs:
            target, settles_s = max(IDLE_RPM, cranking), REVS_UP_S
        rpm = target + (self.rpm - target) * math.exp(-seconds / settles_s)
        end_c, warms_s = air_c, COOLS_S
        if runs:
            end_c, warms_s = HOT_C - FAN_COOLS_C * fan_percent / 100, WARMS_S
        coolant_c = end_c + (self.coolant_c - end_c) * math.exp(-seconds / warms_s)
        rpm = 0.0 if rpm < 1.0 and target == 0 else rpm
        return Engine(rpm, coolant_c, runs, cranked_s if not self.runs else 0.0, starved_s)

    @property
    def changes(self) -> bool:
        """Whether its speed is about to change, so that time has to pass in small steps."""
        settled = IDLE_RPM if self.runs else 0.0
        return abs(self.rpm - settled) > 1.0


class Around:
    """What of a build the stand-ins feel and move."""

    def __init__(self, build: Build) -> None:
        wired = build.wired_parts()
        loads = [part for part in build.parts_of_kind("load") if part.id in wired]
        rows = catalogue().loads
        self.starters = [p.id for p in loads if rows[p.catalogue or ""].kind == "starter"]
        self.needs = [
            part.id
            for part in loads
            if (part.catalogue or "").startswith(NEEDS) and part.circuit is not None
        ]
        self.fans = [part.id for part in loads if (part.catalogue or "").startswith(FANS)]
        self.travels = {
            part.id: TRAVEL_S[part.catalogue or ""] for part in loads if part.catalogue in TRAVEL_S
        }
        self.cams = dict(_cams(build))
        self.oil = [p for p in build.parts_of_kind("sensor") if _has(p, "none", "pressure")]
        self.thermostats = [p for p in build.parts_of_kind("sensor") if _has(p, "cold", "hot")]
        self._senders = [
            (part.id, part.catalogue, *SENDERS[part.catalogue or ""].ends_ohm(part))
            for part in build.parts_of_kind("sensor")
            if part.contacts is None and part.catalogue in ENGINE_SENDERS
        ]
        self.air_c = 20.0

    def senders(self, engine: Engine) -> dict[str, float]:
        """The ohms of the senders that the engine moves: in its coolant, and of the pressure of its
        oil."""
        share = min(engine.rpm / FULL_PRESSURE_RPM, 1.0)
        told = {
            sender: thermistor_ohm(least_ohm, engine.coolant_c)
            if row == "Temperature sender"
            else least_ohm + share * (most_ohm - least_ohm)
            for sender, row, least_ohm, most_ohm in self._senders
        }
        return {sender: max(ohm, LEAST_OHM) for sender, ohm in told.items()}

    def positions(self, engine: Engine, cams: Mapping[str, float]) -> dict[str, str]:
        """The positions that the car puts its sensors in by itself, where they are not at rest; a
        thermostat is kept by whoever asks, for it comes back lower than it goes."""
        found: dict[str, str] = {}
        oil = "pressure" if engine.rpm >= OIL_PRESSURE_RPM else "none"
        found |= {part.id: oil for part in self.oil}
        for cam, angle in cams.items():
            found[cam] = "parked" if is_parked(angle) else "away"
        return found


def is_parked(angle: float) -> bool:
    """Whether the blades are in their park position at this part of a turn of the cam."""
    return angle >= PARKED_FROM or angle < PARKED_TO


def to_next_edge(angle: float) -> float:
    """How far the cam turns until its contact changes."""
    edges = [edge for edge in (PARKED_TO, PARKED_FROM, 1 + PARKED_TO) if edge > angle + 1e-9]
    return edges[0] - angle


def _has(part: Part, *names: str) -> bool:
    return part.contacts is not None and {row.name for row in part.contacts.positions} == set(names)


def _cams(build: Build) -> list[tuple[str, dict[str, float]]]:
    """The park contact of each wiper unit, and the loads that turn its cam with their speeds."""
    found = []
    for sensor in build.parts_of_kind("sensor"):
        if sensor.housed is None or not _has(sensor, "parked", "away"):
            continue
        motors = {
            part.id: FAST_PER_S if "fast" in (part.catalogue or "") else SLOW_PER_S
            for part in build.parts_of_kind("load")
            if part.housed is not None and part.housed.unit == sensor.housed.unit
        }
        found.append((sensor.id, motors))
    return found

"""What each two-terminal element does in the steady state: current and slope at a voltage.

Each law answers ``current_and_slope(voltage_v)`` with the current in A from its first terminal to
its second and its derivative in A/V, both continuous in the voltage and never falling to a point
where the equations have no solution. ``output_percent`` is light, speed or power against rated.
"""

import math
from dataclasses import dataclass
from typing import Protocol

from circuitry.build.model import Part
from circuitry.catalogue import catalogue

FILAMENT_EXPONENT = 7 / 13
COLD_FILAMENT_RATIO = (300 / 2800) ** 1.2
LIGHT_EXPONENT = 3.4
LED_FORWARD_V = 8.0
DRIVER_DROP_OUT_V = 9.0
DRIVER_LOCK_OUT_V = 6.0
REGULATOR_KNEE_V = 3.0
LEAKAGE_S = 1e-6


class Law(Protocol):
    """The steady behaviour of a two-terminal element."""

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        """Current in A and its derivative in A/V at this voltage."""
        ...

    def output_percent(self, voltage_v: float) -> float:
        """Light, speed or power in % of rated at this voltage."""
        ...


@dataclass(frozen=True)
class Resistor:
    """``I = V / R``; output is power against that at the test voltage."""

    resistance_ohm: float
    test_v: float = 13.5

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        return voltage_v / self.resistance_ohm, 1 / self.resistance_ohm

    def output_percent(self, voltage_v: float) -> float:
        return 100 * (voltage_v / self.test_v) ** 2


@dataclass(frozen=True)
class Filament:
    """A lamp at its steady temperature.

    From ``R = R_hot (T/T_hot)^1.2`` and ``V²/R = K T⁴`` follows ``T ∝ V^(2/5.2)`` and so
    ``I ∝ V^(7/13)``, about V^0.54. Resistance never falls below that of the cold filament (300 K
    against 2800 K). Light goes with V^3.4 (IESNA Lighting Handbook, incandescent lamps).
    """

    rated_a: float
    test_v: float

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        hot_ohm = self.test_v / self.rated_a
        ratio = abs(voltage_v) / self.test_v
        relative_ohm = math.pow(ratio, 1 - FILAMENT_EXPONENT)
        if relative_ohm <= COLD_FILAMENT_RATIO:
            cold_s = 1 / (hot_ohm * COLD_FILAMENT_RATIO)
            return voltage_v * cold_s, cold_s
        current_a = voltage_v / (hot_ohm * relative_ohm)
        return current_a, FILAMENT_EXPONENT * current_a / voltage_v

    def output_percent(self, voltage_v: float) -> float:
        return 100 * math.pow(abs(voltage_v) / self.test_v, LIGHT_EXPONENT)


@dataclass(frozen=True)
class ConstantPower:
    """Electronics with a regulator: ``I = P / V`` above the drop-out voltage.

    Below drop-out the current falls in proportion and ends at the lock-out voltage; reversed or
    locked out only leakage flows.
    """

    rated_w: float

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        leak_a, leak_s = voltage_v * LEAKAGE_S, LEAKAGE_S
        if voltage_v >= DRIVER_DROP_OUT_V:
            current_a = self.rated_w / voltage_v
            return current_a + leak_a, leak_s - current_a / voltage_v
        if voltage_v <= DRIVER_LOCK_OUT_V:
            return leak_a, leak_s
        slope = self.rated_w / DRIVER_DROP_OUT_V / (DRIVER_DROP_OUT_V - DRIVER_LOCK_OUT_V)
        return slope * (voltage_v - DRIVER_LOCK_OUT_V) + leak_a, slope + leak_s

    def output_percent(self, voltage_v: float) -> float:
        current_a, _ = self.current_and_slope(voltage_v)
        return 100 * max(0.0, current_a * voltage_v) / self.rated_w


@dataclass(frozen=True)
class ConstantCurrent:
    """A regulated current, or whatever is plugged in; proportional below a knee of 3 V."""

    rated_a: float

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        if abs(voltage_v) >= REGULATOR_KNEE_V:
            return math.copysign(self.rated_a, voltage_v) + voltage_v * LEAKAGE_S, LEAKAGE_S
        slope = self.rated_a / REGULATOR_KNEE_V + LEAKAGE_S
        return slope * voltage_v, slope

    def output_percent(self, voltage_v: float) -> float:
        return 100 * min(1.0, abs(voltage_v) / REGULATOR_KNEE_V)


@dataclass(frozen=True)
class LedString:
    """Diodes in series with a resistor: nothing below the forward voltage, linear above."""

    rated_a: float
    test_v: float

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        leak_a = voltage_v * LEAKAGE_S
        if voltage_v <= LED_FORWARD_V:
            return leak_a, LEAKAGE_S
        slope = self.rated_a / (self.test_v - LED_FORWARD_V)
        return slope * (voltage_v - LED_FORWARD_V) + leak_a, slope + LEAKAGE_S

    def output_percent(self, voltage_v: float) -> float:
        lit_v = max(0.0, voltage_v - LED_FORWARD_V)
        return 100 * lit_v / (self.test_v - LED_FORWARD_V)


@dataclass(frozen=True)
class FanMotor:
    """A permanent-magnet motor that drives air: ``V = I·R_a + k·ω``, torque and so I ∝ ω².

    With speed s against rated, ``I = I_r s²`` and ``V = I_r R_a s² + E_r s``; the armature
    resistance follows from the starting current, ``R_a = V_test / (inrush · I_r)``.
    """

    rated_a: float
    test_v: float
    inrush_x: float

    def speed(self, voltage_v: float) -> float:
        """Speed against rated, without sign."""
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        root = math.sqrt(emf_v**2 + 4 * drop_v * abs(voltage_v))
        return 2 * abs(voltage_v) / (emf_v + root)

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        speed = self.speed(voltage_v)
        current_a = math.copysign(self.rated_a * speed**2, voltage_v)
        slope = 2 * self.rated_a * speed / (2 * drop_v * speed + emf_v)
        return current_a + voltage_v * LEAKAGE_S, slope + LEAKAGE_S

    def output_percent(self, voltage_v: float) -> float:
        return 100 * self.speed(voltage_v)


@dataclass(frozen=True)
class SteadyMotor:
    """A permanent-magnet motor against a constant torque: rated current once it turns.

    Below ``I_r R_a`` it stands still and is only its armature, ``I = V / R_a``.
    """

    rated_a: float
    test_v: float
    inrush_x: float

    def current_and_slope(self, voltage_v: float) -> tuple[float, float]:
        drop_v, _ = _motor_voltages(self.test_v, self.inrush_x)
        if abs(voltage_v) >= drop_v:
            return math.copysign(self.rated_a, voltage_v) + voltage_v * LEAKAGE_S, LEAKAGE_S
        slope = self.rated_a / drop_v + LEAKAGE_S
        return voltage_v * slope, slope

    def output_percent(self, voltage_v: float) -> float:
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        return 100 * max(0.0, abs(voltage_v) - drop_v) / emf_v


def _motor_voltages(test_v: float, inrush_x: float) -> tuple[float, float]:
    """Voltage across the armature resistance and back-e.m.f., both at rated speed."""
    drop_v = test_v / inrush_x
    return drop_v, test_v - drop_v


def rated_current_a(part: Part) -> float:
    """Current of a load at its test voltage: its own figure, or that of its catalogue row."""
    row = catalogue().loads[part.catalogue or ""]
    test_v = part.number("test_v", row.test_v)
    if "rated_a" in part.figures:
        return part.number("rated_a", 0)
    if "rated_w" in part.figures or row.rated_a is None:
        return part.number("rated_w", row.rated_w or 0) / test_v
    return row.rated_a


def _starting_x(part: Part, rated_a: float) -> float:
    """Current at standstill against rated: from its own stall current, or its inrush."""
    if "stall_a" in part.figures:
        return part.number("stall_a", 0) / rated_a
    return part.number("inrush_x", catalogue().loads[part.catalogue or ""].inrush_x)


def law_of_load(part: Part, current_factor: float = 1.0) -> Law:
    """The law of a load part; ``current_factor`` scales its rating, for tolerance."""
    row = catalogue().loads[part.catalogue or ""]
    test_v = part.number("test_v", row.test_v)
    rated_a = max(rated_current_a(part) * current_factor, 1e-6)
    match row.kind:
        case "filament":
            return Filament(rated_a, test_v)
        case "constant power":
            return ConstantPower(rated_a * test_v)
        case "constant current":
            return ConstantCurrent(rated_a)
        case "led string":
            return LedString(rated_a, test_v)
        case "motor":
            motor = FanMotor if row.name in catalogue().fan_loads else SteadyMotor
            return motor(rated_a, test_v, max(_starting_x(part, rated_a), 1.05))
        case _:
            return Resistor(test_v / rated_a, test_v)


def output_word(part: Part) -> str:
    """What ``output_percent`` of this load means: light, sound, speed or power."""
    row = catalogue().loads[part.catalogue or ""]
    if row.group == "lighting":
        return "light"
    if row.name == "Horn":
        return "sound"
    return "speed" if row.kind == "motor" else "power"

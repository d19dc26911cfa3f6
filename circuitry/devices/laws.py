"""What each two-terminal element does: current and slope at a voltage, and how it settles.

Each law answers ``current_and_slope(voltage_v)`` with the current in A from its first terminal to
its second, continuous in the voltage, and its derivative in A/V. ``output_percent`` is light, speed
or power against rated. A law whose figures are arrays answers for many elements at once.

``expression`` is the same current written for a circuit simulator, in the syntax that SPICE 3 and
its descendants share.

Formulas with corners are written for one element and compiled: a simulated second asks them some
thousand times for a handful of elements, and NumPy's overhead for each operation was most of it.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache, cached_property
from typing import Any, Self

import numpy as np
from numba import guvectorize, njit
from scipy.special import wrightomega

FILAMENT_EXPONENT = 7 / 13
OHM_EXPONENT = 1.2
WATTS_EXPONENT = (4 + OHM_EXPONENT) / 2
"""Of temperature: with the first goes a filament's resistance, with the second its voltage."""
COLD_FILAMENT = 300 / 2800
COLD_FILAMENT_RATIO = COLD_FILAMENT**1.2
LIGHT_EXPONENT = 3.4
SETTLED = 0.05
"""Of the excess of current at first: what is left of it counts as settled."""
SETTLES_S = 0.05
QUADRATURE = 64
STANDS = 1e-3
"""Of rated speed: a motor that turns no faster against friction is held by it."""
LED_FORWARD_V = 8.0
DRIVER_DROP_OUT_V = 9.0
DRIVER_LOCK_OUT_V = 6.0
REGULATOR_KNEE_V = 3.0
LEAKAGE_S = 1e-6
DIODE_LEAKAGE_S = 1e-9
ALTERNATOR_OHM = 0.004
"""What a regulator lets its volts fall by with current: 0.3 V from a tenth to nine tenths of the
output of a 90 A machine; typical."""

Figure = Any
"""A float, or an array of them: a law of arrays answers for many elements at once."""


_formulas: list[Callable[[], Any]] = []


def compile_formulas() -> None:
    """Compile every formula now."""
    for compiled in _formulas:
        compiled()


def formula(given: int, answers: int) -> Callable[[Callable[..., None]], Callable[..., Any]]:
    """Compile what is written for so many figures of one element, and fills its ``answers``: it
    then answers for arrays of any shape, as NumPy's functions do. It is compiled, or what was
    compiled is loaded, when it is first asked."""
    types = ",".join(["f8"] * given + ["f8[:]"] * answers)
    layout = ",".join(["()"] * given) + "->" + ",".join(["()"] * answers)

    def of(plain: Callable[..., None]) -> Callable[..., Any]:
        @cache
        def compiled() -> Callable[..., Any]:
            make: Any = guvectorize
            found: Callable[..., Any] = make([f"({types})"], layout, cache=True)(plain).ufunc
            return found

        _formulas.append(compiled)
        return lambda *figures: compiled()(*figures)

    return of


class Law:
    """The steady behaviour of a two-terminal element."""

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        """Current in A and its derivative in A/V at this voltage."""
        raise NotImplementedError

    goes_with = ""
    """The value that says how much it can give: engine speed, daylight; empty for all others."""

    def limited(self, share: Figure) -> Self:
        """The same law where what it goes with lets it give only this share of its most."""
        return self

    def raised(self, share: float) -> Self:
        """The same law where a source within it has only this share of its voltage."""
        return self

    def expression(self, v: str) -> str:
        """The current at the voltage written ``v``, for a circuit simulator."""
        raise NotImplementedError

    def netlist(self, name: str, a: str, b: str) -> str:
        """Its line in a netlist, from node ``a`` to node ``b``."""
        return f"B{name} {a} {b} I={self.expression(f'V({a},{b})')}"

    def model(self) -> str:
        """The model that its line names; empty where it names none."""
        return ""


class OutputLaw(Law):
    """The law of a load, which also gives light, speed or power."""

    def output_percent(self, voltage_v: Figure) -> Figure:
        """Light, speed or power in % of rated at this voltage."""
        raise NotImplementedError


class Lag:
    """A state that follows what drives it with a delay: a temperature, a speed, a melted share.

    ``drive`` is what ``drives`` says, a voltage or a current; the state is a share of its rated
    value. A figure may be an array.
    """

    drives = "voltage"
    rest: Figure = 0.0
    """The state after a long time without drive."""
    cools_s: float = math.inf
    """The time constant by which it comes back to rest under a drive that it bears; endless where
    only its ``rate`` tells."""
    goes_both_ways = False
    """Whether the state may fall below that at rest, as the speed of a motor that turns back."""

    def bears(self) -> Figure:
        """The drive below which it stays at rest for ever, or comes back to it."""
        return 1e-9

    def steady(self, drive: Figure) -> Figure:
        """The state that stays under this drive: where ``rate`` is zero."""
        raise NotImplementedError

    def rate(self, drive: Figure, at: Figure) -> Figure:
        """How fast the state changes, per second."""
        raise NotImplementedError


class LaggingLaw(OutputLaw, Lag):
    """The law of a load that takes time to settle: its steady state is the limit of its motion.

    ``settles_s`` is the time after which, at the test voltage and from rest, the current is above
    its rated value by a twentieth of what it was at first.
    """

    settles_s: Figure

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        """Current in A and its derivative in A/V while the state is held."""
        raise NotImplementedError

    def output_at(self, at: Figure) -> Figure:
        """Light, speed or power in % of rated in a state."""
        raise NotImplementedError

    def output_percent(self, voltage_v: Figure) -> Figure:
        return self.output_at(self.steady(voltage_v))


@dataclass(frozen=True)
class Resistor(OutputLaw):
    """``I = V / R``; output is power against that at the test voltage."""

    resistance_ohm: Figure
    test_v: Figure = 13.5

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        return voltage_v / self.resistance_ohm, 1 / self.resistance_ohm

    def output_percent(self, voltage_v: Figure) -> Figure:
        return 100 * (voltage_v / self.test_v) ** 2

    def expression(self, v: str) -> str:
        return f"{v}/{self.resistance_ohm!r}"


@dataclass(frozen=True)
class GaugeWinding(Resistor):
    """The winding of a gauge: its pointer goes with the current in it."""

    def output_percent(self, voltage_v: Figure) -> Figure:
        return 100 * np.abs(voltage_v) / self.test_v


@dataclass(frozen=True)
class Filament(LaggingLaw):
    """A lamp; its state is the temperature of its filament against that at the test voltage.

    ``C dT/dt = V²/R − K T⁴`` with ``R = R_hot (T/T_hot)^1.2``. In the steady state ``T ∝
    V^(2/5.2)`` and so ``I ∝ V^(7/13)``, about V^0.54. Resistance never falls below that of the cold
    filament (300 K against 2800 K). Light goes with V^3.4 (IESNA Lighting Handbook, incandescent
    lamps).
    """

    rated_a: Figure
    test_v: Figure
    settles_s: Figure = SETTLES_S
    rest = COLD_FILAMENT

    def steady(self, drive: Figure) -> Figure:
        hot = (np.abs(drive) / self.test_v) ** (1 / WATTS_EXPONENT)
        return np.maximum(hot, COLD_FILAMENT)

    def rate(self, drive: Figure, at: Figure) -> Figure:
        return _filament_rate(drive, at, self.test_v, self._per_s)

    @cached_property
    def _per_s(self) -> Figure:
        return _filament_settles() / self.settles_s

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        found: tuple[Figure, Figure] = _filament_held(voltage_v, at, self.rated_a, self.test_v)
        return found

    def output_at(self, at: Figure) -> Figure:
        volts = np.where(at > COLD_FILAMENT, at**WATTS_EXPONENT, 0.0)
        return 100 * volts**LIGHT_EXPONENT

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        found: tuple[Figure, Figure] = _filament(voltage_v, self.rated_a, self.test_v)
        return found

    def expression(self, v: str) -> str:
        hot_ohm = self.test_v / self.rated_a
        relative = f"pow(abs({v})/{self.test_v},{1 - FILAMENT_EXPONENT!r})"
        return f"{v}/({hot_ohm!r}*max({COLD_FILAMENT_RATIO!r},{relative}))"


@dataclass(frozen=True)
class ConstantPower(OutputLaw):
    """Electronics with a regulator: ``I = P / V`` above the drop-out voltage.

    Below drop-out the current falls in proportion and ends at the lock-out voltage; reversed or
    locked out only leakage flows.
    """

    rated_w: Figure

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        found: tuple[Figure, Figure] = _driver(voltage_v, self.rated_w)
        return found

    def output_percent(self, voltage_v: Figure) -> Figure:
        current_a, _ = self.current_and_slope(voltage_v)
        return 100 * np.maximum(current_a * voltage_v, 0.0) / self.rated_w

    def expression(self, v: str) -> str:
        slope = self.rated_w / DRIVER_DROP_OUT_V / (DRIVER_DROP_OUT_V - DRIVER_LOCK_OUT_V)
        below = f"{slope!r}*max(0,{v}-{DRIVER_LOCK_OUT_V})"
        above = f"{self.rated_w!r}/max({v},{DRIVER_DROP_OUT_V})"
        return f"(({v}>={DRIVER_DROP_OUT_V})?({above}):({below}))+{v}*{LEAKAGE_S}"


@dataclass(frozen=True)
class ConstantCurrent(OutputLaw):
    """A regulated current, or whatever is plugged in; proportional below a knee of 3 V."""

    rated_a: Figure

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        return _limited(voltage_v, self.rated_a, REGULATOR_KNEE_V)

    def output_percent(self, voltage_v: Figure) -> Figure:
        return 100 * np.minimum(np.abs(voltage_v) / REGULATOR_KNEE_V, 1.0)

    def expression(self, v: str) -> str:
        return f"{_clipped(self.rated_a, v, REGULATOR_KNEE_V)}+{v}*{LEAKAGE_S}"


@dataclass(frozen=True)
class LedString(OutputLaw):
    """Diodes in series with a resistor: nothing below the forward voltage, linear above."""

    rated_a: Figure
    test_v: Figure

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        found: tuple[Figure, Figure] = _led(voltage_v, self.rated_a, self.test_v)
        return found

    def output_percent(self, voltage_v: Figure) -> Figure:
        lit_v = np.maximum(voltage_v - LED_FORWARD_V, 0.0)
        return 100 * lit_v / (self.test_v - LED_FORWARD_V)

    def expression(self, v: str) -> str:
        slope = self.rated_a / (self.test_v - LED_FORWARD_V)
        return f"{slope!r}*max(0,{v}-{LED_FORWARD_V})+{v}*{LEAKAGE_S}"


@dataclass(frozen=True)
class FanMotor(LaggingLaw):
    """A permanent-magnet motor that drives air: ``V = I·R_a + k·ω``, torque and so I ∝ ω².

    Its state is its speed s against rated, ``θ ds/dt = I/I_r − s²``. In the steady state ``I = I_r
    s²`` and ``V = I_r R_a s² + E_r s``; the armature resistance follows from the starting current,
    ``R_a = V_test / (inrush · I_r)``.
    """

    rated_a: Figure
    test_v: Figure
    inrush_x: Figure
    settles_s: Figure = SETTLES_S
    goes_both_ways = True

    def steady(self, drive: Figure) -> Figure:
        return np.sign(drive) * self.speed(drive)

    def rate(self, drive: Figure, at: Figure) -> Figure:
        return _fan_rate(drive, at, self.test_v, self.inrush_x, self._per_s)

    @cached_property
    def _per_s(self) -> Figure:
        x, s = self.inrush_x, 1 - SETTLED
        # from standstill at the test voltage ds/dt' = (1 − s)(x + s), by partial fractions
        return (np.log((x + s) / x) - np.log(SETTLED)) / (x + 1) / self.settles_s

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        return _motor_held(self, voltage_v, at)

    def output_at(self, at: Figure) -> Figure:
        return 100 * np.abs(at)

    def speed(self, voltage_v: Figure) -> Figure:
        """Speed against rated, without sign."""
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        root = np.sqrt(emf_v**2 + 4 * drop_v * np.abs(voltage_v))
        return 2 * np.abs(voltage_v) / (emf_v + root)

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        figures = self.rated_a, self.test_v, self.inrush_x
        found: tuple[Figure, Figure] = _fan(voltage_v, *figures)
        return found

    def expression(self, v: str) -> str:
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        root = f"sqrt({emf_v**2!r}+{4 * drop_v!r}*abs({v}))"
        speed = f"2*abs({v})/({emf_v!r}+{root})"
        return f"{self.rated_a!r}*sgn({v})*pow({speed},2)+{v}*{LEAKAGE_S}"


@dataclass(frozen=True)
class SteadyMotor(LaggingLaw):
    """A permanent-magnet motor against a constant torque: rated current once it turns.

    Its state is its speed s against rated, ``θ ds/dt = I/I_r − 1`` while it turns. Below ``I_r
    R_a`` it stands still and is only its armature, ``I = V / R_a``. Friction changes sign with the
    speed, so that whoever steps it stops at standstill.
    """

    rated_a: Figure
    test_v: Figure
    inrush_x: Figure
    settles_s: Figure = SETTLES_S
    goes_both_ways = True

    def steady(self, drive: Figure) -> Figure:
        drop_v, emf_v = _motor_voltages(self.test_v, self.inrush_x)
        return np.sign(drive) * np.maximum(np.abs(drive) - drop_v, 0.0) / emf_v

    def rate(self, drive: Figure, at: Figure) -> Figure:
        return _steady_rate(drive, at, self.test_v, self.inrush_x, self._per_s)

    @cached_property
    def _per_s(self) -> Figure:
        # from standstill at the test voltage ds/dt' = (x − 1)(1 − s)
        return -np.log(SETTLED) / (self.inrush_x - 1) / self.settles_s

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        return _motor_held(self, voltage_v, at)

    def output_at(self, at: Figure) -> Figure:
        return 100 * np.abs(at)

    def stepped(self, before: Figure, after: Figure) -> Figure:
        """The state after a step: at standstill where it would have turned round."""
        return _steady_stepped(before, after)

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        drop_v, _ = _motor_voltages(self.test_v, self.inrush_x)
        return _limited(voltage_v, self.rated_a, drop_v)

    def expression(self, v: str) -> str:
        drop_v, _ = _motor_voltages(self.test_v, self.inrush_x)
        return f"{_clipped(self.rated_a, v, drop_v)}+{v}*{LEAKAGE_S}"


@dataclass(frozen=True)
class DragMotor(LaggingLaw):
    """A motor against drag in proportion to its speed, as a starter that turns an engine.

    Its state is its speed s against rated, ``θ ds/dt = I/I_r − s``. In the steady state ``I = I_r
    s`` and so ``V/V_test = s``: it takes current as a resistance does.
    """

    rated_a: Figure
    test_v: Figure
    inrush_x: Figure
    settles_s: Figure = SETTLES_S
    goes_both_ways = True

    def steady(self, drive: Figure) -> Figure:
        return drive / self.test_v

    def rate(self, drive: Figure, at: Figure) -> Figure:
        return _drag_rate(drive, at, self.test_v, self.inrush_x, self._per_s)

    @cached_property
    def _per_s(self) -> Figure:
        # from standstill at the test voltage ds/dt' = x (1 − s)
        return -np.log(SETTLED) / self.inrush_x / self.settles_s

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        return _motor_held(self, voltage_v, at)

    def output_at(self, at: Figure) -> Figure:
        return 100 * np.abs(at)

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        siemens = self.rated_a / self.test_v + LEAKAGE_S
        return voltage_v * siemens, siemens + 0.0 * voltage_v

    def expression(self, v: str) -> str:
        return f"{v}*{self.rated_a / self.test_v + LEAKAGE_S!r}"


@dataclass(frozen=True)
class SelfHeater(LaggingLaw):
    """A heater whose resistance rises in proportion with its own temperature (PTC).

    ``R = R_h (1/x + (1 − 1/x) u)`` with x the hot against the cold resistance and the state u the
    rise against that at rated power, ``θ du/dt = P / P_r − u``; in the steady state with w =
    V/V_test ``u (1/x + (1 − 1/x) u) = w²``.
    """

    rated_a: Figure
    test_v: Figure
    hot_x: Figure
    settles_s: Figure = SETTLES_S

    def steady(self, drive: Figure) -> Figure:
        cold = 1 / self.hot_x
        share = (drive / self.test_v) ** 2
        return 2 * share / (cold + np.sqrt(cold**2 + 4 * (1 - cold) * share))

    def rate(self, drive: Figure, at: Figure) -> Figure:
        return _heater_rate(drive, at, self.test_v, self.hot_x, self._per_s)

    @cached_property
    def _per_s(self) -> Figure:
        cold = 1 / self.hot_x
        # from cold at the test voltage du/dt' = (1 − u)(1 + (1 − c) u)/r, by partial fractions
        end = (1 / (1 + SETTLED * (self.hot_x - 1)) - cold) / (1 - cold)
        settles = -np.log1p(-end) - (1 - cold) * np.log1p((1 - cold) * end)
        return settles / (2 - cold) / self.settles_s

    def held(self, voltage_v: Figure, at: Figure) -> tuple[Figure, Figure]:
        figures = self.rated_a, self.test_v, self.hot_x
        found: tuple[Figure, Figure] = _heater_held(voltage_v, at, *figures)
        return found

    def output_at(self, at: Figure) -> Figure:
        return 100 * at

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        figures = self.rated_a, self.test_v, self.hot_x
        found: tuple[Figure, Figure] = _heater(voltage_v, *figures)
        return found

    def expression(self, v: str) -> str:
        cold = 1 / self.hot_x
        share = f"pow({v}/{self.test_v},2)"
        rise = f"2*{share}/({cold!r}+sqrt({cold**2!r}+{4 * (1 - cold)!r}*{share}))"
        return f"{v}*{self.rated_a / self.test_v!r}/({cold!r}+{1 - cold!r}*({rise}))"


@dataclass(frozen=True)
class Diode(Law):
    """Shockley's diode with a series resistance, from anode to cathode.

    ``I = I_s (exp((V − I R_s) / n V_t) − 1)``, solved for I by the Wright omega function
    (Corless and Jeffrey, 2002): ``I = n V_t / R_s · ω(ln(I_s R_s / n V_t) + (V + I_s R_s) / n V_t)
    − I_s``. Figures of a typical silicon rectifier: 0.75 V at 1 A, 0.85 V at 3 A.
    """

    saturation_a: Figure = 1e-7
    series_ohm: Figure = 0.02
    thermal_v: Figure = 1.76 * 0.02585

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        drop_v = self.saturation_a * self.series_ohm
        omega = np.real(
            wrightomega(np.log(drop_v / self.thermal_v) + (voltage_v + drop_v) / self.thermal_v)
        )
        current_a = self.thermal_v / self.series_ohm * omega - self.saturation_a
        slope = omega / (1 + omega) / self.series_ohm
        return current_a + voltage_v * DIODE_LEAKAGE_S, slope + DIODE_LEAKAGE_S

    def netlist(self, name: str, a: str, b: str) -> str:
        return f"D{name} {a} {b} DIODE"

    def model(self) -> str:
        emission = self.thermal_v / 0.02585  # kT/q at 300 K
        figures = f"IS={self.saturation_a!r} RS={self.series_ohm!r} N={emission!r}"
        return f".model DIODE D({figures})"


@dataclass(frozen=True)
class Generator(Law):
    """An alternator from B+ to its case: a regulated voltage behind a resistance, up to a limit.

    Its rectifier lets nothing flow backwards.
    """

    regulated_v: Figure
    most_a: Figure
    inner_ohm: Figure = ALTERNATOR_OHM
    goes_with = "engine_rpm"

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        figures = self.regulated_v, self.most_a, self.inner_ohm
        found: tuple[Figure, Figure] = _generator(voltage_v, *figures)
        return found

    def limited(self, share: Figure) -> Self:
        return replace(self, most_a=self.most_a * share)

    def raised(self, share: float) -> Self:
        return replace(self, regulated_v=share * self.regulated_v)

    def expression(self, v: str) -> str:
        asked = f"({self.regulated_v!r}-{v})/{self.inner_ohm!r}"
        return f"{v}*{LEAKAGE_S}-max(0,min({self.most_a!r},{asked}))"


class Converter(Generator):
    """A d.c. converter: it gives as an alternator does, whatever the speed of anything."""

    goes_with = ""


class SolarCells(Generator):
    """Cells behind their controller: they give as an alternator does, as much as there is light."""

    goes_with = "daylight_percent"


@dataclass(frozen=True)
class StoredCharge(Law):
    """A lead battery beside the first: its open voltage behind a resistance while it gives; while
    it takes, no more than its plates accept.

    ``I = I_most (1 − exp(−(V − E) / I_most R))`` above the open voltage: the same slope at rest,
    and a limit of about a quarter of its capacity in an hour, as a discharged lead battery takes.
    """

    open_v: Figure
    inner_ohm: Figure
    accepts_a: Figure

    def raised(self, share: float) -> Self:
        return replace(self, open_v=share * self.open_v)

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        figures = self.open_v, self.inner_ohm, self.accepts_a
        found: tuple[Figure, Figure] = _stored_charge(voltage_v, *figures)
        return found

    def expression(self, v: str) -> str:
        asked = f"({v}-{self.open_v!r})/{self.inner_ohm!r}"
        taken = f"{self.accepts_a!r}*(1-exp(-max(0,{asked})/{self.accepts_a!r}))"
        return f"(({v}>{self.open_v!r})?({taken}):({asked}))+({v}-{self.open_v!r})*{LEAKAGE_S}"


@formula(3, 2)
def _filament(
    voltage_v: Figure, rated_a: Figure, test_v: Figure, current_a: Figure, slope: Figure
) -> None:
    relative_ohm, share = (abs(voltage_v) / test_v) ** (1 - FILAMENT_EXPONENT), FILAMENT_EXPONENT
    if relative_ohm <= COLD_FILAMENT_RATIO:
        relative_ohm, share = COLD_FILAMENT_RATIO, 1.0
    siemens = rated_a / test_v / relative_ohm
    current_a[0], slope[0] = voltage_v * siemens, siemens * share


@formula(4, 2)
def _filament_held(
    voltage_v: Figure,
    at: Figure,
    rated_a: Figure,
    test_v: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    slope[0] = rated_a / test_v / at**OHM_EXPONENT
    current_a[0] = voltage_v * slope[0]


@formula(4, 1)
def _filament_rate(
    voltage_v: Figure, at: Figure, test_v: Figure, per_s: Figure, rate: Figure
) -> None:
    watts = (voltage_v / test_v) ** 2 / at**OHM_EXPONENT
    rate[0] = (watts - at**4) * per_s
    if at <= COLD_FILAMENT and rate[0] < 0:
        rate[0] = 0.0


@formula(2, 2)
def _driver(voltage_v: Figure, rated_w: Figure, current_a: Figure, slope: Figure) -> None:
    current_a[0], slope[0] = voltage_v * LEAKAGE_S, LEAKAGE_S
    if voltage_v >= DRIVER_DROP_OUT_V:
        current_a[0] += rated_w / voltage_v
        slope[0] -= rated_w / voltage_v**2
    elif voltage_v > DRIVER_LOCK_OUT_V:
        rising = rated_w / DRIVER_DROP_OUT_V / (DRIVER_DROP_OUT_V - DRIVER_LOCK_OUT_V)
        current_a[0] += rising * (voltage_v - DRIVER_LOCK_OUT_V)
        slope[0] += rising


@formula(3, 2)
def _led(
    voltage_v: Figure, rated_a: Figure, test_v: Figure, current_a: Figure, slope: Figure
) -> None:
    siemens = rated_a / (test_v - LED_FORWARD_V) if voltage_v > LED_FORWARD_V else 0.0
    current_a[0] = siemens * (voltage_v - LED_FORWARD_V) + voltage_v * LEAKAGE_S
    slope[0] = siemens + LEAKAGE_S


@formula(4, 2)
def _generator(
    voltage_v: Figure,
    regulated_v: Figure,
    most_a: Figure,
    inner_ohm: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    asked_a = (regulated_v - voltage_v) / inner_ohm
    current_a[0] = voltage_v * LEAKAGE_S - min(max(asked_a, 0.0), most_a)
    slope[0] = LEAKAGE_S + (1 / inner_ohm if 0 < asked_a < most_a else 0.0)


@formula(4, 2)
def _stored_charge(
    voltage_v: Figure,
    open_v: Figure,
    inner_ohm: Figure,
    accepts_a: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    taken_a, left = (voltage_v - open_v) / inner_ohm, 1.0
    if taken_a > 0:
        left = np.exp(-taken_a / accepts_a)
        taken_a = accepts_a * (1 - left)
    current_a[0] = taken_a + (voltage_v - open_v) * LEAKAGE_S
    slope[0] = left / inner_ohm + LEAKAGE_S


@formula(3, 2)
def _up_to_knee(
    voltage_v: Figure, rated_a: Figure, knee_v: Figure, current_a: Figure, slope: Figure
) -> None:
    share = min(max(voltage_v / knee_v, -1.0), 1.0)
    current_a[0] = rated_a * share + voltage_v * LEAKAGE_S
    slope[0] = LEAKAGE_S + (rated_a / knee_v if abs(voltage_v) < knee_v else 0.0)


def _limited(voltage_v: Figure, rated_a: Figure, knee_v: Figure) -> tuple[Figure, Figure]:
    """In proportion up to a knee, and the rated current beyond it."""
    found: tuple[Figure, Figure] = _up_to_knee(voltage_v, rated_a, knee_v)
    return found


def _clipped(rated_a: float, v: str, knee_v: float) -> str:
    """What ``_limited`` answers, without its leakage, as an expression."""
    return f"{rated_a!r}*max(-1,min(1,{v}/{knee_v!r}))"


def _motor_voltages(test_v: Figure, inrush_x: Figure) -> tuple[Figure, Figure]:
    """Voltage across the armature resistance and back-e.m.f., both at rated speed."""
    drop_v = test_v / inrush_x
    return drop_v, test_v - drop_v


@njit(cache=True, error_model="numpy")
def _torque(voltage_v: Figure, at: Figure, test_v: Figure, inrush_x: Figure) -> Figure:
    """Current, and so torque, against rated: what is left of the voltage over the armature."""
    drop_v = test_v / inrush_x
    return (voltage_v - (test_v - drop_v) * at) / drop_v


@formula(5, 2)
def _held_motor(
    voltage_v: Figure,
    at: Figure,
    rated_a: Figure,
    test_v: Figure,
    inrush_x: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    current_a[0] = rated_a * _torque(voltage_v, at, test_v, inrush_x) + voltage_v * LEAKAGE_S
    slope[0] = rated_a * inrush_x / test_v + LEAKAGE_S


def _motor_held(
    law: FanMotor | SteadyMotor | DragMotor, voltage_v: Figure, at: Figure
) -> tuple[Figure, Figure]:
    """Current and slope of a motor held at a speed: its armature alone answers."""
    figures = law.rated_a, law.test_v, law.inrush_x
    found: tuple[Figure, Figure] = _held_motor(voltage_v, at, *figures)
    return found


@formula(4, 2)
def _fan(
    voltage_v: Figure,
    rated_a: Figure,
    test_v: Figure,
    inrush_x: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    drop_v = test_v / inrush_x
    emf_v = test_v - drop_v
    speed = 2 * abs(voltage_v) / (emf_v + np.sqrt(emf_v**2 + 4 * drop_v * abs(voltage_v)))
    taken_a = rated_a * speed**2
    current_a[0] = (taken_a if voltage_v > 0 else -taken_a) + voltage_v * LEAKAGE_S
    slope[0] = 2 * rated_a * speed / (2 * drop_v * speed + emf_v) + LEAKAGE_S


@formula(5, 1)
def _fan_rate(
    voltage_v: Figure, at: Figure, test_v: Figure, inrush_x: Figure, per_s: Figure, rate: Figure
) -> None:
    rate[0] = (_torque(voltage_v, at, test_v, inrush_x) - at * abs(at)) * per_s


@formula(5, 1)
def _steady_rate(
    voltage_v: Figure, at: Figure, test_v: Figure, inrush_x: Figure, per_s: Figure, rate: Figure
) -> None:
    torque = _torque(voltage_v, at, test_v, inrush_x)
    friction = 1.0 if at > 0 else -1.0
    if abs(at) < STANDS:
        friction = min(max(torque, -1.0), 1.0)
    rate[0] = (torque - friction) * per_s


@formula(2, 1)
def _steady_stepped(before: Figure, after: Figure, stands: Figure) -> None:
    turned, slows = before * after < 0, abs(after) < abs(before)
    stands[0] = 0.0 if turned or (slows and abs(after) < STANDS) else after


@formula(5, 1)
def _drag_rate(
    voltage_v: Figure, at: Figure, test_v: Figure, inrush_x: Figure, per_s: Figure, rate: Figure
) -> None:
    rate[0] = (_torque(voltage_v, at, test_v, inrush_x) - at) * per_s


@formula(4, 2)
def _heater(
    voltage_v: Figure,
    rated_a: Figure,
    test_v: Figure,
    hot_x: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    cold, share = 1 / hot_x, (voltage_v / test_v) ** 2
    rise = 2 * share / (cold + np.sqrt(cold**2 + 4 * (1 - cold) * share))
    siemens = rated_a / test_v / (cold + (1 - cold) * rise)
    current_a[0] = voltage_v * siemens
    slope[0] = siemens * cold / (cold + 2 * (1 - cold) * rise)


@formula(5, 2)
def _heater_held(
    voltage_v: Figure,
    at: Figure,
    rated_a: Figure,
    test_v: Figure,
    hot_x: Figure,
    current_a: Figure,
    slope: Figure,
) -> None:
    slope[0] = rated_a / test_v / (1 / hot_x + (1 - 1 / hot_x) * at)
    current_a[0] = voltage_v * slope[0]


@formula(5, 1)
def _heater_rate(
    voltage_v: Figure, at: Figure, test_v: Figure, hot_x: Figure, per_s: Figure, rate: Figure
) -> None:
    watts = (voltage_v / test_v) ** 2 / (1 / hot_x + (1 - 1 / hot_x) * at)
    rate[0] = (watts - at) * per_s


@cache
def _filament_settles() -> float:
    """Until a filament has settled at its test voltage, in units of its time constant:
    ``∫ dτ / (τ^−1.2 − τ⁴)`` from cold, by Gauss and Legendre."""
    left = 1 + SETTLED * (1 / COLD_FILAMENT_RATIO - 1)
    half = (left ** (-1 / OHM_EXPONENT) - COLD_FILAMENT) / 2
    at, weight = np.polynomial.legendre.leggauss(QUADRATURE)
    t = COLD_FILAMENT + half * (1 + at)
    return float(half * np.sum(weight / (t**-OHM_EXPONENT - t**4)))

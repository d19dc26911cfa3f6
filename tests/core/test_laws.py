"""The laws of the elements against figures from outside, and their continuity."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from circuitry.catalogue import catalogue
from circuitry.design.model import Part
from circuitry.devices.laws import ConstantPower, FanMotor, Filament, LedString, SteadyMotor
from circuitry.devices.load import law_of_load, rated_current_a

LAWS = {
    row.name: law_of_load(Part("x", "load", "x", "p", row.name))
    for row in catalogue().loads.values()
}
laws = st.sampled_from(sorted(LAWS))


class LawTest(TestCase):
    @given(laws, st.floats(-16, 16), st.floats(-1e-4, 1e-4))
    def test_current_is_continuous(self, name: str, volts: float, step: float) -> None:
        law = LAWS[name]
        here, there = (law.current_and_slope(v)[0] for v in (volts, volts + step))
        cold_slope = 15 * rated_current_a(Part("x", "load", "x", "p", name)) / 13
        self.assertLessEqual(abs(here - there), 1e-6 + abs(step) * max(cold_slope * 15, 10))

    @given(laws, st.floats(0.01, 16))
    def test_slope_is_the_derivative(self, name: str, volts: float) -> None:
        law, step = LAWS[name], 1e-6
        low = law.current_and_slope(volts - step)[0]
        high = law.current_and_slope(volts + step)[0]
        slopes = [law.current_and_slope(v)[1] for v in (volts - 2e-6, volts, volts + 2e-6)]
        measured = (high - low) / (2 * step)
        margin = 1e-4 * (1 + abs(measured))
        self.assertGreaterEqual(measured, min(slopes) - margin)
        self.assertLessEqual(measured, max(slopes) + margin)

    @given(laws, st.floats(0, 16))
    def test_loads_never_give_power(self, name: str, volts: float) -> None:
        self.assertGreaterEqual(LAWS[name].current_and_slope(volts)[0], 0)
        self.assertLessEqual(LAWS[name].current_and_slope(-volts)[0], 0)

    def test_every_load_takes_its_rated_current_at_its_test_voltage(self) -> None:
        for row in catalogue().loads.values():
            rated_a = row.rated_a or (row.rated_w or 0) / row.test_v
            self.assertAlmostEqual(
                LAWS[row.name].current_and_slope(row.test_v)[0], rated_a, delta=2e-5, msg=row.name
            )

    def test_filament_current_goes_with_about_v_to_the_0_54(self) -> None:
        """Published for incandescent lamps: exponent 0.541 for current, 3.4 for light."""
        lamp = Filament(2.0, 13.5)
        self.assertAlmostEqual(
            lamp.current_and_slope(12.0)[0], 2 * (12 / 13.5) ** 0.541, delta=0.002
        )
        self.assertAlmostEqual(lamp.output_percent(12.0), 67.0, delta=0.1)

    def test_a_cold_filament_takes_about_fifteen_times_the_rated_current(self) -> None:
        lamp = Filament(2.0, 13.5)
        cold_ohm = 1 / lamp.current_and_slope(0.0)[1]
        self.assertAlmostEqual(13.5 / cold_ohm / 2.0, 14.6, delta=0.1)

    def test_fan_motor_obeys_its_two_equations(self) -> None:
        """V = I R_a + k ω and I ∝ ω² must both hold at any voltage, by hand for 8 V."""
        motor = FanMotor(20.0, 13.5, 4.0)
        speed = motor.output_percent(8.0) / 100
        current_a, _ = motor.current_and_slope(8.0)
        armature_ohm = 13.5 / (4 * 20)
        back_emf_v = (13.5 - 20 * armature_ohm) * speed
        self.assertAlmostEqual(current_a * armature_ohm + back_emf_v, 8.0, delta=1e-4)
        self.assertAlmostEqual(current_a, 20 * speed**2, delta=1e-4)

    def test_a_steady_motor_stands_still_until_it_can_turn(self) -> None:
        motor = SteadyMotor(4.0, 13.5, 5.0)
        self.assertEqual(motor.output_percent(2.6), 0)
        self.assertGreater(motor.output_percent(2.8), 0)
        self.assertAlmostEqual(motor.current_and_slope(12)[0], 4.0, delta=1e-4)

    def test_electronics_hold_their_power_and_lock_out(self) -> None:
        driver = ConstantPower(30.0)
        for volts in (10.0, 12.0, 14.4):
            self.assertAlmostEqual(volts * driver.current_and_slope(volts)[0], 30.0, delta=0.001)
        self.assertLess(driver.current_and_slope(5.9)[0], 1e-4)
        self.assertLess(driver.current_and_slope(-12)[0], 0)
        self.assertGreater(driver.current_and_slope(-12)[0], -1e-4)

    def test_an_led_string_is_dark_below_its_forward_voltage(self) -> None:
        self.assertEqual(LedString(0.2, 13.5).output_percent(7.9), 0)
        self.assertAlmostEqual(LedString(0.2, 13.5).output_percent(13.5), 100)

    def test_own_figures_replace_the_catalogue(self) -> None:
        part = Part("x", "load", "x", "p", "Horn", {"rated_w": 27.0})
        self.assertAlmostEqual(rated_current_a(part), 2.0)


class SpiceExpressionTest(TestCase):
    """The netlist says the same law as the solver, read as arithmetic."""

    @given(laws, st.floats(-15, 15))
    def test_expression_gives_the_current_of_the_law(self, name: str, volts: float) -> None:
        text = LAWS[name].expression("v")
        condition, question, rest = text.partition("?")
        if question:
            above, _, below = rest.partition(":")
            leak = below[below.rindex(")+") + 1 :]
            below = below[: below.rindex(")+")]
            text = f"(({above}) if {condition[1:]} else ({below})){leak}"
        value = eval(
            text,
            {
                "v": volts,
                "pow": pow,
                "abs": abs,
                "max": max,
                "min": min,
                "sqrt": lambda x: x**0.5,
                "sgn": lambda x: (x > 0) - (x < 0),
            },
        )
        expected = LAWS[name].current_and_slope(volts)[0]
        self.assertAlmostEqual(value, expected, delta=1e-9 + 1e-9 * abs(expected))

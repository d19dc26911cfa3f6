"""What settles with time: its steady state is the limit of its motion, and of the steady law."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from circuitry.catalogue import catalogue
from circuitry.design.model import Part
from circuitry.devices import device_of
from circuitry.devices.fuse_times import middle_time_s
from circuitry.devices.laws import Filament, LaggingLaw, SelfHeater, SteadyMotor
from circuitry.devices.load import rated_current_a

PARTS = {row: Part("x", "load", "x", "p", row) for row in catalogue().loads}
LAWS = {
    row: device_of(part).lags(part)["load"]
    for row, part in PARTS.items()
    if device_of(part).lags(part)
}
laws = st.sampled_from(sorted(LAWS))


def moved(law: LaggingLaw, volts: float, start: float, seconds: float) -> np.ndarray:
    """States of a law at this voltage at 200 times, by a general solver of differential
    equations."""
    times = np.linspace(0, seconds, 200)
    solved = solve_ivp(
        lambda _, at: law.rate(volts, at), (0, seconds), [start], "LSODA", times, rtol=1e-8
    )
    return solved.y[0]


class LagTest(TestCase):
    def test_lamps_motors_and_heaters_settle_with_time(self) -> None:
        for name in ("Stop lamp 21 W", "Radiator fan 300 mm", "Window motor"):
            self.assertIn(name, LAWS)
        self.assertNotIn("Tail lamp LED", LAWS)

    @given(laws, st.floats(-16, 16))
    def test_held_in_its_steady_state_it_answers_as_the_steady_law(
        self, name: str, volts: float
    ) -> None:
        law = LAWS[name]
        at = law.steady(volts)
        self.assertAlmostEqual(float(law.rate(volts, at)), 0, delta=1e-6 / law.settles_s)
        held_a, steady_a = law.held(volts, at)[0], law.current_and_slope(volts)[0]
        self.assertAlmostEqual(held_a, steady_a, delta=1e-5 + 1e-9 * abs(steady_a))

    @given(laws, st.floats(-16, 16), st.floats(0.11, 1.2))
    def test_its_slope_while_held_is_the_derivative(
        self, name: str, volts: float, at: float
    ) -> None:
        law, step = LAWS[name], 1e-3
        low, high = (law.held(volts + by, at)[0] for by in (-step, step))
        slope = law.held(volts, at)[1]
        self.assertAlmostEqual((high - low) / (2 * step), slope, delta=1e-6 * (1 + slope))

    def test_from_rest_it_settles_within_the_time_of_the_catalogue(self) -> None:
        for name, law in LAWS.items():
            states = moved(law, law.test_v, law.rest, law.settles_s)
            first_a, last_a = (law.held(law.test_v, at)[0] for at in (law.rest, states[-1]))
            rated_a = rated_current_a(PARTS[name])
            left = (last_a - rated_a) / (first_a - rated_a)
            self.assertAlmostEqual(left, 0.05, delta=0.001, msg=name)

    @given(laws, st.floats(7, 15), st.floats(0.2, 1.2))
    @settings(max_examples=30)
    def test_from_anywhere_it_comes_to_its_steady_state(
        self, name: str, volts: float, start: float
    ) -> None:
        law = LAWS[name]
        states = moved(law, volts, start, 20 * law.settles_s)
        self.assertAlmostEqual(states[-1], law.steady(volts), delta=2e-3, msg=name)

    def test_at_rest_a_motor_takes_its_stall_and_a_lamp_its_cold_current(self) -> None:
        self.assertAlmostEqual(SteadyMotor(4.0, 13.5, 5.0).held(13.5, 0.0)[0], 20.0, delta=1e-4)
        cold = Filament(2.0, 13.5)
        self.assertAlmostEqual(cold.held(13.5, cold.rest)[0] / 2.0, 14.6, delta=0.1)
        self.assertAlmostEqual(SelfHeater(10.0, 13.5, 2.5).held(13.5, 0.0)[0], 25.0)

    def test_a_lamp_loses_its_heat_as_the_fourth_power_of_its_temperature(self) -> None:
        """Left alone, ``dτ/dt = −k τ⁴`` gives ``1/τ³ − 1/τ₀³ = 3 k t`` (Stefan and Boltzmann)."""
        lamp = Filament(2.0, 13.5, 0.05)
        k = -lamp.rate(0.0, 1.0)
        after = moved(lamp, 0.0, 1.0, 0.1)[-1]
        self.assertAlmostEqual(1 / after**3 - 1, 3 * k * 0.1, delta=1e-3 * 3 * k * 0.1)

    def test_a_held_motor_carries_on_only_as_fast_as_its_torque_lets_it(self) -> None:
        motor = SteadyMotor(4.0, 13.5, 5.0, 0.5)
        self.assertEqual(float(motor.rate(2.0, 0.0)), 0.0)
        self.assertGreater(float(motor.rate(3.0, 0.0)), 0.0)
        self.assertLess(float(motor.rate(0.0, 0.5)), 0.0)


class MeltingTest(TestCase):
    def fuse(self, family: str = "regular blade", rating_a: float = 10.0) -> Part:
        return Part("f", "fuse", "F", "p", family, {"rating_a": rating_a})

    def test_it_parts_after_the_time_of_its_curve(self) -> None:
        part = self.fuse()
        melting = device_of(part).lags(part)["fuse"]
        for amps in (15.0, 20.0, 35.0, 60.0):
            seconds = middle_time_s("regular blade", 10.0, amps)
            self.assertAlmostEqual(float(melting.rate(amps, 0.0)) * seconds, 1.0)
            self.assertEqual(float(melting.steady(amps)), 1.0)

    def test_two_currents_one_after_the_other_add_up(self) -> None:
        part = self.fuse()
        melting = device_of(part).lags(part)["fuse"]
        half = 0.5 * middle_time_s("regular blade", 10.0, 20.0)
        left = (1 - half * melting.rate(20.0, 0.0)) / melting.rate(35.0, 0.5)
        self.assertAlmostEqual(float(left), 0.5 * middle_time_s("regular blade", 10.0, 35.0))

    def test_below_its_least_current_it_cools(self) -> None:
        part = self.fuse()
        melting = device_of(part).lags(part)["fuse"]
        self.assertEqual(float(melting.steady(9.0)), 0.0)
        self.assertLess(float(melting.rate(9.0, 0.4)), 0.0)
        self.assertEqual(float(melting.rate(9.0, 0.0)), 0.0)

    def test_an_unrated_fuse_says_nothing(self) -> None:
        bare = Part("f", "fuse", "F", "p", "regular blade")
        self.assertEqual(device_of(bare).lags(bare), {})

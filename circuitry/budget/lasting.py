"""How long a battery lasts, and what it must still hold."""

import numpy as np

from circuitry.design.model import Part
from circuitry.devices.battery import capacity_ah

HOURS_RATED = 20.0
PEUKERT = 1.15
"""A lead battery gives less the faster it is emptied: its hours go with the current to this power,
from the 20 h for which its capacity is rated (Peukert's law; typical, 1.1 to 1.25)."""
LOST_A_MONTH, AT_C, DOUBLES_PER_K = 0.04, 20.0, 10.0
"""What a lead battery loses by itself, doubled by each 10 K; typical, more where it is old."""
SULPHATES_BELOW, HALF, SPENT = 0.8, 0.5, 0.1
IDLES_H = 1.0
"""How long a battery is to help an engine that idles before it is half empty."""
LOAD_TEST_V = (
    *((-18.0, 8.5), (-12.0, 8.7), (-7.0, 8.9), (-1.0, 9.1)),
    *((4.0, 9.3), (10.0, 9.4), (16.0, 9.5), (21.0, 9.6)),
)
"""What the posts of a lead battery must hold while it is loaded as by a starter, by its °C: the
usual table of the load test for 12 V."""
HEAT_PER_K, HEAT_FROM_C, LEAST_IN_HEAT, MOST_IN_COLD = 0.0025, 20.0, 0.8, 1.1
"""What an alternator gives less for each K that it is warmer outside; typical for one that is
cooled by the air of the engine bay."""


def load_test_v(celsius: float) -> float:
    """The least volts at the posts under the load of a starter."""
    temperatures, volts = zip(*LOAD_TEST_V, strict=True)
    return float(np.interp(celsius, temperatures, volts))


def share_in_heat(outside_c: float) -> float:
    """The share of its rating that an alternator gives in this weather."""
    share = 1 - HEAT_PER_K * (outside_c - HEAT_FROM_C)
    return float(np.clip(share, LEAST_IN_HEAT, MOST_IN_COLD))


def self_discharge_a(battery: Part, celsius: float) -> float:
    """The current that would empty a battery as fast as it empties by itself."""
    share = LOST_A_MONTH / 30 / 24 * 2 ** ((celsius - AT_C) / DOUBLES_PER_K)
    return float(share * capacity_ah(battery))


def days_until(battery: Part, amps: float, charge: float, down_to: float, celsius: float) -> float:
    """Days of standing from one share of charge to another; none are left where it is there."""
    held_ah = max(charge - down_to, 0.0) * capacity_ah(battery)
    return held_ah / (max(amps, 0.0) + self_discharge_a(battery, celsius)) / 24


def hours_until(battery: Part, amps: float, charge: float, down_to: float) -> float:
    """Hours in which a current takes a battery from one share of its charge to another."""
    capacity = capacity_ah(battery)
    rated_a = capacity / HOURS_RATED
    full_h = HOURS_RATED * (rated_a / amps) ** (PEUKERT if amps > rated_a else 1.0)
    return max(charge - down_to, 0.0) * float(full_h)


def bears_a(battery: Part, charge: float, down_to: float, hours: float) -> float:
    """The current that takes a battery from one share of its charge to another in these hours."""
    rated_a = capacity_ah(battery) / HOURS_RATED
    full_h = hours / max(charge - down_to, 1e-6)
    return float(rated_a * (HOURS_RATED / full_h) ** (1 / PEUKERT if full_h < HOURS_RATED else 1.0))

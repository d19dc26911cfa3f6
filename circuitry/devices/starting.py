"""What a load takes as it starts, at once or over a soft start."""

from functools import lru_cache
from typing import Any

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.model import Part
from circuitry.devices.laws import LaggingLaw
from circuitry.devices.load import law_of_load, rated_current_a

DECAYS = 3.0
STEPS = 100
SETTLES_TIMES = 3.0
"""Of the ramp and of the time that the load takes to settle: then nothing moves any more."""


def starting(load: Part, soft_s: float = 0.0) -> tuple[float, float]:
    """The most that a load takes as it starts, in A, and what that heats in what leads to it, in
    A² s, until it has fallen to its rated current.

    At once it is its inrush, which falls to rated in a straight line: it heats as a third of its
    first, so long. Over a soft start, in which the mean of the volts rises evenly, its state is
    stepped by the law of the load, so that a filament is warm and a motor turns before all of the
    volts are there.
    """
    row = catalogue().loads[load.catalogue or ""]
    rated_a = rated_current_a(load)
    law = law_of_load(load)
    if soft_s <= 0 or not isinstance(law, LaggingLaw):
        first_a = rated_a * row.inrush_x
        return first_a, first_a**2 * row.inrush_s / DECAYS
    return _over(law, load.number("test_v", row.test_v), rated_a, row.inrush_s, soft_s)


@lru_cache(maxsize=4096)
def _over(
    law: LaggingLaw, test_v: float, rated_a: float, inrush_s: float, soft_s: float
) -> tuple[float, float]:
    from scipy.integrate import solve_ivp  # seldom needed, and long to load

    last_s = SETTLES_TIMES * max(soft_s, inrush_s)

    t_s = np.linspace(0.0, last_s, 1 + 4 * STEPS)

    def volts(t_s: Any) -> Any:
        return test_v * np.minimum(t_s / soft_s, 1.0)

    moved = solve_ivp(
        lambda t_s, at: law.rate(volts(t_s), at),
        (0.0, last_s),
        [float(law.rest)],
        max_step=min(soft_s, last_s / STEPS),
        rtol=1e-5,
        t_eval=t_s,
    )
    amps, _ = law.held(volts(t_s), moved.y[0])
    above = np.where(amps > rated_a, amps**2, 0.0)
    return float(amps.max()), float(np.trapezoid(above, t_s))

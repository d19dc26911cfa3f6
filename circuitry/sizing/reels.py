"""Few reels: a size of which the car needs little gives way to the next that is there anyway."""

from collections.abc import Collection
from itertools import pairwise

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.int_]
Vector = npt.NDArray[np.float64]

REEL_MM2_M = 35.0
"""What doing without a reel may cost: copper in mm² m, about 310 g. A reel of wire costs more."""


def fewer_reels(
    size: Numbers,
    most: Numbers,
    area_mm2: Vector,
    length_m: Vector,
    to_hand: Collection[int] = (),
    worth: float = REEL_MM2_M,
) -> Numbers:
    """Sizes, by number, with those of which little is needed made thicker, the cheapest first.

    ``most`` is the thickest that the terminals of each wire take; sizes ``to_hand`` are there
    whether they are used or not.

    >>> size, most = np.array([0, 1, 2, 2]), np.array([2, 2, 2, 2])
    >>> fewer_reels(size, most, np.array([0.5, 0.75, 1.0]), np.array([60.0, 2, 9, 9])).tolist()
    [0, 2, 2, 2]
    """
    fitted = np.array(size, dtype=int)
    while True:
        used = sorted({*fitted.tolist(), *to_hand})
        costs = {
            at: _climbing(fitted, most, area_mm2, length_m, at, larger)
            for at, larger in pairwise(used)
            if at not in to_hand
        }
        at = min(costs, key=lambda size: (costs[size], size), default=None)
        if at is None or costs[at] > worth:
            return fitted
        fitted[fitted == at] = used[used.index(at) + 1]


def _climbing(
    fitted: Numbers, most: Numbers, area_mm2: Vector, length_m: Vector, at: int, larger: int
) -> float:
    """The copper in mm² m that it costs to fit the next size instead; none where it does not go."""
    wires = fitted == at
    if (most[wires] < larger).any():
        return float("inf")
    return float(length_m[wires].sum() * (area_mm2[larger] - area_mm2[at]))

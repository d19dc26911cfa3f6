"""How long a fuse or breaker takes to part at a current, by the band of its family."""

from functools import cache
from typing import Any

import numpy as np
import numpy.typing as npt

from circuitry.catalogue import catalogue

Figure = Any
"""A float, or an array of them."""

NEVER_S = 1e6


def longest_time_s(family: str, rating_a: float, current_a: float) -> float:
    """The most that a fuse of this family takes to part, on its table's slowest curve: straight
    between the rows in logarithms of time and multiple of rating (ISO 8820-3 gives such rows), and
    beyond the last with the same ``I²t``, for no heat is lost any more.

    A million seconds where the current never parts it for sure.
    """
    return float(_time_s(_curves(family)[1], current_a / rating_a))


def shortest_time_s(family: str, rating_a: float, current_a: float) -> float:
    """The least that a fuse of this family takes to part, on its table's fastest curve."""
    return float(_time_s(_curves(family)[0], current_a / rating_a))


def middle_time_s(family: str, rating_a: Figure, current_a: Figure) -> Figure:
    """What a usual fuse of this family takes to part: the middle of its band, in logarithms of
    time. Its table holds the fastest and the slowest that may be sold. Floats, or arrays."""
    least, most = _curves(family)
    multiple = np.asarray(current_a) / rating_a
    return np.sqrt(_time_s(least, multiple) * _time_s(most, multiple))


def holds_share(family: str) -> float:
    """The multiple of its rating below which a fuse of this family never parts."""
    across = _curves(family)[0][0]
    return float(np.exp(across[0])) if len(across) else np.inf


@cache
def _curves(family: str) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Multiples of the rating and times, in logarithms, of the fastest and of the slowest."""
    rows = catalogue().fuse_curves.get(family, ())
    least = [(row.multiple_of_rating, row.least_time_s) for row in rows]
    most = [(row.multiple_of_rating, row.most_time_s) for row in rows if row.most_time_s]
    return np.log(np.array(least).reshape(-1, 2).T), np.log(np.array(most).reshape(-1, 2).T)


def _time_s(curve: npt.NDArray[np.float64], multiple: Figure) -> Figure:
    across, times = curve
    if not len(across):
        return np.full(np.shape(multiple), NEVER_S)
    at = np.log(np.maximum(multiple, 1e-9))
    seconds = np.exp(np.interp(at, across, times) - 2 * np.maximum(at - across[-1], 0.0))
    return np.where(at < across[0], NEVER_S, seconds)

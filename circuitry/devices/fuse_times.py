"""How long a fuse or breaker takes to part at a current, by the band of its family."""

import math

import numpy as np

from circuitry.catalogue import catalogue

NEVER_S = 1e6


def longest_time_s(family: str, rating_a: float, current_a: float) -> float:
    """The most that a fuse of this family takes to part, on its table's slowest curve: straight
    between the rows in logarithms of time and multiple of rating (ISO 8820-3 gives such rows), and
    beyond the last with the same ``I²t``, for no heat is lost any more.

    A million seconds where the current never parts it for sure.
    """
    rows = catalogue().fuse_curves.get(family, ())
    points = [(row.multiple_of_rating, row.most_time_s) for row in rows if row.most_time_s]
    return _time_s(points, current_a / rating_a)


def shortest_time_s(family: str, rating_a: float, current_a: float) -> float:
    """The least that a fuse of this family takes to part, on its table's fastest curve."""
    rows = catalogue().fuse_curves.get(family, ())
    points = [(row.multiple_of_rating, row.least_time_s) for row in rows]
    return _time_s(points, current_a / rating_a)


def middle_time_s(family: str, rating_a: float, current_a: float) -> float:
    """What a usual fuse of this family takes to part: the middle of its band, in logarithms of
    time. Its table holds the fastest and the slowest that may be sold."""
    least_s = shortest_time_s(family, rating_a, current_a)
    return math.sqrt(least_s * longest_time_s(family, rating_a, current_a))


def _time_s(points: list[tuple[float, float]], multiple: float) -> float:
    if not points or multiple < points[0][0]:
        return NEVER_S
    last, seconds = points[-1]
    if multiple > last:
        return seconds * (last / multiple) ** 2
    across, times = np.log(np.array(points)).T
    return float(np.exp(np.interp(np.log(multiple), across, times)))

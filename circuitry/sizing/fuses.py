"""Choosing the rating of each fuse."""

from collections.abc import Iterable, Mapping
from functools import cache
from itertools import pairwise

import numpy as np

from circuitry.catalogue import Fuse, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.fuse_times import NEVER_S, longest_time_s
from circuitry.network.equations import Vector
from circuitry.reach.ways import Path
from circuitry.sizing.duty import Peaks
from circuitry.sizing.facts import Matrix
from circuitry.sizing.starting import behind_each_fuse, survives

FUSE_DERATING_PER_K, BREAKER_DERATING_PER_K = 0.0015, 0.005
FUSE_REFERENCE_C = 25.0
SELDOM_AT_HAND_A = {
    "mini blade": (1.0, 2.0, 4.0),
    "regular blade": (1.0, 2.0, 4.0),
}
"""Fitted only where they are pinned: few boxes of spares have them, and the smallest part by
themselves sooner or later."""
SELECTIVE = 1.6
"""What a fuse must be above one of several below it, so that the lower parts first and the others
stay alive."""
OVERLOADS = np.concatenate([np.geomspace(1.35, 1.7, 10), np.geomspace(1.85, 10.0, 9)])
"""Multiples of a fuse's rating at which the wires behind it are held to its slowest curve; where
that begins to part it, wires come nearest."""


def fuse_carries_a(build: Build, part: Part, row: Fuse) -> float:
    """What a fuse may carry for ever at its place: its rating there times the headroom."""
    return fuse_bears_a(build, part, row) * build.policy.fuse_headroom


def fuse_bears_a(build: Build, part: Part, row: Fuse) -> float:
    """What a fuse may carry for seconds or in flashes at its place: its rating there, for every
    family holds its rating for hours. Fuses lose 0.15 % a kelvin from 25 °C, breakers 0.5 %."""
    ambient_c = build.places[part.place].ambient_c
    trips = row.family.startswith("breaker")
    per_k = BREAKER_DERATING_PER_K if trips else FUSE_DERATING_PER_K
    return row.rating_a * (1 - per_k * (ambient_c - FUSE_REFERENCE_C))


def fuse_ratings(part: Part) -> tuple[Fuse, ...]:
    """The ratings to choose from for a fuse: those of its family that a builder has at hand."""
    rows = catalogue().fuses[part.catalogue or ""]
    seldom_a = SELDOM_AT_HAND_A.get(part.catalogue or "", ())
    return tuple(row for row in rows if row.rating_a not in seldom_a) or rows


def fuses_below(easiest: Mapping[str, Path | None]) -> Mapping[str, tuple[str, ...]]:
    """For each fuse the next ones on the ways to the loads behind it, where those are several:
    what guards nothing else may part with it."""
    below: dict[str, dict[str, None]] = {}
    last: set[str] = set()
    for path in easiest.values():
        on_way = [step.owner for step in path.feed if step.kind == "fuse"] if path else []
        for upper, lower in pairwise(on_way):
            below.setdefault(upper, {})[lower] = None
        last |= set(on_way[-1:])
    return {upper: tuple(rows) for upper, rows in below.items() if len(rows) > 1 or upper in last}


@cache
def _slowest_s(family: str, rating_a: float) -> tuple[float, ...]:
    times_s = (longest_time_s(family, rating_a, rating_a * times) for times in OVERLOADS.tolist())
    return tuple(0.0 if seconds >= NEVER_S else seconds for seconds in times_s)


class FuseChooser:
    """The smallest rating of each fuse's family that carries its current, survives what starts
    behind it and outlasts the fuses below it; its largest when none does. One that has a rating
    keeps it."""

    def __init__(self, build: Build, easiest: Mapping[str, Path | None]) -> None:
        """``easiest`` is the way to each load."""
        self._pinned: list[float | None] = []
        self._rows: list[list[tuple[float, float, float]]] = []
        self._family: list[str] = []
        self.behind = behind_each_fuse(build, easiest)
        fuses = build.parts_of_kind("fuse")
        self._behind = [self.behind.get(part.id, ()) for part in fuses]
        self.below = fuses_below(easiest)
        at = {part.id: number for number, part in enumerate(fuses)}
        self._below = {at[upper]: [at[row] for row in rows] for upper, rows in self.below.items()}
        for part in fuses:
            self._family.append(part.catalogue or "")
            rows = fuse_ratings(part)
            pinned = "rating_a" in part.figures
            self._pinned.append(part.number("rating_a", 0) if pinned else None)
            self._rows.append(
                [
                    (
                        fuse_carries_a(build, part, row),
                        fuse_bears_a(build, part, row),
                        row.rating_a,
                    )
                    for row in rows
                ]
            )

    def near(self, rating_a: float) -> Vector:
        """The ratings nearest to one, to begin with."""
        return self._each(
            min((made_a for *_, made_a in rows), key=lambda made_a: abs(made_a - rating_a))
            for rows in self._rows
        )

    def choose(self, fuses: Peaks) -> Vector:
        """The ratings for these currents: what lasts within the headroom, the peak within the
        rating, each start within half of what melts it, and what it guards with others below."""
        rating_a = self._chosen(fuses, np.zeros(len(self._rows)))
        while True:
            least_a = np.zeros(len(self._rows))
            for upper, below in self._below.items():
                least_a[upper] = SELECTIVE * rating_a[below].max()
            again_a = self._chosen(fuses, least_a)
            if (again_a == rating_a).all():
                return rating_a
            rating_a = again_a

    def _chosen(self, fuses: Peaks, least_a: Vector) -> Vector:
        asked = zip(fuses.current_a.tolist(), fuses.lasting_a.tolist(), least_a, strict=True)
        return self._each(
            next(
                (
                    made_a
                    for for_ever_a, most_a, made_a in self._rows[at]
                    if for_ever_a >= lasts_a
                    and most_a >= peak_a
                    and made_a >= selective_a
                    and survives(self._family[at], made_a, self._behind[at], peak_a)
                ),
                self._rows[at][-1][-1],
            )
            for at, (peak_a, lasts_a, selective_a) in enumerate(asked)
        )

    def overloads(self, rating_a: Vector) -> tuple[Matrix, Matrix]:
        """Currents by fuse, from those that part it for sure to ten times its rating, and the most
        that it takes to part on each, in s; nothing is asked where it may never part."""
        overload_a = rating_a[:, None] * OVERLOADS
        parts_s = np.array(
            [_slowest_s(*pair) for pair in zip(self._family, rating_a.tolist(), strict=True)]
        ).reshape(overload_a.shape)
        return overload_a, parts_s

    def _each(self, chosen_a: Iterable[float]) -> Vector:
        pairs = zip(self._pinned, chosen_a, strict=True)
        return np.array([chosen if own is None else own for own, chosen in pairs], dtype=float)

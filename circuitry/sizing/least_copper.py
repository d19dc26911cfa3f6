"""The least copper that loses little enough, for the whole car at once, as an integer programme.

Each wire is fitted in one size of its own few: its floor, which carries what it must, and the
thicker ones that its terminals take and that save something worth having. Each load may lose its
limit; what it loses more is paid for at a price, so that a limit that no wire can keep does not
make every wire thick. Solved exactly by branch and bound (HiGHS, through SciPy).
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, permutations

import numpy as np
import numpy.typing as npt
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

Matrix = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.int_]

WORTH_SHARE = 0.005
"""A step from one reel to the next that saves no load this share of the source is not worth taking:
nobody could see it. So a wire two reels thicker saves some load one per cent. The step is judged
by itself and not from what the wire has anyway: then a larger current, a longer run or a tighter
limit only ever makes more steps worth taking."""
ALONE = 1.2
"""Times its own current up to which a wire is taken to lead to a load alone."""
PRICE_MM2_M_PER_W = 100.0
"""What keeping a limit may cost: copper in mm² m for each volt lost beyond it, times the amps of
the load, as the copper of a cable goes with its amps. A headlamp of 4.5 A that loses 0.1 V too
much is worth 45 mm² m, a tail lamp 4; a builder would rather live with less than pay more."""
GAP = 1e-6
MOST_SECONDS = 20.0


@dataclass(frozen=True)
class Loss:
    """What one load loses: ``lost_v`` with every wire at its floor, ``limit_v`` what it may, and
    for each wire that may be thickened for it the current in A that its volts are counted with, and
    the cable that it is part of: the wires of one circuit are bought and laid together.

    Of what is lost too much, ``trunk_v`` must be made up for by the wires of the ``trunk``.
    """

    lost_v: float
    limit_v: float
    source_v: float
    wires: Sequence[int]
    amps: Sequence[float]
    cables: Sequence[object]
    load_a: float
    trunk: Collection[int] = ()
    trunk_v: float = 0.0

    def without(self, wires: Collection[int]) -> "Loss":
        """The same, but these wires stay as they are."""
        left = [at for at, wire in enumerate(self.wires) if wire not in wires]
        return replace(
            self,
            wires=[self.wires[at] for at in left],
            amps=[self.amps[at] for at in left],
            cables=[self.cables[at] for at in left],
        )


@dataclass(frozen=True)
class Fit:
    """The size of each wire, the copper beyond the floors in mm² m, and the share by which
    that may lie above the bound of the programme."""

    size: Numbers
    copper_mm2_m: float
    gap: float


def least_copper(
    floor: Numbers,
    most: Numbers,
    ohm: Matrix,
    area_mm2: npt.NDArray[np.float64],
    length_m: npt.NDArray[np.float64],
    losses: Sequence[Loss],
    tapers: Sequence[tuple[int, int]] = (),
    legs: Sequence[Collection[int]] = (),
    price: float | None = PRICE_MM2_M_PER_W,
    worth: float = WORTH_SHARE,
    reels: Collection[int] | None = None,
    steps: Collection[int] = (),
) -> Fit:
    """The sizes, by number, of the least copper; ``ohm`` is by wire and size.

    ``tapers`` are pairs of wires of which the first may not be thinner than the second: there is
    no thin piece inside a thick run. ``floor`` already obeys them. ``legs`` are wires that climb
    together, there and back, left and right: one run has one size. ``price`` None keeps the limits
    at any price, which must be possible. ``reels`` are the sizes to be had, all when None, and
    ``steps`` those from which a thicker one is judged.

    >>> ohm = np.array([[0.08, 0.04, 0.02]])
    >>> areas, length, floor, most = np.array([1.0, 2, 4]), np.array([4.0]), [0], [2]
    >>> loss = Loss(0.8, 0.5, 12.0, [0], [10.0], ["lamp"], 10.0)
    >>> least_copper(np.array(floor), np.array(most), ohm, areas, length, [loss]).size.tolist()
    [1]
    """
    over = [row for row in losses if row.lost_v > row.limit_v]
    candidates = _along_legs(floor, most, _candidates(floor, most, ohm, over, worth, steps), legs)
    ladders = _ladders(floor, most, candidates, tapers)
    if reels is not None:
        ladders = {
            wire: [sizes[0], *(size for size in sizes[1:] if size in reels)]
            for wire, sizes in ladders.items()
        }
    programme = _Programme(ladders)
    if not programme.rungs:
        return Fit(floor.copy(), 0.0, 0.0)
    wire, thin, thick = np.array(programme.rungs).T
    copper = length_m[wire] * (area_mm2[thick] - area_mm2[thin])
    programme.keep_limits(over, ohm[wire, thin] - ohm[wire, thick], price is not None)
    programme.climb_in_order()
    programme.taper(tapers, floor)
    programme.climb_together(legs)
    beyond = [] if price is None else [price * row.load_a for row in over]
    together = programme.together()
    count = int(together.max()) + 1
    table, least = programme.table(together, len(beyond))
    answer = milp(
        np.concatenate([np.bincount(together, copper), beyond]),
        constraints=LinearConstraint(table, least, np.inf),
        integrality=np.concatenate([np.ones(count), np.zeros(len(beyond))]),
        bounds=Bounds(0, np.concatenate([np.ones(count), np.full(len(beyond), np.inf)])),
        options={"mip_rel_gap": GAP, "time_limit": MOST_SECONDS, "presolve": False},
    )
    size = floor.copy()
    if answer.x is None:
        return Fit(size, 0.0, float("inf"))
    climbed = answer.x[together] > 0.5
    np.maximum.at(size, wire[climbed], thick[climbed])
    return Fit(size, float(copper[climbed].sum()), float(answer.mip_gap or 0.0))


class _Programme:
    """The rows of the programme. A column is a rung: a wire climbs from one size to the next."""

    def __init__(self, ladders: Mapping[int, list[int]]) -> None:
        self.ladders = ladders
        self.rungs = [
            (wire, thin, thick)
            for wire, sizes in ladders.items()
            for thin, thick in pairwise(sizes)
        ]
        self.column = {(wire, thick): at for at, (wire, _, thick) in enumerate(self.rungs)}
        self._rows: list[tuple[Mapping[int, float], float]] = []
        self._after: list[tuple[int, int]] = []

    def keep_limits(
        self, over: Sequence[Loss], saved_ohm: npt.NDArray[np.float64], soft: bool
    ) -> None:
        """What the rungs save, and what is lost beyond the limit all the same, make up for what
        is lost too much, in all and in the trunk."""
        for number, loss in enumerate(over):
            beyond = {len(self.rungs) + number: 1.0} if soft else {}
            in_all, in_trunk = dict(beyond), dict(beyond)
            for wire, amps in zip(loss.wires, loss.amps, strict=True):
                for size in self.ladders.get(wire, [])[1:]:
                    at = self.column[wire, size]
                    for row in (in_all, in_trunk) if wire in loss.trunk else (in_all,):
                        row[at] = row.get(at, 0.0) + amps * saved_ohm[at]
            self._rows.append((in_all, loss.lost_v - loss.limit_v))
            if loss.trunk_v > 0:
                self._rows.append((in_trunk, loss.trunk_v))

    def climb_in_order(self) -> None:
        """No rung before the one below it."""
        for wire, sizes in self.ladders.items():
            for below, above in pairwise(sizes[1:]):
                self._climbs_after(self.column[wire, above], self.column[wire, below])

    def climb_together(self, legs: Sequence[Collection[int]]) -> None:
        """Where one wire of a leg climbs to a size, each other is no thinner, as far as it goes."""
        for leg in legs:
            rungs = {wire: self.ladders.get(wire, [])[1:] for wire in leg}
            for climbing, other in permutations(leg, 2):
                for size in rungs[climbing]:
                    below = [rung for rung in rungs[other] if rung <= size]
                    if below:
                        earlier = self.column[other, below[-1]]
                        self._climbs_after(self.column[climbing, size], earlier)

    def taper(self, pairs: Sequence[tuple[int, int]], floor: Numbers) -> None:
        """The first wire of a pair climbs with the second."""
        for first, second in pairs:
            for size in self.ladders.get(second, [])[1:]:
                if size <= floor[first]:
                    continue
                thick = [rung for rung in self.ladders.get(first, [])[1:] if rung >= size]
                earlier = [self.column[first, rung] for rung in thick[:1]]
                self._climbs_after(self.column[second, size], *earlier)

    def together(self) -> Numbers:
        """A number for each rung; those that wait for each other are climbed at once, and have the
        same."""
        count = len(self.rungs)
        first, second = np.array(self._after, dtype=int).reshape(-1, 2).T
        waits = csr_array((np.ones(len(first)), (first, second)), shape=(count, count))
        _, number = connected_components(waits, directed=True, connection="strong")
        return np.unique(number, return_inverse=True)[1]

    def table(self, together: Numbers, beyond: int) -> tuple[csr_array, list[float]]:
        """The rows as a sparse matrix over the rungs that are climbed together and what is lost
        ``beyond`` limits, and what each comes to at least."""
        columns = int(together.max()) + 1
        number = np.concatenate([together, columns + np.arange(beyond)])
        rows: dict[tuple[tuple[int, float], ...], float] = {}
        for values, least in self._rows:
            row: dict[int, float] = {}
            for column, value in values.items():
                at = int(number[column])
                row[at] = row.get(at, 0.0) + value
            if any(row.values()):
                entries = tuple(sorted(row.items()))
                rows[entries] = max(least, rows.get(entries, least))
        row_of, column_of, value_of = zip(
            *((at, *entry) for at, row in enumerate(rows) for entry in row), strict=True
        )
        shape = len(rows), columns + beyond
        return csr_array((value_of, (row_of, column_of)), shape=shape), list(rows.values())

    def _climbs_after(self, later: int, *earlier: int) -> None:
        """A rung is climbed only where another is, or not at all."""
        self._after += [(later, rung) for rung in earlier]
        self._rows.append(({later: -1.0, **dict.fromkeys(earlier, 1.0)}, 0.0))


def _ladders(
    floor: Numbers,
    most: Numbers,
    candidates: Sequence[tuple[int, int]],
    tapers: Sequence[tuple[int, int]],
) -> Mapping[int, list[int]]:
    """The sizes that each wire may take, its floor first, where there is more than that; one that
    may not be thinner than another can climb with it."""
    taken, new = set(candidates), set(candidates)
    feeders: dict[int, list[int]] = {}
    for first, second in tapers:
        feeders.setdefault(second, []).append(first)
    while new:
        new = {
            (first, size)
            for second, size in new
            for first in feeders.get(second, [])
            if floor[first] < size <= most[first]
        } - taken
        taken |= new
    ladders: dict[int, list[int]] = {}
    for wire, size in sorted(taken):
        ladders.setdefault(wire, [int(floor[wire])]).append(size)
    return ladders


def _candidates(
    floor: Numbers,
    most: Numbers,
    ohm: Matrix,
    over: Sequence[Loss],
    worth: float,
    steps: Collection[int],
) -> list[tuple[int, int]]:
    """Pairs of a wire and a size thicker than its floor that is worth having: with the whole cable
    in it and not one step thinner, some load gains enough to be seen. What a circuit shares among
    its loads is one cable, what leads to the load alone another."""
    taken: set[tuple[int, int]] = set()
    for loss in over:
        cables: dict[object, list[tuple[int, float]]] = {}
        for wire, amps, cable in zip(loss.wires, loss.amps, loss.cables, strict=True):
            alone = amps <= ALONE * loss.load_a
            cables.setdefault((cable, alone), []).append((wire, amps))
        for cable_wires in cables.values():
            thickest = max(int(most[wire]) for wire, _ in cable_wires)
            for size in range(1, thickest + 1):
                below = max((step for step in steps if step < size), default=0)
                saved_v = sum(
                    amps * (ohm[wire, below] - ohm[wire, size]) for wire, amps in cable_wires
                )
                if saved_v >= worth * loss.source_v:
                    taken |= {
                        (wire, size) for wire, _ in cable_wires if floor[wire] < size <= most[wire]
                    }
    return sorted(taken)


def _along_legs(
    floor: Numbers,
    most: Numbers,
    candidates: Collection[tuple[int, int]],
    legs: Sequence[Collection[int]],
) -> list[tuple[int, int]]:
    """What is worth having for one wire of a leg is to be had for all of it, as far as it goes."""
    taken = set(candidates)
    for leg in legs:
        sizes = {size for wire, size in candidates if wire in leg}
        taken |= {
            (wire, within)
            for wire in leg
            for size in sizes
            if floor[wire] < (within := min(size, int(most[wire])))
        }
    return sorted(taken)

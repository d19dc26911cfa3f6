"""Lengths cut from reels, those at hand first, with the least that has to be bought.

What to buy is tried from the cheapest upwards, so that the first from which all pieces can be cut
is the best. Whether they can is the bin-packing problem: each reel in turn is filled as full as can
be with the longest piece that is left in it (minimum bin slack, Gupta and Ho 1999); where that
fails, few pieces are tried in every way, and of more an integer programme has the last word. The
cheapest for which it is not sure that it is too little bounds what any cutting must cost.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import product

import numpy as np
import numpy.typing as npt
from scipy.optimize import Bounds, LinearConstraint, milp

from circuitry.progress import report

SOLD: Mapping[float, float] = {
    **{1.0: 1.5, 2.0: 2.9, 3.0: 4.2, 5.0: 6.5},
    **{10.0: 12.0, 25.0: 27.5, 50.0: 50.0, 100.0: 90.0},
}
"""Lengths in m in which wire is sold, off the roll or on a reel, and what each counts: a metre is
dearer the shorter it is. Typical."""
STEP_M = 0.05
"""Lengths are counted in steps of this, rounded up."""
FEWEST, FEW, FEW_PLACES, SECONDS = 12, 40, 400, 1.0
"""So many pieces are tried in every way; so many pieces, and pairs of piece and reel, go to an
integer programme."""
INFEASIBLE = 2
"""What the solver of the programme calls it."""
MOST_EACH = (1, 4, 2, 1, 4, 1, 1, 3)
"""The most reels of each length sold beside those of the longest that are needed anyway: one more
of a length costs more than one reel as long as all of them."""
SMALL = 1e-7
Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Piece:
    """A length to cut, of a wire."""

    wire: str
    length_m: float


@dataclass(frozen=True)
class Stock:
    """A reel: its length, and its id where it is at hand; None where it is to be bought."""

    length_m: float
    reel: str | None = None


@dataclass(frozen=True)
class Cut:
    """What is cut from one reel, the longest first, and what is left of it."""

    stock: Stock
    pieces: tuple[Piece, ...]
    left_m: float


@dataclass(frozen=True)
class Cutting:
    """How pieces are cut from reels; what is bought counts ``cost``, ``least_cost`` the least that
    any cutting can. ``too_long`` are pieces longer than any reel: joined, or ordered to length."""

    cuts: tuple[Cut, ...]
    cost: float
    least_cost: float
    too_long: tuple[Piece, ...] = ()

    @property
    def bought_m(self) -> float:
        """What has to be bought."""
        return sum(cut.stock.length_m for cut in self.cuts if cut.stock.reel is None)


def cut_from_reels(pieces: Sequence[Piece], at_hand: Sequence[Stock] = ()) -> Cutting:
    """The cheapest cutting of these pieces; short reels at hand are used up first.

    >>> pieces = [Piece("a", 3.0), Piece("b", 3.0), Piece("c", 2.0), Piece("d", 2.0)]
    >>> [[piece.wire for piece in cut.pieces] for cut in cut_from_reels(pieces).cuts]
    [['a', 'b', 'c', 'd']]
    """
    longest_m = max([*SOLD, *(stock.length_m for stock in at_hand)])
    too_long = tuple(piece for piece in pieces if piece.length_m > longest_m + SMALL)
    fits = sorted(
        (piece for piece in pieces if piece.length_m <= longest_m + SMALL),
        key=lambda piece: -piece.length_m,
    )
    ends = sorted(at_hand, key=lambda stock: stock.length_m)
    least_cost = None
    for cost, reels in _to_buy(fits, ends):
        report("Cutting wire from reels")
        placed, sure = _placed(fits, [*ends, *(Stock(length_m) for length_m in reels)])
        if least_cost is None and (placed is not None or not sure):
            least_cost = cost
        if placed is not None:
            return Cutting(tuple(_cuts(placed)), cost, least_cost or 0.0, too_long)
    raise AssertionError("a reel of the longest for each piece is always enough")


def _steps(length_m: float) -> int:
    return max(1, math.ceil(length_m / STEP_M - SMALL))


def _holds(length_m: float) -> int:
    return math.floor(length_m / STEP_M + SMALL)


@cache
def _sets() -> list[tuple[float, int, tuple[float, ...]]]:
    """What may be bought beside whole reels of the longest: cost, steps and lengths, the cheapest
    first."""
    lengths = sorted(SOLD)
    rows = []
    for counts in product(*(range(most + 1) for most in MOST_EACH)):
        reels = tuple(m for m, n in zip(lengths, counts, strict=True) for _ in range(n))
        rows.append((sum(SOLD[m] for m in reels), sum(map(_holds, reels)), reels))
    return sorted(rows, key=lambda row: (row[0], len(row[2])))


def _to_buy(
    pieces: Sequence[Piece], at_hand: Sequence[Stock]
) -> Iterator[tuple[float, list[float]]]:
    """What may be bought, the cheapest first: lengths that are enough in all, and at last a reel of
    the longest for each piece."""
    needs = sum(_steps(piece.length_m) for piece in pieces)
    needs -= sum(_holds(row.length_m) for row in at_hand)
    longest = max(SOLD)
    whole = max(int(needs * STEP_M // longest) - 1, 0)
    needs -= whole * _holds(longest)
    for cost, steps, reels in _sets():
        if steps >= needs:
            yield cost + whole * SOLD[longest], [*reels, *[longest] * whole]
    yield SOLD[longest] * len(pieces), [longest] * len(pieces)


Placed = list[tuple[Stock, list[Piece]]]


def _placed(pieces: Sequence[Piece], reels: Sequence[Stock]) -> tuple[Placed | None, bool]:
    """The pieces, the longest first, by reel, or None; and whether that is sure."""
    rooms = [_holds(stock.length_m) for stock in reels]
    if pieces and (not rooms or _steps(pieces[0].length_m) > max(rooms)):
        return None, True
    left = list(pieces)
    filled: Placed = []
    for stock, room in zip(reels, rooms, strict=True):
        taken = _fullest([_steps(piece.length_m) for piece in left], room)
        filled.append((stock, [piece for piece, takes in zip(left, taken, strict=True) if takes]))
        left = [piece for piece, takes in zip(left, taken, strict=True) if not takes]
    if not left:
        return filled, True
    if len(pieces) <= FEWEST:
        on = _tried([_steps(piece.length_m) for piece in pieces], rooms)
        sure = True
    elif len(pieces) <= FEW and len(pieces) * len(reels) <= FEW_PLACES:
        on, sure = _by_programme([_steps(piece.length_m) for piece in pieces], rooms)
    else:
        on, sure = None, False
    if on is None:
        return None, sure
    at = list(zip(pieces, on, strict=True))
    return [(stock, [p for p, n in at if n == number]) for number, stock in enumerate(reels)], True


def _tried(lengths: Sequence[int], rooms: Sequence[int]) -> list[int] | None:
    """The reel of each length by trying all, those of like room once; None where there is none."""
    dead: set[tuple[int, tuple[int, ...]]] = set()

    def place(at: int, left: list[int]) -> list[int] | None:
        if at == len(lengths):
            return []
        key = at, tuple(sorted(left))
        if key in dead:
            return None
        for number in sorted({room: n for n, room in enumerate(left)}.values()):
            if left[number] >= lengths[at]:
                left[number] -= lengths[at]
                rest = place(at + 1, left)
                left[number] += lengths[at]
                if rest is not None:
                    return [number, *rest]
        dead.add(key)
        return None

    return place(0, list(rooms))


def _fullest(lengths: Sequence[int], room: int) -> list[bool]:
    """Which of these lengths, the longest first, fill a room best with the first that fits."""
    first = next((at for at, length in enumerate(lengths) if length <= room), None)
    takes = [False] * len(lengths)
    if first is None:
        return takes
    takes[first] = True
    room -= lengths[first]
    reached = np.zeros(room + 1, dtype=bool)
    reached[0] = True
    came_by: list[tuple[int, Flags]] = []
    for at in range(first + 1, len(lengths)):
        length = lengths[at]
        if length > room:
            continue
        new = np.zeros_like(reached)
        new[length:] = reached[: room + 1 - length]
        new &= ~reached
        came_by.append((at, new))
        reached |= new
        if reached[room]:
            break
    at_room = int(np.flatnonzero(reached).max())
    for at, new in reversed(came_by):
        if new[at_room]:
            takes[at] = True
            at_room -= lengths[at]
    return takes


def _by_programme(lengths: Sequence[int], rooms: Sequence[int]) -> tuple[list[int] | None, bool]:
    """The reel of each length, none over its room, by an integer programme; None where there is no
    such way or none was found in time, and which of the two."""
    count, many = len(lengths), len(rooms)
    answer = milp(
        np.zeros(count * many),
        constraints=[
            LinearConstraint(np.kron(np.eye(count), np.ones(many)), lb=1.0, ub=1.0),
            LinearConstraint(np.kron(np.array(lengths, dtype=float), np.eye(many)), ub=rooms),
        ],
        bounds=Bounds(0.0, 1.0),
        integrality=np.ones(count * many, dtype=int),
        options={"time_limit": SECONDS},
    )
    if answer.x is None:
        return None, answer.status == INFEASIBLE
    on = np.rint(answer.x).reshape(count, many)
    return on.argmax(axis=1).tolist(), True


def _cuts(placed: Placed) -> Iterator[Cut]:
    for stock, pieces in placed:
        if pieces:
            used_m = sum(piece.length_m for piece in pieces)
            yield Cut(stock, tuple(pieces), stock.length_m - used_m)

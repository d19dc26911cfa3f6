"""Symmetric elimination of many matrices of one sparse pattern at once.

``A = L D Lᵀ`` is computed without pivoting: the matrices are conductances between nodes, whose
diagonal outweighs the rest. The order is that of least degree, laid out once for each network.
Columns that do not depend on each other form a level of the elimination tree (Liu, “The role of
elimination trees in sparse factorization”, SIAM J. Matrix Anal. Appl. 11, 1990); those of a level
are eliminated together, in all matrices at once, so that the work is done by arrays and not node
by node. A car is nearly a tree: a few hundred nodes have about fifteen levels, of which the last
few columns, which hang together, are inverted as they are.

Arrays have one row an unknown or an element, and one column a matrix.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_array, csr_array, eye_array
from scipy.sparse.linalg import splu

Matrix = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.integer[Any]]

FEW = 3
"""Columns of a level, at most, that are left to the last block."""


@dataclass(frozen=True)
class _Sums:
    """Rows of an array added up: ``each`` in this order, from each of ``starts``, give those of
    ``targets``."""

    each: Numbers
    starts: Numbers
    targets: Numbers

    @classmethod
    def by(cls, targets: Numbers) -> "_Sums":
        """Sums of the rows that have the same target."""
        each = np.argsort(targets, kind="stable")
        found, starts = np.unique(targets[each], return_index=True)
        return cls(each, starts, found)

    def take_from(self, figures: Matrix, rows: Matrix) -> None:
        """Subtract the sums of the rows from their targets among the figures."""
        figures[self.targets] -= np.add.reduceat(rows[self.each], self.starts, axis=0)


@dataclass(frozen=True)
class _Level:
    """Columns that are eliminated together, and the entries below their diagonals.

    ``row`` and ``column`` are those of each entry; ``one`` and ``other`` the pairs of entries of a
    column whose product changes what stands further on, as ``changes`` adds them up.
    """

    columns: slice
    entries: slice
    row: Numbers
    column: Numbers
    one: Numbers
    other: Numbers
    changes: _Sums
    by_row: _Sums
    by_column: _Sums


class Elimination:
    """The order and the pattern of the matrices of one network."""

    def __init__(self, first: Numbers, second: Numbers, size: int) -> None:
        """``first`` and ``second`` are the unknowns that each element joins, −1 for the
        reference."""
        self._size = size
        rows, columns, order = _filled(first, second, size)
        depth = _depths(rows, columns, size)
        by_depth = np.argsort(depth, kind="stable")
        place = np.argsort(by_depth)
        self._order = order[by_depth]
        rows, columns = place[rows], place[columns]
        sorted_entries = np.lexsort((rows, columns))
        rows, columns = rows[sorted_entries], columns[sorted_entries]
        self._lay_levels(rows, columns, depth[by_depth])
        self._lay_elements(first, second, rows, columns)

    def _lay_levels(self, rows: Numbers, columns: Numbers, depth: Numbers) -> None:
        size = self._size
        crowd = np.bincount(depth, minlength=1)
        last = np.flatnonzero(crowd > FEW).max(initial=-1) + 1
        self._tail = int(np.searchsorted(depth, last))
        inside = columns >= self._tail
        self._tail_entries = np.flatnonzero(inside) + size
        self._tail_at = rows[inside] - self._tail, columns[inside] - self._tail
        keys = columns * size + rows
        starts = np.searchsorted(columns, np.arange(size + 1))
        self._levels = []
        for number in range(int(last)):
            low, high = np.searchsorted(depth, (number, number + 1)).tolist()
            first, last = int(starts[low]), int(starts[high])
            if first == last:
                continue
            pairs = [
                (one, other)
                for column in range(low, high)
                for one in range(starts[column], starts[column + 1])
                for other in range(starts[column], one + 1)
            ]
            one, other = np.array(pairs).T
            target = np.where(
                one == other,
                rows[one],
                size + np.searchsorted(keys, rows[other] * size + rows[one]),
            )
            row, column = rows[first:last], columns[first:last]
            self._levels.append(
                _Level(
                    slice(low, high),
                    slice(size + first, size + last),
                    row,
                    column,
                    one - first,
                    other - first,
                    _Sums.by(target),
                    _Sums.by(row),
                    _Sums.by(column),
                )
            )

    def _lay_elements(
        self, first: Numbers, second: Numbers, rows: Numbers, columns: Numbers
    ) -> None:
        """The matrix that turns the conductance of each element into the entries."""
        size, keys = self._size, columns * self._size + rows
        place = np.empty(size, dtype=int)
        place[self._order] = np.arange(size)
        self._place = place
        each = np.arange(len(first))
        inside = (first >= 0) & (second >= 0) & (first != second)
        one, other = place[first[inside]], place[second[inside]]
        entry = size + np.searchsorted(keys, np.minimum(one, other) * size + np.maximum(one, other))
        ends = [(place[end[end >= 0]], each[end >= 0]) for end in (first, second)]
        loose = first != second
        at = np.concatenate([ends[0][0], ends[1][0], entry])
        element = np.concatenate([ends[0][1], ends[1][1], each[inside]])
        sign = np.concatenate(
            [
                loose[ends[0][1]].astype(float),
                loose[ends[1][1]].astype(float),
                -np.ones(len(entry)),
            ]
        )
        self._entries = csr_array((sign, (at, element)), shape=(size + len(rows), len(first)))

    def factors(self, siemens: Matrix, held: Matrix) -> "Factors":
        """Factors for the conductance of each element; ``held`` is added to the diagonal of each
        unknown. One that is no number, or zero, is met where it is solved for."""
        figures: Matrix = self._entries @ siemens
        figures[: self._size] += held[self._order]
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            for level in self._levels:
                below = figures[level.entries]
                scaled = below / figures[level.column]
                level.changes.take_from(figures, below[level.one] * scaled[level.other])
                figures[level.entries] = scaled
            return Factors(self._levels, self._order, self._place, figures, self._inverted(figures))

    def _inverted(self, figures: Matrix) -> Matrix:
        """The inverse of what is left when all levels are eliminated, by matrix."""
        count = self._size - self._tail
        left = np.zeros((figures.shape[1], count, count))
        each = np.arange(count)
        left[:, each, each] = figures[self._tail : self._size].T
        row, column = self._tail_at
        left[:, row, column] = left[:, column, row] = figures[self._tail_entries].T
        return _inverses(left)


class Factors:
    """The factors of many matrices of one pattern."""

    def __init__(
        self,
        levels: list[_Level],
        order: Numbers,
        place: Numbers,
        figures: Matrix,
        inverse: Matrix,
    ) -> None:
        self._levels = levels
        self._order = order
        self._place = place
        self._figures = figures
        self._inverse = inverse

    def solve(self, right: Matrix) -> Matrix:
        """The unknowns for these right sides, one column a matrix."""
        figures, found = self._figures, right[self._order]
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            for level in self._levels:
                level.by_row.take_from(found, figures[level.entries] * found[level.column])
            tail = len(found) - self._inverse.shape[1]
            found[:tail] /= figures[:tail]
            found[tail:] = np.einsum("sij,js->is", self._inverse, found[tail:])
            for level in reversed(self._levels):
                level.by_column.take_from(found, figures[level.entries] * found[level.row])
        return found[self._place]


def _filled(first: Numbers, second: Numbers, size: int) -> tuple[Numbers, Numbers, Numbers]:
    """Rows and columns of the entries below the diagonal of L, and the order of the unknowns."""
    inside = (first >= 0) & (second >= 0)
    ends = np.concatenate([first[inside], second[inside]])
    others = np.concatenate([second[inside], first[inside]])
    links = csc_array((np.full(len(ends), -1.0), (ends, others)), shape=(size, size))
    outweighed = links + (1.0 + len(ends)) * eye_array(size, format="csc")
    found = splu(
        csc_array(outweighed),
        "MMD_AT_PLUS_A",
        diag_pivot_thresh=0.0,
        options={"SymmetricMode": True},
    )
    below = found.L.tocoo()
    strictly = below.row > below.col
    return (
        below.row[strictly].astype(int),
        below.col[strictly].astype(int),
        np.argsort(found.perm_c),
    )


def _depths(rows: Numbers, columns: Numbers, size: int) -> Numbers:
    """How many levels each column has below it in the elimination tree, whose parent is the first
    entry of a column."""
    parent = np.full(size, size)
    np.minimum.at(parent, columns, rows)
    depth = [0] * (size + 1)
    for column, above in enumerate(parent.tolist()):
        depth[above] = max(depth[above], depth[column] + 1)
    return np.array(depth[:size], dtype=int)


def _inverses(blocks: Matrix) -> Matrix:
    """The inverse of each block; no numbers in place of one that has none."""
    try:
        return np.asarray(np.linalg.inv(blocks), dtype=float)
    except np.linalg.LinAlgError:
        if len(blocks) == 1:
            return np.full(blocks.shape, np.nan)
        return np.concatenate([_inverses(block[None]) for block in blocks])

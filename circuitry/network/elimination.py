"""Symmetric elimination of many matrices of one sparse pattern.

``A = L D Lᵀ`` is computed without pivoting: the matrices are conductances between nodes, whose
diagonal outweighs the rest (T. A. Davis, *Direct Methods for Sparse Linear Systems*, SIAM 2006).
Order and pattern, by least degree, are laid out once for each network, with the place of every
product that the elimination subtracts; what is left is a loop, which Numba compiles.

Arrays have one row an unknown or an element, and one column a matrix; those of the compiled loops
have one row a matrix.
"""

from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
from numba import njit
from scipy.sparse import csc_array, csr_array, eye_array
from scipy.sparse.linalg import splu

Vector = npt.NDArray[np.float64]
Matrix = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.integer[Any]]


PATTERNS_KEPT = 4


def elimination_of(first: Numbers, second: Numbers, size: int) -> "Elimination":
    """The elimination for elements that join these unknowns, −1 for the reference. The last few
    are kept: an edit seldom changes what joins what."""
    return _kept(first.tobytes(), second.tobytes(), first.dtype.str, size)


@lru_cache(PATTERNS_KEPT)
def _kept(first: bytes, second: bytes, of_type: str, size: int) -> "Elimination":
    return Elimination(np.frombuffer(first, of_type), np.frombuffer(second, of_type), size)


class Elimination:
    """The order and the pattern of the matrices of one network."""

    def __init__(self, first: Numbers, second: Numbers, size: int) -> None:
        """``first`` and ``second`` are the unknowns that each element joins, −1 for the
        reference."""
        self.size = size
        rows, columns, self._order = _filled(first, second, size)
        sorted_entries = np.lexsort((rows, columns))
        self._rows, columns = rows[sorted_entries], columns[sorted_entries]
        self._starts = np.searchsorted(columns, np.arange(size + 1))
        keys = columns * size + self._rows
        self._targets = _targets(self._rows, self._starts, keys)
        entries = self._of_elements(first, second, keys)
        self._entries = entries.shape[0]
        self._elements = entries.indptr, entries.indices, entries.data

    def _of_elements(self, first: Numbers, second: Numbers, keys: Numbers) -> csr_array:
        """The matrix that turns the conductance of each element into the entries."""
        size, place = self.size, np.argsort(self._order)
        each = np.arange(len(first))
        inside = (first >= 0) & (second >= 0) & (first != second)
        one, other = place[first[inside]], place[second[inside]]
        entry = size + np.searchsorted(keys, np.minimum(one, other) * size + np.maximum(one, other))
        ends = [(place[end[end >= 0]], each[end >= 0]) for end in (first, second)]
        loose = first != second
        at = np.concatenate([ends[0][0], ends[1][0], entry])
        element = np.concatenate([ends[0][1], ends[1][1], each[inside]])
        signs = [loose[row].astype(float) for _, row in ends] + [-np.ones(len(entry))]
        shape = size + len(keys), len(first)
        return csr_array((np.concatenate(signs), (at, element)), shape=shape)

    def solved(self, siemens: Vector, held: Vector, right: Vector) -> Vector:
        """The unknowns of one matrix, as those of ``factors`` and ``solve`` of a batch of one."""
        pattern = self._order, self._starts, self._rows, self._targets
        unknowns: Vector = _solved(siemens, held, right, *self._elements, *pattern)
        return unknowns

    def factors(self, siemens: Matrix, held: Matrix) -> "Factors":
        """Factors for the conductance of each element; ``held`` is added to the diagonal of each
        unknown. One that is no number, or zero, is met where it is solved for."""
        figures = np.zeros((siemens.shape[1], self._entries))
        by_element, by_unknown = np.ascontiguousarray(siemens), np.ascontiguousarray(held)
        _gather(figures, by_element, by_unknown, self._order, *self._elements)
        _eliminate(figures, self.size, self._starts, self._targets)
        return Factors(self, figures)

    def solve(self, figures: Matrix, right: Matrix) -> Matrix:
        """The unknowns for these factors and right sides."""
        unknowns, pattern = np.empty(right.shape), (self._order, self._starts, self._rows)
        _solve(figures, np.ascontiguousarray(right), unknowns, *pattern)
        return unknowns


class Factors:
    """The factors of many matrices of one pattern."""

    def __init__(self, pattern: Elimination, figures: Matrix) -> None:
        self._pattern, self._figures = pattern, figures

    def solve(self, right: Matrix) -> Matrix:
        """The unknowns for these right sides, one column a matrix."""
        return self._pattern.solve(self._figures, right)

    def inverse(self) -> Matrix:
        """The inverse of the one matrix that this is of."""
        size = self._pattern.size
        return self._pattern.solve(np.repeat(self._figures, size, axis=0), np.eye(size))


compiled = njit(cache=True, nogil=True, error_model="numpy")
"""A loop over arrays that Numba compiles; what it divides by zero is no number."""


@compiled
def _gather(
    figures: Matrix,
    siemens: Matrix,
    held: Matrix,
    order: Numbers,
    starts: Numbers,
    elements: Numbers,
    signs: Vector,
) -> None:
    """Fill the entries of each row from the conductance of each element."""
    for entry in range(figures.shape[1]):
        for number in range(starts[entry], starts[entry + 1]):
            element, sign = elements[number], signs[number]
            for matrix in range(figures.shape[0]):
                figures[matrix, entry] += sign * siemens[element, matrix]
    for entry in range(len(order)):
        for matrix in range(figures.shape[0]):
            figures[matrix, entry] += held[order[entry], matrix]


@compiled
def _eliminate(figures: Matrix, size: int, starts: Numbers, targets: Numbers) -> None:
    """Turn the entries of each row, the diagonal first, into those of L and D."""
    for matrix in range(len(figures)):
        entries = figures[matrix]
        product = 0
        for column in range(size):
            first, last = starts[column], starts[column + 1]
            for one in range(first, last):
                share = entries[size + one] / entries[column]
                for other in range(first, one + 1):
                    entries[targets[product]] -= share * entries[size + other]
                    product += 1
            for one in range(first, last):
                entries[size + one] /= entries[column]


@compiled
def _solve(
    figures: Matrix,
    right: Matrix,
    unknowns: Matrix,
    order: Numbers,
    starts: Numbers,
    rows: Numbers,
) -> None:
    """The unknowns of each right side: through L, D and Lᵀ."""
    size = len(order)
    for matrix in range(len(figures)):
        entries, found = figures[matrix], right[order, matrix]
        for column in range(size):
            for one in range(starts[column], starts[column + 1]):
                found[rows[one]] -= entries[size + one] * found[column]
        for column in range(size - 1, -1, -1):
            found[column] /= entries[column]
            for one in range(starts[column], starts[column + 1]):
                found[column] -= entries[size + one] * found[rows[one]]
        unknowns[order, matrix] = found


@compiled
def _solved(
    siemens: Vector,
    held: Vector,
    right: Vector,
    element_starts: Numbers,
    elements: Numbers,
    signs: Vector,
    order: Numbers,
    starts: Numbers,
    rows: Numbers,
    targets: Numbers,
) -> Vector:
    size = len(order)
    figures, unknowns = np.zeros((1, len(element_starts) - 1)), np.empty((size, 1))
    one = siemens.reshape((-1, 1)), held.reshape((-1, 1)), right.reshape((-1, 1))
    _gather(figures, one[0], one[1], order, element_starts, elements, signs)
    _eliminate(figures, size, starts, targets)
    _solve(figures, one[2], unknowns, order, starts, rows)
    return unknowns[:, 0]


def _targets(rows: Numbers, starts: Numbers, keys: Numbers) -> Numbers:
    """Where each product of two entries of a column is subtracted, in the order of the loop."""
    size = len(starts) - 1
    pairs = [
        (one, other)
        for column in range(size)
        for one in range(starts[column], starts[column + 1])
        for other in range(starts[column], one + 1)
    ]
    one, other = np.array(pairs, dtype=int).reshape(-1, 2).T
    below = size + np.searchsorted(keys, rows[other] * size + rows[one])
    targets: Numbers = np.where(one == other, rows[one], below)
    return targets


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

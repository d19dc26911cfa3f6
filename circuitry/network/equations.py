"""Nodal equations of two-terminal elements, solved by Newton's method.

Unknowns are the node voltages against the reference. Kirchhoff's current law at each node is
``F(v) = Aᵀ i(A v) = 0`` with the incidence matrix A of the elements; the Jacobian is
``Aᵀ diag(di/dv) A``, sparse and factored by SciPy. Its pattern is the same for every state of a
network, so it is laid out once; open contacts are elements without conductance, and nodes that
they leave floating are held at zero and reported as floating.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_array, csr_array
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import splu

from circuitry.network.laws import Law

Vector = npt.NDArray[np.float64]

TARGET_RESIDUAL_A = 1e-9
LARGEST_RESIDUAL_A = 1e-6
MOST_ITERATIONS = 60
MOST_HALVINGS = 12
RAMP = (0.25, 0.5, 0.75, 0.9, 1.0)


@dataclass(frozen=True)
class Element:
    """One two-terminal element between two nodes; ``owner`` is a part or wire id.

    Linear when ``law`` is None: ``i = (v - emf_v) * conductance_s``. ``position`` is that of its
    switch or relay in which a contact is closed; None conducts always.
    """

    kind: str
    owner: str
    node_a: int
    node_b: int
    conductance_s: float = 0.0
    emf_v: float = 0.0
    law: Law | None = None
    position: str | None = None


@dataclass(frozen=True)
class Operating:
    """The operating point: node voltages in V (NaN where floating), element currents in A."""

    node_v: Vector
    element_v: Vector
    element_a: Vector
    emf_v: Vector
    residual_a: float
    iterations: int


@dataclass(eq=False)
class NotConverged(Exception):
    """Newton's method ended at this node with this much current unaccounted for."""

    node: int
    residual_a: float


@dataclass(frozen=True)
class Drive:
    """What a state gives the elements: conductances in S, sources in V, and which conduct."""

    conductance_s: Vector
    emf_v: Vector
    conducts: npt.NDArray[np.bool_]


class Equations:
    """The equations of one list of elements with one reference node."""

    def __init__(self, elements: list[Element], node_count: int, reference: int) -> None:
        self.node_a = np.array([element.node_a for element in elements])
        self.node_b = np.array([element.node_b for element in elements])
        self.node_count = node_count
        self.reference = reference
        self.laws = [(row, element.law) for row, element in enumerate(elements) if element.law]
        self._lay_out()

    def _lay_out(self) -> None:
        """Number the unknowns and give each of the Jacobian's contributions its slot."""
        column = np.arange(self.node_count)
        column[self.reference] = -1
        column[self.reference + 1 :] -= 1
        a, b = column[self.node_a], column[self.node_b]
        count = len(a)
        unknowns = self.node_count - 1
        elements = np.arange(count)
        rows = np.concatenate([a, b, a, b, np.arange(unknowns)])
        columns = np.concatenate([a, b, b, a, np.arange(unknowns)])
        self.sign = np.concatenate([np.ones(2 * count), -np.ones(2 * count)])
        self.inside = (rows >= 0) & (columns >= 0)
        keys = columns[self.inside] * unknowns + rows[self.inside]
        used, self.slot = np.unique(keys, return_inverse=True)
        self.row_index = (used % unknowns).astype(np.int32)
        self.column_start = np.searchsorted(used, np.arange(unknowns + 1) * unknowns)
        self.column_start = self.column_start.astype(np.int32)
        keep_a, keep_b = a >= 0, b >= 0
        self.incidence = csr_array(
            (
                np.concatenate([np.ones(keep_a.sum()), -np.ones(keep_b.sum())]),
                (
                    np.concatenate([elements[keep_a], elements[keep_b]]),
                    np.concatenate([a[keep_a], b[keep_b]]),
                ),
            ),
            shape=(count, unknowns),
        )
        self.transposed = csr_array(self.incidence.T)
        self.unknown = np.delete(np.arange(self.node_count), self.reference)

    def solve(self, drive: Drive) -> Operating:
        """The operating point; raises NotConverged.

        From rest, then, should that fail, with the sources raised in steps (source stepping).
        """
        grounded = self._grounded(drive)
        node_v = np.zeros(len(self.unknown))
        try:
            return self._newton(drive, grounded, node_v, 1.0)
        except NotConverged:
            for share in RAMP:
                operating = self._newton(drive, grounded, node_v, share)
                node_v = np.nan_to_num(operating.node_v[self.unknown])
            return operating

    def _grounded(self, drive: Drive) -> npt.NDArray[np.bool_]:
        """Which nodes have a way to the reference through elements that conduct."""
        ends = self.node_a[drive.conducts], self.node_b[drive.conducts]
        links = csr_array((np.ones(len(ends[0])), ends), shape=(self.node_count,) * 2)
        _, component = connected_components(links, directed=False)
        return np.asarray(component == component[self.reference])

    def _newton(
        self, drive: Drive, grounded: npt.NDArray[np.bool_], node_v: Vector, share: float
    ) -> Operating:
        emf_v = share * drive.emf_v
        held = np.where(grounded[self.unknown], 0.0, 1.0)
        current, slope, residual = self._evaluate(drive, emf_v, node_v)
        iteration = 0
        while iteration < MOST_ITERATIONS:
            iteration += 1
            step = self._solve_linear(slope, held, -residual)
            size = float(np.abs(residual).max(initial=0.0))
            for halving in range(MOST_HALVINGS):
                tried_v = node_v + step * 0.5**halving
                tried = self._evaluate(drive, emf_v, tried_v)
                tried_size = float(np.abs(tried[2]).max(initial=0.0))
                if tried_size < size or tried_size < TARGET_RESIDUAL_A:
                    break
            moved_v = float(np.abs(tried_v - node_v).max(initial=0.0))
            if tried_size < size or size > LARGEST_RESIDUAL_A:
                node_v, (current, slope, residual), size = tried_v, tried, tried_size
            if size < TARGET_RESIDUAL_A or (size < LARGEST_RESIDUAL_A and moved_v < 1e-12):
                break
        if size >= LARGEST_RESIDUAL_A:
            raise NotConverged(int(self.unknown[int(np.abs(residual).argmax())]), size)
        everywhere = np.where(grounded, 0.0, np.nan)
        everywhere[self.unknown] += node_v
        return Operating(everywhere, self.incidence @ node_v, current, emf_v, size, iteration)

    def _evaluate(
        self, drive: Drive, emf_v: Vector, node_v: Vector
    ) -> tuple[Vector, Vector, Vector]:
        """Element currents, their slopes and the current left over at each unknown node."""
        element_v = self.incidence @ node_v
        current = (element_v - emf_v) * drive.conductance_s
        slope = drive.conductance_s.copy()
        for row, law in self.laws:
            current[row], slope[row] = law.current_and_slope(float(element_v[row]))
        return current, slope, self.transposed @ current

    def _solve_linear(self, slope: Vector, held: Vector, right: Vector) -> Vector:
        values = np.concatenate([self.sign * np.tile(slope, 4), held])[self.inside]
        data = np.bincount(self.slot, weights=values, minlength=len(self.row_index))
        size = len(self.unknown)
        jacobian = csc_array((data, self.row_index, self.column_start), shape=(size, size))
        try:
            return np.asarray(splu(jacobian).solve(right))
        except RuntimeError:
            raise NotConverged(int(self.unknown[0]), float("inf")) from None

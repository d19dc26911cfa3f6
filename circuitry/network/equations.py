"""Nodal equations of two-terminal elements, solved by Newton's method.

Unknowns are the node voltages against the reference. Kirchhoff's current law at each node is
``F(v) = Aᵀ i(A v) = 0`` with the incidence matrix A of the elements; the Jacobian is
``Aᵀ diag(di/dv) A``, sparse and factored by SciPy. Its pattern is the same for every state of a
network, so it is laid out once; a solve writes into nothing that another could be reading. Factors
are used again as long as each step takes off nine tenths of what remains. Open contacts are
elements without conductance, and nodes that they leave floating are held at zero and reported as
floating.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_array, csr_array
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import SuperLU, splu

from circuitry.network.laws import Law, LawTable

Vector = npt.NDArray[np.float64]
Grounded = npt.NDArray[np.bool_]

TARGET_RESIDUAL_A = 1e-9
LARGEST_RESIDUAL_A = 1e-6
MOST_ITERATIONS = 60
MOST_HALVINGS = 12
MOST_PATTERNS_KEPT = 256
SLOW = 0.1
LEAKAGE_S = 1e-9
RAMP = (0.25, 0.5, 0.75, 0.9, 1.0)


@dataclass(frozen=True)
class Element:
    """One two-terminal element between two nodes; ``owner`` is a part or wire id.

    Linear when ``law`` is None: ``i = (v - emf_v) * conductance_s``. ``position`` is that of its
    switch or relay in which it conducts; None conducts always.
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
    """What a state gives the elements: conductances in S, sources in V, which conduct, and laws."""

    conductance_s: Vector
    emf_v: Vector
    conducts: npt.NDArray[np.bool_]
    laws: LawTable


class Equations:
    """The equations of one list of elements with one reference node."""

    def __init__(self, elements: list[Element], node_count: int, reference: int) -> None:
        self.node_a = np.array([element.node_a for element in elements])
        self.node_b = np.array([element.node_b for element in elements])
        self.node_count = node_count
        self.reference = reference
        self.grounded: dict[bytes, Grounded] = {}
        self.law_rows = np.array(
            [row for row, element in enumerate(elements) if element.law], dtype=int
        )
        self._lay_out()

    def _lay_out(self) -> None:
        """Number the unknowns and give each of the Jacobian's contributions its slot."""
        column = np.arange(self.node_count)
        column[self.reference] = -1
        column[self.reference + 1 :] -= 1
        a, b = column[self.node_a], column[self.node_b]
        count = len(a)
        unknowns = self.node_count - 1
        rows = np.concatenate([a, b, a, b, np.arange(unknowns)])
        columns = np.concatenate([a, b, b, a, np.arange(unknowns)])
        self.sign = np.concatenate([np.ones(2 * count), -np.ones(2 * count)])
        self.inside = (rows >= 0) & (columns >= 0)
        keys = columns[self.inside] * unknowns + rows[self.inside]
        used, self.slot = np.unique(keys, return_inverse=True)
        column_start = np.searchsorted(used, np.arange(unknowns + 1) * unknowns)
        self.pattern = (used % unknowns).astype(np.int32), column_start.astype(np.int32)
        self.unknown = np.delete(np.arange(self.node_count), self.reference)

    def solve(self, drive: Drive, near_v: Vector | None = None) -> Operating:
        """The operating point; raises NotConverged.

        From ``near_v``, node voltages that may be close, or from rest; should that fail, with the
        sources raised in steps (source stepping).
        """
        grounded = self._grounded(drive)
        rest_v = np.zeros(self.node_count)
        start_v = rest_v if near_v is None else np.where(grounded, np.nan_to_num(near_v), 0.0)
        try:
            return self._newton(drive, grounded, start_v, 1.0)
        except NotConverged:
            node_v = rest_v
            for share in RAMP:
                operating = self._newton(drive, grounded, node_v, share)
                node_v = np.nan_to_num(operating.node_v)
            return operating

    def _grounded(self, drive: Drive) -> Grounded:
        """Which nodes have a way to the reference through elements that conduct."""
        pattern = drive.conducts.tobytes()
        grounded = self.grounded.get(pattern)
        if grounded is None:
            if len(self.grounded) >= MOST_PATTERNS_KEPT:
                self.grounded.clear()
            ends = self.node_a[drive.conducts], self.node_b[drive.conducts]
            links = csr_array((np.ones(len(ends[0])), ends), shape=(self.node_count,) * 2)
            _, component = connected_components(links, directed=False)
            grounded = self.grounded[pattern] = np.asarray(component == component[self.reference])
        return grounded

    def _newton(self, drive: Drive, grounded: Grounded, node_v: Vector, share: float) -> Operating:
        emf_v = share * drive.emf_v
        held = np.where(grounded[self.unknown], 0.0, 1.0)
        current, slope, residual = self._evaluate(drive, emf_v, node_v)
        size = float(np.abs(residual).max(initial=0.0))
        factors: SuperLU | None = None
        iteration = 0
        while iteration < MOST_ITERATIONS:
            iteration += 1
            reused = factors is not None
            factors = factors or self._factor(slope, held)
            step = np.zeros(self.node_count)
            step[self.unknown] = factors.solve(-residual)
            for halving in range(1 if reused else MOST_HALVINGS):
                tried_v = node_v + step * 0.5**halving
                tried = self._evaluate(drive, emf_v, tried_v)
                tried_size = float(np.abs(tried[2]).max(initial=0.0))
                if tried_size < size or tried_size < TARGET_RESIDUAL_A:
                    break
            moved_v = float(np.abs(tried_v - node_v).max(initial=0.0))
            if tried_size > SLOW * size:
                factors = None
                if reused and tried_size >= TARGET_RESIDUAL_A:
                    # a step by old factors that hardly helps may lead far astray
                    continue
            if tried_size < size or (size > LARGEST_RESIDUAL_A and not reused):
                node_v, (current, slope, residual), size = tried_v, tried, tried_size
            if size < TARGET_RESIDUAL_A or (
                size < LARGEST_RESIDUAL_A and moved_v < 1e-12 and not reused
            ):
                break
        if size >= LARGEST_RESIDUAL_A:
            raise NotConverged(int(self.unknown[int(np.abs(residual).argmax())]), size)
        known_v = np.where(grounded, node_v, np.nan)
        return Operating(known_v, self._across(node_v), current, emf_v, size, iteration)

    def scaled_a(self, drive: Drive, operating: Operating, share: Vector) -> Vector:
        """Currents of all elements if each drew only its share of what it draws.

        ``share`` has one row an element and matters where an element has a law: it is taken as
        the conductance that it has at the operating point, times its share; what drives current,
        such as a generator, as that current. What is linear stays as it is.
        """
        rows, volts, amps = self.law_rows, operating.element_v, operating.element_a
        siemens, given_a = drive.conductance_s.copy(), np.zeros(len(volts))
        driving = volts[rows] * amps[rows] <= 0
        siemens[rows] = np.where(
            driving, 0.0, share[rows] * amps[rows] / np.where(driving, 1.0, volts[rows])
        )
        given_a[rows] = np.where(driving, share[rows] * amps[rows], 0.0)
        given_a -= siemens * operating.emf_v
        held = np.where(self._grounded(drive)[self.unknown], 0.0, 1.0)
        left_over = np.bincount(self.node_a, given_a, self.node_count)
        left_over = left_over - np.bincount(self.node_b, given_a, self.node_count)
        node_v = np.zeros(self.node_count)
        # nodes between parts that draw nothing would float without a leak
        leak = np.where(drive.conducts, LEAKAGE_S, 0.0)
        node_v[self.unknown] = self._factor(siemens + leak, held).solve(-left_over[self.unknown])
        scaled_a: Vector = siemens * self._across(node_v) + given_a
        return scaled_a

    def _across(self, node_v: Vector) -> Vector:
        """Voltage of each element from its first node to its second."""
        across_v: Vector = node_v[self.node_a] - node_v[self.node_b]
        return across_v

    def _evaluate(
        self, drive: Drive, emf_v: Vector, node_v: Vector
    ) -> tuple[Vector, Vector, Vector]:
        """Element currents, their slopes and the current left over at each unknown node."""
        element_v = self._across(node_v)
        current = (element_v - emf_v) * drive.conductance_s
        slope = drive.conductance_s.copy()
        rows = self.law_rows
        current_a, law_slope = drive.laws.current_and_slope(element_v[rows])
        current[rows] = current_a * drive.conducts[rows]
        slope[rows] = law_slope * drive.conducts[rows]
        left_over: Vector = np.subtract(
            np.bincount(self.node_a, current, self.node_count),
            np.bincount(self.node_b, current, self.node_count),
            dtype=np.float64,
        )
        return current, slope, left_over[self.unknown]

    def jacobian(self, slope: Vector, held: Vector) -> csc_array:
        """The Jacobian for these slopes of the elements in S; ``held`` is 1 for each unknown that
        floats."""
        values = np.concatenate([self.sign * np.tile(slope, 4), held])[self.inside]
        rows, column_start = self.pattern
        entries = np.bincount(self.slot, values, len(rows))
        size = len(column_start) - 1
        return csc_array((entries, rows, column_start), (size, size))

    def _factor(self, slope: Vector, held: Vector) -> SuperLU:
        try:
            return splu(self.jacobian(slope, held), "MMD_AT_PLUS_A")
        except RuntimeError:
            raise NotConverged(int(self.unknown[0]), float("inf")) from None

"""Nodal equations of two-terminal elements in many states at once, solved by Newton's method.

Unknowns are the node voltages against the reference. Kirchhoff's current law at each node is
``F(v) = Aᵀ i(A v) = 0`` with the incidence matrix A of the elements; the Jacobian is
``Aᵀ diag(di/dv) A``. States differ by what conducts, by their sources and by the figures of any
element; all are solved together, as arrays with one row an element or node and one column a state.
One state is a batch of one.

Each step is that of the whole Jacobian. It is halved until the largest current left over at a node
falls, for the laws have corners (a lamp's cold resistance, a regulator's limit) beyond which a
whole step may lead astray. A state that does not converge from where it starts is solved again from
rest with its sources raised in steps.

What is not in the pattern, such as a voltmeter between two nodes, is an extra element: it changes
each Jacobian by low rank (Woodbury's formula; Golub and Van Loan, “Matrix Computations”, 2.1.4), so
that nothing is laid out anew.

Open contacts are elements without conductance. Of what they leave floating one node each is held
at zero, and all of it is reported as floating.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_array, csr_array, diags_array
from scipy.sparse.csgraph import connected_components

from circuitry.devices.laws import Law
from circuitry.network.elimination import Factors, elimination_of
from circuitry.network.law_table import LawTable

Vector = npt.NDArray[np.float64]
Matrix = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Numbers = npt.NDArray[np.integer[Any]]

TARGET_RESIDUAL_A = 1e-9
LARGEST_RESIDUAL_A = 1e-6
MOST_ITERATIONS = 60
MOST_HALVINGS = 12
LEAKAGE_S, ASIDE_S = 1e-9, 1e-6
MOST_PATTERNS_KEPT = 32
RAMP = (0.25, 0.5, 0.75, 0.9, 1.0)


@dataclass(frozen=True)
class Tries:
    """How many steps Newton's method may take, and how often each may be halved."""

    iterations: int
    halvings: int


PATIENT, QUICK = Tries(MOST_ITERATIONS, MOST_HALVINGS), Tries(8, 4)
"""To the end; and as long as it goes straight there, from where something close was solved."""


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
    """The operating point of one state: node voltages in V (NaN where floating), element currents
    in A."""

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
class Join:
    """A linear element that is not of the build: a short, a test lamp, a jumper."""

    node_a: int
    node_b: int
    siemens: float
    emf_v: float = 0.0


@dataclass(frozen=True)
class Extra:
    """Linear elements outside the pattern: their nodes, the conductance of each in S and its source
    in V; all by element and state, without conductance where a state has fewer."""

    node_a: Numbers
    node_b: Numbers
    siemens: Matrix
    emf_v: Matrix

    def take(self, columns: Any) -> "Extra":
        """Only some of the states, by number or flag."""
        return Extra(
            self.node_a[:, columns],
            self.node_b[:, columns],
            self.siemens[:, columns],
            self.emf_v[:, columns],
        )


def extra_of(joins: Sequence[Sequence[Join]]) -> Extra | None:
    """What is joined in each state; None where nothing is."""
    most = max((len(row) for row in joins), default=0)
    if not most:
        return None
    node_a, node_b = np.zeros((2, most, len(joins)), dtype=int)
    siemens, emf_v = np.zeros((2, most, len(joins)))
    for column, row in enumerate(joins):
        for number, join in enumerate(row):
            node_a[number, column], node_b[number, column] = join.node_a, join.node_b
            siemens[number, column], emf_v[number, column] = join.siemens, join.emf_v
    return Extra(node_a, node_b, siemens, emf_v)


@dataclass(frozen=True)
class Drive:
    """What states give the elements: conductances in S, sources in V and which conduct, by element
    and state; and by what sources go with, the share that they give of their most, by state."""

    conductance_s: Matrix
    emf_v: Matrix
    conducts: Flags
    generated: Mapping[str, Vector]
    extra: Extra | None = None

    @property
    def states(self) -> int:
        """How many states there are."""
        return int(self.conducts.shape[1])

    def take(self, columns: Any) -> "Drive":
        """Only some of the states, by number or flag."""
        extra = self.extra and self.extra.take(columns)
        return Drive(
            self.conductance_s[:, columns],
            self.emf_v[:, columns],
            self.conducts[:, columns],
            {name: share[columns] for name, share in self.generated.items()},
            extra,
        )


@dataclass
class _Point:
    """Where Newton's method stands: by node or element and state."""

    node_v: Matrix
    current_a: Matrix
    slope: Matrix
    left_over_a: Matrix
    size_a: Vector

    def put(self, columns: Any, other: "_Point") -> None:
        """Take over some states from another."""
        self.node_v[:, columns] = other.node_v
        self.current_a[:, columns] = other.current_a
        self.slope[:, columns] = other.slope
        self.left_over_a[:, columns] = other.left_over_a
        self.size_a[columns] = other.size_a

    def take(self, columns: Any) -> "_Point":
        """Only some of the states."""
        return _Point(
            self.node_v[:, columns],
            self.current_a[:, columns],
            self.slope[:, columns],
            self.left_over_a[:, columns],
            self.size_a[columns],
        )


class Equations:
    """The equations of one list of elements with one reference node."""

    def __init__(
        self,
        elements: list[Element],
        node_count: int,
        reference: int,
    ) -> None:
        self.node_a = np.array([element.node_a for element in elements], dtype=int)
        self.node_b = np.array([element.node_b for element in elements], dtype=int)
        self.node_count = node_count
        self.reference = reference
        lawful = [(type(element.law).__name__, row) for row, element in enumerate(elements)]
        self.law_rows = np.array([row for _, row in sorted(lawful) if elements[row].law], dtype=int)
        self._law_ends = self.node_a[self.law_rows], self.node_b[self.law_rows]
        self.laws = LawTable([elements[row].law for row in self.law_rows])
        self._limited: tuple[Mapping[str, Vector], LawTable] | None = None
        self.unknown = np.delete(np.arange(node_count), reference)
        self.column = np.arange(node_count)
        self.column[reference] = -1
        self.column[reference + 1 :] -= 1
        self._known_components: dict[object, Numbers] = {}
        self.leaving = self.incidence(self.node_a, self.node_b)
        self.elimination = elimination_of(
            self.column[self.node_a], self.column[self.node_b], node_count - 1
        )

    def incidence(self, node_a: Numbers, node_b: Numbers) -> csr_array:
        """The matrix that sums the currents of elements that leave each unknown node."""
        each = np.arange(len(node_a))
        ends, signs = np.concatenate([node_a, node_b]), np.repeat([1.0, -1.0], len(each))
        row, known = self.column[ends], self.column[ends] >= 0
        element = np.concatenate([each, each])
        shape = self.node_count - 1, len(each)
        return csr_array((signs[known], (row[known], element[known])), shape=shape)

    def solve(
        self, drive: Drive, near_v: Matrix | None = None, tries: Tries = PATIENT
    ) -> list[Operating | NotConverged]:
        """The operating point of each state, or why there is none.

        From ``near_v``, node voltages that may be close, or from rest. A state that is not reached
        in so many ``tries`` is tried with its sources raised in steps where they are patient.
        """
        component = self.components(drive, drive.extra)
        grounded = component == component[self.reference]
        start_v = np.zeros(grounded.shape)
        if near_v is not None:
            start_v = np.where(grounded, np.nan_to_num(near_v), 0.0)
        held = first_of_each(component)[self.unknown] & ~grounded[self.unknown]
        point, iterations = self._newton(drive, held, start_v, tries)
        failed = np.flatnonzero(~(point.size_a < LARGEST_RESIDUAL_A))
        if len(failed) and tries is PATIENT:
            again, rested = drive.take(failed), np.zeros((self.node_count, len(failed)))
            for share in RAMP:
                raised = replace(again, emf_v=share * again.emf_v)
                ramped, iterations[failed] = self._newton(raised, held[:, failed], rested, tries)
                rested = ramped.node_v
            point.put(failed, ramped)
        return self._operating(drive, grounded, point, iterations)

    def _operating(
        self, drive: Drive, grounded: Flags, point: _Point, iterations: Numbers
    ) -> list[Operating | NotConverged]:
        rows: list[Operating | NotConverged] = []
        figures = [np.where(grounded, point.node_v, np.nan), self.across(point.node_v)]
        figures += [point.current_a, drive.emf_v]
        by_state = [np.ascontiguousarray(figure.T) for figure in figures]
        for number, size_a in enumerate(point.size_a.tolist()):
            if size_a < LARGEST_RESIDUAL_A:
                node_v, element_v, element_a, emf_v = (figure[number] for figure in by_state)
                taken = int(iterations[number])
                rows.append(Operating(node_v, element_v, element_a, emf_v, size_a, taken))
            else:
                worst = int(np.abs(point.left_over_a[:, number]).argmax())
                rows.append(NotConverged(int(self.unknown[worst]), size_a))
        return rows

    def components(self, drive: Drive, extra: Extra | None) -> Numbers:
        """The number of what each node hangs together with through elements that conduct, by node
        and state; numbers of one state are not those of another."""
        pattern = (
            drive.conducts.tobytes(),
            extra
            and (
                extra.node_a.tobytes(),
                extra.node_b.tobytes(),
                extra.siemens.tobytes(),
            ),
        )
        known = self._known_components.get(pattern)
        if known is None:
            if len(self._known_components) >= MOST_PATTERNS_KEPT:
                self._known_components.clear()
            known = self._known_components[pattern] = self._search_components(drive, extra)
        return known

    def _search_components(self, drive: Drive, extra: Extra | None) -> Numbers:
        element, state = np.nonzero(drive.conducts)
        first, second = self.node_a[element], self.node_b[element]
        if extra is not None:
            joined = np.nonzero(extra.siemens)
            first = np.concatenate([first, extra.node_a[joined]])
            second = np.concatenate([second, extra.node_b[joined]])
            state = np.concatenate([state, joined[1]])
        count = self.node_count * drive.states
        ends = first * drive.states + state, second * drive.states + state
        links = csr_array((np.ones(len(state), dtype=np.int8), ends), shape=(count, count))
        _, component = connected_components(links, directed=False)
        return component.reshape(self.node_count, drive.states)

    def _newton(
        self, drive: Drive, held: Flags, start_v: Matrix, tries: Tries
    ) -> tuple[_Point, Numbers]:
        """Newton's method in every state until what is left over is small, or nothing helps."""
        point = self._evaluate(drive, start_v)
        iterations = np.zeros(drive.states, dtype=int)
        working = np.flatnonzero(~(point.size_a < TARGET_RESIDUAL_A))
        while len(working):
            iterations[working] += 1
            here, some = point, drive
            if len(working) < drive.states:
                here, some = point.take(working), drive.take(working)
            step_v = self._step(some, held[:, working], here)
            helped, tried = self._search(some, here, step_v, tries.halvings)
            # where nothing helps, what is left over is as small as it gets, or the shortest step
            # is taken: a corner may lie just here
            moved = helped | ((here.size_a >= LARGEST_RESIDUAL_A) & np.isfinite(tried.size_a))
            point.put(working[moved], tried.take(moved))
            more = moved & ~(tried.size_a < TARGET_RESIDUAL_A)
            working = working[more & (iterations[working] < tries.iterations)]
        return point, iterations

    def _search(
        self, drive: Drive, here: _Point, step_v: Matrix, halvings: int
    ) -> tuple[Flags, _Point]:
        """The longest of the step, its half, its quarter and so on that leaves less over."""
        tried = self._evaluate(drive, here.node_v + step_v)
        helped: Flags = (tried.size_a < here.size_a) | (tried.size_a < TARGET_RESIDUAL_A)
        for halving in range(1, halvings):
            waiting = np.flatnonzero(~helped)
            if not len(waiting):
                break
            shorter_v = here.node_v[:, waiting] + step_v[:, waiting] * 0.5**halving
            again = self._evaluate(drive.take(waiting), shorter_v)
            tried.put(waiting, again)
            helped[waiting] = again.size_a < here.size_a[waiting]
        return helped, tried

    def _step(self, drive: Drive, held: Flags, here: _Point) -> Matrix:
        step_v = np.zeros(here.node_v.shape)
        if drive.extra is None:
            factors = self.elimination.factors(here.slope, held.astype(float))
            step_v[self.unknown] = factors.solve(-here.left_over_a)
        else:
            step_v[self.unknown] = self._step_with(drive, drive.extra, held, here)
        return step_v

    def _step_with(self, drive: Drive, extra: Extra, held: Flags, here: _Point) -> Matrix:
        """The step where extra elements change the Jacobian by low rank.

        What only they join to the reference is held at a node as if they were not there, and let go
        again in the same way.
        """
        without = self.components(drive, None)
        firsts = first_of_each(without)[self.unknown]
        alone = firsts & (without != without[self.reference])[self.unknown]
        factors = self.elimination.factors(here.slope, alone.astype(float))
        lone: Flags = alone & ~held
        node, state = lone.nonzero()
        number = _number_of_each(state)
        joined, freed = len(extra.siemens), int(number.max(initial=-1)) + 1
        changes = np.zeros((joined + freed, *alone.shape))
        changes[:joined] = self._ends(extra)
        changes[joined + number, node, state] = 1.0
        siemens = np.zeros((joined + freed, drive.states))
        siemens[:joined] = extra.siemens
        siemens[joined + number, state] = -1.0
        return _changed(factors, changes, siemens, -here.left_over_a)

    def _ends(self, extra: Extra) -> Matrix:
        """By element, unknown node and state: 1 where an extra element begins, -1 where it ends."""
        ends = np.zeros((len(extra.siemens), len(self.unknown), extra.siemens.shape[1]))
        element, state = (np.asarray(rows) for rows in np.indices(extra.siemens.shape))
        for nodes, sign in ((extra.node_a, 1.0), (extra.node_b, -1.0)):
            column: Numbers = self.column[nodes]
            known: Flags = column >= 0
            at = element[known], column[known], state[known]
            ends[at] += sign
        return ends

    def scaled_a(self, drive: Drive, element_v: Matrix, element_a: Matrix, share: Vector) -> Matrix:
        """Currents of all elements in solved states if each drew only its share of what it draws.

        ``share`` has one row an element and matters where an element has a law: it is taken as
        the conductance that it has at the operating point, times its share; what drives current,
        such as a generator, as that current. What is linear stays as it is.
        """
        rows = self.law_rows
        siemens, given_a = drive.conductance_s.copy(), np.zeros(element_v.shape)
        volts, amps, part = element_v[rows], element_a[rows], share[rows, None]
        driving = volts * amps <= 0
        siemens[rows] = np.where(driving, 0.0, part * amps / np.where(driving, 1.0, volts))
        given_a[rows] = np.where(driving, part * amps, 0.0)
        given_a -= siemens * drive.emf_v
        # nodes between parts that draw nothing would float without a leak
        leak = np.where(drive.conducts, LEAKAGE_S, 0.0)
        component = self.components(drive, None)
        floats = (component != component[self.reference])[self.unknown]
        held = first_of_each(component)[self.unknown] & floats
        factors = self.elimination.factors(siemens + leak, held.astype(float))
        node_v = np.zeros((self.node_count, drive.states))
        node_v[self.unknown] = factors.solve(-(self.leaving @ given_a))
        scaled_a: Matrix = siemens * self.across(node_v) + given_a
        return scaled_a

    def inverse(self, siemens: Vector) -> Matrix:
        """Volts by node for an ampere into each, in one state whose elements have these slopes;
        what floats has some way to the reference."""
        found = np.zeros((self.node_count, self.node_count))
        factors = self.elimination.factors(
            siemens[:, None], np.full((len(self.unknown), 1), ASIDE_S)
        )
        found[np.ix_(self.unknown, self.unknown)] = factors.inverse()
        return found

    def across(self, node_v: Any) -> Any:
        """Voltage of each element from its first node to its second."""
        across_v: Matrix = node_v[self.node_a] - node_v[self.node_b]
        return across_v

    def law_v(self, node_v: Any) -> Any:
        """Voltage of each element that has a law."""
        first, second = self._law_ends
        law_v: Matrix = node_v[first] - node_v[second]
        return law_v

    def law_a_and_slope(self, drive: Drive, law_v: Matrix) -> tuple[Matrix, Matrix]:
        """Current and slope of the elements that have a law at these voltages, by element and
        column: that of a state, or of many voltages in one state."""
        known = self._limited
        if known is None or known[0] is not drive.generated:
            known = self._limited = drive.generated, self.laws.limited(drive.generated)
        law_a, law_slope = known[1].current_and_slope(law_v.T)
        conducts = drive.conducts[self.law_rows]
        return law_a.T * conducts, law_slope.T * conducts

    def _evaluate(self, drive: Drive, node_v: Matrix) -> _Point:
        """Element currents, their slopes and the current left over at each unknown node."""
        element_v = self.across(node_v)
        current_a = (element_v - drive.emf_v) * drive.conductance_s
        slope = drive.conductance_s.copy()
        rows = self.law_rows
        current_a[rows], slope[rows] = self.law_a_and_slope(drive, element_v[rows])
        left_over_a: Matrix = self.leaving @ current_a
        if drive.extra is not None:
            extra = drive.extra
            ends = self._ends(extra)
            across_v = np.einsum("kns,ns->ks", ends, node_v[self.unknown])
            extra_a = (across_v - extra.emf_v) * extra.siemens
            left_over_a = left_over_a + np.einsum("kns,ks->ns", ends, extra_a)
        size_a = np.abs(left_over_a).max(axis=0, initial=0.0)
        return _Point(node_v, current_a, slope, left_over_a, size_a)

    def jacobian(self, slope: Vector, held: Vector) -> csc_array:
        """The Jacobian of one state for these slopes of the elements in S."""
        leaving = self.leaving
        return csc_array(leaving @ diags_array(slope) @ leaving.T + diags_array(held))


def _changed(factors: Factors, changes: Matrix, siemens: Matrix, right: Matrix) -> Matrix:
    """``(A + U diag(g) Uᵀ)⁻¹ b`` in each state; U by column, node and state."""
    answers = np.array([factors.solve(column) for column in changes])
    found = factors.solve(right)
    small = np.einsum("kns,jns->skj", changes, answers) * siemens.T[:, None, :]
    small += np.eye(len(siemens))
    right_side = np.einsum("kns,ns->sk", changes, found)
    weights = np.linalg.solve(small, right_side[:, :, None])[:, :, 0]
    changed: Matrix = found - np.einsum("jns,sj->ns", answers, siemens.T * weights)
    return changed


def _number_of_each(rows: Numbers) -> Numbers:
    """Of each entry, how many before it are the same."""
    seen: dict[int, int] = {}
    number = np.zeros(len(rows), dtype=int)
    for at, row in enumerate(rows.tolist()):
        number[at] = seen.get(row, 0)
        seen[row] = number[at] + 1
    return number


def first_of_each(component: Numbers) -> Flags:
    """Whether a node is the first of its component, by node and state."""
    each = component.ravel()
    first = np.empty(each.max(initial=-1) + 1, dtype=int)
    first[each[::-1]] = np.arange(len(each))[::-1]
    flags = np.zeros(len(each), dtype=bool)
    flags[first] = True
    return flags.reshape(component.shape)

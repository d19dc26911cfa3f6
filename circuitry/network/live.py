"""The network while time passes: what settles is held where it is, and the rest is solved.

A lamp of a certain temperature or a motor of a certain speed is a resistance with a source; held
so, nearly all of the network is linear, and an instant takes one or two steps of Newton's method
from the instant before. The equations are those of ``equations``, for one state at a time.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from circuitry.design.model import Part
from circuitry.devices import device_of
from circuitry.devices.battery import stored_charge
from circuitry.devices.laws import Lag, LaggingLaw, Resistor, StoredCharge
from circuitry.network.elimination import compiled
from circuitry.network.equations import (
    LARGEST_RESIDUAL_A,
    MOST_ITERATIONS,
    MOST_PATTERNS_KEPT,
    RAMP,
    Element,
    Equations,
    Flags,
    Join,
    Matrix,
    NotConverged,
    Numbers,
    Operating,
    Vector,
    first_of_each,
)
from circuitry.network.lag_table import LagTable
from circuitry.network.law_table import LawTable
from circuitry.network.network import Network

LEAST_SHARE = 1 / 64
"""Of a step, below which Newton's method leads nowhere."""
FIRST_CAPACITY_S, MOST_WITH_CAPACITY = 10.0, 300
LONGEST_STEP_V = 20.0
"""Between an alternator at its limit and a full battery nearly nothing has a slope: a step of
Newton's method is held to what volts can be in a car."""


ENOUGH_A = 1e-7
"""Left over at the worst node: a tenth of what is still taken for settled."""
CHARGE_DIGITS = 4
"""To which a battery's charge is told apart: some hundred-thousandths of a volt."""


@dataclass(frozen=True)
class Answers:
    """What the laws of an instant answer: currents in A and slopes in A/V, in their order."""

    current_a: Vector
    slope: Vector


@dataclass(frozen=True)
class Instant:
    """What an instant gives the elements: conductances in S, sources in V, which conduct; by what
    sources go with, the share that they give of their most; and what is joined to the build."""

    siemens: Vector
    emf_v: Vector
    conducts: Flags
    shares: Mapping[str, float]
    joins: tuple[Join, ...] = ()


class LiveNetwork:
    """The equations of one build at one instant after the other."""

    def __init__(self, network: Network) -> None:
        self.network = network
        parts = network.build.parts
        lags = {owner: device_of(part).lags(part) for owner, part in parts.items()}
        found: list[tuple[int, Lag]] = []
        self.elements = list(network.elements)
        for row, element in enumerate(network.elements):
            of_part = lags.get(element.owner, {})
            lag = of_part.get(element.position or "") or of_part.get(element.kind)
            if lag is not None:
                found.append((row, lag))
            if isinstance(lag, LaggingLaw):
                self.elements[row] = replace(element, law=None)
            if isinstance(element.law, Resistor):
                siemens = 1 / float(element.law.resistance_ohm)
                self.elements[row] = replace(element, law=None, conductance_s=siemens)
        self.plain_rows = np.array(
            [row for row, was in enumerate(network.elements) if isinstance(was.law, Resistor)],
            dtype=int,
        )
        self.plain_s = np.array([self.elements[row].conductance_s for row in self.plain_rows])
        source = self.elements[network.layout.source]
        law = stored_charge(network.battery, 1.0)
        self.elements[network.layout.source] = replace(source, law=law)
        self.lags = LagTable(found)
        self.equations = Equations(self.elements, network.node_count, network.reference)
        self.batteries = [
            self.elements[row].owner
            for row in self.equations.law_rows
            if isinstance(self.elements[row].law, StoredCharge)
        ]
        self.battery_rows = np.array(
            [
                row
                for row in self.equations.law_rows
                if isinstance(self.elements[row].law, StoredCharge)
            ]
        )
        self._laws: tuple[object, LawTable] | None = None
        self._known: dict[object, tuple[Flags, Vector, Numbers]] = {}

    def laws_at(self, charges: Sequence[float], shares: Mapping[str, float]) -> LawTable:
        """The laws of an instant: batteries by their charge, sources by the share they give."""
        rounded = tuple(round(charge, CHARGE_DIGITS) for charge in charges)
        asked = rounded, tuple(shares.items())
        if self._laws is None or self._laws[0] != asked:
            batteries = zip(self.batteries, rounded, strict=True)
            laws = [stored_charge(self._part(name), at) for name, at in batteries]
            given = {name: np.array([share]) for name, share in shares.items()}
            table = self.equations.laws.with_kind(StoredCharge, laws).limited(given)
            self._laws = asked, table
        return self._laws[1]

    def _part(self, name: str) -> Part:
        return self.network.build.parts[name]

    def solve(
        self, instant: Instant, laws: LawTable, near_v: Vector, before: "Answers | None" = None
    ) -> tuple[Operating | NotConverged, "Answers"]:
        """The operating point of an instant from node voltages that may be close, and what its laws
        answer there; where that leads nowhere, from rest with its sources raised in steps.

        ``before`` is what the laws answered at ``near_v`` an instant ago: the first step is taken
        with that.
        """
        grounded, held, freed = self._floating(instant)
        start_v = np.where(grounded, near_v, 0.0)
        state = _Newton(self, instant, laws, held, freed)
        node_v, iterations = state.from_near(start_v, before)
        if not state.size_a < LARGEST_RESIDUAL_A:
            node_v, iterations = state.with_capacity(start_v)
        if not state.size_a < LARGEST_RESIDUAL_A:
            node_v = np.zeros(len(start_v))
            for share in RAMP:
                raised = replace(instant, emf_v=share * instant.emf_v)
                state = _Newton(self, raised, laws.raised(share), held, freed)
                node_v, iterations = state.from_near(node_v)
        if not state.size_a < LARGEST_RESIDUAL_A:
            worst = int(np.abs(state.left_over_a).argmax())
            return NotConverged(int(self.equations.unknown[worst]), state.size_a), state.answers
        element_v = self.equations.across(node_v)
        shown_v = np.where(grounded, node_v, np.nan)
        found = Operating(
            shown_v, element_v, state.current_a, instant.emf_v, state.size_a, iterations
        )
        return found, state.answers

    def _floating(self, instant: Instant) -> tuple[Flags, Vector, Numbers]:
        """Which nodes hang together with the reference; by what each unknown one is held at zero
        where nothing of the build leads to it, in S; and the numbers of those that a join lets
        go."""
        pattern = instant.conducts.tobytes(), tuple((j.node_a, j.node_b) for j in instant.joins)
        known = self._known.get(pattern)
        if known is None:
            if len(self._known) >= MOST_PATTERNS_KEPT:
                self._known.clear()
            known = self._known[pattern] = self._search(instant)
        return known

    def _search(self, instant: Instant) -> tuple[Flags, Vector, Numbers]:
        equations = self.equations
        element = np.flatnonzero(instant.conducts)
        first, second = equations.node_a[element], equations.node_b[element]
        alone = self._components(first, second)
        base = (first_of_each(alone) & (alone != alone[equations.reference]))[equations.unknown]
        if not instant.joins:
            return alone == alone[equations.reference], base.astype(float), np.zeros(0, dtype=int)
        first = np.concatenate([first, np.array([join.node_a for join in instant.joins])])
        second = np.concatenate([second, np.array([join.node_b for join in instant.joins])])
        joined = self._components(first, second)
        grounded = joined == joined[equations.reference]
        still = (first_of_each(joined) & ~grounded)[equations.unknown]
        return grounded, base.astype(float), np.flatnonzero(base & ~still)

    def _components(self, first: Numbers, second: Numbers) -> Numbers:
        count = self.equations.node_count
        links = csr_array(
            (np.ones(len(first), dtype=np.int8), (first, second)), shape=(count, count)
        )
        found: Numbers = connected_components(links, directed=False)[1]
        return found

    def held_elements(self, siemens: Vector, emf_v: Vector, laws: LawTable) -> list[Element]:
        """The elements of an instant with their figures, those that settle as they are held."""
        rows = list(self.elements)
        for number, row in enumerate(self.equations.law_rows):
            rows[row] = replace(rows[row], law=laws.law(number))
        return [
            replace(row, conductance_s=conducts, emf_v=volts)
            for row, conducts, volts in zip(rows, siemens.tolist(), emf_v.tolist(), strict=True)
        ]


class _Newton:
    """Newton's method at one instant."""

    def __init__(
        self, live: LiveNetwork, instant: Instant, laws: LawTable, held: Vector, freed: Numbers
    ) -> None:
        equations = live.equations
        self._equations, self._instant, self._laws = equations, instant, laws
        self._held, self._freed = held, freed
        self._ends = equations.node_a, equations.node_b, equations.column
        self._counts = len(instant.siemens), len(instant.siemens), len(equations.unknown)
        joins = instant.joins
        self._columns: Matrix | None = None
        if joins:
            self._join_s = np.array([join.siemens for join in joins])
            self._join_v = np.array([join.emf_v for join in joins])
            self._join_a = np.array([join.node_a for join in joins], dtype=int)
            self._join_b = np.array([join.node_b for join in joins], dtype=int)
            self._columns = self._changes()
        self.current_a = self.slope = self.left_over_a = np.zeros(0)
        self.size_a = np.inf
        self.answers = Answers(np.zeros(0), np.zeros(0))

    def _changes(self) -> Matrix:
        leaving = self._equations.incidence(self._join_a, self._join_b).toarray()
        freed = np.eye(leaving.shape[0])[:, self._freed]
        found: Matrix = np.concatenate([leaving, freed], axis=1)
        return found

    def from_near(self, node_v: Vector, before: Answers | None = None) -> tuple[Vector, int]:
        """The node voltages at which least is left over, and the steps that it took."""
        self._evaluate(node_v, before)
        if before is not None:
            self.size_a = max(self.size_a, ENOUGH_A)  # the laws have not been asked here
        iterations = 0
        while not self.size_a < ENOUGH_A and iterations < MOST_ITERATIONS:
            iterations += 1
            step_v = self._step()
            here = self.size_a, self.current_a, self.slope, self.left_over_a, self.answers
            share, tried_v = 1.0, node_v + step_v
            self._evaluate(tried_v)
            while not (self.size_a < here[0] or self.size_a < ENOUGH_A):
                share /= 2
                if share < LEAST_SHARE:
                    self.size_a, self.current_a, self.slope, self.left_over_a, self.answers = here
                    return node_v, iterations
                tried_v = node_v + share * step_v
                self._evaluate(tried_v)
            node_v = tried_v
        return node_v, iterations

    def with_capacity(self, node_v: Vector) -> tuple[Vector, int]:
        """The node voltages to which the network would come if every node held some charge, which
        it gives back little by little (pseudo-transient continuation: Kelley and Keyes, SIAM J.
        Numer. Anal. 35, 1998).

        It goes where the current that is left over drives each node, and so does not stop between
        an alternator at its limit and loads that take less the more volts they have.
        """
        self._evaluate(node_v)
        capacity_s, iterations = FIRST_CAPACITY_S, 0
        while not self.size_a < ENOUGH_A and iterations < MOST_WITH_CAPACITY:
            iterations += 1
            before_a = self.size_a
            node_v = node_v + self._step(capacity_s)
            self._evaluate(node_v)
            if not np.isfinite(self.size_a):
                break
            rests = min(max(self.size_a / max(before_a, ENOUGH_A), 0.2), 4.0)
            capacity_s *= rests
        return node_v, iterations

    def _evaluate(self, node_v: Vector, answers: Answers | None = None) -> None:
        equations, instant = self._equations, self._instant
        law_v = equations.law_v(node_v)
        self.answers = answers or Answers(*self._laws.current_and_slope(law_v))
        self.current_a, self.slope, self.left_over_a = (np.zeros(n) for n in self._counts)
        own = instant.emf_v, instant.siemens, instant.conducts
        laws = equations.law_rows, self.answers.current_a, self.answers.slope
        filled = self.current_a, self.slope, self.left_over_a
        self.size_a = _balance(*self._ends, node_v, *own, *laws, *filled)
        if self._columns is not None:
            across_v = node_v[self._join_a] - node_v[self._join_b] - self._join_v
            joined_a = self._columns[:, : len(across_v)] @ (across_v * self._join_s)
            self.left_over_a += np.ravel(joined_a)
            self.size_a = float(np.abs(self.left_over_a).max(initial=0.0))

    def _step(self, capacity_s: float = 0.0) -> Vector:
        equations = self._equations
        held = self._held + capacity_s
        if self._columns is None:
            found = equations.elimination.solved(self.slope, held, -self.left_over_a)
        else:
            factors = equations.elimination.factors(self.slope[:, None], held[:, None])
            found = factors.solve(-self.left_over_a[:, None])[:, 0]
            siemens = np.concatenate([self._join_s, -self._held[self._freed]])
            answers = np.array([factors.solve(row[:, None])[:, 0] for row in self._columns.T]).T
            small = np.eye(len(siemens)) + siemens[:, None] * (self._columns.T @ answers)
            weights = np.linalg.solve(small, siemens * (self._columns.T @ found))
            found = np.asarray(found - answers @ weights, dtype=float)
        step_v = np.zeros(equations.node_count)
        longest_v = float(np.abs(found).max(initial=0.0))
        step_v[equations.unknown] = found * min(1.0, LONGEST_STEP_V / max(longest_v, 1e-9))
        return step_v


@compiled
def _balance(
    node_a: Numbers,
    node_b: Numbers,
    column: Numbers,
    node_v: Vector,
    emf_v: Vector,
    siemens: Vector,
    conducts: Flags,
    law_rows: Numbers,
    law_a: Vector,
    law_slope: Vector,
    current_a: Vector,
    slope: Vector,
    left_over_a: Vector,
) -> float:
    """Fill current and slope of each element, and the current left over at each unknown node; the
    largest of what is left over."""
    for row in range(len(node_a)):
        if conducts[row]:
            slope[row] = siemens[row]
            current_a[row] = (node_v[node_a[row]] - node_v[node_b[row]] - emf_v[row]) * slope[row]
    for number in range(len(law_rows)):
        row = law_rows[number]
        current_a[row] = law_a[number] if conducts[row] else 0.0
        slope[row] = law_slope[number] if conducts[row] else 0.0
    for row in range(len(node_a)):
        first, second = column[node_a[row]], column[node_b[row]]
        if first >= 0:
            left_over_a[first] += current_a[row]
        if second >= 0:
            left_over_a[second] -= current_a[row]
    largest_a = 0.0
    for left_a in left_over_a:
        if np.isnan(left_a):
            return np.inf
        largest_a = max(largest_a, abs(left_a))
    return largest_a

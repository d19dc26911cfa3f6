"""What small changes do to a settled state, to first order: hundreds of them at once, each for a
few products, so that whoever has many to try solves only those that may matter.

At a solution ``F(v) = 0`` of the nodal equations with Jacobian J, changed elements add currents
``c + Γ Eᵀ Δv`` between their ends E. To first order ``J Δv + E (c + Γ Eᵀ Δv) = 0``, of which only
as many unknowns are left as elements are changed: ``(1 + EᵀJ⁻¹E Γ) y = −EᵀJ⁻¹E c`` for
``y = Eᵀ Δv`` (Woodbury's formula; Golub and Van Loan, “Matrix Computations”, 2.1.4).
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from circuitry.network.equations import ASIDE_S, Flags, Matrix, Numbers, Vector
from circuitry.network.network import Change, Network, Settled

LEFT_SHARE = 1e-10
"""What an open element is left with of its conductance: what hangs on it alone has some way."""
UNLIT_V, LIT_V = 3.0, 12.0
"""Below this a load is taken for off, and for one at the other where it comes on."""
MOST_CHANGED = 16
"""Changes of more elements are not foreseen."""


@dataclass(frozen=True)
class Changes:
    """Changes as the currents that they add, by change and changed element: its row where one of
    the network opens or has more Ω, else −1; its ends, and what is joined there. ``foreseen`` is
    whether a change is all of that."""

    row: Numbers
    first: Numbers
    last: Numbers
    opens: Flags
    ohm: Matrix
    siemens: Matrix
    emf_v: Matrix
    foreseen: Flags

    def take(self, some: Numbers) -> "Changes":
        """Only some of them, by number."""
        return Changes(*(getattr(self, row.name)[some] for row in fields(self)))

    def without_empty(self) -> "Changes":
        """The same without the places that none of them uses."""
        used = ((self.row >= 0) | (self.siemens > 0)).any(axis=0)
        each = {
            row.name: getattr(self, row.name)[:, used]
            for row in fields(self)
            if row.name != "foreseen"
        }
        return replace(self, **each)

    def beside(
        self, network: Network, opens: Sequence[Sequence[int]], closes: Sequence[Sequence[int]]
    ) -> "Changes":
        """The same with these elements open, and these joined that do not conduct, in each; one
        with no place for all of them is no longer foreseen."""
        names = ("row", "first", "last", "opens", "siemens", "foreseen")
        found = replace(self, **{name: getattr(self, name).copy() for name in names})
        node_a, node_b = network.equations.node_a, network.equations.node_b
        for number, (opened, closed) in enumerate(zip(opens, closes, strict=True)):
            used = (found.row[number] >= 0) | (found.siemens[number] > 0)
            free = np.flatnonzero(~used).tolist()
            known = found.row[number][found.opens[number]].tolist()
            opened = [row for row in opened if row not in known]
            closed = [row for row in closed if row not in known]
            if len(opened) + len(closed) > len(free):
                found.foreseen[number] = False
                continue
            for at, row in zip(free, [*opened, *closed], strict=False):
                found.first[number, at], found.last[number, at] = node_a[row], node_b[row]
                if row in opened:
                    found.row[number, at], found.opens[number, at] = row, True
                else:
                    found.siemens[number, at] = network.siemens[row]
        return found

    @staticmethod
    def of(rows: "Sequence[Changes]") -> "Changes":
        """Those of each of these, one after another."""
        names = [row.name for row in fields(Changes)]
        return Changes(*(np.concatenate([getattr(row, name) for row in rows]) for name in names))


def changes_of(network: Network, rows: Sequence[Change]) -> Changes:
    """These changes as arrays."""
    shape = len(rows), MOST_CHANGED
    row, first, last = np.full(shape, -1), np.zeros(shape, dtype=int), np.zeros(shape, dtype=int)
    opens, foreseen = np.zeros(shape, dtype=bool), np.ones(len(rows), dtype=bool)
    ohm, siemens, emf_v = np.zeros((3, *shape))
    node_a, node_b = network.equations.node_a, network.equations.node_b
    for number, change in enumerate(rows):
        of_rows = change.opens | change.ohms.keys()
        changed = len(of_rows) + len(change.joins)
        if change.sticks or changed > MOST_CHANGED:
            foreseen[number] = False
            continue
        for at, element in enumerate(of_rows):
            row[number, at] = element
            first[number, at], last[number, at] = node_a[element], node_b[element]
            opens[number, at] = element in change.opens
            ohm[number, at] = change.ohms.get(element, 0.0)
        for at, join in enumerate(change.joins, len(of_rows)):
            first[number, at], last[number, at] = join.node_a, join.node_b
            siemens[number, at], emf_v[number, at] = join.siemens, join.emf_v
    return Changes(row, first, last, opens, ohm, siemens, emf_v, foreseen)


class Response:
    """How a settled state of a network answers to changes."""

    def __init__(self, network: Network, settled: Settled, change: Change) -> None:
        """``change`` is what the settled state has otherwise than the build already."""
        self._equations, self._settled = network.equations, settled
        self._drive = network.drive_of(settled, change)
        self.siemens = self._as_resistors(network.layout.load_rows)
        self._inverse = network.equations.inverse(self.siemens)
        floating_v = np.nan_to_num(settled.operating.node_v)
        aside_v = -self._inverse @ (ASIDE_S * floating_v)
        self._node_v = floating_v + aside_v
        aside_a = self.siemens * network.equations.across(aside_v)
        self._element_a = settled.operating.element_a + aside_a

    def to(self, changes: Changes) -> Matrix:
        """The change of every node's voltage, by node and change, to first order."""
        changes = changes.without_empty()
        first, last, row = changes.first, changes.last, changes.row
        of_row = row >= 0
        slope = np.where(of_row, self.siemens[row], 0.0)
        more = np.where(slope > 0, 1 / (1 / np.where(slope > 0, slope, 1.0) + changes.ohm), 0.0)
        gamma = np.where(changes.opens, -slope * (1 - LEFT_SHARE), more - slope)
        given_a = np.where(of_row, self._given_a(changes, slope, gamma), 0.0)
        across_v = self._node_v[first] - self._node_v[last]
        gamma += changes.siemens
        given_a += changes.siemens * (across_v - changes.emf_v)
        by_end = self._inverse[:, first] - self._inverse[:, last]
        count = np.arange(len(row))[:, None, None]
        places = np.arange(row.shape[1])[None, None, :]
        own = by_end[first[:, :, None], count, places] - by_end[last[:, :, None], count, places]
        system = np.eye(row.shape[1]) + own * gamma[:, None, :]
        across = np.linalg.solve(system, -np.einsum("mij,mj->mi", own, given_a)[:, :, None])
        found: Matrix = -np.einsum("nmk,mk->nm", by_end, given_a + gamma * across[:, :, 0])
        return found

    def _as_resistors(self, loads: Numbers) -> Vector:
        """The siemens of each element: of loads as they draw there, of those that are off as they
        would at 12 V; what else has a law has its slope."""
        rows, element_v = self._equations.law_rows, self._settled.operating.element_v
        siemens, is_load = self._drive.conductance_s[:, 0].copy(), np.isin(rows, loads)
        unlit = is_load & (np.abs(element_v[rows]) < UNLIT_V)
        at_v = np.where(unlit, LIT_V, element_v[rows])
        amps, slope = self._equations.law_a_and_slope(self._drive, at_v[:, None])
        siemens[rows] = slope[:, 0]
        siemens[rows[is_load]] = np.abs(amps[is_load, 0] / at_v[is_load])
        return siemens

    def bends(self, element_v: Matrix) -> Matrix:
        """How many amps each element with a law would take beside what is foreseen, by element and
        change; ``element_v`` is the change of every element's voltage."""
        rows, operating = self._equations.law_rows, self._settled.operating
        changed_v = element_v[rows]
        at_v = operating.element_v[rows][:, None] + changed_v
        amps, _ = self._equations.law_a_and_slope(self._drive, at_v)
        foreseen_a = operating.element_a[rows][:, None] + self.siemens[rows][:, None] * changed_v
        found: Matrix = np.abs(amps - foreseen_a)
        return found

    def _given_a(self, changes: Changes, slope: Matrix, gamma: Matrix) -> Matrix:
        """What is added at the voltages that are there: all that flows, the other way, where an
        element opens."""
        amps = self._element_a[changes.row]
        share = np.where(slope > 0, gamma / np.where(slope > 0, slope, 1.0), 0.0)
        found: Matrix = np.where(changes.opens, -amps * (1 - LEFT_SHARE), share * amps)
        return found

"""What settles with time, of all parts together: their states as one array."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from circuitry.devices.laws import Lag, LaggingLaw, SteadyMotor
from circuitry.network.equations import Numbers, Vector

BESIDE = 1e-6
"""How far beside a state its rate is looked at for the slope."""


@dataclass(frozen=True)
class _Group:
    """Lags of one kind: where their states stand, the rows of their elements, and their law."""

    at: slice
    rows: Numbers
    law: Any


class LagTable:
    """The lags of many elements. A state is a number an element; ``rows`` are their elements."""

    def __init__(self, lags: Sequence[tuple[int, Lag]]) -> None:
        by_kind: dict[tuple[object, ...], list[int]] = {}
        for number, (_, lag) in enumerate(lags):
            by_kind.setdefault(_kind(lag), []).append(number)
        self._groups: list[_Group] = []
        self._order: list[int] = []
        bears: list[float] = []
        for (_, *words), numbers in by_kind.items():
            some = [lags[number] for number in numbers]
            first = len(self._order)
            rows = np.array([row for row, _ in some], dtype=int)
            law = _stacked([lag for _, lag in some], words)
            self._groups.append(_Group(slice(first, first + len(some)), rows, law))
            bears += [lag.bears() for _, lag in some]
            self._order += [row for row, _ in some]
        self.rows = np.array(self._order, dtype=int)
        self.count = len(self._order)
        settling = [group for group in self._groups if isinstance(group.law, LaggingLaw)]
        self.held_rows = np.concatenate([np.array([], int), *(group.rows for group in settling)])
        self._settling = settling
        self._starts = [group.at.start for group in self._groups]
        self._bears = np.array(bears)
        self._by_voltage = self._of_each(lambda law: law.drives == "voltage").astype(bool)
        self._cools_per_s = self._of_each(lambda law: 1 / law.cools_s)
        self._only_by_rate = self._cools_per_s == 0
        self._rest = self._of_each(lambda law: law.rest)
        self._least = np.where(self._of_each(lambda law: law.goes_both_ways), -np.inf, self._rest)

    def of_row(self) -> dict[int, int]:
        """The number of the state of each element that has one."""
        return {row: number for number, row in enumerate(self._order)}

    def _of_each(self, figure: Callable[[Any], Any]) -> Vector:
        """A figure of the law of each state."""
        found = np.empty(self.count)
        for group in self._groups:
            found[group.at] = figure(group.law)
        return found

    def rest(self) -> Vector:
        """Every state after a long time without drive."""
        return self._rest.copy()

    def held(self, at: Vector) -> tuple[Vector, Vector]:
        """Conductances in S and sources in V of the elements of ``held_rows`` in these states."""
        current_a, siemens = np.empty(len(self.held_rows)), np.empty(len(self.held_rows))
        first = 0
        for group in self._settling:
            here = slice(first, first + len(group.rows))
            current_a[here], siemens[here] = group.law.held(0.0, at[group.at])
            first = here.stop
        return siemens, -current_a / siemens

    def rates(self, at: Vector, element_v: Vector, element_a: Vector) -> tuple[Vector, Vector]:
        """How fast each state changes under the voltages and currents of all elements, per second,
        and how that goes with the state itself."""
        drive = np.where(self._by_voltage, element_v[self.rows], element_a[self.rows])
        driven = np.abs(drive) >= self._bears
        near = np.array([at, at + BESIDE])
        rates = (self._rest - near) * self._cools_per_s
        asked = driven | ((at != self._rest) & self._only_by_rate)
        working = np.logical_or.reduceat(asked, self._starts).tolist() if self.count else ()
        for group, works in zip(self._groups, working, strict=True):
            if works:
                rates[:, group.at] = group.law.rate(drive[group.at], near[:, group.at])
        return rates[0], (rates[1] - rates[0]) / BESIDE

    def stepped(self, before: Vector, after: Vector) -> Vector:
        """States after a step, those of motors against friction at standstill where they would
        have turned round: friction does not drive."""
        for group in self._groups:
            if isinstance(group.law, SteadyMotor):
                after[group.at] = group.law.stepped(before[group.at], after[group.at])
        return np.maximum(after, self._least)

    def outputs(self, at: Vector) -> tuple[Numbers, Vector]:
        """Rows of the elements that are loads, and light, speed or power in % of rated."""
        percent = [group.law.output_at(at[group.at]) for group in self._settling]
        return self.held_rows, np.concatenate([np.array([]), *percent])


def _kind(lag: Lag) -> tuple[object, ...]:
    words = [getattr(lag, field.name) for field in fields(lag)]  # type: ignore[arg-type]
    return type(lag), *(word for word in words if isinstance(word, str))


def _stacked(lags: Sequence[Any], words: Sequence[Any]) -> Any:
    figures: dict[str, Any] = {}
    for field in fields(lags[0]):
        first = getattr(lags[0], field.name)
        if isinstance(first, str):
            figures[field.name] = first
        else:
            figures[field.name] = np.array([getattr(lag, field.name) for lag in lags])
    return type(lags[0])(**figures)

"""What settles with time, of all parts together: their states as one array."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np

from circuitry.devices.laws import STANDS, Lag, LaggingLaw, SteadyMotor
from circuitry.network.equations import Numbers, Vector

BESIDE = 1e-6
"""How far beside a state its rate is looked at for the slope."""


@dataclass(frozen=True)
class _Group:
    """Lags of one kind: where their states stand, the rows of their elements, and their law."""

    at: slice
    rows: Numbers
    law: Any
    bears: Vector

    def rests(self, drive: Vector, at: Vector) -> bool:
        """Whether nothing drives any of them, and all are as they are after a long time so."""
        driven = (np.abs(drive) >= self.bears).any()
        return not driven and bool((at[self.at] == self.law.rest).all())


class LagTable:
    """The lags of many elements. A state is a number an element; ``rows`` are their elements."""

    def __init__(self, lags: Sequence[tuple[int, Lag]]) -> None:
        by_kind: dict[tuple[object, ...], list[int]] = {}
        for number, (_, lag) in enumerate(lags):
            by_kind.setdefault(_kind(lag), []).append(number)
        self._groups: list[_Group] = []
        self._order: list[int] = []
        for (_, *words), numbers in by_kind.items():
            some = [lags[number] for number in numbers]
            first = len(self._order)
            rows = np.array([row for row, _ in some], dtype=int)
            law = _stacked([lag for _, lag in some], words)
            bears = np.array([lag.bears() for _, lag in some])
            self._groups.append(_Group(slice(first, first + len(some)), rows, law, bears))
            self._order += [row for row, _ in some]
        self.rows = np.array(self._order, dtype=int)
        self.count = len(self._order)
        settling = [group for group in self._groups if isinstance(group.law, LaggingLaw)]
        self.held_rows = np.concatenate([np.array([], int), *(group.rows for group in settling)])
        self._settling = settling

    def of_row(self) -> dict[int, int]:
        """The number of the state of each element that has one."""
        return {row: number for number, row in enumerate(self._order)}

    def rest(self) -> Vector:
        """Every state after a long time without drive."""
        rest = np.zeros(self.count)
        for group in self._groups:
            rest[group.at] = group.law.rest
        return rest

    def held(self, at: Vector) -> tuple[Vector, Vector]:
        """Conductances in S and sources in V of the elements of ``held_rows`` in these states."""
        siemens, emf_v = np.empty(len(self.held_rows)), np.empty(len(self.held_rows))
        first = 0
        for group in self._settling:
            here = slice(first, first + len(group.rows))
            current_a, slope = group.law.held(0.0, at[group.at])
            siemens[here], emf_v[here] = slope, -current_a / slope
            first = here.stop
        return siemens, emf_v

    def rates(self, at: Vector, element_v: Vector, element_a: Vector) -> tuple[Vector, Vector]:
        """How fast each state changes under the voltages and currents of all elements, per second,
        and how that goes with the state itself."""
        both, near = np.zeros((2, self.count)), np.array([at, at + BESIDE])
        for group in self._groups:
            drive = (element_v if group.law.drives == "voltage" else element_a)[group.rows]
            if group.rests(drive, at):
                continue
            both[:, group.at] = group.law.rate(drive, near[:, group.at])
        return both[0], (both[1] - both[0]) / BESIDE

    def stepped(self, before: Vector, after: Vector) -> Vector:
        """States after a step, those of motors against friction at standstill where they would
        have turned round: friction does not drive."""
        for group in self._groups:
            if isinstance(group.law, SteadyMotor):
                was, now = before[group.at], after[group.at]
                stops = (np.abs(now) < STANDS) & (np.abs(now) < np.abs(was))
                after[group.at] = np.where((was * now < 0) | stops, 0.0, now)
        return np.maximum(after, self._least)

    @property
    def _least(self) -> Vector:
        if not hasattr(self, "_kept"):
            self._kept = np.full(self.count, -np.inf)
            for group in self._groups:
                if not hasattr(group.law, "inrush_x"):  # only motors go both ways
                    self._kept[group.at] = group.law.rest
        return self._kept

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

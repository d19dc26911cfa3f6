"""The laws of many elements as arrays, those of one kind answered together."""

from collections.abc import Mapping
from copy import copy
from dataclasses import fields
from typing import Any

import numpy as np

from circuitry.devices.laws import Figure


class LawTable:
    """The laws of many elements, those of one kind answered together.

    Voltages may have any number of rows, one a state; the last axis is that of the elements. It is
    quickest where elements of one kind follow each other.
    """

    def __init__(self, laws: list[Any]) -> None:
        rows: dict[type[Any], list[int]] = {}
        for row, law in enumerate(laws):
            rows.setdefault(type(law), []).append(row)
        self._groups: list[tuple[Any, Any]] = [
            (_rows(at), kind(**_stacked([laws[row] for row in at]))) for kind, at in rows.items()
        ]

    def limited(self, shares: Mapping[str, Figure]) -> "LawTable":
        """The same where sources give only a share, by state, of what they go with."""
        other = copy(self)
        other._groups = [
            (at, law.limited(shares[law.goes_with][:, None]) if law.goes_with else law)
            for at, law in self._groups
        ]
        return other

    def with_kind(self, kind: type[Any], laws: list[Any]) -> "LawTable":
        """The same with other laws in place of those of one kind, in their order."""
        other = copy(self)
        other._groups = [
            (at, kind(**_stacked(laws)) if type(law) is kind else law) for at, law in self._groups
        ]
        return other

    def raised(self, share: float) -> "LawTable":
        """The same where sources of a law of their own have only a share of their voltage."""
        other = copy(self)
        other._groups = [(at, law.raised(share)) for at, law in self._groups]
        return other

    def law(self, number: int) -> Any:
        """The law of one element, by its place."""
        for at, law in self._groups:
            places = range(at.start, at.stop) if isinstance(at, slice) else at.tolist()
            if number in places:
                own = list(places).index(number)
                figures = {f.name: _one(getattr(law, f.name), own) for f in fields(law)}
                return type(law)(**figures)
        raise IndexError(number)

    def current_and_slope(self, voltage_v: Figure) -> tuple[Figure, Figure]:
        """Currents in A and slopes in A/V at these voltages."""
        current_a, slope = np.empty(voltage_v.shape), np.empty(voltage_v.shape)
        for at, law in self._groups:
            current_a[..., at], slope[..., at] = law.current_and_slope(voltage_v[..., at])
        return current_a, slope

    def output_percent(self, voltage_v: Figure) -> Figure:
        """Light, speed or power in % of rated at these voltages; for laws of loads."""
        percent = np.empty(voltage_v.shape)
        for at, law in self._groups:
            percent[..., at] = law.output_percent(voltage_v[..., at])
        return percent


def _rows(numbers: list[int]) -> Any:
    """These rows, as a slice where they follow each other."""
    follow = numbers == list(range(numbers[0], numbers[-1] + 1))
    return slice(numbers[0], numbers[-1] + 1) if follow else np.array(numbers)


def _one(figure: Figure, number: int) -> float:
    """The figure of one element where there may be one for all."""
    return float(np.broadcast_to(np.ravel(figure), (max(np.size(figure), number + 1),))[number])


def _stacked(laws: list[Any]) -> dict[str, Figure]:
    names = [field.name for field in fields(laws[0])]
    return {name: np.array([getattr(law, name) for law in laws]) for name in names}

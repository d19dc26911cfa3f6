"""What each size of wire bears in its place, with the company that it keeps."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from circuitry.catalogue import catalogue
from circuitry.network.elements import copper_factor
from circuitry.network.equations import Vector
from circuitry.sizing.ampacity import enough
from circuitry.sizing.facts import Facts, Matrix, Numbers
from circuitry.sizing.transient import bears_s

NEAR_MOST = 0.9
"""Of the states in which a wire carries nearly its most, the one with most beside it counts."""


@dataclass(frozen=True)
class MustBear:
    """What each wire must carry for ever, what lasts in it, and for each fuse overloads in A with
    the most that it takes to part on them, in s."""

    amps: Vector
    lasting_a: Vector
    overload_a: Matrix
    parts_s: Matrix


class Ampacities:
    """What each size carries in the place of each wire, with its neighbours of one round."""

    def __init__(self, facts: Facts, size: Numbers, own: Numbers, lasting_a: Matrix) -> None:
        """``size`` is the fitted size of each wire by its number, ``own`` the one that it would
        have with nothing beside it, ``lasting_a`` by solution and wire: what heats."""
        self.facts = facts
        self._crowds = _crowds(facts, size, own, np.abs(lasting_a))
        crowd = np.ones(len(size))
        for along, beside in self._crowds:
            crowd[along] = np.maximum(crowd[along], beside)
        factors = catalogue().grouping_factors(crowd)
        self.carries_a = facts.table.alone_a * factors[:, None]

    def grouping(self, wire: int) -> Mapping[str, float]:
        """The grouping factor of a wire in each run that it goes along."""
        found = {}
        for run, (along, beside) in zip(self.facts.build.runs, self._crowds, strict=True):
            here = beside[along == wire]
            if len(here):
                found[run] = float(catalogue().grouping_factors(here)[0])
        return found

    def conductor_c(self, size: Numbers, lasting_a: Vector) -> Vector:
        """Working temperatures: the rise goes with the square of current against ampacity."""
        table = self.facts.table
        fitted_a = self.carries_a[np.arange(len(size)), size]
        warm_c: Vector = _conductor_c(lasting_a, fitted_a, table.hottest_c, table.limit_c)
        return warm_c

    def floors(self, must: MustBear, alone: bool = False) -> Numbers:
        """The smallest size of each wire that carries what it must, whatever the drop; that bears
        what its protection takes to part and is trusted with it by the usual charts, where such a
        one goes into its terminals. ``alone`` as if nothing lay beside it."""
        sizes = np.arange(self.facts.choosable)
        carries_a = self.facts.table.alone_a if alone else self.carries_a
        carries = enough(carries_a[:, sizes], must.amps[:, None])
        carries &= sizes >= self.facts.least[:, None]
        bears = carries & self._bears(must, carries_a)[:, sizes]
        bears &= enough(self.facts.table.chart_a[sizes], must.amps[:, None])
        goes_in = (bears & (sizes <= self.facts.most[:, None])).any(axis=1)
        fits = np.where(goes_in[:, None], bears, carries)
        floors: Numbers = np.where(fits.any(axis=1), fits.argmax(axis=1), len(sizes) - 1)
        return floors

    def _bears(self, must: MustBear, carries_a: Matrix) -> npt.NDArray[np.bool_]:
        """Whether each wire in each size bears a current for as long as each fuse that it answers
        for may take, over all currents."""
        wire, fuse = self.facts.answers_for
        table, each = self.facts.table, self.facts.table.wires
        wires = replace(
            each,
            area_mm2=each.area_mm2[:, None],
            outside_mm=each.outside_mm[:, None],
            ohm_per_m_20c=each.ohm_per_m_20c[:, None],
            limit_c=each.limit_c[wire][:, :, None],
            damage_c=each.damage_c[wire][:, :, None],
        )
        seconds = bears_s(
            wires,
            table.hottest_c[wire][:, None, None],
            carries_a[wire][:, :, None],
            must.lasting_a[wire][:, None, None],
            must.overload_a[fuse][:, None, :],
        )
        enough_for_each = (seconds >= must.parts_s[fuse][:, None, :]).all(axis=2)
        bears = np.ones(carries_a.shape, dtype=bool)
        np.logical_and.at(bears, wire, enough_for_each)
        return bears

    def hot_ohm(self, lasting_a: Vector) -> Matrix:
        """Conductor resistance of each wire at its current in each size, as warm as it would be."""
        table = self.facts.table
        conductor_c = _conductor_c(
            lasting_a[:, None], self.carries_a, table.hottest_c[:, None], table.limit_c[:, None]
        )
        hot_ohm: Matrix = table.ohm_20c * copper_factor(conductor_c)
        return hot_ohm


def _crowds(
    facts: Facts, size: Numbers, own: Numbers, lasting_a: Matrix
) -> list[tuple[Numbers, Vector]]:
    """For each run the wires along it, and how many loaded wires lie beside each other there, as
    its grouping factor counts them.

    A neighbour counts by the heat that it gives off against what the wire itself gives off at its
    limit, in the size that it would have alone, one at most: the factors of IEC 60364-5-52 are
    those of wires that are all loaded alike, and it is their heat that they share. So a cable of
    the battery is not halved by eight lamps, and a thin wire beside it is.
    """
    table, each = facts.table, np.arange(len(size))
    ohm_per_m = table.ohm_20c[each, size] / np.maximum(table.length_m, 1e-9)
    heat = lasting_a**2 * ohm_per_m
    own_ohm_per_m = table.ohm_20c[each, own] / np.maximum(table.length_m, 1e-9)
    at_limit = table.alone_a[each, own] ** 2 * own_ohm_per_m
    near_most = lasting_a >= NEAR_MOST * lasting_a.max(axis=0, initial=0.0)
    wire, run = facts.bundled
    crowds = []
    for number in range(len(facts.build.runs)):
        along = wire[run == number]
        share = np.minimum(heat[:, None, along] / np.maximum(at_limit[along, None], 1e-9), 1.0)
        beside = share.sum(axis=2) - np.diagonal(share, axis1=1, axis2=2)
        most = np.where(near_most[:, along], 1 + beside, 1.0).max(axis=0, initial=1.0)
        crowds.append((along, most))
    return crowds


def _conductor_c(current_a: Any, carries_a: Any, hottest_c: Any, limit_c: Any) -> Any:
    """Temperature of a conductor; floats or arrays. The limit where nothing may be carried."""
    share = np.minimum(current_a / np.maximum(carries_a, 1e-9), 1.0)
    warm_c = hottest_c + np.maximum(limit_c - hottest_c, 0) * share**2
    return np.where(np.greater(carries_a, 0), warm_c, limit_c)

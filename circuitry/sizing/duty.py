"""How long loads are on, and what their currents count for where they heat."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.network.equations import Vector
from circuitry.network.network import Network, Settled
from circuitry.sizing.facts import Matrix, Numbers
from circuitry.sizing.states import starts

SAME_A = 1e-9
CRANKING_SHARE = 1 / 3
"""What a current of 10 s counts for: within that time the copper of a wire of 6 mm² or more takes
up the heat of three times its ampacity and stays below its limit (adiabatic, 3.45 J/cm³K)."""
SECONDS_SHARE = 0.5
"""What a current of 20 s counts for: the thinnest wires warm with a time of about 75 s (their heat
capacity against what they lose in still air), and 1 − exp(−20/75) is a quarter of the heat."""
FLASHING_SHARE = 0.5**0.5
"""Lit for half of the time: the mean square."""
DUTY_SHARES = {
    "for ever": 1.0,
    "minutes": 1.0,
    "flashing": FLASHING_SHARE,
    "seconds": SECONDS_SHARE,
}


class Duty:
    """How long the loads of a build are on, and what their currents count for where they heat."""

    def __init__(self, build: Build) -> None:
        loads = build.parts_of_kind("load")
        self._share = np.array([duty_share(load) for load in loads], dtype=float)
        self._brief = self._share <= SECONDS_SHARE
        self._without_brief = np.where(self._brief, 0.0, self._share)

    def lasting_a(self, network: Network, rows: Sequence[Settled]) -> Matrix:
        """The current for ever that heats every element as much, by its sign; by state.

        With what lasts ``I`` and what is on for a share ``d`` of the time ``B`` the mean square is
        ``I² + d (2 I B + B²)``. ``√d B`` is what a network with shares of loads says; for the
        middle term ``√d`` is taken as that of seconds.
        """
        lasting_a = network.scaled_a(rows, self._share)
        brief = [
            number
            for number, row in enumerate(rows)
            if np.abs(network.loads_a(row)[self._brief]).max(initial=0.0) > SAME_A
        ]
        if brief:
            scaled_a = lasting_a[brief]
            lasts_a = network.scaled_a([rows[number] for number in brief], self._without_brief)
            brief_a = scaled_a - lasts_a
            square = lasts_a**2 + 2 * SECONDS_SHARE * lasts_a * brief_a + brief_a**2
            lasting_a[brief] = np.sign(scaled_a) * np.sqrt(np.maximum(square, 0.0))
        return lasting_a


def duty_share(load: Part) -> float:
    """The share of a load's current that heats as much for ever as its current does in its time."""
    if starts(load):
        return CRANKING_SHARE
    duty = load.figures.get("duty", catalogue().loads[load.catalogue or ""].duty)
    return DUTY_SHARES[str(duty)]


@dataclass(frozen=True)
class Peaks:
    """The largest currents of wires or fuses, and the number of the solution that gave each.

    ``lasting_a`` are the currents for ever that heat as much: some loads are on for seconds.
    """

    current_a: Vector
    solution: Numbers
    lasting_a: Vector

    def times(self, factor: float) -> "Peaks":
        """The same with larger currents."""
        return replace(self, current_a=self.current_a * factor, lasting_a=self.lasting_a * factor)


def peaks(signed_a: Matrix, lasting_a: Matrix, solutions: Numbers) -> Peaks:
    """The largest over all solutions, from currents by solution and wire or fuse; the solutions
    are given by their numbers."""
    current_a = np.abs(signed_a)
    most_a = current_a.max(axis=0)
    first = (current_a > most_a - SAME_A).argmax(axis=0)
    return Peaks(most_a, solutions[first], np.abs(lasting_a).max(axis=0))

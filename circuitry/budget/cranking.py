"""Turning the engine: volts at the posts and at the starter, what drops out, and the charge with
which it still starts."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from circuitry.bench.standins import CRANKING_RPM, FIRES_ABOVE_RPM
from circuitry.budget.lasting import HALF, days_until, load_test_v
from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Scenario, Terminal
from circuitry.design.state import Supply
from circuitry.devices import electronics_of
from circuitry.devices.battery import COLD_PER_K, WARM_C, capacity_ah, open_circuit_v, supply_at
from circuitry.devices.electronics import AWAKE
from circuitry.errors import UnusableInput
from circuitry.finding import Mend
from circuitry.network.equations import Join
from circuitry.network.network import Change, Network, Settled
from circuitry.sizing.result import Sizing
from circuitry.sizing.roads import COLD_C, COLD_CHARGE
from circuitry.sizing.starting import starting
from circuitry.sizing.states import starts

CHARGES = tuple(float(charge) for charge in np.linspace(1.0, 0.05, 20))
TURNS_PERCENT = 100 * FIRES_ABOVE_RPM / CRANKING_RPM
STARTS_ABOVE_V = 8.0
"""What control boxes and ignitions are made to bear while the engine is turned: the dip of level I
in the starting profiles of ISO 16750-2 for 12 V."""


@dataclass(frozen=True)
class Fitting:
    """An alternator in A or battery in Ah as it is, and the least of the usual ones that does; None
    where there is none."""

    has: float | None
    least: float | None
    why: str
    mends: tuple[Mend, ...] = ()


@dataclass(frozen=True)
class Cranking:
    """The engine being turned in the coldest scenario that does: volts at the posts against what
    they must hold, at the starter, as it begins to turn; what drops out; how fast it turns.

    ``cable_v`` is lost between posts and starter, there and back. ``still_starts`` gives the least
    charge with which it starts at each outside temperature that some scenario has.
    """

    scenario: str
    posts_v: float
    least_v: float
    first_v: float | None
    starter_v: float
    starter_a: float
    cable_v: float
    turns_percent: float
    turns_least_percent: float
    drop_out: tuple[str, ...]
    still_starts: Mapping[str, float]

    def starts_at(self, outside_c: float) -> float | None:
        """The least charge of the battery with which the engine starts in this weather; None where
        no charge does."""
        found = self.still_starts.get(f"{outside_c:g}")
        return found if found is not None and found <= 1 else None


def cranking(
    sizing: Sizing,
    network: Network,
    scenarios: Sequence[Scenario],
    bases: Mapping[str, Settled],
) -> Cranking | None:
    """What happens while the engine is turned; None where no scenario turns it."""
    build = sizing.build
    turned = [row for row in scenarios if row.key == "crank" and row.id in bases]
    starter = _starter(build, network, [bases[row.id] for row in turned])
    if not turned or starter is None:
        return None
    scenario = min(turned, key=lambda row: row.outside_c)
    base = bases[scenario.id]
    at = network.layout.loads.index(starter.id)
    volts, amps = float(network.load_v(base)[at]), float(abs(network.loads_a(base)[at]))
    percent = float(network.layout.load_laws.output_percent(network.load_v(base))[at])
    posts_v = network.battery_v(base)
    weather = sorted({row.outside_c for row in scenarios})
    first = _first_dip(network, starter, base)
    return Cranking(
        scenario.id,
        posts_v,
        load_test_v(scenario.outside_c),
        network.battery_v(first) if first else None,
        volts,
        amps,
        posts_v - volts,
        percent,
        TURNS_PERCENT,
        tuple(_asleep(build, network, first or base, base)),
        dict(_still_starts(build, network, base, at, weather)),
    )


def _starter(build: Build, network: Network, bases: Sequence[Settled]) -> Part | None:
    """The starter that turns."""
    for base in bases:
        on = network.loads_on(base)
        for load in build.parts_of_kind("load"):
            if starts(load) and load.id in on:
                return load
    return None


def _first_dip(network: Network, starter: Part, base: Settled) -> Settled | None:
    """The instant at which the starter is fed and still stands."""
    change = _standing(network, starter)
    (solved,) = network.try_many([base.state], near=[base], changes=[change], going_on=True)
    return solved if isinstance(solved, Settled) else None


def _standing(network: Network, starter: Part) -> Change:
    """A starter that stands still takes what it does at a stall."""
    row = catalogue().loads[starter.catalogue or ""]
    ohm = starter.number("test_v", row.test_v) / starting(network.build, starter).inrush_a
    plus, minus = (network.node[Terminal(starter.id, name)] for name in ("+", "-"))
    return Change(opens=set(network.rows_of[starter.id]), joins=[Join(plus, minus, 1 / ohm)])


def _asleep(build: Build, network: Network, dip: Settled, base: Settled) -> Iterator[str]:
    """Boxes and modules that are fed with the key at crank and have too few volts as the starter
    begins to turn."""
    positions = {pair: number for number, pair in enumerate(network.positions)}
    for part in electronics_of(build):
        number = positions.get((part.id, AWAKE))
        if number is not None and base.moved[number] and not dip.moved[number]:
            yield part.name


def _still_starts(
    build: Build, network: Network, base: Settled, at: int, weather: Sequence[float]
) -> Iterator[tuple[str, float]]:
    """By outside temperature the least charge with which the starter turns fast enough and the
    posts hold what a battery that is fit must; above 1 where none does."""
    battery = build.parts_of_kind("battery")[0]
    rows = [(celsius, charge) for celsius in weather for charge in CHARGES]
    states = [
        replace(base.state, supply=supply_at(battery, charge, celsius)) for celsius, charge in rows
    ]
    solved = network.try_many(states, near=[base] * len(states), doing="Cranking")
    for celsius in weather:
        least = 2.0
        for (weather_c, charge), row in zip(rows, solved, strict=True):
            if weather_c == celsius and _turns(network, row, at, celsius):
                least = min(least, charge)
        yield f"{celsius:g}", least


def _turns(network: Network, row: Settled | UnusableInput, at: int, celsius: float) -> bool:
    if isinstance(row, UnusableInput):
        return False
    percent = network.layout.load_laws.output_percent(network.load_v(row))[at]
    return bool(percent >= TURNS_PERCENT and network.battery_v(row) >= STARTS_ABOVE_V)


def least_battery(
    sizing: Sizing, network: Network, base: Settled | None, parked_a: float
) -> Fitting:
    """The least of the usual batteries that, half charged on a cold morning, does not sag below
    what control boxes bear as the starter begins to turn, and that is not half empty after the days
    of the policy."""
    build = sizing.build
    battery = build.parts_of_kind("battery")[0]
    days = build.policy.parked_days
    rows = catalogue().batteries
    cold: list[Settled | UnusableInput | None] = [None] * len(rows)
    starter = _starter(build, network, [base]) if base is not None else None
    if base is not None and starter is not None:
        x = 1 + COLD_PER_K * (WARM_C - COLD_C)
        supplies = (
            Supply(open_circuit_v(COLD_CHARGE), row.resistance_mohm / 1000 * x) for row in rows
        )
        states = [replace(base.state, supply=supply) for supply in supplies]
        near, changes = [base] * len(states), [_standing(network, starter)] * len(states)
        cold = list(network.try_many(states, near, "Trying batteries", changes, going_on=True))
    fits = None
    mends: list[Mend] = []
    for row, turned in zip(rows, cold, strict=True):
        as_if = replace(battery, figures={**battery.figures, "capacity_ah": row.capacity_ah})
        holds = isinstance(turned, Settled) and network.battery_v(turned) >= STARTS_ABOVE_V
        stands = days_until(as_if, parked_a, 1.0, HALF, WARM_C) >= days
        if (holds or base is None) and stands:
            fits = row.capacity_ah
            if fits > capacity_ah(battery):
                given = {"capacity_ah": fits, "resistance_mohm": row.resistance_mohm}
                mends.append(fit(battery, f"Fit {fits:g} Ah", given))
            break
    turns = f"It holds {STARTS_ABOVE_V:g} V as the starter begins to turn, half charged in frost. "
    parks = f"It is not half empty after {days:g} days at {1000 * parked_a:.0f} mA."
    why = (turns if base is not None else "") + parks
    return Fitting(capacity_ah(battery), fits, why, tuple(mends))


def fit(part: Part, label: str, figures: Mapping[str, float]) -> Mend:
    """The mend that gives a part these figures."""
    fields = {"figures": {**part.figures, **figures}}
    operation = {"op": "change", "collection": "parts", "id": part.id, "fields": fields}
    return Mend(label, (operation,))

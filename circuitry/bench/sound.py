"""What meters would show on the sound car in the same state, and how far from it is too far."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from circuitry.bench.meters import Meter
from circuitry.design.model import Part
from circuitry.design.state import State, Supply
from circuitry.devices.battery import stored_charge
from circuitry.devices.moving import LIT
from circuitry.errors import UnusableInput
from circuitry.network import Network, Solution
from circuitry.network.network import AS_BUILT, Change

WITHIN_V, WITHIN_V_SHARE = 0.08, 0.03
WITHIN_A, WITHIN_A_SHARE = 0.1, 0.1
"""How far a reading may be from that of the sound car: wires that are warm, lamps that differ."""
TRIES = 12
SETTLED_A = 0.05
DARK = "dark"


@dataclass(frozen=True)
class Expected:
    """A reading of the sound car, settled and lit, and between what it is sound; None where it
    floats there, or where that does not settle."""

    value: float | None
    low: float
    high: float

    def verdict(self, reading: float | None) -> str:
        """What a reading is against this: too low, too high, or nothing to be said."""
        if reading is None or self.value is None or self.low <= reading <= self.high:
            return ""
        return "too high" if reading > self.high else "too low"


def expected(
    network: Network,
    meters: Mapping[str, Meter],
    state: State,
    charge: float,
    change: Change = AS_BUILT,
) -> dict[str, Expected]:
    """What voltmeters and clamps would show on a sound network, its flashers lit and dark;
    ``change`` is what its senders tell."""
    ends = tuple(
        (meter.red, meter.black)
        for meter in meters.values()
        if meter.red is not None and meter.black is not None
    )
    try:
        lit, dark = (
            with_battery(network, replace(state, meters=ends, phase=phase), charge, change)
            for phase in (LIT, DARK)
        )
    except UnusableInput:
        return {name: Expected(None, 0.0, 0.0) for name in meters}
    shown = zip(_shown(lit, meters), _shown(dark, meters), strict=True)
    return {
        name: _band(meter, *pair) for (name, meter), pair in zip(meters.items(), shown, strict=True)
    }


def _shown(solution: Solution, meters: Mapping[str, Meter]) -> list[float | None]:
    volts = iter(solution.meters_v)
    return [
        solution.wire_a[meter.wire] if meter.kind == "clamp" else next(volts)
        for meter in meters.values()
    ]


def _band(meter: Meter, lit: float | None, dark: float | None) -> Expected:
    if lit is None or dark is None:
        return Expected(lit, lit or 0.0, lit or 0.0)
    clamp = meter.kind == "clamp"
    within, share = (WITHIN_A, WITHIN_A_SHARE) if clamp else (WITHIN_V, WITHIN_V_SHARE)
    low, high = min(lit, dark), max(lit, dark)
    return Expected(lit, low - within - share * abs(low), high + within + share * abs(high))


def with_battery(
    network: Network, state: State, charge: float, change: Change = AS_BUILT
) -> Solution:
    """The changed state with its battery, which takes no more than its plates accept while it is
    charged.

    The network has the battery as a source behind a resistance; while more would flow into it than
    it accepts, it is taken as one behind so much that just that flows.
    """
    battery: Part = network.battery
    law = stored_charge(battery, charge)
    open_v, resistance_ohm = float(law.open_v), float(law.inner_ohm)
    accepts_a = float(law.accepts_a)
    for _ in range(TRIES):
        behind = replace(state, supply=Supply(open_v, resistance_ohm))
        (found,) = network.try_many([behind], changes=[change])
        if isinstance(found, UnusableInput):
            raise found
        solution = network.solution(found)
        too_much_a = -solution.battery_a - accepts_a
        if too_much_a < SETTLED_A and (resistance_ohm == law.inner_ohm or too_much_a > -SETTLED_A):
            break
        resistance_ohm = max((solution.battery_v - open_v) / accepts_a, float(law.inner_ohm))
    return solution

"""How much each load may lose on feed and return together, by the school of the build."""

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.laws import LIGHT_EXPONENT
from circuitry.sizing.states import starts

LEAST_LIGHT, LEAST_SPEED, LEAST_HEAT = 0.85, 0.92, 0.88
"""What an owner does not notice yet; typical."""
LIGHT_KINDS = ("filament",)
MISSED_FROM = 1.04
"""The share of a limit from which more is lost than may be: limits are conventions, and nobody sees
or hears a hundredth of a volt."""
HEAT_KINDS = ("resistor", "ptc heater")


def drop_limit_v(build: Build, load: Part, source_v: float, cranking: bool = False) -> float | None:
    """What a load may lose in V, with this voltage between the posts of the source; None where
    nothing is asked. While cranking, what the starter's own loop may lose comes on top: the
    battery's leads and the isolator are a part of both.

    *By effect* takes the light of a filament as going with V^3.4 (IESNA Lighting Handbook), the
    speed of a motor with V and the heat of a resistor with V².
    """
    own_v = _limit_v(build, load, source_v)
    if own_v is None or not cranking or starts(load):
        return own_v
    starters = (row for row in build.parts_of_kind("load") if starts(row))
    return own_v + max((_limit_v(build, row, source_v) or 0.0 for row in starters), default=0.0)


def is_missed(lost_v: float, limit_v: float) -> bool:
    """Whether so much more is lost than may be that a builder should look at it.

    >>> is_missed(0.61, 0.60), is_missed(0.63, 0.60)
    (False, True)
    """
    return lost_v > MISSED_FROM * limit_v


def _limit_v(build: Build, load: Part, source_v: float) -> float | None:
    policy, row = build.policy, catalogue().loads[load.catalogue or ""]
    match policy.drop_school:
        case "percent by class":
            circuit = build.circuits.get(load.circuit or "")
            comfort = circuit is not None and circuit.criticality == "comfort"
            percent = policy.other_drop_percent if comfort else policy.critical_drop_percent
            return percent / 100 * source_v
        case "flat":
            return policy.flat_drop_v
        case "by effect":
            return _by_effect(row.kind) * source_v
        case "by ampacity alone":
            return None
    return policy.drop_limits_v.get(row.drop, catalogue().drop_limits[row.drop].loop_limit_v_at_12v)


def _by_effect(kind: str) -> float:
    """The share of the source's voltage that costs an owner what they do not notice yet."""
    if kind in LIGHT_KINDS:
        return float(1 - LEAST_LIGHT ** (1 / LIGHT_EXPONENT))
    if kind in HEAT_KINDS:
        return float(1 - LEAST_HEAT**0.5)
    return 1 - LEAST_SPEED

"""How much each load may lose on feed and return together, by the school of the build."""

from circuitry.build.model import Build, Part
from circuitry.catalogue import catalogue
from circuitry.network.laws import LIGHT_EXPONENT

LEAST_LIGHT, LEAST_SPEED, LEAST_HEAT = 0.85, 0.92, 0.88
"""What an owner does not notice yet; typical."""
LIGHT_KINDS = ("filament",)
HEAT_KINDS = ("resistor", "ptc heater")


def drop_limit_v(build: Build, load: Part, source_v: float) -> float | None:
    """What a load may lose in V, with this voltage between the posts of the source; None where
    nothing is asked.

    *By effect* takes the light of a filament as going with V^3.4 (IESNA Lighting Handbook), the
    speed of a motor with V and the heat of a resistor with V².
    """
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

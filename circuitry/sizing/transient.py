"""How a wire warms in time: what it bears for how long, as one wire or as arrays of many."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from circuitry.catalogue import Conductor, Insulation
from circuitry.network.elements import copper_factor

COPPER_J_PER_CM3_K = 3.45
INSULATION_J_PER_CM3_K = 2.0
"""Volumetric heat capacities: copper of handbooks; thin-wall compounds, typical."""
STRANDING = 1.2
COPPER_K = 226.0
"""A s^½/mm² of copper, where no heat is lost (IEC 60949)."""
COPPER_ZERO_K = 234.5
ADIABATIC_BELOW_S = 1.0

Figure = Any
"""A float, or an array of them that broadcasts with the others."""


@dataclass(frozen=True)
class Wires:
    """What heats and what bears: figures of one wire, or arrays of them."""

    area_mm2: Figure
    outside_mm: Figure
    ohm_per_m_20c: Figure
    limit_c: Figure
    damage_c: Figure


def wire_of(conductor: Conductor, insulation: Insulation) -> Wires:
    """One wire."""
    return Wires(
        conductor.copper_area_mm2,
        conductor.outside_diameter_mm,
        conductor.r20_mohm_per_m / 1000,
        insulation.continuous_limit_c,
        insulation.short_circuit_limit_c,
    )


def bears_s(
    wires: Wires, ambient_c: Figure, carries_a: Figure, before_a: Figure, current_a: Figure
) -> Figure:
    """How long wires bear a current, in s, until they are at the limit for short times.

    With heat capacity ``C`` and loss in proportion to the rise, as at its ampacity
    ``I_z² R = h (θ_z)``, the rise goes as ``θ(t) = θ∞ − (θ∞ − θ₀) e^(−t/τ)`` with
    ``θ∞ = θ_z (I/I_z)²`` and ``τ = C θ_z / (I_z² R)``. Below a second no heat is lost:
    ``I² t = k² S²``, ``k = 226 √ln(1 + (θ_f − θ_i)/(234.5 + θ_i))`` (IEC 60949; the same k for
    copper as in IEC 60364-4-43). ``before_a`` is what flowed before. Infinite where they never get
    there, zero where they may carry nothing.
    """
    rise_k = wires.limit_c - ambient_c
    carries = np.maximum(carries_a, 1e-9)
    start_k = rise_k * np.minimum(before_a / carries, 1.0) ** 2
    end_k = wires.damage_c - ambient_c
    with np.errstate(divide="ignore", invalid="ignore"):
        initial_k = COPPER_ZERO_K + ambient_c + start_k
        k = COPPER_K * np.sqrt(np.log(1 + np.maximum(end_k - start_k, 0.0) / initial_k))
        adiabatic_s = (k * wires.area_mm2 / current_a) ** 2
        lasting_k = rise_k * (current_a / carries) ** 2
        tau_s = warms_in_s(wires, ambient_c, carries)
        losing_s = tau_s * np.log((lasting_k - start_k) / (lasting_k - end_k))
    longer_s = np.where(lasting_k <= end_k, np.inf, losing_s)
    seconds = np.where(adiabatic_s < ADIABATIC_BELOW_S, adiabatic_s, longer_s)
    return np.where((np.asarray(carries_a) <= 0) | (rise_k <= 0), 0.0, seconds)


def warms_in_s(wires: Wires, ambient_c: Figure, carries_a: Figure) -> Figure:
    """The thermal time constant of wires: ``τ = C θ_z / (I_z² R)``, their heat capacity against
    what they lose at their ampacity."""
    outside_mm2 = np.pi / 4 * wires.outside_mm**2
    capacity_j_per_m_k = COPPER_J_PER_CM3_K * wires.area_mm2
    capacity_j_per_m_k = capacity_j_per_m_k + INSULATION_J_PER_CM3_K * np.maximum(
        outside_mm2 - STRANDING * wires.area_mm2, 0.0
    )
    ohm_per_m = wires.ohm_per_m_20c * copper_factor(wires.limit_c)
    return capacity_j_per_m_k * (wires.limit_c - ambient_c) / (carries_a**2 * ohm_per_m)


def warm_c(
    wires: Wires,
    ambient_c: float,
    carries_a: float,
    before_a: float,
    current_a: float,
    seconds: float,
) -> float:
    """Temperature in °C of the conductor of one wire some time after its current went up.

    The rise goes as ``bears_s`` has it; in the first second none of the heat is lost:
    ``θ_f = (234.5 + θ_i) e^((I/226 S)² t) − 234.5`` (IEC 60949).
    """
    rise_k = max(wires.limit_c - ambient_c, 0.0)
    if carries_a <= 0 or rise_k == 0:
        return ambient_c
    start_k = rise_k * min(before_a / carries_a, 1.0) ** 2
    at_once = (current_a / (COPPER_K * wires.area_mm2)) ** 2 * min(seconds, ADIABATIC_BELOW_S)
    initial_k = COPPER_ZERO_K + ambient_c + start_k
    at_once_c = float(initial_k * np.exp(min(at_once, 50.0)) - COPPER_ZERO_K)
    if seconds <= ADIABATIC_BELOW_S:
        return at_once_c
    lasting_k = rise_k * (current_a / carries_a) ** 2
    tau_s = float(warms_in_s(wires, ambient_c, carries_a))
    rises_c = float(ambient_c + lasting_k - (lasting_k - start_k) * np.exp(-seconds / tau_s))
    return max(rises_c, at_once_c)

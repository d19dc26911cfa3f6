"""The current that a wire may carry for ever, by the heat balance of one wire in still air."""

import math
from functools import lru_cache
from typing import Any

from scipy.optimize import brentq

from circuitry.catalogue import Conductor, Insulation, catalogue
from circuitry.network.elements import copper_factor

STEFAN_BOLTZMANN = 5.670374e-8
EMISSIVITY = 0.9
GRAVITY = 9.80665
STRANDING = 1.2
COVERS_THAT_HOLD_HEAT = {"split tube", "convoluted tube", "shrink sleeve"}
COVER_FACTOR = 0.9
ENOUGH = 0.99
CHART_TO_MM2 = 6.5
CHART_INSULATION, CHART_AIR_C = "PVC heat-resistant thin wall", 60.0


def free_air_ampacity_a(conductor: Conductor, insulation: Insulation, ambient_c: float) -> float:
    """Ampacity in A of a single horizontal wire whose conductor reaches its continuous limit.

    ``I² R(T_c) = q(T_s)`` in W/m, with conduction through the insulation
    ``T_c − T_s = q ln(D/d) / (2πk)`` and loss from the surface
    ``q = (h_c + h_r) π D (T_s − T_a)``. Zero where the ambient is at or above the limit.

    Source: heat balance as in Neher and McGrath (1957); ``h_c`` from Churchill and Chu (1975).
    """
    return _free_air_ampacity_a(conductor, insulation, round(ambient_c, 1))


@lru_cache(maxsize=4096)
def _free_air_ampacity_a(conductor: Conductor, insulation: Insulation, ambient_c: float) -> float:
    limit_c = insulation.continuous_limit_c
    if ambient_c >= limit_c:
        return 0.0
    outside_m = conductor.outside_diameter_mm / 1000
    solid_m = math.sqrt(4 * conductor.copper_area_mm2 / math.pi) / 1000
    core_m = min(solid_m * STRANDING, 0.95 * outside_m)
    thermal_k_m_per_w = math.log(outside_m / core_m) / (
        2 * math.pi * insulation.thermal_conductivity_w_per_m_k
    )

    def imbalance_w_per_m(surface_c: float) -> float:
        through = (limit_c - surface_c) / thermal_k_m_per_w
        return through - surface_loss_w_per_m(outside_m, surface_c, ambient_c)

    surface_c = float(brentq(imbalance_w_per_m, ambient_c, limit_c))
    loss_w_per_m = surface_loss_w_per_m(outside_m, surface_c, ambient_c)
    ohm_per_m = conductor.r20_mohm_per_m / 1000 * float(copper_factor(limit_c))
    return math.sqrt(loss_w_per_m / ohm_per_m)


def surface_loss_w_per_m(outside_m: float, surface_c: float, ambient_c: float) -> float:
    """Heat lost by convection and radiation from a horizontal cylinder in still air, in W/m."""
    rise_k = surface_c - ambient_c
    if rise_k <= 0:
        return 0.0
    surface_k, ambient_k = surface_c + 273.15, ambient_c + 273.15
    radiation = EMISSIVITY * STEFAN_BOLTZMANN * (surface_k**2 + ambient_k**2)
    radiation *= surface_k + ambient_k
    convection = convection_w_per_m2_k(outside_m, surface_c, ambient_c)
    return (convection + radiation) * math.pi * outside_m * rise_k


def convection_w_per_m2_k(outside_m: float, surface_c: float, ambient_c: float) -> float:
    """Free convection from a horizontal cylinder: Churchill and Chu, Int. J. Heat Mass Transfer
    18 (1975) 1049, ``Nu = (0.60 + 0.387 Ra^(1/6) / (1 + (0.559/Pr)^(9/16))^(8/27))²``.

    Air at film temperature: Sutherland's law for viscosity and conductivity, ideal gas density.
    """
    film_k = (surface_c + ambient_c) / 2 + 273.15
    viscosity = 1.716e-5 * math.pow(film_k / 273.15, 1.5) * (273.15 + 110.4) / (film_k + 110.4)
    conductivity = 0.0241 * math.pow(film_k / 273.15, 1.5) * (273.15 + 194) / (film_k + 194)
    density = 101325 / (287.05 * film_k)
    prandtl = 1006 * viscosity / conductivity
    grashof = GRAVITY / film_k * abs(surface_c - ambient_c) * outside_m**3
    grashof *= (density / viscosity) ** 2
    rayleigh = grashof * prandtl
    shape = math.pow(1 + math.pow(0.559 / prandtl, 9 / 16), 8 / 27)
    nusselt = (0.60 + 0.387 * math.pow(rayleigh, 1 / 6) / shape) ** 2
    return nusselt * conductivity / outside_m


def chart_a(conductor: Conductor) -> float:
    """What a wire of this size is trusted with for ever, by what flows or what protection lets
    pass, however cool the place and fine the insulation: its ampacity as the usual charts of
    thin-wall wire have it, 105 °C in air of 60 °C. Nobody trusts 15 A to 0.5 mm² because it lies in
    a cool cabin. Cables beyond the charts are held to their own ampacity alone."""
    if conductor.copper_area_mm2 > CHART_TO_MM2:
        return math.inf
    return free_air_ampacity_a(conductor, catalogue().insulation[CHART_INSULATION], CHART_AIR_C)


def enough(carries_a: Any, must_a: Any) -> Any:
    """Whether an ampacity is enough for a current, within a hundredth: published ones agree with
    each other to no better than a tenth. Floats or arrays."""
    return carries_a >= ENOUGH * must_a

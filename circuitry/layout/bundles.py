"""The bundle of wires in each run: which wires, how thick, how heavy."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.catalogue import Conductor, catalogue
from circuitry.design.model import Build, Wire
from circuitry.design.routes import length_m, way_of

PACKING = 1.2
COPPER_G_PER_CM3 = 8.96
INSULATION_G_PER_CM3 = 1.35
STRANDING = 1.2


@dataclass(frozen=True)
class Bundle:
    """The wires of one run, the diameter over them, and their mass along the run."""

    run: str
    wires: tuple[str, ...]
    diameter_mm: float
    mass_g: float


def bundles(build: Build) -> dict[str, Bundle]:
    """The bundle of every run of a sized build, empty ones included.

    A round bundle of wires of outside diameters d has about ``1.2 √Σd²``.
    """
    wires_in: dict[str, list[Wire]] = {run: [] for run in build.runs}
    for wire in build.wires.values():
        for run in way_of(build, wire):
            wires_in[run.id].append(wire)
    return {run: _bundle(build, run, wires) for run, wires in wires_in.items()}


def _bundle(build: Build, run: str, wires: list[Wire]) -> Bundle:
    conductors = [conductor_of(wire) for wire in wires]
    squares = sum(conductor.outside_diameter_mm**2 for conductor in conductors)
    metres = build.runs[run].length_m
    return Bundle(
        run,
        tuple(wire.id for wire in wires),
        PACKING * math.sqrt(squares),
        metres * sum(mass_g_per_m(conductor) for conductor in conductors),
    )


def conductor_of(wire: Wire) -> Conductor:
    """The catalogue row of a sized wire."""
    return catalogue().conductor[wire.size or ""]


def copper_g_per_m(conductor: Conductor) -> float:
    """Copper alone: density 8.96 g/cm³ times area; mm² times m is cm³."""
    return COPPER_G_PER_CM3 * conductor.copper_area_mm2


def mass_g_per_m(conductor: Conductor) -> float:
    """Copper and insulation; the insulation fills the outside diameter around the strands."""
    core_mm2 = conductor.copper_area_mm2 * STRANDING
    outside_mm2 = math.pi / 4 * conductor.outside_diameter_mm**2
    return copper_g_per_m(conductor) + INSULATION_G_PER_CM3 * max(outside_mm2 - core_mm2, 0.0)


def mass_kg(build: Build) -> float:
    """Copper and insulation of the whole loom of a sized build."""
    return sum(
        mass_g_per_m(conductor_of(wire)) * length_m(build, wire) / 1000
        for wire in build.wires.values()
    )


def copper_kg(build: Build, lengths_m: Mapping[str, float]) -> float:
    """Copper of the whole loom, its wires of these lengths in m."""
    return sum(
        copper_g_per_m(conductor_of(wire)) * lengths_m[wire.id] / 1000
        for wire in build.wires.values()
    )

"""Design currents to fuses and wires: each with its reasons; findings and mends."""

from circuitry.sizing.carry import carried_over, feels_the_same
from circuitry.sizing.placement import Loom, loom
from circuitry.sizing.result import Sizing
from circuitry.sizing.sizing import size_build

__all__ = ["Loom", "Sizing", "carried_over", "feels_the_same", "loom", "size_build"]

"""Design currents to fuses and wires, each with its reasons; findings and mends."""

from circuitry.sizing.result import Sizing
from circuitry.sizing.sizing import size_build

__all__ = ["Sizing", "size_build"]

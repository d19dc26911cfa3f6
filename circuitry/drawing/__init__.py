"""Drawings made by rule: the schematic of a circuit."""

from circuitry.drawing.schematic import Schematic, schematic
from circuitry.drawing.svg import as_svg

__all__ = ["Schematic", "as_svg", "schematic"]

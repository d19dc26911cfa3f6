"""Drawings made by rule: the schematic of a circuit, and the whole car on one sheet."""

from circuitry.drawing.overview import LEVELS, overview
from circuitry.drawing.schematic import Schematic, schematic
from circuitry.drawing.svg import as_svg

__all__ = ["LEVELS", "Schematic", "as_svg", "overview", "schematic"]

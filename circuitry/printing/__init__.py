"""Pages to print: the sheet of a proof, to fill in beside the car."""

from circuitry.printing.proof_sheet import proof_sheet

__all__ = ["proof_sheet"]

"""Pages to print: the sheet of a proof, to fill in beside the car, and the book of the car."""

from circuitry.printing.book import Extras, Told, book
from circuitry.printing.proof_sheet import proof_sheet

__all__ = ["Extras", "Told", "book", "proof_sheet"]

"""Pages to print: the sheet of a proof, the book of the car, a drawing, the loom at full size."""

from circuitry.printing.board_pages import board_pages
from circuitry.printing.book import Extras, Told, book
from circuitry.printing.drawn import sheet
from circuitry.printing.proof_sheet import proof_sheet

__all__ = ["Extras", "Told", "board_pages", "book", "proof_sheet", "sheet"]

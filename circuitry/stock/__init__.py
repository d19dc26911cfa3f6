"""Taking stock: the list of everything electrical, and the first list of a kind of car."""

from circuitry.stock.cells import (
    CellProblem,
    TypedRow,
    cell_problems,
    found_by_name,
    set_cells,
    wire_as_wished,
)
from circuitry.stock.rows import COLUMNS, Column, StockRow, stock_rows

__all__ = [
    "COLUMNS",
    "CellProblem",
    "Column",
    "StockRow",
    "TypedRow",
    "cell_problems",
    "found_by_name",
    "set_cells",
    "stock_rows",
    "wire_as_wished",
]

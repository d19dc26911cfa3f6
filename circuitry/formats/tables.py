"""Tables from and to spreadsheets: CSV and XLSX read into plain text cells, and written safely.

Nothing from a file is run: formulas are read as the value that was stored with them, and a cell
that begins like a formula is written with an apostrophe before it, which reading takes off again.
"""

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from openpyxl import Workbook, load_workbook
from openpyxl.cell.cell import Cell, MergedCell
from openpyxl.utils.cell import coordinate_to_tuple
from openpyxl.utils.exceptions import InvalidFileException
from openpyxl.worksheet.worksheet import Worksheet

from circuitry.errors import UnusableInput

MOST_BYTES = 10_000_000
MOST_UNPACKED_BYTES = 80_000_000
MOST_ROWS = 5000
MOST_COLUMNS = 60
LONGEST_CELL = 1000
DELIMITERS = ",;\t|"
RUNS_AS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class Table:
    """Headings and rows of text, all of one width, and what had to be decided in reading."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...] = ()


def read_table(data: bytes, name: str) -> Table:
    """The table in a CSV or XLSX file; raises UnusableInput that says what is wrong with it."""
    if len(data) > MOST_BYTES:
        raise _refused(
            name,
            f"has {len(data) / 1e6:.1f} MB; a table has at most {MOST_BYTES / 1e6:g} MB. "
            "Save only the sheet that is needed.",
        )
    if data[:4] == b"PK\x03\x04":
        rows, notes = _read_xlsx(data, name)
    elif data[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        raise _refused(name, "is an old binary spreadsheet. Save it as .xlsx or .csv.")
    else:
        rows, notes = _read_csv(data, name)
    return _table(rows, notes, name)


def _table(rows: list[list[str]], notes: list[str], name: str) -> Table:
    filled = [row for row in rows if any(cell for cell in row)]
    if not filled:
        raise _refused(name, "is empty. The first row holds the headings, one thing a row below.")
    width = max(len(row) for row in filled)
    if width > MOST_COLUMNS:
        raise _refused(name, f"has {width} columns; at most {MOST_COLUMNS} are read.")
    headings, *body = [tuple(row + [""] * (width - len(row))) for row in filled]
    if not body:
        raise _refused(name, "has headings, but no rows below them. There is nothing to read.")
    if len(body) > MOST_ROWS:
        raise _refused(name, f"has {len(body)} rows; at most {MOST_ROWS} are read. Split it.")
    return Table(headings, tuple(body), tuple(notes))


def _read_csv(data: bytes, name: str) -> tuple[list[list[str]], list[str]]:
    text, notes = _decoded(data, name)
    sample = text[:20_000]
    try:
        delimiter = csv.Sniffer().sniff(sample, DELIMITERS).delimiter
    except csv.Error:
        delimiter = max(DELIMITERS, key=sample.count)
    if delimiter != ",":
        said = {"\t": "tabs", ";": "semicolons", "|": "bars"}[delimiter]
        notes.append(f"Cells are separated by {said}.")
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter, strict=True))
    except csv.Error as problem:
        raise _refused(name, f"cannot be read as CSV: {problem}.") from None
    return [[_cell(cell) for cell in row] for row in rows], notes


def _decoded(data: bytes, name: str) -> tuple[str, list[str]]:
    marks = {b"\xef\xbb\xbf": "utf-8-sig", b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}
    marked = next((encoding for mark, encoding in marks.items() if data.startswith(mark)), None)
    try:
        text = data.decode(marked or "utf-8")
        notes = [] if marked in (None, "utf-8-sig") else ["Read as UTF-16."]
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
        notes = ["Not UTF-8: read as Windows-1252. Look at letters with accents."]
    if "\x00" in text:
        raise _refused(name, "is not a table of text. Choose a .csv or .xlsx file.")
    return text, notes


def _read_xlsx(data: bytes, name: str) -> tuple[list[list[str]], list[str]]:
    _refuse_bomb(data, name)
    try:
        values = _first_sheet(data, stored_values=True)
        written = _first_sheet(data, stored_values=False)
    except (InvalidFileException, zipfile.BadZipFile, KeyError, ValueError, OSError, SyntaxError):
        raise _refused(name, "cannot be read as a spreadsheet. Save it again as .xlsx.") from None
    if values.max_row > MOST_ROWS + 1 or values.max_column > MOST_COLUMNS:
        raise _refused(
            name,
            f"has {values.max_row} rows and {values.max_column} columns; at most {MOST_ROWS} rows "
            f"and {MOST_COLUMNS} columns are read.",
        )
    notes = []
    rows = [[_cell_text(cell) for cell in row] for row in values.iter_rows()]
    for merged in written.merged_cells.ranges:
        notes.append(f"Merged cells {merged.coord} count as the same value in each.")
        first = rows[merged.min_row - 1][merged.min_col - 1]
        for row in range(merged.min_row - 1, merged.max_row):
            for column in range(merged.min_col - 1, merged.max_col):
                rows[row][column] = first
    formulas = [cell for row in written.iter_rows() for cell in row if cell.data_type == "f"]
    if formulas:
        notes.append(
            f"{len(formulas)} formulas were read as the values stored with them, "
            f"the first in {formulas[0].coordinate}."
        )
    return rows, notes


def _first_sheet(data: bytes, stored_values: bool) -> Worksheet:
    book = load_workbook(io.BytesIO(data), data_only=stored_values, keep_links=False)
    sheet = book.worksheets[0]
    return sheet


def _refuse_bomb(data: bytes, name: str) -> None:
    """A spreadsheet is a packed file: refuse one that unpacks to far more than a table can be."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(entry.file_size for entry in packed.infolist())
            if unpacked > MOST_UNPACKED_BYTES:
                raise _refused(
                    name, f"unpacks to {unpacked / 1e6:.0f} MB, far more than a list needs."
                )
            sheets = [entry for entry in packed.namelist() if entry.startswith("xl/worksheets/")]
            merged = max((_merged_cells(packed.read(sheet)) for sheet in sheets), default=0)
    except zipfile.BadZipFile:
        raise _refused(name, "cannot be read as a spreadsheet. Save it again as .xlsx.") from None
    if merged > MOST_ROWS * MOST_COLUMNS:
        raise _refused(name, f"merges {merged} cells into a few. Take the merging out of it.")


def _merged_cells(sheet: bytes) -> int:
    """How many cells the merged ranges of a sheet cover."""
    total = 0
    for ref in re.findall(rb'<mergeCell\s[^>]*ref="([A-Z]+[0-9]+:[A-Z]+[0-9]+)"', sheet):
        first, last = ref.decode().split(":")
        (top, left), (bottom, right) = coordinate_to_tuple(first), coordinate_to_tuple(last)
        total += (right - left + 1) * (bottom - top + 1)
    return total


def _cell_text(cell: Cell | MergedCell) -> str:
    value = cell.value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.10g}"
    if isinstance(value, (datetime, date)):
        return value.isoformat()
    return _cell(str(value))


def _cell(text: str) -> str:
    tidy = text.replace("\u00a0", " ").strip()[:LONGEST_CELL]
    return tidy[1:] if tidy[:1] == "'" and tidy[1:2] in RUNS_AS_FORMULA else tidy


def safe(text: str) -> str:
    """The text so that no spreadsheet takes it for a formula."""
    return f"'{text}" if text.startswith(RUNS_AS_FORMULA) else text


def write_csv(headings: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """CSV in UTF-8 with a byte-order mark, which spreadsheets need to see that it is UTF-8."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([safe(cell) for cell in headings])
    writer.writerows([[safe(cell) for cell in row] for row in rows])
    return out.getvalue().encode("utf-8-sig")


def write_xlsx(title: str, headings: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """A workbook of one sheet; every cell is text."""
    book = Workbook()
    sheet = book.active
    assert isinstance(sheet, Worksheet)
    sheet.title = "".join(letter for letter in title if letter not in r"\/*?:[]")[:31] or "List"
    for number, row in enumerate([headings, *rows], start=1):
        for column, text in enumerate(row, start=1):
            cell = sheet.cell(number, column)
            cell.value = safe(text)
            cell.data_type = "s"
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _refused(name: str, what: str) -> UnusableInput:
    return UnusableInput("bad-table", name, f"{name} {what}")

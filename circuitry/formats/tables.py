"""Tables from and to spreadsheets: CSV and XLSX read into plain text cells, and written safely.

Nothing from a file is run: formulas are read as the value that was stored with them, and a cell
that begins like a formula is written with an apostrophe before it, which reading takes off again.
"""

import csv
import io
import json
import re
import subprocess
import sys
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from openpyxl import Workbook
from openpyxl.worksheet.worksheet import Worksheet

from circuitry.errors import UnusableInput
from circuitry.formats.spreadsheet import MOST_COLUMNS, MOST_ROWS

MOST_BYTES = 10_000_000
READER = ("-P", str(Path(__file__).with_name("spreadsheet.py")))
"""Run as a file, so that the rest of the program takes none of its memory."""
MOST_SECONDS = 15
MOST_LINES = 4 * MOST_ROWS
"""Empty lines are left out later."""
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
    delimiter = _delimiter(text)
    if delimiter != ",":
        said = {"\t": "tabs", ";": "semicolons", "|": "bars"}[delimiter]
        notes.append(f"Cells are separated by {said}.")
    rows = []
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True):
            rows.append([_cell(cell) for cell in row[: MOST_COLUMNS + 1]])
            if len(rows) > MOST_LINES:
                raise _refused(name, f"has more than {MOST_ROWS} rows. Split it.")
    except csv.Error as problem:
        raise _refused(name, f"cannot be read as CSV: {problem}.") from None
    return rows, notes


def _delimiter(text: str) -> str:
    """What separates the cells: what stands most often in the first lines, outside of quotes."""
    lines = [re.sub(r'"[^"]*"', "", line) for line in text[:20_000].splitlines()[:20]]
    sample = "\n".join(line for line in lines if line.strip())
    return max(DELIMITERS, key=sample.count)


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
    """Rows and notes of the first sheet, read in a process of its own that cannot take more time
    or memory than a table needs."""
    try:
        done = subprocess.run(
            [sys.executable, *READER],
            input=data,
            capture_output=True,
            timeout=MOST_SECONDS,
        )
        answer = json.loads(done.stdout)
    except (subprocess.TimeoutExpired, json.JSONDecodeError):
        raise _refused(
            name, "asks for far more time or memory than a list needs. Save only its cells, as CSV."
        ) from None
    if "refused" in answer:
        raise _refused(name, answer["refused"])
    return [[_cell(cell) for cell in row] for row in answer["rows"]], answer["notes"]


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

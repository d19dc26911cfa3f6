"""Reads the first sheet of a spreadsheet, in a process of its own with little time and memory.

Run as a program it takes an XLSX file on its standard input and answers in
JSON: ``rows`` of text and ``notes``, or why it is ``refused``. The file is read as a stream, and
counted before it is unpacked; what a broken file makes of the library ends this process and no
other.
"""

import io
import json
import re
import resource
import sys
import zipfile
from collections.abc import Iterator
from datetime import date, datetime
from typing import Any

from openpyxl import load_workbook
from openpyxl.utils.cell import coordinate_to_tuple

MOST_ROWS = 5000
MOST_COLUMNS = 60
MOST_UNPACKED_BYTES = 80_000_000
MOST_PARTS = 2_000
MOST_MERGED = 2_000
MOST_MEMORY_BYTES = 500_000_000
MOST_SECONDS = 10
CHUNK_BYTES = 1_000_000
LONGEST_TAG = 500
MERGED = re.compile(
    rb'<(?:\w+:)?mergeCell\s[^>]*?ref="([A-Z]{1,3}[0-9]{1,7}):([A-Z]{1,3}[0-9]{1,7})"'
)
BROKEN = "cannot be read as a spreadsheet. Save it again as .xlsx."


class Refused(Exception):
    """The file is no table that can be read; says why."""


def main() -> None:
    """Read standard input, answer on standard output."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY_BYTES, MOST_MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS + 1))
    try:
        rows, notes = read_first_sheet(sys.stdin.buffer.read())
        answer: dict[str, Any] = {"rows": rows, "notes": notes}
    except Refused as problem:
        answer = {"refused": str(problem)}
    except MemoryError:
        return
    except Exception:  # whatever the library trips over in a broken file is a broken file
        answer = {"refused": BROKEN}
    json.dump(answer, sys.stdout)


def read_first_sheet(data: bytes) -> tuple[list[list[str]], list[str]]:
    """The cells of the first sheet as text, and what had to be decided; raises Refused."""
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        parts = packed.infolist()
        unpacked = sum(part.file_size for part in parts)
        if unpacked > MOST_UNPACKED_BYTES or len(parts) > MOST_PARTS:
            raise Refused(f"unpacks to {unpacked / 1e6:.0f} MB, far more than a list needs.")
        rows = [[_text(value) for value in row] for row in _values(data, stored=True)]
        notes = []
        for (top, left), (bottom, right), said in _merged(
            packed, _first_sheet(data)._worksheet_path
        ):
            notes.append(f"Merged cells {said} count as the same value in each.")
            first = rows[top - 1][left - 1] if top <= len(rows) else ""
            for row in rows[top - 1 : bottom]:
                row[left - 1 : right] = [first] * len(row[left - 1 : right])
    formulas = [
        f"{_column(column)}{number}"
        for number, row in enumerate(_values(data, stored=False), start=1)
        for column, value in enumerate(row)
        if isinstance(value, str) and value.startswith("=")
    ]
    if formulas:
        notes.append(
            f"{len(formulas)} formulas were read as the values stored with them, "
            f"the first in {formulas[0]}."
        )
    return rows, notes


def _first_sheet(data: bytes, stored: bool = True) -> Any:
    book = load_workbook(io.BytesIO(data), read_only=True, data_only=stored, keep_links=False)
    if not book.worksheets:
        raise Refused("has no sheet with cells.")
    return book.worksheets[0]


def _values(data: bytes, stored: bool) -> Iterator[list[Any]]:
    """The rows as far as there are cells; formulas as they are written, or their stored values."""
    sheet = _first_sheet(data, stored)
    sheet.reset_dimensions()
    for number, row in enumerate(sheet.iter_rows(values_only=True), start=1):
        filled = [column for column, value in enumerate(row, start=1) if value is not None]
        if filled and number > MOST_ROWS + 1:
            raise Refused(f"has more than {MOST_ROWS} rows. Split it.")
        if filled and filled[-1] > MOST_COLUMNS:
            raise Refused(f"has {filled[-1]} columns; at most {MOST_COLUMNS} are read.")
        if number > MOST_ROWS + 1:
            continue
        yield list(row[:MOST_COLUMNS])


def _merged(packed: zipfile.ZipFile, path: str) -> Iterator[tuple[Any, Any, str]]:
    """Corners and names of the merged ranges of a sheet, cut to what is read of it."""
    tail, found = b"", set()
    with packed.open(path) as sheet:
        while chunk := sheet.read(CHUNK_BYTES):
            found |= set(MERGED.findall(tail + chunk))
            tail = chunk[-LONGEST_TAG:]
            if len(found) > MOST_MERGED:
                raise Refused(f"merges cells in more than {MOST_MERGED} places. Take that out.")
    covered = 0
    for first, last in sorted(found):
        corners = coordinate_to_tuple(first.decode()), coordinate_to_tuple(last.decode())
        (top, left), (bottom, right) = corners
        covered += max(bottom - top + 1, 0) * max(right - left + 1, 0)
        if covered > MOST_ROWS * MOST_COLUMNS:
            raise Refused("merges far more cells than a list has. Take the merging out of it.")
        yield (*corners, f"{first.decode()}:{last.decode()}")


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.10g}"
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value)


def _column(number: int) -> str:
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


if __name__ == "__main__":
    main()

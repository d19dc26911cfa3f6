"""Tables from spreadsheets: odd encodings and separators read, bad files refused, nothing run."""

import io
import zipfile
from unittest import TestCase
from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from circuitry.errors import UnusableInput
from circuitry.formats import spreadsheet
from circuitry.formats.tables import MOST_ROWS, read_table, write_csv, write_xlsx
from circuitry.stock.mapping import guessed, with_units


def workbook(fill: object = None) -> bytes:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(["Name", "Where", "Rated"])
    sheet.append(["Horn", "Nose", "=2+3"])
    sheet.append(["Lamp", None, 5.5])
    sheet.merge_cells("B2:B3")
    if callable(fill):
        fill(sheet)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


LAUGHS = (
    b"<!DOCTYPE l [<!ENTITY a 'aaaaaaaaaa'>"
    + b"".join(b"<!ENTITY %c '%s'>" % (98 + n, b"&%c;" % (97 + n) * 10) for n in range(12))
    + b"]>"
)
LAUGHED = b'<sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>&m;</t></is></c></row>'
"""Entities that each hold ten of the one before: 10 TB of letters, were they written out."""


def with_sheet(*said: tuple[bytes, bytes]) -> bytes:
    """A workbook whose sheet says something else, as no program would write it."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(workbook())) as good, zipfile.ZipFile(out, "w") as bad:
        for name in good.namelist():
            data = good.read(name)
            if name == "xl/worksheets/sheet1.xml":
                for find, put in said:
                    assert find in data, data
                    data = data.replace(find, put, 1)
            bad.writestr(name, data)
    return out.getvalue()


class ReadTest(TestCase):
    def test_encodings_separators_and_decimal_commas(self) -> None:
        text = "Name;Rated\nPhare gauche été;5,5 W\n"
        for data, note in (
            (text.encode(), "semicolons"),
            (text.encode("utf-8-sig"), "semicolons"),
            (text.encode("utf-16"), "UTF-16"),
            (text.encode("cp1252"), "Windows-1252"),
            (text.replace(";", "\t").encode(), "tabs"),
        ):
            table = read_table(data, "t.csv")
            self.assertEqual(table.rows, (("Phare gauche été", "5,5 W"),))
            self.assertIn(note, " ".join(table.notes))

    def test_quoted_cells_short_rows_and_blank_lines(self) -> None:
        table = read_table(b'Name,Where,Note\n"Nose, left",Dash\n\n,,\n', "t.csv")
        self.assertEqual(table.rows, (("Nose, left", "Dash", ""),))

    def test_a_spreadsheet_with_merged_cells_and_formulas(self) -> None:
        table = read_table(workbook(), "t.xlsx")
        self.assertEqual(table.rows[1], ("Lamp", "Nose", "5.5"))
        self.assertIn("Merged cells B2:B3", " ".join(table.notes))
        self.assertIn("1 formulas were read as the values stored", " ".join(table.notes))

    def test_bad_files_say_what_is_wrong(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("xl/worksheets/sheet1.xml", b"0" * 90_000_000)
        many = "Name\n" + "Horn\n" * (MOST_ROWS + 1)
        for data, words in (
            (b"", "is empty"),
            (b"Name,Where\n", "no rows below"),
            (b"\n\n,,\n", "is empty"),
            (many.encode(), "5001 rows"),
            (b"a\x00b\x00c", "not a table of text"),
            (b"PK\x03\x04 broken", "cannot be read as a spreadsheet"),
            (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "old binary spreadsheet"),
            (bomb.getvalue(), "unpacks to 90 MB"),
            (with_sheet((b'ref="B2:B3"', b'ref="A1:XFD1048576"')), "merges far more cells"),
            (with_sheet((b'r="C3"', b'r="XFD3"')), "has 16384 columns"),
            (with_sheet((b'<row r="3"', b'<row r="1048576"')), "more than 5000 rows"),
            (
                with_sheet((b"<sheetData>", b"<sheetData><row><c")),
                "cannot be read as a spreadsheet",
            ),
            (
                with_sheet((b"<worksheet", LAUGHS + b"<worksheet"), (b"<sheetData>", LAUGHED)),
                "cannot be read|far more",
            ),
            (b"x" * 10_000_001, "at most 10 MB"),
            (b'Name\n"open', "cannot be read as CSV"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                read_table(data, "t.csv")
        full = read_table(("Name\n" + "Horn\n" * MOST_ROWS).encode(), "t.csv")
        self.assertEqual(len(full.rows), MOST_ROWS)

    def test_a_file_that_takes_too_much_ends_itself_and_no_other(self) -> None:
        hog = "import time; bytearray(10**9); time.sleep(60)"
        for limits in ("MOST_MEMORY_BYTES", "MOST_SECONDS"):
            self.assertLess(getattr(spreadsheet, limits), 10**9)
        with (
            patch("circuitry.formats.tables.READER", ("-c", hog)),
            self.assertRaisesRegex(UnusableInput, "far more time or memory"),
            patch("circuitry.formats.tables.MOST_SECONDS", 0.5),
        ):
            read_table(workbook(), "t.xlsx")

    def test_the_separator_of_a_text_made_to_puzzle(self) -> None:
        puzzle = "Name,Where\n" + "'a'," * 5_000 + "\n"
        with self.assertRaisesRegex(UnusableInput, "columns"):
            read_table(puzzle.encode(), "t.csv")
        self.assertEqual(
            read_table(b'Name,Note\nHorn,"a;b;c;d"\n', "t").rows, (("Horn", "a;b;c;d"),)
        )

    @settings(deadline=None)
    @given(st.binary(max_size=300))
    def test_any_bytes_are_read_or_refused(self, data: bytes) -> None:
        try:
            table = read_table(data, "t.csv")
        except UnusableInput as problem:
            self.assertIn("t.csv", problem.message)
        else:
            self.assertTrue(all(len(row) == len(table.headings) for row in table.rows))


class WriteTest(TestCase):
    CELLS = ("=1+1", "+5", "-5 V", "@x", "plain", "été, “x”")

    def test_what_is_written_reads_back_and_runs_nowhere(self) -> None:
        headings = [f"h{n}" for n in range(len(self.CELLS))]
        for data in (
            write_csv(headings, [self.CELLS]),
            write_xlsx("Stock", headings, [self.CELLS]),
        ):
            self.assertEqual(read_table(data, "t").rows, (self.CELLS,))
        self.assertNotIn(b"\n=1+1", write_csv(["h"], [["=1+1"]]))
        sheet = load_workbook(io.BytesIO(write_xlsx("S", ["h"], [["=1+1"]]))).active
        assert sheet is not None
        self.assertEqual(sheet["A2"].data_type, "s")


class MappingTest(TestCase):
    def test_foreign_headings_find_their_column(self) -> None:
        found = guessed(["Item", "Location", "Power (W)", "Ignition", "Colour", "Notes", "Name 2"])
        self.assertEqual(found, ["name", "where", "rating", "key", None, "note", None])

    def test_the_unit_of_a_heading_goes_with_bare_numbers(self) -> None:
        rows = with_units(["Power (W)", "Amps, A", "Name"], [["55", "0,5", "7"], ["5 A", "", "x"]])
        self.assertEqual(rows, [["55 W", "0,5 A", "7"], ["5 A", "", "x"]])

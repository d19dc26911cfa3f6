"""Tables from spreadsheets: odd encodings and separators read, bad files refused, nothing run."""

import io
import zipfile
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from circuitry.errors import UnusableInput
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
        merged = io.BytesIO()
        with zipfile.ZipFile(merged, "w") as packed:
            packed.writestr("xl/worksheets/sheet1.xml", b'<mergeCell ref="A1:XFD1048576"/>')
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
            (merged.getvalue(), "merges 17179869184 cells"),
            (b"x" * 10_000_001, "at most 10 MB"),
            (b'Name\n"open', "cannot be read as CSV"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                read_table(data, "t.csv")
        full = read_table(("Name\n" + "Horn\n" * MOST_ROWS).encode(), "t.csv")
        self.assertEqual(len(full.rows), MOST_ROWS)

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

"""The sheet of a proof and the book of the car on paper: nothing left out, on any paper."""

import io
import re
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from typing import Any
from unittest import TestCase

from PIL import Image
from pypdf import PdfReader

from circuitry.budget import budget
from circuitry.drawing import schematic
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.printing import Extras, Told, board_pages, book, proof_sheet, sheet
from circuitry.printing.proof_sheet import band_said
from circuitry.progress import Stopped, watched
from circuitry.proving import Band, Plan, plan_of
from circuitry.workshop import workshop
from circuitry.workshop.board import board
from tests.core.benches import ROADSTER, VAN, demo

ABOUT = "Some car, revision 3"


@cache
def plan() -> Plan:
    return plan_of(demo(ROADSTER))


def some(start: str) -> set[str]:
    return {step.id for step in plan().steps if step.id.startswith(start)}


def read(pdf: bytes) -> PdfReader:
    return PdfReader(io.BytesIO(pdf))


def words(pdf: bytes) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in read(pdf).pages))


class SheetTest(TestCase):
    def test_every_step_has_its_number_its_title_and_its_bands(self) -> None:
        wanted = some("works/horn")
        said = words(proof_sheet(plan(), ABOUT, wanted))
        for number, step in enumerate(plan().steps, 1):
            if step.id in wanted:
                self.assertIn(f"{number} {step.title}", said)
                for caution in step.cautions:
                    self.assertIn(f"CAUTION {caution}", said)
                for row in step.readings:
                    self.assertIn(band_said(row.band, row.unit), said)
            else:
                self.assertNotIn(f"{number} {step.title}", said)
        self.assertIn("Horn sounds: tick, or what you see", said)

    def test_the_whole_car_is_numbered_by_page_and_carries_its_fonts(self) -> None:
        found = read(proof_sheet(plan(), ABOUT))
        last = len(found.pages)
        for number in (1, last):
            page = found.pages[number - 1].extract_text()
            self.assertIn(f"{number} of {last}", page)
            self.assertIn(ABOUT, page)
            self.assertIn("not a certificate", page)
        fonts = found.pages[0]["/Resources"]["/Font"].values()
        carried = [font["/FontDescriptor"] for font in fonts if "/FontDescriptor" in font]
        self.assertTrue(carried)
        self.assertTrue(all("/FontFile2" in one for one in carried))

    def test_letter_is_as_wide_as_letter_and_another_paper_is_refused(self) -> None:
        page = read(proof_sheet(plan(), ABOUT, some("works/horn"), "letter")).pages[0]
        self.assertEqual((float(page.mediabox.width), float(page.mediabox.height)), (612, 792))
        with self.assertRaises(UnusableInput):
            proof_sheet(plan(), ABOUT, None, "foolscap")

    def test_names_are_words_and_never_markup(self) -> None:
        (step,) = (step for step in plan().steps if step.id in some("works/horn"))
        odd = replace(step, title="<b>Rök</b> & Ωμέγα <img src=x>")
        said = words(proof_sheet(replace(plan(), steps=(odd,)), "<i>car</i>"))
        self.assertIn(odd.title, said)
        self.assertIn("<i>car</i>", said)

    def test_letters_that_the_pages_lack_are_owned_up_to(self) -> None:
        for name, lacking in (("Жук Ünlü Ωμέγα", False), ("喇叭", True)):
            board_of = board(demo(ROADSTER).build)
            pages = (
                proof_sheet(plan(), name, some("works/horn")),
                sheet(schematic(demo(ROADSTER).build, "horn"), name),
                board_pages(board_of, name, "A3"),
            )
            for pdf in pages:
                self.assertEqual("An empty box stands for a letter" in words(pdf), lacking, name)

    def test_bands_are_said_as_on_the_screen(self) -> None:
        for band, unit, expected in (
            (Band(12.0, 11.8, 12.3), "V", "11.80 to 12.30 V"),
            (Band(0.1, 0.0, 0.32), "Ω", "up to 0.3 Ω"),
            (Band(None, 10e3, None), "Ω", "open, above 10 kΩ"),
            (Band(0.2, 0.02, 0.5), "A", "20 mA to 0.50 A"),
        ):
            self.assertEqual(band_said(band, unit), expected)


class BookTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.sizing = demo(VAN)
        cls.budget = budget(cls.sizing, Network(cls.sizing.build))
        history = [Told("1 Nov 2026", "Fan through a relay", "as driven")]
        proofs = [Told("2 Nov 2026", "Horn sounds", "passed; 12.3 V")]
        cls.extras = Extras(
            "A builder", "28 November 2026", proofs, history, [("Grommet", photo())]
        )
        cls.whole = book(cls.sizing, cls.budget, cls.extras)

    def test_every_fuse_wire_circuit_and_place_is_in_it(self) -> None:
        said, build = words(self.whole), self.sizing.build
        for name in [
            *(circuit.name for circuit in build.circuits.values()),
            *(place.name for place in build.places.values()),
            *(wire.label for wire in build.wires.values()),
            *(way.feeds for way in workshop(build).chart),
            *(relay.name for relay in build.parts_of_kind("relay") if relay.housed is None),
        ]:
            self.assertIn(re.sub(r"\s+", " ", name), said)
        for row in ("Fan through a relay", "passed; 12.3 V", "Grommet", "A builder"):
            self.assertIn(row, said)
        for accepted in (row for row in self.sizing.findings if row.accepted):
            self.assertIn(accepted.accepted, said)

    def test_a_wire_is_as_long_and_as_thick_as_it_is_made(self) -> None:
        said = words(self.whole)
        for line in workshop(self.sizing.build).wires:
            row = [line.label, line.circuit_name, line.size, line.letters, f"{line.length_m:.2f}"]
            self.assertIn(" ".join(filter(None, row)), said)

    def test_contents_lead_to_the_page_on_which_a_heading_is(self) -> None:
        found = read(self.whole)
        listing = re.sub(r"\s+", " ", " ".join(p.extract_text() for p in found.pages[:3]))
        entries = [row for entry in found.outline for row in _flat(entry)]
        self.assertGreater(len(entries), len(self.sizing.build.circuits))
        for entry in entries:
            title, page = str(entry.title), found.get_destination_page_number(entry)
            self.assertIn(title, re.sub(r"\s+", " ", found.pages[page].extract_text()))
            self.assertRegex(listing, rf"\. {page + 1}\b|\b{page + 1} ")
            self.assertIn(title, listing)

    def test_no_page_is_blank_and_fonts_are_carried(self) -> None:
        found = read(self.whole)
        for number, page in enumerate(found.pages, 1):
            self.assertGreater(len(page.extract_text().split()), 30, number)
            for font in page["/Resources"]["/Font"].values():
                base = font.get_object()
                if "/DescendantFonts" in base or base["/Subtype"] == "/TrueType":
                    continue
                self.assertNotIn("Symbol", base["/BaseFont"], number)

    def test_one_circuit_alone_fits_on_few_pages(self) -> None:
        one = book(self.sizing, self.budget, self.extras, "letter", "horn")
        self.assertLessEqual(len(read(one).pages), 3)
        said = words(one)
        self.assertIn("Horn", said)
        self.assertNotIn("W121", said)
        for paper, circuit in (("A7", None), ("A4", "songs")):
            self.assertRaises(
                UnusableInput, book, self.sizing, self.budget, self.extras, paper, circuit
            )

    def test_it_tells_how_far_it_is_and_stops(self) -> None:
        told: list[str] = []

        def watch(doing: str, share: float) -> None:
            told.append(doing)
            if doing.startswith("Setting page 3"):
                raise Stopped

        with watched(watch), self.assertRaises(Stopped):
            book(self.sizing, self.budget, self.extras)
        self.assertIn("Drawing circuits", told)


def _flat(entry: Any) -> Iterator[Any]:
    if isinstance(entry, list):
        for row in entry:
            yield from _flat(row)
    else:
        yield entry


def photo() -> bytes:
    data = io.BytesIO()
    Image.new("RGB", (40, 30), "grey").save(data, "JPEG")
    return data.getvalue()

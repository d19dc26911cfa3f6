"""The sheet of a proof on paper: every step with its number and what to expect, on any paper."""

import io
import re
from dataclasses import replace
from functools import cache
from unittest import TestCase

from pypdf import PdfReader

from circuitry.errors import UnusableInput
from circuitry.printing import proof_sheet
from circuitry.printing.proof_sheet import band_said
from circuitry.proving import Band, Plan, plan_of
from tests.core.benches import ROADSTER, demo

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

    def test_bands_are_said_as_on_the_screen(self) -> None:
        for band, unit, expected in (
            (Band(12.0, 11.8, 12.3), "V", "11.80 to 12.30 V"),
            (Band(0.1, 0.0, 0.32), "Ω", "up to 0.3 Ω"),
            (Band(None, 10e3, None), "Ω", "open, above 10 kΩ"),
            (Band(0.2, 0.02, 0.5), "A", "20 mA to 0.50 A"),
        ):
            self.assertEqual(band_said(band, unit), expected)

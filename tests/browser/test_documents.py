"""Opening documents on the screen: good ones come in, bad ones are named and change nothing."""

import json
import re
import tempfile
from pathlib import Path
from xml.etree import ElementTree

from playwright.sync_api import Page, expect

from tests.browser.base import WAIT_MS, BrowserTest
from tests.browser.test_accessibility import VIEWS, Visitor
from tests.core.cars import ROADSTER_FILE, ROOT, document, part, relay_parts, wire

MARKUP = "<img src=x onerror=window.hurt=1>"


class DocumentsTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def choose(self, page: Page, text: str) -> None:
        file = self.folder / "car.json"
        file.write_text(text, encoding="utf-8")
        page.get_by_label("File of a build").set_input_files(file)

    def test_bad_documents_are_refused_on_the_screen(self) -> None:
        page = self.open()
        chase = document(
            [*relay_parts("mini 5-pin"), part("horn", "load", catalogue="Horn")],
            [
                wire(1, "battery.+", "relay.30"),
                wire(2, "relay.87a", "relay.86"),
                wire(3, "relay.85", "battery.-"),
            ],
        )
        good = json.loads(ROADSTER_FILE.read_text(encoding="utf-8"))
        cases = {
            "never settles": json.dumps(chase),
            "versions 1 to 3": json.dumps(good | {"version": 4}),
            "has no battery": json.dumps(good | {"parts": [], "wires": [], "circuits": []}),
            "50.0 MB": "x" * 50_000_000,
        }
        for words, text in cases.items():
            self.choose(page, text)
            expect(page.get_by_role("alert")).to_contain_text(words)
        expect(page.get_by_role("row")).to_have_count(3)

    def test_text_of_a_file_is_never_markup(self) -> None:
        car = json.loads((ROOT / "demo" / "fernhill-half-ton-van.json").read_text())
        car["name"] = f"Van {MARKUP}"
        for name in ("places", "parts", "circuits", "found_circuits", "harness_circuits"):
            for thing in car[name]:
                thing["name"] = f"{thing['name'][:30]} {MARKUP}"
                if "note" in thing:
                    thing["note"] = MARKUP
        for wire_of in car["wires"]:
            wire_of["label"] = f"{wire_of['label']} {MARKUP}"
        page = self.open("")
        self.choose(page, json.dumps(car))
        page.wait_for_url(re.compile(r"/builds/3/"))
        visitor = Visitor(page)
        for name, path in VIEWS.items():
            if path.startswith("builds/"):
                visitor.goes_to(re.sub(r"^builds/[12]", "builds/3", path))
                self.assertEqual(page.locator('img[src="x"]').count(), 0, name)
        self.assertIsNone(page.evaluate("window.hurt ?? null"))
        self.assertIn(MARKUP, page.locator("body").inner_text())
        circuit = car["circuits"][0]["id"]
        for file in (f"circuits/{circuit}/schematic.svg", "overview.svg", "make/board.svg"):
            drawn = self.context.request.get(f"{self.server.address}api/builds/3/{file}").text()
            names = {
                element.tag.rpartition("}")[2] for element in ElementTree.fromstring(drawn).iter()
            }
            self.assertEqual(names & {"img", "script", "b", "foreignObject"}, set(), file)
            self.assertIn("&lt;img", drawn, file)
        for file in ("book", "proofs/sheet", "make/board.pdf", "overview.pdf"):
            answer = self.context.request.get(
                f"{self.server.address}api/builds/3/{file}", timeout=2 * WAIT_MS
            )
            self.assertEqual(answer.body()[:5], b"%PDF-", file)

    def test_a_short_walk_leads_through_every_stage_and_is_left_at_any_time(self) -> None:
        page = self.open("")
        page.get_by_role("button", name="A short walk through Saltmarsh Roadster").click()
        walk = page.get_by_role("region", name="A short walk")
        expect(walk).to_contain_text("1 of 11 · Take stock")
        ahead = walk.get_by_role("button", name="Go on")
        ahead.focus()
        for stop, path in ((2, "lay-out"), (3, "feeds/overview"), (4, "circuits"), (5, "size")):
            page.keyboard.press("Enter")
            expect(walk).to_contain_text(f"{stop} of 11")
            expect(page).to_have_url(re.compile(f"/builds/1/{path}"))
            expect(ahead).to_be_focused()
        page.reload()
        expect(walk).to_contain_text("5 of 11 · Size")
        walk.get_by_role("button", name="Back").click()
        expect(page).to_have_url(re.compile("/builds/1/circuits"))
        walk.get_by_role("button", name="Leave the walk").click()
        expect(walk).to_have_count(0)
        page.reload()
        page.get_by_text("Add a function").first.wait_for()
        expect(walk).to_have_count(0)

    def test_an_exported_build_opens_as_another(self) -> None:
        page = self.open()
        with page.expect_download() as download:
            page.get_by_role("link", name="Design as JSON").first.click()
        text = Path(download.value.path()).read_text(encoding="utf-8")
        self.assertEqual(text, ROADSTER_FILE.read_text(encoding="utf-8"))
        self.choose(page, text.replace("Saltmarsh Roadster", "Marsh copy"))
        expect(page.get_by_role("row").filter(has_text="Radiator fan 400 mm")).to_be_visible()
        page.goto(self.server.address)
        expect(page.get_by_role("link", name="Marsh copy")).to_be_visible()

    def test_an_empty_car_says_what_to_do_first(self) -> None:
        page = self.open()
        self.choose(page, json.dumps(document([], [])))
        expect(page.get_by_text("No loads yet.")).to_be_visible()
        page.get_by_role("link", name="Circuits").click()
        expect(page.get_by_text("No circuits yet.")).to_be_visible()
        page.get_by_role("link", name="Power up").click()
        expect(page.get_by_text("Nothing to power up yet.")).to_be_visible()
        page.get_by_role("link", name="Bench").click()
        expect(page.get_by_text("This car has no switches yet.")).to_be_visible()

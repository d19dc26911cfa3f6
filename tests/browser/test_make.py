"""Make: wires ticked off, reels and drawer said, plugs looked at, changes after cutting."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class MakeTest(BrowserTest):
    cars = ("demo/saltmarsh-roadster.json",)

    def test_a_circuit_is_ticked_off_and_a_wire_that_grows_is_told(self) -> None:
        page = self.open("builds/1/make")
        card = page.get_by_role("link", name=re.compile("^Make"))
        expect(card).to_contain_text("0 of 192 wires cut")
        page.get_by_label("All of Horn ended").check()
        expect(card).to_contain_text(re.compile(r"\d+ of 192 wires cut"))
        first = page.get_by_label(re.compile(r"^W\d+ cut$")).and_(page.locator(":checked")).first
        label = (first.get_attribute("aria-label") or "").split()[0]
        page.get_by_role("button", name=label, exact=True).click()
        expect(page.get_by_text(re.compile(r"for the ends = \d+\.\d\d m, cut at"))).to_be_visible()
        page.reload()
        expect(page.get_by_label(f"{label} ended")).to_be_checked()
        page.get_by_label("Grouped by").select_option("colour")
        expect(page.get_by_label(f"{label} ended")).to_be_checked()
        page.evaluate(
            """async (label) => {
              const build = await (await fetch('/api/builds/1')).json()
              const wire = build.wires.find((row) => row.label === label)
              const fields = { length_m: 9.5 }
              const change = { op: 'change', collection: 'wires', id: wire.id, fields }
              const body = { base: build.revision, label: 'Longer', operations: [change] }
              await fetch('/api/builds/1/edits', { method: 'POST', body: JSON.stringify(body),
                headers: { 'Content-Type': 'application/json' } })
            }""",
            label,
        )
        page.reload()
        told = page.get_by_role("list", name="Cut and changed")
        expect(told).to_contain_text(f"{label} is cut:")
        expect(card).to_contain_text("1 cut and changed")
        told.get_by_role("button", name="Not cut any more").click()
        expect(told).to_have_count(0)

    def test_what_was_done_otherwise_is_what_the_build_is(self) -> None:
        page = self.open("builds/1/make")
        page.get_by_label("W20 cut").check()
        page.get_by_role("button", name="W20", exact=True).click()
        field = page.get_by_label("W20 cut at, m")
        field.fill("long")
        field.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("no length of a wire")
        field.fill("1,2")
        field.press("Tab")
        expect(page.get_by_title("Undo: W20 as built: 1.20 m")).to_be_visible()
        expect(
            page.get_by_role("row").filter(has=page.get_by_label("W20 cut", exact=True))
        ).to_contain_text("1.20")
        expect(page.get_by_label("W20 cut", exact=True)).to_be_checked()
        page.get_by_label("Colour of W20").fill("Pink")
        page.get_by_label("Colour of W20").press("Tab")
        expect(page.get_by_title("Undo: W20 as built: pink")).to_be_visible()
        expect(
            page.get_by_role("row").filter(has=page.get_by_label("W20 cut", exact=True))
        ).to_contain_text("pink")
        expect(page.get_by_role("list", name="Cut and changed")).to_have_count(0)

    def test_labels_are_as_far_apart_and_as_long_as_the_printer_makes_them(self) -> None:
        page = self.open("builds/1/make")
        letters = page.get_by_label("Letters of a label at most")
        letters.fill("many")
        letters.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("no number of letters")
        letters.fill("3")
        letters.press("Enter")
        expect(page.get_by_role("status").filter(has_text="longer than")).to_contain_text("W100")
        every = page.get_by_label("Labels every, m")
        every.fill("0,5")
        every.press("Enter")
        expect(page.get_by_text("saved, revision 2")).to_be_visible()
        page.get_by_role("button", name="W2", exact=True).click()
        expect(page.get_by_role("definition").filter(has_text="one at each end")).to_contain_text(
            re.compile("[1-9][0-9]* between")
        )

    def test_a_reel_at_hand_is_used_first(self) -> None:
        page = self.open("builds/1/make/cuts")
        page.get_by_role("button", name="Add the reel").click()
        expect(page.get_by_role("alert")).to_contain_text("Choose which wire")
        page.get_by_role("combobox", name=re.compile("^Wire")).select_option("0.5 mm² black")
        page.get_by_label("Metres on it").fill("30")
        page.get_by_role("button", name="Add the reel").click()
        row = page.get_by_role("row").filter(has_text="reel-1, at hand 30.00 m")
        expect(row).to_contain_text("0.5 mm² black")
        row.get_by_role("checkbox").check()
        expect(row).to_have_count(0)
        page.get_by_role("button", name="reel-1 used up").click()
        expect(page.get_by_text("None said.")).to_be_visible()

    def test_a_wire_lights_its_way_on_the_board(self) -> None:
        page = self.open("builds/1/make/board")
        drawn = page.get_by_role("group", name="The loom laid flat")
        expect(drawn.get_by_role("button", name=re.compile("^Dash: "))).to_be_visible()
        page.get_by_role("combobox", name=re.compile("^Light")).select_option(index=3)
        chosen = page.get_by_role("complementary", name="What is chosen")
        expect(chosen).to_contain_text("cut at")
        drawn.get_by_role("button", name=re.compile("^Panel shelf to Dash")).press("Enter")
        expect(chosen).to_contain_text(re.compile(r"0\.65 m, \d+ mm over \d+ wires"))
        drawn.get_by_role("button", name=re.compile("^Dash: ")).click()
        expect(chosen).to_contain_text("Light switch")
        chosen.get_by_role("button", name=re.compile(r"^W\d+$")).first.click()
        expect(page.locator(".leg.lit")).not_to_have_count(0)
        page.get_by_role("combobox", name=re.compile("^Wires lie")).select_option("twisted")
        expect(page.get_by_title("Undo: Wires twisted")).to_be_visible()
        drawn.get_by_role("button", name=re.compile("^Panel shelf to Dash")).press("Enter")
        layers = chosen.get_by_role("list", name="Layers from inside out")
        expect(layers).to_contain_text("core, straight")
        expect(layers).to_contain_text("turned right, a turn every")
        with page.expect_download() as download:
            page.get_by_role("link", name="full size on A3").click()
        self.assertEqual(download.value.suggested_filename, "saltmarsh-roadster-board-A3.pdf")

    def test_what_is_in_the_drawer_is_not_bought_and_stages_stand_alone(self) -> None:
        page = self.open("builds/1/make/shopping")
        row = page.get_by_role("row").filter(has_text="blade 6.3 mm for 1 mm²").first
        field = row.get_by_role("textbox").first
        field.fill("some")
        field.press("Tab")
        expect(field).to_have_value("some")
        field.fill("500")
        field.press("Tab")
        expect(row.get_by_role("cell").nth(3)).to_have_text(re.compile(r"^0\s*$"))
        page.get_by_role("button", name="Undo").click()
        expect(row.get_by_role("cell").nth(3)).not_to_have_text(re.compile(r"^0\s*$"))
        price = page.get_by_label(re.compile("^blade 6.3 mm for 1 mm² costs each")).first
        price.fill("0,2")
        price.press("Tab")
        expect(page.get_by_role("status").filter(has_text="Together")).to_contain_text(
            "without a price"
        )
        expect(price).to_have_value("0.20")
        page.get_by_role("link", name="Wires", exact=True).click()
        page.get_by_label("Grouped by").select_option("stage")
        tape = page.get_by_label("Tape of stage 1")
        tape.fill("Silver")
        tape.press("Tab")
        expect(page.get_by_text("Stage 1, silver tape")).to_be_visible()
        page.get_by_role("combobox", name=re.compile("^Stage")).select_option("1")
        page.get_by_role("link", name="Plugs and pins").click()
        page.get_by_label("Show").select_option("Panel")
        expect(page.get_by_role("region", name="Panel", exact=True)).to_contain_text("F1")
        expect(page.get_by_role("region", name="Panel", exact=True)).to_contain_text("mm before it")
        page.get_by_role("link", name="Splices").click()
        joined = page.get_by_role("row").filter(has_text="Behind Light switch, side")
        expect(joined).to_contain_text("blade 6.3 mm, strip 6 mm")
        page.get_by_role("link", name="Fuse chart").click()
        expect(page.get_by_role("row").filter(has_text="Horn").first).to_contain_text("F1")

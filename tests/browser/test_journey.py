"""The journey: a load added, sized with reasons, tried on the bench, measured and passed."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.base import BrowserTest, cell, type_cell


def volts_shown(page: Page) -> float:
    meter = page.get_by_label("Meter 1 shows")
    expect(meter).to_have_text(re.compile(r"^-?\d+\.\d\d V$"))
    return float(meter.inner_text().removesuffix(" V"))


def new_load(page: Page) -> Locator:
    return page.get_by_role("form", name="New load")


class JourneyTest(BrowserTest):
    starts_anew = True

    def test_from_stock_to_proof_and_again_after_a_restart(self) -> None:
        page = self.open()
        page.get_by_role("link", name="Saltmarsh Roadster").click()
        self.add_the_load(page)
        self.read_why(page)
        self.try_it_on_the_bench(page)
        self.prove_it(page)

        self.server.stop()
        self.server.start()
        again = self.open("builds/1/power-up?circuit=rear-fog-lamp", first=True)
        self.assert_proof_is_there(again)
        again.goto(f"{self.server.address}builds/1/stock")
        expect(again.get_by_role("row").filter(has_text="Rear fog lamp")).to_be_visible()

    def add_the_load(self, page: Page) -> None:
        page.locator("#new-load").fill("rear fog")
        expect(new_load(page).get_by_label("What it is")).to_have_value("Rear fog lamp 21 W")
        page.locator("#new-load").fill("Rear fog lamp")
        new_load(page).get_by_label("Where").select_option(label="Rear right lamp")
        new_load(page).get_by_label("Switched by").select_option(label="a new switch")
        new_load(page).get_by_label("Live from").select_option("run")
        new_load(page).get_by_label("Through").select_option("relay")
        expect(page.get_by_text("Oilstone would fit: takes 2.0 A · fuse 3 A")).to_be_visible()
        page.locator("#new-load").press("Enter")
        row = page.get_by_role("row").filter(has_text="Rear fog lamp 21 W")
        expect(row).to_contain_text("3 A")
        expect(row).to_contain_text("F8 Rear fog lamp")
        expect(page.get_by_text("saved, revision 1")).to_be_visible()

    def read_why(self, page: Page) -> None:
        row = page.get_by_role("row").filter(has_text="Rear fog lamp 21 W")
        row.get_by_title("Why this fuse and this wire").click()
        expect(page.get_by_role("heading", name="Rear fog lamp", exact=True)).to_be_visible()
        expect(
            page.get_by_role("heading", name=re.compile(r"Why [\d.]+ mm² for wire"))
        ).to_be_visible()
        expect(
            page.get_by_text(re.compile("smallest that passes all|saves a reel"))
        ).to_be_visible()
        expect(
            page.get_by_role("img", name=re.compile("Fall line of Rear fog lamp"))
        ).to_be_visible()
        page.get_by_role("button", name="Why this size for F8 Rear fog lamp").click()
        expect(page.get_by_text("smallest with headroom")).to_be_visible()
        step = page.get_by_role("row").filter(has_text="F8 Rear fog lamp").last
        step.hover()
        expect(page.locator("figcaption")).to_contain_text("F8 Rear fog lamp")

    def try_it_on_the_bench(self, page: Page) -> None:
        page.get_by_role("link", name="Bench").click()
        page.get_by_role("radio", name="run", exact=True).click()
        expect(page.get_by_text("● LIVE")).to_be_visible()
        page.get_by_role("tab", name="Every load").click()
        lamp = page.get_by_role("row").filter(has_text="Rear fog lamp")
        expect(lamp).to_contain_text("off")
        page.get_by_role("radiogroup", name="Rear fog lamp switch").get_by_role(
            "radio", name="on"
        ).click()
        expect(lamp).to_contain_text("% light")
        page.get_by_role("row").get_by_role("button", name="Rear fog lamp", exact=True).click()
        self.assertAlmostEqual(volts_shown(page), 12.0, delta=0.4)
        black = page.get_by_label("black of Meter 1", exact=True)
        black.fill("nowhere")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Nothing is called “nowhere”.")).to_be_visible()
        black.fill("battery · -")
        page.keyboard.press("Enter")
        expect(black).to_have_value("Battery · -")
        expect(page.get_by_label("Meter 1 shows")).to_contain_text("V")
        page.goto(f"{self.server.address}builds/1/circuits/rear-fog-lamp")
        expect(page.get_by_text("thick: live on the bench")).to_be_visible()
        page.get_by_role("link", name="Take stock").click()
        now = page.get_by_role("row").filter(has_text="Rear fog lamp 21 W").locator("td.live")
        self.assertAlmostEqual(float(now.inner_text()), 1.86, delta=0.1)

    def prove_it(self, page: Page) -> None:
        page.get_by_role("link", name="Power up").click()
        page.get_by_label("Circuit", exact=True).select_option(label="Rear fog lamp")
        page.get_by_role("link", name="Rear fog lamp: Key to run").first.click()
        expect(page.get_by_text("Key to run", exact=True)).to_be_visible()
        expect(page.get_by_text("Rear fog lamp switch to on", exact=True)).to_be_visible()
        expect(page.get_by_text("Lamps and their holders get hot.")).to_be_visible()
        page.get_by_label("Volts at Rear fog lamp").fill("12,21")
        page.get_by_label("Amps of Rear fog lamp").fill("1850 mA")
        expect(page.get_by_text("in band")).to_have_count(2)
        page.reload()
        expect(page.get_by_label("Volts at Rear fog lamp")).to_have_value("12,21")
        page.get_by_role("button", name="Passed").click()
        page.get_by_role("button", name="Step before").click()
        self.assert_proof_is_there(page)

    def assert_proof_is_there(self, page: Page) -> None:
        page.get_by_role("link", name="Rear fog lamp: Key to run").first.click()
        record = page.get_by_role("region", name="Record of proof")
        expect(record).to_contain_text("passed")
        expect(record).to_contain_text("12,21 V, in band")
        expect(record).to_contain_text("1850 mA, in band")
        expect(record.locator("time")).to_contain_text(re.compile(r"20\d\d"))
        card = page.get_by_role("navigation", name="Route card")
        expect(card.get_by_role("link", name=re.compile("Power up"))).to_contain_text("1 of")


class ChangesTest(BrowserTest):
    def test_edit_in_place_undo_redo_and_a_mend(self) -> None:
        page = self.open("builds/1/stock")
        type_cell(page, "Horn, name", "Two-tone horn")
        expect(cell(page, "Two-tone horn, name")).to_be_visible()
        type_cell(page, "5 A, Rated of Two-tone horn", "eleven")
        expect(page.get_by_role("alert")).to_contain_text("“eleven”: watts or amps, like 55 W")
        expect(cell(page, "eleven, Rated of Two-tone horn")).to_have_class(re.compile("wrong"))
        type_cell(page, "eleven, Rated of Two-tone horn", "9,5 A")
        expect(cell(page, "9.5 A, Rated of Two-tone horn")).to_be_visible()
        expect(page.get_by_text("saved, revision 2")).to_be_visible()
        page.get_by_role("button", name="More of Power socket").click()
        page.get_by_role("button", name="Remove Power socket").click()
        expect(cell(page, "Power socket, name")).to_have_count(0)
        for revision in (4, 5, 6):
            page.get_by_role("button", name="Undo").click()
            expect(page.get_by_text(f"saved, revision {revision}")).to_be_visible()
        expect(page.get_by_role("button", name="Undo")).to_be_disabled()
        expect(cell(page, "Horn, name")).to_be_visible()
        expect(cell(page, "Power socket, name")).to_have_count(1)
        page.keyboard.press("Control+Shift+z")
        expect(cell(page, "Two-tone horn, name")).to_be_visible()

        page.get_by_role("button", name="Findings").click()
        blower = page.get_by_role("article").filter(has_text="Blower switch carries more")
        blower.get_by_role("button", name="What else changes?").click()
        expect(blower).to_contain_text("fewer to look at")
        blower.get_by_role("button", name="Put Heater blower through a relay").click()
        expect(blower).to_have_count(0)
        row = page.get_by_role("row").filter(has_text="Heater blower full")
        expect(row).to_contain_text("relay")

    def test_a_new_switch_taken_back_while_it_is_on_leaves_the_bench_sound(self) -> None:
        page = self.open("builds/1/stock")
        page.locator("#new-load").fill("Courtesy lamp 5 W")
        new_load(page).get_by_label("Where").select_option(label="Dash")
        new_load(page).get_by_label("Switched by").select_option(label="a new switch")
        expect(page.get_by_text("Oilstone would fit")).to_be_visible()
        page.locator("#new-load").press("Enter")
        type_cell(page, "direct, Through of Courtesy lamp 5 W", "relay")
        expect(cell(page, "relay, Through of Courtesy lamp 5 W")).to_be_visible()
        page.get_by_role("link", name="Bench").click()
        switch = page.get_by_role("radiogroup", name="Courtesy lamp 5 W switch")
        switch.get_by_role("radio", name="on").click()
        page.get_by_role("tab", name="Every load").click()
        row = page.get_by_role("row").filter(has_text="Courtesy lamp 5 W")
        row.get_by_role("button").click()
        expect(page.get_by_text("● LIVE")).to_be_visible()
        for _ in range(2):
            page.keyboard.press("Control+z")
        expect(page.get_by_text("saved, revision 4")).to_be_visible()
        expect(switch).to_have_count(0)
        expect(page.get_by_text("○ dead")).to_be_visible()
        page.get_by_role("tab", name="What happened").click()
        expect(page.get_by_text("It starts again from off")).to_be_visible()
        expect(page.get_by_label("red of Meter 1", exact=True)).to_have_value("")

    def test_a_lamp_beside_another_moved_by_keys(self) -> None:
        page = self.open("builds/1/stock")
        page.locator("#new-load").fill("High stop lamp LED")
        new_load(page).get_by_label("Where").select_option(label="Tail, middle")
        new_load(page).get_by_label("Through").select_option(label="Stop lamps")
        expect(page.get_by_text("Oilstone would fit")).to_be_visible()
        page.locator("#new-load").press("Enter")
        row = page.get_by_role("row").filter(has_text="High stop lamp LED")
        expect(row).to_contain_text("Brake pedal")
        expect(row).to_contain_text("F1 horn, stop, interior")
        where = cell(page, "Tail, middle, Where of High stop lamp LED")
        where.click()
        page.keyboard.press("F2")
        field = page.get_by_role("grid").get_by_role("combobox", name="Where", exact=True)
        field.fill("Luggage")
        field.press("Escape")
        expect(page.get_by_role("grid")).to_be_focused()
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        page.keyboard.press("Enter")
        field.fill("luggage space")
        field.press("Enter")
        expect(row).to_contain_text("Luggage space")
        expect(page.get_by_text("saved, revision 2")).to_be_visible()

    def test_a_refusal_keeps_what_was_typed(self) -> None:
        page = self.open("builds/1/stock")
        page.locator("#new-load").fill("Seat heater")
        new_load(page).get_by_label("Where").select_option(label="Tunnel, behind the lever")
        new_load(page).get_by_label("Live from").select_option("accessory")
        expect(page.get_by_text("No free way is live from accessory")).to_be_visible()
        page.get_by_role("button", name="Add load").click()
        expect(page.get_by_role("alert")).to_contain_text("Share one of F5 power socket")
        expect(page.locator("#new-load")).to_have_value("Seat heater")
        new_load(page).get_by_label("Behind fuse").select_option(label="share F5 power socket")
        expect(page.get_by_text("Oilstone would fit")).to_be_visible()
        page.reload()
        expect(page.locator("#new-load")).to_have_value("Seat heater")


class KeyboardTest(BrowserTest):
    def test_the_journey_by_keys_alone(self) -> None:
        page = self.open("builds/1/circuits")
        page.get_by_role("heading", level=1).first.wait_for()
        page.keyboard.press("n")
        expect(page.locator("#new-load")).to_be_focused()
        page.keyboard.type("k1b Courtesy lamp 5 W")
        expect(page.get_by_role("radio", name="off", exact=True).first).to_be_checked()
        page.keyboard.press("Alt+Digit8")
        expect(page.get_by_role("heading", level=1)).to_contain_text("end to end")
        page.keyboard.press("k")
        page.keyboard.press("2")
        expect(page.get_by_text("● LIVE")).to_be_visible()
        page.keyboard.press("b")
        expect(page.get_by_role("heading", name="Meter 1")).to_be_visible()
        page.keyboard.press("f")
        expect(page.get_by_role("article").first).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("Ctrl + Shift + Z")
        page.keyboard.press("Escape")
        page.go_back()
        expect(page.get_by_role("heading", level=1)).to_contain_text("end to end")

    def test_every_line_of_the_route_card_leads_to_its_view(self) -> None:
        page = self.open("builds/1/stock")
        card = page.get_by_role("navigation", name="Route card")
        expect(card.get_by_role("link")).to_have_count(10)
        for number in range(10):
            line = card.get_by_role("link").nth(number)
            line.click()
            expect(line).to_have_attribute("aria-current", "page")
            expect(page.get_by_role("main").first).not_to_be_empty()
            expect(card).not_to_contain_text("not there yet")
        expect(page.get_by_role("heading", name="Hand over")).to_be_visible()

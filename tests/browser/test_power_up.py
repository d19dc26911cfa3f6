"""Power up as a builder does it: on a laptop, and on a phone that loses the laptop."""

import io
import re

from playwright.sync_api import BrowserContext, Locator, Page, expect
from pypdf import PdfReader

from tests.browser.base import BrowserTest

ROADSTER = ("demo/saltmarsh-roadster.json",)


def choose(page: Page, circuit: str, step: str) -> None:
    """Go to a step of a circuit."""
    page.get_by_label("Circuit", exact=True).select_option(label=circuit)
    page.get_by_role("link", name=re.compile(re.escape(step))).first.click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(step)


class LoomTest(BrowserTest):
    """The loom and the dash of the coupé on the bench, before they go in."""

    cars = ("demo/quarrel-hill-rally-coupe.json",)

    def how_far(self, page: Page) -> Locator:
        return page.get_by_role("status", name="How far")

    def test_a_loom_is_proved_pin_by_pin_and_an_open_pin_is_found_and_mended(self) -> None:
        page = self.open("builds/1/power-up")
        choose(page, "Instrument cluster", "Instrument cluster plug: 4 wires, end to end")
        expect(page.get_by_text("from Instrument cluster plug, terminal fuel")).to_be_visible()
        ohms = page.get_by_label(re.compile("^W[0-9]+, .*, in Ω$"))
        expect(ohms).to_have_count(4)
        for row in range(3):
            ohms.nth(row).fill("0,2")
        page.get_by_title("The meter shows that it is open").last.click()
        expect(page.get_by_text("Open: a pin not crimped")).to_be_visible()
        page.get_by_role("button", name="Not right").click()
        expect(self.how_far(page)).to_contain_text("1 not right")
        for row in range(4):
            ohms.nth(row).fill("200 mΩ")
        page.get_by_role("button", name="Passed").click()
        expect(self.how_far(page)).to_contain_text(re.compile(r"1 of \d+ passed"))
        expect(self.how_far(page)).not_to_contain_text("not right")

    def test_the_dash_on_the_bench_with_a_resistor_in_place_of_a_sender(self) -> None:
        page = self.open("builds/1/power-up")
        choose(page, "Instrument cluster", "Fuel gauge on the bench")
        caution = page.get_by_role("note", name="Cautions")
        expect(caution).to_contain_text("The sender in the tank stays unplugged")
        page.get_by_label("Amps with 10 Ω").fill("60 mA")
        expect(page.get_by_text("too low by")).to_contain_text("Open")
        page.get_by_label("What Fuel gauge with 10 Ω does").select_option("dead")
        page.get_by_role("button", name="Not right").click()
        record = page.get_by_role("region", name="Record of proof")
        expect(record).to_contain_text("Fuel gauge with 10 Ω: dead")
        page.get_by_label("Amps with 10 Ω").fill("0,13")
        page.get_by_label("Amps with 180 Ω").fill("48 mA")
        page.get_by_role("button", name="Passed").click()
        expect(self.how_far(page)).to_contain_text(re.compile(r"1 of \d+ passed"))


class PowerUpTest(BrowserTest):
    cars = ROADSTER

    def test_a_step_fails_is_mended_passes_and_is_asked_for_again_after_an_edit(self) -> None:
        page = self.open("builds/1/power-up")
        choose(page, "Stop lamps", "Stop lamps: Brake pedal to pressed")
        page.get_by_label("Volts at Stop lamp left").fill("9.1")
        expect(page.get_by_text("too low by")).to_contain_text("F1 horn")
        page.get_by_label("What Stop lamp left does").select_option("dim")
        page.get_by_role("button", name="Not right").click()
        record = page.get_by_role("region", name="Record of proof")
        expect(record).to_contain_text("■ not right")
        expect(record).to_contain_text("Stop lamp left: dim")
        expect(page.get_by_role("status", name="How far")).to_contain_text("1 not right")
        page.get_by_label("Volts at Stop lamp left").fill("12.2")
        page.get_by_role("button", name="Passed").click()
        expect(page.get_by_role("status", name="How far")).to_contain_text("1 of 245 passed")
        page.goto(f"{self.server.address}builds/1/stock")
        page.get_by_role("gridcell", name=re.compile("Rated of Stop lamp left")).click()
        page.keyboard.type("24 W")
        page.keyboard.press("Enter")
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        card = page.get_by_role("navigation", name="Route card")
        expect(card.get_by_role("link", name=re.compile("Power up"))).to_contain_text("1 again")
        page.goto(f"{self.server.address}builds/1/power-up?circuit=stop-lamp-left&left=yes")
        page.get_by_role("link", name="Stop lamps: Brake pedal to pressed").click()
        expect(page.get_by_text("Prove it again").first).to_contain_text("Stop lamp left")

    def test_what_is_not_there_waits_a_jumper_stands_in_and_the_battery_narrows_bands(self) -> None:
        page = self.open("builds/1/power-up")
        choose(page, "Stop lamps", "Stop lamps: Brake pedal to pressed")
        page.get_by_role("button", name="Car today").click()
        sheet = page.get_by_role("complementary", name="The car today")
        sheet.get_by_label("Battery at rest").fill("loud")
        sheet.get_by_role("button", name="Use it").click()
        expect(sheet.get_by_role("alert")).to_contain_text("volts, like 12.3")
        expect(sheet.get_by_label("Battery at rest")).to_have_value("loud")
        sheet.get_by_label("Battery at rest").fill("12,41")
        sheet.get_by_role("button", name="Use it").click()
        expect(page.get_by_role("button", name="12.41 V today")).to_be_visible()
        sheet.get_by_label("Name one that is not there").fill("brake pedal")
        sheet.get_by_role("button", name="Not there yet").click()
        expect(page.get_by_text("Waits for Brake pedal, not there yet: no fault.")).to_be_visible()
        sheet.get_by_label("a jumper stands in").select_option("pressed")
        expect(page.get_by_text("Jumper across Brake pedal, as pressed")).to_be_visible()
        expect(page.get_by_text("Waits for Brake pedal")).to_have_count(0)
        expect(sheet.get_by_text("out again before you drive")).to_be_visible()
        page.reload()
        expect(page.get_by_role("button", name="12.41 V today, 1 missing")).to_be_visible()

    def test_a_sheet_is_printed_and_typed_back_by_keyboard_alone(self) -> None:
        page = self.open("builds/1/power-up?circuit=horn")
        printed = page.get_by_role("link", name="Print the sheet").get_attribute("href")
        answer = page.request.get(f"{self.server.address.rstrip('/')}{printed}")
        pages = PdfReader(io.BytesIO(answer.body())).pages
        sheet = " ".join(page.extract_text() for page in pages)
        asked = re.search(r"(\d+)\s+Horn: Horn push to pressed", sheet)
        assert asked is not None
        page.get_by_role("link", name="Type in a sheet").click()
        line = page.get_by_label("Step and what was read")
        expect(line).to_be_focused()
        page.keyboard.press("Control+A")
        page.keyboard.type(f"{asked[1]} 12,3 loud")
        expect(page.get_by_role("alert")).to_contain_text("“loud” at")
        page.reload()
        expect(line).to_have_value(f"{asked[1]} 12,3 loud")
        line.press("End")
        for _ in "loud":
            page.keyboard.press("Backspace")
        expect(page.get_by_role("heading", level=2, name="Horn push to pressed")).to_be_visible()
        page.keyboard.type("no dim, hums")
        page.keyboard.press("Enter")
        expect(line).to_have_value(f"{int(asked[1]) + 1} ")
        expect(page.get_by_role("status", name="How far")).to_contain_text("1 not right")
        page.get_by_role("list", name="Typed in").get_by_role("link").click()
        record = page.get_by_role("region", name="Record of proof")
        expect(record).to_contain_text("12,3 V, in band")
        expect(record).to_contain_text("Horn: dim")
        expect(record).to_contain_text("hums")

    def phone(self) -> tuple[BrowserContext, Page]:
        context = self.browser.new_context(
            viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(f"{self.server.address}builds/1/power-up?circuit=horn")
        page.get_by_role("button", name="I have read this").click()
        return context, page

    def test_a_phone_in_the_footwell_beside_a_laptop(self) -> None:
        laptop = self.open("builds/1/power-up?circuit=horn")
        _, phone = self.phone()
        phone.get_by_role("button", name="All steps").click()
        phone.get_by_role("link", name="Horn: Horn push to pressed").click()
        wide = phone.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        box = phone.get_by_role("button", name="Passed").bounding_box()
        assert box is not None
        self.assertGreaterEqual(box["height"], 44)
        self.assertLessEqual(box["y"] + box["height"], 844)
        phone.get_by_label("Volts at Horn").fill("12.3")
        phone.get_by_role("button", name="Passed").click()
        laptop.get_by_role("link", name="Horn: Horn push to pressed").click()
        laptop.reload()
        expect(laptop.get_by_role("region", name="Record of proof")).to_contain_text("12.3 V")

    def test_what_is_recorded_while_the_laptop_is_away_is_sent_when_it_is_back(self) -> None:
        _, phone = self.phone()
        phone.get_by_role("button", name="All steps").click()
        phone.get_by_role("link", name="Horn: Horn push to pressed").click()
        phone.get_by_label("Volts at Horn").fill("12.2")
        self.server.stop()
        phone.get_by_role("button", name="Passed").click()
        expect(phone.get_by_text("1 not sent yet, kept here")).to_be_visible()
        self.server.start(port=self.server.address.rstrip("/").rpartition(":")[2])
        expect(phone.get_by_text("1 not sent yet, kept here")).to_have_count(0)
        record = phone.get_by_role("region", name="Record of proof")
        phone.goto(f"{self.server.address}builds/1/power-up?circuit=horn")
        phone.get_by_role("button", name="All steps").click()
        phone.get_by_role("link", name="Horn: Horn push to pressed").click()
        expect(record).to_contain_text("12.2 V, in band")
        expect(record.get_by_role("listitem")).to_have_count(1)

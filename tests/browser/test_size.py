"""Size: the rules behind every size, what if, findings mended and lived with, time and current."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class SizeTest(BrowserTest):
    def test_a_school_a_limit_and_a_reel_are_changed_and_undone(self) -> None:
        page = self.open("builds/1/size")
        page.get_by_label("headlamp filament, V").fill("0,8")
        page.get_by_label("headlamp filament, V").press("Tab")
        expect(page.get_by_title("Undo: A headlamp filament may lose 0.8 V")).to_be_visible()
        expect(page.get_by_label("headlamp filament, V")).to_have_value("0.80")
        page.get_by_label("School of drop").select_option("flat")
        expect(page.get_by_label("every load, V")).to_have_value("0.5")
        page.reload()
        expect(page.get_by_label("School of drop")).to_have_value("flat")
        page.get_by_label("4 mm² on the shelf").uncheck()
        expect(page.get_by_title("Undo: Take 4 mm² off the shelf")).to_be_visible()
        row = page.get_by_role("region", name="Reels").get_by_role("row")
        expect(row.filter(has=page.get_by_label("4 mm² on the shelf", exact=True))).to_have_count(1)
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_label("4 mm² on the shelf", exact=True)).to_be_checked()

    def test_what_is_on_in_a_road_state(self) -> None:
        page = self.open("builds/1/size")
        cell = page.get_by_label("Horn, night", exact=True)
        expect(cell).not_to_be_checked()
        cell.check()
        expect(page.get_by_title("Undo: Horn on: night")).to_be_visible()
        page.get_by_role("button", name="as usual").click()
        expect(cell).not_to_be_checked()

    def test_what_if_is_asked_and_done(self) -> None:
        page = self.open("builds/1/size")
        form = page.get_by_role("region", name="What if?")
        form.get_by_label("Question").select_option("a load takes")
        form.get_by_label("Load").select_option(value="radiator-fan")
        form.get_by_role("button", name="What would change?").click()
        expect(form.get_by_role("alert")).to_contain_text("Say how many amps")
        form.get_by_label("Amps").fill("11")
        form.get_by_role("button", name="What would change?").click()
        answer = form.get_by_role("status")
        expect(answer).to_contain_text("Radiator fan takes 11 A")
        expect(answer).to_contain_text(re.compile(r"copper \d\.\d → \d\.\d kg"))
        expect(page.get_by_title(re.compile("Undo: Radiator fan"))).to_have_count(0)
        form.get_by_role("button", name="Do it").click()
        expect(page.get_by_title("Undo: Radiator fan takes 11 A")).to_be_visible()


class FindingsTest(BrowserTest):
    def test_a_finding_is_previewed_mended_lived_with_and_open_again(self) -> None:
        page = self.open("builds/1/circuits/main-feed")
        note = page.get_by_role("article").filter(has_text="Feed stud holds too many rings")
        note.get_by_role("button", name="What else changes?").click()
        expect(note.get_by_role("status")).to_contain_text("fewer to look at")
        note.get_by_role("button", name="Live with it…").click()
        note.get_by_label("Why you live with it").fill("two rings share a terminal")
        note.get_by_role("button", name="Keep the reason").click()
        expect(note).to_contain_text("You live with it: two rings share a terminal")
        page.reload()
        expect(note).to_contain_text("You live with it")
        note.get_by_role("button", name="Look again").click()
        note.get_by_role("button", name="Fit a bus bar beside Feed stud").click()
        expect(note).to_have_count(0)

    def test_all_that_are_safe_are_mended_as_one_edit(self) -> None:
        page = self.open("builds/1/circuits")
        page.get_by_role("button", name=re.compile("^Findings")).click()
        page.get_by_role("button", name="Mend all that are safe").click()
        undo = page.get_by_title(re.compile(r"Undo: Mend \d+ findings"))
        expect(undo).to_be_visible(timeout=120_000)
        tray = page.get_by_role("region", name="Findings")
        expect(tray.get_by_text("holds too many rings")).to_have_count(0)
        undo.click()
        expect(tray.get_by_text("Feed stud holds too many rings")).to_be_visible()

    def test_the_worst_point_of_time_and_current_is_read(self) -> None:
        page = self.open("builds/1/circuits/radiator-fan")
        page.get_by_role("tab", name="Time and heat").click()
        expect(
            page.get_by_role("img", name=re.compile("Time and current of Fan fuse"))
        ).to_be_visible()
        expect(
            page.get_by_text(re.compile("Worst point: wire W77, 1.5 mm², bears"))
        ).to_be_visible()
        expect(page.get_by_text(re.compile("at its limit before the fuse parts"))).to_be_visible()

    def test_the_fall_line_is_drawn_in_another_road_state(self) -> None:
        page = self.open("builds/1/circuits/fuel-pump")
        page.get_by_label("Road state").select_option("day")
        expect(page.get_by_text(re.compile("^key run"))).to_be_visible()
        page.get_by_label("Road state").select_option("")
        expect(page.get_by_text(re.compile("night and rain · key run"))).to_be_visible()

    def test_how_warm_a_wire_gets_is_drawn_and_an_overload_is_set(self) -> None:
        page = self.open("builds/1/circuits/radiator-fan")
        page.get_by_role("tab", name="Time and heat").click()
        region = page.get_by_role("region", name="How warm a wire gets")
        expect(
            region.get_by_role("img", name=re.compile("Temperature along wire W77"))
        ).to_be_visible()
        said = region.get_by_role("status")
        expect(said).to_contain_text("too late")
        region.get_by_label("Wire whose temperature").select_option(label="W74")
        expect(
            region.get_by_role("img", name=re.compile("in time.*W74|wire W74 in time"))
        ).to_be_visible()
        expect(said).to_contain_text("in time")
        before = said.inner_text()
        slider = region.get_by_label("Overload")
        slider.focus()
        for _ in range(30):
            slider.press("ArrowRight")
        expect(said).not_to_have_text(before)

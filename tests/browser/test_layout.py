"""Laying out: places moved and joined, the battery moved in thought and then for real."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class LayoutTest(BrowserTest):
    def test_the_battery_moved_with_its_before_and_after(self) -> None:
        page = self.open("builds/1/lay-out")
        page.get_by_role("tab", name="Where to put it").click()
        page.get_by_label("Where to").select_option(label="Panel shelf")
        copper = page.get_by_role("row").filter(has_text="Copper, kg").get_by_role("cell")
        expect(copper).to_have_count(2)
        before, after = (float(text) for text in copper.all_inner_texts())
        self.assertLessEqual(after, before)
        expect(page.get_by_text("saved, revision 0")).to_be_visible()
        page.get_by_role("button", name="Move Battery there").click()
        expect(page.get_by_text("It is at Panel shelf")).to_be_visible()
        expect(page.get_by_text(f"{after:.2f} kg copper")).to_be_visible()
        place = page.get_by_role("button", name=re.compile("^Panel shelf, waist"))
        expect(place).to_contain_text("battery")

    def test_a_place_moved_by_keys_keeps_its_lengths_and_a_run_is_typed(self) -> None:
        page = self.open("builds/1/lay-out")
        run = page.get_by_role("row").filter(has_text="Luggage space – Fuel tank")
        expect(run).to_contain_text("0.54")
        tank = page.get_by_role("button", name=re.compile("^Fuel tank"))
        tank.focus()
        page.keyboard.press("ArrowUp")
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        expect(run).to_contain_text("0.56")
        expect(run).to_contain_text("0.65")
        run.get_by_role("button", name="0.65, length").click()
        page.get_by_label("length", exact=True).fill("9 ft 2")
        page.get_by_label("length", exact=True).press("Enter")
        expect(run).to_contain_text("2.794")
        expect(run).to_contain_text("▲")
        page.get_by_role("button", name="Findings").click()
        expect(page.get_by_role("article").filter(has_text="far from the plan")).to_be_visible()

    def test_a_place_opens_with_what_it_holds(self) -> None:
        page = self.open("builds/2/lay-out")
        plan = page.get_by_role("group", name=re.compile("^Plan of the car"))
        expect(plan).not_to_contain_text("Stop lamp left")
        page.get_by_role("button", name=re.compile("^Rear left lamp, waist")).press("Enter")
        expect(plan).to_contain_text("Stop lamp left")
        here = page.get_by_role("region", name="At Rear left lamp")
        expect(here.get_by_role("heading", name="load 5")).to_be_visible()
        here.get_by_role("link", name="Stop lamp left").click()
        expect(page.get_by_role("heading", name="Stop lamps")).to_be_visible()

    def test_two_places_joined_by_keys_and_a_wire_pinned_that_way(self) -> None:
        page = self.open("builds/1/lay-out")
        page.get_by_role("button", name=re.compile("^Dash, waist")).focus()
        page.keyboard.press("j")
        expect(page.get_by_text("From Dash to…?")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Tunnel, behind the lever, waist")).focus()
        page.keyboard.press("Enter")
        detail = page.get_by_role("region", name="Dash – Tunnel, behind the lever")
        expect(detail).to_contain_text("guessed from the plan")
        page.get_by_role("tab", name="Wires").click()
        page.get_by_role("button", name="W61", exact=True).click()
        page.get_by_label("Lead it along").select_option(label="Dash – Tunnel, behind the lever")
        page.get_by_role("button", name="Pin this way").click()
        expect(page.get_by_text("Pinned by you.")).to_be_visible()
        expect(page.locator("g.run.lit")).to_have_count(2)
        page.get_by_role("button", name="Shortest way again").click()
        expect(page.locator("g.run.lit")).to_have_count(1)

    def test_a_run_to_itself_and_a_twin_are_refused_in_words(self) -> None:
        page = self.open("builds/1/lay-out")
        for first, last, words in (
            ("Dash", "Dash", "starts and ends at the same place"),
            ("Dash", "Panel shelf", "Two runs lead from"),
        ):
            page.get_by_label("From", exact=True).select_option(label=first)
            page.get_by_label("To", exact=True).select_option(label=last)
            page.get_by_role("button", name="Add the run").click()
            expect(page.get_by_role("alert")).to_contain_text(words)
        expect(page.get_by_text("saved, revision 0")).to_be_visible()

    def test_a_place_added_and_taken_out_and_what_a_run_passes(self) -> None:
        page = self.open("builds/1/lay-out")
        page.get_by_role("tab", name="Places").click()
        page.get_by_label("New place", exact=True).fill("Roll bar")
        page.get_by_label("Zone of the new place").select_option("exterior")
        page.keyboard.press("Tab")
        page.get_by_role("button", name="Add the place").click()
        row = page.get_by_role("row").filter(has_text="Roll bar")
        row.get_by_role("button", name="waist, level").click()
        page.get_by_role("combobox", name="level", exact=True).select_option("roof")
        expect(page.get_by_role("button", name=re.compile("^Roll bar, roof"))).to_be_visible()
        row.get_by_role("button", name="Remove Roll bar").click()
        expect(row).to_have_count(0)

        page.get_by_role("tab", name="Runs").click()
        page.get_by_role("button", name="Panel shelf – Dash", exact=True).click()
        detail = page.get_by_role("region", name="Panel shelf – Dash")
        detail.get_by_label("hot part").check()
        page.get_by_role("button", name="Findings").click()
        hot = page.get_by_role("article").filter(has_text="passes a hot part unsleeved")
        hot.get_by_role("button", name="Sleeve it").click()
        expect(hot).to_have_count(0)
        expect(detail).to_contain_text("convoluted tube")

    def test_the_outline_of_the_car_and_the_ends_of_wires(self) -> None:
        page = self.open("builds/1/lay-out")
        page.get_by_role("tab", name="Car").click()
        for name, typed, words in (
            ("Length, m", "long", "is no number"),
            ("Nose to rear axle, m", "9", "do not fit a car of 3.6 m"),
        ):
            page.get_by_role("button", name=re.compile(f"{name}$")).click()
            field = page.get_by_role("textbox", name=name)
            field.fill(typed)
            field.press("Enter")
            expect(page.get_by_role("alert")).to_contain_text(words)
            field.press("Escape")
        total = page.locator(".head .quiet")
        expect(total).to_contain_text("103.8 m of wire")
        page.get_by_role("button", name="empty, extra at a panel").click()
        page.get_by_role("textbox", name="extra at a panel").fill("60")
        page.keyboard.press("Enter")
        expect(total).not_to_contain_text("103.8 m of wire")

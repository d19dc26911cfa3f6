"""Two tabs on one build: the second is told what happened, and loses nothing."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest, cell, type_cell


class TwoTabsTest(BrowserTest):
    def test_a_conflict_is_shown_and_the_change_made_again(self) -> None:
        first = self.open("builds/1/stock")
        second = self.open("builds/1/stock", first=False)
        cell(second, "Horn, name").click()
        type_cell(first, "Fuel pump, name", "Main pump")
        expect(cell(first, "Main pump, name")).to_be_visible()
        expect(first.get_by_text("saved, revision 1")).to_be_visible()

        second.keyboard.type("Klaxon")
        second.keyboard.press("Enter")
        alert = second.get_by_role("alert")
        expect(alert).to_contain_text("Changed in another window meanwhile")
        expect(alert).to_contain_text("“Name of Fuel pump”")
        expect(cell(second, "Klaxon, name")).to_have_class(re.compile("wrong"))
        expect(cell(second, "Main pump, name")).to_be_visible()

        alert.get_by_role("button", name="Make my change to it").click()
        expect(alert).to_have_count(0)
        expect(cell(second, "Klaxon, name")).not_to_have_class(re.compile("wrong"))
        first.reload()
        expect(cell(first, "Klaxon, name")).to_be_visible()
        expect(cell(first, "Main pump, name")).to_be_visible()

    def test_a_new_load_survives_a_conflict(self) -> None:
        first = self.open("builds/1/stock")
        second = self.open("builds/1/stock", first=False)
        second.locator("#new-load").fill("Courtesy lamp 5 W")
        second.get_by_role("form", name="New load").get_by_label("Where").select_option(
            label="Dash"
        )
        expect(second.get_by_text("Oilstone would fit")).to_be_visible()
        type_cell(first, "Horn, name", "Hooter")
        expect(cell(first, "Hooter, name")).to_be_visible()
        expect(first.get_by_text("saved, revision 1")).to_be_visible()
        second.get_by_role("button", name="Add load").click()
        expect(second.get_by_role("alert")).to_contain_text("“Name of Horn”")
        expect(second.locator("#new-load")).to_have_value("Courtesy lamp 5 W")
        second.get_by_role("button", name="Make my change to it").click()
        expect(cell(second, "Courtesy lamp 5 W, name")).to_be_visible()
        expect(second.locator("#new-load")).to_have_value("")

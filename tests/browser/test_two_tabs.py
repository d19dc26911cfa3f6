"""Two tabs on one build: the second is told what happened, and loses nothing."""

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest


def type_name(page: Page, now: str, name: str) -> None:
    page.get_by_role("button", name=f"{now}, name").click()
    page.get_by_role("textbox", name="name", exact=True).fill(name)
    page.keyboard.press("Enter")


class TwoTabsTest(BrowserTest):
    def test_a_conflict_is_shown_and_the_change_made_again(self) -> None:
        first = self.open("builds/1/stock")
        second = self.open("builds/1/stock", first=False)
        second.get_by_role("button", name="Horn, name").click()
        field = second.get_by_role("textbox", name="name", exact=True)
        field.fill("Klaxon")

        type_name(first, "Fuel pump", "Main pump")
        expect(first.get_by_role("button", name="Main pump, name")).to_be_visible()

        field.press("Enter")
        alert = second.get_by_role("alert")
        expect(alert).to_contain_text("Changed in another window meanwhile")
        expect(alert).to_contain_text("“Rename Fuel pump to Main pump”")
        expect(field).to_have_value("Klaxon")
        expect(second.get_by_role("button", name="Main pump, name")).to_be_visible()

        alert.get_by_role("button", name="Make my change to it").click()
        expect(second.get_by_role("button", name="Klaxon, name")).to_be_visible()
        expect(alert).to_have_count(0)
        first.reload()
        expect(first.get_by_role("button", name="Klaxon, name")).to_be_visible()
        expect(first.get_by_role("button", name="Main pump, name")).to_be_visible()

    def test_a_new_load_survives_a_conflict(self) -> None:
        first = self.open("builds/1/stock")
        second = self.open("builds/1/stock", first=False)
        second.locator("#new-load").fill("Courtesy lamp 5 W")
        second.get_by_role("form", name="New load").get_by_label("Where").select_option(
            label="Dash"
        )
        type_name(first, "Horn", "Hooter")
        expect(first.get_by_role("button", name="Hooter, name")).to_be_visible()
        second.get_by_role("button", name="Add load").click()
        expect(second.get_by_role("alert")).to_contain_text("“Rename Horn to Hooter”")
        expect(second.locator("#new-load")).to_have_value("Courtesy lamp 5 W")
        second.get_by_role("button", name="Make my change to it").click()
        expect(second.get_by_role("button", name="Courtesy lamp 5 W, name")).to_be_visible()
        expect(second.locator("#new-load")).to_have_value("")

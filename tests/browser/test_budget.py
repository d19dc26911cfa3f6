"""Budget: scenarios compared, a load shed, a figure measured, an alternator fitted."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.base import BrowserTest


def scenario(page: Page, name: str) -> Locator:
    """The line of a scenario."""
    return (
        page.get_by_role("region", name="Scenarios")
        .get_by_role("row")
        .filter(has=page.get_by_role("button", name=name, exact=True))
    )


class BudgetTest(BrowserTest):
    cars = ("demo/saltmarsh-roadster.json",)

    def test_two_scenarios_are_compared_and_a_load_is_shed(self) -> None:
        page = self.open("builds/1/budget")
        page.get_by_label("Night and rain, in town side by side").check()
        page.get_by_label("Show, engine off side by side").check()
        side = page.get_by_role("region", name="Side by side")
        expect(side.get_by_role("columnheader")).to_have_count(3)
        fan = side.get_by_role("row").filter(has_text="Heater blower")
        expect(fan).to_have_text(re.compile(r"Heater blower.* A–$"))
        expect(scenario(page, "Night and rain, in town")).to_contain_text("look")
        page.get_by_role("button", name="Night and rain, in town", exact=True).click()
        page.get_by_role("button", name="Shed Heater blower").click()
        expect(scenario(page, "Night and rain, in town")).to_contain_text("fine")
        expect(page.get_by_label("Shed Heater blower")).to_be_checked()
        bar = page.get_by_role("button", name=re.compile("Night and rain, in town: draws .* shed"))
        expect(bar).to_be_visible()
        page.reload()
        expect(scenario(page, "Night and rain, in town")).to_contain_text("fine")
        page.get_by_role("button", name="Undo").click()
        expect(scenario(page, "Night and rain, in town")).to_contain_text("look")

    def test_a_draw_that_was_measured_and_one_that_is_no_current(self) -> None:
        page = self.open("builds/1/budget/parked")
        field = page.get_by_label("Measured from the battery")
        field.fill("a lot")
        field.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("Type it as 38 mA")
        field.fill("380 mA")
        field.press("Tab")
        expect(scenario(page, "Parked")).to_contain_text("21 days are wanted")
        expect(page.get_by_role("region", name="Answers")).to_contain_text("0.38 A, measured")
        page.get_by_role("button", name="All as usual").click()
        expect(scenario(page, "Parked")).to_contain_text("fine")

    def test_a_larger_alternator_is_fitted_and_led_lamps_are_tried(self) -> None:
        page = self.open("builds/1/budget")
        card = page.get_by_role("link", name=re.compile("Budget"))
        expect(card).to_contain_text("3 of 9 to look at")
        page.get_by_label("with LED lamps").check()
        expect(page.get_by_role("columnheader", name="With LED")).to_be_visible()
        page.get_by_role("button", name="Fit 80 A").click()
        expect(page.get_by_title("Undo: Fit 80 A")).to_be_visible()
        expect(card).to_contain_text("all fine")

    def test_a_scenario_of_ones_own(self) -> None:
        page = self.open("builds/1/budget/show")
        page.get_by_role("button", name="A scenario of your own from it").click()
        own = page.get_by_role("region", name="Show, engine off, mine")
        own.get_by_label("Name").fill("Picnic")
        own.get_by_label("Name").press("Tab")
        picnic = page.get_by_role("region", name="Picnic")
        picnic.get_by_label("Radio, % of the time").fill("20")
        picnic.get_by_label("Radio, % of the time").press("Tab")
        expect(picnic.get_by_role("row").filter(has_text="Radio")).to_contain_text(["as you say"])
        picnic.get_by_label("Also on").select_option(label="Horn")
        expect(picnic.get_by_label("Horn, % of the time")).to_have_value("100")
        picnic.get_by_role("button", name="Take it out").click()
        expect(page.get_by_role("region", name="Picnic")).to_have_count(0)
        expect(scenario(page, "Show, engine off")).to_be_visible()

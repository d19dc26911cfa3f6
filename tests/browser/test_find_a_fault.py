"""Find a fault as a builder does: say what is seen, make the test that is offered, come to it."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class FindTest(BrowserTest):
    cars = ("demo/saltmarsh-roadster.json",)

    def test_from_a_failed_step_to_the_fault(self) -> None:
        page = self.open("builds/1/power-up?circuit=dipped-beam-left")
        page.get_by_role(
            "link", name="Dipped beam: Light switch to head", exact=False
        ).first.click()
        page.get_by_label("What Dipped beam left does").select_option("dead")
        page.get_by_role("button", name="Not right").click()
        page.get_by_role("link", name="Find the fault").click()
        seen = page.get_by_role("region", name="What is known")
        expect(seen.get_by_text("dead", exact=True).first).to_be_visible()
        suspects = page.get_by_role("region", name="Suspects")
        expect(suspects.get_by_role("listitem").first).to_contain_text("Dipped beam left")
        test = page.get_by_role("region", name="Next best test")
        expect(test.get_by_role("heading", level=1)).to_contain_text("look at Dipped beam left")
        test.get_by_role("button", name=re.compile("^as it should be")).click()
        expect(seen.get_by_text(re.compile("Dipped beam left: as it should be"))).to_be_visible()
        expect(test.get_by_role("heading", level=1)).not_to_contain_text("Take out and look")
        page.reload()
        expect(seen.get_by_text(re.compile("Dipped beam left: as it should be"))).to_be_visible()
        # it may be offered first, or among those instead
        test.get_by_text(re.compile("^Volts from Dipped beam left, terminal -")).first.click()
        test.get_by_label("You read").fill("much")
        test.get_by_role("button", name="That is what I read").click()
        expect(test.get_by_role("alert")).to_contain_text("is no reading")
        test.get_by_label("You read").fill("12,3")
        test.get_by_role("button", name="That is what I read").click()
        expect(suspects.get_by_role("listitem").first).to_contain_text("W50")
        expect(suspects.get_by_text("the first stands out")).to_be_visible()
        seen.get_by_role("button", name="Take the last test back").click()
        expect(suspects.get_by_text("the first stands out")).to_have_count(0)
        seen.get_by_role("button", name="Begin anew").click()
        expect(suspects.get_by_role("listitem").first).to_contain_text("Dipped beam left")
        suspects.get_by_role("button", name="It was this").first.click()
        suspects.get_by_label("What you did about it").fill("a new lamp")
        suspects.get_by_role("button", name="Mended: keep it").click()
        expect(
            test.get_by_role("heading", name=re.compile("^Found: .*Dipped beam left"))
        ).to_be_visible()
        past = seen.get_by_role("list", name="Found before")
        expect(past).to_contain_text("a new lamp")
        test.get_by_role("link", name="Dipped beam: Light switch to head").click()
        expect(page.get_by_role("button", name="Passed")).to_be_visible()

    def test_it_is_said_by_hand_and_another_test_is_asked_for(self) -> None:
        page = self.open("builds/1/find-a-fault")
        expect(page.get_by_role("heading", name="What is wrong?")).to_be_visible()
        page.get_by_label("what is operated").select_option(label="Horn: Horn push to pressed")
        page.get_by_role("button", name="That is what I see").click()
        test = page.get_by_role("region", name="Next best test")
        first = test.get_by_role("heading", level=1)
        expect(first).not_to_contain_text("What is wrong?")
        title = first.inner_text()
        test.get_by_role("button", name="I cannot get there").click()
        expect(first).not_to_have_text(title)

    def test_what_needs_a_tool_that_is_not_at_hand_is_not_asked_for(self) -> None:
        """By keyboard: tools are laid down one after another, a page loaded again knows it, and one
        that is taken up is asked for again."""
        page = self.open("builds/1/find-a-fault")
        page.get_by_label("what is operated").select_option(label="Horn: Horn push to pressed")
        page.get_by_role("button", name="That is what I see").click()
        test = page.get_by_role("region", name="Next best test")
        asked = test.get_by_role("listitem").or_(test.get_by_role("heading", level=1))
        jumps, volts = asked.filter(has_text="jumper"), asked.filter(has_text="Volts")
        expect(volts.first).to_be_visible()
        page.get_by_label("meter").focus()
        page.keyboard.press("Space")
        expect(volts).to_have_count(0)
        expect(jumps.first).to_be_visible()
        page.reload()
        expect(page.get_by_label("meter")).not_to_be_checked()
        page.get_by_label("fused jumper").focus()
        page.keyboard.press("Space")
        expect(jumps).to_have_count(0)
        page.get_by_label("meter").check()
        expect(volts.first).to_be_visible()

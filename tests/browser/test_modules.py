"""A car drafted on modules, a condition written anew, the bus lost; a function moved and back."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


class ModulesTest(BrowserTest):
    def test_a_pin_says_what_it_can_and_what_is_asked_of_it(self) -> None:
        page = self.open("builds/2/make/plugs")
        page.get_by_label("Show").select_option("Rear module")
        face = page.get_by_role("region", name="Rear module")
        expect(face).to_contain_text("channel, 10 A at most; 4.0 A asked")
        expect(face).to_contain_text("input to ground")

    def test_a_car_is_drafted_on_modules_compared_written_and_its_bus_is_lost(self) -> None:
        page = self.open("start")
        page.get_by_label("Name of the build").fill("Marsh coupé")
        page.get_by_label("Body style").select_option("coupé")
        page.get_by_label("worklights", exact=True).check()
        page.get_by_role("button", name="Write the first list").click()
        page.get_by_role("link", name=re.compile(r"^Draft the wiring of \d+$")).click()
        page.get_by_label("Protect and switch with").select_option("modules")
        page.get_by_label("a keypad for what comfort asks").check()
        takes = page.get_by_role("region", name="What it takes")
        expect(takes.get_by_role("row", name=re.compile("^Modules 2"))).to_be_visible()
        steps = page.get_by_role("list", name="Functions in the order of the work")
        stop = steps.get_by_role("listitem").filter(has_text="Stop lamps")
        expect(stop.get_by_role("row").filter(has_text="Stop lamp left")).to_contain_text(
            "Rear module, C"
        )
        stop.get_by_role("button", name="Why Stop lamp left is there").click()
        expect(stop.get_by_role("status")).to_contain_text("the module beside it")
        page.get_by_role("button", name="Fuses and relays", exact=True).click()
        expect(takes.get_by_role("columnheader", name="Fuses and relays")).to_be_visible()
        expect(takes.get_by_role("row", name=re.compile(r"^Relays \d+ \d+"))).to_be_visible()
        page.get_by_role("button", name=re.compile(r"^Write \d+ functions")).click()
        expect(page).to_have_url(re.compile(r"/circuits"))

        page.get_by_role("link", name="Feeds and grounds").click()
        page.get_by_role("link", name="Modules and buses").click()
        lost = page.get_by_role("region", name="If one is lost")
        worklights = lost.get_by_role("row").filter(has_text="Worklights")
        expect(worklights).to_contain_text("dead")
        stop = lost.get_by_role("row", name=re.compile("^Stop lamps"))
        cells = stop.get_by_role("cell")
        expect(cells.nth(0)).to_have_text("works")
        expect(cells.filter(has_text="dead")).to_have_count(1)

        horn = page.get_by_role("button", name=re.compile("is on while horn push is on"))
        horn.click()
        form = page.get_by_role("form", name=re.compile("^When C"))
        field = form.get_by_label("On while")
        expect(field).to_be_focused()
        field.press("End")
        form.get_by_role("button", name="and", exact=True).click()
        form.get_by_role("button", name="ignition", exact=True).click()
        expect(form.get_by_role("status")).to_contain_text("horn push is on and ignition is on")
        table = form.get_by_role("table", name="Truth table of the condition")
        expect(table.get_by_role("row").filter(has_text="● on")).to_have_count(1)
        field.fill("horn_push and not horn_push")
        expect(form.get_by_role("status")).to_contain_text("never so")
        field.fill("horn_push and ghost")
        expect(form.get_by_role("status")).to_contain_text("Nothing here is called ghost")
        expect(form.get_by_role("button", name="Save")).to_be_disabled()
        field.fill("horn_push and ignition")
        field.press("Enter")
        changed = page.get_by_role("button", name=re.compile("horn push is on and ignition is on"))
        expect(changed).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(horn).to_be_visible()

        horn.click()
        form.get_by_label("starts softly over").fill("9")
        expect(form.get_by_role("button", name="Save")).to_be_disabled()
        form.get_by_label("starts softly over").fill("0,2")
        form.get_by_role("button", name="Save").click()
        softly = page.get_by_role("row").filter(has=horn)
        expect(softly).to_contain_text("soft, 0.2 s")

        lamp = page.get_by_role("region", name="Keypad", exact=True).get_by_label("lamp").first
        with page.expect_response(lambda answer: answer.url.endswith("/edits")) as edited:
            lamp.select_option("amber")
        self.assertTrue(edited.value.ok)
        page.reload()
        expect(lamp).to_have_value("amber")
        page.get_by_role("link", name="Bench").click()
        dark = page.get_by_role("img", name="amber lamp dark")
        expect(dark).to_be_visible()
        page.get_by_role("radiogroup", name=re.compile("^Worklight")).get_by_role(
            "radio", name="on"
        ).click()
        page.get_by_role("radiogroup", name="Key").get_by_role("radio", name="run").click()
        expect(page.get_by_role("img", name="amber lamp lit")).to_be_visible()

    def test_a_function_is_moved_to_a_module_and_back(self) -> None:
        page = self.open("builds/2/feeds")
        page.get_by_role("button", name="Horn", exact=True).first.click()
        move = page.get_by_role("form", name="Move Horn")
        move.get_by_label("to module").select_option(label="the one beside its loads")
        expect(move.get_by_role("status")).to_contain_text("change")
        move.get_by_role("button", name="Move Horn to the module beside it").click()
        module = page.get_by_text("on while horn push is on")
        expect(module).to_be_visible()
        page.get_by_role("button", name="Horn", exact=True).first.click()
        move.get_by_label("to module").select_option(label="back to fuses and relays")
        move.get_by_role("button", name="Put Horn back on fuses and relays").click()
        expect(module).to_have_count(0)
        page.get_by_role("button", name="Starter", exact=True).first.click()
        page.get_by_role("form", name="Move Starter").get_by_label("to module").select_option(
            label="the one beside its loads"
        )
        expect(page.get_by_role("status").filter(has_text="channels")).to_contain_text(
            "cannot be written on channels"
        )

    def test_the_change_over_goes_step_by_step(self) -> None:
        page = self.open("builds/2/feeds/change-over")
        steps = page.get_by_role("list", name="Steps").get_by_role("listitem")
        rear = steps.filter(has=page.get_by_role("heading", name="Rear lamps"))
        expect(rear).to_contain_text("on modules already: Stop lamps")
        expect(rear).to_contain_text("38 ways taken before")
        rear.get_by_role("button", name="Change over rear lamps").click()
        expect(rear.get_by_role("button")).to_have_count(0)
        expect(rear).to_contain_text(re.compile("on modules already:.*Tail lamps"))
        rear.get_by_role("link", name="Prove rear lamps").click()
        asked = page.get_by_label("Step of the change-over")
        expect(asked).to_have_value("Rear lamps")
        steps_of = page.get_by_role("navigation", name="Steps")
        expect(steps_of.get_by_role("link", name=re.compile("Tail lamp")).first).to_be_visible()
        expect(steps_of.get_by_role("link", name=re.compile("Horn"))).to_have_count(0)
        asked.select_option("")
        expect(steps_of.get_by_role("link", name=re.compile("Horn")).first).to_be_visible()
        page.get_by_role("link", name="Feeds and grounds").first.click()
        page.get_by_role("link", name="Change over", exact=True).click()
        page.get_by_role("button", name="Undo").click()
        expect(rear.get_by_role("button", name="Change over rear lamps")).to_be_visible()

    def test_a_car_without_modules_is_told_how_to_get_one(self) -> None:
        page = self.open("builds/1/feeds/modules")
        page.get_by_role("link", name="Add a power module").click()
        expect(page).to_have_url(re.compile("/circuits/add/power-module"))
        page.go_back()
        page.get_by_role("link", name="Change over").click()
        expect(page.get_by_text("no module to change over to")).to_be_visible()

    def test_what_is_lost_on_the_bench_takes_its_loads_along(self) -> None:
        page = self.open("builds/2/bench")
        page.get_by_role("radio", name="run").click()
        button = page.get_by_role("radiogroup", name="Driving lamps button")
        button.get_by_role("radio", name="on").click()
        page.get_by_role("tab", name="Every load").click()
        lamp = page.get_by_role("row").filter(has_text=re.compile("^Driving lamp"))
        expect(lamp.first).to_contain_text("% light")
        bus = page.get_by_role("radiogroup", name="Data bus")
        bus.get_by_role("radio", name="lost").click()
        expect(lamp.first).to_contain_text("off")
        page.reload()
        page.get_by_role("tab", name="Every load").click()
        expect(lamp.first).to_contain_text("off")
        page.get_by_role("button", name="Put everything at rest").click()
        expect(bus.get_by_role("radio", name="works")).to_be_checked()

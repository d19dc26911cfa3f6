"""The bench as a builder uses it: power up, break, measure, find; on one screen and on two."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.base import BrowserTest


def load(page: Page, name: str) -> Locator:
    """The row of a load in the list that says the plan in words."""
    tab = page.get_by_role("tab", name="Every load")
    if tab.get_attribute("aria-selected") != "true":
        tab.click()
    return page.get_by_role("row").filter(has=page.get_by_role("button", name=name, exact=True))


def turn(page: Page, position: str) -> None:
    page.get_by_role("radiogroup", name="Key", exact=True).get_by_role(
        "radio", name=position, exact=True
    ).click()


def put(page: Page, switch: str, position: str) -> None:
    page.get_by_role("radiogroup", name=switch, exact=True).get_by_role(
        "radio", name=position, exact=True
    ).click()


class BenchTest(BrowserTest):
    cars = ("demo/saltmarsh-roadster.json",)

    def bench(self) -> Page:
        page = self.open("builds/1/bench")
        expect(page.get_by_label("Time at the bench")).not_to_have_text("0:00.0")
        return page

    def test_from_off_to_headlamps_and_a_running_engine(self) -> None:
        page = self.bench()
        expect(page.get_by_text("○ dead")).to_be_visible()
        turn(page, "run")
        put(page, "Light switch", "head")
        expect(load(page, "Dipped beam left")).to_contain_text("% light")
        expect(page.get_by_text("● LIVE")).to_be_visible()
        crank = page.get_by_role("radio", name="crank")
        crank.hover()
        page.mouse.down()
        expect(load(page, "Starter motor")).to_contain_text("% speed")
        expect(page.get_by_text(re.compile("engine 9.. rpm"))).to_be_visible()
        page.mouse.up()
        expect(page.get_by_role("radio", name="run", exact=True)).to_be_checked()
        page.get_by_role("tab", name="What happened").click()
        expect(page.get_by_text("Engine starts")).to_be_visible()
        expect(load(page, "Starter motor")).to_contain_text("off")

    def test_a_button_is_down_while_it_is_held_with_the_pointer_or_a_key(self) -> None:
        page = self.bench()
        lamp = load(page, "Stop lamp left")  # the pointer goes to the list for it, so it is first
        hold = page.get_by_role("button", name="Hold Brake pedal")
        hold.hover()
        page.mouse.down()
        expect(lamp).to_contain_text("% light")
        page.mouse.up()
        expect(lamp).to_contain_text("off")
        hold.focus()
        page.keyboard.down("Space")
        expect(load(page, "Stop lamp right")).to_contain_text("% light")
        page.keyboard.up("Space")
        expect(load(page, "Stop lamp right")).to_contain_text("off")

    def test_gauges_point_where_their_senders_put_them_by_hand_or_by_the_car(self) -> None:
        page = self.bench()
        turn(page, "run")
        gauge = load(page, "Temperature gauge")
        expect(gauge).to_contain_text("reads below cold")
        expect(load(page, "Fuel gauge")).to_contain_text(re.compile(r"reads \d\d % to full"))
        ohms = page.get_by_role("spinbutton", name="Coolant temperature sender, Ω")
        expect(ohms).to_have_value("608")
        ohms.fill("60")
        ohms.press("Enter")
        expect(gauge).to_contain_text(re.compile(r"reads \d\d % to hot"))
        plan = page.get_by_label("Plan of the car")
        expect(plan.get_by_text(re.compile(r"^\d\d % to hot"))).to_be_visible()
        page.get_by_role("button", name="Coolant temperature sender as the car has it").click()
        expect(gauge).to_contain_text("reads below cold")
        expect(ohms).to_have_value("608")

    def test_a_fuse_pulled_leaves_its_loads_dead_until_it_is_back(self) -> None:
        page = self.bench()
        turn(page, "run")
        expect(load(page, "Radio")).to_contain_text("% power")
        page.get_by_role("button", name=re.compile("^F14 Radio, ")).click()
        page.get_by_role("button", name="Pull F14 Radio").click()
        expect(load(page, "Radio")).to_contain_text("off")
        expect(
            page.get_by_role("button", name=re.compile("^F14 Radio, .*: pulled"))
        ).to_be_visible()
        page.get_by_role("button", name="Fit F14 Radio").click()
        expect(load(page, "Radio")).to_contain_text("% power")

    def test_a_bad_joint_found_with_meter_lamp_and_jumper(self) -> None:
        page = self.bench()
        turn(page, "run")
        put(page, "Light switch", "side")
        expect(load(page, "Side lamp left")).to_contain_text("% light")
        ground = self.put_in_a_bad_ground(page)
        expect(load(page, "Side lamp left")).not_to_contain_text("6")
        page.get_by_role("row").get_by_role("button", name="Side lamp left", exact=True).click()
        meter = page.get_by_label("Meter 1", exact=True)
        expect(meter).to_contain_text("too low")
        page.get_by_role("button", name="Second meter").click()
        page.get_by_label("Kind of Meter 2").select_option("test lamp 5 W")
        for probe, terminal in (("red", "battery · +"), ("black", "side lamp left · -")):
            field = page.get_by_label(f"{probe} of Meter 2", exact=True)
            field.press_sequentially(terminal, delay=60)
            field.press("Enter")
        lamp = page.get_by_label("Meter 2", exact=True)
        expect(lamp).not_to_contain_text("lit")
        page.get_by_role("button", name="Jumper, probe or supply").click()
        for probe, terminal in (("red", "side lamp left · -"), ("black", "battery · -")):
            field = page.get_by_label(f"{probe} of Lead", exact=True)
            field.fill(terminal)
            field.press("Enter")
        expect(lamp).to_contain_text("lit")
        expect(meter).not_to_contain_text("too low")
        page.get_by_role("button", name=f"Mend {ground}").click()
        expect(page.get_by_text("None. Put one in to see what it does")).to_be_visible()

    def put_in_a_bad_ground(self, page: Page) -> str:
        page.get_by_text("Put one in by hand").click()
        page.get_by_label("Kind of fault").select_option(label="joint with too much resistance")
        wire = page.evaluate(
            """async () => {
              const build = await (await fetch('/api/builds/1')).json()
              return build.wires.find((row) => [row.from_terminal, row.to_terminal]
                .includes('side-lamp-left.-')).label
            }"""
        )
        page.get_by_label("Where it is").select_option(label=wire)
        page.get_by_label("Resistance").fill("60")
        page.get_by_role("button", name="Put it in").click()
        shown = page.get_by_role("button", name=re.compile("^Mend joint"))
        name = shown.get_attribute("aria-label") or ""
        return name.removeprefix("Mend ")

    def test_probes_land_by_list_plan_and_drawing(self) -> None:
        page = self.bench()
        turn(page, "run")
        put(page, "Light switch", "side")
        page.get_by_role("button", name=re.compile("^Tail lamp left:")).click()
        page.get_by_role("tab", name="Its circuit").click()
        page.get_by_role("button", name="Probe on Tail lamp left +", exact=True).click()
        page.get_by_role("button", name="Probe on Tail lamp left -", exact=True).click()
        expect(page.get_by_label("red of Meter 1", exact=True)).to_have_value("Tail lamp left · +")
        expect(page.get_by_label("Meter 1 shows")).to_have_text(re.compile(r"^1[12]\.\d\d V$"))
        chosen = page.get_by_role("complementary", name="Tail lamp left")
        chosen.get_by_role("button", name=re.compile("^W\\d+ ")).first.click()
        expect(page.get_by_label("Clamp shows")).to_have_text(re.compile(r"^-?0\.\d\d A$"))
        page.get_by_label("wires by heat").check()
        expect(page.locator("line.run.hot").first).to_be_attached()

    def test_a_link_opens_a_kept_session_at_its_moment(self) -> None:
        page = self.bench()
        turn(page, "run")
        expect(page.get_by_text("Run relay pulls in")).to_be_visible()
        page.get_by_text("Session", exact=True).click()
        page.get_by_label("Name to keep this session under").fill("Key on")
        page.get_by_role("button", name="Keep", exact=True).click()
        link = page.get_by_role("link", name="Link to Key on at this time")
        address = link.get_attribute("href") or ""
        with page.expect_download() as saved:
            page.get_by_role("button", name="Save as a script").click()
        page.get_by_role("button", name="Begin anew, everything off and mended").click()
        expect(page.get_by_text("○ dead")).to_be_visible()
        page.get_by_label("Play a script").set_input_files(saved.value.path())
        expect(page.get_by_text("● LIVE")).to_be_visible()
        page.get_by_role("button", name="Begin anew, everything off and mended").click()
        page.goto(f"{self.server.address}{address.removeprefix('/')}")
        expect(page.get_by_text("● LIVE")).to_be_visible()
        expect(page.get_by_role("radio", name="Stand still")).to_be_checked()

    def test_what_is_live_stands_beside_the_design_elsewhere(self) -> None:
        page = self.bench()
        turn(page, "run")
        expect(page.get_by_text("● LIVE")).to_be_visible()
        page.get_by_role("link", name="Feeds and grounds").click()
        row = page.get_by_role("row").filter(has_text="Power socket").first
        expect(row.locator("td.live")).to_have_text("10.0")
        page.get_by_role("link", name="Lay out").click()
        expect(page.get_by_role("columnheader", name="Now, A").first).to_be_visible()

    def test_two_tabs_agree_and_one_comes_back_to_where_it_was(self) -> None:
        page = self.bench()
        other = self.context.new_page()
        other.goto(page.url)
        turn(page, "run")
        expect(other.get_by_role("radio", name="run", exact=True)).to_be_checked()
        put(other, "Hazard switch", "on")
        expect(
            page.get_by_role("radiogroup", name="Hazard switch").get_by_role("radio", name="on")
        ).to_be_checked()
        page.reload()
        expect(page.get_by_role("radio", name="run", exact=True)).to_be_checked()
        expect(page.get_by_text("Hazard switch to on")).to_be_visible()
        self.server.stop()
        expect(page.get_by_text("The bench is out of touch")).to_be_visible()

    def test_time_stands_still_goes_back_and_a_session_is_kept(self) -> None:
        page = self.bench()
        turn(page, "run")
        expect(page.get_by_text("Run relay pulls in")).to_be_visible()
        page.get_by_role("radio", name="Stand still").click()
        clock = page.get_by_label("Time at the bench")
        expect(clock).to_have_text(re.compile(r"\.\d\d\d$"))
        stood = clock.inner_text()
        page.wait_for_timeout(600)
        self.assertEqual(clock.inner_text(), stood)
        page.get_by_role("button", name="+10 ms").click()
        expect(clock).not_to_have_text(stood)
        row = page.get_by_role("listitem").filter(has_text="Key to run")
        at = row.get_by_role("button").inner_text()
        row.get_by_role("button").click()
        expect(clock).to_have_text(at)
        expect(page.get_by_text("Run relay pulls in")).to_have_count(0)
        page.get_by_text("Session", exact=True).click()
        page.get_by_label("Name to keep this session under").fill("First power")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("button", name="First power", exact=True)).to_be_visible()
        page.get_by_role("button", name="Begin anew, everything off and mended").click()
        expect(page.get_by_text("○ dead")).to_be_visible()
        page.get_by_role("button", name="First power", exact=True).click()
        expect(page.get_by_text("Key to run")).to_be_visible()

    def test_a_fault_is_dealt_and_given_up(self) -> None:
        page = self.bench()
        page.get_by_role("button", name="easy").click()
        expect(page.get_by_text("One dealt, not yet found")).to_be_visible()
        guess = page.get_by_label("The wire or part that has the fault")
        guess.fill("flux capacitor")
        guess.press("Enter")
        expect(page.get_by_text("No wire or part is called “flux capacitor”.")).to_be_visible()
        page.get_by_role("button", name="give up").click()
        expect(page.get_by_text("Given up")).to_be_visible()

    def test_on_a_phone_nothing_is_cut_off(self) -> None:
        page = self.bench()
        for width, height in ((390, 844), (768, 1024)):
            page.set_viewport_size({"width": width, "height": height})
            page.wait_for_timeout(400)
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, width)
            turn(page, "run")
            expect(page.get_by_text("● LIVE")).to_be_visible()

"""Functions written by recipe, changed by hand, moved between panels, and found again."""

import re

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest


def rows_of(page: Page) -> list[list[str]]:
    """The truth table on the screen: the words of each cell, volts left out."""
    table = page.get_by_role("table", name="Truth table")
    expect(table).to_be_visible(timeout=30_000)
    rows = table.locator("tbody tr").all()
    return [
        [
            re.sub(r"^[^\w]*\s*|\s+[\d.]+ V$", "", cell.inner_text())
            for cell in row.locator("td").all()
        ]
        for row in rows
    ]


LETTER_PX = """text => {
  const { ownerSVGElement: svg } = text
  const zoom = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width
  return parseFloat(getComputedStyle(text).fontSize) * zoom
}"""


class RecipeTest(BrowserTest):
    def test_an_evening_on_a_finished_car_is_weighed_before_it_is_written(self) -> None:
        page = self.open("builds/1/circuits/add/plain-load")
        page.get_by_role("button", name="What the evening takes").click()
        took = page.get_by_role("status", name="What the evening takes")
        expect(took).to_contain_text("To make")
        expect(took).to_contain_text("nothing is proved yet")
        took.get_by_role("button", name="Write it and leave them").click()
        expect(page).to_have_url(re.compile(r"/circuits/one-load"))
        expect(page.get_by_title("Undo: Write One load")).to_be_visible()

    def test_turn_and_hazard_by_recipe_and_its_truth_table(self) -> None:
        page = self.open("builds/1/circuits")
        page.get_by_role("link", name="+ Add a function").click()
        page.get_by_role("link", name="Turn and hazard lamps").click()
        expect(page.get_by_text("Caution.")).to_be_visible()
        expect(page.get_by_label("Turn lamp front left")).to_have_value("turn-lamp-front-left")
        expect(page.get_by_text("flashers: Flasher unit")).to_have_count(0)
        page.get_by_label("Call it").fill("Indicators")
        expect(page.get_by_text(re.compile(r"\d+ wires: W\d+"))).to_be_visible()
        page.get_by_role("button", name="Write Indicators").click()
        expect(page.get_by_role("heading", name="Indicators")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("Schematic of Indicators"))).to_be_visible()

        page.get_by_role("tab", name="Truth table").click()
        rows = rows_of(page)
        table = page.get_by_role("table", name="Truth table")
        head = [cell.inner_text() for cell in table.locator("thead th").all()]
        key, turn, hazard = (head.index(name) for name in ("Key", "Turn switch", "Hazard switch"))
        left, right = head.index("Turn lamp front left"), head.index("Turn lamp rear right")
        at = {(row[key], row[turn], row[hazard]): (row[left], row[right]) for row in rows}
        self.assertEqual(at["any", "any", "on"], ("flashing", "flashing"))
        self.assertEqual(at["run, crank", "left", "off"], ("flashing", "off"))
        self.assertEqual(at["run, crank", "right", "off"], ("off", "flashing"))
        self.assertEqual(at["run, crank", "middle", "off"], ("off", "off"))

        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("heading", name="Indicators")).to_have_count(0)

    def test_a_recipe_written_again_shows_the_difference_first(self) -> None:
        page = self.open("builds/1/circuits/add/sockets")
        page.get_by_label("Live from").select_option("always")
        page.get_by_role("button", name="Write Power sockets").click()
        page.get_by_role("tab", name="Wires and parts").click()
        page.get_by_label(re.compile("^Take out wire W")).last.click()
        expect(page.get_by_text("saved, revision 2")).to_be_visible()
        page.get_by_role("link", name="Write it again…").click()
        expect(page.get_by_text(re.compile(r"1 wire: W\d+"))).to_be_visible()
        page.get_by_role("button", name="Write it again").click()
        expect(page.get_by_text("saved, revision 3")).to_be_visible()

    def test_a_full_panel_offers_more_ways(self) -> None:
        page = self.open()
        fill = {"op": "write_recipe", "recipe": "sockets", "answers": {"key": "run"}}
        edits, base, saved = f"{self.server.address}api/builds/1/edits", 0, True
        while saved:
            body = {"base": base, "label": "Fill", "operations": [fill]}
            saved, base = page.request.post(edits, data=body).ok, base + 1
        page.goto(f"{self.server.address}builds/1/circuits/add/reversing")
        page.get_by_role("button", name=re.compile("^Give Panel 4 more ways")).click()
        expect(page.get_by_role("button", name="Write Reversing lamps")).to_be_enabled()
        page.get_by_role("button", name="Write Reversing lamps").click()
        expect(page).to_have_url(re.compile("circuits/reversing"))

    def test_what_is_typed_outlives_a_reload(self) -> None:
        page = self.open("builds/1/circuits/add/horn")
        page.get_by_label("Call it").fill("Klaxon")
        page.get_by_label("Horn push", exact=True).select_option(label="a new one")
        page.reload()
        expect(page.get_by_label("Call it")).to_have_value("Klaxon")
        expect(page.get_by_role("button", name="Write Klaxon")).to_be_enabled()
        page.get_by_label("Call it").press("Enter")
        expect(page.get_by_role("heading", name="Klaxon")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_role("heading", name="Klaxon")).to_have_count(0)

    def test_what_is_in_the_car_already_is_said_and_what_one_more_would_bring(self) -> None:
        page = self.open("builds/2/circuits/add/fan")
        row = page.get_by_role("navigation", name="Functions").get_by_role("link", name="Wipers")
        expect(row).to_contain_text("in the car")
        row.click()
        expect(page.get_by_text("In the car already: Wipers and washer")).to_be_visible()
        switches = page.get_by_label("Wiper switch", exact=True).get_by_role("option")
        expect(switches).to_have_text(["a new one", "Wiper switch"])
        page.get_by_role("link", name="Radiator fan").click()
        status = page.get_by_role("form", name="Answers").get_by_role("status")
        expect(status).to_contain_text("6 wires: W275")
        expect(status).not_to_contain_text("stop")

    def test_what_cannot_be_written_says_why_and_keeps_the_answers(self) -> None:
        page = self.open("builds/1/circuits/add/diode-logic")
        expect(page.get_by_text("Diode logic joins two feeds or more")).to_be_visible()
        page.get_by_label("Fed from").fill("panel.F1, nowhere.out")
        page.get_by_label("Fed from").press("Tab")
        expect(page.get_by_text("names nowhere.out, which is not there")).to_be_visible()
        page.reload()
        expect(page.get_by_label("Fed from")).to_have_value("panel.F1, nowhere.out")


class ByHandTest(BrowserTest):
    def test_a_relay_inserted_takes_the_load_off_the_switch(self) -> None:
        page = self.open("builds/1/circuits/heater-blower")
        overloaded = page.get_by_role("article").filter(has_text="Blower switch carries more")
        expect(overloaded).to_be_visible()
        page.get_by_role("tab", name="Wires and parts").click()
        feed = page.get_by_role("row").filter(has=page.locator("input[value='heater-blower.+']"))
        feed.get_by_role("button", name="insert…").click()
        form = page.get_by_role("form", name=re.compile("^Insert into W"))
        form.get_by_label("called").fill("Blower relay")
        form.get_by_label("power from").select_option(label="F7 wiper and blower")
        form.get_by_role("button", name="Insert relay").click()
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        expect(overloaded).to_have_count(0)
        expect(page.locator("svg.schematic").get_by_text("Blower relay", exact=True)).to_have_count(
            2
        )
        expect(page.get_by_title(re.compile("^Undo: Insert a relay into W"))).to_be_visible()

    def test_contacts_edited_as_a_grid(self) -> None:
        page = self.open("builds/1/circuits/heater-blower")
        page.get_by_role("tab", name="Wires and parts").click()
        page.get_by_role("button", name="contacts…").click()
        page.get_by_role("button", name="on, in: joined in group 1").click()
        for _ in range(2):
            page.get_by_role("button", name=re.compile("^on, in: joined in group")).click()
        page.get_by_role("button", name="Save contacts").click()
        stop = page.get_by_role("article").filter(has_text="Blower switch never closes")
        expect(stop).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(stop).to_have_count(0)

    def test_pins_of_a_box_edited_as_a_grid(self) -> None:
        page = self.open("builds/2/circuits/fuel-pump")
        page.get_by_role("tab", name="Wires and parts").click()
        page.get_by_role("button", name="pins…").click()
        grid = page.get_by_role("form", name="pins of Pump control box")
        expect(grid.get_by_role("button", name="Take out pin 3")).to_be_disabled()
        grid.get_by_role("button", name="+ pin").click()
        grid.get_by_label("4 is on when").fill("ignition_and")
        grid.get_by_label("Name of pin 5").fill("pump out")
        grid.get_by_role("button", name="Save pins").click()
        expect(page.get_by_role("alert")).to_contain_text("“ignition_and” is no input, no button")
        grid.get_by_label("4 is on when").fill("engine_rpm > 400")
        grid.get_by_role("button", name="Save pins").click()
        expect(page.get_by_title("Undo: Pins of Pump control box")).to_be_visible()
        expect(page.get_by_label("W145 to")).to_have_value("pump-control-box.pump-out")

    def test_a_figure_typed_with_its_unit(self) -> None:
        page = self.open("builds/1/circuits/heater-blower")
        page.get_by_role("tab", name="Wires and parts").click()
        page.get_by_role("button", name="contacts…").first.click()
        field = page.get_by_label("Blower switch, contacts carry")
        field.fill("twenty")
        field.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("“twenty” is not a number of A")
        expect(field).to_have_value("10")
        field.fill("20 A")
        field.press("Enter")
        expect(page.get_by_text("Blower switch carries more than its contacts can")).to_have_count(
            0
        )

    def test_a_wire_to_nowhere_is_refused_and_stays_where_it_was(self) -> None:
        page = self.open("builds/1/circuits/heater-blower")
        page.get_by_role("tab", name="Wires and parts").click()
        end = page.locator("input[value='heater-blower.+']")
        end.fill("heater-blower.87a")
        end.press("Enter")
        expect(page.get_by_text("which has +, -. Choose one of these.")).to_be_visible()
        expect(page.locator("input[value='heater-blower.+']")).to_have_value("heater-blower.+")

    def test_colours_of_the_whole_car_by_policy(self) -> None:
        page = self.open("builds/1/circuits/horn")
        page.get_by_role("tab", name="Wires and parts").click()
        policy = page.get_by_role("form", name="Colours of the whole car")
        policy.get_by_label("wires of the whole car").select_option("one colour")
        policy.get_by_label("one colour", exact=True).fill("violet")
        policy.get_by_role("button", name="Colour every wire so").click()
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        for colour in page.get_by_label(re.compile("^Colour of W")).all():
            expect(colour).to_have_value("violet")
        expect(page.locator("svg.schematic").get_by_text(re.compile("VT$")).first).to_be_visible()

    def test_a_drawing_over_the_whole_window_and_back(self) -> None:
        page = self.open("builds/2/circuits/turn-and-hazard-lamps")
        sheet = page.get_by_role("region", name="Drawing of Turn and hazard lamps")
        expect(sheet.get_by_role("img")).to_be_visible()
        beside = sheet.bounding_box()
        page.get_by_role("button", name="Over the whole window").click()
        whole = sheet.bounding_box()
        assert beside
        assert whole
        self.assertEqual(whole["width"], 1280)
        self.assertGreater(whole["height"], beside["height"] + 100)
        box = sheet.get_by_role("group", name=re.compile("^Sheet of"))
        self.assertEqual(box.evaluate("box => box.scrollWidth - box.clientWidth"), 0)
        label = sheet.get_by_text(re.compile(r"^W\d+ ")).first
        self.assertGreaterEqual(round(label.evaluate(LETTER_PX), 2), 11)
        sheet.get_by_role("button", name="Larger").click()
        self.assertGreater(box.evaluate("box => box.scrollWidth - box.clientWidth"), 0)
        sheet.get_by_role("button", name="All of it").click()
        self.assertEqual(box.evaluate("box => box.scrollWidth - box.clientWidth"), 0)
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="Over the whole window")).to_be_visible()
        self.assertEqual(sheet.bounding_box(), beside)

    def test_a_live_drawing_tells_the_volts_at_the_nodes(self) -> None:
        page = self.open("builds/1/circuits/fuel-pump")
        volts = page.locator("svg.schematic text.volts")
        page.get_by_role("radio", name="run").click()
        expect(page.get_by_text("● LIVE")).to_be_visible()
        expect(volts.first).to_have_text(re.compile(r"^1[12]\.\d V$"))
        expect(page.locator("svg.schematic g.line.live").first).to_be_attached()
        page.get_by_role("radio", name="off").click()
        expect(volts).to_have_count(0)

    def test_the_part_under_the_pointer_is_lit_in_drawing_and_fall_line(self) -> None:
        page = self.open("builds/1/circuits/radiator-fan")
        expect(page.get_by_role("img", name=re.compile("^Fall line of"))).to_be_visible()
        relay = page.locator("svg.schematic g.symbol").filter(has_text="Radiator fan relay")
        relay.first.hover()
        expect(page.locator("figcaption")).to_contain_text("Radiator fan relay")
        expect(page.locator("tr.chosen").last).to_contain_text("Radiator fan relay")


class FeedsTest(BrowserTest):
    def test_the_overview_folds_and_leads_to_a_circuit(self) -> None:
        page = self.open("builds/1/feeds/overview")
        sheet = page.locator("svg.schematic")
        expect(sheet.locator("g.load").first).to_be_visible()
        page.get_by_label("Show feeds").select_option("fuses")
        expect(sheet.locator("g.load")).to_have_count(0)
        sheet.locator("g.fuse").filter(has_text="F1 horn").click()
        sheet.locator("g.function").filter(has_text="Horn").click()
        expect(sheet.locator("g.load")).to_have_count(1)
        sheet.locator("g.load").click()
        expect(page).to_have_url(re.compile("/circuits/horn$"))
        page.go_back()
        expect(page.get_by_label("Show feeds")).to_have_value("fuses")

    def test_grounds_stand_below_their_heading_and_only_studs_are_crowded(self) -> None:
        page = self.open("builds/2/feeds")
        heading, table = (
            page.get_by_role(role, name="Grounds", exact=True) for role in ("heading", "table")
        )
        expect(table).to_be_visible()
        above, below = heading.bounding_box(), table.bounding_box()
        assert above
        assert below
        self.assertLess(above["y"], below["y"])
        bar = table.get_by_role("row", name=re.compile("Ground bar at Ground G2"))
        expect(bar.get_by_role("cell", name="39", exact=True)).to_be_visible()
        expect(bar.locator(".crowded")).to_have_count(0)

    def test_a_circuit_dragged_to_a_free_way_and_to_another_ground(self) -> None:
        page = self.open("builds/2/feeds")
        supply = page.get_by_role("region", name="Supply")
        horn = supply.get_by_role("button", name="Horn", exact=True)
        free = supply.locator(".way", has_text="F29").first
        expect(free).to_be_visible()
        page.locator(".feeds").evaluate("feeds => (feeds.scrollTop = 130)")  # clear of the dock
        horn.hover()
        page.mouse.down()
        page.mouse.move(600, 400, steps=3)
        free.hover()
        page.mouse.up()
        expect(page.get_by_title("Undo: Move Horn to F29 of Panel")).to_be_visible()
        row = supply.get_by_role("row").filter(has=page.get_by_text("F29", exact=True))
        expect(row.get_by_role("button", name="Horn", exact=True)).to_be_visible()
        supply.get_by_role("button", name="Horn", exact=True).hover()
        page.mouse.down()
        page.mouse.move(600, 400, steps=3)
        page.get_by_label("Drop it here").get_by_text("Ground G3, luggage", exact=True).hover()
        page.mouse.up()
        expect(page.get_by_title("Undo: Return Horn to Ground G3, luggage")).to_be_visible()
        point = page.get_by_text("Ground G3, luggage", exact=True)
        ground = page.get_by_role("row").filter(has=point)
        expect(ground).to_contain_text("Horn")

    def test_three_circuits_moved_to_the_rear_panel_as_one_step(self) -> None:
        page = self.open("builds/2/feeds")
        supply = page.get_by_role("region", name="Supply")
        names = ("Heated screen", "Window left", "Window right")
        for number, name in enumerate(names):
            supply.get_by_role("button", name=name, exact=True).click(
                modifiers=["Shift"] if number else []
            )
        page.get_by_label("to panel").select_option(label="Second panel")
        page.get_by_role("button", name="Move 3 circuits to Second panel").click()
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        panel = supply.locator(".point.panel").filter(has_text="Second panel").last
        for name in names:
            expect(panel.get_by_role("button", name=name, exact=True)).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        for name in names:
            expect(panel.get_by_role("button", name=name, exact=True)).to_have_count(0)

    def test_a_panel_of_another_key_position_is_refused_in_words(self) -> None:
        page = self.open("builds/2/feeds")
        page.get_by_role("region", name="Supply").get_by_role("button", name="Horn").click()
        page.get_by_label("to panel").select_option(label="Second panel")
        expect(page.get_by_text("Second panel has no free way that is always live")).to_be_visible()
        expect(page.get_by_role("button", name="Move Horn to Second panel")).to_be_disabled()

    def test_a_wire_is_found_by_its_label_and_a_terminal_by_its_name(self) -> None:
        page = self.open("builds/1/circuits")
        page.keyboard.press("/")
        page.get_by_role("combobox", name="Find a wire").fill("radiator-fan-relay.87")
        page.get_by_role("option", name="terminal radiator-fan-relay.87").click()
        expect(page).to_have_url(re.compile(r"circuits/radiator-fan\?light=radiator-fan-relay"))
        expect(page.get_by_role("heading", name="Radiator fan")).to_be_visible()
        page.keyboard.press("/")
        page.get_by_role("combobox", name="Find a wire").fill("W12")
        expect(page.get_by_role("option", name=re.compile("^wire W12 "))).to_be_visible()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("light=w12"))

"""Taking stock as a new user does: a first list, a paste, an import bad and then good, a photo."""

import re
import tempfile
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest, cell, paste, type_cell

BAD = """Item;Location;Power (W);Ignition;Colour
Reading lamp;Dash;5;accessory;red
Horn 2;Nose, behind the radiator;lots;always;black
Seat heater left;Dash;60,5;sometimes;grey
"""
GOOD = """Item,What it is,Location,Power (W),Ignition
Reading lamp,Courtesy lamp 5 W,Dash,5,accessory
Horn 2,Horn,"Nose, behind the radiator",48,always
Seat heater left,Seat heater,Left seat,60.5,run
"""


SLOW_EDITS = """
const quick = window.fetch
window.fetch = async (...asked) => {
  const answer = await quick(...asked)
  const slow = String(asked[0].url ?? asked[0]).endsWith('/edits')
  if (slow) await new Promise((wait) => setTimeout(wait, 2000))
  return answer
}
"""


class StartTest(BrowserTest):
    def test_from_a_kind_of_car_to_a_first_list(self) -> None:
        page = self.open()
        page.get_by_role("button", name="Start from a kind of car").click()
        page.get_by_role("button", name="Write the first list").click()
        expect(page.get_by_role("alert")).to_contain_text("Give the car a name")
        page.get_by_label("Name of the build").fill("Fen buggy")
        page.get_by_label("Body style").select_option("buggy")
        page.get_by_role("combobox", name="Engine", exact=True).select_option("rear")
        page.get_by_label("worklights").check()
        page.reload()
        expect(page.get_by_label("Name of the build")).to_have_value("Fen buggy")
        page.get_by_role("button", name="Write the first list").click()
        expect(cell(page, "Worklight left, name")).to_be_visible()
        expect(page.get_by_role("button", name=re.compile(r"^\d+ to decide$"))).to_be_visible()
        expect(page.get_by_role("link", name="Lay out")).to_contain_text("0 of 14 runs measured")
        page.get_by_role("button", name="More of Stop lamp left").click()
        page.get_by_role("button", name="Wire it as wanted").click()
        row = page.get_by_role("row").filter(has=cell(page, "Stop lamp left, name"))
        expect(row).to_contain_text("F1 Stop lamp left")
        expect(row).to_contain_text(re.compile(r"\d mm²"))

    def test_questions_that_do_not_come_are_asked_for_again(self) -> None:
        page = self.open()
        page.route("**/api/kinds-of-car", lambda route: route.fulfill(status=500))
        page.get_by_role("button", name="Start from a kind of car").click()
        expect(page.get_by_role("alert")).to_contain_text("The questions cannot be asked.")
        page.unroute("**/api/kinds-of-car")
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_label("Name of the build")).to_be_visible()

    def test_a_car_is_drafted_compared_written_and_taken_back(self) -> None:
        page = self.open("start")
        page.get_by_label("Name of the build").fill("Marsh coupé")
        page.get_by_label("Body style").select_option("coupé")
        page.get_by_role("button", name="Write the first list").click()
        page.get_by_role("link", name=re.compile(r"^Draft the wiring of \d+$")).click()
        steps = page.get_by_role("list", name="Functions in the order of the work")
        headlamps = steps.get_by_role("listitem").filter(has_text="Headlamps")
        row = headlamps.get_by_role("row").filter(has_text="Dipped beam left").first
        expect(row).to_contain_text("Light switch")
        expect(row).to_contain_text("always")
        takes = page.get_by_role("region", name="What it takes")
        expect(takes.get_by_role("row", name="Copper")).to_contain_text("kg")
        page.get_by_role("button", name="Fuses and relays, lamps together").click()
        expect(takes).to_contain_text("Dipped beam alone keeps the road lit")
        rows = steps.get_by_role("row")
        horn = rows.filter(has=page.get_by_role("cell", name="Horn", exact=True))
        page.get_by_role("group", name="Alive with the key off").get_by_label("Horn").uncheck()
        expect(horn).to_contain_text("accessory")
        page.get_by_role("group", name="Alive with the key off").get_by_label("Horn").check()
        expect(horn).to_contain_text("always")
        horn.get_by_role("button", name="Why Horn is there").click()
        behind = steps.get_by_label("Put it behind")
        free = behind.get_by_role("option").filter(has_text=", free").first.get_attribute("value")
        behind.select_option(str(free))
        expect(horn).to_contain_text("put there by you")
        expect(horn).to_contain_text(str(free).split(".")[1])
        page.get_by_role("button", name="put it back where the draft had it").click()
        expect(horn).not_to_contain_text("put there by you")
        expect(horn).not_to_contain_text(str(free).split(".")[1])
        lamp = rows.filter(has=page.get_by_role("cell", name="Interior lamp", exact=True))
        horn.get_by_role("cell").first.hover()
        page.mouse.down()
        page.mouse.move(600, 300, steps=3)
        page.get_by_label("Drop it here").get_by_text("Interior lamps").hover()
        page.mouse.up()
        expect(horn).to_contain_text("Interior lamps")
        expect(lamp).to_contain_text("Interior lamps")
        steps.get_by_role("checkbox", name="Horn").uncheck()
        page.reload()
        expect(steps.get_by_role("checkbox", name="Horn")).not_to_be_checked()
        page.get_by_role("button", name=re.compile(r"^Write \d+ functions")).click()
        expect(page).to_have_url(re.compile(r"/circuits"))
        expect(page.get_by_role("main")).to_be_focused()  # the button is gone with its view
        expect(page.get_by_role("row").filter(has_text="Headlamps")).to_contain_text("mm²")
        page.get_by_role("link", name="Take stock").click()
        page.get_by_role("link", name="Draft the wiring of 1").click()
        expect(steps.get_by_role("listitem")).to_have_count(1)
        expect(page.get_by_text("circuits stand and are kept as they are")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        expect(steps.get_by_role("checkbox", name="Headlamps")).to_be_checked()
        expect(page.get_by_role("button", name="Redo")).to_be_enabled()

    def test_a_car_half_wired_says_what_cannot_be_drafted(self) -> None:
        page = self.open("builds/1/stock/draft")
        steps = page.get_by_role("list", name="Functions in the order of the work")
        expect(steps.get_by_role("listitem").first).to_be_visible()
        expect(page.get_by_role("region", name="What it takes")).to_contain_text("added")


class GridTest(BrowserTest):
    def test_rows_pasted_from_a_spreadsheet_filled_down_and_taken_back(self) -> None:
        page = self.open("builds/1/stock")
        page.get_by_label("Group by").select_option("none")
        cell(page, "Interior lamp, name").click()
        page.keyboard.press("Control+End")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Home")
        paste(
            page,
            "Map lamp\tCourtesy lamp 5 W\tDash\t4W\n"
            "Boot lamp\tInterior lamp 10 W\tLuggage space\t0.5A\n"
            "Clock\tGauge\tDash\t150 mA\n",
        )
        expect(cell(page, "Map lamp, name")).to_be_visible()
        expect(cell(page, "4 W, Rated of Map lamp")).to_be_visible()
        expect(cell(page, "0.5 A, Rated of Boot lamp")).to_be_visible()
        expect(cell(page, "0.15 A, Rated of Clock")).to_be_visible()
        expect(page.get_by_title("Undo: Paste 12 cells")).to_be_visible()

        type_cell(page, "new, State of Map lamp", "keep")
        cell(page, "keep, State of Map lamp").click()
        page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press("Control+d")
        expect(cell(page, "keep, State of Clock")).to_be_visible()
        page.keyboard.type("adapt")
        page.keyboard.press("Control+Enter")
        expect(cell(page, "adapt, State of Map lamp")).to_be_visible()
        expect(cell(page, "adapt, State of Boot lamp")).to_be_visible()
        for words in ("State of 3 rows", "Fill down 2 rows", "State of Map lamp", "Paste 12 cells"):
            page.get_by_title(f"Undo: {words}").get_by_role("button").click()
        expect(cell(page, "Map lamp, name")).to_have_count(0)

    def test_a_long_list_by_keys_alone_down_to_a_new_row(self) -> None:
        page = self.open("builds/2/stock")
        grid = page.get_by_role("grid")
        expect(cell(page, "Dipped beam left, name")).to_be_visible()
        page.get_by_role("link", name="XLSX").focus()
        page.keyboard.press("Tab")
        for _ in range(4):
            if "grid" in (page.evaluate("document.activeElement.getAttribute('role')") or ""):
                break
            page.keyboard.press("Tab")
        expect(grid).to_be_focused()
        for _ in range(8):
            page.keyboard.press("PageDown")
        page.keyboard.type("Seat heater left")
        page.keyboard.press("Tab")
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        expect(page.get_by_text("72 loads").first).to_be_visible()
        page.get_by_role("searchbox").fill("seat heater")
        cell(page, "Seat heater left, name").click()
        page.keyboard.press("Delete")
        expect(page.get_by_role("alert")).to_contain_text("Name: “”: a name")

    def test_a_bad_pasted_cell_refuses_the_paste_whole(self) -> None:
        page = self.open("builds/1/stock")
        cell(page, "5 A, Rated of Horn").click()
        paste(page, "6 A\nplenty\n")
        expect(page.get_by_role("alert")).to_contain_text("“plenty”")
        expect(cell(page, "6 A, Rated of Horn")).to_have_class(re.compile("wrong"))
        page.reload()
        expect(cell(page, "5 A, Rated of Horn")).to_be_visible()
        expect(page.get_by_text("saved, revision 0")).to_be_visible()

    def test_sort_filter_and_what_is_to_decide(self) -> None:
        page = self.open("builds/1/stock")
        page.get_by_label("Group by").select_option("none")
        page.get_by_title("Sort by Rated").click()
        page.get_by_title("Sort by Rated").click()
        names = page.locator("td.name")
        expect(names.first).to_have_text("Starter motor")
        page.get_by_role("button", name="3 to decide").click()
        expect(names).to_have_text(
            ["USB charger", "Reversing lamp", "Idle valve", "type or paste here to add rows"]
        )


class ImportTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def choose(self, page: Page, name: str, text: str) -> None:
        file = self.folder / name
        file.write_text(text, encoding="utf-8")
        page.get_by_label("Table").set_input_files(file)

    def test_a_bad_file_is_marked_cell_by_cell_and_a_good_one_comes_in(self) -> None:
        page = self.open("builds/1/stock")
        page.get_by_role("link", name="Import…").click()
        self.choose(page, "bad.csv", BAD)
        expect(page.get_by_text("Cells are separated by semicolons")).to_be_visible()
        expect(page.get_by_label("Item means")).to_have_value("name")
        expect(page.get_by_label("Colour means")).to_have_value("")
        expect(page.get_by_role("alert")).to_contain_text("3 cells in 3 rows cannot be read")
        lots = page.get_by_role("cell").filter(has_text="lots")
        expect(lots).to_contain_text("watts or amps, like 55 W or 0.5 A")
        expect(page.get_by_role("cell").filter(has_text="sometimes")).to_contain_text(
            "one of always"
        )
        expect(page.get_by_role("button", name="Import 3 rows")).to_be_disabled()
        page.get_by_label("What Reading lamp is").select_option("Courtesy lamp 5 W")
        expect(page.get_by_role("alert")).to_contain_text("2 cells in 2 rows")

        self.choose(page, "good.csv", GOOD)
        expect(page.get_by_role("alert")).to_have_count(0)
        page.get_by_role("button", name="Import 3 rows").click()
        expect(cell(page, "Reading lamp, name")).to_be_visible()
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        page.get_by_role("searchbox").fill("horn 2")
        expect(cell(page, "48 W, Rated of Horn 2")).to_be_visible()
        page.get_by_role("searchbox").fill("left seat")
        expect(cell(page, "Left seat, Where of Seat heater left")).to_be_visible()
        page.get_by_role("searchbox").fill("reading")
        page.get_by_title("Undo: Import 3 rows from good.csv").get_by_role("button").click()
        expect(cell(page, "Reading lamp, name")).to_have_count(0)

    def test_files_that_are_no_table_and_a_photo_that_is_none(self) -> None:
        page = self.open("builds/1/stock/import")
        self.choose(page, "empty.csv", "Name,Where\n")
        expect(page.get_by_role("alert")).to_contain_text("headings, but no rows")
        page.goto(f"{self.server.address}builds/1/stock")
        page.get_by_role("button", name="More of Horn").first.click()
        fake = self.folder / "horn.jpg"
        fake.write_text("<script>alert(1)</script>")
        page.get_by_label("Photo", exact=True).set_input_files(fake)
        expect(page.get_by_role("alert")).to_contain_text("not a picture that can be read")
        real = self.folder / "horn.png"
        Image.new("RGB", (800, 600), "brown").save(real)
        page.get_by_label("Photo", exact=True).set_input_files(real)
        expect(page.get_by_role("img", name=re.compile("Photo of"))).to_be_visible()


class LoomsTest(BrowserTest):
    def test_an_old_loom_is_weighed_and_counted_down(self) -> None:
        page = self.open("builds/2/stock/old-loom")
        page.get_by_role("button", name="Tail lamps").click()
        sheet = page.get_by_role("complementary", name="Found: Tail lamps")
        sheet.get_by_role("button", name=re.compile("length, m$")).last.click()
        length = sheet.get_by_role("textbox", name="length, m")
        length.fill("far")
        length.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("no length of a stretch")
        length.fill("44.6 m")
        length.press("Enter")
        expect(sheet).to_contain_text("44.6")
        page.goto(f"{self.server.address}builds/2/make/old")
        expect(page.get_by_text("taken out 0.31 kg")).to_be_visible()
        left = page.get_by_role("status").filter(has_text="left to do")
        expect(left).to_have_text("6 of 8 ends are left to do")
        page.get_by_label("Heater blower at blower done").check()
        expect(left).to_have_text("5 of 8 ends are left to do")
        expect(page.get_by_label("Ignition feed at coil done")).to_be_disabled()
        page.get_by_role("button", name="Undo").click()
        expect(left).to_have_text("6 of 8 ends are left to do")

    def test_a_save_that_takes_long_takes_nobody_out_of_the_next_field(self) -> None:
        self.context.add_init_script(SLOW_EDITS)
        page = self.open("builds/2/stock/old-loom")
        page.get_by_role("button", name="Tail lamps").click()
        first = (
            page.get_by_role("complementary", name="Found: Tail lamps").get_by_role("row").nth(1)
        )
        first.get_by_role("button", name=re.compile("gauge$")).click()
        first.get_by_role("textbox", name="gauge").fill("1.5 mm²")
        page.keyboard.press("Enter")
        first.get_by_role("button", name=re.compile("joint$")).click()
        page.keyboard.type("crimp")
        expect(page.get_by_text("saved, revision 1")).to_be_visible()
        expect(first.get_by_role("button", name="1.5 mm², gauge")).to_be_visible()
        page.keyboard.type("ed")
        expect(first.get_by_role("textbox", name="joint")).to_have_value("crimped")

    def test_what_is_found_is_judged_as_it_is_typed(self) -> None:
        page = self.open("builds/1/stock/old-loom")
        page.get_by_label("Circuit found").fill("Tail lamps")
        page.keyboard.press("Enter")
        found = page.get_by_role("complementary", name="Found: Tail lamps")
        for rows, colour, gauge in ((2, "rd bk", "1 mm2"), (3, "RD", "0.5")):
            found.get_by_role("button", name="Add a stretch").click()
            expect(found.get_by_role("row")).to_have_count(rows)
            last = found.get_by_role("row").last
            last.get_by_role("button", name=re.compile("colour$")).click()
            last.get_by_label("colour").fill(colour)
            last.get_by_label("colour").press("Enter")
            expect(last).to_contain_text(colour.upper().replace(" ", "/"))
            last.get_by_role("button", name=re.compile("gauge$")).click()
            last.get_by_label("gauge").fill(gauge)
            last.get_by_label("gauge").press("Enter")
            expect(last).to_contain_text(gauge)
        expect(found).to_contain_text("no more than its thinnest, 0.5 mm²")
        expect(found).to_contain_text("red with a black tracer, then red")
        expect(found).to_contain_text("No fuse protects it")

    def test_pins_are_mapped_and_proved_and_a_harness_is_held_against_the_list(self) -> None:
        page = self.open("builds/2/stock/two-harnesses")
        page.get_by_label("Oil warning proved by continuity").check()
        expect(page.get_by_text("6 functions, 3 proved by continuity")).to_be_visible()
        row = page.get_by_role("row").filter(has_text="GN/BU")
        row.get_by_role("button", name="D, new pin").click()
        page.get_by_role("textbox", name="new pin", exact=True).fill("E")
        page.keyboard.press("Enter")
        expect(page.get_by_text("also stands for")).to_have_count(0)

        page.get_by_role("link", name="Ready-made harness").click()
        page.get_by_placeholder("Circuit, or paste").focus()
        paste(page, "Seat heater\t16 AWG\t3 ft 4\t10\nWasher pump\t0.5\t1.0 m\t5\n")
        washer = page.get_by_role("row").filter(has_text="Washer pump")
        expect(washer).to_contain_text("too short")
        expect(page.get_by_role("row").filter(has_text="Seat heater")).to_contain_text("1.016")

"""Hand over: where one was, revisions compared and gone back to, the book made and stopped."""

import re
import sqlite3
from contextlib import closing

from playwright.sync_api import Route, expect

from tests.browser.base import BrowserTest, type_cell
from tests.browser.running import read_notice


class HandOverTest(BrowserTest):
    cars = ("demo/saltmarsh-roadster.json",)

    def test_where_was_i_and_a_line_that_outlives_a_reload(self) -> None:
        page = self.open("builds/1/make")
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route) if route.request.method == "POST" else route.fallback()

        page.route(re.compile("/made$"), hold)  # the journal is read before the tick is kept
        page.get_by_label("All of Horn cut").click()
        page.get_by_role("link", name=re.compile("^Hand over")).click()
        evenings = page.get_by_role("region", name="Evenings")
        expect(evenings).to_contain_text("Nothing done yet")
        held[0].continue_()
        expect(evenings).to_contain_text(re.compile(r"Wires: \d+ cut"))
        expect(page.get_by_role("region", name="Next")).to_contain_text("In the next hour")
        form = page.get_by_role("form", name="Write a line")
        form.get_by_role("textbox", name="What was done").fill("Hole is too small")
        page.reload()
        expect(form.get_by_role("textbox", name="What was done")).to_have_value("Hole is too small")
        form.get_by_label("Minutes").fill("an hour")
        form.get_by_role("button", name="Write it down").click()
        expect(form.get_by_role("alert")).to_contain_text("no number of minutes")
        form.get_by_label("Minutes").fill("60")
        form.get_by_role("button", name="Write it down").click()
        expect(evenings).to_contain_text("Hole is too small")
        expect(page.get_by_role("region", name="Hours")).to_contain_text("1.0 h")
        expect(form.get_by_role("textbox", name="What was done")).to_have_value("")

    def test_a_car_is_changed_compared_and_gone_back_to(self) -> None:
        page = self.open("builds/1/stock")
        type_cell(page, "Horn, name", "Hooter")
        expect(page.get_by_title(re.compile("^Undo"))).to_be_enabled()
        page.get_by_role("link", name=re.compile("^Hand over")).click()
        page.get_by_role("link", name="Revisions").click()
        name = page.get_by_label("Name of revision 1")
        name.fill("before the loom")
        name.press("Tab")
        page.get_by_label("Compare revision 0 with now").check()
        told = page.get_by_role("region", name="Comparison")
        expect(told).to_contain_text("1 load: Hooter")
        told.get_by_role("button", name="Go back to revision 0").click()
        expect(page.get_by_title("Undo: Back to revision 0")).to_be_visible()
        expect(page.get_by_label("Name of revision 1")).to_have_value("before the loom")
        page.get_by_role("link", name=re.compile("^Take stock")).click()
        expect(page.get_by_role("gridcell", name="Horn, name", exact=True)).to_be_visible()

    def test_who_comes_back_is_told_what_was_done_last(self) -> None:
        page = self.open("builds/1/stock")
        type_cell(page, "Horn, name", "Hooter")
        expect(page.get_by_title(re.compile("^Undo"))).to_be_enabled()
        last = page.get_by_role("region", name="Last time")
        expect(last).to_have_count(0)
        with closing(sqlite3.connect(self.server.data / "oilstone.sqlite3")) as data, data:
            data.execute("UPDATE builds_edit SET at = datetime('now', '-21 days')")
        back = self.new_context()
        self.addCleanup(back.close)
        again = back.new_page()
        again.goto(f"{self.server.address}builds/1/circuits")
        read_notice(again)
        told = again.get_by_role("region", name="Last time")
        expect(told).to_contain_text("Changed: ")
        expect(told).to_contain_text("In the next hour: the")
        told.get_by_role("link", name="Where was I?").click()
        expect(again.get_by_role("region", name="Evenings")).to_contain_text("Changed: ")
        expect(told).to_have_count(0)

    def test_another_build_is_compared_and_a_function_of_it_taken_over(self) -> None:
        page = self.open("")
        page.get_by_role("button", name="Copy Saltmarsh Roadster").click()
        page.get_by_role("link", name="Saltmarsh Roadster, copy").click()
        type_cell(page, "Horn, name", "Hooter")
        page.get_by_role("link", name=re.compile("^Hand over")).click()
        page.get_by_role("link", name="Revisions").click()
        page.get_by_label("Compare with another build").select_option("Saltmarsh Roadster")
        told = page.get_by_role("region", name="Comparison")
        expect(told).to_contain_text("1 load: Hooter")
        page.goto(f"{self.server.address}builds/2/circuits/add")
        page.get_by_label("As in another build").select_option(label="Driver seat heater")
        expect(page.get_by_role("heading", name="One load")).to_be_visible()
        expect(page.get_by_role("status").filter(has_text="seat heater")).to_be_visible()
        page.reload()
        page.get_by_role("button", name=re.compile("^Write ")).click()
        expect(page).to_have_url(re.compile(r"/builds/2/circuits/[^/]*seat-heater"))

    def test_the_book_is_made_and_stopped(self) -> None:
        page = self.open("builds/1/hand-over/book")
        form = page.get_by_role("form", name="Make the book")
        form.get_by_label("Built by").fill("A shop of no name")
        with page.expect_download() as download:
            form.get_by_role("button", name="Make the PDF").click()
        self.assertEqual(download.value.suggested_filename, "Saltmarsh Roadster, book.pdf")
        expect(form.get_by_role("status")).to_contain_text("with your downloads")
        form.get_by_role("button", name="Make the PDF").click()
        stop = page.get_by_role("button", name=re.compile("^Stop"))
        stop.click()
        expect(form.get_by_role("alert")).to_contain_text(re.compile("stopped", re.I))
        page.reload()
        expect(form.get_by_label("Built by")).to_have_value("A shop of no name")
        form.get_by_role("combobox", name=re.compile("^Of")).select_option(label="Horn")
        with page.expect_download() as download:
            form.get_by_role("button", name="Make the PDF").click()
        self.assertEqual(download.value.suggested_filename, "Saltmarsh Roadster, Horn.pdf")

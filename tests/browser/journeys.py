"""``make journeys``: ten ways of a new user through the program, filmed at three sizes of screen.

Each is one picture in ``journeys/``: a row a size, a frame a step. A frame that is wider than its
screen, or a page with an error, is told.
"""

import io
import re
import sys
from collections.abc import Callable, Iterator, Sequence

from PIL import Image
from playwright.sync_api import Browser, Page, sync_playwright

from tests.browser.base import WAIT_MS
from tests.browser.running import RunningServer, launch, read_notice
from tests.browser.test_accessibility import SCREENS, TOO_WIDE
from tests.commands import ROOT

FILM = ROOT / "journeys"
SIZES = ("phone", "tablet", "laptop")
FRAME_PX = 420
"""How high a frame is in the picture."""
SETTLES_MS = 900
Journey = Callable[[Page, str], Iterator[None]]
"""Yields whenever there is something to look at."""


def first_list(page: Page, address: str) -> Iterator[None]:
    """From nothing to the list of a car."""
    yield
    page.get_by_role("button", name="Start from a kind of car").click()
    page.get_by_label("Name of the build").fill("Fen buggy")
    yield
    page.get_by_label("Body style").select_option("buggy")
    page.get_by_role("button", name="Write the first list").click()
    page.get_by_role("link", name="Draft the wiring of").wait_for()
    yield
    page.get_by_role("link", name="Draft the wiring of").click()
    page.get_by_role("region", name="What it takes").wait_for()
    yield


def walk(page: Page, address: str) -> Iterator[None]:
    """The short walk through a car."""
    page.goto(f"{address}builds/1/circuits")
    page.get_by_role("button", name="Help").click()
    yield
    page.goto(address)
    page.get_by_role("button", name="A short walk through Saltmarsh Roadster").click()
    for _ in range(3):
        page.get_by_role("region", name="A short walk").wait_for()
        yield
        page.get_by_role("button", name="Go on").click()


def a_load(page: Page, address: str) -> Iterator[None]:
    """A load typed into the list, and what is fitted for it."""
    page.goto(f"{address}builds/1/stock")
    page.get_by_role("combobox", name="New load").fill("Rear fog lamp")
    page.get_by_role("form").get_by_label("Where").select_option(label="Tail, middle")
    page.get_by_role("form").get_by_label("Live from").select_option("run")
    page.get_by_text("Oilstone would fit").wait_for()
    yield
    page.get_by_role("combobox", name="New load").press("Enter")
    page.get_by_role("button", name="Undo").and_(page.locator(":enabled")).wait_for()
    yield


def a_function(page: Page, address: str) -> Iterator[None]:
    """A whole function asked for, and its truth table."""
    page.goto(f"{address}builds/2/circuits/add")
    yield
    page.goto(f"{address}builds/2/circuits/add/spare-wires")
    page.get_by_role("heading", name="Spare wires").wait_for()
    yield
    page.goto(f"{address}builds/2/circuits/turn-and-hazard-lamps")
    page.get_by_role("tab", name="Truth table").click()
    page.get_by_role("table", name=re.compile("Truth table")).wait_for()
    yield


def a_finding(page: Page, address: str) -> Iterator[None]:
    """A finding read, weighed and mended."""
    page.goto(f"{address}builds/1/circuits/radiator-fan")
    page.get_by_role("button", name="What else changes?").first.click()
    page.get_by_text("also changes").wait_for()
    yield
    page.get_by_role("button", name=re.compile("^Fit ")).first.click()
    page.wait_for_timeout(3000)
    yield


def laying_out(page: Page, address: str) -> Iterator[None]:
    """A place opened, a run measured."""
    page.goto(f"{address}builds/2/lay-out")
    page.get_by_role("button", name=re.compile("^Dash, ")).press("Enter")
    yield
    page.get_by_role("tab", name="Runs").click()
    page.get_by_role("button", name="Panel shelf – Dash").click()
    yield


def the_bench(page: Page, address: str) -> Iterator[None]:
    """The key on, the lamps lit, a fault dealt."""
    page.goto(f"{address}builds/1/bench")
    page.get_by_role("radio", name="run", exact=True).first.click()
    page.get_by_role("radio", name="head").first.click()
    page.wait_for_timeout(1500)
    yield
    page.get_by_role("tab", name="Every load").click()
    yield


def the_proof(page: Page, address: str) -> Iterator[None]:
    """A step of the proof with a reading that is off, then the search for what is wrong."""
    page.goto(f"{address}builds/1/power-up?circuit=main-beam-left")
    page.get_by_text("Step 1 of").wait_for()
    yield
    every = page.get_by_role("link", name="All steps").or_(
        page.get_by_role("button", name="All steps")
    )
    if every.is_visible():
        every.click()
    page.get_by_role("link", name="Main beam: Light switch to head, Dip switch to main").click()
    page.get_by_label("Volts at Main beam left").fill("12.1")
    page.get_by_label("Amps of Main beam left").fill("3.2")
    page.get_by_text("too low by").wait_for()
    yield
    page.goto(f"{address}builds/1/find-a-fault")
    page.wait_for_timeout(2000)
    yield


def making(page: Page, address: str) -> Iterator[None]:
    """Wires, the board, plugs, the old loom."""
    for view in ("make", "make/cuts", "make/board", "make/plugs", "make/old"):
        page.goto(f"{address}builds/2/{view}")
        page.get_by_role("navigation", name="Lists").wait_for()
        yield


def handing_over(page: Page, address: str) -> Iterator[None]:
    """Where was I, what changed, the budget, the book."""
    for view in ("hand-over", "hand-over/revisions", "hand-over/book", "budget", "size"):
        page.goto(f"{address}builds/1/{view}")
        page.get_by_role("main").first.wait_for()
        yield


JOURNEYS: Sequence[Journey] = (
    *(first_list, walk, a_load, a_function, a_finding),
    *(laying_out, the_bench, the_proof, making, handing_over),
)


def main() -> None:
    """Film those that are named, or all."""
    FILM.mkdir(exist_ok=True)
    asked = [row for row in JOURNEYS if not sys.argv[1:] or row.__name__ in sys.argv[1:]]
    with sync_playwright() as playwright:
        browser = launch(playwright)
        for journey in asked:
            rows = [filmed(browser, journey, size) for size in SIZES]
            put_together(rows).save(FILM / f"{journey.__name__}.png")
        browser.close()


def filmed(browser: Browser, journey: Journey, size: str) -> list[Image.Image]:
    """The frames of a journey on a screen of this size."""
    server, frames = RunningServer(cars=()), []
    try:
        wide, high = SCREENS[size]
        page = browser.new_page(
            viewport={"width": wide, "height": high}, has_touch=size != "laptop"
        )
        page.set_default_timeout(WAIT_MS)
        page.on("pageerror", lambda problem: print(f"{journey.__name__}, {size}: {problem}"))
        page.goto(server.address)
        read_notice(page)
        for number, _ in enumerate(journey(page, server.address), 1):
            page.wait_for_timeout(SETTLES_MS)
            for said in page.evaluate(TOO_WIDE):
                print(f"{journey.__name__}, {size}, frame {number}: {said}")
            frames.append(Image.open(io.BytesIO(page.screenshot())))
        page.close()
    finally:
        server.close()
    return frames


def put_together(rows: Sequence[Sequence[Image.Image]]) -> Image.Image:
    """Frames of one height, a row a size."""
    scaled = [
        [row.resize((round(row.width * FRAME_PX / row.height), FRAME_PX)) for row in frames]
        for frames in rows
    ]
    wide = max(sum(frame.width + 6 for frame in row) for row in scaled)
    picture = Image.new("RGB", (wide, len(scaled) * (FRAME_PX + 6)), "grey")
    for line, row in enumerate(scaled):
        x = 0
        for frame in row:
            picture.paste(frame, (x, line * (FRAME_PX + 6)))
            x += frame.width + 6
    return picture


if __name__ == "__main__":
    main()

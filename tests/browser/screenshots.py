"""``make screenshots``: one picture of each main view, from the demo data."""

import re
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.browser.running import RunningServer, launch, read_notice
from tests.commands import ROOT

PICTURES = ROOT / "docs" / "screenshots"


def main() -> None:
    """Start a server of its own, walk through the views and keep their pictures."""
    PICTURES.mkdir(parents=True, exist_ok=True)
    server = RunningServer(cars=())
    try:
        with sync_playwright() as playwright:
            browser = launch(playwright)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(server.address)
            page.get_by_text("I have read this").wait_for()
            read_notice(page)
            take_stock(page, server.address)
            lay_out(page, f"{server.address}builds/2")
            circuits_and_bench(page, f"{server.address}builds/1")
            modules(page, f"{server.address}builds/3")
            in_the_car(page, f"{server.address}builds/1")
            browser.close()
    finally:
        server.close()


def take_stock(page: Page, address: str) -> None:
    """The start, the stock list, the old looms and an import."""
    page.goto(f"{address}start")
    page.get_by_label("Name of the build").fill("Fen buggy")
    take(page, "start", lambda: page.get_by_text("What it has").wait_for())
    for what in ("wipers", "heater", "electric fan"):
        page.get_by_label(what, exact=True).check()
    page.get_by_role("button", name="Write the first list").click()
    page.get_by_role("link", name="Draft the wiring of").click()
    page.get_by_role("button", name="Modules", exact=True).click()
    takes = page.get_by_role("region", name="What it takes")
    take(page, "draft", takes.get_by_role("columnheader", name="Modules").wait_for)

    page.goto(f"{address}builds/1/stock")
    page.get_by_role("combobox", name="New load").fill("Rear fog lamp")
    page.get_by_role("form").get_by_label("Where").select_option(label="Tail, middle")
    page.get_by_role("form").get_by_label("Live from").select_option("run")
    take(page, "take-stock", lambda: page.get_by_text("Oilstone would fit").wait_for())

    page.goto(f"{address}builds/2/stock/old-loom")
    page.get_by_role("button", name="Tail lamps", exact=True).click()
    take(page, "old-loom", lambda: page.get_by_text("twisted joint").wait_for())


def lay_out(page: Page, build: str) -> None:
    """The plan with its runs."""
    page.goto(f"{build}/lay-out")
    page.get_by_role("button", name="Bulkhead, front side – Nose, behind the radiator").click()
    take(page, "lay-out", lambda: page.get_by_text("wires pass here").wait_for())


def circuits_and_bench(page: Page, build: str) -> None:
    """A circuit with a finding, the bench by day and in the dark, a live circuit."""
    page.goto(f"{build}/feeds")
    take(page, "feeds", lambda: page.get_by_text("Feed stud").wait_for())
    page.goto(f"{build}/feeds/overview")
    take(page, "overview", lambda: page.locator("svg.schematic").wait_for())
    page.goto(f"{build}/circuits/add/fogs")
    page.get_by_role("button", name="What the evening takes").and_(
        page.locator(":enabled")
    ).wait_for()
    take(page, "functions", lambda: page.get_by_text("wires: W").wait_for())
    page.goto(f"{build}/circuits/radiator-fan")
    page.get_by_role("button", name="What else changes?").first.click()
    take(page, "circuits", lambda: page.get_by_text("also changes").wait_for())

    page.goto(f"{build}/circuits/horn")
    page.get_by_role("tab", name="Time and heat").click()
    take(page, "time-current", lambda: page.get_by_text("Worst point").wait_for())
    page.goto(f"{build}/size")
    page.get_by_role("button", name="What would change?").click()
    take(page, "size", lambda: page.get_by_role("button", name="Do it").wait_for())

    page.goto(f"{build}/budget")
    take(page, "budget", lambda: page.get_by_role("button", name="Fit 80 A").wait_for())
    page.goto(f"{build}/make")
    page.get_by_role("button", name="W2", exact=True).click()
    take(page, "make", lambda: page.get_by_text("for the ends").wait_for())
    page.goto(f"{build}/make/board")
    page.get_by_role("combobox", name=re.compile("^Light")).select_option(value="w86")
    take(page, "loom-board", lambda: page.get_by_text("cut at").wait_for())
    page.goto(f"{build}/make")
    for circuit, step in (("Horn", "laid"), ("Main feed", "cut"), ("Radio", "ended")):
        page.get_by_label(f"All of {circuit} {step}").check()
    page.goto(f"{build}/hand-over")
    take(page, "hand-over", lambda: page.get_by_text("Wires: ").wait_for())
    page.goto(f"{build}/bench")
    bench(page)
    page.get_by_role("button", name="Paper").click()


def bench(page: Page) -> None:
    """The bench in a dark garage with a bad joint under the probe."""
    page.get_by_role("radio", name="run").click()
    page.get_by_role("radio", name="head").click()
    page.get_by_role("radio", name="main").click()
    page.get_by_role("radiogroup", name="Turn switch").get_by_role("radio", name="left").click()
    page.wait_for_timeout(2500)
    page.get_by_text("● LIVE").first.wait_for()
    page.get_by_role("button", name="Dark").click()
    page.get_by_text("Put one in by hand").click()
    page.get_by_label("Kind of fault").select_option(label="joint with too much resistance")
    page.get_by_label("Where it is").select_option(label="W59")
    page.get_by_role("button", name="Put it in").click()
    page.get_by_role("button", name=re.compile("^Main beam right:")).click()
    page.get_by_role("button", name="Voltmeter across it").click()
    page.get_by_role("button", name="Close").click()
    page.wait_for_timeout(1500)
    take(page, "bench-dark", lambda: page.get_by_text("too low").wait_for())


def modules(page: Page, build: str) -> None:
    """What a module does, in words, with one condition open."""
    page.goto(f"{build}/feeds/modules")
    page.get_by_role("button", name="Front module, C11 is on").click()
    take(page, "modules", page.get_by_role("table", name="Truth table").wait_for)


def in_the_car(page: Page, build: str) -> None:
    """Power up with a reading that is off; and the search for what is wrong."""
    page.goto(f"{build}/power-up?circuit=main-beam-left")
    page.get_by_role("link", name="Main beam: Light switch to head, Dip switch to main").click()
    page.get_by_label("Volts at Main beam left").fill("12.1")
    page.get_by_label("Amps of Main beam left").fill("3.2")
    take(page, "power-up", lambda: page.get_by_text("too low by").wait_for())
    page.goto(f"{build}/find-a-fault")
    page.get_by_label("what is operated").select_option(label="Dipped beam: Light switch to head")
    for lamp, word in (("Dipped beam left", "dim"), ("Dipped beam right", "works")):
        page.get_by_label("what", exact=True).select_option(label=lamp)
        page.get_by_label("what it does").select_option(word)
        page.get_by_role("button", name="That is what I see").click()
        page.wait_for_timeout(3000)
    settled = page.locator(".next[aria-busy=false]")
    take(
        page,
        "find-a-fault",
        lambda: (page.wait_for_timeout(1500), settled.wait_for(timeout=60_000)),
    )


def take(page: Page, name: str, wait: object) -> None:
    """Wait until the view shows what it should, let it settle, and keep its picture."""
    if callable(wait):
        wait()
    page.wait_for_timeout(1000)
    page.wait_for_timeout(400)
    page.screenshot(path=Path(PICTURES / f"{name}.png"))


if __name__ == "__main__":
    main()

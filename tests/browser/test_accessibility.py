"""No serious barrier on any main view, by day and in the dark, and room for it on every screen."""

from typing import Any

from playwright.sync_api import Page, Request, expect

from tests.browser.base import BrowserTest
from tests.browser.running import read_notice
from tests.core.cars import ROOT

AXE = ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
SERIOUS = ("serious", "critical")
VIEWS = {
    "builds": "",
    "start": "start",
    "take stock": "builds/1/stock",
    "draft": "builds/1/stock/draft",
    "import": "builds/1/stock/import",
    "old loom": "builds/2/stock/old-loom",
    "two harnesses": "builds/2/stock/two-harnesses",
    "ready-made harness": "builds/2/stock/ready-made",
    "lay out": "builds/2/lay-out",
    "feeds and grounds": "builds/1/feeds",
    "overview": "builds/1/feeds/overview",
    "modules": "builds/2/feeds/modules",
    "change over": "builds/2/feeds/change-over",
    "circuits": "builds/1/circuits/radiator-fan",
    "a function": "builds/1/circuits/add/headlamps",
    "size": "builds/1/size",
    "budget": "builds/1/budget/rain-town",
    "make": "builds/1/make",
    "loom board": "builds/2/make/board",
    "cut list": "builds/1/make/cuts",
    "plugs": "builds/1/make/plugs",
    "splices": "builds/1/make/splices",
    "shopping list": "builds/1/make/shopping",
    "old loom to do": "builds/2/make/old",
    "where was I": "builds/1/hand-over",
    "revisions": "builds/1/hand-over/revisions",
    "book": "builds/1/hand-over/book",
    "bench": "builds/1/bench",
    "power up": "builds/1/power-up",
    "find a fault": "builds/1/find-a-fault",
    "power up a step": "builds/1/power-up?circuit=main-beam-left",
    "type in a sheet": "builds/1/power-up?type=yes",
}

DARK = (
    "take stock",
    "draft",
    "modules",
    "circuits",
    "size",
    "budget",
    "make",
    "plugs",
    "loom board",
    "where was I",
    "bench",
    "power up a step",
    "find a fault",
)

SCREENS = {
    "phone": (390, 844),
    "tablet": (768, 1024),
    "laptop": (1280, 800),
    "large": (1920, 1080),
    "laptop at 200 %": (640, 400),
}

GO = """(path) => {
  history.pushState({}, '', path)
  dispatchEvent(new PopStateEvent('popstate', { state: null }))
}"""
LOOK_MS, QUIET_LOOKS = 100, 4

TOO_WIDE = """() => [document.documentElement, ...document.querySelectorAll('main, button')]
  .filter((box) => box.clientWidth > 0 && box.scrollWidth > box.clientWidth + 1)
  .filter((box) => !box.closest('.visually-hidden'))
  .map((box) => `${box.tagName} is ${box.scrollWidth} px: ${box.innerText.slice(0, 40)}`)"""

TOO_LOW = """() => {
  const height = (at) => {  // what surrounds a small box is pressed with it
    const around = getComputedStyle(at, '::after')
    const small = /checkbox|radio/.test(at.type)
    const more = small && around.position === 'absolute' ? around : null
    const reach = more ? -parseFloat(more.top) - parseFloat(more.bottom) : 0
    return at.getBoundingClientRect().height + reach
  }
  return [...document.querySelectorAll('button, select, summary, input, nav a')]
  .filter((at) => !at.closest('.visually-hidden, svg'))
  .map((at) => [at, (/checkbox|radio/.test(at.type) && at.labels[0]) || at])
  .filter(([at, pressed]) => at.checkVisibility() && pressed.clientHeight > 0)
  .filter(([at, pressed]) => height(pressed) < 43.5)
  .filter(([at]) => !at.id || !/checkbox|radio/.test(at.type))
  .map(([at]) => `${at.tagName} ${at.ariaLabel ?? at.innerText} is too low for a finger`)
}"""


class Visitor:
    """Goes from view to view of one page as its links do, and waits until each is filled."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self._asked: set[Request] = set()
        page.on("request", self._begun)
        page.on("requestfinished", self._ended)
        page.on("requestfailed", self._ended)

    def _begun(self, request: Request) -> None:
        if not request.url.partition("?")[0].endswith("/stream"):  # which never ends
            self._asked.add(request)

    def _ended(self, request: Request) -> None:
        self._asked.discard(request)

    def goes_to(self, path: str) -> None:
        """Show a view, and wait until nothing that it asked for is on its way."""
        self.page.evaluate(GO, f"/{path}")
        self.page.get_by_role("main").first.wait_for()
        quiet = 0
        while quiet < QUIET_LOOKS:
            self.page.wait_for_timeout(LOOK_MS)
            quiet = 0 if self._asked else quiet + 1


def barriers(page: Page) -> list[str]:
    """What stands in the way on this page: the rule, and the first thing that breaks it."""
    page.evaluate(AXE.read_text(encoding="utf-8"))
    answer: dict[str, Any] = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        f"{row['id']} ({len(row['nodes'])}): {row['nodes'][0]['html'][:140]}"
        for row in answer["violations"]
        if row["impact"] in SERIOUS
    ]


class AccessibilityTest(BrowserTest):
    maxDiff = None

    def test_none_in_the_dark_or_on_a_tablet_either(self) -> None:
        page = self.open("builds/1/bench")
        page.get_by_role("button", name="Dark").click()
        visitor, found = Visitor(page), {}
        for name in DARK:
            visitor.goes_to(VIEWS[name])
            found[f"{name}, dark"] = barriers(page)
        page.set_viewport_size({"width": 768, "height": 1024})
        for name in ("bench", "power up a step"):
            visitor.goes_to(VIEWS[name])
            found[f"{name}, tablet"] = barriers(page)
        self.assertEqual({name: rows for name, rows in found.items() if rows}, {})

    def test_help_is_there_by_stage_and_searched_and_gives_the_focus_back(self) -> None:
        page = self.open("builds/1/make/cuts")
        helped = page.get_by_role("button", name="Help")
        helped.focus()
        page.keyboard.press("Enter")
        sheet = page.get_by_role("dialog")
        for title in ("Make", "Words met here", "Keys"):
            expect(sheet.get_by_role("heading", name=title, exact=True)).to_be_visible()
        expect(sheet.get_by_role("heading", name="Budget", exact=True)).to_have_count(0)
        sheet.get_by_role("searchbox").fill("left half empty")
        expect(sheet.get_by_role("term")).to_have_text(["sulphation"])
        self.assertEqual(barriers(page), [])
        sheet.get_by_role("searchbox").fill("zeppelin")
        expect(sheet.get_by_text("Nothing here says “zeppelin”.")).to_be_visible()
        page.keyboard.press("Escape")  # what is looked for
        page.keyboard.press("Escape")  # and the sheet
        expect(sheet).to_have_count(0)
        expect(helped).to_be_focused()

    def test_every_view_is_without_barrier_and_has_room_on_every_screen(self) -> None:
        context = self.new_context(has_touch=True)
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.address)
        read_notice(page)
        visitor, found = Visitor(page), {}
        for name, path in VIEWS.items():
            page.set_viewport_size({"width": 390, "height": 844})
            visitor.goes_to(path)
            found[f"{name}, by finger"] = page.evaluate(TOO_LOW)
            page.set_viewport_size({"width": 1280, "height": 800})
            found[f"{name}, barriers"] = barriers(page)
            for screen, (width, height) in SCREENS.items():
                page.set_viewport_size({"width": width, "height": height})
                page.wait_for_timeout(120)
                found[f"{name}, {screen}"] = page.evaluate(TOO_WIDE)
        page.locator("[aria-controls=findings-list]").first.click()
        page.get_by_role("button", name="Mend all that are safe").wait_for()
        for screen, (width, height) in SCREENS.items():
            page.set_viewport_size({"width": width, "height": height})
            found[f"findings, {screen}"] = page.evaluate(TOO_WIDE)
        self.assertEqual({name: rows for name, rows in found.items() if rows}, {})

"""A browser in front of the real server, with nothing asked of any other machine."""

from unittest import TestCase
from urllib.parse import urlsplit

from playwright.sync_api import (
    Browser,
    BrowserContext,
    Locator,
    Page,
    Playwright,
    Route,
    expect,
    sync_playwright,
)

from tests.browser.running import TEST_CARS, RunningServer, launch, read_notice

WAIT_MS = 60_000
"""Long enough for a machine that has a slow hour."""
expect.set_options(timeout=WAIT_MS)


class BrowserTest(TestCase):
    """Each test has a server of its own with fresh demo data, and a fresh browser profile."""

    cars = TEST_CARS

    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = launch(cls.playwright)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.server = RunningServer(self.cars)
        self.addCleanup(self.server.close)
        self.outside: list[str] = []
        self.errors: list[str] = []
        self.context = self.new_context()
        self.addCleanup(self.context.close)

    def tearDown(self) -> None:
        self.assertEqual(self.outside, [], "requests left the machine")
        self.assertEqual(self.errors, [], "the page had errors")

    def new_context(self, has_touch: bool = False) -> BrowserContext:
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, has_touch=has_touch
        )
        context.set_default_timeout(WAIT_MS)
        context.route("**/*", self._only_here)
        return context

    def open(self, path: str = "", first: bool = True) -> Page:
        """A new tab on this address; the safety notice is read on the first."""
        page = self.context.new_page()
        page.on("pageerror", lambda problem: self.errors.append(str(problem)))
        page.goto(f"{self.server.address}{path}")
        if first:
            read_notice(page)
        return page

    def _only_here(self, route: Route) -> None:
        if urlsplit(route.request.url).hostname == "127.0.0.1":
            route.continue_()
        else:
            self.outside.append(route.request.url)
            route.abort()


def cell(page: Page, name: str) -> Locator:
    """A cell of the stock list by what it says: ``Horn, name`` or ``5 A, Rated of Horn``."""
    return page.get_by_role("gridcell", name=name, exact=True)


def type_cell(page: Page, name: str, text: str) -> None:
    """Choose a cell and type over it, as one would in a spreadsheet."""
    cell(page, name).click()
    page.keyboard.type(text)
    page.keyboard.press("Enter")


def paste(page: Page, text: str) -> None:
    """Paste text where the cursor is, as from another program."""
    page.evaluate(
        """text => {
            const data = new DataTransfer()
            data.setData('text/plain', text)
            const how = { clipboardData: data, bubbles: true, cancelable: true }
            const event = new ClipboardEvent('paste', how)
            document.activeElement.dispatchEvent(event)
        }""",
        text,
    )

"""A browser in front of the real server, with nothing asked of any other machine."""

from contextlib import suppress
from multiprocessing.util import Finalize
from unittest import TestCase
from urllib.parse import urlsplit

from playwright.sync_api import (
    Browser,
    BrowserContext,
    Error,
    Locator,
    Page,
    Playwright,
    Request,
    expect,
    sync_playwright,
)

from tests.browser.running import TEST_CARS, RunningServer, launch, read_notice

WAIT_MS = 60_000
"""Long enough for a machine that has a slow hour."""
SHOWN_MS, MOST_SHOWN = 5_000, 1500
expect.set_options(timeout=WAIT_MS)


_servers: dict[tuple[str, ...], RunningServer] = {}
"""What runs in this process, by its cars."""


def started(cars: tuple[str, ...]) -> RunningServer:
    """The server of this process for these cars, with data as at first."""
    server = _servers.get(cars)
    if server and server.command.running:
        server.as_at_first()
        return server
    if server:
        server.close()
    server = _servers[cars] = RunningServer(cars)
    Finalize(None, server.close, exitpriority=1)
    return server


class BrowserTest(TestCase):
    """Each test has fresh demo data and a fresh browser profile. Tests with the same cars have one
    server, which knows what it has computed of them, unless each of a class ``starts_anew``."""

    cars = TEST_CARS
    starts_anew = False

    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = launch(cls.playwright)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        if self.starts_anew:
            self.server = RunningServer(self.cars)
            self.addCleanup(self.server.close)
        else:
            self.server = started(self.cars)
        self.outside: list[str] = []
        self.errors: list[str] = []
        self.context = self.new_context()
        self.addCleanup(self.context.close)

    def tearDown(self) -> None:
        self._tell_what_is_shown()
        self.assertEqual(self.outside, [], "requests left the machine")
        self.assertEqual(self.errors, [], "the page had errors")

    def _tell_what_is_shown(self) -> None:
        """Where a test failed, what its pages show."""
        if self._outcome.success:
            return
        for page in (page for context in self.browser.contexts for page in context.pages):
            with suppress(Error):
                shown = page.locator("body").inner_text(timeout=SHOWN_MS)
                print(f"\n{self.id()} at {page.url}:\n{shown[:MOST_SHOWN]}\n{self.errors}")

    def new_context(self, has_touch: bool = False) -> BrowserContext:
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, has_touch=has_touch
        )
        context.set_default_timeout(WAIT_MS)
        context.on("request", self._note_outside)
        return context

    def open(self, path: str = "", first: bool = True) -> Page:
        """A new tab on this address; the safety notice is read on the first."""
        page = self.context.new_page()
        page.on("pageerror", lambda problem: self.errors.append(str(problem)))
        page.goto(f"{self.server.address}{path}")
        if first:
            read_notice(page)
        return page

    def _note_outside(self, request: Request) -> None:
        address = urlsplit(request.url)
        if address.scheme in ("http", "https", "ws", "wss") and address.hostname != "127.0.0.1":
            self.outside.append(request.url)


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

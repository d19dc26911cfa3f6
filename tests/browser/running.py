"""The real server in its own process on its own data, and a browser to look at it."""

import os
import re
import shutil
import signal
import sqlite3
import tempfile
import time
from contextlib import closing
from functools import cache
from multiprocessing.util import Finalize
from pathlib import Path
from urllib.request import Request, urlopen

from playwright.sync_api import Browser, Page, Playwright

from tests.commands import Command, run

CHROMIUM = shutil.which("chromium") or "/usr/bin/chromium"
QUIET_CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1",
    # A window loads a page of its own for the address bar, which takes longer than most of ours.
    # The rest is what Playwright turns off, of what matters here: the last such list counts.
    "--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup,WebUIOmniboxFullPopup,"
    "HttpsUpgrades,PaintHolding,PreconnectToSearch,AimEnabled,OptimizationHints",
]


TEST_CARS = ("tests/data/part-wired-roadster.json", "demo/fernhill-half-ton-van.json")
"""The roadster as it was half way, with much still to wire, and the van."""
LOOK_S, FIRST = 0.02, "first.sqlite3"


class RunningServer:
    """``manage.py serve`` with data in a folder of its own: the test cars, or others."""

    def __init__(self, cars: tuple[str, ...] = TEST_CARS) -> None:
        self.data, self.cars = Path(tempfile.mkdtemp(prefix="oilstone-")), cars
        shutil.copytree(fresh_data(cars), self.data, dirs_exist_ok=True)
        self.environment = {**os.environ, "OILSTONE_DATA": str(self.data)}
        self.start()

    def start(self, port: str = "0") -> None:
        """Start on a free port, or on this, and wait until it says where it is."""
        self.command = Command(["manage.py", "serve", "--port", port], self.environment)
        while (address := re.search(r"http://\S+", self.command.stdout)) is None:
            if not self.command.running:
                raise RuntimeError(f"the server did not start: {self.command.stderr}")
            time.sleep(LOOK_S)
        self.address = address.group()

    def as_at_first(self) -> None:
        """Make the data what it was, as one does who takes a copy back; what has been computed of
        the cars is still known."""
        first, copies = fresh_data(self.cars), self.data / "copies"
        copies.mkdir(exist_ok=True)
        with (
            closing(sqlite3.connect(first / "oilstone.sqlite3")) as source,
            closing(sqlite3.connect(copies / FIRST)) as target,
        ):
            source.backup(target)
        url = f"{self.address}api/copies/{FIRST}/take-back"
        urlopen(Request(url, method="POST"), timeout=60).close()
        shutil.rmtree(copies)

    def stop(self) -> None:
        """Stop the process; the data stays."""
        self.command.signal(signal.SIGTERM)
        self.command.wait(10)
        self.command.forget()

    def close(self) -> None:
        """Stop and take the data away."""
        self.stop()
        shutil.rmtree(self.data, ignore_errors=True)


@cache
def fresh_data(cars: tuple[str, ...]) -> Path:
    """A folder as the first ``make demo`` leaves it with these cars, made once and copied from.

    Without any it has the demo cars.
    """
    data = Path(tempfile.mkdtemp(prefix="oilstone-fresh-"))
    Finalize(None, shutil.rmtree, (data, True), exitpriority=0)
    run(
        ["manage.py", "prepare", *cars], {**os.environ, "OILSTONE_DATA": str(data)}
    ).check_returncode()
    return data


def launch(playwright: Playwright) -> Browser:
    """Debian's Chromium, headless, asking nobody outside."""
    return playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET_CHROMIUM)


def read_notice(page: Page) -> None:
    """Put the safety notice of the first opening away."""
    page.get_by_role("button", name="I have read this").click()

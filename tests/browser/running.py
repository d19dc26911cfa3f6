"""The real server in its own process on its own data, and a browser to look at it."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, Page, Playwright

ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = shutil.which("chromium") or "/usr/bin/chromium"
QUIET_CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class RunningServer:
    """``manage.py serve`` with the demo data in a folder of its own."""

    def __init__(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="oilstone-"))
        self.environment = {**os.environ, "OILSTONE_DATA": str(self.data)}
        self.manage("migrate", "-v0")
        self.manage("load_demo")
        self.start()

    def manage(self, *arguments: str) -> None:
        """Run a management command on this server's data."""
        command = [sys.executable, "manage.py", *arguments]
        subprocess.run(command, cwd=ROOT, env=self.environment, check=True, capture_output=True)

    def start(self) -> None:
        """Start on a free port and wait until it says where it is."""
        self.process = subprocess.Popen(
            [sys.executable, "manage.py", "serve", "--port", "0"],
            cwd=ROOT,
            env=self.environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        assert self.process.stdout is not None
        said = self.process.stdout.readline()
        address = re.search(r"http://\S+", said)
        if address is None:
            raise RuntimeError(f"the server did not start: {said}{self.process.stdout.read()}")
        self.address = address.group()

    def stop(self) -> None:
        """Stop the process; the data stays."""
        self.process.terminate()
        self.process.wait(10)
        if self.process.stdout is not None:
            self.process.stdout.close()

    def close(self) -> None:
        """Stop and take the data away."""
        self.stop()
        shutil.rmtree(self.data, ignore_errors=True)


def launch(playwright: Playwright) -> Browser:
    """Debian's Chromium, headless, asking nobody outside."""
    return playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET_CHROMIUM)


def read_notice(page: Page) -> None:
    """Put the safety notice of the first opening away."""
    page.get_by_role("button", name="I have read this").click()

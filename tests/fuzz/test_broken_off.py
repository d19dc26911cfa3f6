"""The real server killed at any instant, and crowded: nothing that was confirmed is lost."""

import http.client
import json
import random
import signal
import sqlite3
import statistics
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import TestCase

from tests.browser.running import RunningServer
from tests.fuzz import FUZZ, SEED

KILLS = 3
CARS = ("tests/data/part-wired-roadster.json",)
LOAD = "horn"
PEOPLE, EDITS_EACH, THINK_S = 20, 2, 1.0
GIVE_UP_S = 120.0


class Client:
    """One who edits a build of a running server."""

    def __init__(self, address: str, build: int) -> None:
        self.url = f"{address.rstrip('/')}/api/builds/{build}"

    def get(self, path: str = "") -> Any:
        with urllib.request.urlopen(f"{self.url}{path}", timeout=GIVE_UP_S) as answer:
            return json.load(answer)

    def rename(self, name: str, base: int) -> int:
        """The revision after an edit; raises HTTPError where it is refused."""
        fields = {"op": "change", "collection": "parts", "id": LOAD, "fields": {"name": name}}
        body = json.dumps({"base": base, "label": name, "operations": [fields]}).encode()
        headers = {"Content-Type": "application/json"}
        request = urllib.request.Request(f"{self.url}/edits", body, headers)
        with urllib.request.urlopen(request, timeout=GIVE_UP_S) as answer:
            return int(json.load(answer)["revision"])

    def names(self) -> list[str]:
        """What each revision was called, the first first."""
        rows = self.get("/history")
        return [row["label"] for row in sorted(rows, key=lambda row: row["revision"])]


class BrokenOffTest(TestCase):
    def setUp(self) -> None:
        self.server = RunningServer(cars=CARS)
        self.addCleanup(self.server.close)
        self.me = Client(self.server.address, 1)

    def test_killed_in_the_middle_of_an_edit(self) -> None:
        draw, confirmed = random.Random(SEED), self.me.get()["revision"]
        for kill in range(KILLS * FUZZ):
            kill_s = draw.uniform(0.0, 0.6)
            timer = threading.Timer(kill_s, self.server.command.signal, [signal.SIGKILL])
            timer.start()
            said = ""
            for number in range(1000):
                try:
                    confirmed = self.me.rename(f"Horn {kill} {number}", confirmed)
                except (OSError, http.client.HTTPException):  # broken off before or in its answer
                    break
                said = f"Horn {kill} {number}"
            timer.join()
            self.server.stop()
            found = sqlite3.connect(Path(self.server.data) / "oilstone.sqlite3")
            self.assertEqual(found.execute("PRAGMA integrity_check").fetchone(), ("ok",))
            found.close()
            self.server.start()
            self.me = Client(self.server.address, 1)
            now = self.me.get()
            self.assertIn(now["revision"], (confirmed, confirmed + 1))
            if said and now["revision"] == confirmed:
                self.assertEqual(self.me.names()[-1], said)
            confirmed = now["revision"]

    def test_a_crowd_loses_no_edit(self) -> None:
        second = urllib.request.Request(f"{self.me.url}/copies", b"", method="POST")
        with urllib.request.urlopen(second, timeout=GIVE_UP_S) as answer:
            other = int(json.load(answer)["id"])
        alone_s = statistics.median(
            _timed(lambda name=f"Alone {number}": self._edit(self.me, name)) for number in range(15)
        )
        took_s: list[float] = []
        made: dict[int, list[str]] = {1: [], other: []}
        faults: list[Exception] = []

        def work(person: int) -> None:
            draw, build = random.Random(SEED + person), (1, other)[person % 2]
            client = Client(self.server.address, build)
            try:
                for number in range(EDITS_EACH * FUZZ):
                    time.sleep(draw.uniform(0, 2 * THINK_S * min(FUZZ, 15)))
                    name = f"Horn {person} {number}"
                    took_s.append(_timed(lambda name=name: self._edit(client, name)))
                    made[build].append(name)
            except Exception as problem:  # told in the test's own thread
                faults.append(problem)

        people = [threading.Thread(target=work, args=(person,)) for person in range(PEOPLE)]
        for thread in people:
            thread.start()
        for thread in people:
            thread.join()
        self.assertEqual(faults, [])
        for build, names in made.items():
            kept = Client(self.server.address, build).names()
            self.assertEqual(set(names) - set(kept), set())
        if FUZZ > 1:
            slow_s = sorted(took_s)[int(0.95 * (len(took_s) - 1))]
            print(f"{PEOPLE} people: 95 of 100 edits within {slow_s / alone_s:.1f} × one alone")

    def _edit(self, client: Client, name: str) -> None:
        """Edit on what is newest, again where another was faster."""
        began = time.perf_counter()
        while time.perf_counter() - began < GIVE_UP_S:
            try:
                client.rename(name, client.get()["revision"])
            except urllib.error.HTTPError as problem:
                with problem:
                    self.assertEqual(problem.code, 409, problem.read()[:300])
            else:
                return
        raise TimeoutError(name)


def _timed(run: Callable[[], object]) -> float:
    began = time.perf_counter()
    run()
    return time.perf_counter() - began

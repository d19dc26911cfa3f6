"""Copies of the data: taken before a migration and daily, checked at the start, and taken back."""

import os
import shutil
import sqlite3
import subprocess
import tempfile
import time
from contextlib import closing
from pathlib import Path
from unittest import TestCase

from django.test import override_settings

from oilstone.builds import copies
from tests.browser.running import fresh_data
from tests.commands import run

CARS = ("tests/data/part-wired-roadster.json",)


class CopiesTest(TestCase):
    """Each test has a folder of data of its own, as the first start leaves it."""

    def setUp(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="oilstone-copies-"))
        self.addCleanup(shutil.rmtree, self.data, ignore_errors=True)
        shutil.copytree(fresh_data(CARS), self.data, dirs_exist_ok=True)
        self.file = self.data / "oilstone.sqlite3"
        settings = override_settings(DATA=self.data)
        settings.enable()
        self.addCleanup(settings.disable)

    def run_command(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return run(["manage.py", *arguments], {**os.environ, "OILSTONE_DATA": str(self.data)})

    def names(self) -> list[str]:
        with closing(sqlite3.connect(self.file)) as opened:
            return [row[0] for row in opened.execute("SELECT name FROM builds_build ORDER BY id")]

    def rename(self, name: str) -> None:
        with closing(sqlite3.connect(self.file)) as opened, opened:
            opened.execute("UPDATE builds_build SET name = ?", [name])

    def test_a_copy_is_whole_and_the_newest_fourteen_are_kept(self) -> None:
        for number in range(16):
            self.rename(f"Car {number}")
            copies.take_copy("daily")
        kept = copies.copies()
        self.assertEqual(len(kept), 14)
        for file, name in ((kept[0], "Car 15"), (kept[-1], "Car 2")):
            self.assertIsNone(copies.unsound(file))
            with closing(sqlite3.connect(file)) as opened:
                self.assertEqual(
                    opened.execute("SELECT name FROM builds_build").fetchone(), (name,)
                )
            self.assertEqual(file.stat().st_mode & 0o777, 0o600)

    def test_daily_means_once_a_day(self) -> None:
        first = copies.copy_if_due()
        assert first is not None
        self.assertIsNone(copies.copy_if_due())
        yesterday = time.time() - copies.DAY_S - 1
        os.utime(first, (yesterday, yesterday))
        self.assertIsNotNone(copies.copy_if_due())

    def test_a_migration_is_preceded_by_a_copy(self) -> None:
        done = self.run_command("migrate", "builds", "0003", "-v0")
        self.assertEqual(done.returncode, 0, done.stderr)
        shutil.rmtree(self.data / "copies")
        self.assertEqual(self.run_command("prepare").returncode, 0)
        [copy] = copies.copies()
        self.assertIn("before-0012", copy.name)
        self.assertEqual(self.run_command("prepare").returncode, 0)
        self.assertEqual(len(copies.copies()), 1)

    def test_data_that_cannot_be_worked_with_is_named_and_never_made_up_for(self) -> None:
        copies.take_copy("daily")
        whole = self.file.read_bytes()
        half = whole[: len(whole) // 2]
        read_only = whole[:18] + b"\x03" + whole[19:]
        for data, words in (
            (b"", "is empty"),
            (b"not a database at all" * 300, "is damaged"),
            (whole[:4096] + b"\0" * 8192 + whole[12288:], "is damaged"),
            (half, "is damaged"),
            (read_only, "read-only"),
            (None, "is gone"),
        ):
            with self.subTest(words):
                self.file.unlink(missing_ok=True)
                if data is not None:
                    self.file.write_bytes(data)
                for command in ("prepare", "serve"):
                    done = self.run_command(command)
                    self.assertEqual(done.returncode, 1, done.stdout)
                    self.assertIn(words, done.stderr)
                    self.assertIn("make restore", done.stderr)
                    self.assertNotIn("Traceback", done.stderr)
                if data is not None:
                    self.assertEqual(self.file.read_bytes(), data)
                else:
                    self.assertFalse(self.file.exists())

    def test_a_copy_is_taken_back_and_what_was_there_is_set_aside(self) -> None:
        copies.take_copy("daily")
        self.rename("Since then")
        self.file.write_bytes(b"damaged")
        done = self.run_command("restore")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(self.names(), ["Saltmarsh Roadster"])
        [aside] = self.data.glob("*.set-aside-*")
        self.assertEqual(aside.read_bytes(), b"damaged")
        self.assertEqual(self.run_command("prepare").returncode, 0)

    def test_what_can_be_read_of_damaged_data_is_saved(self) -> None:
        with closing(sqlite3.connect(self.file)) as opened:
            opened.execute("PRAGMA journal_mode=DELETE")
            (page,) = opened.execute(
                "SELECT rootpage FROM sqlite_master WHERE name = 'builds_run'"
            ).fetchone()
            wires = opened.execute("SELECT count(*) FROM builds_wire").fetchone()
            (size,) = opened.execute("PRAGMA page_size").fetchone()
        whole = bytearray(self.file.read_bytes())
        whole[(page - 1) * size : page * size] = b"\x37" * size
        self.file.write_bytes(bytes(whole))
        self.assertIn("is damaged", self.run_command("check_data").stderr)
        done = self.run_command("repair")
        self.assertIn("some could not be read", done.stdout, done.stderr)
        self.assertIsNone(copies.unsound(self.file))
        self.assertEqual(self.names(), ["Saltmarsh Roadster"])
        with closing(sqlite3.connect(self.file)) as opened:
            self.assertEqual(opened.execute("SELECT count(*) FROM builds_wire").fetchone(), wires)
            opened.execute("DELETE FROM builds_place")
            opened.commit()
        [aside] = self.data.glob("*.set-aside-*")
        self.assertEqual(aside.read_bytes(), bytes(whole))
        said = self.run_command("check_data")
        self.assertIn("cannot be read", said.stdout, said.stderr)

    def test_a_damaged_copy_is_passed_over_and_refused_by_name(self) -> None:
        good = copies.take_copy("daily")
        bad = copies.take_copy("daily")
        bad.write_bytes(b"damaged")
        self.assertEqual(copies.restore(None)[0], good)
        for name, words in ((bad.name, "damaged itself"), ("ghost", "There are: ")):
            with self.assertRaisesRegex(copies.DataTrouble, words):
                copies.restore(name)

    def test_nothing_is_restored_under_a_running_server(self) -> None:
        copies.take_copy("daily")
        with copies.serving(), self.assertRaisesRegex(copies.DataTrouble, "is running"):
            copies.restore(None)

    def test_deleted_demo_cars_do_not_come_back_by_themselves(self) -> None:
        with closing(sqlite3.connect(self.file)) as opened, opened:
            for (table,) in opened.execute(
                "SELECT name FROM sqlite_master WHERE type = 'table' AND name LIKE 'builds_%'"
            ).fetchall():
                opened.execute(f"DELETE FROM {table}")
        self.assertEqual(self.run_command("prepare").returncode, 0)
        self.assertEqual(self.names(), [])

    def test_all_is_for_the_owner_alone(self) -> None:
        self.file.chmod(0o644)
        copies.take_copy("daily")
        self.assertEqual(self.run_command("prepare").returncode, 0)
        for file in self.data.rglob("*"):
            if file.is_file():
                self.assertEqual(file.stat().st_mode & 0o077, 0, file)

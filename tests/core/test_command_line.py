"""The command line: tables, JSON, and one clear line for what cannot be used."""

import io
import json
import os
import subprocess
import sys
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

import networkx as nx

from circuitry.command_line import main
from circuitry.design.model import KEY_POSITIONS
from circuitry.document.reading import read
from tests.core.cars import ROADSTER_FILE, ROOT, document, lamp_document, part, relay_parts, wire

CAR = str(ROADSTER_FILE)

WITH_A_LOUD_LIBRARY = """
import ctypes, runpy
from circuitry.sizing import least_copper
solve = least_copper.milp
def loud(*given, **options):
    ctypes.CDLL(None).puts(b"a word of the library")
    return solve(*given, **options)
least_copper.milp = loud
runpy.run_module("circuitry", run_name="__main__")
"""


def run(*arguments: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main(list(arguments))
    return code, out.getvalue(), err.getvalue()


class CommandTest(TestCase):
    def test_size_prints_the_ledger_and_says_stop(self) -> None:
        code, out, _ = run("size", CAR)
        self.assertEqual(code, 1)
        line = next(row for row in out.splitlines() if row.startswith("Radiator fan"))
        self.assertIn("Fan fuse 30 A", line)
        self.assertIn("stop: Main beam: its ground wire W59", out)

    def test_size_as_json_holds_the_whole_result(self) -> None:
        _, out, _ = run("size", CAR, "--json")
        result = json.loads(out)
        self.assertEqual(len(result["wires"]), 78)
        self.assertTrue(result["wires"]["w1"]["candidates"])

    def test_solve_by_switch_names(self) -> None:
        code, out, _ = run(
            "solve", CAR, "--key", "run", "--set", "light switch=head", "--set", "dip-switch=main"
        )
        self.assertEqual(code, 0)
        main_beam = next(row for row in out.splitlines() if row.startswith("Main beam left"))
        self.assertRegex(main_beam, r"1[12]\.\d+ +4\.\d+ +7\d % light")
        _, out, _ = run("solve", CAR, "--json")
        self.assertEqual(json.loads(out)["loads"]["horn"]["amps"], 0)

    def test_what_is_dead_when_one_is_lost(self) -> None:
        code, out, _ = run("losses", str(ROOT / "demo" / "quarrel-hill-rally-coupe.json"))
        self.assertEqual(code, 0)
        self.assertIn("Keypad (keypad): 4 dead", out)
        self.assertIn("No bus", run("losses", str(ROOT / "demo" / "saltmarsh-roadster.json"))[1])

    def test_check_says_usable_and_what_is_found(self) -> None:
        code, out, _ = run("check", CAR)
        self.assertEqual(code, 1)
        self.assertIn("usable, 76 parts, 78 wires, 16 findings", out)

    def test_a_build_without_stops_exits_with_0(self) -> None:
        row = lamp_document()
        row["wires"][0]["length_m"] = 0.2
        self.assertEqual(self.on(json.dumps(row), "check")[0], 0)

    def test_export_is_a_sized_build_that_reads_again(self) -> None:
        _, out, _ = run("export", CAR)
        build = read(out)
        self.assertTrue(all(wire.size for wire in build.wires.values()))

    def test_spice_has_an_element_for_all_that_conducts(self) -> None:
        _, out, _ = run("export", CAR, "--format", "spice", "--key", "run")
        kinds = [line[0] for line in out.splitlines() if line[:1] in "RBV"]
        self.assertEqual(kinds.count("V"), 1)
        self.assertEqual(kinds.count("B"), 18)
        self.assertGreater(kinds.count("R"), 78)
        self.assertTrue(out.endswith(".op\n.end\n"))

    def test_no_node_of_a_deck_floats(self) -> None:
        """In each key position of both demo cars every node is joined to node 0, through ties of a
        gigaohm where nothing of the car does it."""
        tied = 0
        for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            for key in KEY_POSITIONS:
                path = str(ROOT / "demo" / f"{name}.json")
                _, out, _ = run("export", path, "--format", "spice", "--key", key)
                rows = [line.split() for line in out.splitlines() if line[:1] in "RBVD"]
                graph = nx.Graph((first, second) for _, first, second, *_ in rows)
                self.assertEqual(nx.number_connected_components(graph), 1, (name, key))
                self.assertIn("0", graph)
                ties = [row for row in rows if row[0].startswith("RTIE")]
                self.assertEqual({tuple(row[2:]) for row in ties} - {("0", "1e9")}, set())
                tied += len(ties)
        self.assertGreater(tied, 0)

    def on(self, text: str, command: str = "check") -> tuple[int, str, str]:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "car.json"
            file.write_text(text, encoding="utf-8")
            return run(command, str(file))

    def test_a_draft_is_told_and_written_to_a_file_that_reads_again(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = str(Path(folder) / "wired.json")
            code, out, _ = run("draft", CAR, "--output", path, "--leave-out", "reversing")
            self.assertEqual(code, 0)
            lines = {row.split()[0]: row for row in out.splitlines()}
            self.assertIn("Hazard switch", lines["turn-and-hazard"])
            self.assertIn("left out", lines["reversing"])
            wired = read(Path(path).read_bytes())
            self.assertIn("turn-lamp-front-left", wired.wired_parts())
            self.assertNotIn("reversing-lamp", wired.wired_parts())
        code, _, err = run("draft", CAR, "--output", "/no/such/folder/wired.json")
        self.assertEqual((code, err.count("\n")), (2, 1))
        steps = json.loads(run("draft", CAR, "--json")[1])["steps"]
        self.assertIn("turn-and-hazard", [step["id"] for step in steps])

    def test_what_cannot_be_used_gives_one_line_and_2(self) -> None:
        relay = relay_parts("mini 5-pin")
        chase = document(
            [*relay, part("horn", "load", catalogue="Horn")],
            [
                wire(1, "battery.+", "relay.30"),
                wire(2, "relay.87a", "relay.86"),
                wire(3, "relay.85", "battery.-"),
            ],
        )
        twice = lamp_document()
        twice["wires"][1]["label"] = "W1"
        negative = lamp_document()
        negative["wires"][1]["length_m"] = -1
        nowhere = lamp_document()
        nowhere["wires"][1]["to_terminal"] = "light.7"
        unknown = lamp_document()
        unknown["parts"][3]["catalogue"] = "Candle"
        cases = {
            "version 9": json.dumps(lamp_document() | {"version": 9}),
            "no battery": json.dumps(lamp_document() | {"parts": [], "wires": []}),
            "never settles": json.dumps(chase),
            "label W1": json.dumps(twice),
            "at least 0": json.dumps(negative),
            "terminal 7 of": json.dumps(nowhere),
            "Candle": json.dumps(unknown),
            "line 1, column 1": "car",
            "nested too deeply": "[" * 900 + "]" * 900,
            "too many digits": '{"version": ' + "9" * 5000 + "}",
            "at most 16 digits": '{"version": ' + "9" * 100 + "}",
            "half a character": '{"format": "\\ud800"}',
            "not a number": '{"version": NaN}',
            "must be finite": '{"version": 1e999}',
            "reads versions 1 to 3": json.dumps(lamp_document() | {"version": True}),
            "not written as expected": json.dumps(lamp_document() | {"name": "two\nlines"}),
            "50.0 MB": "x" * 50_000_000,
        }
        for words, text in cases.items():
            with self.subTest(words):
                code, out, err = self.on(text, "size")
                self.assertEqual((code, out, err.count("\n")), (2, "", 1))
                self.assertIn(words, err)

    def test_a_missing_file_and_an_unknown_switch(self) -> None:
        code, _, err = run("size", "/no/such/car.json")
        self.assertEqual((code, err.count("\n")), (2, 1))
        code, _, err = run("solve", CAR, "--set", "lamp=on")
        self.assertEqual(code, 2)
        self.assertIn("horn push", err)

    def test_it_runs_as_a_module(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "circuitry", "solve", CAR, "--key", "start"],
            cwd=ROOT,
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 2)
        self.assertIn("off, accessory, run, crank", done.stderr)

    def test_what_a_library_prints_is_no_part_of_the_answer(self) -> None:
        done = subprocess.run(
            [sys.executable, "-c", WITH_A_LOUD_LIBRARY, "size", CAR, "--json"],
            env={name: value for name, value in os.environ.items() if name != "PYTHONUNBUFFERED"},
            cwd=ROOT,
            capture_output=True,
            text=True,
        )
        self.assertIn("fuses", json.loads(done.stdout))
        self.assertIn("a word of the library", done.stderr)

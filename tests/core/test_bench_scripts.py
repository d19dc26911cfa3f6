"""Scripts, meters and the command line of the bench: what is read, refused and shown."""

import csv
import io
import json
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from circuitry.bench.bench import Bench
from circuitry.bench.script import MOST_ACTIONS, as_rows, read_script, script_from
from circuitry.command_line import main
from circuitry.errors import UnusableInput
from tests.core.benches import ROADSTER, bench_of, demo, do, fault, told
from tests.core.cars import ROOT, lamp_document


def put(bench: Bench, at_s: float, name: str, kind: str, red: str, black: str) -> None:
    """Put a meter with two probes on the car."""
    do(bench, at_s, "meter", name, meter={"kind": kind, "red": red, "black": black})


class ScriptTest(TestCase):
    def test_what_cannot_be_played_is_refused_with_its_action(self) -> None:
        build = demo(ROADSTER).build
        rows = (
            ([{"at_s": 1, "do": "key", "to": "start"}], "bad-action", "action 1"),
            ([{"at_s": 1, "do": "jump"}], "unknown-action", "action 1"),
            ([{"at_s": "soon", "do": "key", "to": "run"}], "bad-action", "action 1"),
            ([{"at_s": float("nan"), "do": "key", "to": "run"}], "bad-action", "action 1"),
            (["turn the key"], "bad-action", "action 1"),
            (
                [{"at_s": 1, "do": "switch", "of": "nothing", "to": "on"}],
                "unknown-part",
                "action 1",
            ),
            (
                [{"at_s": 1, "do": "switch", "of": "horn-push", "to": "hard"}],
                "unknown-position",
                "",
            ),
            ([{"at_s": 1, "do": "pull", "of": "battery"}], "bad-action", "action 1"),
            ([{"at_s": 1, "do": "value", "of": "engine_rpm", "to": 1e9}], "bad-action", ""),
            (
                [{"at_s": 2, "do": "key", "to": "run"}, {"at_s": 1, "do": "key", "to": "off"}],
                "time-goes-back",
                "action 2",
            ),
            (
                [{"at_s": 1, "do": "key", "to": "run"}, {"at_s": 1, "do": "key", "to": "off"}],
                "contradiction",
                "action 2",
            ),
            ([{"at_s": 1, "do": "key", "to": "run"}] * (MOST_ACTIONS + 1), "long-script", ""),
        )
        for script, code, where in rows:
            with self.assertRaises(UnusableInput) as refused:
                script_from(script, build)
            self.assertEqual(refused.exception.code, code, script[:1])
            self.assertIn(where, refused.exception.where)
        for text in ("{", "[]", '{"actions": 3}', '{"actions": [], "ends_s": -1}'):
            with self.assertRaises(UnusableInput):
                read_script(text, build)

    def test_a_script_is_written_as_it_is_read(self) -> None:
        build = demo(ROADSTER).build
        rows = [
            {"at_s": 0.5, "do": "key", "to": "run"},
            {"at_s": 0.5, "do": "switch", "of": "light-switch", "to": "head"},
            {"at_s": 1.0, "do": "fault", "of": "blown fuse: main-fuse",
             "fault": {"kind": "blown fuse", "of": "main-fuse"}},
            {"at_s": 1.5, "do": "meter", "of": "1",
             "meter": {"kind": "voltmeter", "red": "horn.+", "black": "horn.-"}},
            {"at_s": 2.0, "do": "value", "of": "engine_rpm", "to": None},
        ]  # fmt: skip
        self.assertEqual(as_rows(script_from(rows, build).actions), rows)

    def test_a_short_across_the_battery_and_everything_at_once_go_on(self) -> None:
        bench = bench_of(demo(ROADSTER))
        do(bench, 0.5, "key", to="run")
        for number, load in enumerate(bench.build.parts_of_kind("load")):
            if bench.rig.lag_of.get((load.id, "")) is not None and number % 2:
                try:
                    fault(bench, 1.0, "stalled motor", load.id)
                except UnusableInput:
                    continue
        fault(bench, 1.5, "short to ground", "w1", ohm=0.0001)
        bench.run(60.0)
        self.assertTrue(bench.point.settled)
        do(bench, 61.0, "mend", "all")
        self.assertGreater(bench.frame(63.0).battery_v, 11.0)


class MeterTest(TestCase):
    def bad_ground(self) -> Bench:
        bench = bench_of(lamp_document())
        fault(bench, 0.5, "bad joint", "w4", ohm=200.0)
        return bench

    def shown(self, bench: Bench, at_s: float, name: str = "1") -> object:
        return bench.frame(at_s).meters[name]

    def test_a_voltmeter_passes_what_a_test_lamp_finds(self) -> None:
        """Behind a joint of 200 Ω without load a voltmeter shows all of the battery; a lamp that
        loads it does not light."""
        bench = bench_of(lamp_document())
        fault(bench, 0.5, "bad joint", "w2", ohm=200.0)
        put(bench, 1.0, "1", "voltmeter", "light.in", "battery.-")
        self.assertAlmostEqual(self.shown(bench, 1.5).value, 12.65, delta=0.02)
        for kind, lit in (("test lamp 5 W", False), ("test lamp 21 W", False)):
            put(bench, 2.0, "2", kind, "light.in", "battery.-")
            reading = self.shown(bench, 3.0, "2")
            self.assertEqual(reading.words == "lit", lit)
            self.assertLess(reading.value, 2.0)
        self.assertLess(self.shown(bench, 3.0).value, 2.0)
        do(bench, 4.0, "mend", "all")
        self.assertEqual(self.shown(bench, 5.0, "2").words, "lit")

    def test_an_ohmmeter_refuses_what_is_live_and_measures_what_is_not(self) -> None:
        bench = bench_of(lamp_document())
        put(bench, 0.5, "1", "ohmmeter", "light.in", "battery.-")
        live = self.shown(bench, 1.0)
        self.assertIsNone(live.value)
        self.assertIn("live", live.words)
        put(bench, 2.0, "1", "ohmmeter", "lamp.+", "battery.-")
        cold_ohm = self.shown(bench, 3.0).value
        self.assertAlmostEqual(cold_ohm, 13.5**2 / 26.5 * (300 / 2800) ** 1.2, delta=0.1)
        do(bench, 4.0, "pull", "lamp")
        self.assertEqual(self.shown(bench, 5.0).words, "open")
        put(bench, 6.0, "1", "ohmmeter", "fuse.in", "battery.+")
        self.assertEqual(self.shown(bench, 7.0).words, "continuity")

    def test_a_clamp_reads_the_wire_and_holds_the_peak(self) -> None:
        bench = bench_of(lamp_document())
        do(bench, 0.5, "meter", "clamp", meter={"kind": "clamp", "wire": "w3"})
        do(bench, 1.0, "switch", "light", "on")
        bench.run(2.0)
        reading = self.shown(bench, 3.0, "clamp")
        self.assertAlmostEqual(reading.value, bench.frame(3.0).load_a[0], delta=0.01)
        self.assertGreater(reading.peak, 5 * reading.value)

    def test_a_fused_jumper_lights_what_has_no_feed_and_blows_into_a_short(self) -> None:
        bench = bench_of(lamp_document())
        fault(bench, 0.5, "open wire", "w3")
        put(bench, 1.0, "lead", "fused jumper", "battery.+", "lamp.+")
        self.assertGreater(bench.frame(2.0).load_percent[0], 60)
        put(bench, 3.0, "lead", "fused jumper", "battery.+", "battery.-")
        bench.run(4.0)
        self.assertTrue(told(bench, "fuse of the jumper blows"))
        self.assertAlmostEqual(self.shown(bench, 4.0, "lead").value, 0.0)

    def test_a_powered_probe_gives_plus_and_minus_through_its_breaker(self) -> None:
        bench = bench_of(lamp_document())
        put(bench, 1.0, "lead", "powered probe plus", "lamp.+", "battery.-")
        self.assertGreater(bench.frame(2.0).load_percent[0], 60)
        put(bench, 3.0, "lead", "powered probe plus", "lamp.-", "battery.-")
        bench.run(4.0)
        self.assertTrue(told(bench, "probe trips"))

    def test_a_powered_probe_shows_plus_minus_or_nothing(self) -> None:
        bench = bench_of(lamp_document())
        for at_s, end, shows in (
            (1.0, "light.in", "plus"),
            (2.0, "lamp.+", "minus"),
            (3.0, "battery.-", "minus"),
        ):
            put(bench, at_s, "lead", "powered probe", end, "battery.-")
            self.assertEqual(self.shown(bench, at_s + 0.5, "lead").words, shows, end)
        do(bench, 4.0, "pull", "lamp")
        put(bench, 5.0, "lead", "powered probe", "lamp.+", "battery.-")
        self.assertEqual(self.shown(bench, 6.0, "lead").words, "nothing")

    def test_a_bench_supply_holds_its_current_limit(self) -> None:
        bench = bench_of(lamp_document())
        supply = {"kind": "bench supply", "red": "lamp.+", "black": "lamp.-", "limit_a": 1.0}
        do(bench, 1.0, "meter", "lead", meter=supply)
        self.assertAlmostEqual(abs(self.shown(bench, 4.0, "lead").value), 1.0, delta=0.1)
        self.assertLess(bench.frame(4.0).load_percent[0], 40)

    def test_the_reading_of_the_sound_car_stands_beside_it(self) -> None:
        bench = self.bad_ground()
        do(bench, 1.0, "switch", "light", "on")
        put(bench, 1.0, "1", "voltmeter", "lamp.+", "lamp.-")
        frame = bench.frame(4.0)
        self.assertGreater(frame.meters["1"].expected, 12.0)
        self.assertLess(frame.meters["1"].value, 6.0)

    def test_no_reading_of_the_sound_car_is_found_wrong(self) -> None:
        """Engine off, cranking, charging, flashing: what is sound is not called too low or high."""
        bench = bench_of(demo(ROADSTER))
        put(bench, 0.1, "1", "voltmeter", "battery.+", "battery.-")
        lamp = "turn-lamp-front-left"
        put(bench, 0.1, "2", "voltmeter", f"{lamp}.+", f"{lamp}.-")
        do(bench, 0.1, "meter", "clamp", meter={"kind": "clamp", "wire": "w1"})
        for at_s, action in (
            (0.5, ("key", "", "run")),
            (3.0, ("switch", "light-switch", "head")),
            (6.0, ("switch", "turn-switch", "left")),
            (10.0, ("key", "", "crank")),
            (12.0, ("key", "", "run")),
            (15.0, ("value", "engine_rpm", 3000)),
            (18.0, ("switch", "light-switch", "off")),
            (21.0, ("switch", "turn-switch", "middle")),
        ):
            do(bench, at_s, *action)
            for later_s in (1.2, 1.5, 1.8):
                for name, reading in bench.frame(at_s + later_s).meters.items():
                    shown = (at_s, name, reading)
                    self.assertEqual(reading.verdict, "", shown)
        charging = bench.frame(26.0)
        self.assertLess(charging.battery_a, 0)
        self.assertAlmostEqual(
            charging.meters["1"].expected, charging.meters["1"].value, delta=0.05
        )

    def test_probes_on_what_is_not_there_are_refused(self) -> None:
        bench = bench_of(lamp_document())
        for meter in (
            {"kind": "voltmeter", "red": "lamp.+", "black": "lamp.9"},
            {"kind": "voltmeter", "red": "lamp.+"},
            {"kind": "oscilloscope", "red": "lamp.+", "black": "lamp.-"},
            {"kind": "clamp", "wire": "w99"},
        ):
            with self.assertRaises(UnusableInput):
                do(bench, 1.0, "meter", "1", meter=meter)


class CommandTest(TestCase):
    def run_main(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main([*arguments])
        return code, out.getvalue(), err.getvalue()

    def test_a_script_is_played_traced_and_written_as_a_netlist(self) -> None:
        car = str(ROOT / "demo" / "saltmarsh-roadster.json")
        with TemporaryDirectory() as folder:
            path = Path(folder) / "script.json"
            rows = [
                {"at_s": 0.5, "do": "key", "to": "run"},
                {"at_s": 1.0, "do": "switch", "of": "turn-switch", "to": "left"},
            ]
            path.write_text(json.dumps({"actions": rows, "ends_s": 3.0}), encoding="utf-8")
            code, text, _ = self.run_main("bench", car, str(path))
            self.assertEqual(code, 0)
            self.assertIn("Flasher unit flashes 90 a minute", text)
            code, text, _ = self.run_main("bench", car, str(path), "--json")
            self.assertEqual(json.loads(text)["frame"]["key"], "run")
            code, text, _ = self.run_main(
                "export", car, "--format", "csv", "--script", str(path), "--every", "0.5",
                "--trace", "turn-lamp-front-left", "--trace", "battery.+", "--trace", "W1",
            )  # fmt: skip
            table = list(csv.reader(io.StringIO(text)))
            self.assertEqual(table[0][2:], ["battery.+ V", "W1 A"])
            self.assertEqual(
                [row[0] for row in table[1:]], ["0", "0.5", "1", "1.5", "2", "2.5", "3"]
            )
            code, text, _ = self.run_main(
                "export", car, "--format", "spice", "--script", str(path), "--at", "1.01"
            )
            self.assertIn("at 1.010000 s", text.splitlines()[0])
            path.write_text('{"actions": [{"at_s": 1, "do": "fly"}]}', encoding="utf-8")
            code, _, said = self.run_main("bench", car, str(path))
            self.assertEqual(code, 2)
            self.assertIn("“fly” cannot be done", said)

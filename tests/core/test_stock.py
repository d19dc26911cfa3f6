"""The stock list: cells read and refused, first lists of every kind of car, old looms judged."""

from dataclasses import replace
from itertools import product
from unittest import TestCase
from unittest.mock import patch

from circuitry.design.model import Build, FoundCircuit, HarnessCircuit, PinPair, Stretch
from circuitry.devices.load import law_of_load
from circuitry.document.reading import read, write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.reach import paths
from circuitry.sizing import size_build
from circuitry.stock import TypedRow, cell_problems, set_cells, stock_rows
from circuitry.stock.audit import audit
from circuitry.stock.cells import wire_as_wished
from circuitry.stock.drafting import draft
from circuitry.stock.patterns import completed, pattern_of, patterns
from circuitry.stock.start import OPTIONS, SHELLS, SIZES_M, KindOfCar, start
from demo.many_loads import many_loads
from tests.core.cars import ROOT, roadster

VAN_FILE = ROOT / "demo" / "fernhill-half-ton-van.json"


def van() -> Build:
    return read(VAN_FILE.read_bytes())


def typed(build: Build, part: str | None, **cells: str) -> Build:
    return set_cells(build, [TypedRow(part, cells)])


def row_of(build: Build, part: str) -> dict[str, str]:
    return dict(next(row.cells for row in stock_rows(build) if row.part == part))


class CellsTest(TestCase):
    def test_own_figures_are_yours_and_an_empty_cell_is_typical_again(self) -> None:
        own = typed(roadster(), "horn", rating="9,5A", source="stamped on its case")
        row = next(row for row in stock_rows(own) if row.part == "horn")
        self.assertEqual((row.cells["rating"], row.yours), ("9.5 A", ("rating",)))
        self.assertEqual(row.cells["source"], "stamped on its case")
        again = typed(own, "horn", rating="", source="")
        self.assertEqual(again, roadster())

    def test_a_stall_current_of_its_own_sets_the_motors_armature(self) -> None:
        """At standstill a motor is only its armature: I = V / R_a."""
        build = typed(roadster(), "wiper-motor", stall_a="24 A")
        law = law_of_load(build.parts["wiper-motor"])
        self.assertAlmostEqual(law.current_and_slope(1.35)[0], 24 * 1.35 / 13.5, delta=0.001)
        self.assertEqual(row_of(roadster(), "wiper-motor")["stall_a"], "20 A")

    def test_a_new_row_is_completed_from_its_name_and_waits_to_be_placed(self) -> None:
        build = typed(roadster(), None, name="Horn 2")
        self.assertEqual(build.parts["horn-2"].catalogue, "Horn")
        self.assertEqual(row_of(build, "horn-2")["where"], "")
        self.assertEqual(build.places["unplaced"].name, "Not placed yet")

    def test_every_bad_cell_is_named_and_nothing_is_set(self) -> None:
        rows = [
            TypedRow("horn", {"rating": "loud", "where": "the moon", "state": "maybe"}),
            TypedRow(None, {"name": "Gizmo", "rating": "5 W"}),
            TypedRow("gone", {"name": "x"}),
            TypedRow("panel", {"rating": "5 A"}),
            TypedRow("horn", {"key": "crank", "fuse": "F9"}),
            TypedRow("radiator-fan", {"test_v": "400 V", "colour": "red"}),
        ]
        found = {(row.row, row.column) for row in cell_problems(roadster(), rows)}
        self.assertEqual(
            found,
            {
                (0, "rating"),
                (0, "where"),
                (0, "state"),
                (1, "what"),
                (2, "name"),
                (3, "rating"),
                (4, "key"),
                (5, "test_v"),
                (5, "colour"),
            },
        )
        with self.assertRaisesRegex(UnusableInput, "Horn, Where: “the moon”: a place of this car"):
            set_cells(roadster(), rows[:1])

    def test_wiring_cells_wire_the_circuit_again(self) -> None:
        build = typed(roadster(), "heater-blower", through="relay", switch="blower switch")
        self.assertEqual(row_of(build, "heater-blower")["through"], "relay")
        self.assertTrue(any(p.circuit == "heater-blower" for p in build.parts_of_kind("relay")))

    def test_a_load_of_the_list_is_wired_as_it_asks_and_taken_out_again(self) -> None:
        build = wire_as_wished(roadster(), "turn-lamp-front-left")
        self.assertEqual(row_of(build, "turn-lamp-front-left")["switch"], "Turn switch, left")
        both = wire_as_wished(build, "turn-lamp-rear-left")
        circuit = both.parts["turn-lamp-front-left"].circuit
        self.assertNotEqual(both.parts["turn-lamp-rear-left"].circuit, None)
        self.assertIn(circuit, both.circuits)
        out = apply_operations(build, [{"op": "unwire_load", "load": "turn-lamp-front-left"}])
        self.assertIsNone(out.parts["turn-lamp-front-left"].circuit)
        self.assertEqual(list(out.parts), [p for p in build.parts if p in out.parts])
        self.assertEqual(row_of(out, "turn-lamp-front-left")["key"], "run")

    def test_a_starter_is_not_put_behind_a_blade_fuse(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "straight from the battery"):
            wire_as_wished(roadster(), "starter-motor")

    def test_a_row_that_still_has_wires_says_which(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "Light switch still has 7 wires: W"):
            apply_operations(roadster(), [{"op": "remove_row", "part": "light-switch"}])

    def test_every_pattern_can_be_listed_and_says_what_it_is(self) -> None:
        rows = [TypedRow(None, {"name": f"Thing {n}", "what": w}) for n, w in enumerate(patterns())]
        build = set_cells(roadster(), [row for row in rows if row.cells["what"] not in ONE_ONLY])
        for row in rows:
            part = build.parts.get(row.cells["name"].lower().replace(" ", "-"))
            if part is not None:
                self.assertEqual(pattern_of(part), row.cells["what"])

    def test_names_are_completed_by_beginning_by_words_and_by_what_they_hold(self) -> None:
        for name, row in (
            ("rear fo", "Rear fog lamp 21 W"),
            ("halogen main", "Main beam halogen 60 W"),
            ("Seat heater left", "Seat heater"),
            ("gizmo", None),
        ):
            self.assertEqual(completed(name), row)


ONE_ONLY = ("Battery", "Ignition key")


class StartTest(TestCase):
    def test_every_kind_of_car_is_a_sound_build(self) -> None:
        for style, shell, engine in product(SIZES_M, SHELLS, ("front", "middle", "rear")):
            car = KindOfCar("Car", style, shell, engine=engine, options=OPTIONS)
            build = start(car)
            self.assertEqual(read(write(build)), build)
            sizing = size_build(build)
            codes = {(row.code, row.severity) for row in sizing.findings}
            self.assertEqual(codes, {("not-wired", "note"), ("length-guessed", "note")}, car)

    def test_answers_shape_the_list(self) -> None:
        small = start(KindOfCar("Car", doors=0, road_lamps=False))
        self.assertNotIn("stop-lamp-left", small.parts)
        self.assertNotIn("door-left", small.places)
        self.assertIn("ignition-coil", small.parts)
        large = start(KindOfCar("Car", "van", "steel", 5, 4, options=("injection", "audio")))
        self.assertIn("engine-control-box", large.parts)
        self.assertNotIn("ignition-coil", large.parts)
        self.assertTrue(large.body_conducts)
        self.assertFalse(small.body_conducts)

    def test_without_lamps_for_the_road_nothing_is_there_that_works_them(self) -> None:
        car = start(KindOfCar("Car", "buggy", road_lamps=False))
        names = {part.name for part in car.parts.values()}
        for name in ("Light switch", "Brake pedal", "Rear fog switch", "Main beam telltale"):
            self.assertNotIn(name, names)
        drafted = draft(car).build
        lamps = [row.name for row in drafted.parts_of_kind("load") if "lamp" in row.name.lower()]
        self.assertEqual(lamps, ["Interior lamp"])
        unwired = drafted.parts.keys() - drafted.wired_parts()
        self.assertFalse([row for row in drafted.parts_of_kind("switch") if row.id in unwired])
        with self.assertRaisesRegex(UnusableInput, "follow those of the car.*leave the tow socket"):
            start(KindOfCar("Car", road_lamps=False, options=("tow socket",)))

    def test_an_unknown_answer_names_the_known_ones(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "“boat” is not one of open two-seater"):
            start(KindOfCar("Car", "boat"))
        with self.assertRaisesRegex(UnusableInput, "options: “sails”"):
            start(KindOfCar("Car", options=("sails",)))


class AuditTest(TestCase):
    def found(self, *stretches: Stretch, **fields: object) -> str:
        entry = replace(FoundCircuit("x", "X", stretches, fuse_a=5.0), **fields)  # type: ignore[arg-type]
        build = replace(roadster(), found_circuits={"x": entry})
        return " ".join(row.text for row in audit(build).found_circuits["x"])

    def test_mixed_gauges_count_as_the_thinnest_and_colours_that_change_are_told(self) -> None:
        said = self.found(Stretch("BN/YE", "1.5 mm2"), Stretch("BN", "0.5 mm2"))
        self.assertIn("its thinnest, 0.5 mm²", said)
        self.assertIn("brown with a yellow tracer, then brown", said)

    def test_fuse_against_gauge_joints_and_condition(self) -> None:
        self.assertIn("A 30 A fuse lets more pass", self.found(Stretch("RD", "1 mm2"), fuse_a=30.0))
        self.assertIn("No fuse protects it", self.found(Stretch("RD", "1 mm2"), fuse_a=None))
        self.assertIn("twisted joint", self.found(Stretch("RD", "1 mm2", "lamp", "Twisted")))
        burned = self.found(Stretch("RD", "1 mm2"), condition="burned", decision="keep")
        self.assertIn("marked keep", burned)
        self.assertEqual(self.found(Stretch("RD", "1 mm2")), "")

    def test_a_pin_stands_for_one_function_only(self) -> None:
        pairs = {
            "a": PinPair("a", "Coil", "P", "1", "", "Q", "7", "", True),
            "b": PinPair("b", "Lamp", "P", "2", "", "Q", "7", "", True),
            "c": PinPair("c", "Horn", "P", "3", "", "Q", "8", "", True),
        }
        remarks = audit(replace(roadster(), pin_pairs=pairs)).pin_pairs
        self.assertIn("also stands for Lamp", remarks["a"][0].text)
        self.assertEqual(remarks["c"], ())

    def test_a_harness_is_held_against_the_list(self) -> None:
        rows = [
            HarnessCircuit("horn", "Horn", "2.5 mm²", 4.0, 15.0),
            HarnessCircuit("fan", "Radiator fan", "0.5 mm²", 4.0),
            HarnessCircuit("pump", "Fuel pump", "4 mm²", 0.5),
            HarnessCircuit("clock", "Sundial", "1 mm²", 2.0),
        ]
        build = replace(
            roadster(),
            harness_from="panel-shelf",
            harness_circuits={row.id: row for row in rows},
        )
        verdicts = audit(build).harness_circuits
        self.assertEqual(
            {key: row.verdict for key, row in verdicts.items()},
            {"horn": "served", "fan": "too thin", "pump": "too short", "clock": "spare"},
        )
        self.assertNotIn("horn", audit(build).missing)
        self.assertIn("wiper-motor", audit(build).missing)

    def test_the_drop_allowed_is_the_builds_own(self) -> None:
        row = HarnessCircuit("horn", "Horn", "1 mm²", 4.0)
        for limit_v, verdict in ((0.7, "served"), (0.2, "too thin")):
            policy = replace(roadster().policy, drop_school="flat", flat_drop_v=limit_v)
            build = replace(roadster(), policy=policy, harness_circuits={"horn": row})
            self.assertEqual(audit(build).harness_circuits["horn"].verdict, verdict)

    def test_the_drop_of_a_harness_wire_is_that_of_ohms_law(self) -> None:
        """10 A regulated through 2 m of 1 mm² at 18.5 mΩ/m and two crimps of the catalogue."""
        row = HarnessCircuit("socket", "Power socket", "1 mm²", 2.0)
        build = replace(roadster(), harness_circuits={"socket": row})
        verdict = audit(build).harness_circuits["socket"]
        assert verdict.drop_percent is not None
        assert verdict.amps is not None
        self.assertAlmostEqual(verdict.amps, 10.0, places=3)
        self.assertAlmostEqual(verdict.drop_percent, 100 * 10 * 2 * 0.0185 / 14.4, delta=0.2)


class HarnessCellsTest(TestCase):
    def set(self, identity: str | None = None, **cells: str) -> Build:
        operation = {"op": "set_harness", "harness": identity, "cells": cells}
        return apply_operations(roadster(), [operation])

    def test_cells_are_read_with_their_units(self) -> None:
        build = self.set(name="Horn", size="16 AWG", length="9 ft", fuse="15A", serves="Horn")
        row = build.harness_circuits["horn"]
        self.assertEqual((row.size, row.fuse_a, row.serves), ("16 AWG", 15.0, "horn"))
        self.assertAlmostEqual(row.length_m, 9 * 0.3048)
        free = {"op": "set_harness", "harness": "horn", "cells": {"serves": "", "fuse": ""}}
        after = apply_operations(build, [free]).harness_circuits["horn"]
        self.assertEqual((after.serves, after.fuse_a), (None, None))

    def test_bad_cells_are_named(self) -> None:
        for cells, words in (
            ({"size": "1 mm2"}, "needs a name"),
            ({"name": "X", "size": "thick"}, "size “thick”: a wire size"),
            ({"name": "X", "length": "0"}, "more than 0"),
            ({"name": "X", "serves": "Sundial"}, "a load of the stock list"),
            ({"name": "X", "weight": "2"}, "no “weight”"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                self.set(**cells)
        with self.assertRaisesRegex(UnusableInput, "is gone"):
            self.set("nothing", name="X")


class LongListTest(TestCase):
    def test_what_is_joined_to_what_is_worked_out_once_for_the_whole_list(self) -> None:
        build = many_loads(200)
        with patch("circuitry.reach.paths._topology", wraps=paths._topology) as worked_out:
            self.assertEqual(len([row for row in stock_rows(build) if row.kind == "load"]), 200)
        self.assertEqual(worked_out.call_count, 1)


class WrittenTest(TestCase):
    def test_the_list_of_a_car_written_by_recipe_comes_in_again_unchanged(self) -> None:
        build = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
        rows = {row.part: row for row in stock_rows(build)}
        turn = rows["turn-lamp-front-left"].cells
        self.assertEqual((turn["key"], turn["switch"]), ("always", "Hazard switch"))
        self.assertEqual(rows["injectors"].cells["through"], "relay")
        again = set_cells(build, [TypedRow(row.part, row.cells) for row in rows.values()])
        self.assertEqual((again.wires, again.circuits), (build.wires, build.circuits))


class DemoRoadsterTest(TestCase):
    def test_it_carries_all_its_functions_and_three_honest_mistakes(self) -> None:
        build = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
        self.assertGreaterEqual(len(build.circuits), 30)
        self.assertFalse(
            [p.name for p in build.parts_of_kind("load") if p.id not in build.wired_parts()]
        )
        stops = {row.code for row in size_build(build).findings if row.severity == "stop"}
        self.assertEqual(stops, {"wire-too-thin", "switch-overloaded"})


class DemoVanTest(TestCase):
    def test_it_is_what_it_should_be(self) -> None:
        build = van()
        self.assertGreaterEqual(len(build.parts_of_kind("load")), 45)
        self.assertGreaterEqual(len({place.zone for place in build.places.values()}), 4)
        self.assertGreaterEqual(len(build.circuits), 40)
        self.assertFalse(
            [
                p.name
                for p in build.parts_of_kind("load", "module")
                if p.id not in build.wired_parts()
            ]
        )
        codes = {row.code for row in size_build(build).findings}
        self.assertTrue({"still-wired", "hole-too-small", "length-far-from-drawn"} <= codes)

"""The proof of a car: what its steps expect is what the bench shows in that state."""

from collections.abc import Iterator
from unittest import TestCase

from circuitry.bench.bench import Bench
from circuitry.edits import apply_operations
from circuitry.proving import Plan, Step, Today, changed_since, facts_of, plan_of
from circuitry.proving.situation import Band
from circuitry.sizing import size_build
from tests.core.benches import COUPE, ROADSTER, VAN, demo, do
from tests.core.cars import roadster

SETTLES_S = 6.0


def steps(plan: Plan, start: str) -> list[Step]:
    return [step for step in plan.steps if step.id.startswith(start)]


class PlanTest(TestCase):
    plan = plan_of(demo(ROADSTER))

    def test_every_wire_is_proved_end_to_end_once(self) -> None:
        for name in (ROADSTER, VAN, COUPE):
            wires = [
                row.id.removeprefix("ohms/")
                for step in steps(plan_of(demo(name)), "loom/ends")
                for row in step.readings
            ]
            self.assertEqual(sorted(wires), sorted(demo(name).build.wires))

    def test_every_load_is_seen_at_work_and_measured_in_some_step(self) -> None:
        for name in (ROADSTER, VAN, COUPE):
            plan = plan_of(demo(name))
            worked = {
                look.load
                for step in steps(plan, "works/")
                for look in step.looks
                if look.right not in ("off", "dark", "stands", "silent")
            }
            measured = {row.id for step in steps(plan, "works/") for row in step.readings}
            for load in demo(name).build.parts_of_kind("load"):
                self.assertIn(load.id, worked, name)
                starter = (load.catalogue or "").startswith("Starter")
                self.assertTrue(starter or f"volts/{load.id}" in measured, load.id)

    def test_a_gauge_is_tried_with_a_resistor_in_place_of_its_sender(self) -> None:
        """Ohm's law: a winding that takes 0.15 A at 13.5 V has 90 Ω, and 13 V drive it in series
        with the resistor."""
        for name, ends in (
            ("fuel-gauge", {"empty": 10.0, "full": 180.0}),
            ("temperature-gauge", {"cold": 290.0, "hot": 22.0}),
        ):
            (step,) = steps(self.plan, f"loom/gauge/{name}")
            self.assertEqual([look.right for look in step.looks], list(ends))
            for row, ohm in zip(step.readings, ends.values(), strict=True):
                assert row.band.expected is not None
                self.assertAlmostEqual(row.band.expected, 13.0 / (90.0 + ohm), delta=2e-4)
                self.assertEqual(row.band.verdict(0.0), "too low")

    def test_in_a_cold_car_a_gauge_shows_what_its_sender_tells_there(self) -> None:
        """A pointer at cold, with the engine cold, is no fault."""
        for name, right in (
            ("fuel-gauge", "reads what is in the tank"),
            ("temperature-gauge", "reads cold until the engine is warm"),
        ):
            looks = [
                look.right
                for step in self.plan.steps
                if step.section != "loom"
                for look in step.looks
                if look.load == name
            ]
            self.assertEqual(set(looks), {right, "at rest"})

    def test_a_sender_by_hand_is_held_to_what_is_typed_of_it(self) -> None:
        build = demo(ROADSTER).build
        cells = {"least_ohm": "240", "most_ohm": "33"}
        op = {"op": "set_figures", "part": "fuel-level-sender", "cells": cells}
        plan = plan_of(size_build(apply_operations(build, [op])))
        (step,) = steps(plan, "loom/control/fuel-level-sender")
        self.assertEqual([row.band.expected for row in step.readings], [240.0, 33.0])
        empty = step.readings[0].band
        verdicts = [empty.verdict(ohm) for ohm in (10.0, 230.0, None)]
        self.assertEqual(verdicts, ["too low", "in band", "too high"])
        (gauge,) = steps(plan, "loom/gauge/fuel-gauge")
        self.assertIn("240 Ω", gauge.looks[0].name)

    def test_nothing_that_is_said_to_work_is_expected_at_no_volts(self) -> None:
        for name in (ROADSTER, VAN, COUPE):
            for step in steps(plan_of(demo(name)), "works/"):
                for row in step.readings:
                    if row.id.startswith("volts/"):
                        self.assertGreater(row.band.low, 7.0, (step.title, row.name))

    def test_a_reading_that_a_dead_circuit_would_pass_says_so(self) -> None:
        for step in self.plan.steps:
            for row in step.readings:
                if row.probe.unit != "Ω" and row.band.low <= 0:
                    self.assertTrue(row.tells, (step.title, row.name))

    def test_fuses_go_in_one_at_a_time_each_after_its_feed_the_engine_last(self) -> None:
        fuses = steps(self.plan, "power/fuse/")
        names = [step.id.rpartition("/")[2] for step in fuses]
        build = demo(ROADSTER).build
        self.assertEqual(sorted(names), sorted(fuse.id for fuse in build.parts_of_kind("fuse")))
        for after, before in (
            ("ignition-fuse", "main-fuse"),
            ("f6-fuel-pump", "ignition-fuse"),
            ("e1-engine-control-box", "engine-fuse"),
            ("engine-fuse", "f25-driving-lamp"),
        ):
            self.assertLess(names.index(before), names.index(after))
        order = [step.id for step in self.plan.steps]
        self.assertLess(order.index("power/lamp"), order.index("power/negative"))
        self.assertLess(order.index("power/negative"), order.index(fuses[0].id))

    def test_no_step_with_the_battery_on_goes_without_its_caution(self) -> None:
        for step in self.plan.steps:
            if step.section in ("cold", "first power"):
                self.assertTrue(step.cautions, step.title)
        for step in steps(self.plan, "cold/"):
            self.assertIn("negative is off", step.cautions[0])
        (fan,) = steps(self.plan, "power/fuse/fan-fuse")
        self.assertIn("fan may start", " ".join(fan.cautions))
        crank = next(s for s in self.plan.steps if s.id == "works/crank/lead-off")
        self.assertIn("insulate", " ".join(crank.cautions))

    def test_nobody_works_on_a_live_battery_lead(self) -> None:
        """What is bolted goes in with the negative off, and the lead is off the starter while an
        interlock of it is tried."""
        for name in (ROADSTER, VAN, COUPE):
            plan = plan_of(demo(name))
            fuses = {step.id.rpartition("/")[2]: step for step in steps(plan, "power/fuse/")}
            for fuse in demo(name).build.parts_of_kind("fuse"):
                step = fuses[fuse.id]
                bolted = (fuse.catalogue or "").startswith("bolt-down")
                self.assertEqual(step.title.startswith("Negative off; bolt in"), bolted)
                self.assertEqual("spanner" in step.cautions[0], bolted)
            starters = [s for s in steps(plan, "works/starter/") if s.how.startswith("Nothing")]
            self.assertTrue(starters, name)
            for step in starters:
                self.assertIn("heavy lead", " ".join(step.stays_out))
                self.assertIn("the engine must not turn", " ".join(step.cautions))

    def test_the_small_fuse_is_out_before_more_is_drawn_than_it_holds(self) -> None:
        for name in (ROADSTER, VAN, COUPE):
            power = steps(plan_of(demo(name)), "power/")
            out = [step.id for step in power].index("power/small-fuse-out")
            for number, step in enumerate(power):
                draws = [row.band.expected or 0.0 for row in step.readings if row.id == "draw"]
                if number < out:
                    self.assertLess(max(draws, default=0.0), 3.5, (name, step.title))

    def test_what_must_refuse_is_tried_next_to_where_it_works(self) -> None:
        fog = steps(self.plan, "works/rear-fog-lamp/")
        refused = [step for step in fog if step.how.startswith("Nothing")]
        tried = [sorted(row.said for row in step.operate) for step in refused]
        self.assertTrue(any("Rear fog switch to on" in rows for rows in tried), tried)
        self.assertTrue(all(look.right == "dark" for step in refused for look in step.looks))

    def test_while_cranking_accessories_drop_and_the_engine_stays(self) -> None:
        (crank,) = steps(self.plan, "works/crank/lead-off")
        right = {look.name: look.right for look in crank.looks}
        self.assertEqual((right["Radio"], right["Fuel pump"]), ("off", "runs"))

    def test_parked_it_draws_what_its_memories_do(self) -> None:
        (parked,) = steps(self.plan, "parked/")
        (row,) = parked.readings
        self.assertAlmostEqual(row.band.expected or 0, 0.025, delta=0.01)
        self.assertIn("mA", row.high)

    def test_a_battery_as_measured_and_missing_lamps_make_another_sheet(self) -> None:
        today = Today(12.3, frozenset({"stop-lamp-left"}), frozenset())
        plan = plan_of(demo(ROADSTER), today)
        (usual,) = steps(self.plan, "works/stop-lamp-left/")
        (stop,) = steps(plan, "works/stop-lamp-left/")
        volts = {row.id: row.band for row in stop.readings}
        self.assertNotIn("volts/stop-lamp-left", volts)
        right = volts["volts/stop-lamp-right"]
        self.assertLess(right.high or 0.0, 12.35)
        before = next(r.band for r in usual.readings if r.id == "volts/stop-lamp-right")
        self.assertLess((right.high or 0) - right.low, ((before.high or 0) - before.low) / 2)


class OhmsTest(TestCase):
    def test_a_loose_wire_has_the_ohms_of_its_copper_and_its_joints(self) -> None:
        """16 mm² has 1.16 mΩ/m at 20 °C (ISO 6722-1), each ring or crimp some tenths of a mΩ."""
        build = demo(ROADSTER).build
        wire = next(w for w in build.wires.values() if w.size == "16 mm²")
        ohms = {
            row.id: row.band.expected or 0.0
            for step in steps(PlanTest.plan, "loom/ends")
            for row in step.readings
        }
        metres = demo(ROADSTER).wires[wire.id].length_m
        self.assertAlmostEqual(ohms[f"ohms/{wire.id}"], 0.00116 * metres, delta=0.0012)


class BandTest(TestCase):
    def test_verdicts(self) -> None:
        band, opened = Band(12.0, 11.5, 12.5), Band(None, 10e3, None)
        readings = (11.4, 11.5, 12.5, 12.6, -12.0, None)
        self.assertEqual(
            [band.verdict(reading) for reading in readings],
            ["too low", "in band", "in band", "too high", "the wrong way round", "too high"],
        )
        self.assertEqual(
            [opened.verdict(reading) for reading in (None, 2e6, 300.0)],
            ["in band", "in band", "too low"],
        )


class FactsTest(TestCase):
    def changed(self, operation: dict) -> list[str]:
        before = size_build(roadster()).build
        after = size_build(apply_operations(roadster(), [operation])).build
        return changed_since(facts_of(before), facts_of(after))

    def test_names_and_colours_are_no_facts_and_ratings_are(self) -> None:
        def field(**fields: object) -> dict:
            return {"op": "change", "collection": "parts", "id": "horn", "fields": fields}

        self.assertEqual(self.changed(field(name="Hooter")), [])
        self.assertIn("horn", self.changed(field(figures={"rated_a": 6.0})))


class AtTheBenchTest(TestCase):
    """Every step's expectation is what the bench shows in that state, through time."""

    def test_what_is_expected_of_functions_is_what_the_bench_shows(self) -> None:
        for name in (ROADSTER, COUPE):
            sizing = demo(name)
            for step in self.tried(plan_of(sizing)):
                with self.subTest(name, step=step.title):
                    self.assert_shown(Bench(sizing), step)

    def tried(self, plan: Plan) -> Iterator[Step]:
        """Steps with something to read that the bench can be put in, every third of them."""
        rows = [
            step
            for step in steps(plan, "works/")
            if step.readings
            and step.situation
            and not step.id.startswith(("works/charging/", "works/crank/", "works/starter/"))
            and not any(look.right == "flashes" for look in step.looks)
            and not any(name == "engine_rpm" for name, _ in step.situation.at)
        ]
        yield from rows[::3]

    def assert_shown(self, bench: Bench, step: Step) -> None:
        situation = step.situation
        assert situation is not None
        for part in sorted(situation.out):
            do(bench, 0.0, "pull", part)
        do(bench, 0.0, "key", to=situation.key)
        for name, position in sorted(situation.at):
            if name in bench.build.parts:
                do(bench, 0.0, "switch", name, position)
            else:
                do(bench, 0.0, "value", name, float(position))
        for row in step.readings:
            probe = row.probe
            at_s = max(bench.moment.t_s, SETTLES_S)
            if probe.kind == "volts":
                ends = {"red": str(probe.red), "black": str(probe.black)}
                do(bench, at_s, "meter", "1", meter={"kind": "voltmeter", **ends})
            elif probe.kind == "amps":
                do(bench, at_s, "meter", "1", meter={"kind": "clamp", "wire": probe.wire})
            else:
                continue
            shown = bench.frame(at_s).meters["1"].value
            if probe.kind == "amps" and shown is not None:
                shown = abs(shown)
            self.assertEqual(row.band.verdict(shown), "in band", (row.name, shown, row.band))

"""Sizing: what is chosen, why, and what is found."""

import gc
import weakref
from dataclasses import replace
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import Build
from circuitry.document.reading import from_document
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network, Supply
from circuitry.sizing import Sizing, size_build
from circuitry.sizing.result import Finding
from circuitry.sizing.states import in_words
from tests.core.cars import (
    document,
    lamp_document,
    part,
    place,
    relay_parts,
    roadster,
    roadster_sizing,
    switch,
    wire,
)


def found(sizing: Sizing, code: str) -> list[Finding]:
    return [row for row in sizing.findings if row.code == code]


def free(row: dict) -> Build:
    """The build of a document with all sizes and ratings left to sizing."""
    for line in row["wires"]:
        line["size"] = None
    for thing in row["parts"]:
        if thing["kind"] == "fuse":
            thing["figures"] = {}
    return from_document(row)


class ChoiceTest(TestCase):
    def test_a_lamp_by_hand(self) -> None:
        """26.5 W at 13.5 V takes 1.963 A · (14.4/13.5)^0.54 = 2.03 A at 14.4 V less the drop;
        at 75 % headroom and 20 °C, 2 A · 0.75 · 1.0075 carries 1.51 A: so 3 A, 2.27 A."""
        sizing = size_build(free(lamp_document()))
        fuse = sizing.fuses["fuse"]
        self.assertAlmostEqual(fuse.current_a, 2.02, delta=0.02)
        self.assertEqual(fuse.rating_a, 3)
        reasons = {row.name: row.reason for row in sizing.candidates("fuse")}
        self.assertEqual(reasons["3 A"], "smallest with headroom")
        self.assertNotIn("2 A", reasons)
        self.assertEqual({row.size for row in sizing.wires.values()}, {"0.5 mm²"})

    def test_every_chosen_wire_passes_and_a_smaller_one_only_where_a_reel_is_saved(self) -> None:
        sizing = roadster_sizing()
        for row in sizing.wires.values():
            if row.pinned:
                continue
            candidates = sizing.candidates(row.wire)
            names = [candidate.name for candidate in candidates]
            chosen = names.index(row.size)
            self.assertTrue(candidates[chosen].passes, row)
            for smaller in candidates[:chosen]:
                self.assertTrue(smaller.reason)
                if smaller.passes:
                    self.assertRegex(candidates[chosen].reason, "saves a reel|are of one size")

    def test_every_chosen_fuse_of_the_demo_is_the_smallest_with_headroom(self) -> None:
        sizing = roadster_sizing()
        for row in sizing.fuses.values():
            candidates = sizing.candidates(row.fuse)
            names = [candidate.name for candidate in candidates]
            chosen = names.index(f"{row.rating_a:g} A")
            self.assertTrue(candidates[chosen].passes)
            self.assertTrue(all(not candidate.passes for candidate in candidates[:chosen]))
            place_c = sizing.build.places[sizing.build.parts[row.fuse].place].ambient_c
            carries_a = row.rating_a * 0.75 * (1 - 0.0015 * (place_c - 25))
            self.assertAlmostEqual(candidates[chosen].carries_a, carries_a)

    def test_dip_and_main_are_not_added(self) -> None:
        """The dip switch cannot give both: F3 carries the larger, not the sum."""
        sizing = roadster_sizing()
        dipped = sizing.circuits["dipped-beam-left"].current_a
        main = sizing.circuits["main-beam-left"].current_a
        fuse = sizing.circuits["main-beam-left"].fuse
        self.assertEqual(sizing.circuits["main-beam-left"].fuses, 1)
        assert fuse is not None
        self.assertAlmostEqual(sizing.fuses[fuse].current_a, max(dipped, main), delta=0.3)
        self.assertIn("main", sizing.fuses[fuse].when)

    def test_side_lamps_are_added_to_head_lamps(self) -> None:
        """Head keeps the side lamps on, though side is the easier way to them."""
        sizing = roadster_sizing()
        state = sizing.states[0]
        self.assertEqual(state.state.switches["light-switch"], "head")
        self.assertIn("side-lamp-left", state.paths)

    def test_design_currents_are_the_largest_of_all_design_states(self) -> None:
        sizing = roadster_sizing()
        network = Network(sizing.build)
        for state in sizing.states:
            if state.road:
                continue
            solution = network.solve(replace(state.state, supply=Supply(14.4, 1e-4)))
            for wire_id, current_a in solution.wire_a.items():
                self.assertLess(abs(current_a), sizing.wires[wire_id].current_a * 1.05 + 0.01)

    def test_no_wire_carries_less_than_its_fuse_lets_pass(self) -> None:
        for row in roadster_sizing().wires.values():
            if not row.pinned:
                self.assertGreaterEqual(row.carries_a, 0.99 * row.must_carry_a, row.wire)

    def test_longer_wires_are_thicker(self) -> None:
        areas = []
        for length_m in (1.0, 25.0, 80.0):
            row = lamp_document()
            for line in row["wires"][2:]:
                line["length_m"] = length_m
            size = size_build(free(row)).wires["w3"].size
            areas.append(catalogue().conductor[size].copper_area_mm2)
        self.assertLess(areas[0], areas[1])
        self.assertLessEqual(areas[1], areas[2])

    def test_gauge_builds_are_sized_in_gauge(self) -> None:
        row = lamp_document() | {"policy": {"conductors": "awg"}}
        sizes = {line.size for line in size_build(free(row)).wires.values()}
        self.assertEqual(sizes, {"20 AWG"})

    def test_engine_bay_and_hinges_take_no_thinner_than_0_75(self) -> None:
        row = lamp_document()
        row["places"] = [place("bench", zone="engine bay")]
        self.assertEqual(size_build(free(row)).wires["w4"].size, "0.75 mm²")

    def test_sizing_is_the_same_twice(self) -> None:
        again = size_build(roadster())
        self.assertEqual(again.build, roadster_sizing().build)
        self.assertEqual(again.findings, roadster_sizing().findings)

    def test_a_car_without_loads_or_without_a_key_is_sized(self) -> None:
        empty = size_build(from_document(document([], [])))
        self.assertEqual((dict(empty.circuits), empty.findings), ({}, ()))
        self.assertEqual(in_words(empty.build, empty.states[0].state), "everything at rest")

    def test_relays_that_never_settle_are_refused(self) -> None:
        parts = [*relay_parts("mini 5-pin"), part("horn", "load", catalogue="Horn")]
        wires = [
            wire(1, "battery.+", "relay.30"),
            wire(2, "relay.87a", "relay.86"),
            wire(3, "relay.85", "battery.-"),
            wire(4, "relay.87a", "horn.+"),
            wire(5, "horn.-", "battery.-"),
        ]
        with self.assertRaisesRegex(UnusableInput, "never settles"):
            size_build(from_document(document(parts, wires)))


class MemoryTest(TestCase):
    def test_what_nobody_holds_any_more_is_free_without_looking_for_garbage(self) -> None:
        """Networks are millions of bytes, and the collector hardly ever looks at what is old."""
        sizing = size_build(roadster())
        held = [weakref.ref(row) for row in (sizing, sizing.network)]
        self.assertIs(sizing.network, sizing.network)
        gc.disable()
        self.addCleanup(gc.enable)
        del sizing
        self.assertEqual([row() for row in held], [None, None])


class FindingTest(TestCase):
    """Each mistake is found, and its mend cures it."""

    def test_the_demo_cars_honest_mistakes(self) -> None:
        codes = [(row.code, row.circuit) for row in roadster_sizing().findings]
        self.assertEqual(
            codes,
            [
                ("wire-too-thin", "main-beam-left"),
                ("wire-too-thin", "radiator-fan"),
                ("switch-overloaded", "heater-blower"),
                ("trunk-loses", "grounds"),
                ("wire-does-not-fit", "radiator-fan"),
                ("crowded-stud", "main-feed"),
                ("crowded-ground", "grounds"),
                ("crowded-ground", "key-control"),
                ("crowded-ground", "grounds"),
                ("protection-slow", "main-feed"),
                ("headlamps-share", "dipped-beam-left"),
                ("stop-lamps-share", "stop-lamp-left"),
                ("drop-too-high", "radiator-fan"),
                ("drop-too-high", "fuel-pump"),
                ("not-wired", None),
                ("stall-not-cleared", "wiper-motor"),
            ],
        )

    def test_every_mend_of_the_demo_cures_its_finding(self) -> None:
        for finding in roadster_sizing().findings:
            for mend in finding.mends:
                mended = size_build(apply_operations(roadster(), list(mend.operations)))
                left = [row for row in mended.findings if row.code == finding.code]
                self.assertNotIn(finding.parts, [row.parts for row in left], mend.label)

    def test_all_mends_together_leave_nothing_that_has_one(self) -> None:
        build = roadster()
        for _ in range(12):
            mends = [row.mends[0] for row in size_build(build).findings if row.mends]
            if mends:
                build = apply_operations(build, list(mends[0].operations))
        self.assertEqual([row.code for row in size_build(build).findings if row.mends], [])

    def test_a_bus_bar_leaves_a_stud_its_heaviest_wires(self) -> None:
        sizing = roadster_sizing()
        (crowded,) = found(sizing, "crowded-stud")
        stud, *wires = crowded.parts
        after = apply_operations(roadster(), list(crowded.mends[0].operations))
        stayed = {wire for wire in wires if stud in str(after.wires[wire])}
        self.assertEqual(len(stayed), 3)
        current_a = {wire: sizing.wires[wire].lasting_a for wire in wires}
        self.assertGreaterEqual(
            min(current_a[wire] for wire in stayed),
            max(current_a[wire] for wire in set(wires) - stayed),
        )

    def test_a_source_wire_longer_than_300_mm(self) -> None:
        sizing = size_build(free(lamp_document()))
        self.assertEqual([row.parts for row in found(sizing, "source-wire-long")], [("w1",)])
        row = lamp_document()
        row["wires"][0]["length_m"] = 0.3
        self.assertEqual(found(size_build(free(row)), "source-wire-long"), [])

    def test_a_pinned_fuse_below_its_current(self) -> None:
        row = lamp_document()
        row["parts"][1]["figures"] = {"rating_a": 1}
        finding = found(size_build(from_document(row)), "fuse-too-small")[0]
        self.assertEqual((finding.severity, finding.parts), ("stop", ("fuse",)))
        row["parts"][1]["figures"] = {"rating_a": 2}
        build = from_document(row)
        finding = found(size_build(build), "fuse-too-small")[0]
        self.assertIn("1.5 A for ever through 2 A", finding.limit)
        mended = size_build(apply_operations(build, list(finding.mends[0].operations)))
        self.assertEqual(found(mended, "fuse-too-small"), [])

    def test_no_fuse_large_enough(self) -> None:
        row = lamp_document()
        row["parts"][3] = part("lamp", "load", catalogue="Heated screen", figures={"rated_a": 60})
        finding = found(size_build(free(row)), "fuse-too-small")[0]
        self.assertIn("No fuse is large enough", finding.title)

    def test_a_load_that_nothing_can_feed(self) -> None:
        row = lamp_document()
        row["wires"].pop()
        finding = found(size_build(from_document(row)), "load-dead")[0]
        self.assertEqual((finding.severity, finding.parts), ("stop", ("lamp",)))

    def test_a_relay_without_the_voltage_to_pull_in(self) -> None:
        parts = [
            *relay_parts(),
            part("horn", "load", catalogue="Horn"),
            part("other", "relay", catalogue="mini 4-pin"),
        ]
        wires = [
            wire(1, "battery.+", "relay.30"),
            wire(2, "relay.87", "horn.+"),
            wire(3, "horn.-", "battery.-"),
            wire(4, "battery.+", "relay.86", size="0.35 mm²", length_m=100.0),
            wire(5, "relay.85", "battery.-", size="0.35 mm²", length_m=100.0),
        ]
        parts.append(part("bleed", "resistor", figures={"resistance_ohm": 5}))
        wires += [wire(6, "relay.86", "bleed.1"), wire(7, "bleed.2", "relay.85")]
        sizing = size_build(from_document(document(parts, wires)))
        self.assertEqual(found(sizing, "load-not-energised")[0].parts, ("horn",))

    def test_an_overloaded_relay(self) -> None:
        screen = part("screen", "load", catalogue="Heated screen", figures={"rated_a": 36})
        wires = [
            wire(1, "battery.+", "relay.30", size="10 mm²"),
            wire(2, "relay.87", "screen.+", size="10 mm²"),
            wire(3, "screen.-", "battery.-", size="10 mm²"),
            wire(4, "battery.+", "relay.86"),
            wire(5, "relay.85", "battery.-"),
        ]
        cool = document([*relay_parts(), screen], wires)
        self.assertEqual(found(size_build(from_document(cool)), "relay-overloaded"), [])
        hot = cool | {"places": [place("bench", zone="engine bay hot", ambient_c=85)]}
        self.assertEqual(
            found(size_build(from_document(hot)), "relay-overloaded")[0].limit, "30 A at 85 °C"
        )

    def test_a_switch_without_a_rating_is_not_judged(self) -> None:
        row = lamp_document()
        row["parts"][3] = part("lamp", "load", catalogue="Heated screen")
        self.assertEqual(found(size_build(free(row)), "switch-overloaded"), [])
        row["parts"][2]["figures"] = {"contact_rating_a": 10}
        self.assertEqual(found(size_build(free(row)), "switch-overloaded")[0].limit, "10 A")

    def test_a_pinned_wire_does_not_make_its_neighbours_thick(self) -> None:
        """The thin wire is to blame for the drop; the rest stays as if it were right."""
        pinned = roadster_sizing()
        build = roadster()
        wires = {key: replace(row, size=None) for key, row in build.wires.items()}
        unpinned = size_build(replace(build, wires=wires))
        areas = [
            sum(
                catalogue().conductor[row.size].copper_area_mm2 * row.length_m
                for row in sizing.wires.values()
                if not pinned.wires[row.wire].pinned
            )
            for sizing in (pinned, unpinned)
        ]
        self.assertLess(abs(areas[0] / areas[1] - 1), 0.2)

    def test_a_switch_with_three_ways_excludes_its_own_positions(self) -> None:
        parts = [
            part("fuse", "fuse", catalogue="regular blade"),
            switch("either", ("off", []), ("one", [["in", "a"]]), ("two", [["in", "b"]])),
            part("one", "load", catalogue="Seat heater"),
            part("two", "load", catalogue="Seat heater"),
        ]
        wires = [
            wire(1, "battery.+", "fuse.in", size=None, length_m=0.2),
            wire(2, "fuse.out", "either.in", size=None),
            wire(3, "either.a", "one.+", size=None),
            wire(4, "either.b", "two.+", size=None),
            wire(5, "one.-", "battery.-", size=None),
            wire(6, "two.-", "battery.-", size=None),
        ]
        sizing = size_build(from_document(document(parts, wires)))
        self.assertEqual(len({state.state.switches["either"] for state in sizing.states}), 2)
        self.assertLess(sizing.fuses["fuse"].current_a, 5)

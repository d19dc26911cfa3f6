"""What is wrong with modules and data buses is found, once each, and its mends mend it."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any
from unittest import TestCase

from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.module import limit_for, module_fields, starts_on
from circuitry.document.reading import read
from circuitry.edits import apply_operations
from circuitry.finding import Finding
from circuitry.sizing import size_build
from circuitry.sizing.channels import modules, try_condition
from tests.core.cars import ROOT
from tests.core.test_hearing import car


def found(build: Build) -> Mapping[str, Finding]:
    return {row.code: row for row in size_build(build).findings}


def with_channel(build: Build, module: str, **fields: Any) -> Build:
    part = build.parts[module]
    ways = tuple(replace(way, **fields) if way.name == "C1" else way for way in part.ways)
    return replace(build, parts={**build.parts, module: replace(part, ways=ways)})


class ModuleFindingsTest(TestCase):
    def test_a_sound_car_has_none_of_them(self) -> None:
        codes = ("module-unfed", "bus-ends", "not-told", "condition-idle", "channel-limit")
        self.assertEqual(set(codes) & set(found(car("work", "brake"))), set())

    def test_a_module_without_feed_or_ground_stops(self) -> None:
        for wire, said in (("2", "feed"), ("5", "ground")):
            finding = found(car("work", "brake", wire))["module-unfed"]
            self.assertEqual((finding.severity, finding.parts), ("stop", ("rear",)))
            self.assertIn(f"no wire on its {said}", finding.found)

    def test_a_bus_wants_both_its_ends(self) -> None:
        finding = found(car("work", "brake", "17", "18"))["bus-ends"]
        self.assertEqual(finding.found, "1 of 2 resistors of 120 Ω")
        self.assertNotIn("bus-ends", found(car("work", "brake")))

    def test_what_nobody_tells_is_named_with_who_should(self) -> None:
        finding = found(car("work", "brake", "15", "16"))["not-told"]
        self.assertIn("hears nothing of work", finding.title)
        self.assertIn("keypad", finding.parts)

    def test_a_condition_that_says_nothing(self) -> None:
        self.assertIn("never on", found(car("work and not work", "brake"))["condition-idle"].title)
        self.assertIn("never off", found(car("work or not work", "brake"))["condition-idle"].title)

    def test_a_limit_above_what_the_channel_bears_is_mended(self) -> None:
        build = with_channel(car("work", "brake"), "front", limit_a=40.0)
        finding = found(build)["channel-limit"]
        self.assertEqual((finding.found, finding.limit), ("40 A", "25 A"))
        mended = apply_operations(build, list(finding.mends[0].operations))
        self.assertNotIn("channel-limit", found(mended))

    def test_a_switch_that_nothing_leads_there_is_a_note(self) -> None:
        finding = found(car("pedal", "brake"))["not-led"]
        self.assertEqual(finding.severity, "note")
        self.assertIn("pedal", finding.title)

    def test_what_all_channels_carry_is_held_to_what_the_module_bears(self) -> None:
        build = car("work", "brake")
        front = build.parts["front"]
        weak = replace(front, figures={"total_a": 1.0})
        build = replace(build, parts={**build.parts, "front": weak})
        finding = found(build)["module-sum"]
        self.assertEqual((finding.found, finding.limit), ("2 A lasting", "1 A"))

    def test_two_modules_have_findings_of_their_own(self) -> None:
        """What is accepted of one must stay open of the other."""
        build = car("work and not work", "brake and not brake")
        for module in ("front", "rear"):
            build = with_channel(build, module, limit_a=40.0)
        rows = [
            row
            for row in size_build(build).findings
            if row.code in ("condition-idle", "channel-limit")
        ]
        self.assertEqual(len({row.id for row in rows}), 4)

    def test_every_finding_of_every_demo_has_an_id_of_its_own(self) -> None:
        for path in sorted((ROOT / "demo").glob("*.json")):
            ids = [row.id for row in size_build(read(path.read_bytes())).findings]
            self.assertEqual(len(set(ids)), len(ids), path.name)

    def test_a_crossed_pair_is_found_on_the_part_that_is_alone(self) -> None:
        build = car("work", "brake")
        swap = {"keypad.3": "keypad.4", "keypad.4": "keypad.3"}
        wires = {
            key: replace(w, to_terminal=Terminal.parse(swap[str(w.to_terminal)]))
            if str(w.to_terminal) in swap and w.from_terminal.part == "rear"
            else w
            for key, w in build.wires.items()
        }
        findings = size_build(replace(build, wires=wires)).findings
        alone = [row.parts for row in findings if row.code == "bus-alone"]
        self.assertEqual(alone, [("keypad",)])

    def test_both_resistors_at_one_end_are_no_two_ends(self) -> None:
        build = car("work", "brake")
        to_front = {"keypad.3": "front.bus-high", "keypad.4": "front.bus-low"}
        wires = {
            key: replace(w, to_terminal=Terminal.parse(to_front[str(w.to_terminal)]))
            if w.from_terminal.part == "end-2"
            else w
            for key, w in build.wires.items()
        }
        finding = found(replace(build, wires=wires))["bus-ends"]
        self.assertEqual(finding.found, "both resistors at front")


class ChannelTest(TestCase):
    def test_a_limit_leaves_a_fifth_to_spare(self) -> None:
        self.assertEqual(limit_for(4.0, 25.0), 5.0)
        self.assertEqual(limit_for(4.1, 25.0), 7.5)
        self.assertEqual(limit_for(20.0, 25.0), 25.0)
        self.assertIsNone(limit_for(20.1, 25.0))
        self.assertIsNone(limit_for(9.0, 10.0))

    def test_starts_by_hand(self) -> None:
        """A 100 W lamp at 13.2 V: 7.95 A lasting, ten times that at first and falling for 60 ms; a
        channel of 10 A bears 60 A for 0.1 s, one of 15 A 90 A."""
        lamp = Part("l", "load", "L", "p", catalogue="Driving lamp halogen 100 W")
        module = Part("m", "module", "M", "p", **module_fields("Module small, 8 channels"))
        first_a, borne = starts_on(module, "C7", [lamp])
        self.assertAlmostEqual(first_a, 79.5, delta=0.5)
        self.assertFalse(borne)
        self.assertTrue(starts_on(module, "C3", [lamp])[1])
        self.assertFalse(starts_on(module, "C1", [lamp, lamp])[1])


class ToldTest(TestCase):
    def test_the_lists_say_what_each_channel_does(self) -> None:
        told = modules(size_build(car("work or bus_lost", "brake")))
        front, rear = told.modules
        self.assertEqual(front.channels[0].says, "while work is on or the data bus is lost")
        self.assertEqual(rear.channels[0].loads, ("rear lamp",))
        self.assertAlmostEqual(rear.channels[0].most_a, 1.95, delta=0.15)
        (pad,) = told.keypads
        asked = {button.name: button.asked_by for button in pad.buttons}
        self.assertEqual(asked, {"work": ("front, C1",), "wiper button": ()})
        (bus,) = told.buses
        self.assertEqual((bus.length_m, bus.ends, bus.most_kbit_s), (4.0, 2, 1000))

    def test_a_condition_is_tried_with_its_table(self) -> None:
        build = car("work", "brake")
        tried = try_condition(build, "front", "wiper_button is fast and not work")
        self.assertEqual(tried.says, "while wiper button is at fast and work is off")
        self.assertEqual(tried.names, ("wiper button", "work"))
        on = [row.positions for row in tried.rows if row.is_on]
        self.assertEqual(on, [("fast", "off")])
        self.assertIn("cannot be read", try_condition(build, "front", "work and").problem)
        values = try_condition(build, "front", "coolant_c > 90")
        self.assertEqual([row.positions for row in values.rows if row.is_on], [("91 °C",)])
        self.assertIn("called ghost", try_condition(build, "front", "ghost").problem)
        self.assertEqual(try_condition(build, "front", "work and not work").idle, "never")

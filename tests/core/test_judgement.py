"""What a good builder decides: duty, road states, limits by kind, terminals, and what may share."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import DROP_SCHOOLS, Build
from circuitry.devices.fuse_times import longest_time_s
from circuitry.devices.terminals import fits, terminal_range
from circuitry.document.reading import from_document, read
from circuitry.edits import apply_operations
from circuitry.finding import Finding
from circuitry.recipes.book import RECIPES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import Sizing, size_build
from circuitry.sizing.causes import grams
from circuitry.sizing.rules import rules
from circuitry.sizing.time_current import time_current
from circuitry.sizing.transient import bears_s, wire_of
from tests.core.benches import COUPE, ROADSTER, VAN, demo
from tests.core.cars import ON_OFF, ROOT, document, part, roadster, roadster_sizing, switch, wire


def car(parts: list[dict], ends: list[tuple[str, str]], **fields: Any) -> dict:
    """Wires of a metre between these ends, none pinned; the first as short as a source wire."""
    wires = [wire(n, *pair, size=None) for n, pair in enumerate(ends, 1)]
    wires[0]["length_m"] = 0.2
    return document(parts, wires, **fields)


def found(sizing: Sizing, code: str) -> list[Finding]:
    return [row for row in sizing.findings if row.code == code]


def lamps(fuse: dict, *loads: tuple[str, str, str]) -> Build:
    """Loads behind one fuse, each with a switch and a circuit: id, catalogue, criticality."""
    parts, ends = [fuse], [("battery.+", "fuse.in")]
    circuits = []
    for name, kind, criticality in loads:
        circuits.append(
            {"id": name, "name": name, "group": "accessory", "criticality": criticality}
        )
        parts += [
            switch(f"{name}-switch", *ON_OFF),
            part(name, "load", catalogue=kind, circuit=name),
        ]
        ends += [
            ("fuse.out", f"{name}-switch.in"),
            (f"{name}-switch.out", f"{name}.+"),
            (f"{name}.-", "battery.-"),
        ]
    return from_document(car(parts, ends, circuits=circuits))


FUSE = part("fuse", "fuse", catalogue="regular blade")


class DutyTest(TestCase):
    def test_seconds_and_flashes_count_for_less_than_for_ever(self) -> None:
        """A horn of 5 A: 3 A lasts 2.27 A and bears 3.02 A, so 7.5 A for ever and 5 A is too
        little for its peak only where it lasts: 5 · 1.0075 A bears 5.04 A, and half of 5 lasts."""
        rated = {}
        for duty in ("for ever", "seconds"):
            horn = part("horn", "load", catalogue="Horn", figures={"duty": duty})
            ends = [("battery.+", "fuse.in"), ("fuse.out", "horn.+"), ("horn.-", "battery.-")]
            row = size_build(from_document(car([FUSE, horn], ends))).fuses["fuse"]
            rated[duty] = row.rating_a
            self.assertAlmostEqual(row.current_a, 5.0, delta=0.1)
            self.assertAlmostEqual(row.lasting_a, 5.0 if duty == "for ever" else 2.5, delta=0.1)
        self.assertEqual(rated, {"for ever": 7.5, "seconds": 5.0})

    def test_what_is_on_for_seconds_is_added_by_its_mean_square(self) -> None:
        """10 A for ever and 10 A for seconds, a quarter of the time: √(¾·10² + ¼·20²) = 13.2 A."""
        build = lamps(FUSE, ("screen", "Heated screen", "comfort"), ("horn", "Horn", "comfort"))
        parts = {
            **build.parts,
            "screen": replace(build.parts["screen"], figures={"rated_a": 10.0}),
            "horn": replace(build.parts["horn"], figures={"rated_a": 10.0}),
        }
        row = size_build(replace(build, parts=parts)).fuses["fuse"]
        mean = (0.75 * 10**2 + 0.25 * 20**2) ** 0.5
        self.assertAlmostEqual(row.lasting_a / row.current_a, mean / 20, delta=0.02)


class RoadTest(TestCase):
    def test_a_trunk_is_judged_on_the_road_and_sized_by_the_worst(self) -> None:
        sizing = roadster_sizing()
        roads = {row.road for row in sizing.loads.values()}
        self.assertLessEqual({"day", "night and rain"}, roads)
        judged = [
            abs(solution.battery_a)
            for state, solution in zip(sizing.states, sizing.solutions, strict=True)
            if state.road in ("day", "night", "night and rain")
        ]
        self.assertLess(max(judged), 0.8 * sizing.fuses["main-fuse"].current_a)

    def test_by_day_nothing_is_on_that_belongs_to_the_night(self) -> None:
        cars = [demo(name) for name in (ROADSTER, VAN, COUPE)]
        self.assertTrue(
            any(p.name == "Instrument lamp" for s in cars for p in s.build.parts.values())
        )
        for sizing in cars:
            for name in {row.name: row for row in rules(sizing).roads}["day"].on:
                roads = catalogue().loads[sizing.build.parts[name].catalogue or ""].road_states
                self.assertTrue(not roads or "day" in roads, name)

    def test_what_is_on_can_be_named(self) -> None:
        before = {row.name: row for row in rules(roadster_sizing()).roads}
        self.assertIn("dipped-beam-left", before["night"].on)
        self.assertFalse(before["night"].named)
        fields = {"policy": {"road_states": {"night": ["horn"]}}}
        edit = {"op": "change", "collection": "build", "id": "build", "fields": fields}
        after = {r.name: r for r in rules(size_build(apply_operations(roadster(), [edit]))).roads}
        self.assertEqual((after["night"].on, after["night"].named), (("horn",), True))

    def test_every_school_gives_every_load_its_limit(self) -> None:
        limits = {}
        for school in DROP_SCHOOLS:
            policy = replace(roadster().policy, drop_school=school)
            rows = size_build(replace(roadster(), policy=policy)).loads
            limits[school] = {load: round(row.limit_v, 3) for load, row in rows.items()}
        lamp, horn, pump = "main-beam-left", "horn", "fuel-pump"
        self.assertEqual(
            [limits["by kind of load"][x] for x in (lamp, horn, pump)], [0.6, 1.5, 0.5]
        )
        self.assertEqual(set(limits["flat"].values()), {0.5})
        # 12 V · (1 − 0.85^(1/3.4)) of light, 12 V · (1 − 0.92) of speed
        self.assertEqual([limits["by effect"][x] for x in (lamp, pump)], [0.56, 0.96])
        self.assertEqual(limits["percent by class"][lamp], 0.36)
        self.assertAlmostEqual(limits["by ampacity alone"][lamp], 12.0, delta=0.01)

    def test_a_looser_school_takes_no_more_copper(self) -> None:
        kilos = []
        for volts in (0.3, 0.5, 0.8, 1.5):
            policy = replace(roadster().policy, drop_school="flat", flat_drop_v=volts)
            kilos.append(rules(size_build(replace(roadster(), policy=policy))).copper_kg)
        self.assertEqual(kilos, sorted(kilos, reverse=True))


class TerminalTest(TestCase):
    def test_no_wire_that_is_thickened_for_drop_outgrows_its_terminals(self) -> None:
        sizing = roadster_sizing()
        misfit = {part for row in found(sizing, "wire-does-not-fit") for part in row.parts}
        for one in sizing.build.wires.values():
            area_mm2 = catalogue().conductor[one.size or ""].copper_area_mm2
            for end in (one.from_terminal, one.to_terminal):
                ok = fits(terminal_range(sizing.build, end), area_mm2)
                self.assertTrue(ok or one.id in misfit, f"{one.label} {one.size} on {end}")

    def test_a_wire_too_thick_for_a_relay_is_found_and_mended(self) -> None:
        relay = part("relay", "relay", catalogue="mini 4-pin")
        screen = part("screen", "load", catalogue="Heated screen", figures={"rated_a": 46})
        ends = [
            ("battery.+", "fuse.in"),
            ("fuse.out", "relay.30"),
            ("relay.87", "screen.+"),
            ("screen.-", "battery.-"),
            ("battery.+", "small.in"),
            ("small.out", "relay.86"),
            ("relay.85", "battery.-"),
        ]
        fuse = part("fuse", "fuse", catalogue="maxi blade")
        small = part("small", "fuse", catalogue="regular blade")
        build = from_document(car([fuse, small, relay, screen], ends))
        finding = found(size_build(build), "wire-does-not-fit")[0]
        self.assertIn("relay", finding.title)
        mended = size_build(apply_operations(build, list(finding.mends[0].operations)))
        self.assertEqual(found(mended, "wire-does-not-fit"), [])

    def test_a_contact_that_carries_more_than_it_bears(self) -> None:
        build = lamps(
            part("fuse", "fuse", catalogue="maxi blade"), ("s", "Heated screen", "comfort")
        )
        sizes = {}
        for amps in (15.0, 28.0):
            load = replace(build.parts["s"], figures={"rated_a": amps})
            sizing = size_build(replace(build, parts={**build.parts, "s": load}))
            sizes[amps] = [row.parts for row in found(sizing, "pin-overloaded")]
        self.assertEqual(sizes[15.0], [])
        self.assertEqual(sizes[28.0], [("s-switch",)])


class SharingTest(TestCase):
    def codes(self, *loads: tuple[str, str, str]) -> set[str]:
        return {row.code for row in size_build(lamps(FUSE, *loads)).findings}

    def test_headlamps(self) -> None:
        left, right = ((side, "Dipped beam halogen 55 W", "safety") for side in ("left", "right"))
        self.assertIn("headlamps-share", self.codes(left, right))
        self.assertNotIn("headlamps-share", self.codes(left))

    def test_stop_lamps(self) -> None:
        stop = ("stop", "Stop lamp 21 W", "safety")
        self.assertIn("stop-lamps-share", self.codes(stop, ("horn", "Horn", "safety")))
        self.assertNotIn("stop-lamps-share", self.codes(stop))

    def test_the_engine_with_comfort(self) -> None:
        box = ("box", "Engine control box", "critical")
        self.assertIn("engine-shares", self.codes(box, ("seat", "Seat heater", "comfort")))
        self.assertNotIn(
            "engine-shares", self.codes(box, ("coils", "Injectors set of four", "critical"))
        )

    def test_what_is_plugged_in(self) -> None:
        socket = ("socket", "Power socket", "comfort")
        self.assertIn("sockets-share", self.codes(socket, ("lamp", "Stop lamp 21 W", "safety")))
        self.assertNotIn("sockets-share", self.codes(socket))


class FunctionTest(TestCase):
    def test_turn_lamps_need_a_flasher_and_a_flasher_its_load(self) -> None:
        steady = size_build(lamps(FUSE, ("turn", "Turn lamp 21 W", "safety")))
        self.assertEqual(len(found(steady, "turn-without-flasher")), 1)
        ends = [
            ("battery.+", "fuse.in"),
            ("fuse.out", "flasher.49"),
            ("flasher.49a", "s.in"),
            ("s.out", "turn.+"),
            ("turn.-", "battery.-"),
            ("flasher.31", "battery.-"),
        ]
        for kind, starved in (("Turn lamp 21 W", False), ("Turn lamp LED", True)):
            parts = [
                FUSE,
                part("flasher", "flasher", catalogue="Flasher electronic, load-sensing"),
                switch("s", *ON_OFF),
                part(
                    "turn", "load", catalogue=kind, figures={"rated_w": 42} if not starved else {}
                ),
            ]
            build = from_document(car(parts, ends))
            sizing = size_build(build)
            self.assertEqual(found(sizing, "turn-without-flasher"), [])
            rows = found(sizing, "flasher-starved")
            self.assertEqual(bool(rows), starved, kind)
            for row in rows:
                mended = size_build(apply_operations(build, list(row.mends[0].operations)))
                self.assertEqual(found(mended, "flasher-starved"), [])

    def test_a_rear_fog_lamp_on_a_switch_alone(self) -> None:
        alone = size_build(lamps(FUSE, ("fog", "Rear fog lamp 21 W", "safety")))
        self.assertEqual(len(found(alone, "fog-without-interlock")), 1)
        self.assertEqual(found(roadster_sizing(), "fog-without-interlock"), [])

    def test_a_diode_coil_the_wrong_way_round(self) -> None:
        for feed, ground in (("86", "85"), ("85", "86")):
            ends = [
                ("battery.+", "fuse.in"),
                ("fuse.out", "relay.30"),
                ("relay.87", "horn.+"),
                ("horn.-", "battery.-"),
                ("fuse.out", "s.in"),
                ("s.out", f"relay.{feed}"),
                (f"relay.{ground}", "battery.-"),
                ("s.out", "lamp.+"),
                ("lamp.-", "battery.-"),
            ]
            parts = [
                FUSE,
                part("relay", "relay", catalogue="mini 4-pin diode"),
                part("horn", "load", catalogue="Horn"),
                switch("s", *ON_OFF),
                part("lamp", "load", catalogue="Telltale 1.2 W"),
            ]
            build = from_document(car(parts, ends))
            rows = found(size_build(build), "coil-reversed")
            self.assertEqual(bool(rows), feed == "85")
            for row in rows:
                mended = apply_operations(build, list(row.mends[0].operations))
                self.assertEqual(found(size_build(mended), "coil-reversed"), [])

    def test_a_switch_without_a_rating_is_asked_for_it(self) -> None:
        build = lamps(FUSE, ("horn", "Horn", "safety"))
        (row,) = found(size_build(build), "switch-unrated")
        rated = apply_operations(build, list(row.mends[0].operations))
        self.assertEqual(found(size_build(rated), "switch-unrated"), [])

    def test_a_starter_that_returns_through_the_body(self) -> None:
        parts = [
            part("engine", "ground point"),
            part("chassis", "ground point"),
            part("starter", "load", catalogue="Starter motor geared 1.4 kW"),
        ]
        ends = [
            ("battery.+", "starter.+"),
            ("starter.-", "engine.stud"),
            ("chassis.stud", "battery.-"),
        ]
        loose = car(parts, ends, body_conducts=True)
        self.assertEqual(len(found(size_build(from_document(loose)), "no-engine-strap")), 1)
        strapped = car(parts, [*ends, ("engine.stud", "battery.-")], body_conducts=True)
        self.assertEqual(found(size_build(from_document(strapped)), "no-engine-strap"), [])


class IsolationTest(TestCase):
    def car(self, feed: str) -> Build:
        positions = ("on", [["in", "out"]]), ("off", [])
        isolator = switch("isolator", *positions) | {"kind": "isolator"}
        parts = [
            isolator,
            FUSE,
            part("memory", "load", catalogue="Memory feed"),
            part("horn", "load", catalogue="Horn"),
        ]
        ends = [
            ("battery.+", "isolator.in"),
            (feed, "fuse.in"),
            ("fuse.out", "horn.+"),
            ("horn.-", "battery.-"),
            ("isolator.out", "memory.+"),
            ("memory.-", "battery.-"),
        ]
        return from_document(car(parts, ends))

    def test_what_stays_live_and_what_is_cut(self) -> None:
        past = size_build(self.car("battery.+"))
        self.assertIn("w2", found(past, "live-past-isolator")[0].parts)
        behind = size_build(self.car("isolator.out"))
        self.assertEqual(found(behind, "live-past-isolator"), [])
        self.assertIn("memory", found(behind, "memory-cut")[0].parts)


class ProtectionTest(TestCase):
    def test_the_slowest_curve_is_that_of_the_table(self) -> None:
        """Blade fuses of ISO 8820-3: at twice the rating 5 s at most, at 1.35 times 600 s."""
        self.assertAlmostEqual(longest_time_s("regular blade", 10, 20), 5)
        self.assertAlmostEqual(longest_time_s("regular blade", 10, 13.5), 600)
        self.assertEqual(longest_time_s("regular blade", 10, 11), 1e6)
        self.assertLess(longest_time_s("regular blade", 10, 30), 5)

    def test_a_short_at_the_end_of_a_long_thin_wire(self) -> None:
        rows = {}
        for length_m in (2.0, 60.0):
            document_ = car(
                [FUSE, part("lamp", "load", catalogue="Stop lamp 21 W")],
                [("battery.+", "fuse.in"), ("fuse.out", "lamp.+"), ("lamp.-", "battery.-")],
            )
            document_["wires"][1] |= {"length_m": length_m, "size": "0.35 mm²"}
            document_["parts"][1] = FUSE | {"figures": {"rating_a": 5}}
            rows[length_m] = found(size_build(from_document(document_)), "short-lasts")
        self.assertEqual(rows[2.0], [])
        self.assertEqual(rows[60.0][0].parts, ("fuse", "lamp"))

    def two_fuses(self, beside: bool, **figures: float) -> Sizing:
        """10 A behind another fuse, which guards a lamp too where there is one ``beside``."""
        upper = part("upper", "fuse", catalogue="regular blade", figures=figures)
        lower = FUSE | {"figures": {"rating_a": 10}}
        parts = [upper, lower, part("horn", "load", catalogue="Horn")]
        ends = [
            ("battery.+", "upper.in"),
            ("upper.out", "fuse.in"),
            ("fuse.out", "horn.+"),
            ("horn.-", "battery.-"),
        ]
        if beside:
            parts.append(part("lamp", "load", catalogue="Stop lamp 21 W"))
            ends += [("upper.out", "lamp.+"), ("lamp.-", "battery.-")]
        return size_build(from_document(car(parts, ends)))

    def test_a_fuse_hardly_larger_than_one_of_those_behind_it(self) -> None:
        rows = {
            (rating_a, beside): bool(
                found(self.two_fuses(beside, rating_a=rating_a), "not-selective")
            )
            for rating_a in (15, 30)
            for beside in (True, False)
        }
        wrong = {key for key, told in rows.items() if told}
        self.assertEqual(wrong, {(15, True)})

    def test_a_fuse_that_is_chosen_outlasts_those_behind_it(self) -> None:
        alone, guarding = self.two_fuses(beside=False), self.two_fuses(beside=True)
        self.assertLess(alone.fuses["upper"].rating_a, 10)
        self.assertEqual(guarding.fuses["upper"].rating_a, 20)
        reasons = {row.name: row.reason for row in guarding.candidates("upper")}
        self.assertIn("may part before what is behind it", reasons["15 A"])


class ThicknessTest(TestCase):
    def starter_car(self, cable_m: float) -> Sizing:
        positions = ("on", [["in", "out"]]), ("off", [])
        parts = [
            switch("isolator", *positions) | {"kind": "isolator"},
            part("starter", "load", catalogue="Starter motor geared 1.4 kW"),
        ]
        ends = [
            ("battery.+", "isolator.in"),
            ("isolator.out", "starter.+"),
            ("starter.-", "battery.-"),
        ]
        document_ = car(parts, ends)
        document_["wires"][1]["length_m"] = cable_m
        return size_build(from_document(document_))

    def test_the_battery_lead_is_as_thick_as_the_starter_cable(self) -> None:
        wires = self.starter_car(9.0).wires
        areas = [catalogue().conductor[wires[name].size].copper_area_mm2 for name in ("w1", "w2")]
        self.assertGreaterEqual(areas[0], areas[1])
        self.assertGreater(areas[1], 25)

    def test_a_long_starter_cable_is_told_of_and_a_short_one_is_not(self) -> None:
        (row,) = found(self.starter_car(3.0), "starter-cable-bare")
        self.assertEqual((row.severity, row.parts), ("note", ("w2",)))
        self.assertEqual(found(self.starter_car(3.0), "source-wire-long"), [])
        self.assertEqual(found(self.starter_car(0.2), "starter-cable-bare"), [])

    def test_no_wire_is_thinner_than_what_it_feeds_without_a_fuse_between(self) -> None:
        """Of a whole car, along the way of each load there and back; a terminal that takes
        no thicker wire, and a wire that is pinned, are the only reasons."""
        sizing = size_build(read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes()))
        self.assertGreater(self.thinner_steps(sizing), 100)

    def thinner_steps(self, sizing: Sizing) -> int:
        seen = 0
        for row in sizing.loads.values():
            for steps in (row.path.feed, row.path.back[::-1]):
                before: str | None = None
                for step in steps:
                    if step.kind in ("fuse", "output"):
                        before = None
                    elif step.kind == "wire":
                        if before is not None:
                            self.is_no_thinner(sizing, before, step.owner)
                            seen += 1
                        before = step.owner
        return seen

    def is_no_thinner(self, sizing: Sizing, first: str, second: str) -> None:
        area_mm2 = {
            name: catalogue().conductor[sizing.wires[name].size].copper_area_mm2
            for name in (first, second)
        }
        if area_mm2[first] >= area_mm2[second] or sizing.wires[first].pinned:
            return
        wire_ = sizing.build.wires[first]
        ends = (wire_.from_terminal, wire_.to_terminal)
        taken = [fits(terminal_range(sizing.build, end), area_mm2[second]) for end in ends]
        self.assertFalse(all(taken), (first, second, area_mm2))


class RulesTest(TestCase):
    def test_each_limit_says_what_it_is_for_the_charging_cable_too(self) -> None:
        limits = {row.kind: row.loads for row in rules(demo(ROADSTER)).limits}
        self.assertEqual(limits["charging"], ("alternator",))
        self.assertEqual(limits["starter main loop"], ("starter-motor",))


class MendTest(TestCase):
    def test_thicker_wire_says_what_copper_it_takes(self) -> None:
        """As the reels of the car say before and after."""
        for sizing in (demo(ROADSTER), demo(VAN), demo(COUPE)):
            (mend,) = (
                row for found in sizing.findings for row in found.mends if "copper" in row.label
            )
            after = size_build(apply_operations(sizing.build, list(mend.operations)))
            more_kg = rules(after).copper_kg - rules(sizing).copper_kg
            self.assertIn(f"{grams(more_kg)} more copper", mend.label)

    def test_where_no_wire_cures_it_is_said_what_does(self) -> None:
        (finding,) = found(demo(ROADSTER), "drop-too-high")[:1]
        self.assertIn("No wire that fits cures Starter motor: fuses and contacts", finding.why)
        self.assertEqual(finding.mends, ())
        (pinned,) = found(demo(ROADSTER), "drop-too-high")[1:]
        self.assertNotIn("No wire", pinned.why)


class AcceptanceTest(TestCase):
    def test_a_finding_is_lived_with_until_it_says_something_else(self) -> None:
        sizing = roadster_sizing()
        (row,) = found(sizing, "crowded-stud")
        value = {
            "id": row.id,
            "code": row.code,
            "parts": list(row.parts),
            "found": row.found,
            "limit": row.limit,
            "reason": "two of them share a ring",
        }
        build = apply_operations(
            roadster(), [{"op": "add", "collection": "acceptances", "value": value}]
        )
        after = size_build(build)
        accepted = found(after, "crowded-stud")[0]
        self.assertEqual((accepted.accepted, accepted.id), (value["reason"], row.id))
        self.assertEqual(after.findings[-1], accepted)
        other = {
            "op": "change",
            "collection": "acceptances",
            "id": row.id,
            "fields": {"found": "9"},
        }
        again = found(size_build(apply_operations(build, [other])), "crowded-stud")[0]
        self.assertEqual((again.accepted, again.once_accepted), ("", value["reason"]))

    def test_an_old_build_is_offered_the_new_default(self) -> None:
        old = replace(roadster(), policy=replace(roadster().policy, drop_school="percent by class"))
        (row,) = found(size_build(old), "drop-by-class")
        new = apply_operations(old, list(row.mends[0].operations))
        self.assertEqual(new.policy.drop_school, "by kind of load")
        self.assertEqual(found(size_build(new), "drop-by-class"), [])


class TimeCurrentTest(TestCase):
    def test_the_adiabatic_constant_of_pvc(self) -> None:
        """IEC 60364-4-43: k = 115 for copper in PVC from 70 to 160 °C: 1 mm² bears 115² A²s."""
        pvc = replace(catalogue().insulation["PVC"], continuous_limit_c=70.0)
        bears = float(
            bears_s(wire_of(catalogue().conductor["1 mm²"], pvc), 30.0, 15.0, 15.0, 200.0)
        )
        self.assertAlmostEqual(bears * 200**2, 115**2, delta=0.01 * 115**2)

    def test_a_wire_bears_its_ampacity_for_ever_and_less_the_longer(self) -> None:
        conductor = catalogue().conductor["1.5 mm²"]
        insulation = catalogue().insulation["XLPE thin wall"]
        times = [
            float(bears_s(wire_of(conductor, insulation), 40.0, 24.0, 10.0, amps))
            for amps in (24, 60, 90, 150, 400)
        ]
        self.assertEqual(times[0], float("inf"))
        self.assertEqual(times, sorted(times, reverse=True))

    def test_only_the_wire_that_was_pinned_too_thin_is_slower_than_its_fuse(self) -> None:
        sizing = roadster_sizing()
        pictures = {fuse: time_current(sizing, fuse) for fuse in sizing.fuses}
        self.assertLess(pictures["fan-fuse"].margin or 1.0, 1)
        self.assertEqual(pictures["fan-fuse"].worst_wire, "w77")
        flagged = {row.parts[0] for row in found(sizing, "protection-slow")}
        short = {fuse for fuse, row in pictures.items() if row.margin and row.margin < 1}
        thin = {row.parts[0] for row in found(sizing, "wire-too-thin")}
        self.assertEqual({fuse for fuse in short if pictures[fuse].worst_wire not in thin}, flagged)


class GroundBarTest(TestCase):
    def test_a_bar_on_which_nothing_returns_yet_is_grounded_for_what_its_panel_may_feed(
        self,
    ) -> None:
        answers = {"panel": None, "place": "rear-left"}
        sizing = size_build(write_recipe(bare_car(), RECIPES["sub-panel"], answers))
        wires = sizing.build.wires.values()
        strip = next(w for w in wires if w.from_terminal.part == "second-panel-ground-strip")
        row = sizing.wires[strip.id]
        self.assertEqual(row.current_a, 0.0)
        self.assertEqual(row.must_carry_a, sizing.fuses["second-panel-fuse"].rating_a)

    def test_every_bar_of_the_demo_cars_is_there_for_something(self) -> None:
        for car in (ROADSTER, VAN, COUPE):
            build = demo(car).build
            for bar in build.parts_of_kind("bus bar"):
                ends = [(w.from_terminal.part, w.to_terminal.part) for w in build.wires.values()]
                self.assertGreater(sum(bar.id in pair for pair in ends), 2, (car, bar.name))

    def test_what_returns_from_a_module_is_what_one_of_its_outputs_lets_pass(self) -> None:
        sizing = size_build(read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes()))
        build = sizing.build
        for module in build.parts_of_kind("module"):
            most_a = max(way.limit_a or 0.0 for way in module.ways)
            ground = next(
                wire
                for wire in build.wires.values()
                if str(wire.from_terminal) == f"{module.id}.ground"
            )
            self.assertEqual(sizing.wires[ground.id].must_carry_a, most_a)

    def test_returns_of_loads_behind_outputs_answer_for_them(self) -> None:
        sizing = size_build(read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes()))
        build = sizing.build
        lamp = next(w for w in build.wires.values() if str(w.from_terminal) == "driving-lamps.-")
        self.assertEqual(sizing.wires[lamp.id].must_carry_a, 15.0)
        self.assertIn("Front module", sizing.wires[lamp.id].behind or "")


class ChartTest(TestCase):
    def test_no_fuse_is_trusted_to_thinner_wire_than_the_usual_charts_have(self) -> None:
        """Fine insulation in a cool place would bear more: 0.5 mm² about 18 A at 20 and 125 °C."""
        for rating_a, least in ((10, "0.5 mm²"), (15, "1 mm²"), (20, "1.5 mm²"), (30, "2.5 mm²")):
            row = document(
                [
                    part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": rating_a}),
                    part("lamp", "load", catalogue="Side lamp 5 W"),
                ],
                [
                    wire(1, "battery.+", "fuse.in", length_m=0.2),
                    wire(2, "fuse.out", "lamp.+", size=None, insulation="XLPE thin wall"),
                    wire(3, "lamp.-", "battery.-"),
                ],
            )
            sizing = size_build(from_document(row))
            chosen = sizing.wires["w2"]
            self.assertEqual(chosen.size, least, rating_a)
            reasons = [c.reason for c in sizing.candidates("w2") if not c.passes]
            self.assertTrue(all("A" in reason for reason in reasons))
            if rating_a == 15:
                self.assertIn("usual charts", reasons[-1])


class LegsTest(TestCase):
    def test_left_and_right_lamps_of_the_demo_cars_are_fed_alike(self) -> None:
        """Not always by the same reel, for their ways differ, but by none two sizes apart."""
        for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            sizing = size_build(read((ROOT / "demo" / f"{name}.json").read_bytes()))
            build = sizing.build
            area = {
                row: catalogue().conductor[r.size].copper_area_mm2
                for row, r in sizing.wires.items()
            }
            fed = {str(wire.to_terminal): wire.id for wire in build.wires.values()}
            pairs = [
                (left, left.replace("left", "right"))
                for left in fed
                if "left" in left and left.endswith(".+") and left.replace("left", "right") in fed
            ]
            self.assertGreater(len(pairs), 4, name)
            for left, right in pairs:
                ends = [fed[end] for end in (left, right)]
                if any(sizing.wires[end].pinned for end in ends):
                    continue
                thin, thick = sorted(area[end] for end in ends)
                self.assertLessEqual(thick, 1.7 * thin, f"{left}, {right}")

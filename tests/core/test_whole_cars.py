"""Cars begun from their kind and wired whole by the recipes: what an old hand would nod at."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Terminal, Wire
from circuitry.edits import apply_operations
from circuitry.reach.fall import fall_line
from circuitry.reach.paths import paths_of
from circuitry.recipes.book import RECIPES
from circuitry.recipes.load import LoadRequest, Wiring, add_load
from circuitry.recipes.protection import ways
from circuitry.recipes.recipe import write_recipe
from circuitry.sizing import Sizing, size_build
from circuitry.sizing.drop import drop_limit_v
from circuitry.sizing.placement import moved
from circuitry.stock.drafting import draft
from circuitry.stock.start import OPTIONS, KindOfCar, start
from tests.core.benches import COUPE, ROADSTER, VAN, demo

USUAL = ("heater", "wipers", "injection", "electric fan")
CARS = (
    KindOfCar(
        "Coupé",
        "coupé",
        "steel",
        battery="engine bay",
        options=(*USUAL, "electric windows", "audio", "power sockets"),
    ),
    KindOfCar("Kit"),
    KindOfCar("Van", "van", "steel", battery="cabin", options=(*USUAL, "worklights", "tow socket")),
    KindOfCar("Buggy", "buggy", engine="rear", battery="engine bay", options=("wipers",)),
    KindOfCar("Middle", "coupé", "aluminium", engine="middle", options=USUAL),
)


def wired(kind: KindOfCar) -> Build:
    """The car with its wiring drafted."""
    return draft(start(kind)).build


@cache
def sized() -> tuple[Sizing, ...]:
    return tuple(size_build(wired(kind)) for kind in CARS)


def area_mm2(wire: Wire) -> float:
    return catalogue().conductor[wire.size or ""].copper_area_mm2


class WholeCarTest(TestCase):
    def test_there_are_ways_for_all_and_some_to_spare(self) -> None:
        for sizing in sized():
            rows = [row for row in ways(sizing.build) if row.panel == "panel"]
            free = sum(row.fuse is None for row in rows)
            self.assertGreaterEqual(free, len(rows) / 10, sizing.build.name)

    def test_few_findings_and_none_that_stops(self) -> None:
        for sizing in sized():
            rows = [(row.severity, row.code) for row in sizing.findings]
            self.assertLess(len(rows), 10, (sizing.build.name, rows))
            self.assertNotIn("stop", [severity for severity, _ in rows], sizing.build.name)
            ours = {"headlamps-share", "crowded-ground", "crowded-stud", "no-engine-strap"}
            ours |= {"not-selective", "wire-does-not-fit", "hole-too-small", "live-past-isolator"}
            self.assertEqual({code for _, code in rows} & ours, set(), sizing.build.name)

    def test_links_and_starter_cables_are_no_thin_wires(self) -> None:
        linked = {"stud", "bus bar", "ground point", "battery"}
        for sizing in sized():
            build = sizing.build
            for wire in build.wires.values():
                kinds = {
                    build.parts[end.part].kind for end in (wire.from_terminal, wire.to_terminal)
                }
                if kinds <= linked:
                    self.assertGreaterEqual(area_mm2(wire), 10, wire.label)
            starter = next(row for row in sizing.loads.values() if "starter" in row.load)
            cables = [step.owner for step in starter.path.steps if step.kind == "wire"]
            for wire_id in cables:
                self.assertGreaterEqual(area_mm2(build.wires[wire_id]), 35, wire_id)

    def test_sizes_in_lamps_that_one_would_buy(self) -> None:
        for sizing in sized():
            build = sizing.build
            for load in build.parts_of_kind("load"):
                word = load.name.lower()
                most_mm2 = 1.5 if word.startswith(("turn", "stop", "tail", "reversing")) else None
                most_mm2 = 4.0 if "beam" in word else most_mm2
                for wire in build.wires.values():
                    if most_mm2 and load.id in (wire.from_terminal.part, wire.to_terminal.part):
                        self.assertLessEqual(area_mm2(wire), most_mm2, word)

    def test_each_side_of_the_headlamps_has_a_fuse(self) -> None:
        for sizing in sized():
            last = {}
            for side in ("left", "right"):
                feed = sizing.loads[f"dipped-beam-{side}"].path.feed
                last[side] = [step.owner for step in feed if step.kind == "fuse"][-1]
            self.assertNotEqual(last["left"], last["right"])

    def test_one_fuse_for_both_where_it_is_asked_for(self) -> None:
        build = write_recipe(start(CARS[1]), RECIPES["headlamps"], {"fuses": "one fuse"})
        codes = [row.code for row in size_build(build).findings]
        self.assertIn("headlamps-share", codes)

    def test_a_carburettor_has_a_coil_alone(self) -> None:
        rows = {load.catalogue for load in sized()[1].build.parts_of_kind("load")}
        self.assertIn("Ignition coil single", rows)
        self.assertEqual(
            rows & {"Engine control box", "Injectors set of four", "Idle valve"}, set()
        )

    def test_a_starter_returns_over_cable_unless_that_is_left_out(self) -> None:
        steel = start(KindOfCar("Steel", "van", "steel", battery="luggage"))
        for strap, body in ((True, False), (False, True)):
            build = write_recipe(steel, RECIPES["starter"], {"strap": strap})
            starter = next(row for row in size_build(build).loads.values() if "starter" in row.load)
            self.assertEqual(any(step.kind == "body" for step in starter.path.back), body)


class TelltaleTest(TestCase):
    def test_a_telltale_does_not_climb_with_the_charging_cable(self) -> None:
        """Both belong to one circuit; what carries a tenth of an amp is no leg of the cable."""
        options = (*USUAL, "electric windows", "central locks", "audio", "tow socket")
        car = KindOfCar("Estate", "estate", "steel", 5, 5, battery="luggage", options=options)
        sizing = size_build(wired(car))
        telltale = sizing.loads["charge-telltale"]
        for step in telltale.path.feed:
            if step.kind == "wire" and sizing.build.wires[step.owner].circuit == "charging":
                self.assertLessEqual(area_mm2(sizing.build.wires[step.owner]), 1.0)


class LedgerTest(TestCase):
    def test_a_load_is_told_with_its_own_wire_and_fuse(self) -> None:
        """The telltale of a turn lamp has a thinner wire; the list and the ledger mean the lamp."""
        sizing = sized()[2]
        lamp = sizing.loads["turn-lamp-front-left"]
        ends = sizing.build.wires[lamp.wire or ""]
        self.assertEqual(str(ends.to_terminal), "turn-lamp-front-left.+")
        self.assertIn(sizing.build.parts[lamp.fuse or ""].name[-6:], ("Hazard", "lamps"))
        line = sizing.circuits[sizing.build.parts[lamp.load].circuit or ""]
        own = [
            row for row in sizing.loads.values() if row.path and row.load.startswith("turn-lamp")
        ]
        self.assertIn(line.size, {sizing.wires[row.wire or ""].size for row in own})
        self.assertIsNone(sizing.loads["starter-motor"].fuse)


class ControlFuseTest(TestCase):
    def test_a_relay_is_fed_from_where_it_is_always_live_and_its_coil_by_the_key(self) -> None:
        build = sized()[0].build
        paths = paths_of(build)
        for pin, key in (("30", "always"), ("86", "accessory")):
            self.assertEqual(paths.key_needed(Terminal("amplifier-relay", pin)), key)
        coils = [part for part in build.parts_of_kind("fuse") if part.name.endswith("Relay coils")]
        self.assertEqual([sized()[0].fuses[fuse.id].rating_a for fuse in coils], [3.0])

    def test_coils_of_one_key_position_share_a_fuse(self) -> None:
        build = start(CARS[1])
        for name in ("One", "Other"):
            wiring = Wiring("accessory", None, None, "relay")
            build = add_load(build, LoadRequest(name, "Amplifier", "luggage", wiring))
        names = [part.name.split(" ", 1)[1] for part in build.parts_of_kind("fuse") if part.fitted]
        self.assertEqual(sorted(names), ["One", "Other", "Relay coils"])

    def test_the_coil_for_a_lamp_that_another_may_join_is_not_behind_its_fuse(self) -> None:
        """One of 100 W alone would do with 0.5 mm² to its switch, two would ask for 2.5 mm²."""
        lamp, wiring = "Driving lamp halogen 100 W", Wiring("always", None, None, "relay")
        build = add_load(start(CARS[1]), LoadRequest("Lamp left", lamp, "rear-left", wiring))
        circuit = build.parts["lamp-left"].circuit
        build = add_load(build, LoadRequest("Lamp right", lamp, "rear-right", beside=circuit))
        relay = build.parts_of_kind("relay")[-1].id
        wires = size_build(build).build.wires.values()
        feeds = {
            end.name: wire for wire in wires for end in [wire.to_terminal] if end.part == relay
        }
        self.assertEqual(feeds["86"].size, "0.5 mm²")
        self.assertNotEqual(feeds["86"].from_terminal, feeds["30"].from_terminal)


class ShelfTest(TestCase):
    def test_where_no_size_carries_the_next_one_is_offered(self) -> None:
        whole = wired(replace(CARS[0], options=OPTIONS))
        self.assertEqual(whole.policy.shelf[-1], "70 mm²")  # a car with everything begins with it
        self.assertNotIn("wire-too-thin", [row.code for row in size_build(whole).findings])
        whole = replace(whole, policy=replace(whole.policy, shelf=()))
        thin = [row for row in size_build(whole).findings if row.code == "wire-too-thin"]
        (mend,) = thin[0].mends
        mended = size_build(apply_operations(whole, list(mend.operations)))
        self.assertNotIn("wire-too-thin", [row.code for row in mended.findings])

    def test_a_shelf_without_a_size_for_the_starter_gives_it_the_thickest(self) -> None:
        build = wired(CARS[3])
        shelf = ("1 mm²", "2.5 mm²", "10 mm²", "25 mm²")
        sizing = size_build(replace(build, policy=replace(build.policy, shelf=shelf)))
        starter = next(row for row in sizing.loads.values() if "starter" in row.load)
        sizes = {sizing.wires[s.owner].size for s in starter.path.steps if s.kind == "wire"}
        self.assertEqual(sizes, {"25 mm²"})


class CrankingTest(TestCase):
    def test_the_starters_own_share_comes_on_top_while_it_turns(self) -> None:
        build = sized()[0].build
        coils, starter = (
            next(row for row in build.parts_of_kind("load") if word in row.id)
            for word in ("ignition-coils", "starter-motor")
        )
        self.assertEqual(drop_limit_v(build, coils, 12.0), 0.5)
        self.assertEqual(drop_limit_v(build, coils, 12.0, cranking=True), 1.0)
        self.assertEqual(drop_limit_v(build, starter, 12.0, cranking=True), 0.5)
        free = replace(build, policy=replace(build.policy, drop_school="by ampacity alone"))
        self.assertIsNone(drop_limit_v(free, coils, 12.0, cranking=True))


class BodyTest(TestCase):
    def test_the_body_is_one_step_of_a_fall_line(self) -> None:
        sizing = sized()[0]
        row = sizing.loads["stop-lamp-left"]
        line = fall_line(sizing.build, row.solution, sizing.build.parts[row.load], row.path)
        self.assertEqual([step.name for step in line.steps].count("body"), 1)
        self.assertAlmostEqual(line.drop_v + line.load_v, line.battery_v, places=6)

    def test_the_worst_step_loses_most_and_is_nothing_that_does_work(self) -> None:
        for sizing in (demo(name) for name in (ROADSTER, VAN, COUPE)):
            for load, row in sizing.loads.items():
                line = fall_line(sizing.build, row.solution, sizing.build.parts[load], row.path)
                worst = line.steps[line.worst]
                lost = [
                    s for s in line.steps if s.kind not in ("load", "field", "resistor", "sender")
                ]
                self.assertEqual(worst.loss_v, max(step.loss_v for step in lost), load)
                self.assertIn(worst, lost)


class BatteryMovedTest(TestCase):
    def test_isolator_and_main_fuse_go_along_and_its_ground_is_the_nearest(self) -> None:
        build = moved(sized()[1].build, "battery", "nose")
        places = {build.parts[part].place for part in ("isolator-inside", "main-fuse")}
        self.assertEqual(places, {"nose"})
        negative = Terminal("battery", "-")
        points = {
            end.part
            for wire in build.wires.values()
            for end in (wire.from_terminal, wire.to_terminal)
            if negative in (wire.from_terminal, wire.to_terminal) and end != negative
        }
        self.assertIn("ground-front", points)

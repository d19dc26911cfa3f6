"""Circuits changed by hand: each change is held to what the solver says of the car after it."""

from dataclasses import replace
from typing import ClassVar
from unittest import TestCase

from circuitry.design.colours import POLICIES, letters_of, named
from circuitry.design.model import Build, Part, Terminal
from circuitry.document.checks import check
from circuitry.edits import apply_changes, apply_operations, differences, inverse
from circuitry.errors import UnusableInput
from circuitry.network import Network, Solution, State
from circuitry.reach.paths import paths_of
from circuitry.recipes.book import RECIPES
from circuitry.recipes.protection import with_ways
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import carried_over, size_build
from circuitry.stock import TypedRow, set_cells


def car(*recipes: tuple[str, dict]) -> Build:
    build = bare_car()
    for recipe, answers in recipes:
        build = write_recipe(build, RECIPES[recipe], answers)
    return build


def solved(build: Build, key: str = "run", **switches: str) -> Solution:
    check(build)
    moved = {name.replace("_", "-"): at for name, at in switches.items()}
    return Network(size_build(build).build).solve(State(key, moved))


LAMP = {
    "load": {"row": "Stop lamp 21 W", "place": "rear-left", "name": "Lamp"},
    "switch": {"row": "Switch, off and on", "place": "dash", "name": "Lamp switch"},
}


def way_names(panel: Part) -> list[str]:
    return [way.name for way in panel.ways]


def wire_to(build: Build, terminal: str) -> str:
    return next(wire.id for wire in build.wires.values() if str(wire.to_terminal) == terminal)


class InsertTest(TestCase):
    def test_every_kind_keeps_the_lamp_lit(self) -> None:
        build = car(("plain-load", LAMP))
        wire = wire_to(build, "lamp.+")
        whole = solved(build, lamp_switch="on").loads["lamp"].volts
        for kind, most_v in (
            ("fuse", 0.3),
            ("splice", 0.1),
            ("connector", 0.1),
            ("relay", 0.3),
            ("diode", 1.2),
        ):
            after = apply_operations(
                build, [{"op": "insert", "wire": wire, "kind": kind, "name": "In between"}]
            )
            self.assertEqual(len(after.wires), len(build.wires) + (3 if kind == "relay" else 1))
            volts = solved(after, lamp_switch="on").loads["lamp"].volts
            self.assertLess(abs(whole - volts), most_v, kind)
            self.assertAlmostEqual(solved(after).loads["lamp"].volts, 0, delta=0.01, msg=kind)

    def test_a_relay_leaves_the_switch_only_the_coil(self) -> None:
        build = car(("plain-load", LAMP))
        operation = {"op": "insert", "wire": wire_to(build, "lamp.+"), "kind": "relay"}
        before = solved(build, lamp_switch="on").contact_a["lamp-switch"]
        after = solved(apply_operations(build, [operation]), lamp_switch="on")
        self.assertGreater(before, 1.5)
        self.assertAlmostEqual(after.contact_a["lamp-switch"], 12.6 / 90, delta=0.02)

    def test_a_connector_with_a_free_cavity_is_shared(self) -> None:
        build = car(("plain-load", LAMP))
        first = {"op": "insert", "wire": wire_to(build, "lamp.+"), "kind": "connector"}
        build = apply_operations(build, [{**first, "name": "Bulkhead plug"}])
        plug = build.parts["bulkhead-plug"]
        pins = [{"name": name} for name in ("1", "2")]
        change = {"op": "change", "collection": "parts", "id": plug.id, "fields": {"pins": pins}}
        ground = next(w.id for w in build.wires.values() if str(w.from_terminal) == "lamp.-")
        second = {"op": "insert", "wire": ground, "kind": "connector", "into": plug.id}
        build = apply_operations(build, [change, second])
        self.assertGreater(solved(build, lamp_switch="on").loads["lamp"].volts, 11.5)
        with self.assertRaisesRegex(UnusableInput, "no free cavity among its 2"):
            apply_operations(build, [{**second, "wire": wire_to(build, "lamp.+")}])

    def test_what_cannot_be_inserted(self) -> None:
        build = car(("plain-load", LAMP))
        for operation, words in (
            ({"wire": "w999", "kind": "fuse"}, "no wire “w999”"),
            ({"wire": "w1", "kind": "battery"}, "cannot be put into a wire"),
            ({"wire": "w1", "kind": "fuse", "place": "moon"}, "no place"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                apply_operations(build, [{"op": "insert", **operation}])


class MoveTest(TestCase):
    def panels(self) -> Build:
        return car(
            ("plain-load", LAMP),
            ("sockets", {"key": "run"}),
            ("sub-panel", {"panel": None, "place": "rear-left"}),
        )

    def test_to_another_panel_is_one_step_that_undo_takes_back_whole(self) -> None:
        build = self.panels()
        moves = [
            {"op": "move_circuit", "circuit": circuit, "panel": "second-panel"}
            for circuit in ("one-load", "power-sockets")
        ]
        after = apply_operations(build, moves)
        fuses = [part for part in after.parts_of_kind("fuse") if part.fitted]
        self.assertEqual(
            sorted(p.fitted.way for p in fuses if p.fitted and p.fitted.panel == "second-panel"),
            ["S1", "S2"],
        )
        lit = solved(after, lamp_switch="on")
        self.assertGreater(lit.loads["lamp"].volts, 11.5)
        self.assertGreater(lit.loads["socket"].volts, 11.5)
        changes = differences(build, after)
        self.assertEqual(apply_changes(after, inverse(changes)), build)
        stops = [row.title for row in size_build(after).findings if row.severity == "stop"]
        self.assertEqual(stops, [])

    def test_no_two_panels_call_a_way_the_same_whoever_adds_them(self) -> None:
        far = {"place": "rear-left", "ways": 2}
        build = car(
            ("sub-panel", {"panel": None, "place": "rear-left"}),
            ("sub-panel", {"panel": None, "place": "dash"}),
            ("far-panel", {**far, "name": "Rear panel"}),
            ("far-panel", {**far, "name": "Nose panel"}),
        )
        build = with_ways(build, "second-panel", "main", 2)
        names = {panel.id: way_names(panel) for panel in build.parts_of_kind("panel")}
        self.assertEqual(names["second-panel"], ["S1", "S2", "S3", "S4", "S5", "S6", "S13", "S14"])
        self.assertEqual(names["rear-panel"], ["R1", "R2", "R3", "R4"])
        everywhere = [name for panel in names.values() for name in panel]
        self.assertEqual(len(set(everywhere)), len(everywhere))

    def test_a_panel_by_hand_or_from_the_list_has_names_of_its_own(self) -> None:
        build = car(("sub-panel", {"panel": None, "place": "rear-left"}))
        by_hand = {"op": "add_part", "kind": "panel", "name": "Third", "place": "dash", "count": 3}
        build = apply_operations(build, [by_hand])
        self.assertEqual(way_names(build.parts["third"]), ["T1", "T2", "T3"])
        row = TypedRow(None, {"name": "Fourth", "what": "Panel, 4 ways", "where": "Dash"})
        build = set_cells(build, [row])
        self.assertEqual(way_names(build.parts["fourth"]), ["U1", "U2", "U3", "U4"])
        build = set_cells(build, [TypedRow("fourth", {"what": "Panel, 6 ways"})])
        self.assertEqual(way_names(build.parts["fourth"])[-1], "U6")

    def test_a_fuse_that_others_share_stays(self) -> None:
        build = car(("sockets", {"key": "run"}), ("sub-panel", {"panel": None, "place": "dash"}))
        fuse = next(p.id for p in build.parts_of_kind("fuse") if "Power sockets" in p.name)
        horn = {"load": {"row": "Horn", "place": "dash", "name": "Horn"}, "fuse": fuse}
        build = write_recipe(build, RECIPES["plain-load"], {**horn, "key": "run"}, "Horn")
        after = apply_operations(
            build, [{"op": "move_circuit", "circuit": "horn", "panel": "second-panel"}]
        )
        self.assertEqual(after.parts[fuse], build.parts[fuse])
        self.assertGreater(solved(after).loads["socket"].volts, 11)
        self.assertGreater(solved(after).loads["horn"].volts, 11)

    def test_refusals_name_the_way_out(self) -> None:
        build = self.panels()
        for operation, words in (
            ({"circuit": "no", "panel": "panel"}, "no circuit “no”"),
            ({"circuit": "one-load", "panel": "key"}, "“key” is no panel"),
            ({"circuit": "one-load", "panel": "second-panel", "way": "F9"}, "no way F9"),
            ({"circuit": "one-load", "ground": "key"}, "no ground point"),
            ({"circuit": "one-load", "panel": "panel", "way": "F14"}, "holds a fuse already"),
            ({"circuit": "one-load", "panel": "panel", "way": "F1"}, "always live.*Feed it so"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                apply_operations(build, [{"op": "move_circuit", **operation}])


class WholeCircuitTest(TestCase):
    def test_a_load_split_off_is_switched_as_before_behind_its_own_fuse(self) -> None:
        build = car(("stop-lamps", {}))
        after = apply_operations(build, [{"op": "split_load", "load": "stop-lamp-right"}])
        for at, volts in (("released", 0.0), ("pressed", 12.0)):
            solution = solved(after, brake_switch=at)
            for lamp in ("stop-lamp-left", "stop-lamp-right"):
                self.assertAlmostEqual(solution.loads[lamp].volts, volts, delta=0.6)
        fuses = {
            step.owner
            for lamp in ("stop-lamp-left", "stop-lamp-right")
            for step in paths_of(after).to_load(after.parts[lamp]).feed  # type: ignore[union-attr]
            if step.kind == "fuse"
        }
        self.assertEqual(len(fuses - {"main-fuse"}), 2)

    def test_a_window_copied_to_the_other_side(self) -> None:
        motor = {"row": "Window motor", "place": "front-left", "name": "Window left"}
        switch = {"place": "front-left", "name": "Window switch left"}
        build = bare_car()
        answers = {"motor": motor, "switch": switch}
        build = write_recipe(build, RECIPES["reversed-by-switch"], answers, "Window left")
        after = apply_operations(build, [{"op": "mirror_circuit", "circuit": "window-left"}])
        self.assertEqual(after.parts["window-right"].place, "front-right")
        solution = solved(after, window_switch_right="down", window_switch_left="up")
        self.assertGreater(solution.loads["window-left"].volts, 10)
        self.assertLess(solution.loads["window-right"].volts, -10)
        with self.assertRaisesRegex(UnusableInput, "no other side|no circuit"):
            apply_operations(build, [{"op": "mirror_circuit", "circuit": "feed"}])

    def test_side_lamps_merged_into_one_feed(self) -> None:
        lamp = {"row": "Side lamp 5 W", "place": "front-left", "name": "Side left"}
        other = {**lamp, "place": "front-right", "name": "Side right"}
        build = bare_car()
        for load in (lamp, other):
            answers = {"load": load, "key": "always"}
            build = write_recipe(build, RECIPES["plain-load"], answers, load["name"])
        fuses = len(build.parts_of_kind("fuse"))
        merge = {"op": "merge_circuits", "into": "side-left", "circuits": ["side-right"]}
        after = apply_operations(build, [merge])
        self.assertEqual(len(after.parts_of_kind("fuse")), fuses - 1)
        self.assertGreater(solved(after, "off").loads["side-right"].volts, 12)
        self.assertNotIn("side-right", after.circuits)

    def test_wires_and_parts_by_hand(self) -> None:
        build = bare_car()
        part = {"op": "add_part", "kind": "load", "name": "Lamp", "place": "dash"}
        wires = [("stud.stud", "lamp.+"), ("lamp.-", "ground.stud")]
        operations = [{**part, "row": "Side lamp 5 W", "circuit": "feed"}] + [
            {"op": "add_wire", "from_terminal": a, "to_terminal": b, "circuit": "feed"}
            for a, b in wires
        ]
        self.assertGreater(
            solved(apply_operations(build, operations), "off").loads["lamp"].volts, 12
        )
        bad = {"op": "add_wire", "from_terminal": "stud.stud", "to_terminal": "lamp.9"}
        with self.assertRaisesRegex(UnusableInput, "terminal 9 of “Lamp”, which has"):
            apply_operations(build, [operations[0], bad])

    def test_every_kind_that_the_screen_offers_can_be_added(self) -> None:
        build = bare_car()
        kinds = ("relay", "switch", "sensor", "fuse", "diode", "resistor", "splice", "connector")
        kinds += ("flasher", "ground point", "stud", "bus bar", "isolator", "alternator")
        kinds += ("box", "panel", "module")
        for kind in kinds:
            operation = {"op": "add_part", "kind": kind, "name": "New one", "place": "dash"}
            self.assertEqual(apply_operations(build, [operation]).parts["new-one"].kind, kind)

    def test_a_plug_of_as_many_cavities_as_asked_for(self) -> None:
        build = car(("plain-load", LAMP))
        wires = [wire_to(build, "lamp.+"), wire_to(build, "lamp-switch.in")]
        plug = {"op": "insert", "wire": wires[0], "kind": "connector", "name": "Plug", "count": 2}
        again = {"op": "insert", "wire": wires[1], "kind": "connector", "into": "plug"}
        after = apply_operations(build, [plug, again])
        self.assertGreater(solved(after, lamp_switch="on").loads["lamp"].volts, 11)
        more = {"op": "insert", "wire": wire_to(after, "lamp.+"), "kind": "splice"}
        with self.assertRaisesRegex(UnusableInput, "no free cavity among its 2"):
            apply_operations(after, [{**more, "kind": "connector", "into": "plug"}])

    def test_a_recipe_written_again_mends_what_was_cut(self) -> None:
        build = car(("horn", {}))
        cut = dict(build.wires)
        del cut[wire_to(build, "horn.+")]
        broken = replace(build, wires=cut)
        written = build.circuits["horn"].written
        assert written is not None
        mended = write_recipe(broken, RECIPES["horn"], written.answers, None, "horn")
        self.assertEqual(
            {w.to_terminal for w in mended.wires.values()}
            - {w.to_terminal for w in broken.wires.values()},
            {Terminal("horn", "+")},
        )


class OddEditsTest(TestCase):
    """What once broke something."""

    def test_a_load_fed_inside_its_unit_is_not_split_off(self) -> None:
        build = car(("starter", {}))
        motor = next(part.id for part in build.parts_of_kind("load"))
        with self.assertRaisesRegex(UnusableInput, "is fed inside the unit that it sits in"):
            apply_operations(build, [{"op": "split_load", "load": motor}])

    def test_what_the_builder_added_outlives_its_circuit(self) -> None:
        build = car(("plain-load", LAMP))
        circuit = build.parts["lamp"].circuit
        stud = {"op": "add_part", "kind": "stud", "name": "Post", "place": "dash"}
        gone = {"op": "remove_load", "load": "lamp"}
        after = apply_operations(build, [{**stud, "circuit": circuit}, gone])
        self.assertIsNone(after.parts["post"].circuit)

    def test_channels_belong_to_modules_only(self) -> None:
        box = {"op": "add_part", "kind": "box", "name": "Box", "place": "dash"}
        points = [{"name": "C1", "function": "channel"}]
        with self.assertRaisesRegex(UnusableInput, "only panels and modules do"):
            apply_operations(
                bare_car(), [box, {"op": "set_points", "part": "box", "points": points}]
            )

    def test_a_short_that_needs_the_engine_to_run_is_named(self) -> None:
        box = {"op": "add_part", "kind": "box", "name": "Box", "place": "dash", "circuit": "feed"}
        points = [
            {"name": "30", "was": "30", "function": "supply"},
            {"name": "31", "was": "31", "function": "ground"},
            {"name": "1", "was": "1", "function": "low side", "when": "engine_rpm > 400"},
        ]
        ends = (("stud.stud", "box.30"), ("box.31", "ground.stud"), ("stud.stud", "box.1"))
        wires = [{"op": "add_wire", "from_terminal": a, "to_terminal": b} for a, b in ends]
        build = apply_operations(
            bare_car(), [box, {"op": "set_points", "part": "box", "points": points}, *wires]
        )
        (short,) = (row for row in size_build(build).findings if row.code == "short-circuit")
        self.assertIn("engine rpm", short.found)

    def test_a_key_that_feeds_in_its_off_position_counts_as_always(self) -> None:
        build = bare_car()
        contacts = build.parts["key"].contacts
        assert contacts is not None
        positions = [
            {"name": row.name, "joins": [list(contacts.terminals)]} for row in contacts.positions
        ]
        table = {"common": contacts.common, "positions": positions, "momentary": False, "idle": []}
        change = {"op": "change", "collection": "parts", "id": "key", "fields": {"contacts": table}}
        after = apply_operations(build, [change])
        self.assertEqual(paths_of(after).key_needed(Terminal("panel", "run")), "always")


class PointsTest(TestCase):
    """Pins, cavities, ways and channels; and figures."""

    BOX: ClassVar = {
        "op": "add_part",
        "kind": "box",
        "name": "Box",
        "place": "dash",
        "circuit": "feed",
        "count": 2,
    }

    def box(self) -> Build:
        """A box that is fed, with a lamp between its pin 2 and ground."""
        lamp = {"op": "add_part", "kind": "load", "name": "Lamp", "place": "dash"}
        ends = (
            ("stud.stud", "box.30"),
            ("box.31", "ground.stud"),
            ("box.2", "lamp.+"),
            ("lamp.-", "ground.stud"),
        )
        wires = [{"op": "add_wire", "from_terminal": a, "to_terminal": b} for a, b in ends]
        lamp = {**lamp, "row": "Side lamp 5 W", "circuit": "feed"}
        return apply_operations(bare_car(), [self.BOX, lamp, *wires])

    def set(self, build: Build, part: str, *points: dict) -> Build:
        return apply_operations(build, [{"op": "set_points", "part": part, "points": [*points]}])

    POWER: ClassVar = [
        {"name": "30", "was": "30", "function": "supply"},
        {"name": "31", "was": "31", "function": "ground"},
    ]

    def test_a_high_side_lights_its_lamp_while_its_condition_holds(self) -> None:
        build = self.box()
        self.assertAlmostEqual(solved(build, "off").loads["lamp"].volts, 0, delta=0.01)
        pin = {"name": "lamp out", "was": "2", "function": "high side", "limit_a": 2.0}
        after = self.set(build, "box", *self.POWER, {**pin, "when": "engine_rpm > 400"})
        ends = {str(wire.from_terminal) for wire in after.wires.values()}
        self.assertIn("box.lamp-out", ends)
        network = Network(size_build(after).build)
        for rpm, least_v, most_v in ((0, -0.01, 0.01), (800, 12, 15)):
            volts = network.solve(State("off", values={"engine_rpm": rpm})).loads["lamp"].volts
            self.assertTrue(least_v <= volts <= most_v, f"{volts} V at {rpm} rpm")

    def test_names_swapped_take_their_wires_along(self) -> None:
        build = car(("plain-load", LAMP))
        fuse = next(part for part in build.parts_of_kind("fuse") if part.fitted)
        assert fuse.fitted is not None
        panel, way = build.parts[fuse.fitted.panel], fuse.fitted.way
        other = next(row.name for row in panel.ways if row.name != way)
        swap = {way: other, other: way}
        rows = [
            {"name": swap.get(row.name, row.name), "was": row.name, "bus": row.bus}
            for row in panel.ways
        ]
        after = self.set(build, panel.id, *rows)
        fitted = after.parts[fuse.id].fitted
        assert fitted is not None
        self.assertEqual(fitted.way, other)
        lit = [solved(row, lamp_switch="on").loads["lamp"].volts for row in (build, after)]
        self.assertAlmostEqual(*lit, places=3)

    def test_what_is_used_cannot_be_taken_out(self) -> None:
        build = self.box()
        for part, points, said in (
            ("box", self.POWER, "Wire .* ends on terminal 2 of “Box”, which has 30, 31"),
            ("box", [*self.POWER, {"name": " ", "was": "2"}], "A point of Box has no name"),
            ("box", [*self.POWER, {"name": "31", "was": "2"}], "two pins of one name"),
            ("box", [], "Box needs one point at least"),
            ("lamp", self.POWER, "“lamp” is no box, connector, panel or module"),
            (
                "box",
                [*self.POWER, {"name": "2", "was": "2", "function": "low side", "when": "3 >"}],
                "“Box”, 2",
            ),
        ):
            with self.assertRaisesRegex(UnusableInput, said):
                self.set(build, part, *points)

    def test_a_cavity_more_and_another_name_for_one_in_use(self) -> None:
        build = car(("plain-load", LAMP))
        wire = wire_to(build, "lamp.+")
        plug = {"op": "insert", "wire": wire, "kind": "connector", "name": "Plug"}
        after = self.set(
            apply_operations(build, [plug]), "plug", {"name": "A", "was": "1"}, {"name": "B"}
        )
        self.assertEqual(wire_to(after, "plug.Aa"), wire)
        self.assertGreater(solved(after, lamp_switch="on").loads["lamp"].volts, 11)

    def test_a_sender_takes_a_resistance_and_a_sensor_with_contacts_their_rating(self) -> None:
        sensor = {"op": "add_part", "kind": "sensor", "name": "Level", "place": "dash"}
        build = apply_operations(bare_car(), [sensor])
        cells = {"op": "set_figures", "part": "level", "cells": {"resistance_ohm": "90"}}
        with self.assertRaisesRegex(UnusableInput, "It takes contact_rating_a"):
            apply_operations(build, [cells])
        bare = {"op": "change", "collection": "parts", "id": "level", "fields": {"contacts": None}}
        after = apply_operations(build, [bare, cells])
        self.assertEqual(after.parts["level"].figures["resistance_ohm"], 90)

    def test_figures_are_read_with_their_units(self) -> None:
        resistor = {"op": "add_part", "kind": "resistor", "name": "Ballast", "place": "dash"}
        build = apply_operations(bare_car(), [resistor])

        def typed(text: str, figure: str = "resistance_ohm") -> Build:
            cells = {figure: text}
            return apply_operations(
                build, [{"op": "set_figures", "part": "ballast", "cells": cells}]
            )

        for text, ohm in (("4,7", 4.7), ("1.2 kΩ", 1200.0), ("22 ohm", 22.0), ("", None)):
            figures = typed(text).parts["ballast"].figures
            self.assertEqual(figures.get("resistance_ohm"), ohm, text)
        for text, figure, said in (
            ("much", "resistance_ohm", "Ballast, resistance: “much” is not a number of Ω"),
            ("-3", "resistance_ohm", "must be above 0"),
            ("3", "regulated_v", "Ballast takes no “regulated_v”. It takes resistance_ohm"),
        ):
            with self.assertRaisesRegex(UnusableInput, said):
                typed(text, figure)


class ColourTest(TestCase):
    def test_letter_codes_there_and_back(self) -> None:
        """IEC 60757."""
        for name, letters in (("black", "BK"), ("green/yellow", "GNYE"), ("violet", "VT")):
            self.assertEqual(letters_of(name), letters)
            self.assertEqual(named(letters), name)
        self.assertEqual(letters_of("old tartan"), "old tartan")

    def test_policies_of_colour(self) -> None:
        build = car(("horn", {}), ("sockets", {}))
        seen = {}
        for policy in POLICIES:
            fields = {"policy": {"colours": policy, "palette": {"one colour": "violet"}}}
            change = {"op": "change", "collection": "build", "id": "build", "fields": fields}
            after = apply_operations(build, [change, {"op": "recolour"}])
            seen[policy] = {
                circuit: {wire.colour for wire in after.wires.values() if wire.circuit == circuit}
                for circuit in ("horn", "power-sockets")
            }
        self.assertEqual(seen["one colour"]["horn"], {"violet"})
        by_function = seen["by function"]
        self.assertIn("black", by_function["horn"])
        self.assertNotEqual(by_function["horn"], by_function["power-sockets"])
        self.assertEqual(len(seen["by stage"]["horn"]), 1)

    def test_colours_change_no_size(self) -> None:
        build = car(("horn", {}))
        sizing = size_build(build)
        fields = {"policy": {"colours": "one colour"}}
        change = {"op": "change", "collection": "build", "id": "build", "fields": fields}
        after = apply_operations(build, [change, {"op": "recolour"}])
        carried = carried_over(build, sizing, after)
        assert carried is not None
        self.assertEqual(carried.build.wires, size_build(after).build.wires)

    def test_a_fuse_that_lies_loose_is_given_a_rating_too(self) -> None:
        build = car(("horn", {}))
        sizing = size_build(build)
        loose = {"op": "add_part", "kind": "fuse", "name": "Spare", "place": "rear-left"}
        after = apply_operations(build, [loose])
        self.assertIsNone(carried_over(build, sizing, after))
        self.assertEqual(size_build(after).fuses.keys() - sizing.fuses.keys(), {"spare"})


class ConnectorTest(TestCase):
    def test_a_recipe_leads_its_wires_through_the_plugs_that_they_pass(self) -> None:
        build = bare_car()
        pins = [{"name": str(number)} for number in range(1, 4)]
        plug = {"id": "plug", "kind": "connector", "name": "Plug", "place": "panel", "pins": pins}
        build = apply_operations(build, [{"op": "add", "collection": "parts", "value": plug}])
        fan = {"row": "Radiator fan 300 mm", "place": "front-left", "name": "Fan"}
        hot = {"row": "Thermostat switch", "place": "rear-left", "name": "Thermostat"}
        override = {"row": "Switch, off and on", "place": "dash", "name": "Override"}
        answers = {"motor": fan, "thermostat": hot, "override": override}
        build = write_recipe(build, RECIPES["fan"], answers)
        landed = {
            str(end) for w in build.wires.values() for end in (w.from_terminal, w.to_terminal)
        }
        self.assertFalse({"plug.1a", "plug.1b"} & landed)
        answers = {"load": {**fan, "name": "Horn", "row": "Horn", "place": "rear-left"}}
        direct = {**answers, "switch": {**override, "name": "Horn switch"}}
        build = write_recipe(build, RECIPES["plain-load"], direct, "Horn")
        landed = {
            str(end) for w in build.wires.values() for end in (w.from_terminal, w.to_terminal)
        }
        self.assertTrue({"plug.1a", "plug.1b"} <= landed)
        self.assertGreater(solved(build, horn_switch="on").loads["horn"].volts, 11)

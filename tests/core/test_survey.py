"""What is said of a whole car: mistakes of design, feeds and grounds, drawings, and finds."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from unittest import TestCase
from xml.etree import ElementTree

from circuitry.design.colours import HEX
from circuitry.design.model import Build
from circuitry.document.reading import from_document, read
from circuitry.document.search import search
from circuitry.drawing import Schematic, as_svg, overview, schematic
from circuitry.drawing.schematic import DrawnSymbol
from circuitry.network import Network
from circuitry.recipes.book import RECIPES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car, sample
from circuitry.sizing import size_build
from circuitry.sizing.feeds import Point, feeds
from circuitry.stock.drafting import draft
from circuitry.stock.start import KindOfCar, start
from tests.core.cars import (
    ON_OFF,
    ROOT,
    document,
    part,
    relay_parts,
    roadster,
    roadster_sizing,
    switch,
    wire,
)
from tests.core.positions import random_states

FUSE = part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10})
FEED = wire(1, "battery.+", "fuse.in", length_m=0.2)


def stops(parts: list[dict], wires: list[dict], **fields: object) -> dict[str, tuple[str, ...]]:
    sizing = size_build(from_document(document([FUSE, *parts], [FEED, *wires], **fields)))
    return {row.code: row.parts for row in sizing.findings if row.severity == "stop"}


class DesignFaultTest(TestCase):
    def test_a_switch_position_that_shorts_the_battery_is_found_and_named(self) -> None:
        parts = [
            switch("mode", ("lamp", [["in", "out"]]), ("ground", [["in", "back"]])),
            part("lamp", "load", catalogue="Side lamp 5 W"),
        ]
        wires = [
            wire(2, "fuse.out", "mode.in"),
            wire(3, "mode.out", "lamp.+"),
            wire(4, "lamp.-", "battery.-"),
            wire(5, "mode.back", "battery.-"),
        ]
        sizing = size_build(from_document(document([FUSE, *parts], [FEED, *wires])))
        short = next(row for row in sizing.findings if row.code == "short-circuit")
        self.assertEqual((short.severity, short.found), ("stop", "mode ground"))
        self.assertIn("w5", short.parts)
        self.assertGreater(sizing.loads["lamp"].volts, 11)
        whole = stops(parts, wires[:-1])
        self.assertNotIn("short-circuit", whole)

    def test_a_short_that_a_relay_makes_is_found_too(self) -> None:
        parts = [*relay_parts("mini 5-pin"), switch("button", *ON_OFF)]
        wires = [
            wire(2, "fuse.out", "relay.30"),
            wire(3, "relay.87", "battery.-"),
            wire(4, "fuse.out", "button.in"),
            wire(5, "button.out", "relay.86"),
            wire(6, "relay.85", "battery.-"),
        ]
        self.assertIn("short-circuit", stops(parts, wires))
        self.assertNotIn("short-circuit", stops(parts, wires[:-1]))

    def test_bridged_coil_joined_outputs_and_a_table_that_never_closes(self) -> None:
        bridge = [wire(2, "relay.86", "relay.85")]
        self.assertEqual(stops(relay_parts(), bridge)["coil-bridged"], ("relay",))
        pins = [{"name": name, "function": "high side"} for name in ("a", "b")]
        box = part("box", "box", pins=[*pins, {"name": "c", "function": "input"}])
        self.assertEqual(stops([box], [wire(2, "box.a", "box.b")])["outputs-joined"], ("box",))
        self.assertNotIn("outputs-joined", stops([box], [wire(2, "box.a", "box.c")]))
        never = switch("never", ("off", []), ("on", []))
        found = stops([never], [wire(2, "fuse.out", "never.in")])
        self.assertEqual(found["never-closes"], ("never",))

    def test_a_live_ground_and_one_that_leads_nowhere_in_a_plastic_body(self) -> None:
        ground = part("ground", "ground point")
        lamp = part("lamp", "load", catalogue="Side lamp 5 W")
        live = stops([ground], [wire(2, "battery.+", "ground.stud")])
        self.assertEqual(live["ground-live"], ("ground",))
        loose = [wire(2, "fuse.out", "lamp.+"), wire(3, "lamp.-", "ground.stud")]
        self.assertEqual(stops([ground, lamp], loose)["ground-loose"], ("ground",))
        self.assertNotIn("ground-loose", stops([ground, lamp], loose, body_conducts=True))

    def test_a_channel_that_trips(self) -> None:
        build = write_recipe(
            bare_car(),
            RECIPES["module-channel"],
            {"loads": [{"row": "Fog lamp halogen 55 W", "place": "dash"}], "limit_a": 2},
        )
        codes = {row.code for row in size_build(build).findings}
        self.assertIn("channel-overloaded", codes)


class FeedsTest(TestCase):
    def points(self, point: Point) -> list[Point]:
        return [point, *(row for under in point.points for row in self.points(under))]

    def test_what_flows_into_a_panel_is_the_sum_of_its_ways(self) -> None:
        """Kirchhoff, read off the screen's own figures."""
        build = bare_car()
        for recipe in ("headlamps", "horn", "sockets", "blower", "turn-and-hazard"):
            build = write_recipe(build, RECIPES[recipe], {})
        told = feeds(size_build(build))
        buses = [row for row in self.points(told.root) if row.kind == "panel"]
        self.assertEqual(
            {row.id for row in buses}, {f"panel.{bus}" for bus in ("battery", "accessory", "run")}
        )
        for bus in buses:
            for key, amps in bus.sums_a.items():
                ways = sum(way.sums_a.get(key, 0.0) for way in bus.ways)
                self.assertAlmostEqual(amps, ways, delta=0.02 * ways + 0.01, msg=(bus.id, key))
        self.assertEqual(set(told.root.sums_a), {"off", "accessory", "run", "crank"})
        returned = told.grounds[0].sums_a
        for key, amps in told.root.sums_a.items():
            self.assertAlmostEqual(returned[key], amps, delta=0.02 * amps + 0.01, msg=key)

    def test_ways_used_spare_and_their_circuits(self) -> None:
        build = write_recipe(bare_car(), RECIPES["horn"], {})
        told = feeds(size_build(build))
        battery = next(row for row in self.points(told.root) if row.id == "panel.battery")
        used = [way for way in battery.ways if way.fuse]
        self.assertEqual([(way.name, way.circuits[0].name) for way in used], [("F1", "Horn")])
        self.assertEqual(len(battery.ways) - len(used), 7)
        spare_a = used[0].spare_a
        assert spare_a is not None
        assert used[0].rating_a is not None
        # a horn sounds for seconds: its current counts half where it heats, whole where it parts
        most = max(used[0].sums_a.values())
        bears = used[0].rating_a * (1 - 0.0015 * (40 - 25))
        self.assertAlmostEqual(spare_a, min(bears - most, 0.75 * bears - most / 2), delta=0.15)
        self.assertEqual([row.name for row in told.loose], ["Module"])

    def test_no_fuse_that_was_chosen_is_asked_for_more_than_it_carries(self) -> None:
        for car in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            told = feeds(size_build(read((ROOT / "demo" / f"{car}.json").read_bytes())))
            for point in self.points(told.root):
                for name, spare_a in (
                    (point.name, point.spare_a),
                    *((way.name, way.spare_a) for way in point.ways),
                ):
                    self.assertGreaterEqual(spare_a or 0.0, -1e-6, (car, name))

    def test_a_ground_bar_returns_what_its_wire_back_carries(self) -> None:
        """Kirchhoff: nothing is told twice for coming in and going out, nor what is never on
        together as a sum."""
        for car in ("saltmarsh-roadster", "fernhill-half-ton-van", "quarrel-hill-rally-coupe"):
            sizing = size_build(read((ROOT / "demo" / f"{car}.json").read_bytes()))
            told, parts = feeds(sizing), sizing.build.parts
            by_label = {wire.label: wire.id for wire in sizing.build.wires.values()}
            bars = [
                row for row in told.grounds if parts[row.id].kind == "bus bar" and row.rings > 2
            ]
            self.assertGreater(len(bars), 2)
            self.assertEqual({row.most_rings for row in bars}, {None})
            for row in bars:
                back_a = sizing.wires[by_label[row.back]].current_a
                most_a = max(row.sums_a.values())
                self.assertAlmostEqual(most_a, back_a, delta=0.02 * back_a, msg=row.name)
                self.assertLessEqual(max(one.current_a for one in row.circuits), 1.001 * most_a)

    def test_a_feed_bar_is_no_ground_with_an_isolator_before_it_or_without(self) -> None:
        before = start(KindOfCar("Car", "pickup", "steel"))
        for build in (before, draft(before).build):
            names = [row.name for row in feeds(size_build(build)).grounds]
            self.assertNotIn("Feed bar", names)
            self.assertIn("Ground bar G2, panel shelf", names)

    def test_a_strip_leads_back_by_the_bar_that_it_hangs_on_and_a_stud_holds_four(self) -> None:
        sizing = size_build(read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes()))
        rows = {row.name: row for row in feeds(sizing).grounds}
        backs = {name: row.back for name, row in rows.items()}
        self.assertEqual(backs["Rear panel ground strip"], "W154")
        self.assertEqual(
            (backs["Ground G1, nose"], backs["Ground G2, panel shelf"]), ("W19", "W18")
        )
        self.assertEqual(backs["Ground bar at Ground G3, luggage"], "W198")
        self.assertEqual(rows["Ground G1, nose"].most_rings, 4)

    def test_no_position_of_the_switches_takes_more_from_a_way_than_is_told_of_its_key(
        self,
    ) -> None:
        for car in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            sizing = size_build(read((ROOT / "demo" / f"{car}.json").read_bytes()))
            rows = [row for point in self.points(feeds(sizing).root) for row in point.ways]
            network = Network(sizing.build)
            for state in random_states(sizing.build, 150, 7):
                fuse_a = network.solve(state).fuse_a
                for row in rows:
                    if row.fuse:
                        told_a = 1.06 * row.sums_a[state.key] + 0.1
                        self.assertLess(abs(fuse_a[row.fuse]), told_a, (car, row.name, state))


def pieces(drawing: Schematic) -> list[tuple[int, tuple[float, float], tuple[float, float]]]:
    return [
        (number, *pair)
        for number, line in enumerate(drawing.lines)
        for pair in pairwise(line.points)
    ]


def count_crossings(drawing: Schematic) -> int:
    """How often a level piece of one line crosses an upright piece of another."""
    found = 0
    rows = pieces(drawing)
    for number, (left, y), (right, end_y) in rows:
        for other, (x, top), (end_x, foot) in rows:
            if number != other and y == end_y and x == end_x:
                is_across = min(left, right) < x < max(left, right)
                found += is_across and min(top, foot) < y < max(top, foot)
    return found


def is_on(points: Sequence[tuple[float, float]], x: float, y: float) -> bool:
    return any(
        min(a[0], b[0]) <= x <= max(a[0], b[0]) and min(a[1], b[1]) <= y <= max(a[1], b[1])
        for a, b in pairwise(points)
    )


def overlaps(drawing: Schematic) -> list[tuple[str, str]]:
    """Words that lie on one another, at 11 px and the usual width of a letter."""
    words = [(text, 5.6) for row in drawing.symbols for text in row.texts]
    words += [(line.said, 6.3) for line in drawing.lines if line.said]
    boxes = []
    for text, letter in words:
        wide = letter * len(text.text)
        left = {"start": text.x, "middle": text.x - wide / 2, "end": text.x - wide}[text.anchor]
        boxes.append((left, text.y - 8, left + wide, text.y + 1, text.text))
    return [
        (one[4], other[4])
        for number, one in enumerate(boxes)
        for other in boxes[number + 1 :]
        if one[0] < other[2] - 1
        and other[0] < one[2] - 1
        and one[1] < other[3]
        and other[1] < one[3]
    ]


class DrawingTest(TestCase):
    def test_every_wire_is_drawn_square_and_from_port_to_port(self) -> None:
        for recipe in RECIPES:
            build, circuit = sample(recipe)
            drawing = schematic(build, circuit)
            own = {wire.id for wire in build.wires.values() if wire.circuit == circuit}
            self.assertLessEqual(own, {line.wire for line in drawing.lines}, recipe)
            ports = {(port.x, port.y) for row in drawing.symbols for port in row.ports}
            for line in drawing.lines:
                self.assertIn(line.points[0], ports, (recipe, line.wire))
                self.assertIn(line.points[-1], ports, (recipe, line.wire))
                for (x, y), (to_x, to_y) in zip(line.points, line.points[1:], strict=False):
                    self.assertTrue(x == to_x or y == to_y, (recipe, line.wire))

    def test_feed_stands_left_of_ground_and_nothing_overlaps(self) -> None:
        for recipe in RECIPES:
            drawing = schematic(*sample(recipe))
            grounds = [row.x for row in drawing.symbols if row.kind == "ground point"]
            sources = [row.x for row in drawing.symbols if row.kind == "bus"]
            if grounds and sources:
                self.assertLess(max(sources), min(grounds), recipe)
            rows = drawing.symbols
            for number, one in enumerate(rows):
                for other in rows[number + 1 :]:
                    apart = (
                        one.x + one.width <= other.x
                        or other.x + other.width <= one.x
                        or one.y + one.height <= other.y
                        or other.y + other.height <= one.y
                    )
                    self.assertTrue(apart, (recipe, one.id, other.id))

    def test_few_lines_cross_or_bend_and_no_words_overlap_in_any_circuit_of_the_demos(self) -> None:
        for car in ("saltmarsh-roadster", "fernhill-half-ton-van", "quarrel-hill-rally-coupe"):
            build = read((ROOT / "demo" / f"{car}.json").read_bytes())
            lines = crossings = bends = 0
            for circuit in build.circuits:
                drawing = schematic(build, circuit)
                lines += len(drawing.lines)
                bends += sum(len(line.points) - 2 for line in drawing.lines)
                crossings += count_crossings(drawing)
                self.assertEqual(overlaps(drawing), [], (car, circuit))
            self.assertLess(crossings, 0.15 * lines, car)
            self.assertLess(bends, lines, car)

    def test_coil_and_contact_stand_apart_each_from_feed_to_ground_in_one_line(self) -> None:
        drawing = schematic(roadster(), "horn")
        contact, coil = (row for row in drawing.symbols if row.part == "horn-relay")
        sides = [{port.name: port.side for port in row.ports} for row in (contact, coil)]
        self.assertEqual(sides, [{"30": "left", "87": "right"}, {"86": "left", "85": "right"}])
        horn = next(row for row in drawing.symbols if row.part == "horn")
        rows = [{port.y for port in row.ports} for row in (contact, horn)]
        self.assertEqual(rows[0], rows[1])

    def sides(self, symbol: DrawnSymbol) -> dict[str, str]:
        return {port.name: port.side for port in symbol.ports}

    def test_a_bridge_has_its_motor_between_a_contact_that_feeds_and_one_that_returns(self) -> None:
        build = read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes())
        drawing = schematic(build, "central-locks")
        drawn = {row.id: row for row in drawing.symbols}
        motor = drawn["door-lock-left"]
        self.assertEqual(self.sides(motor), {"+": "left", "-": "right"})
        contacts = [row for row in drawing.symbols if len(row.ports) == 3 and "relay" in row.name]
        self.assertEqual(len(contacts), 2)
        for contact in contacts:
            sides = self.sides(contact)
            self.assertEqual((sides["87"], sides["87a"]), ("left", "right"))
        self.assertEqual({self.sides(row)["30"] for row in contacts}, {"right"})
        self.assertTrue(all(row.x < motor.x for row in contacts))

    def test_each_cavity_of_a_plug_stands_in_the_line_of_its_wire(self) -> None:
        build, circuit = sample("trailer")
        drawing = schematic(build, circuit)
        plugs = [
            row for row in drawing.symbols if row.kind == "part" and row.name.endswith("socket")
        ]
        self.assertGreater(len(plugs), 3)
        for plug in plugs:
            self.assertEqual(len(plug.ports), 2)
            self.assertEqual(len({port.y for port in plug.ports}), 1)
        self.assertEqual(len({row.detail for row in plugs}), len(plugs))
        sources = [row.x for row in drawing.symbols if row.kind == "bus"]
        self.assertTrue(all(row.x > min(sources) for row in plugs))

    def test_a_contact_shows_what_is_joined_at_rest_and_leaves_out_what_others_use(self) -> None:
        build = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
        dip = next(
            row for row in schematic(build, "main-beam-left").symbols if row.part == "dip-switch"
        )
        self.assertEqual(set(self.sides(dip)), {"in", "main"})
        hazard = [
            row
            for row in schematic(build, "turn-and-hazard-lamps").symbols
            if row.part == "hazard-switch"
        ]
        self.assertEqual([len(row.ports) for row in hazard], [3, 3])
        self.assertEqual(self.sides(hazard[0]), {"run": "left", "live": "left", "49": "right"})

    def test_wires_have_their_colours_and_one_dot_where_they_part(self) -> None:
        build = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
        drawing = schematic(build, "turn-and-hazard-lamps")
        wire = next(row for row in drawing.lines if row.said and row.said.text == "W84 WHRD")
        self.assertEqual((wire.base, wire.tracer), (HEX["white"], HEX["red"]))
        self.assertEqual(len(drawing.joints), len(set(drawing.joints)))
        ends = {line.points[0] for line in drawing.lines} | {
            row.points[-1] for row in drawing.lines
        }
        for x, y in drawing.joints:
            passing = [line for line in drawing.lines if is_on(line.points, x, y)]
            self.assertGreaterEqual(len(passing), 2)
            self.assertNotIn((x, y), ends)

    def test_the_file_is_an_svg_document_with_every_label(self) -> None:
        build, circuit = sample("headlamps")
        build = replace(
            build,
            circuits={
                **build.circuits,
                circuit: replace(build.circuits[circuit], name="<Lamps & co>"),
            },
        )
        root = ElementTree.fromstring(as_svg(schematic(build, circuit), "<Lamps & co>"))
        said = {element.text for element in root.iter() if element.text}
        for row in build.wires.values():
            if row.circuit == circuit:
                self.assertTrue(any(text.startswith(f"{row.label} ") for text in said), row.label)


class OverviewTest(TestCase):
    def setUp(self) -> None:
        self.sizing = roadster_sizing()
        self.loads = {part.id for part in self.sizing.build.parts_of_kind("load")}
        path = self.sizing.loads["horn"].path
        self.fuse = next(row.owner for row in reversed(path.feed) if row.kind == "fuse")

    def test_every_load_stands_once_on_the_sheet_below_what_feeds_it(self) -> None:
        drawing = overview(self.sizing)
        shown = [row.id for row in drawing.symbols if row.kind == "load"]
        self.assertEqual(sorted(shown), sorted(self.loads))
        self.assertEqual(drawing.symbols[0].kind, "battery")
        rows = {row.id: row for row in drawing.symbols}
        self.assertGreater(rows["horn"].x, rows[self.fuse].x)
        self.assertEqual(overlaps(drawing), [])
        for line in drawing.lines:
            for (x, y), (to_x, to_y) in pairwise(line.points):
                self.assertTrue(x == to_x or y == to_y)

    def test_branches_fold_and_say_what_they_hold(self) -> None:
        fuses = overview(self.sizing, "fuses")
        self.assertEqual({row.kind for row in fuses.symbols} & {"load", "function"}, set())
        fuse = next(row for row in fuses.symbols if row.id == self.fuse)
        behind = [
            row.load
            for row in self.sizing.loads.values()
            if [step.owner for step in row.path.feed if step.kind == "fuse"][-1:] == [self.fuse]
        ]
        self.assertTrue(fuse.texts[-1].text.endswith(f"{len(behind)} loads"), fuse.texts)
        turned = overview(self.sizing, "fuses", {self.fuse})
        opened = {row.id for row in turned.symbols} - {row.id for row in fuses.symbols}
        circuits = {self.sizing.build.parts[load].circuit for load in behind}
        self.assertEqual(opened, {f"{self.fuse} {circuit}" for circuit in circuits})
        everything = overview(self.sizing, "loads", {self.fuse})
        gone = {row.id for row in overview(self.sizing).symbols}
        gone -= {row.id for row in everything.symbols}
        self.assertLessEqual(set(behind), gone)


class SearchTest(TestCase):
    def found(self, build: Build, text: str) -> list[str]:
        return [f"{row.kind} {row.title}" for row in search(build, text)]

    def test_anything_is_found_by_name_label_terminal_or_row(self) -> None:
        build = roadster()
        self.assertEqual(self.found(build, "W12")[0], "wire W12")
        self.assertEqual(self.found(build, "horn")[0], "circuit Horn")
        self.assertIn("terminal horn-relay.87", self.found(build, "horn-relay.87"))
        self.assertIn("part Radiator fan", self.found(build, "fan 400"))
        self.assertIn("place Dash", self.found(build, "dash"))
        self.assertEqual(self.found(build, "zeppelin"), [])
        self.assertEqual(self.found(build, "  "), [])

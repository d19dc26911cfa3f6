"""What a loom takes: cutting held to brute force, every wire the same on every list."""

import io
import math
from collections import Counter
from dataclasses import replace
from functools import cache
from itertools import combinations_with_replacement, pairwise, product
from unittest import TestCase
from xml.etree import ElementTree

import networkx as nx
from hypothesis import example, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from circuitry.budget import budget
from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Reel, Terminal
from circuitry.design.routes import length_m
from circuitry.devices.terminals import joined_behind
from circuitry.document.reading import read, write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.finding import Finding
from circuitry.layout import layout_findings
from circuitry.layout.bundles import bundles, conductor_of
from circuitry.layout.twist import layers, twists
from circuitry.network import Network
from circuitry.printing import board_pages
from circuitry.proving import plan_of
from circuitry.sizing import size_build
from circuitry.workshop import STEPS, Done, Workshop, workshop
from circuitry.workshop.board import board
from circuitry.workshop.board_svg import board_svg
from circuitry.workshop.cutting import SOLD, Cutting, Piece, Stock, cut_from_reels
from circuitry.workshop.evening import as_they_are, evening
from circuitry.workshop.lists import LISTS
from circuitry.workshop.next_hour import next_hour
from circuitry.workshop.plugs import asked_said
from circuitry.workshop.schedule import WireLine, rounded_up
from tests.core.benches import COUPE, ROADSTER, VAN, demo
from tests.core.cars import ROOT, roadster

DEMOS = (ROADSTER, VAN, COUPE)


@cache
def made(name: str) -> Workshop:
    return workshop(demo(name).build)


def line(made_of: Workshop, label: str) -> WireLine:
    return next(row for row in made_of.wires if row.label == label)


def pieces(*lengths_m: float) -> list[Piece]:
    return [Piece(f"w{number}", length) for number, length in enumerate(lengths_m)]


def goes_on(lengths_m: list[float], reels_m: list[float]) -> bool:
    """Whether lengths can be cut from reels, by trying every way."""
    for on in product(range(len(reels_m)), repeat=len(lengths_m)):
        used = [0.0] * len(reels_m)
        for length, reel in zip(lengths_m, on, strict=True):
            used[reel] += length
        if all(u <= reel + 1e-9 for u, reel in zip(used, reels_m, strict=True)):
            return True
    return not lengths_m


def cheapest(lengths_m: list[float], at_hand_m: list[float]) -> float:
    """The least that reels to buy can count, by trying them all."""
    if goes_on(lengths_m, at_hand_m):
        return 0.0
    best = float("inf")
    for count in range(1, len(lengths_m) + 1):
        for bought in combinations_with_replacement(SOLD, count):
            cost = sum(SOLD[length] for length in bought)
            if cost < best and goes_on(lengths_m, [*at_hand_m, *bought]):
                best = cost
    return best


class CuttingTest(TestCase):
    def assert_sound(self, cutting: Cutting, wanted: list[Piece]) -> None:
        cut = [piece.wire for row in cutting.cuts for piece in row.pieces]
        cut += [piece.wire for piece in cutting.too_long]
        self.assertEqual(sorted(cut), sorted(piece.wire for piece in wanted))
        for row in cutting.cuts:
            self.assertGreaterEqual(row.left_m, -1e-9)

    @settings(max_examples=25, deadline=None)
    @given(
        st.lists(st.integers(2, 130).map(lambda n: n * 0.05), min_size=1, max_size=4),
        st.lists(st.integers(2, 100).map(lambda n: n * 0.05), max_size=2),
    )
    @example([2.0, 2.0, 2.0, 2.0], [])
    @example([2.05, 3.0], [])
    def test_it_is_the_cheapest_by_trying_every_way(
        self, lengths_m: list[float], at_hand_m: list[float]
    ) -> None:
        wanted = pieces(*lengths_m)
        at_hand = [Stock(length, f"reel-{n}") for n, length in enumerate(at_hand_m)]
        cutting = cut_from_reels(wanted, at_hand)
        self.assert_sound(cutting, wanted)
        self.assertAlmostEqual(cutting.cost, cheapest(lengths_m, at_hand_m))
        self.assertLessEqual(cutting.least_cost, cutting.cost + 1e-9)

    @settings(max_examples=20, deadline=None)
    @given(st.lists(st.integers(4, 140).map(lambda n: n * 0.05), min_size=20, max_size=120))
    def test_of_many_pieces_it_is_within_three_percent_of_the_bound(
        self, lengths_m: list[float]
    ) -> None:
        wanted = pieces(*lengths_m)
        cutting = cut_from_reels(wanted)
        self.assert_sound(cutting, wanted)
        self.assertLessEqual(cutting.cost, 1.03 * cutting.least_cost)

    def test_where_first_fit_buys_more(self) -> None:
        """6, 4, 3, 3, 2, 2 m: the longest first onto 10 m leaves 3 + 3 + 2 and 2; two of 10 do."""
        wanted = pieces(6.0, 5.0, 3.0, 2.0, 2.0, 2.0)
        self.assertAlmostEqual(cut_from_reels(wanted).bought_m, 20.0)

    def test_short_ends_at_hand_go_first_and_too_long_a_piece_is_said(self) -> None:
        at_hand = [Stock(30.0, "long"), Stock(2.5, "end")]
        cutting = cut_from_reels(pieces(2.4, 120.0), at_hand)
        self.assertEqual([row.stock.reel for row in cutting.cuts], ["end"])
        self.assertEqual([piece.length_m for piece in cutting.too_long], [120.0])
        self.assertEqual(cut_from_reels([]).cuts, ())


class WorkshopTest(TestCase):
    def test_a_wire_is_the_same_on_every_list(self) -> None:
        for name in DEMOS:
            build, all_made = demo(name).build, made(name)
            cut = {p.wire: p for g in all_made.cutting for r in g.reels for p in r.pieces}
            self.assertEqual(len(all_made.wires), len(build.wires))
            labels = Counter(row[0] for row in LISTS["labels"](all_made)[1])
            in_plugs = Counter(
                wire
                for face in all_made.faces
                for row in face.rows
                for c in row
                for wire in c.wires
            )
            homes = {face.part for face in all_made.faces}
            for row in all_made.wires:
                wire = build.wires[row.id]
                metres = length_m(build, wire)
                self.assertAlmostEqual(row.length_m, metres)
                parts_m = sum(leg.length_m for leg in row.legs) or (row.given_m or 0.0)
                self.assertAlmostEqual(parts_m + row.ends_m, metres, msg=row.label)
                self.assertTrue(-1e-6 < row.cut_m - metres < 0.05 + 1e-6, row.label)
                self.assertEqual(cut[row.id].length_m, row.cut_m)
                self.assertEqual(cut[row.id].label, row.label)
                self.assertEqual(labels[row.label], row.labels)
                ends = [row.start.part in homes, row.end.part in homes]
                self.assertEqual(in_plugs[row.id], sum(ends), row.label)
                self.assertNotEqual(row.start.ends_in, "")

    def test_a_wire_is_the_same_on_the_board_and_in_its_proof(self) -> None:
        for name in DEMOS:
            on_board = {leg.run: set(leg.wires) for leg in board(demo(name).build).legs}
            steps = [s for s in plan_of(demo(name)).steps if s.id.startswith("loom/ends/")]
            proved = Counter(wire for step in steps for wire in step.relies_on)
            bands = {row.id: row.band for step in steps for row in step.readings}
            for row in made(name).wires:
                legs = {leg.run for leg in row.legs}
                lies_in = {run for run, wires in on_board.items() if row.id in wires}
                self.assertEqual(lies_in, legs, row.label)
                self.assertEqual(proved[row.id], 1, row.label)
                ohm = row.length_m * catalogue().conductor[row.size].r20_mohm_per_m / 1000
                band = bands[f"ohms/{row.id}"]
                self.assertTrue(band.low <= ohm <= band.high, row.label)

    def test_terminals_bought_are_two_a_wire_or_one_for_all_that_are_joined(self) -> None:
        for name in DEMOS:
            ends = [row for row in made(name).shopping if row.group == "ends of wires"]
            other = ("seal for", "blind", "splice barrel")
            crimped = sum(row.needed for row in ends if not row.name.startswith(other))
            joined = sum(len(splice.wires) - 1 for splice in made(name).splices)
            self.assertEqual(crimped, 2 * len(demo(name).build.wires) - joined)
            self.assertTrue(all(row.buy == row.needed + row.spare for row in ends))

    def test_one_stage_is_that_stage_and_stages_add_up(self) -> None:
        whole = made(ROADSTER)
        each = [workshop(demo(ROADSTER).build, stage=stage) for stage in whole.stages]
        self.assertEqual(sum(len(part.wires) for part in each), len(whole.wires))
        self.assertEqual({row.stage for row in each[0].wires}, {whole.stages[0]})

    def test_rounding_never_cuts_short(self) -> None:
        for metres, to_m, cut in ((1.0, 0.05, 1.0), (1.001, 0.05, 1.05), (0.3, 0.1, 0.3)):
            self.assertAlmostEqual(rounded_up(metres, to_m), cut)

    def test_what_was_cut_and_changed_says_so_and_what_it_would_do_for(self) -> None:
        build = demo(ROADSTER).build
        row = line(made(ROADSTER), "W8")
        was = Done(row.id, "cut", row.cut_m - 0.15, row.size, row.colour, row.label)
        after = workshop(build, [was])
        (changed,) = after.changed
        self.assertIn(
            f"W8 is cut: {row.cut_m - 0.15:.2f} m, now {row.length_m:.2f} m", changed.says
        )
        for label in changed.use_for:
            other = line(after, label)
            self.assertEqual((other.size, other.colour), (row.size, row.colour))
            self.assertLessEqual(other.length_m, was.length_m)
        cut = {p.wire for g in after.cutting for r in g.reels for p in r.pieces}
        self.assertNotIn(row.id, cut)
        self.assertEqual(workshop(build, [replace(was, length_m=row.cut_m)]).changed, ())
        gone = workshop(build, [replace(was, wire="gone", label="W999")]).changed
        self.assertIn("it is gone", gone[0].says)

    def test_a_reel_at_hand_is_used_and_what_is_in_the_drawer_is_not_bought(self) -> None:
        build = demo(ROADSTER).build
        reel = Reel("reel-1", "0.5 mm²", "black", 40.0)
        item = next(row for row in made(ROADSTER).shopping if row.name.startswith("blade 6.3 mm"))
        policy = replace(build.policy, drawer={item.id: 1000.0})
        after = workshop(replace(build, reels={"reel-1": reel}, policy=policy))
        group = next(g for g in after.cutting if (g.size, g.colour) == ("0.5 mm²", "black"))
        self.assertEqual((group.bought_m, group.reels[0].at_hand), (0.0, "reel-1"))
        self.assertEqual(next(row.buy for row in after.shopping if row.id == item.id), 0.0)

    def test_what_lies_side_by_side_is_taped_by_where_it_leads(self) -> None:
        build = demo(VAN).build
        for leg in board(build).legs:
            self.assertEqual(sorted(w for row in leg.taped for w in row.wires), sorted(leg.wires))
            for row in leg.taped:
                places = {
                    frozenset(
                        build.places[build.parts[build.lands(end).part].place].name
                        for end in (build.wires[w].from_terminal, build.wires[w].to_terminal)
                    )
                    for w in row.wires
                }
                self.assertEqual(places, {frozenset(row.name.split(" – "))})
        twisted = replace(build, policy=replace(build.policy, laying="twisted"))
        self.assertTrue(all(not leg.taped for leg in board(twisted).legs))

    def test_prices_and_tapes_are_the_builders_own(self) -> None:
        build = demo(ROADSTER).build
        item = next(row for row in made(ROADSTER).shopping if row.name.startswith("blade 6.3 mm"))
        self.assertIsNone(item.cost)
        tapes = ("silver", "gold")
        policy = replace(build.policy, prices={item.id: 0.25}, tapes=tapes, drawer={item.id: 3.0})
        after = workshop(replace(build, policy=policy))
        priced = [row for row in after.shopping if row.price is not None]
        self.assertEqual([(row.id, row.cost) for row in priced], [(item.id, 0.25 * (item.buy - 3))])
        for row in after.wires:
            self.assertEqual(row.tape, tapes[(row.stage - 1) % 2])
        self.assertEqual(after.tapes, tapes[:1])
        text = write(replace(build, policy=policy))
        self.assertEqual(read(text.encode()).policy, policy)

    def test_more_wires_than_a_contact_takes_are_joined_before_it(self) -> None:
        for car in (ROADSTER, VAN):
            built, build = made(car), demo(car).build
            cells = [
                c for face in built.faces for row in face.rows for c in row if len(c.wires) > 1
            ]
            screwed = [cell for cell in cells if cell.contact.startswith("stud")]
            self.assertTrue(all(cell.tail is None for cell in screwed))
            for cell in (cell for cell in cells if cell not in screwed):
                sizes = [build.wires[wire].size or "" for wire in cell.wires]
                together = sum(catalogue().conductor[size].copper_area_mm2 for size in sizes)
                most = catalogue().terminals[cell.contact].most_mm2
                sealed = cell.contact.startswith("sealed")
                wanted = together > most or len(sizes) > 2 or sealed
                self.assertEqual(cell.tail is not None, wanted, cell)
                if cell.tail is not None:
                    areas = [catalogue().conductor[size].copper_area_mm2 for size in sizes]
                    tail_mm2 = catalogue().conductor[cell.tail.size].copper_area_mm2
                    self.assertEqual(tail_mm2, max(areas))
                    self.assertLessEqual(tail_mm2, most)
                    self.assertEqual(cell.tail.sealed, sealed)
        names = [row.name for row in made(VAN).splices]
        self.assertIn("Behind Turn switch, left", names)
        self.assertTrue(any("Front module, bus-high" in name for name in names))

    def test_a_tail_bears_what_its_contact_passes_on_in_every_state_that_was_looked_at(
        self,
    ) -> None:
        for car in (ROADSTER, VAN):
            sizing = demo(car)
            joined = joined_behind(sizing.build)
            self.assertGreater(len(joined), 5)
            for at, wires in joined.items():
                into = {w.id: 1 if sizing.build.lands(w.to_terminal) == at else -1 for w in wires}
                amps = max(
                    abs(sum(sign * state.wire_a[wire] for wire, sign in into.items()))
                    for state in sizing.solutions
                )
                thickest = max(wires, key=lambda w: catalogue().conductor[w.size].copper_area_mm2)
                self.assertLessEqual(amps, sizing.wires[thickest.id].carries_a, at)

    def test_splices_lie_apart_and_their_tails_are_cut_and_ended_as_wires_are(self) -> None:
        built, build = made(ROADSTER), demo(ROADSTER).build
        tails = {row.id: row for row in built.splices if row.tail}
        at_panel = [
            row.tail.length_m for row in tails.values() if row.name.startswith("Behind Panel")
        ]
        self.assertGreater(len(set(at_panel)), 1)
        cut = {p.wire: p for g in built.cutting for r in g.reels for p in r.pieces}
        for splice_id, row in tails.items():
            self.assertGreaterEqual(cut[splice_id].length_m, row.tail.length_m)
            for wire in row.wires:
                ends = [e for w in built.wires if w.id == wire for e in (w.start, w.end)]
                with_it = {build.wires[other].label for other in row.wires if other != wire}
                self.assertTrue(any(set(end.joined_with) == with_it for end in ends))
        tail = next(iter(tails.values()))
        done = [Done(tail.tail.wire, "cut", 1.0, tail.tail.size, tail.tail.colour, "")]
        after = {p.wire for g in workshop(build, done).cutting for r in g.reels for p in r.pieces}
        self.assertNotIn(tail.id, after)
        barrels = sum(row.needed for row in built.shopping if row.name.startswith("splice barrel"))
        self.assertEqual(barrels, len(built.splices))
        spots = [says for spot in board(build).spots for says in spot.splices]
        self.assertEqual(len(spots), len(tails))

    def test_like_plugs_at_one_place_are_to_be_keyed_apart(self) -> None:
        car = _with_two_plugs()
        faces = [face for face in workshop(car).faces if face.half]
        self.assertEqual({face.half for face in faces}, {"a", "b"})
        self.assertTrue(all(face.keyed_like for face in faces))
        plus, minus = (next(f for f in faces if f.half == half) for half in "ab")
        self.assertEqual([c.name for c in plus.rows[0]], [c.name for c in minus.rows[0]][::-1])
        self.assertTrue(any(c.blind for row in plus.rows for c in row))
        [finding] = _of_plugs(car)
        keyed = apply_operations(car, list(finding.mends[0].operations))
        self.assertEqual(_of_plugs(keyed), [])
        after = [face for face in workshop(keyed).faces if face.half]
        self.assertFalse(any(face.keyed_like for face in after))
        at = {face.part: [c.name for r in face.rows for c in r if c.keys] for face in after}
        self.assertEqual(len({name for [name] in at.values()}), 2)
        self.assertTrue(all(not c.wires for f in after for r in f.rows for c in r if c.keys))
        first = car.parts_of_kind("connector")[0].id
        self.assertEqual([row.code for row in _of_plugs(_keyed(keyed, first, 0))], ["plugs-alike"])
        codes = {row.code for row in _of_plugs(_keyed(keyed, first, 1))}
        self.assertEqual(codes, {"keyed-cavity-used"})
        with self.assertRaisesRegex(UnusableInput, "has 4 cavities"):
            _keyed(keyed, first, 5)

    def test_each_pin_of_a_box_or_module_says_what_it_can(self) -> None:
        can = {(face.part, c.name): c.can for face in made(VAN).faces for r in face.rows for c in r}
        self.assertEqual(can["rear-module", "brake-pedal"], "input")
        self.assertEqual(can["rear-module", "reversing"], "input to ground")
        self.assertRegex(can["rear-module", "C6"], r"^channel, \d+(\.\d)? A at most$")
        self.assertTrue(all(not said for (part, _), said in can.items() if part == "panel"))
        sizing = demo(VAN)
        pins = {
            Terminal(face.part, c.name): c
            for face in workshop(sizing.build, solutions=sizing.solutions).faces
            for r in face.rows
            for c in r
        }
        for module in sizing.build.parts_of_kind("module"):
            for way in module.ways:
                at = Terminal(module.id, way.name)
                out_a = max(abs(row.output_a.get(at, 0.0)) for row in sizing.solutions)
                self.assertAlmostEqual(pins[at].asked_a, out_a, places=6, msg=str(at))
        self.assertEqual(asked_said(pins[Terminal("rear-module", "C11")]), "4.0 A asked")

    def test_a_wire_cut_otherwise_is_as_long_as_it_was_cut_and_keeps_its_way(self) -> None:
        build = demo(ROADSTER).build
        row = line(made(ROADSTER), "W86")
        runs_m = row.length_m - row.ends_m
        for metres, legs in ((row.length_m + 0.4, len(row.legs)), (runs_m - 0.5, 0)):
            car = apply_operations(build, [{"op": "cut_at", "wire": row.id, "metres": metres}])
            after = line(workshop(car), "W86")
            self.assertAlmostEqual(after.length_m, metres, places=3)
            self.assertEqual(len(after.legs), legs)

    def test_an_evening_says_what_is_new_what_is_undone_and_how_to_leave_it(self) -> None:
        before = demo(ROADSTER)
        unsized = read((ROOT / "demo" / f"{ROADSTER}.json").read_bytes())
        lamp = {"op": "write_recipe", "recipe": "plain-load", "answers": {}}
        after = size_build(apply_operations(unsized, [lamp]))
        was, then = (budget(sizing, Network(sizing.build)) for sizing in (before, after))
        took = evening(before, after, was, then)
        new = set(after.build.wires) - set(before.build.wires)
        self.assertEqual(set(took.wires), {after.build.wires[wire].label for wire in new})
        (panel,) = [room for room in took.room if room.name == "Panel"]
        self.assertEqual(len(panel.taken), 1)
        chart = [way for way in made(ROADSTER).chart if way.panel == "Panel"]
        self.assertEqual(panel.free, sum(not way.fuse for way in chart) - 1)
        other = [
            wire.label
            for wire in before.build.wires.values()
            if after.build.wires[wire.id].size != wire.size
        ]
        self.assertEqual([row.split(",")[0] for row in took.again], other)
        self.assertGreater(len(other), 0)
        pins = as_they_are(before.build, after.build)
        left = size_build(apply_operations(unsized, [*pins, lamp]))
        for wire in before.build.wires.values():
            self.assertEqual(left.build.wires[wire.id].size, wire.size, wire.label)
        self.assertEqual(evening(before, left, was, then).fuses, ())
        self.assertEqual(evening(before, before, was, was).minutes, 0)

    def test_the_next_hour_is_of_what_is_at_hand(self) -> None:
        build = demo(ROADSTER).build
        first = next_hour(build, ())
        assert first is not None
        self.assertEqual(
            (first.at_hand, first.circuits[0]), (False, made(ROADSTER).wires[0].circuit_name)
        )
        mine = [row for row in made(ROADSTER).wires if row.circuit_name == "Luggage lamp"]
        kinds = {(row.size, row.colour) for row in mine}
        reels = {f"r{n}": Reel(f"r{n}", *kind, 50.0) for n, kind in enumerate(sorted(kinds))}
        ready = next_hour(replace(build, reels=reels), ())
        assert ready is not None
        self.assertTrue(ready.at_hand)
        self.assertIn("Luggage lamp", ready.circuits)
        self.assertIsNone(next_hour(build, set(build.wires)))

    def test_the_old_loom_is_counted_down_end_by_end_and_weighed(self) -> None:
        build = demo(VAN).build
        old = made(VAN).old_loom
        assert old is not None
        ends = {(r.id, n) for r in build.found_circuits.values() for n in range(len(r.stretches))}
        told = [(end.circuit, end.stretch) for plug in old.plugs for end in plug.ends]
        self.assertEqual(sorted(told), sorted(ends))
        self.assertEqual((old.ends, old.left), (8, 6))
        # wire in thin PVC weighs about 11 g a metre of 1 mm², 6.6 of 0.5 mm², 9 of 0.75 mm²
        self.assertAlmostEqual(old.out_kg, 1.1 * 0.011 + 4.6 * 0.0066 + 1.2 * 0.009, delta=0.003)
        self.assertEqual(old.unweighed, ())
        lamps = build.found_circuits["tail-lamps"]
        rest = tuple(replace(row, length_m=None, settled=True) for row in lamps.stretches)
        after = {**build.found_circuits, lamps.id: replace(lamps, stretches=rest)}
        less = workshop(replace(build, found_circuits=after)).old_loom
        assert less is not None
        self.assertEqual((less.left, less.unweighed), (4, ("Tail lamps",)))
        self.assertIsNone(made(ROADSTER).old_loom)

    def test_reels_and_drawer_are_read_back(self) -> None:
        value = {"id": "reel-1", "size": "1 mm²", "colour": "red", "length_m": 12.5}
        add = {"op": "add", "collection": "reels", "value": value}
        fields = {"policy": {"drawer": {"labels": 20.0}, "cut_to_m": 0.1}}
        change = {"op": "change", "collection": "build", "id": "build", "fields": fields}
        car = apply_operations(roadster(), [add, change])
        self.assertEqual(read(write(car)), car)
        self.assertEqual(car.policy.drawer, {"labels": 20.0})

    def test_labels_longer_than_the_printer_takes_are_named_and_stand_whole(self) -> None:
        build = demo(ROADSTER).build
        self.assertEqual(made(ROADSTER).long_labels, ())
        policy = replace(build.policy, label_letters=3)
        told = workshop(replace(build, policy=policy))
        self.assertIn("W100", told.long_labels)
        self.assertNotIn("W99", told.long_labels)
        self.assertIn("W100", {label for label, _ in LISTS["labels"](told)[1]})

    def test_every_list_is_a_table(self) -> None:
        for name in DEMOS:
            for title, told in LISTS.items():
                headings, rows = told(made(name))
                self.assertEqual(bool(rows), title != "old-loom" or name == VAN, title)
                self.assertLessEqual({len(row) for row in rows}, {len(headings)}, title)

    def test_steps_are_in_the_order_of_the_work(self) -> None:
        self.assertEqual(STEPS, ("cut", "ended", "labelled", "laid"))


def _of_plugs(build: Build) -> list[Finding]:
    codes = ("plugs-alike", "keyed-cavity-used")
    return [row for row in layout_findings(build) if row.code in codes]


def _keyed(build: Build, plug: str, at: int) -> Build:
    fields = {"figures": {"keyed_at": float(at)}}
    change = {"op": "change", "collection": "parts", "id": plug, "fields": fields}
    return apply_operations(build, [change])


def _with_two_plugs() -> Build:
    """The roadster with two like sealed plugs of four ways at one place, a wire through each."""
    build = demo(ROADSTER).build
    sizes = {wire.id: wire for wire in build.wires.values()}
    some = [row for row in made(ROADSTER).wires if row.size in ("1 mm²", "1.5 mm²")][:2]
    place = build.parts[sizes[some[0].id].from_terminal.part].place
    car = build
    for row in some:
        insert = {"op": "insert", "wire": row.id, "kind": "connector", "place": place, "count": 4}
        car = apply_operations(car, [insert])
    for plug in car.parts_of_kind("connector"):
        fields = {"catalogue": "pin size 16 sealed"}
        change = {"op": "change", "collection": "parts", "id": plug.id, "fields": fields}
        car = apply_operations(car, [change])
    return _sized(car)


def _sized(build: Build) -> Build:
    wires = {w.id: w if w.size else replace(w, size="1 mm²") for w in build.wires.values()}
    return replace(build, wires=wires)


class BoardTest(TestCase):
    def test_every_leg_is_as_long_as_it_was_measured_and_none_crosses(self) -> None:
        for name in DEMOS:
            build, drawn = demo(name).build, board(demo(name).build)
            used = {run for run, bundle in bundles(build).items() if bundle.wires}
            self.assertEqual({leg.run for leg in drawn.legs}, used)
            self.assertEqual(drawn.crossings, 0, name)
            for leg in drawn.legs:
                lies_mm = math.dist((leg.x1_mm, leg.y1_mm), (leg.x2_mm, leg.y2_mm))
                self.assertAlmostEqual(lies_mm, 1000 * build.runs[leg.run].length_m, places=6)
                self.assertEqual(len(leg.clips_mm), int(leg.length_mm // 250))
                for x, y in ((leg.x1_mm, leg.y1_mm), (leg.x2_mm, leg.y2_mm)):
                    self.assertTrue(0 < x < drawn.width_mm and 0 < y < drawn.height_mm, leg.name)

    def test_a_wire_goes_from_where_it_starts_to_where_it_ends(self) -> None:
        """Its legs make one way between the spots of its ends, of its length without the ends."""
        for name in DEMOS:
            build, drawn = demo(name).build, board(demo(name).build)
            ends = {end.part: spot.place for spot in drawn.spots for end in spot.ends}
            for row in made(name).wires:
                legs = [leg for leg in drawn.legs if row.id in leg.wires]
                self.assertEqual({leg.run for leg in legs}, {leg.run for leg in row.legs})
                if legs:
                    self.assertEqual(ends[row.start.part], build.parts[row.start.part].place)
                    along_m = sum(leg.length_mm for leg in legs) / 1000
                    self.assertAlmostEqual(along_m + row.ends_m, row.length_m, msg=row.label)

    def test_a_loop_is_parted_where_it_is_thinnest_and_said(self) -> None:
        drawn = board(demo(VAN).build)
        self.assertEqual(len(drawn.parted), 2)
        free = [leg for leg in drawn.legs if leg.parted]
        self.assertEqual(len(free), 2)
        graph: nx.MultiGraph[str] = nx.MultiGraph()
        build = demo(VAN).build
        for leg in drawn.legs:
            run = build.runs[leg.run]
            graph.add_edge(run.from_place, run.to_place, thick=leg.diameter_mm, run=run.id)
        for leg in free:
            run = build.runs[leg.run]
            rest = nx.MultiGraph(graph)
            key = next(
                k for k, e in rest[run.from_place][run.to_place].items() if e["run"] == run.id
            )
            rest.remove_edge(run.from_place, run.to_place, key)
            self.assertTrue(nx.has_path(rest, run.from_place, run.to_place))
        self.assertTrue(any("part it at Engine" in words for words in drawn.parted))

    def test_a_board_is_no_longer_than_a_garage_has_room_for(self) -> None:
        for name in DEMOS:
            self.assertLess(board(demo(name).build).width_mm, 5000 + 1000)

    def test_a_car_without_runs_has_no_board_and_says_so_on_paper(self) -> None:
        empty = board(replace(demo(ROADSTER).build, wires={}))
        self.assertEqual(empty.legs, ())
        said = PdfReader(io.BytesIO(board_pages(empty, "Car"))).pages[0].extract_text()
        self.assertIn("No wire goes through any run yet", said)

    def test_the_drawing_is_at_full_size(self) -> None:
        drawn = board(demo(ROADSTER).build)
        svg = ElementTree.fromstring(board_svg(drawn, "Roadster"))
        self.assertEqual(svg.get("width"), f"{drawn.width_mm:g}mm")
        self.assertEqual(svg.get("viewBox"), f"0 0 {drawn.width_mm:g} {drawn.height_mm:g}")
        lines = svg.findall("{http://www.w3.org/2000/svg}line")
        clips = sum(len(leg.clips_mm) for leg in drawn.legs)
        self.assertEqual(len(lines), len(drawn.legs) + clips)

    def test_sheets_cover_every_leg_and_carry_a_ruler(self) -> None:
        drawn = board(demo(ROADSTER).build)
        for paper, fewest in (("A4", 12), ("A3", 6)):
            found = PdfReader(io.BytesIO(board_pages(drawn, "Roadster", paper)))
            self.assertGreater(len(found.pages), fewest)
            said = " ".join(page.extract_text() for page in found.pages)
            for leg in drawn.legs:
                self.assertIn(f"{leg.name}: {leg.length_mm / 1000:.2f} m", said)
            for page in found.pages:
                self.assertIn("100 mm: if not, print at 100 %", page.extract_text())
        self.assertRaises(UnusableInput, board_pages, drawn, "Roadster", "A7")


class TwistTest(TestCase):
    def test_of_like_wires_six_lie_around_one_then_twelve_then_eighteen(self) -> None:
        """The counts of a concentric strand; over them three, five and seven times one wire."""
        names = [str(n) for n in range(37)]
        found = layers(names, dict.fromkeys(names, 2.0), {n: f"W{n}" for n in names})
        self.assertEqual([len(layer.wires) for layer in found], [1, 6, 12, 18])
        self.assertEqual([layer.over_mm for layer in found], [2.0, 6.0, 10.0, 14.0])
        self.assertEqual([layer.turns for layer in found], ["straight", "right", "left", "right"])
        self.assertTrue(all(layer.fillers == 0 for layer in found))

    def test_a_wire_on_a_layer_is_longer_by_the_helix(self) -> None:
        """Pitch diameter 4 mm, a turn in 48 mm: √(48² + (4π)²) / 48 = 1.0337."""
        names = ["a", "b", "c"]
        core, ring = layers(names, dict.fromkeys(names, 2.0), {n: n for n in names})
        self.assertEqual((core.longer, ring.lay_mm, ring.fillers), (0.0, 48.0, 4))
        self.assertAlmostEqual(ring.longer, math.hypot(48, 4 * math.pi) / 48 - 1)

    def test_every_wire_is_in_one_layer_and_no_layer_is_overfull(self) -> None:
        for name in DEMOS:
            build = demo(name).build
            thick = {w.id: conductor_of(w).outside_diameter_mm for w in build.wires.values()}
            for run, found in twists(build).items():
                inside = [wire for layer in found for wire in layer.wires]
                self.assertEqual(sorted(inside), sorted(bundles(build)[run].wires))
                for before, layer in pairwise(found):
                    pitch = before.over_mm + max(thick[wire] for wire in layer.wires)
                    turn = sum(2 * math.asin(min(thick[w] / pitch, 1)) for w in layer.wires)
                    self.assertLessEqual(turn, 2 * math.pi + 1e-6, run)

    def test_a_builder_who_twists_cuts_longer(self) -> None:
        build = demo(ROADSTER).build
        twisted = replace(build, policy=replace(build.policy, laying="twisted"))
        before, after = made(ROADSTER), workshop(twisted)
        for row, longer in zip(before.wires, after.wires, strict=True):
            runs_m = sum(leg.length_m for leg in row.legs)
            self.assertAlmostEqual(longer.length_m - row.length_m, longer.twist_m)
            self.assertTrue(0 <= longer.twist_m <= 0.034 * runs_m + 1e-9, row.label)
        self.assertGreater(sum(row.twist_m for row in after.wires), 1.0)
        self.assertTrue(all(leg.layers for leg in board(twisted).legs))
        self.assertFalse(any(leg.layers for leg in board(build).legs))

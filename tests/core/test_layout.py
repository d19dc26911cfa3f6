"""Ways, bundles and the loom in figures; sizes carried over where nothing is felt."""

import math
import random
from dataclasses import replace
from unittest import TestCase, mock

from pydantic_core import to_json

from circuitry.design.model import Build
from circuitry.design.routes import has_way, length_m, way_of
from circuitry.design.state import State
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.layout import bundles, far_from_drawn
from circuitry.sizing import Sizing, carried_over, loom, size_build
from circuitry.sizing import sizing as rounds
from circuitry.sizing.placement import moved
from tests.core.cars import roadster, roadster_sizing


def edit(build: Build, **operation: object) -> Build:
    return apply_operations(build, [operation])


class WaysTest(TestCase):
    def test_a_pinned_way_goes_along_its_run_and_back_to_the_shortest(self) -> None:
        longer = edit(
            roadster(), op="set_run", cells={"from": "dash", "to": "tunnel", "length": "2"}
        )
        pinned = edit(longer, op="pin_way", wire="w61", through=["dash-to-tunnel"])
        runs = [run.id for run in way_of(pinned, pinned.wires["w61"])]
        self.assertEqual(runs, ["dash-to-tunnel", "tunnel-to-panel-shelf"])
        gained = length_m(pinned, pinned.wires["w61"]) - length_m(longer, longer.wires["w61"])
        self.assertAlmostEqual(gained, 2 + 0.95 - 0.65)
        free = edit(pinned, op="pin_way", wire="w61", through=[])
        self.assertEqual(free, longer)

    def test_a_pinned_way_that_is_cut_is_refused(self) -> None:
        island = {"id": "island", "name": "Island", "zone": "cabin", "ambient_c": 20}
        far = {"id": "shore", "name": "Shore", "zone": "cabin", "ambient_c": 20, "x_m": 0, "y_m": 0}
        build = apply_operations(
            roadster(),
            [
                {"op": "add", "collection": "places", "value": {**island, "x_m": 1, "y_m": 1}},
                {"op": "add", "collection": "places", "value": far},
                {"op": "set_run", "cells": {"from": "island", "to": "shore"}},
            ],
        )
        with self.assertRaisesRegex(
            UnusableInput, "No way for wire W61 goes along Island to Shore"
        ):
            edit(build, op="pin_way", wire="w61", through=["island-to-shore"])
        pinned = edit(roadster(), op="pin_way", wire="w61", through=["panel-shelf-to-dash"])
        with self.assertRaisesRegex(UnusableInput, "goes along “panel-shelf-to-dash”, which is no"):
            edit(pinned, op="remove", collection="runs", id="panel-shelf-to-dash")

    def test_without_a_run_the_length_is_a_guess_and_a_finding(self) -> None:
        cut = edit(roadster(), op="remove", collection="runs", id="luggage-to-tank")
        wire = cut.wires["w66"]
        self.assertFalse(has_way(cut, wire))
        drawn = math.hypot(2.75 - 1.45, -0.35 + 0.4)
        self.assertAlmostEqual(length_m(cut, wire), 1.3 * drawn + 0.3, delta=0.2)
        found = {row.code: row for row in size_build(cut).findings}
        self.assertEqual(found["wire-no-way"].severity, "stop")
        self.assertIn("fuel-pump", found["load-out-of-reach"].parts)

    def test_extra_at_the_ends_goes_by_kind_of_part(self) -> None:
        wire = roadster().wires["w60"]
        ends = edit(
            roadster(),
            op="change",
            collection="build",
            id="build",
            fields={"policy": {"end_extra_m": {"panel": 0.5, "load": 0.1}}},
        )
        self.assertAlmostEqual(length_m(ends, wire) - length_m(roadster(), wire), 0.6 - 0.4)

    def test_a_length_as_typed_counts_as_measured(self) -> None:
        build = edit(
            roadster(), op="set_run", cells={"from": "Dash", "to": "Tunnel, behind the lever"}
        )
        self.assertFalse(build.runs["dash-to-tunnel"].measured)
        build = edit(build, op="set_run", run="dash-to-tunnel", cells={"length": "3 ft 4"})
        self.assertAlmostEqual(build.runs["dash-to-tunnel"].length_m, 1.016)
        self.assertTrue(build.runs["dash-to-tunnel"].measured)

    def test_bad_runs_are_refused_in_words(self) -> None:
        for cells, words in (
            ({"from": "dash", "to": "dash"}, "same place"),
            ({"from": "dash", "to": "panel-shelf"}, "Two runs lead from"),
            ({"from": "dash", "to": "moon"}, "no place here"),
            ({"from": "dash", "to": "tank", "length": "0"}, "more than 0"),
            ({"from": "dash", "to": "tank", "length": "400 m"}, "at most 100 m"),
            ({"from": "dash", "to": "tank", "passes": "lava"}, "one of hot part"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                edit(roadster(), op="set_run", cells=cells)


class BundleTest(TestCase):
    def test_diameter_and_weight_follow_from_the_wires(self) -> None:
        """1.2 √Σd² and copper at 8.96 g/cm³: by hand for the four wires to the left rear lamp."""
        build = roadster_sizing().build
        bundle = bundles(build)["rear-to-rear-left"]
        self.assertEqual(len(bundle.wires), 4)
        outside = {"0.5 mm²": 1.6, "0.75 mm²": 1.9, "1 mm²": 2.1, "1.5 mm²": 2.4, "2.5 mm²": 3.0}
        sizes = [build.wires[wire].size or "" for wire in bundle.wires]
        squares = sum(outside[size] ** 2 for size in sizes)
        self.assertAlmostEqual(bundle.diameter_mm, 1.2 * math.sqrt(squares), delta=0.3)
        copper_g = sum(float(size.split()[0]) for size in sizes) * 8.96 * 0.7
        self.assertGreater(bundle.mass_g, copper_g)
        self.assertLess(bundle.mass_g, 2.5 * copper_g)

    def test_each_metre_of_wire_is_counted_once(self) -> None:
        figures = loom(roadster_sizing())
        build = roadster_sizing().build
        metres = sum(length_m(build, wire) for wire in build.wires.values())
        self.assertAlmostEqual(figures.total_m, metres)
        self.assertAlmostEqual(sum(figures.metres.values()), metres)

    def test_a_length_far_from_its_drawn_distance(self) -> None:
        build = roadster()
        run = build.runs["luggage-to-tank"]
        self.assertFalse(far_from_drawn(build, run))
        self.assertTrue(far_from_drawn(build, replace(run, length_m=0.3)))
        self.assertTrue(far_from_drawn(build, replace(run, length_m=2.9)))

    def test_holes_heat_and_edges(self) -> None:
        def codes(run: str, **cells: str) -> list[str]:
            build = edit(roadster(), op="set_run", run=run, cells=cells)
            return [row.title for row in size_build(build).findings if run in row.parts]

        shelf, nose = "panel-shelf-to-bulkhead", "bulkhead-to-nose"
        self.assertIn("tight", codes(shelf, hole="14 mm")[0])
        self.assertIn("no grommet", codes(shelf, hole_fit="none")[0])
        self.assertIn("hot part unsleeved", codes(nose, cover="tape")[0])
        self.assertEqual(codes(nose, cover="braid"), [])


class PlacementTest(TestCase):
    def test_a_battery_nearer_to_its_panel_takes_less_copper(self) -> None:
        near = moved(roadster(), "battery", "panel-shelf")
        self.assertEqual(near.parts["main-fuse"].place, "panel-shelf")
        self.assertEqual(near.parts["fan-fuse"].place, roadster().parts["fan-fuse"].place)
        before, after = loom(roadster_sizing()), loom(size_build(near))
        self.assertLess(after.copper_kg, before.copper_kg)

    def test_a_panel_takes_its_fuses_along(self) -> None:
        build = moved(roadster(), "panel", "dash")
        self.assertEqual({p.place for p in build.parts_of_kind("fuse") if p.fitted}, {"dash"})


CALLED = (
    *(("parts", "name"), ("parts", "note"), ("wires", "label"), ("wires", "colour")),
    *(("circuits", "name"), ("places", "name")),
)


def called_otherwise(draw: random.Random, build: Build, number: int) -> dict:
    """One thing gets another name, label, note or colour."""
    collection, field = draw.choice(CALLED)
    thing = draw.choice(list(getattr(build, collection)))
    word = "green" if field == "colour" else f"{field} {number} {draw.randint(1, 9999)}"
    fields = {field: word}
    return {"op": "change", "collection": collection, "id": thing, "fields": fields}


def told(sizing: Sizing) -> bytes:
    """Everything that is said of a sizing."""
    reasons = {one: sizing.candidates(one) for one in (*sizing.wires, *sizing.fuses)}
    return to_json(
        [sizing.wires, sizing.fuses, sizing.circuits, sizing.findings, sizing.charging, reasons]
    )


class CarriedOverTest(TestCase):
    def test_what_no_current_feels_is_not_sized_again_and_answers_the_same(self) -> None:
        before = roadster_sizing()
        operations: list[dict] = [
            {"op": "change", "collection": "places", "id": "tank", "fields": {"x_m": 2.4}},
            {
                "op": "set_cells",
                "rows": [{"part": "horn", "cells": {"note": "loud", "state": "keep"}}],
            },
            {"op": "set_cells", "rows": [{"part": None, "cells": {"name": "Seat heater"}}]},
            {"op": "set_run", "run": "luggage-to-tank", "cells": {"hole": "30 mm"}},
        ]
        after = apply_operations(roadster(), operations)
        with mock.patch.object(
            rounds._Work, "first_round", side_effect=AssertionError("sized again")
        ):
            carried = carried_over(roadster(), before, after)
        assert carried is not None
        afresh = size_build(after)
        self.assertEqual(carried.wires, afresh.wires)
        self.assertEqual(carried.circuits, afresh.circuits)
        self.assertEqual(carried.findings, afresh.findings)
        self.assertEqual(carried.build, afresh.build)

    def test_what_lies_unwired_is_in_the_network_after_another_edit_too(self) -> None:
        lies = {"op": "set_cells", "rows": [{"part": None, "cells": {"name": "Seat heater"}}]}
        hoot = {"op": "change", "collection": "parts", "id": "horn", "fields": {"name": "Hooter"}}
        build, sizing = roadster(), roadster_sizing()
        for operation in (lies, hoot):
            before, build = build, apply_operations(build, [operation])
            carried = carried_over(before, sizing, build)
            assert carried is not None
            sizing = carried
        network = sizing.network
        self.assertEqual(network.build.parts["horn"].name, "Hooter")
        (heater,) = (part for part in build.parts.values() if part.name == "Seat heater")
        solution = network.solve(State("run"))
        self.assertEqual(solution.loads[heater.id].volts, 0.0)

    def test_names_touch_no_size_and_every_word_follows(self) -> None:
        """A chain of edits of what things are called, each answer held to that of a fresh sizing
        byte for byte."""
        draw = random.Random(12)
        build, sizing = roadster(), roadster_sizing()
        for number in range(12):
            before = build
            for _ in range(8):
                build = apply_operations(build, [called_otherwise(draw, build, number)])
            with mock.patch.object(
                rounds._Work, "first_round", side_effect=AssertionError("sized again")
            ):
                carried = carried_over(before, sizing, build)
            assert carried is not None
            sizing = carried
            self.assertEqual(told(sizing), told(size_build(build)))

    def test_what_a_current_feels_is_sized_again(self) -> None:
        for operation in (
            {"op": "change", "collection": "places", "id": "tank", "fields": {"ambient_c": 90}},
            {"op": "set_run", "run": "luggage-to-tank", "cells": {"length": "0.7"}},
            {"op": "set_cells", "rows": [{"part": "horn", "cells": {"rating": "6 A"}}]},
            {"op": "remove", "collection": "runs", "id": "luggage-to-tank"},
        ):
            after = apply_operations(roadster(), [operation])
            self.assertIsNone(carried_over(roadster(), roadster_sizing(), after), operation)

"""Each hazard of a run is found, named, and gone with its mend; sound ones say nothing."""

from unittest import TestCase

from circuitry.design.model import Build
from circuitry.edits import apply_operations
from circuitry.finding import Finding
from circuitry.layout import layout_findings
from circuitry.sizing import size_build
from tests.core.cars import roadster

RUN = "panel-shelf-to-dash"


def run_with(**cells: str) -> Build:
    operation = {"op": "set_run", "run": RUN, "cells": cells}
    return size_build(apply_operations(roadster(), [operation])).build


def found(build: Build) -> list[Finding]:
    return [row for row in layout_findings(build) if RUN in row.parts]


class HazardTest(TestCase):
    CASES = (
        ({"passes": "hot part", "cover": "tape"}, "hot part unsleeved", "convoluted tube"),
        ({"passes": "wheel", "cover": "tape"}, "wheel unsleeved", "convoluted tube"),
        ({"passes": "edge", "cover": "none"}, "edge uncovered", "tape"),
        ({"passes": "fuel line", "cover": "none"}, "fuel line uncovered", "convoluted tube"),
        ({"passes": "bulkhead", "hole_fit": "none"}, "has no grommet", None),
    )

    def test_each_is_found_and_mended(self) -> None:
        for cells, words, cover in self.CASES:
            build = run_with(**cells)
            (finding,) = found(build)
            self.assertIn(words, finding.title)
            self.assertIn("Panel shelf – Dash", finding.title)
            self.assertEqual(finding.severity, "look")
            mended = apply_operations(build, list(finding.mends[0].operations))
            self.assertEqual(found(mended), [], words)
            if cover is not None:
                self.assertEqual(mended.runs[RUN].cover, cover)

    def test_a_covered_run_and_an_empty_one_say_nothing(self) -> None:
        every = "hot part, wheel, edge, fuel line, bulkhead, moving hinge"
        self.assertEqual(found(run_with(passes=every, cover="braid", hole_fit="connector")), [])
        ends = {"from": "front-left", "to": "front-right", "length": "2.5 m"}
        bare = {**ends, "passes": every, "cover": "none"}
        build = apply_operations(roadster(), [{"op": "set_run", "cells": bare}])
        sized = size_build(build).build
        self.assertEqual(
            [r for r in layout_findings(sized) if "front-left-to-front-right" in r.parts], []
        )

    def test_a_hole_is_tight_before_it_is_too_small(self) -> None:
        self.assertEqual(found(run_with(hole="40 mm")), [])
        (tight,) = found(run_with(hole="15 mm"))
        self.assertEqual(tight.severity, "look")
        (small,) = found(run_with(hole="8 mm"))
        self.assertEqual(small.severity, "stop")

    def test_the_level_of_a_place_counts_in_the_drawn_distance(self) -> None:
        """From floor to roof is 1.1 m upwards, whatever the plan says."""
        fields = {"x_m": 1.45, "y_m": -0.4, "level": "roof"}
        move = {"op": "change", "collection": "places", "id": "dash", "fields": fields}
        shelf = {
            "op": "change",
            "collection": "places",
            "id": "panel-shelf",
            "fields": {"level": "floor"},
        }
        build = apply_operations(roadster(), [move, shelf])
        (finding,) = found(size_build(build).build)
        self.assertEqual(finding.code, "length-far-from-drawn")
        self.assertEqual(finding.limit, "1.10 m straight on the plan")

    def test_guessed_lengths_are_counted_until_measured(self) -> None:
        guess = {"op": "set_run", "cells": {"from": "dash", "to": "tunnel"}}
        build = apply_operations(roadster(), [guess])
        (note,) = [r for r in layout_findings(size_build(build).build) if r.severity == "note"]
        self.assertEqual(note.title, "1 of 14 runs are not measured yet")
        measure = {"op": "set_run", "run": "dash-to-tunnel", "cells": {"length": "0.8 m"}}
        measured = size_build(apply_operations(build, [measure])).build
        self.assertEqual([r for r in layout_findings(measured) if r.severity == "note"], [])


class StateTest(TestCase):
    def test_what_is_to_go_is_told_while_wires_land_on_it(self) -> None:
        cells = {"state": "remove"}
        rows = [{"part": part, "cells": cells} for part in ("horn", "usb-charger", "dip-switch")]
        build = apply_operations(roadster(), [{"op": "set_cells", "rows": rows}])
        told = {r.parts[0]: r for r in size_build(build).findings if r.code == "still-wired"}
        self.assertEqual(set(told), {"horn", "dip-switch"})
        self.assertEqual(told["dip-switch"].mends, ())
        out = apply_operations(build, list(told["horn"].mends[0].operations))
        self.assertNotIn("horn", out.parts)
        waiting = next(r for r in size_build(build).findings if r.code == "not-wired")
        self.assertNotIn("usb-charger", waiting.parts)

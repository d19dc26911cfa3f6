"""Edits by hand in any order: each is made or refused in words, and undone to the letter."""

from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.design.model import Build
from circuitry.devices import terminals_of
from circuitry.document.reading import write
from circuitry.drawing import as_svg, schematic
from circuitry.edits import apply_changes, apply_operations, differences, inverse
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.reach.truth import truth_table
from circuitry.recipes.book import RECIPES
from circuitry.sizing import size_build
from circuitry.sizing.feeds import feeds
from tests.core.cars import roadster

INSERTED = ("relay", "fuse", "diode", "resistor", "switch", "splice", "connector")
STEPS = 5


def terminal(build: Build, data: st.DataObject) -> str:
    parts = [part for part in build.parts.values() if terminals_of(part)]
    part = data.draw(st.sampled_from(parts))
    return f"{part.id}.{data.draw(st.sampled_from(terminals_of(part)))}"


def an_edit(build: Build, data: st.DataObject) -> dict[str, Any]:
    """One operation, as a hand that does not look would make it."""

    def one(things: Any) -> str:
        return str(data.draw(st.sampled_from(sorted(things))))

    match data.draw(st.integers(0, 11)):
        case 0:
            return {"op": "insert", "wire": one(build.wires), "kind": one(INSERTED), "name": "X"}
        case 1:
            return {"op": "split_load", "load": one(p.id for p in build.parts_of_kind("load"))}
        case 2:
            panel = one(part.id for part in build.parts_of_kind("panel"))
            where = {"panel": panel, "any_key": data.draw(st.booleans())}
            return {"op": "move_circuit", "circuit": one(build.circuits), **where}
        case 3:
            ground = one(part.id for part in build.parts_of_kind("ground point"))
            return {"op": "move_circuit", "circuit": one(build.circuits), "ground": ground}
        case 4:
            into = one(build.circuits)
            return {"op": "merge_circuits", "into": into, "circuits": [one(build.circuits)]}
        case 5:
            return {"op": "mirror_circuit", "circuit": one(build.circuits)}
        case 6:
            return {"op": "remove", "collection": "wires", "id": one(build.wires)}
        case 7:
            return {"op": "remove_row", "part": one(build.parts)}
        case 8:
            end = one(("from_terminal", "to_terminal"))
            fields = {end: terminal(build, data), "way": None}
            return {"op": "change", "collection": "wires", "id": one(build.wires), "fields": fields}
        case 9:
            ends = {"from_terminal": terminal(build, data), "to_terminal": terminal(build, data)}
            return {"op": "add_wire", **ends, "circuit": one(build.circuits)}
        case 10:
            return {"op": "write_recipe", "recipe": one(RECIPES)}
    return {"op": "unwire_load", "load": one(p.id for p in build.parts_of_kind("load"))}


class AnyEditsTest(TestCase):
    @settings(max_examples=40, deadline=None, derandomize=True)
    @given(st.data())
    def test_made_or_refused_and_undone(self, data: st.DataObject) -> None:
        build = roadster()
        for _ in range(STEPS):
            try:
                after = apply_operations(build, [an_edit(build, data)])
            except UnusableInput as problem:
                self.assertGreater(len(str(problem)), 20)
                continue
            changes = differences(build, after)
            self.assertEqual(write(apply_changes(after, inverse(changes))), write(build))
            build = after
        try:
            sizing = size_build(build)
        except UnusableInput as problem:
            self.assertIn(problem.code, ("relays-never-settle", "not-converged"))
            return
        feeds(sizing)
        circuit = next(reversed(build.circuits))
        self.assertIn("</svg>", as_svg(schematic(sizing.build, circuit), "Any"))
        truth_table(Network(sizing.build), tuple(build.loads_of(circuit))[:1])
        for solution in sizing.solutions:
            self.assertLess(solution.residual_a, 1e-6)

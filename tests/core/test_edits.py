"""The one door: operations apply whole or not at all, and every change can be taken back."""

import json
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.design.model import Build
from circuitry.document.reading import from_document, to_document, write
from circuitry.edits import apply_changes, apply_operations, differences, inverse
from circuitry.edits.operations import READER
from circuitry.errors import UnusableInput
from tests.core.cars import ROOT, roadster

LOADS = [part.id for part in roadster().parts_of_kind("load")]
WIRES = list(roadster().wires)


def resize(wire: str, size: str | None) -> dict:
    return {"op": "change", "collection": "wires", "id": wire, "fields": {"size": size}}


def rename(load: str, name: str) -> dict:
    return {"op": "change", "collection": "parts", "id": load, "fields": {"name": name}}


operations = st.lists(
    st.one_of(
        st.builds(resize, st.sampled_from(WIRES), st.sampled_from([None, "1 mm²", "16 AWG"])),
        st.builds(rename, st.sampled_from(LOADS), st.sampled_from(["A", "B b", "Ç"])),
    ),
    min_size=1,
    max_size=6,
)


def cells(part: str | None, **texts: str) -> dict:
    return {"op": "set_cells", "rows": [{"part": part, "cells": texts}]}


NEW_OPERATIONS = (
    cells("horn", rating="6 A", note="loud", state="keep"),
    cells("heater-blower", through="relay"),
    cells(None, name="Seat heater left"),
    {"op": "wire_load", "load": "turn-lamp-front-left"},
    {"op": "unwire_load", "load": "fuel-pump"},
    {"op": "remove_row", "part": "flasher-unit"},
    {"op": "set_run", "cells": {"from": "dash", "to": "tunnel", "length": "2 m"}},
    {"op": "set_run", "run": "luggage-to-tank", "cells": {"passes": "edge, wheel", "hole": "20"}},
    {"op": "pin_way", "wire": "w61", "through": ["panel-shelf-to-dash"]},
    {"op": "move_part", "part": "panel", "place": "dash"},
    {"op": "set_harness", "cells": {"name": "Horn", "size": "1", "length": "3"}},
    {
        "op": "add",
        "collection": "found_circuits",
        "value": {"id": "f", "name": "F", "stretches": [{"colour": "BN/YE"}]},
    },
    {"op": "add", "collection": "pin_pairs", "value": {"id": "p", "function": "Coil"}},
    {
        "op": "change",
        "collection": "build",
        "id": "build",
        "fields": {"body": {"style": "buggy", "doors": 0}, "harness_from": "dash"},
    },
)
removals = st.lists(st.sampled_from(LOADS), unique=True, min_size=1, max_size=5)


class ChangesTest(TestCase):
    def test_each_kind_of_operation_can_be_taken_back_and_done_again(self) -> None:
        for operation in NEW_OPERATIONS:
            self.there_and_back(roadster(), apply_operations(roadster(), [operation]))

    @settings(max_examples=20)
    @given(st.permutations(NEW_OPERATIONS), st.integers(1, len(NEW_OPERATIONS)))
    def test_many_of_them_in_any_order_too(self, rows: list[dict], count: int) -> None:
        try:
            after = apply_operations(roadster(), rows[:count])
        except UnusableInput as problem:
            self.assertEqual(problem.code, "no-free-way")  # a coil took the last, before a lamp
            return
        self.there_and_back(roadster(), after)
        self.assertEqual(from_document(json.loads(write(after))), after)

    def there_and_back(self, before: Build, after: Build) -> None:
        changes = differences(before, after)
        self.assertEqual(apply_changes(before, changes), after)
        back = apply_changes(after, inverse(changes))
        self.assertEqual(to_document(back), to_document(before))

    @settings(max_examples=40)
    @given(operations)
    def test_changes_can_be_taken_back_exactly(self, rows: list[dict]) -> None:
        self.there_and_back(roadster(), apply_operations(roadster(), rows))

    @settings(max_examples=30)
    @given(removals)
    def test_removed_loads_come_back_where_they_were(self, loads: list[str]) -> None:
        rows = [{"op": "remove_load", "load": load} for load in loads]
        self.there_and_back(roadster(), apply_operations(roadster(), rows))

    def test_the_build_itself_can_change(self) -> None:
        fields = {"name": "Marsh car", "policy": {"fuse_headroom": 0.8}}
        after = apply_operations(
            roadster(), [{"op": "change", "collection": "build", "id": "build", "fields": fields}]
        )
        self.assertEqual((after.name, after.policy.fuse_headroom), ("Marsh car", 0.8))
        self.assertEqual(after.policy.insulation, roadster().policy.insulation)
        self.there_and_back(roadster(), after)

    def test_nothing_changed_is_no_change(self) -> None:
        same = apply_operations(roadster(), [rename("horn", "Horn")])
        self.assertEqual(differences(roadster(), same), [])


class RefusalTest(TestCase):
    def refused(self, rows: object, code: str, words: str) -> None:
        before = to_document(roadster())
        with self.assertRaises(UnusableInput) as caught:
            apply_operations(roadster(), rows)
        self.assertEqual(caught.exception.code, code, str(caught.exception))
        self.assertIn(words, str(caught.exception))
        self.assertEqual(to_document(roadster()), before)

    def change(self, collection: str, identity: str, **fields: object) -> list[dict]:
        return [{"op": "change", "collection": collection, "id": identity, "fields": fields}]

    def test_operations_that_are_none(self) -> None:
        self.refused("add", "bad-field", "array")
        self.refused([], "bad-field", "operations: is empty: name at least one")
        self.refused([{"op": "explode"}], "bad-field", "explode")
        self.refused([{"op": "add_load", "name": "x"}], "bad-field", "catalogue")

    def test_a_field_that_an_operation_does_not_know(self) -> None:
        self.refused([{"op": "recolour", "colour": "red"}], "bad-field", "colour: is no field")
        row = {"part": "horn", "cells": {}, "cell": {}}
        self.refused([{"op": "set_cells", "rows": [row]}], "bad-field", "cell: is no field")

    def test_every_operation_is_in_the_table_of_the_format(self) -> None:
        text = (ROOT / "docs" / "formats" / "build.md").read_text(encoding="utf-8")
        schema = READER.json_schema()["items"]["discriminator"]["mapping"]
        self.assertEqual([op for op in schema if f"`{op}`" not in text], [])

    def test_one_bad_operation_refuses_all(self) -> None:
        self.refused(
            [rename("horn", "Hooter"), *self.change("wires", "w3", length_m=-1)], "bad-field", "-1"
        )

    def test_fields_and_things_that_are_not_there(self) -> None:
        self.refused(self.change("wires", "w999", size=None), "unknown-id", "w999")
        self.refused(self.change("wires", "w3", weight=1), "bad-field", "weight")
        self.refused(self.change("wires", "w3", id="w4"), "bad-operation", "id cannot")
        self.refused(self.change("build", "build", colour="red"), "bad-field", "colour")
        self.refused(self.change("build", "build", body_conducts=3), "bad-field", "true or false")
        self.refused([{"op": "remove", "collection": "parts", "id": "x"}], "unknown-id", "x")

    def test_the_build_is_not_added_or_removed(self) -> None:
        self.refused([{"op": "add", "collection": "build", "value": {}}], "bad-operation", "build")
        self.refused(
            [{"op": "remove", "collection": "build", "id": "build"}], "bad-operation", "itself"
        )

    def test_a_thing_with_an_id_that_is_taken(self) -> None:
        value = {"id": "horn", "kind": "stud", "name": "Stud", "place": "dash"}
        self.refused([{"op": "add", "collection": "parts", "value": value}], "two-ids", "horn")

    def test_a_part_that_wires_still_need(self) -> None:
        self.refused(
            [{"op": "remove", "collection": "parts", "id": "feed-stud"}],
            "missing-terminal",
            "feed-stud",
        )

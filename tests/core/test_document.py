"""The document of a build: exact both ways, and clear refusals."""

import json
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.document.reading import MAX_BYTES, from_document, read, to_document, write
from circuitry.errors import UnusableInput
from tests.core.cars import (
    ROADSTER_FILE,
    document,
    lamp_document,
    part,
    place,
    relay_parts,
    roadster,
    switch,
    wire,
)

names = st.text(st.characters(exclude_categories=("Cc", "Cs", "Z")), min_size=1, max_size=30)
lengths = st.floats(0, 100, allow_nan=False)


@st.composite
def places_and_runs(draw: st.DrawFn) -> dict:
    """A document whose places, runs and one wire hold arbitrary names and figures."""
    count = draw(st.integers(2, 6))
    places = [
        {
            **place(f"p{number}"),
            "name": draw(names),
            "ambient_c": draw(st.floats(-40, 150, allow_nan=False)),
            "wet": draw(st.booleans()),
        }
        for number in range(count)
    ]
    runs = [
        {
            "id": f"r{number}",
            "from_place": f"p{number}",
            "to_place": f"p{number + 1}",
            "length_m": draw(st.floats(0.01, 100)),
            "cover": draw(st.sampled_from(["none", "tape", "split tube"])),
            "passes": draw(st.sampled_from([[], ["edge"], ["edge", "bulkhead"]])),
        }
        for number in range(count - 1)
    ]
    lamp = part("lamp", "load", at=f"p{count - 1}", catalogue="Horn", name=draw(names))
    wires = [
        wire(1, "battery.+", "lamp.+", length_m=draw(st.none() | lengths)),
        wire(2, "lamp.-", "battery.-", extra_m=draw(lengths), size=None),
    ]
    row = document([lamp], wires, places=places, runs=runs, name=draw(names))
    row["parts"][0]["place"] = "p0"
    return row


class RoundTripTest(TestCase):
    def test_the_demo_car_comes_back_to_the_byte(self) -> None:
        text = ROADSTER_FILE.read_text(encoding="utf-8")
        self.assertEqual(write(read(text)), text)

    @settings(max_examples=60, deadline=None)
    @given(places_and_runs())
    def test_what_is_written_reads_back_as_the_same_build(self, row: dict) -> None:
        build = from_document(row)
        self.assertEqual(from_document(json.loads(json.dumps(to_document(build)))), build)


class RefusalTest(TestCase):
    """Each thing that is wrong is named, with the way out."""

    def refused(self, row: object, code: str, *words: str) -> None:
        with self.assertRaises(UnusableInput) as caught:
            from_document(row)
        self.assertEqual(caught.exception.code, code, str(caught.exception))
        for word in words:
            self.assertIn(word, str(caught.exception))

    def lamp(self, **fields: object) -> dict:
        return {**lamp_document(), **fields}

    def with_wire(self, **fields: object) -> dict:
        row = lamp_document()
        row["wires"][3] |= fields
        return row

    def with_part(self, index: int, **fields: object) -> dict:
        row = lamp_document()
        row["parts"][index] |= fields
        return row

    def test_another_version_or_format(self) -> None:
        for version in (4, 0, "2", True, 10**400):
            self.refused(self.lamp(version=version), "wrong-version", "reads versions 1 to 3")
        self.refused(self.lamp(format="drawing"), "wrong-format", "oilstone-build")
        self.refused([], "wrong-format")

    def test_fields_that_the_schema_does_not_know_or_that_are_out_of_range(self) -> None:
        self.refused(self.with_wire(length_m=-2), "bad-field", "W4", "length_m", "-2", "at least 0")
        self.refused(self.with_wire(length_m=1e9), "bad-field", "W4", "at most 100")
        self.refused(self.with_wire(weight=3), "bad-field", "weight")
        self.refused(self.with_part(3, name=""), "bad-field", "empty")
        self.refused(self.lamp(body_conducts="no"), "bad-field", "body_conducts", "boolean")

    def test_catalogue_rows_that_are_not_there(self) -> None:
        self.refused(self.with_part(3, catalogue="Searchlight"), "unknown-catalogue-row", "lamp")
        self.refused(self.with_part(1, catalogue="paper"), "unknown-catalogue-row", "fuse family")
        self.refused(self.with_part(1, figures={"rating_a": 11}), "unknown-fuse", "fuse", "10, 15")
        self.refused(self.with_wire(size="1.2 mm²"), "unknown-catalogue-row", "1.2 mm²", "1 mm²")
        self.refused(self.with_wire(insulation="paper"), "unknown-catalogue-row", "paper")
        self.refused(self.lamp(policy={"joint": "glue"}), "unknown-catalogue-row", "glue")

    def test_wires_that_end_nowhere(self) -> None:
        self.refused(self.with_wire(to_terminal="lamp.3"), "missing-terminal", "W4", "+, -")
        self.refused(self.with_wire(to_terminal="horn.+"), "missing-terminal", "W4", "“horn”")
        self.refused(self.with_wire(to_terminal="lamp.-"), "loop-wire", "W4")
        self.refused(self.with_wire(way=["tunnel"]), "unknown-run", "W4", "tunnel")

    def test_a_changeover_contact_on_a_four_pin_relay(self) -> None:
        row = document(relay_parts(), [wire(1, "battery.+", "relay.87a")])
        self.refused(row, "missing-terminal", "87a", "four pins", "five-pin")

    def test_two_of_what_must_be_one(self) -> None:
        self.refused(self.with_wire(label="W1"), "two-labels", "W1", "another label")
        self.refused(self.with_wire(id="w1"), "two-ids", "w1")
        battery = part("spare", "battery")
        self.refused(document([battery], []), "two-batteries", "2 batteries")
        self.refused(
            document(
                [
                    part(
                        "a",
                        "fuse",
                        catalogue="maxi blade",
                        fitted={"panel": "battery", "way": "F1"},
                    )
                ],
                [],
            ),
            "unknown-way",
            "F1",
        )

    def test_two_fuses_in_one_way(self) -> None:
        panel = part("panel", "panel", ways=[{"name": "F1", "bus": "main"}])
        fuses = [
            part(name, "fuse", catalogue="regular blade", fitted={"panel": "panel", "way": "F1"})
            for name in ("one", "two")
        ]
        self.refused(document([panel, *fuses], []), "two-fuses", "one", "two", "F1")

    def test_no_battery(self) -> None:
        self.refused(self.lamp(parts=[], wires=[]), "no-battery", "Add one part of kind battery")

    def test_switches_that_cannot_be(self) -> None:
        self.refused(self.with_part(2, contacts=None), "no-contacts", "light")
        twice = switch("light", ("on", []), ("on", []))
        self.refused(document([twice], []), "two-positions", "light")
        key = {**switch("key", ("off", []), ("run", [])), "kind": "key switch"}
        self.refused(document([key], []), "key-positions", "off, accessory, run, crank")

    def test_figures_that_the_part_does_not_have(self) -> None:
        self.refused(
            self.with_part(3, figures={"volume": 3}), "unknown-figure", "volume", "rated_w"
        )
        self.refused(self.with_part(3, figures={"rated_w": -5}), "bad-figure", "rated_w", "-5")
        self.refused(self.with_part(3, figures={"test_v": 0}), "bad-figure", "test_v")
        self.refused(self.with_part(0, figures={"state_of_charge": 3}), "bad-figure", "full")
        text = self.with_part(2, figures={"contact_rating_a": "ten"})
        self.refused(text, "bad-figure", "contact_rating_a", "ten")
        self.refused(self.with_part(1, figures={"rating_a": "10"}), "bad-figure", "rating_a")
        stud = document([part("stud", "stud", figures={"hole": 8})], [])
        self.refused(stud, "unknown-figure", "hole", "takes none")

    def test_things_that_point_nowhere(self) -> None:
        self.refused(self.with_part(3, place="roof"), "unknown-place", "roof")
        self.refused(self.with_part(3, circuit="none"), "unknown-circuit", "none")
        self.refused(self.with_part(3, kind="engine"), "unknown-kind", "engine")
        run = {"id": "r", "from_place": "bench", "to_place": "roof", "length_m": 1}
        self.refused(self.lamp(runs=[run]), "unknown-place", "roof")
        intent = {"key": "run", "switch": None, "through": "direct", "fuse": "gone"}
        circuit = {"id": "c", "name": "c", "group": "lighting", "criticality": "safety"}
        row = self.lamp(circuits=[{**circuit, "intent": intent}])
        self.refused(row, "unknown-fuse", "gone")

    def test_text_that_is_no_json(self) -> None:
        for text, word in (
            ("{\n 'a': 1}", "line 2"),
            ('{"x": NaN}', "NaN"),
            (b"\xff\xfe\xfa", "UTF-8"),
            ("[" * 100_000, "deeply"),
            ("x" * (MAX_BYTES + 1), "8.0 MB"),
        ):
            with self.subTest(word), self.assertRaisesRegex(UnusableInput, word):
                read(text)

    def test_nothing_is_changed_by_a_refusal(self) -> None:
        before = to_document(roadster())
        with self.assertRaises(UnusableInput):
            from_document({**before, "version": 4})
        self.assertEqual(to_document(roadster()), before)

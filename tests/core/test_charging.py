"""What is lost between the alternator at full output and the battery."""

from unittest import TestCase

from circuitry.design.model import Build
from circuitry.document.reading import from_document
from circuitry.edits import apply_operations
from circuitry.sizing import size_build
from circuitry.sizing.result import Sizing
from tests.core.cars import document, part, switch, wire


def charging_car(size: str | None, metres: float) -> Build:
    """An alternator of 65 A, 14.3 V, excited by its lamp, with a cable there and one back."""
    parts = [
        part("alternator", "alternator", figures={"rated_a": 65.0}),
        switch("key", ("off", []), ("run", [["in", "out"]])) | {"kind": "key switch"},
        part("lamp", "load", catalogue="Telltale 1.2 W"),
        part("charge-fuse", "fuse", catalogue="bolt-down M8", figures={"rating_a": 100.0}),
    ]
    cable = {"size": size, "length_m": metres}
    wires = [
        wire(1, "battery.+", "charge-fuse.in", size=size, length_m=0.2),
        wire(2, "charge-fuse.out", "alternator.B+", **cable),
        wire(3, "alternator.-", "battery.-", **cable),
        wire(4, "battery.+", "key.in", size="1 mm²"),
        wire(5, "key.out", "lamp.+", size="1 mm²"),
        wire(6, "lamp.-", "alternator.D+", size="1 mm²"),
    ]
    row = document(parts, wires)
    key = next(p for p in row["parts"] if p["id"] == "key")
    names = ("off", "accessory", "run", "crank")
    live = {"run", "crank"}
    key["contacts"]["positions"] = [
        {"name": name, "joins": [["in", "out"]] if name in live else []} for name in names
    ]
    return from_document(row)


def losing(sizing: Sizing) -> list[str]:
    return [row.code for row in sizing.findings if row.code == "charging-loses"]


class ChargingTest(TestCase):
    def test_loss_is_that_of_the_cables_by_hand(self) -> None:
        """65 A through 6.2 m of 16 mm² (1.16 mΩ/m at 20 °C, a tenth more when warm), four rings
        and a fuse of 0.5 mΩ: 0.47 V of copper, and a little more."""
        row = size_build(charging_car("16 mm²", 3.0)).charging["alternator"]
        copper_v = 65 * 6.2 * 1.16e-3
        self.assertAlmostEqual(row.amps, 65.0, delta=0.5)
        self.assertGreater(row.drop_v, copper_v)
        self.assertLess(row.drop_v, 1.35 * copper_v)
        self.assertEqual(set(row.wires), {"w1", "w2", "w3"})

    def test_what_leads_to_the_charge_fuse_is_no_thinner_than_what_leaves_it(self) -> None:
        for metres in (1.0, 3.0, 6.0):
            sizing = size_build(charging_car(None, metres))
            before, behind = (sizing.wires[wire].size for wire in ("w1", "w2"))
            self.assertEqual(before, behind, metres)

    def test_a_thin_cable_is_told_and_mended_and_a_thick_one_is_not(self) -> None:
        build = charging_car("16 mm²", 3.0)
        (row,) = (row for row in size_build(build).findings if row.code == "charging-loses")
        self.assertTrue(row.mends)
        for mend in row.mends:
            mended = size_build(apply_operations(build, list(mend.operations)))
            self.assertEqual(losing(mended), [], mend.label)
        self.assertEqual(losing(size_build(charging_car("50 mm²", 1.0))), [])

    def test_a_cable_that_is_chosen_loses_no_more_than_it_may(self) -> None:
        sizing = size_build(charging_car(None, 2.5))
        row = sizing.charging["alternator"]
        self.assertLessEqual(row.drop_v, row.limit_v + 0.005)

    def test_the_limit_is_the_builders_where_they_say_so(self) -> None:
        fields = {"policy": {"drop_limits_v": {"charging": 1.0}}}
        edit = {"op": "change", "collection": "build", "id": "build", "fields": fields}
        build = apply_operations(charging_car("16 mm²", 3.0), [edit])
        self.assertEqual(losing(size_build(build)), [])

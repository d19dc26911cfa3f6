"""Cars of random kinds, drafted and sized, read as an old hand reads a ledger: by rules of thumb
that no formula of ours knows."""

import random
from collections import Counter
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import ENGINE_PLACES, STYLES
from circuitry.sizing import size_build
from circuitry.sizing.result import Sizing
from circuitry.stock.drafting import PANELS, SCHOOLS, Wants, draft
from circuitry.stock.proposal import Draft
from circuitry.stock.start import BATTERY_PLACES, OPTIONS, SHELLS, KindOfCar, start
from tests.fuzz import FUZZ, SEED

CARS = 5
SMALL_A = 3.0
"""Side, tail, turn, stop, reversing and fog lamps and telltales draw less."""
SMALL_LEG_MM2 = 1.5
NEVER_IN_A_DRAFT = ("wire-does-not-fit", "switch-overloaded", "relay-overloaded", "pin-overloaded")


def kind_of_car(draw: random.Random) -> KindOfCar:
    road_lamps = draw.random() < 0.8
    return KindOfCar(
        "Drawn",
        draw.choice(STYLES),
        draw.choice(SHELLS),
        engine=draw.choice(ENGINE_PLACES),
        battery=draw.choice(BATTERY_PLACES),
        road_lamps=road_lamps,
        options=tuple(
            option
            for option in OPTIONS
            if draw.random() < 0.5 and (road_lamps or option != "tow socket")
        ),
    )


def wants(draw: random.Random) -> Wants:
    return Wants(
        fuses=draw.choice(("one fuse", "one for each side")),
        headlamp_relays=draw.random() < 0.5,
        school=draw.choice(SCHOOLS),
        panels=draw.choice(PANELS),
        keypad=draw.random() < 0.3,
        returns=draw.choice(("through the body", "by wire")),
    )


class OldHandTest(TestCase):
    def test_nothing_in_a_drafted_car_makes_an_old_hand_laugh(self) -> None:
        draw = random.Random(SEED)
        for number in range(CARS * FUZZ):
            car, asked = kind_of_car(draw), wants(draw)
            drafted = draft(start(car), asked)
            with self.subTest(number=number, car=car, asked=asked):
                self.assert_drafted(drafted)
                self.assert_sized(size_build(drafted.build))

    def assert_drafted(self, drafted: Draft) -> None:
        self.assertEqual([step.problem for step in drafted.steps if step.problem], [])
        panels = drafted.build.parts_of_kind("panel")
        names = Counter(way.name for panel in panels for way in panel.ways)
        self.assertEqual([name for name, count in names.items() if count > 1], [])
        filled = {fuse.fitted.panel for fuse in drafted.build.parts_of_kind("fuse") if fuse.fitted}
        self.assertEqual({panel.id for panel in panels} - filled, set())
        wired = drafted.build.wired_parts()
        left = [part for part in drafted.build.parts_of_kind("load", "switch") if not part.housed]
        self.assertEqual([part.name for part in left if part.id not in wired], [])

    def assert_sized(self, sizing: Sizing) -> None:
        build, areas = sizing.build, catalogue().conductor
        found = [row.title for row in sizing.findings if row.code in NEVER_IN_A_DRAFT]
        found += [row.title for row in sizing.findings if row.severity == "stop"]
        self.assertEqual(found, [])
        legs: dict[tuple[str, str], set[str]] = {}
        for load, row in sizing.loads.items():
            part = build.parts[load]
            if row.wire is None or part.circuit is None:
                continue
            size = sizing.wires[row.wire].size
            lamp = catalogue().loads[part.catalogue or ""].group == "lighting"
            if lamp and row.amps < SMALL_A:
                self.assertLessEqual(areas[size].copper_area_mm2, SMALL_LEG_MM2 * 1.05, part.name)
            written = build.circuits[part.circuit].written
            if part.catalogue == "Window motor" and written:
                legs.setdefault((written.recipe, part.catalogue), set()).add(size)
        self.assertEqual([sizes for sizes in legs.values() if len(sizes) > 1], [])
        for bar in build.parts_of_kind("bus bar"):
            if "strip" in bar.name:
                joined = [
                    sizing.wires[wire.id].current_a
                    for wire in build.wires.values()
                    if bar.id in (wire.from_terminal.part, wire.to_terminal.part)
                ]
                self.assertGreater(len(joined), 1, bar.name)
                self.assertGreater(max(joined), 0.05, bar.name)

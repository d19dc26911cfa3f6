"""What modules hear over a data bus, and what is dead without it: on a small car made for it."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from circuitry.design.model import Build, ContactTable, Position
from circuitry.design.state import State
from circuitry.devices.hearing import buses_of, heard_by
from circuitry.devices.module import module_fields
from circuitry.document.reading import from_document
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.reach.losses import losses
from circuitry.reach.paths import paths_of
from circuitry.reach.truth import truth_table
from circuitry.sizing import size_build
from tests.core.cars import document, part, wire

SMALL = "Module small, 8 channels"
BUS = (("bus-high", "a"), ("bus-low", "b"))


def car(front: str, rear: str, *leave_out: str, **fields: Any) -> Build:
    """A front and a rear module, a lamp on each, a keypad with one button, and one bus of three.

    ``front`` and ``rear`` are the conditions of the two lamps. A brake pedal grounds an input of
    the rear module. ``leave_out`` are wires by number.
    """

    def module(name: str, condition: str, *inputs: str) -> dict[str, Any]:
        ways = [{"name": "C1", "bus": "feed", "when": condition, "limit_a": 5.0}]
        pins = [{"name": pin, "function": "bus"} for pin, _ in BUS]
        pins += [{"name": pin, "function": "input to ground"} for pin in inputs]
        return part(name, "module", catalogue=SMALL, ways=ways, pins=pins)

    def button(name: str, *positions: str) -> dict[str, Any]:
        contacts = {"common": "-", "positions": [{"name": at} for at in positions]}
        return part(name, "button", contacts=contacts, housed={"unit": "keypad", "pins": {}})

    keypad_pins = (("1", "supply"), ("2", "ground"), ("3", "bus"), ("4", "bus"))
    parts = [
        module("front", front),
        module("rear", rear, "brake"),
        part("keypad", "box", pins=[{"name": n, "function": f} for n, f in keypad_pins]),
        button("work", "off", "on"),
        button("wiper-button", "off", "slow", "fast"),
        part("front-lamp", "load", catalogue="Stop lamp 21 W"),
        part("rear-lamp", "load", catalogue="Stop lamp 21 W"),
        part(
            "pedal",
            "switch",
            contacts={
                "common": "in",
                "positions": [{"name": "up"}, {"name": "down", "joins": [["in", "out"]]}],
            },
        ),
        *(
            part(f"end-{number}", "resistor", figures={"resistance_ohm": 120.0})
            for number in (1, 2)
        ),
    ]
    ends = [
        ("battery.+", "front.feed"),
        ("battery.+", "rear.feed"),
        ("battery.+", "keypad.1"),
        *((f"{name}.ground", "battery.-") for name in ("front", "rear")),
        ("keypad.2", "battery.-"),
        ("front.C1", "front-lamp.+"),
        ("front-lamp.-", "battery.-"),
        ("rear.C1", "rear-lamp.+"),
        ("rear-lamp.-", "battery.-"),
        ("pedal.in", "battery.-"),
        ("rear.brake", "pedal.out"),
        ("front.bus-high", "rear.bus-high"),
        ("front.bus-low", "rear.bus-low"),
        ("rear.bus-high", "keypad.3"),
        ("rear.bus-low", "keypad.4"),
        ("end-1.1", "front.bus-high"),
        ("end-1.2", "front.bus-low"),
        ("end-2.1", "keypad.3"),
        ("end-2.2", "keypad.4"),
    ]
    wires = [
        wire(number, *pair) for number, pair in enumerate(ends, 1) if str(number) not in leave_out
    ]
    return from_document(document(parts, wires, **fields))


class BusTest(TestCase):
    def test_one_bus_of_three_with_both_its_ends(self) -> None:
        (bus,) = buses_of(car("work", "work"))
        self.assertEqual(bus.members, ("front", "rear", "keypad"))
        self.assertEqual(bus.terminators, ("end-1", "end-2"))
        self.assertEqual(len(bus.wires), 8)

    def test_without_one_of_its_two_wires_a_member_is_not_on_it(self) -> None:
        (bus,) = buses_of(car("work", "work", "16"))
        self.assertEqual(bus.members, ("front", "rear"))

    def test_a_module_hears_its_own_inputs_and_those_of_others_on_its_bus(self) -> None:
        build = car("work", "brake")
        self.assertEqual(heard_by(build, build.parts["rear"])["brake"].via, "")
        told = heard_by(build, build.parts["front"])
        self.assertEqual(told["brake"].via, buses_of(build)[0].id)
        self.assertEqual(told["rear_brake"], told["brake"])
        self.assertTrue(told["work"].told)

    def test_off_the_bus_nobody_tells_it(self) -> None:
        build = car("work", "brake", "15", "16")
        self.assertFalse(heard_by(build, build.parts["front"])["work"].told)
        lit = Network(build).solve(State(switches={"work": "on"}))
        self.assertFalse(lit.loads["front-lamp"].is_on)

    def test_a_name_that_nothing_has_is_refused(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "“ghost” is no input, no button"):
            car("ghost", "brake")
        with self.assertRaisesRegex(UnusableInput, "is never “high”. It has off, slow, fast"):
            car("wiper_button is high", "brake")


class HeardTest(TestCase):
    """What is lit, against what the conditions say, in every position."""

    def lit(self, build: Build, *lost: str, **moved: str) -> set[str]:
        switches = {name.replace("_", "-"): at for name, at in moved.items()}
        state = State(switches=switches, lost=frozenset(lost))
        solution = Network(build).solve(state)
        return {load for load, row in solution.loads.items() if row.is_on}

    def test_a_button_lights_both_over_the_bus_and_a_pedal_too(self) -> None:
        build = car("work or brake", "work and not brake")
        self.assertEqual(self.lit(build), set())
        self.assertEqual(self.lit(build, work="on"), {"front-lamp", "rear-lamp"})
        self.assertEqual(self.lit(build, pedal="down"), {"front-lamp"})
        self.assertEqual(self.lit(build, work="on", pedal="down"), {"front-lamp"})

    def test_what_must_not_be_asked_for_is_let_go(self) -> None:
        """A contact that is closed at rest has to be opened for a lamp that asks it not to be."""
        build = car("work", "not brake")
        pedal = build.parts["pedal"]
        closed = ContactTable("in", (Position("up", (("in", "out"),)), Position("down")))
        parts = {**build.parts, "pedal": replace(pedal, contacts=closed)}
        build = replace(build, parts=parts)
        way = paths_of(build).to_load(build.parts["rear-lamp"])
        self.assertEqual(way.positions["pedal"], "down")
        self.assertEqual(self.lit(build), set())
        self.assertEqual(self.lit(build, pedal="down"), {"rear-lamp"})
        codes = {row.code for row in size_build(build).findings}
        self.assertNotIn("load-not-energised", codes)

    def test_a_button_that_steps_on_is_heard_by_its_position(self) -> None:
        build = car("wiper_button is fast", "wiper_button")
        self.assertEqual(self.lit(build, wiper_button="slow"), {"rear-lamp"})
        self.assertEqual(self.lit(build, wiper_button="fast"), {"front-lamp", "rear-lamp"})

    def test_what_is_lost_is_heard_no_more(self) -> None:
        build = car("work or brake", "work or brake")
        bus = buses_of(build)[0].id
        moved = {"work": "on", "pedal": "up"}
        self.assertEqual(self.lit(build, "keypad", **moved), set())
        self.assertEqual(self.lit(build, bus, **moved), set())
        self.assertEqual(self.lit(build, "rear", **moved), {"front-lamp"})
        self.assertEqual(self.lit(build, bus, pedal="down"), {"rear-lamp"})
        self.assertEqual(self.lit(build, "rear", pedal="down"), set())

    def test_an_unfed_keypad_tells_nothing(self) -> None:
        self.assertEqual(self.lit(car("work", "work", "3"), work="on"), set())

    def test_who_should_hear_a_bus_and_does_not_can_light_its_lamp(self) -> None:
        build = car("work or bus_lost", "work")
        bus = buses_of(build)[0].id
        self.assertEqual(self.lit(build), set())
        self.assertEqual(self.lit(build, bus), {"front-lamp"})
        self.assertEqual(self.lit(build, "keypad"), set())

    def test_the_table_of_losses_says_the_same(self) -> None:
        build = car("work or bus_lost", "work or brake")
        rows = {row.id: row for row in losses(Network(build), build.parts_of_kind("load"))}
        bus = buses_of(build)[0].id
        self.assertEqual({rows[name].kind for name in (bus, "keypad")}, {"bus", "keypad"})
        self.assertEqual(rows[bus].dead, ("rear-lamp",))
        self.assertEqual(rows["keypad"].dead, ("front-lamp", "rear-lamp"))
        self.assertEqual(rows["rear"].dead, ("rear-lamp",))
        self.assertEqual(rows["rear"].left, ("front-lamp",))

    def test_buttons_are_levers_of_a_truth_table_which_tells_what_flashes(self) -> None:
        build = car("flash(wiper_button is slow) or wiper_button is fast", "brake")
        table = truth_table(Network(build), (build.parts["front-lamp"],))
        self.assertEqual([row.part for row in table.levers], ["wiper-button"])
        words = {row.positions[0][0]: row.outcomes[0].word for row in table.rows}
        self.assertEqual(words, {"off": "off", "slow": "flashing", "fast": "on"})


class HalfBridgeTest(TestCase):
    def test_a_half_bridge_that_is_not_on_lies_at_ground(self) -> None:
        row = "Module large, 24 channels and 6 half-bridges"
        ways = [
            {"name": way.name, "bus": "feed", "when": {"H1": "up", "H2": "down"}.get(way.name, "")}
            for way in module_fields(row)["ways"]
        ]
        parts = [
            part("m", "module", catalogue=row, ways=ways),
            part("motor", "load", catalogue="Window motor"),
            *(
                part(
                    name,
                    "switch",
                    contacts={
                        "common": "in",
                        "positions": [{"name": "off"}, {"name": "on", "joins": [["in", "out"]]}],
                    },
                )
                for name in ("up", "down")
            ),
        ]
        wires = [
            wire(1, "battery.+", "m.feed"),
            wire(2, "m.ground", "battery.-"),
            wire(3, "m.H1", "motor.+"),
            wire(4, "m.H2", "motor.-"),
        ]
        network = Network(from_document(document(parts, wires)))
        for up, down, turns in (("on", "off", 1), ("off", "on", -1), ("off", "off", 0)):
            volts = network.solve(State(switches={"up": up, "down": down})).loads["motor"].volts
            self.assertEqual(round(volts / 12), turns, (up, down, volts))
        both = network.solve(State(switches={"up": "on", "down": "on"})).loads["motor"].volts
        self.assertAlmostEqual(both, 0.0, places=3)

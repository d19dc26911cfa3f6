"""Functions on modules: a whole car drafted so, and one function moved there and back."""

from collections.abc import Iterator
from contextlib import contextmanager
from itertools import product
from typing import Any
from unittest import TestCase

from circuitry.design.model import Build
from circuitry.devices.hearing import buses_of
from circuitry.devices.module import channel_bears_a
from circuitry.document.checks import check
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.reach.losses import losses
from circuitry.reach.truth import truth_table
from circuitry.sizing import size_build
from circuitry.stock.drafting import School, Wants, draft
from circuitry.stock.proposal import Draft
from circuitry.stock.start import OPTIONS, KindOfCar, start


class ModulesTest(TestCase):
    """The same list on modules: what is on channels, what stays on fuses, what a keypad takes."""

    def drafted(self, school: School, **wants: Any) -> Draft:
        car = start(
            KindOfCar(
                "Car",
                "coupé",
                shell="steel",
                options=("heater", "wipers", "worklights", "electric fan", "injection"),
            )
        )
        found = draft(car, Wants(school=school, **wants))
        check(found.build)
        return found

    def switched_by(self, found: Draft) -> dict[str, set[str]]:
        """The kinds of what guards the loads of each function last: fuse or module."""
        parts = {part.name: part.kind for part in found.build.parts.values()}
        return {
            step.title: {parts[row.fuse.split(",")[0]] for row in step.branches if row.fuse}
            for step in found.steps
        }

    def test_lamps_are_on_channels_and_what_is_heavy_stays_on_a_fuse(self) -> None:
        kinds = self.switched_by(self.drafted("modules"))
        for title in ("Headlamps", "Stop lamps", "Turn and hazard lamps", "Wipers and washer"):
            self.assertEqual(kinds[title], {"module"}, title)
        self.assertEqual(kinds["Fuel pump"], {"module"})
        for title in ("Heater blower", "Radiator fan", "Interior lamps"):
            self.assertEqual(kinds[title], {"fuse"}, title)

    def test_both_leaves_the_engine_on_fuses(self) -> None:
        kinds = self.switched_by(self.drafted("both"))
        self.assertEqual((kinds["Fuel pump"], kinds["Headlamps"]), ({"fuse"}, {"module"}))

    def test_rear_lamps_are_fed_by_the_rear_module_which_grows(self) -> None:
        found = self.drafted("modules")
        (stop,) = (step for step in found.steps if step.title == "Stop lamps")
        self.assertEqual({row.fuse.split(",")[0] for row in stop.branches}, {"Rear module"})
        rear = next(part for part in found.build.parts_of_kind("module") if "Rear" in part.name)
        self.assertEqual(rear.catalogue, "Module medium, 16 channels")
        self.assertTrue(any(not way.when for way in rear.ways))
        self.assertEqual(
            len(self.drafted("modules", modules="one").build.parts_of_kind("module")), 1
        )

    def test_it_is_told_why_each_load_sits_where_it_does(self) -> None:
        branches = {
            row.load: row for step in self.drafted("modules").steps for row in step.branches
        }
        tail = branches["Tail lamp left"]
        self.assertIn("Rear module is the module beside it", tail.why)
        self.assertIn("shares it with Number-plate lamp", tail.why)
        self.assertIn("was free and is live with the key off", branches["Interior lamp"].why)
        self.assertIn("no fuse bears", branches["Starter motor"].why)
        self.assertEqual([row.load for row in branches.values() if not row.why], [])

    def test_what_takes_little_leaves_the_strong_channels_free(self) -> None:
        build = size_build(self.drafted("modules").build).build
        for module in build.parts_of_kind("module"):
            bears = [channel_bears_a(module, way.name) for way in module.ways]
            free = [a for way, a in zip(module.ways, bears, strict=True) if not way.when]
            taken = [
                (a, way.limit_a or 0.0)
                for way, a in zip(module.ways, bears, strict=True)
                if way.when
            ]
            lazy = [a for a, limit_a in taken if any(limit_a <= other < a for other in free)]
            self.assertEqual(lazy, [], module.name)
            fed = {wire.from_terminal.name for wire in build.wires.values()}
            self.assertLessEqual({way.name for way in module.ways if way.when}, fed)

    def test_a_keypad_takes_what_is_comfort_and_nothing_that_keeps_the_car_safe(self) -> None:
        build = self.drafted("modules", keypad=True).build
        self.assertEqual([row.name for row in build.parts_of_kind("button")], ["Worklight switch"])
        keypad = next(row for row in build.parts_of_kind("box") if row.catalogue == "Keypad")
        bus = buses_of(build)[0]
        self.assertIn(keypad.id, bus.members)
        self.assertEqual(len(bus.terminators), 2)

    def test_nothing_of_safety_dies_with_the_bus_or_the_keypad(self) -> None:
        build = size_build(self.drafted("modules", keypad=True).build).build
        loads = build.parts_of_kind("load")
        rows = {row.kind: row for row in losses(Network(build), loads)}
        safe = [
            load.id
            for load in loads
            if load.circuit and build.circuits[load.circuit].criticality == "safety"
        ]
        for kind in ("bus", "keypad"):
            self.assertEqual(set(safe) & set(rows[kind].dead), set())
            self.assertLess(len(safe) - 3, len(set(safe) & set(rows[kind].left)))
            self.assertIn("worklight-left", rows[kind].dead)

    def test_a_second_draft_changes_nothing(self) -> None:
        build = self.drafted("modules", keypad=True).build
        self.assertEqual(draft(build, Wants(school="modules")).steps, ())

    def test_every_kind_of_car_has_no_stop_and_little_to_look_at(self) -> None:
        for style, engine, school in (
            ("open two-seater", "front", "modules"),
            ("van", "front", "both"),
            ("buggy", "rear", "modules"),
        ):
            options = ("wipers", "injection") if style == "buggy" else OPTIONS[:-2]
            car = start(KindOfCar("Car", style, engine=engine, options=tuple(options)))
            found = draft(car, Wants(school=school, keypad=True))
            self.assertEqual([row.problem for row in found.steps if row.problem], [])
            rows = size_build(found.build).findings
            self.assertEqual([row.title for row in rows if row.severity == "stop"], [])
            self.assertLessEqual(sum(row.severity == "look" for row in rows), 2, style)


class FedOtherwiseTest(TestCase):
    """A function is moved whole to a module and back, and leaves no trace."""

    def setUp(self) -> None:
        car = start(KindOfCar("Car", "coupé", shell="steel", options=("wipers", "worklights")))
        self.fuses = draft(car).build
        recipe = {"op": "write_recipe", "recipe": "power-module", "answers": {"place": "luggage"}}
        self.car = apply_operations(self.fuses, [recipe])

    def moved(self, build: Build, circuit: str, by: str, module: str | None = None) -> Build:
        asked = {"op": "feed_by", "circuit": circuit, "by": by, "module": module}
        return apply_operations(build, [asked])

    def test_there_and_back_is_as_before(self) -> None:
        for circuit in ("headlamps", "stop-lamps", "wipers-and-washer", "turn-and-hazard-lamps"):
            there = self.moved(self.car, circuit, "module channels")
            guards = {way.when for part in there.parts_of_kind("module") for way in part.ways}
            self.assertGreater(len(guards), 1, circuit)
            back = self.moved(there, circuit, "fuses and relays")
            module = next(iter(back.parts_of_kind("module")))
            self.assertEqual(module, next(iter(self.car.parts_of_kind("module"))), circuit)
            self.assertEqual(self.table(there, circuit), self.table(back, circuit), circuit)
            self.assertEqual(self.counted(back), self.counted(self.car), circuit)

    def table(self, build: Build, circuit: str) -> set[object]:
        """What every load does in every position, whatever the positions are called by."""
        sized = size_build(build).build
        table = truth_table(Network(sized), tuple(sized.loads_of(circuit)))
        names = [lever.part for lever in table.levers]
        return {
            (frozenset(zip(names, at, strict=True)), tuple(row.word for row in row.outcomes))
            for row in table.rows
            for at in product(*row.positions)
        }

    def counted(self, build: Build) -> dict[str, int]:
        kinds = ("fuse", "relay", "flasher", "splice", "switch")
        found = {kind: len(build.parts_of_kind(kind)) for kind in kinds}
        return {**found, "wire": len(build.wires)}

    def test_a_plain_load_moves_by_its_switch(self) -> None:
        circuit = self.car.parts["worklight-left"].circuit or ""
        build = self.moved(self.car, circuit, "module channels")
        whens = [way.when for part in build.parts_of_kind("module") for way in part.ways]
        self.assertEqual(whens.count("accessory and worklight"), 2)

    def test_what_no_channel_can_do_is_refused_by_name(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "cannot be written on channels"):
            self.moved(self.car, "starter", "module channels")
        with self.assertRaisesRegex(UnusableInput, "no module"):
            self.moved(self.fuses, "headlamps", "module channels")

    def test_a_full_module_offers_a_larger_one_which_keeps_what_it_does(self) -> None:
        build = self.car
        with self.assertRaises(UnusableInput) as caught:
            for circuit in list(build.circuits):
                with suppress_other_refusals("no-free-channel"):
                    build = self.moved(build, circuit, "module channels")
        (mend,) = caught.exception.mends
        self.assertIn("medium, 16 channels", mend.label)
        before = next(iter(build.parts_of_kind("module")))
        grown = next(iter(apply_operations(build, list(mend.operations)).parts_of_kind("module")))
        self.assertEqual(grown.ways[: len(before.ways)], before.ways)


@contextmanager
def suppress_other_refusals(code: str) -> Iterator[None]:
    try:
        yield
    except UnusableInput as problem:
        if problem.code == code:
            raise

"""Recipes write circuits that work, and take them out without harm to others."""

from dataclasses import replace
from unittest import TestCase

from circuitry.design.model import Build, Terminal
from circuitry.document.reading import to_document
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network, State
from circuitry.reach.paths import Paths
from circuitry.recipes.book import RECIPES
from circuitry.recipes.choices import choices
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build
from tests.core.cars import roadster


def add(build: Build, name: str, catalogue: str, **fields: object) -> Build:
    beside = fields.pop("beside", None)
    operation = {
        "op": "add_load",
        "name": name,
        "catalogue": catalogue,
        "place": fields.pop("place", "rear"),
        "wiring": fields,
        "beside": beside,
    }
    return apply_operations(build, [operation])


def rewire(build: Build, circuit: str, **wiring: object) -> Build:
    operation = {"op": "rewire_circuit", "circuit": circuit, "wiring": wiring}
    return apply_operations(build, [operation])


def remove(build: Build, *loads: str) -> Build:
    return apply_operations(build, [{"op": "remove_load", "load": load} for load in loads])


class AddTest(TestCase):
    def test_direct_with_a_new_switch_in_the_first_free_way_of_its_key(self) -> None:
        new = {"name": "Fog switch", "place": "dash"}
        build = add(roadster(), "Rear fog", "Rear fog lamp 21 W", key="run", new_switch=new)
        fuse = next(p for p in build.parts_of_kind("fuse") if p.name == "F8 Rear fog")
        self.assertEqual(fuse.fitted and fuse.fitted.way, "F8")
        path = Paths(build).to_load(build.parts["rear-fog"])
        assert path is not None
        self.assertEqual(dict(path.positions), {"key": "run", "fog-switch": "on"})
        self.assertEqual([step.owner for step in path.feed if step.kind == "fuse"][-1], fuse.id)

    def test_through_a_relay_the_switch_carries_only_the_coil(self) -> None:
        new = {"name": "Screen switch", "place": "dash"}
        build = add(
            roadster(), "Screen", "Heated screen", key="run", new_switch=new, through="relay"
        )
        sized = size_build(build).build
        solution = Network(sized).solve(State("run", {"screen-switch": "on"}))
        self.assertGreater(solution.loads["screen"].amps, 20)
        self.assertLess(solution.contact_a["screen-switch"], 0.3)
        self.assertTrue(solution.relays["screen-relay"].pulled_in)

    def test_beside_joins_a_circuit(self) -> None:
        build = add(roadster(), "High stop lamp", "High stop lamp LED", beside="stop-lamp-left")
        self.assertEqual(len(build.loads_of("stop-lamp-left")), 3)
        path = Paths(build).to_load(build.parts["high-stop-lamp"])
        assert path is not None
        self.assertEqual(dict(path.positions), {"brake-switch": "pressed"})

    def test_loads_return_to_the_nearest_ground(self) -> None:
        build = add(roadster(), "Boot lamp", "Courtesy lamp 5 W", place="tank")
        ends = [
            w.to_terminal for w in build.wires.values() if str(w.from_terminal) == "boot-lamp.-"
        ]
        self.assertEqual(ends, [Terminal("ground-rear", "stud")])

    def test_names_of_any_script_give_fresh_ids_and_labels(self) -> None:
        build = add(roadster(), "Żarówka", "Courtesy lamp 5 W")
        build = add(build, "灯", "Courtesy lamp 5 W", fuse=build.circuits["zarowka"].intent.fuse)
        build = add(build, "灯", "Courtesy lamp 5 W", fuse=build.circuits["zarowka"].intent.fuse)
        self.assertTrue({"zarowka", "thing", "thing-2"} <= set(build.parts))
        labels = [wire.label for wire in build.wires.values()]
        self.assertEqual(len(labels), len(set(labels)))

    def test_choices_know_what_is_live_when(self) -> None:
        rows = choices(roadster())
        keys = {row.way: row.key for row in rows.ways}
        self.assertEqual([keys["F1"], keys["F5"], keys["F8"]], ["always", "accessory", "run"])
        self.assertEqual([row.way for row in rows.ways if row.fuse is None], ["F4", "F8"])
        names = {row.name: row.key for row in rows.switches}
        self.assertEqual(names["Light switch, side"], "always")
        self.assertEqual(names["Radiator thermostat"], "run")
        headlamps = next(row for row in rows.fuses if row.name == "F3 headlamps")
        self.assertEqual(headlamps.circuits, ("Dipped beam", "Main beam"))


class RefusalTest(TestCase):
    def refused(self, code: str, words: str, **fields: object) -> None:
        with self.assertRaises(UnusableInput) as caught:
            add(roadster(), "Rear fog", "Rear fog lamp 21 W", **fields)
        self.assertEqual(caught.exception.code, code, str(caught.exception))
        self.assertIn(words, str(caught.exception))

    def test_a_function_live_in_the_wrong_key_position(self) -> None:
        self.refused("wrong-key", "with the key off", key="run", switch="light-switch.side")
        self.refused("wrong-key", "“F6 fuel pump” is live from run", fuse="f6-fuel-pump")
        self.refused(
            "wrong-key", "live from run", key="always", switch="thermostat.out", through="relay"
        )

    def test_a_switch_that_sits_behind_another_fuse(self) -> None:
        self.refused("switch-has-fuse", "F2", switch="light-switch.side", fuse="f1-horn")

    def test_no_free_way(self) -> None:
        self.refused("no-free-way", "Share one of F5 power socket", key="accessory")

    def test_what_is_not_there(self) -> None:
        self.refused("unknown-place", "roof", place="roof")
        self.refused("unknown-circuit", "none", beside="none")
        self.refused("unknown-fuse", "none", fuse="none")
        self.refused("bad-switch", "none", switch="none.out")
        self.refused("bad-switch", "horn.+", switch="horn.+")
        self.refused("bad-switch", "the feed of its switch", switch="light-switch.in")
        with self.assertRaisesRegex(UnusableInput, "Searchlight"):
            add(roadster(), "Light", "Searchlight")

    def test_a_car_without_a_ground_point(self) -> None:
        document = to_document(roadster())
        self.assertIn("ground-front", {row["id"] for row in document["parts"]})
        operations = [
            {"op": "remove", "collection": "wires", "id": wire.id}
            for wire in roadster().wires.values()
            if "ground-" in str(wire.from_terminal) + str(wire.to_terminal)
        ] + [
            {"op": "remove", "collection": "parts", "id": part.id}
            for part in roadster().parts_of_kind("ground point")
        ]
        bare = apply_operations(roadster(), operations)
        with self.assertRaisesRegex(UnusableInput, "Add a ground point"):
            add(bare, "Fog", "Rear fog lamp 21 W")


class TakeOutTest(TestCase):
    def test_the_last_load_takes_its_circuit_relay_and_fuse_along(self) -> None:
        build = remove(roadster(), "fuel-pump")
        gone = set(roadster().parts) - set(build.parts)
        self.assertEqual(gone, {"fuel-pump", "fuel-pump-relay", "f6-fuel-pump"})
        self.assertNotIn("fuel-pump", build.circuits)
        self.assertFalse([w for w in build.wires.values() if w.circuit == "fuel-pump"])

    def test_one_of_several_loads_leaves_the_others_working(self) -> None:
        build = remove(roadster(), "stop-lamp-left")
        self.assertIsNotNone(Paths(build).to_load(build.parts["stop-lamp-right"]))
        self.assertIn("stop-lamp-left", build.circuits)

    def test_a_shared_fuse_and_a_shared_switch_feed_stay(self) -> None:
        build = remove(roadster(), "horn")
        self.assertIsNotNone(Paths(build).to_load(build.parts["stop-lamp-left"]))
        side = ("side-lamp-left", "side-lamp-right", "tail-lamp-left", "tail-lamp-right")
        build = remove(roadster(), *side, "number-plate-lamp")
        self.assertIsNotNone(Paths(build).to_load(build.parts["main-beam-left"]))

    def test_a_switch_made_with_a_load_goes_with_it_unless_another_uses_it(self) -> None:
        new = {"name": "Fog switch", "place": "dash"}
        build = add(roadster(), "Fog", "Rear fog lamp 21 W", key="run", new_switch=new)
        self.assertNotIn("fog-switch", remove(build, "fog").parts)
        both = add(build, "Fog two", "Rear fog lamp 21 W", key="run", switch="fog-switch.out")
        left = remove(both, "fog")
        self.assertIn("fog-switch", left.parts)
        self.assertIsNotNone(Paths(left).to_load(left.parts["fog-two"]))

    def test_removing_then_adding_leaves_nothing_behind(self) -> None:
        build = add(roadster(), "Fog", "Rear fog lamp 21 W", key="run")
        self.assertEqual(to_document(remove(build, "fog")), to_document(roadster()))

    def test_what_is_not_a_load(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "no load “panel”"):
            remove(roadster(), "panel")


class RewireTest(TestCase):
    def test_direct_to_relay_and_back(self) -> None:
        wiring = {"key": "run", "switch": "blower-switch.out", "fuse": "f7-wiper-motor"}
        relay = rewire(roadster(), "heater-blower", through="relay", **wiring)
        self.assertIn("heater-blower-relay", relay.parts)
        self.assertEqual(relay.circuits["heater-blower"].intent.through, "relay")
        direct = rewire(relay, "heater-blower", through="direct", **wiring)
        self.assertNotIn("heater-blower-relay", direct.parts)
        self.assertIsNotNone(Paths(direct).to_load(direct.parts["heater-blower"]))

    def test_loads_keep_their_ids_and_figures(self) -> None:
        figures = {
            "op": "change",
            "collection": "parts",
            "id": "wiper-motor",
            "fields": {"figures": {"rated_a": 5}},
        }
        build = apply_operations(roadster(), [figures])
        moved = rewire(build, "wiper-motor", key="run", switch="wiper-switch.slow")
        self.assertEqual(moved.parts["wiper-motor"], build.parts["wiper-motor"])

    def test_its_own_switch_and_its_own_fuse_survive(self) -> None:
        new = {"name": "Fog switch", "place": "dash"}
        build = add(roadster(), "Fog", "Rear fog lamp 21 W", key="run", new_switch=new)
        wiring = {"key": "run", "switch": "fog-switch.out", "fuse": "f8-fog"}
        relay = rewire(build, "fog", through="relay", **wiring)
        self.assertEqual(relay.parts["f8-fog"], build.parts["f8-fog"])
        path = Paths(relay).to_load(relay.parts["fog"])
        assert path is not None
        self.assertEqual(dict(path.positions), {"key": "run", "fog-switch": "on"})
        alone = rewire(relay, "fog", key="always")
        self.assertEqual(Paths(alone).to_load(alone.parts["fog"]).positions, {})
        self.assertFalse({"fog-switch", "f8-fog", "fog-relay"} & set(alone.parts))

    def test_another_key_takes_a_way_of_that_key(self) -> None:
        build = add(roadster(), "Fog", "Rear fog lamp 21 W", key="run")
        moved = rewire(build, "fog", key="always")
        self.assertEqual(moved.parts["f4-fog"].fitted.way, "F4")
        self.assertNotIn("f8-fog", moved.parts)

    def test_a_circuit_without_loads_is_refused(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "has no loads"):
            rewire(roadster(), "grounds", key="run")


class NoWayLeftTest(TestCase):
    """What is offered where a panel has no way left."""

    def refused(self, recipe: str, car: Build) -> UnusableInput:
        with self.assertRaises(UnusableInput) as raised:
            apply_operations(car, [{"op": "write_recipe", "recipe": recipe}])
        self.assertEqual(raised.exception.code, "no-free-way")
        return raised.exception

    def full(self) -> Build:
        """A bare car whose panel holds two circuits of comfort, and no way more from accessory."""
        car = bare_car()
        for recipe in ("sockets", "radio"):
            car = write_recipe(car, RECIPES[recipe], {})
        panel = car.parts["panel"]
        taken = {part.fitted.way for part in car.parts_of_kind("fuse") if part.fitted}
        left = tuple(way for way in panel.ways if way.bus != "accessory" or way.name in taken)
        return replace(car, parts={**car.parts, panel.id: replace(panel, ways=left)})

    def test_more_ways_and_sharing_are_offered_and_each_does_it(self) -> None:
        car = self.full()
        mends = self.refused("sockets", car).mends
        labels = [mend.label for mend in mends]
        self.assertIn("Give Panel 4 more ways from accessory", labels)
        shared = [mend for mend in mends if mend.label.endswith("shared")]
        self.assertTrue(shared)
        written = apply_operations(car, list(shared[0].operations))
        self.assertEqual(len(written.parts_of_kind("fuse")), len(car.parts_of_kind("fuse")))
        self.assertEqual(len(written.circuits), len(car.circuits) + 1)

    def test_what_keeps_the_car_safe_shares_with_nothing_unasked(self) -> None:
        car = bare_car()
        panel = car.parts["panel"]
        left = tuple(way for way in panel.ways if way.bus != "battery")
        car = replace(car, parts={**car.parts, panel.id: replace(panel, ways=left)})
        labels = [mend.label for mend in self.refused("stop-lamps", car).mends]
        self.assertFalse([label for label in labels if label.endswith("shared")])

    def test_a_full_panel_of_always_live_ways_offers_a_second_one(self) -> None:
        car = bare_car()
        panel = car.parts["panel"]
        one = next(way for way in panel.ways if way.bus == "battery")
        left = (one, *(way for way in panel.ways if way.bus != "battery"))
        car = replace(car, parts={**car.parts, panel.id: replace(panel, ways=left)})
        car = write_recipe(car, RECIPES["stop-lamps"], {})
        mends = self.refused("horn", car).mends
        second = next(mend for mend in mends if mend.label.startswith("Add a second panel"))
        grown = apply_operations(car, list(second.operations))
        written = apply_operations(grown, [{"op": "write_recipe", "recipe": "horn"}])
        self.assertIn("horn", written.circuits)

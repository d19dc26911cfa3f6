"""Every recipe put into cars that have much already: nothing is broken, nothing is left over."""

from unittest import TestCase

from circuitry.design.model import Build, Terminal
from circuitry.document.checks import check
from circuitry.document.reading import read
from circuitry.edits import apply_operations, differences
from circuitry.errors import UnusableInput
from circuitry.network import Network, State
from circuitry.reach.paths import paths_of
from circuitry.recipes.book import RECIPES
from circuitry.recipes.clearing import clear
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import fuse_output, supply_side, ways
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build
from circuitry.sizing.faults import design_faults
from circuitry.stock.cells import wire_as_wished
from circuitry.stock.drafting import draft
from circuitry.stock.start import OPTIONS, KindOfCar, start
from tests.core.cars import ROOT, roadster

LACKING = {
    *("no-free-way", "too-few-sources", "no-module", "no-flasher", "no-lamp-to-follow"),
    *("nothing-to-join", "grounded-switch", "no-reader"),
}
"""Why a car may refuse a recipe: the words say what to add."""


def van() -> Build:
    return read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes())


def written(car: Build, recipe: str) -> tuple[Build, str]:
    """The car with a recipe as usual, and the circuit that it wrote."""
    build = write_recipe(car, RECIPES[recipe], {})
    check(build)
    return build, next(row for row in build.circuits if row not in car.circuits)


def faults(build: Build) -> set[str]:
    """Shorts, bridged coils and the like, and wired loads that nothing can feed."""
    paths, wired = paths_of(build), build.wired_parts()
    loads = (part for part in build.parts_of_kind("load") if part.id in wired)
    dead = {f"{part.name} is dead" for part in loads if paths.to_load(part) is None}
    return dead | {row.title for row in design_faults(build, ()) if row.severity == "stop"}


class UsualAnswersTest(TestCase):
    def put_into(self, car: Build) -> None:
        refused = set()
        for recipe in RECIPES:
            try:
                build, circuit = written(car, recipe)
            except UnusableInput as problem:
                self.assertIn(problem.code, LACKING, recipe)
                refused.add(recipe)
                continue
            self.assertLessEqual(faults(build), faults(car), recipe)
            self.written_again(build, recipe, circuit)
        self.assertLess(len(refused), len(RECIPES) / 3)

    def written_again(self, build: Build, recipe: str, circuit: str) -> None:
        answers = build.circuits[circuit].written
        assert answers is not None
        again = write_recipe(build, RECIPES[recipe], answers.answers, None, circuit)
        self.assertEqual(differences(build, again), [], recipe)

    def test_in_a_bare_car(self) -> None:
        self.put_into(bare_car())

    def test_in_a_car_half_wired(self) -> None:
        self.put_into(roadster())

    def test_in_a_car_that_has_every_function(self) -> None:
        self.put_into(van())

    def test_no_wire_is_too_thin_once_its_neighbours_are_trimmed(self) -> None:
        build, _ = written(roadster(), "reversed-by-switch")
        thin = [row.title for row in size_build(build).findings if row.code == "wire-too-thin"]
        pinned = ["Main beam: its ground wire W59", "Radiator fan: its wire W77"]
        self.assertEqual(thin, [f"{what} is too thin" for what in pinned])

    def test_no_fuse_is_left_in_a_way_that_nothing_leaves(self) -> None:
        for recipe in ("fan", "fuel-pump"):
            build, _ = written(roadster(), recipe)
            left = {end for w in build.wires.values() for end in (w.from_terminal, w.to_terminal)}
            for fuse in build.parts_of_kind("fuse"):
                if fuse.fitted:
                    self.assertIn(fuse_output(fuse), left, f"{recipe}: {fuse.name}")

    def test_a_spare_fuse_stays_where_it_is(self) -> None:
        spare = {
            "id": "spare",
            "kind": "fuse",
            "name": "Spare",
            "place": roadster().parts["panel"].place,
            "catalogue": "regular blade",
            "fitted": {"panel": "panel", "way": "F8"},
        }
        car = apply_operations(roadster(), [{"op": "add", "collection": "parts", "value": spare}])
        build, _ = written(car, "stop-lamps")
        self.assertIn("spare", build.parts)

    def test_a_second_wiper_gets_a_switch_of_its_own(self) -> None:
        before = van()
        build, circuit = written(before, "wipers")
        answers = build.circuits[circuit].written
        assert answers is not None
        self.assertNotIn(answers.answers["switch"]["part"], before.parts)

    def test_the_light_switch_that_is_there_serves_the_fogs_too(self) -> None:
        build, circuit = written(van(), "fogs")
        answers = build.circuits[circuit].written
        assert answers is not None
        self.assertEqual(answers.answers["light_switch"], {"part": "light-switch"})

    def test_fogs_that_main_beam_locks_out_are_sized_with_it_off(self) -> None:
        build, _ = written(van(), "fogs")
        sizing = size_build(build)
        for lamp in ("front-fog-left", "front-fog-right"):
            self.assertGreater(sizing.loads[lamp].amps, 3)

    def test_an_isolator_taken_out_leaves_the_feed_as_it_was(self) -> None:
        car = bare_car()
        build, circuit = written(car, "main-feed")
        network = Network(size_build(build).build)
        isolator = next(part.id for part in build.parts_of_kind("isolator"))
        off = network.solve(State("run", {isolator: "off"}))
        stud = next(t for t in off.terminal_v if t.part == "stud")
        self.assertEqual(off.terminal_v[stud] or 0.0, 0.0)
        answers = {"inside": None, "outside": None, "stops_engine": False}
        with self.assertRaises(UnusableInput):
            write_recipe(build, RECIPES["main-feed"], answers, None, circuit)
        again = write_recipe(build, RECIPES["main-feed"], {"stops_engine": False}, None, circuit)
        ends = {(str(w.from_terminal), str(w.to_terminal)) for w in again.wires.values()}
        self.assertIn(("stud.stud", "key.30"), ends)


class SupplySideTest(TestCase):
    """What feeds each way, searched without what hangs on the supply by one part alone."""

    def test_every_way_is_live_as_in_the_whole_car(self) -> None:
        cars = [roadster(), van(), bare_car()]
        cars += [write_recipe(bare_car(), RECIPES[name], {}) for name in ("sub-panel", "far-panel")]
        cars += [write_recipe(cars[-1], RECIPES[name], {}) for name in ("main-feed", "horn")]
        self.assertLess(2 * len(supply_side(roadster()).wires), 1.5 * len(roadster().wires))
        for car in cars:
            self.assertEqual(ways(car), ways(car, paths_of(car)), car.name)

    def test_a_switch_that_feeds_a_bus_is_part_of_it(self) -> None:
        car = write_recipe(bare_car(), RECIPES["sub-panel"], {"panel": None, "place": "rear-left"})
        relay = next(p for p in car.parts.values() if p.name == "Second panel relay")
        (coil,) = (w for w in car.wires.values() if str(w.to_terminal) == f"{relay.id}.86")
        add = {"op": "insert", "wire": coil.id, "kind": "switch", "name": "Cut-off"}
        cut = apply_operations(car, [add])
        self.assertIn("cut-off", supply_side(cut).parts)
        self.assertEqual(ways(cut), ways(cut, paths_of(cut)))

    def test_a_wire_from_a_part_to_itself_leads_nowhere(self) -> None:
        horn = next(w for w in roadster().wires.values() if w.to_terminal.part == "horn")
        ends = {"from_terminal": "horn.-", "to_terminal": "horn.+"}
        edit = {"op": "change", "collection": "wires", "id": horn.id, "fields": ends}
        looped = apply_operations(roadster(), [edit])
        self.assertNotIn("horn", supply_side(looped).parts)
        self.assertEqual(ways(looped), ways(looped, paths_of(looped)))


class DraftedCarTest(TestCase):
    """A function more in a car that is wired whole brings nothing to look at of its own."""

    ADDED = (
        *("second-battery", "solar", "old-gauges", "ballast-coil", "converter", "drivetrain"),
        *("far-panel", "ground-cables", "ammeter"),
    )
    SAID = {"ammeter-in-feed", "trunk-loses", "charging-loses", "hole-too-small"}  # noqa: RUF012
    """That a meter carries the car, and that more on it loses more and fills holes on the way."""

    def test_nothing_to_look_at_and_every_way_is_found(self) -> None:
        options = ("heater", "wipers", "electric fan", "injection")
        kind = KindOfCar("Whole", "estate", "steel", battery="cabin", options=options)
        car = draft(start(kind)).build
        known = {row.title for row in size_build(car).findings}
        for recipe in self.ADDED:
            found = size_build(write_recipe(car, RECIPES[recipe], {})).findings
            new = [r for r in found if r.severity != "note" and r.title not in known]
            self.assertEqual([r.title for r in new if r.code not in self.SAID], [], recipe)


class StartedCarTest(TestCase):
    """A car begun from its kind, with its list unwired and its battery beside the engine."""

    @classmethod
    def setUpClass(cls) -> None:
        kind = KindOfCar("Own", "coupé", "steel", battery="engine bay", options=tuple(OPTIONS))
        cls.car = start(kind)

    def test_what_stands_in_the_list_is_taken_and_not_added_again(self) -> None:
        wired = self.car.wired_parts()
        loose = {p.catalogue for p in self.car.parts_of_kind("load") if p.id not in wired}
        many = {"Telltale LED", "Power socket"}  # of these a car has several, told by their names
        for recipe in RECIPES:
            try:
                build, _ = written(self.car, recipe)
            except UnusableInput as problem:
                self.assertIn(problem.code, LACKING, recipe)
                continue
            new = [part for part in build.parts_of_kind("load") if part.id not in self.car.parts]
            twice = {part.catalogue for part in new} & loose - many
            self.assertEqual(twice, set(), recipe)

    def test_what_comes_after_the_isolator_sits_behind_it(self) -> None:
        build = self.car
        for recipe in ("main-feed", "charging", "starter"):
            build, _ = written(build, recipe)
        plus = Terminal("battery", "+")
        ends = [wire.to_terminal for wire in build.wires.values() if wire.from_terminal == plus]
        self.assertEqual([str(end) for end in ends], ["isolator-inside.in"])
        past = [row for row in size_build(build).findings if row.code == "live-past-isolator"]
        self.assertEqual(past, [])

    def test_no_other_circuit_takes_a_way_behind_the_engine_relay_unasked(self) -> None:
        build, _ = written(self.car, "engine")
        panel = next(part for part in build.parts_of_kind("panel") if part.name == "Engine panel")
        for load in self.car.parts_of_kind("load"):
            if load.id not in build.wired_parts():
                try:
                    build = wire_as_wished(build, load.id)
                except UnusableInput as problem:
                    self.assertIn(problem.code, LACKING | {"starter", "both-ways"}, load.id)
        fitted = [part.fitted for part in build.parts_of_kind("fuse") if part.fitted]
        taken = [at.way for at in fitted if at.panel == panel.id]
        self.assertEqual(taken, ["E1", "E2", "E3", "E4", "E5"])


class NamesTest(TestCase):
    def test_two_windows_are_named_after_their_motors(self) -> None:
        build = bare_car()
        for side in ("left", "right"):
            motor = {"row": "Window motor", "place": "dash", "name": f"Window motor {side}"}
            answers = {"motor": motor, "switch": {"place": "dash"}}
            build = write_recipe(build, RECIPES["reversed-by-switch"], answers)
        names = [circuit.name for circuit in build.circuits.values()][-2:]
        self.assertEqual(names, ["Window left", "Window right"])
        switches = {part.name for part in build.parts_of_kind("switch")}
        self.assertLessEqual({"Window switch left", "Window switch right"}, switches)
        unnamed = write_recipe(build, RECIPES["reversed-by-switch"], {})
        self.assertNotIn("", [circuit.name for circuit in unnamed.circuits.values()])


class MoreWaysTest(TestCase):
    """A panel without a free way says so, and what it offers makes room."""

    def test_the_way_out_of_a_full_panel_leads_out(self) -> None:
        car = roadster()
        with self.assertRaises(UnusableInput) as refused:
            for _ in range(20):
                car = write_recipe(car, RECIPES["sockets"], {"key": "run"})
        self.assertEqual(refused.exception.code, "no-free-way")
        (mend,) = refused.exception.mends
        self.assertIn("more ways from run", mend.label)
        grown = apply_operations(car, list(mend.operations))
        ways = {part.id: len(part.ways) for part in car.parts_of_kind("panel")}
        more = {part.id: len(part.ways) for part in grown.parts_of_kind("panel")}
        self.assertEqual(sum(more.values()), sum(ways.values()) + 4)
        self.assertIn("reversing-lamps", write_recipe(grown, RECIPES["reversing"], {}).circuits)

    def test_ways_that_nothing_feeds_are_refused(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "Feed a bus"):
            apply_operations(bare_car(), [{"op": "add_ways", "panel": "module", "key": "run"}])


class SharedReturnTest(TestCase):
    def test_a_circuit_taken_out_leaves_the_returns_of_others_alone(self) -> None:
        """The wire from a ground bar to its point belongs to one circuit, and serves many."""
        car = van()
        grounded = set(paths_of(car).grounded)
        for circuit in car.circuits.values():
            draft = Draft(car)
            clear(draft, circuit)
            build = draft.build
            ends = {e for w in build.wires.values() for e in (w.from_terminal, w.to_terminal)}
            lost = (ends & grounded) - set(paths_of(build).grounded)
            own = {part.id for part in car.parts.values() if part.circuit == circuit.id}
            self.assertEqual([str(end) for end in lost if end.part not in own], [], circuit.name)


class SpareWiresTest(TestCase):
    def test_what_is_added_there_is_led_from_the_plug_as_long_as_its_fuse_bears_it(self) -> None:
        answers = {"place": "luggage", "key": "run", "count": 2, "rated": "10 A"}
        bare = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
        car = write_recipe(bare, RECIPES["spare-wires"], answers)
        sized = size_build(car)
        before = {row.id for row in size_build(bare).findings}
        self.assertEqual([row.title for row in sized.findings if row.id not in before], [])
        [plug] = car.parts_of_kind("connector")
        spare = [wire for wire in sized.build.wires.values() if wire.to_terminal.part == plug.id]
        self.assertEqual(len(spare), 2)
        self.assertTrue(all(sized.wires[wire.id].carries_a > 10 for wire in spare))
        for row, place, key, led in (
            ("Courtesy lamp 5 W", "luggage", "run", True),
            ("Courtesy lamp 5 W", "luggage", "always", False),
            ("Courtesy lamp 5 W", "dash", "run", False),
            ("Heated rear screen", "luggage", "run", False),
        ):
            asked = {"load": {"row": row, "place": place, "name": "One more"}, "key": key}
            with_load = write_recipe(car, RECIPES["plain-load"], {**asked, "switch": None})
            fed = {w.from_terminal.part for w in with_load.wires.values() if w.id not in car.wires}
            self.assertEqual(plug.id in fed, led, (row, place, key))
            self.assertEqual(apply_operations(with_load, [remove("one-more")]).wires, car.wires)


def remove(load: str) -> dict[str, str]:
    return {"op": "remove_load", "load": load}

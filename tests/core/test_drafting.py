"""The whole car drafted from its list: all wired as its kind asks, and what stood is kept."""

import contextlib
import random
from collections import Counter
from dataclasses import replace
from functools import cache
from itertools import product
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import ENGINE_PLACES, STATES, STYLES, Build, Part, Way
from circuitry.document.checks import check
from circuitry.document.reading import hold
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network, State
from circuitry.reach.paths import paths_of, state_of
from circuitry.reach.truth import truth_table
from circuitry.reach.ways import Step
from circuitry.recipes.protection import ways
from circuitry.sizing import size_build
from circuitry.stock import TypedRow, set_cells
from circuitry.stock.drafting import SCHOOLS, Wants, draft
from circuitry.stock.proposal import Branch, Draft, bill
from circuitry.stock.start import BATTERY_PLACES, OPTIONS, SHELLS, KindOfCar, start
from tests.core.cars import roadster

EVERYTHING = KindOfCar("Everything", "saloon", "steel", 4, 4, battery="engine bay", options=OPTIONS)
BY_STYLE = [
    KindOfCar(
        style, style, "steel", battery="cabin", options=("wipers", OPTIONS[at], OPTIONS[-1 - at])
    )
    for at, style in enumerate(STYLES)
]
CARS = (*BY_STYLE, EVERYTHING)
ASKED = KindOfCar(
    "Asked", "saloon", "steel", options=("audio", "power sockets", "worklights", "central locks")
)


@cache
def drafts() -> tuple[tuple[Build, Draft], ...]:
    cars = [start(car) for car in CARS]
    return tuple((car, draft(car)) for car in cars)


def never_switched(build: Build) -> list[str]:
    """Loads that no position of what concerns them puts on, or none puts off."""
    network = Network(build)
    groups: dict[str | None, list[Part]] = {}
    for load in build.parts_of_kind("load"):
        groups.setdefault(load.circuit, []).append(load)
    found = []
    while groups:
        name, loads = groups.popitem()
        table = truth_table(network, tuple(loads))
        if table.held and len(loads) > 1:  # too many levers for all: one by one
            groups |= {load.id: [load] for load in loads}
            continue
        for at, load in enumerate(loads):
            words = {row.outcomes[at].word for row in table.rows}
            if not words > {"off"}:
                found.append(f"{load.name} of {name}: {sorted(words)}")
    return found


class EveryCarTest(TestCase):
    def test_every_body_style_with_every_option_is_wired_whole_and_safe(self) -> None:
        """No step refused, every load fed by some positions, ways to spare, names of their own, the
        alternator on the engine; of every third, which is sized: every load is on in some
        positions and off in others, no finding that stops and at most two to look at."""
        for number, (style, option) in enumerate(product(STYLES, OPTIONS)):
            shell = SHELLS[number % len(SHELLS)]
            engine = ENGINE_PLACES[number % len(ENGINE_PLACES)]
            battery = BATTERY_PLACES[(number + number // 3) % len(BATTERY_PLACES)]
            kind = KindOfCar("Any", style, shell, engine=engine, battery=battery, options=(option,))
            with self.subTest(**vars(kind)):
                before = start(kind)
                drafted = draft(before)
                self.assertEqual([row.problem for row in drafted.steps if row.problem], [])
                paths = paths_of(drafted.build)
                loads = before.parts_of_kind("load")
                dark = [row.id for row in loads if not paths.to_load(drafted.build.parts[row.id])]
                self.assertEqual(dark, [])
                names = [part.name for part in loads]
                self.assertEqual(len(names), len(set(names)))
                rows = [row for row in ways(drafted.build) if row.panel == "panel"]
                self.assertGreater(sum(row.fuse is None for row in rows), 0)
                alternators = drafted.build.parts_of_kind("alternator")
                self.assertEqual([part.place for part in alternators], ["engine"])
                if number % 3 == 0:  # sized, every third: the measures size more
                    sizing = size_build(drafted.build)
                    self.assertEqual(never_switched(sizing.build), [])
                    findings = sizing.findings
                    severities = Counter(finding.severity for finding in findings)
                    told = [finding.title for finding in findings if finding.severity != "note"]
                    self.assertEqual(severities["stop"], 0, told)
                    self.assertLessEqual(severities["look"], 2, told)


class DraftTest(TestCase):
    def test_everything_in_the_list_is_wired_and_comes_on(self) -> None:
        for before, drafted in drafts():
            self.assertEqual([row.problem for row in drafted.steps if row.problem], [])
            sized = size_build(drafted.build).build
            network, paths = Network(sized), paths_of(sized)
            loads = [sized.parts[load.id] for load in before.parts_of_kind("load")]
            ways = [paths.to_load(load) for load in loads]
            self.assertNotIn(None, ways)
            states = [state_of(sized, way.positions) for way in ways if way]
            for load, solution in zip(loads, network.solve_many(states), strict=True):
                self.assertTrue(solution.loads[load.id].is_on, (before.name, load.name))

    def test_each_load_is_worked_by_the_switch_that_the_list_names(self) -> None:
        for before, drafted in drafts():
            rows = [branch for step in drafted.steps for branch in step.branches]
            worked_by = {branch.load: branch.worked_by for branch in rows}
            names = {part.name for part in before.parts.values()}
            for load in before.parts_of_kind("load"):
                named = load.wish.switch.split(",")[0] if load.wish else ""
                if named in names:
                    self.assertIn(named, worked_by[load.name], (before.name, load.name))

    def test_what_must_live_without_the_key_does(self) -> None:
        lives = ("Dipped beam", "Side lamp", "Tail lamp", "Stop lamp", "Horn")
        for _, drafted in drafts():
            for step in drafted.steps:
                for branch in step.branches:
                    if branch.load.startswith(lives):
                        self.assertEqual(branch.key, "always", branch.load)

    def test_few_findings_none_that_stops_and_ways_to_spare(self) -> None:
        for before, drafted in drafts():
            sizing = size_build(drafted.build)
            told = bill(sizing)
            self.assertLessEqual({load.id for load in _listed(before)}, told.wires.keys())
            self.assertEqual(
                told.wires["horn"],
                next(w.size for w in sizing.build.wires.values() if str(w.to_terminal) == "horn.+"),
            )
            self.assertGreater(told.mass_kg, told.copper_kg)
            rows = told.findings
            self.assertNotIn("stop", [row.severity for row in rows], before.name)
            self.assertLessEqual(len(rows), 2, [row.title for row in rows])
            self.assertGreaterEqual(drafted.ways_free, 2)

    def test_names_say_the_thing(self) -> None:
        _, drafted = drafts()[-1]
        names = {row.name for row in drafted.build.circuits.values()}
        self.assertLessEqual({"Window left", "Window right", "Worklights", "Door locks"}, names)
        numbered = [name for name in names if name[-1].isdigit()]
        self.assertEqual(numbered, [])

    def test_what_guards_both_sides_is_not_called_by_one(self) -> None:
        for _, drafted in drafts():
            rows = [row for step in drafted.steps for row in step.branches]
            behind: dict[str, set[str]] = {}
            for row in rows:
                behind.setdefault(row.fuse, set()).add(row.load)
            for guard, loads in behind.items():
                side = {"left", "right"} & set(guard.split())
                for load in loads if side else ():
                    other = {"left", "right"} - side
                    self.assertFalse(other & set(load.split()), (guard, load))

    def test_what_the_list_lacks_is_proposed_and_nothing_that_it_has(self) -> None:
        for before, drafted in drafts():
            proposed = {name for step in drafted.steps for name in step.proposed}
            lacking = {"Isolator inside", "Alternator", "Flasher", "Brake-fluid level switch"}
            self.assertLessEqual(lacking, proposed)
            self.assertEqual(
                proposed & {part.name for part in before.parts.values()} - {"Hazard switch"}, set()
            )

    def test_a_panel_that_gets_fuses_asks_for_a_cover(self) -> None:
        for _, drafted in drafts():
            self.assertIn("a cover for Panel", drafted.beside)
        again = draft(drafts()[0][1].build)
        self.assertEqual(again.beside, ())

    def test_no_fuse_leaves_both_headlamps_dark(self) -> None:
        for _, drafted in drafts():
            fuses = {branch.load: branch.fuse for step in drafted.steps for branch in step.branches}
            self.assertNotEqual(fuses["Dipped beam left"], fuses["Dipped beam right"])
        one = draft(start(CARS[0]), Wants(fuses="one fuse"))
        fuses = {branch.load: branch.fuse for step in one.steps for branch in step.branches}
        self.assertEqual(fuses["Dipped beam left"], fuses["Dipped beam right"])


class AskedTest(TestCase):
    """What a draft cannot know, answered otherwise than usual."""

    def branches(self, drafted: Draft) -> dict[str, Branch]:
        return {row.load: row for step in drafted.steps for row in step.branches}

    def test_a_panel_at_each_end_feeds_what_is_there(self) -> None:
        drafted = draft(start(ASKED), Wants(panels="one at each end"))
        self.assertEqual([row.problem for row in drafted.steps if row.problem], [])
        rows = self.branches(drafted)
        places = drafted.build.places
        rear = drafted.build.parts["rear-panel"]
        self.assertGreater(places[rear.place].x_m, drafted.build.body.length_m / 2)
        self.assertEqual(rows["Amplifier"].at.split(".")[0], "rear-panel")
        self.assertEqual(rows["Horn"].at.split(".")[0], "panel")
        # their feed goes to the pedal first, and no wire is led there and back again
        self.assertEqual(rows["Stop lamp left"].at.split(".")[0], "panel")
        one = self.branches(draft(start(ASKED)))
        self.assertLess(rows["Amplifier"].length_m, one["Amplifier"].length_m)
        fuse = size_build(drafted.build).fuses["rear-panel-fuse"]
        self.assertGreater(fuse.rating_a, fuse.current_a)

    def test_modules_are_at_both_ends_and_take_no_panel_there(self) -> None:
        for school in SCHOOLS:
            drafted = draft(start(ASKED), Wants(panels="one at each end", school=school))
            panels = {part.name for part in drafted.build.parts_of_kind("panel")}
            self.assertEqual("Rear panel" in panels, school == "fuses and relays")

    def test_returns_by_wire_need_no_sheet_metal(self) -> None:
        car = start(CARS[0])
        self.assertTrue(car.body_conducts)
        drafted = draft(car, Wants(returns="by wire"))
        self.assertFalse(drafted.build.body_conducts)
        sized = size_build(drafted.build)
        self.assertFalse(any("body" in _kinds(row.path.back) for row in sized.loads.values()))
        self.assertEqual(set(sized.loads), set(size_build(draft(car).build).loads))

    def test_what_lives_with_the_key_off_is_as_asked(self) -> None:
        usual = self.branches(draft(start(ASKED)))
        asked = self.branches(draft(start(ASKED), Wants(alive=("sockets", "horn"))))
        told = {
            name: (usual[name].key, asked[name].key)
            for name in ("Horn", "Power socket", "Stop lamp left", "Interior lamp")
        }
        self.assertEqual(told["Horn"], ("always", "always"))
        self.assertEqual(told["Power socket"], ("accessory", "always"))
        self.assertEqual(told["Stop lamp left"][0], "always")
        self.assertNotEqual(told["Stop lamp left"][1], "always")
        self.assertNotEqual(told["Interior lamp"][1], "always")

    def test_what_is_to_be_kept_stays_on_the_old_loom(self) -> None:
        car = start(CARS[0])
        horn = replace(car.parts["horn"], state="keep")
        car = replace(car, parts={**car.parts, "horn": horn})
        self.assertTrue(draft(car).keeps)
        self.assertIn("horn", draft(car).build.wired_parts())
        kept = draft(car, Wants(old_loom_keeps=True))
        self.assertEqual(kept.build.parts["horn"], horn)
        self.assertNotIn("horn", kept.build.wired_parts())
        self.assertNotIn("Horn", self.branches(kept))

    def test_a_load_goes_behind_a_free_way_or_shares_another(self) -> None:
        car = start(ASKED)
        drafted = draft(car)
        rows = self.branches(drafted)
        always = next(g.group for g in drafted.guards if g.at == rows["Horn"].at)
        free = next(g for g in drafted.guards if g.group == always and not g.holds)
        for to in (free.at, rows["Interior lamp"].at):
            moved = draft(car, Wants(moves=(("horn", to),)))
            self.assertEqual(self.branches(moved)["Horn"].at, to)
            check(moved.build)
            network = Network(size_build(moved.build).build)
            path = paths_of(network.build).to_load(network.build.parts["horn"])
            assert path is not None
            state = state_of(network.build, path.positions)
            self.assertTrue(network.solve(state).loads["horn"].is_on)
            # the fuse that it had is not left behind, and its coil came along
            left = {str(guard.at): guard.holds for guard in moved.guards}
            self.assertEqual(left[rows["Horn"].at], ())
        self.assertEqual(moved.counts["fuse"], drafted.counts["fuse"] - 1)

    def test_what_shares_the_wire_of_a_load_goes_along(self) -> None:
        car = start(ASKED)
        drafted = draft(car)
        rows = self.branches(drafted)
        left, right = rows["Worklight left"], rows["Worklight right"]
        self.assertEqual(left.at, right.at)
        group = next(g.group for g in drafted.guards if g.at == left.at)
        free = next(g for g in drafted.guards if g.group == group and not g.holds)
        after = self.branches(draft(car, Wants(moves=((right.id, free.at),))))
        self.assertEqual({after[row.load].at for row in (left, right)}, {free.at})

    def test_on_modules_a_load_goes_to_a_free_channel_that_bears_it(self) -> None:
        car = start(ASKED)
        drafted = draft(car, Wants(school="modules"))
        rows = self.branches(drafted)
        horn = rows["Horn"]
        module = drafted.build.parts[horn.at.split(".")[0]]
        free = next(g for g in drafted.guards if g.group == module.id and not g.holds)
        moved = draft(car, Wants(school="modules", moves=(("horn", free.at),)))
        self.assertEqual(self.branches(moved)["Horn"].at, free.at)
        held = {"horn-push": "held"}
        network = Network(size_build(moved.build).build)
        self.assertTrue(network.solve(State("off", held)).loads["horn"].is_on)
        with self.assertRaisesRegex(UnusableInput, "condition of its own"):
            same = next(r for r in rows.values() if r.at.startswith(module.id) and r.at != horn.at)
            draft(car, Wants(school="modules", moves=(("horn", same.at),)))

    def test_a_way_that_is_live_otherwise_is_refused_in_words(self) -> None:
        car = start(ASKED)
        drafted = draft(car)
        by_key = next(g for g in drafted.guards if g.group == "from run")
        with self.assertRaisesRegex(UnusableInput, "Horn is live with the key off"):
            draft(car, Wants(moves=(("horn", by_key.at),)))


def _listed(car: Build) -> list[Part]:
    """What the list has, but for the starter, which a cable inside its unit feeds."""
    loads = car.parts_of_kind("load")
    return [load for load in loads if "Starter" not in (load.catalogue or "")]


def _kinds(steps: tuple[Step, ...]) -> set[str]:
    return {step.kind for step in steps}


class AgainTest(TestCase):
    def test_a_second_draft_finds_nothing_to_do(self) -> None:
        for _, drafted in drafts()[:3]:
            again = draft(drafted.build)
            self.assertEqual([row for row in again.steps if row.circuits], [])
            self.assertEqual(again.build, drafted.build)

    def test_what_is_left_out_is_written_the_next_time_and_what_stands_is_kept(self) -> None:
        before = start(CARS[0])
        first = draft(before, Wants(left_out=("horn", "headlamps")))
        wired = first.build.wired_parts()
        self.assertFalse({"horn", "dipped-beam-left"} & wired)
        left = {row.id: row for row in first.steps if row.left_out}
        self.assertEqual([row.load for row in left["horn"].branches], ["Horn"])
        second = draft(first.build)
        written = {row.id for row in second.steps if row.circuits}
        self.assertEqual(written, {"horn", "headlamps"})
        kept = {wire: second.build.wires[wire] for wire in first.build.wires}
        self.assertEqual(kept, dict(first.build.wires))

    def test_a_car_half_wired_by_hand_keeps_its_wires(self) -> None:
        before = roadster()
        drafted = draft(before)
        for wire_id, wire in before.wires.items():
            now = drafted.build.wires[wire_id]
            self.assertEqual(
                (now.size, now.label, now.colour), (wire.size, wire.label, wire.colour)
            )
        names = [part.name for part in drafted.build.parts_of_kind("load")]
        self.assertEqual(len(names), len(set(names)))
        proposed = {name for step in drafted.steps for name in step.proposed}
        self.assertEqual(proposed & {part.name for part in before.parts.values()}, set())
        self.assertIn("Hazard switch, for yours has other contacts", proposed)
        loads = {load.id for load in before.parts_of_kind("load")}
        left = loads - drafted.build.wired_parts()
        refused = [row for row in drafted.steps if row.problem]
        self.assertLessEqual(len(left), len(refused))

    def test_a_telltale_alone_brings_no_headlamps(self) -> None:
        before = start(KindOfCar("Race", road_lamps=False))
        cells = {"name": "Main beam telltale", "what": "Telltale LED", "where": "Dash"}
        drafted = draft(set_cells(before, [TypedRow(None, {**cells, "key": "run"})]))
        self.assertNotIn("headlamps", {step.id for step in drafted.steps})
        self.assertFalse([p for p in drafted.build.parts_of_kind("load") if "beam l" in p.name])
        self.assertIn("main-beam-telltale", drafted.build.wired_parts())

    def test_what_goes_out_of_the_car_gets_no_wires(self) -> None:
        before = start(CARS[0])
        horn = replace(before.parts["horn"], state="remove")
        drafted = draft(replace(before, parts={**before.parts, "horn": horn}))
        self.assertNotIn("horn", drafted.build.wired_parts())
        self.assertNotIn("horn", [row.id for row in drafted.steps])


class RoomTest(TestCase):
    def test_a_panel_too_small_grows_on_the_bus_that_is_full(self) -> None:
        before = start(CARS[0])
        panel = before.parts["panel"]
        few = tuple(Way(f"F{n}", bus) for n, bus in enumerate(("battery", "accessory", "run"), 1))
        small = replace(before, parts={**before.parts, "panel": replace(panel, ways=few)})
        drafted = draft(small)
        self.assertEqual([row.problem for row in drafted.steps if row.problem], [])
        self.assertGreater(drafted.ways_added, 10)
        self.assertGreaterEqual(drafted.ways_free, 2)
        names = [way.name for way in drafted.build.parts["panel"].ways]
        self.assertEqual(len(names), len(set(names)))

    def test_spare_ways_as_many_as_are_wanted(self) -> None:
        self.assertGreaterEqual(draft(start(CARS[0]), Wants(spare_ways=20)).ways_free, 20)

    def test_a_car_without_a_panel_says_what_to_do(self) -> None:
        before = start(CARS[0])
        parts = {key: part for key, part in before.parts.items() if part.kind != "panel"}
        wires = {
            key: wire
            for key, wire in before.wires.items()
            if "panel" not in (wire.from_terminal.part, wire.to_terminal.part)
        }
        with self.assertRaisesRegex(UnusableInput, "Add one"):
            draft(replace(before, parts=parts, wires=wires))


class OperationTest(TestCase):
    def test_it_is_one_operation(self) -> None:
        before = start(CARS[0])
        after = apply_operations(before, [{"op": "draft_wiring", "left_out": ["horn"]}])
        self.assertEqual(after, draft(before, Wants(left_out=("horn",))).build)
        with self.assertRaisesRegex(UnusableInput, "at most 20"):
            apply_operations(before, [{"op": "draft_wiring", "spare_ways": 21}])

    def test_a_motor_that_goes_both_ways_is_not_wired_one_way(self) -> None:
        before = start(EVERYTHING)
        with self.assertRaisesRegex(UnusableInput, "goes both ways"):
            apply_operations(before, [{"op": "wire_load", "load": "window-motor-left"}])


class AnyListTest(TestCase):
    """Lists as no builder would write them: what cannot be wired is told, the rest is sound."""

    SWITCHES = ("", "Light switch", "Light switch, head", "Turn switch", "New push", "Brake pedal")

    def odd_list(self, draw: random.Random) -> Build:
        options = tuple(draw.sample(OPTIONS, 3))
        build = start(KindOfCar("Odd", draw.choice(STYLES), draw.choice(SHELLS), options=options))
        places = [*(place.name for place in build.places.values()), ""]
        rows = [row.name for row in catalogue().loads.values() if row.group != "control"]
        for number in range(draw.randint(5, 20)):
            row = draw.choice(rows)
            name = draw.choice((row, f"{row} left", f"{row} right", "Twin"))
            cells = {
                "name": name if draw.random() < 0.5 else f"{name} {number}",
                "what": row,
                "where": draw.choice(places),
                "key": draw.choice(("", "always", "accessory", "run")),
                "switch": draw.choice(self.SWITCHES),
                "through": draw.choice(("", "direct", "relay")),
                "state": draw.choice(STATES),
            }
            with contextlib.suppress(UnusableInput):
                build = set_cells(build, [TypedRow(None, cells)])
        return build

    def test_everything_is_wired_or_told_and_a_second_draft_does_nothing(self) -> None:
        draw, refused = random.Random(29), 0
        for number in range(25):
            before = self.odd_list(draw)
            drafted = draft(before, Wants(spare_ways=draw.randint(0, 6)))
            with self.subTest(number=number):
                check(drafted.build)
                hold(drafted.build, before)
                told = {row.load for step in drafted.steps if step.problem for row in step.branches}
                refused += len(told)
                wired = drafted.build.wired_parts()
                left = {
                    load.name
                    for load in drafted.build.parts_of_kind("load")
                    if not load.housed
                    and load.id not in wired
                    and load.state not in ("remove", "spare")
                }
                self.assertEqual(left - told, set())
                again = draft(drafted.build)
                self.assertEqual([row.id for row in again.steps if row.circuits], [])
        self.assertGreater(refused, 10)

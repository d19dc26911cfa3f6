"""Each kind of fault has the symptom that physics gives it, and none leaves the bench unsettled."""

from collections.abc import Callable
from itertools import pairwise
from unittest import TestCase

from circuitry.bench.bench import Bench
from circuitry.bench.dealt import HARD, deal, judge
from circuitry.bench.faults import KINDS, Fault, can_have, others_for, problem_of
from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput
from circuitry.sizing.channels import modules
from tests.core.benches import ROADSTER, VAN, amps, bench_of, demo, do, fault, percent, told
from tests.core.cars import document, part, switch, wire

ON_OFF = (("off", []), ("on", [["in", "out"]]))
PROVED: set[str] = set()


def proves(*kinds: str) -> Callable[[Callable], Callable]:
    """Say which kinds of fault a test holds to their symptom."""
    PROVED.update(kinds)
    return lambda test: test


class SymptomTest(TestCase):
    def lit(self, **moved: str) -> Bench:
        """The roadster with its key at run, and switches worked."""
        bench = bench_of(demo(ROADSTER))
        do(bench, 0.5, "key", to="run")
        for name, to in {"light_switch": "head", **moved}.items():
            do(bench, 0.6, "switch", name.replace("_", "-"), to)
        bench.run(3.0)
        return bench

    def wire_to(self, bench: Bench, terminal: str) -> str:
        return next(
            row.id
            for row in bench.build.wires.values()
            if terminal in (str(row.from_terminal), str(row.to_terminal))
        )

    def now(self, bench: Bench, load: str) -> float:
        return percent(bench, bench.frame(bench.moment.t_s), load)

    @proves("open wire")
    def test_a_broken_wire_leaves_its_load_dead_and_its_neighbour_lit(self) -> None:
        bench = self.lit()
        fault(bench, 4.0, "open wire", self.wire_to(bench, "side-lamp-left.+"))
        bench.run(6.0)
        self.assertLess(self.now(bench, "side-lamp-left"), 1)
        self.assertGreater(self.now(bench, "side-lamp-right"), 40)

    @proves("bad joint")
    def test_a_bad_joint_dims_its_lamp_and_shows_volts_without_load(self) -> None:
        bench = self.lit()
        before = self.now(bench, "side-lamp-left")
        wire_id = self.wire_to(bench, "side-lamp-left.+")
        fault(bench, 4.0, "bad joint", wire_id, ohm=10.0)
        bench.run(6.0)
        after = self.now(bench, "side-lamp-left")
        self.assertTrue(2 < after < 0.75 * before, (before, after))

    @proves("short to ground")
    def test_a_short_parts_the_fuse_of_its_circuit_and_no_other(self) -> None:
        bench = self.lit()
        wire_id = self.wire_to(bench, "side-lamp-left.+")
        fault(bench, 4.0, "short to ground", wire_id)
        bench.run(6.0)
        (parted,) = bench.moment.parted
        self.assertEqual(bench.sizing.wires[wire_id].fuse, parted)
        label = bench.build.wires[wire_id].label
        (event,) = [row for row in bench.tape if "parts after" in row.what]
        self.assertEqual(event.why, f"short at {label}")

    @proves("chafe")
    def test_a_chafe_comes_and_goes_until_its_fuse_parts(self) -> None:
        bench = self.lit()
        fault(bench, 4.0, "chafe", self.wire_to(bench, "side-lamp-left.+"), ohm=5.0)
        dips = []
        for step in range(400):
            dips.append(self.battery_a(bench, 4.0 + 0.05 * step))
        self.assertGreater(max(dips) - min(dips), 1.5)
        crossings = sum((a > min(dips) + 1) != (b > min(dips) + 1) for a, b in pairwise(dips))
        self.assertGreater(crossings, 4)

    def battery_a(self, bench: Bench, at_s: float) -> float:
        return bench.frame(at_s).battery_a

    @proves("short to wire")
    def test_two_wires_worn_together_light_what_is_switched_off(self) -> None:
        bench = self.lit(light_switch="side")
        self.assertLess(self.now(bench, "stop-lamp-left"), 1)
        one = self.wire_to(bench, "stop-lamp-left.+")
        other = self.wire_to(bench, "tail-lamp-left.+")
        self.assertIn(other, others_for(bench.build, "short to wire", one))
        fault(bench, 4.0, "short to wire", one, other)
        bench.run(5.0)
        lit = self.now(bench, "stop-lamp-left")
        self.assertTrue(lit > 10 or told(bench, "parts after"), lit)

    @proves("wrong stud")
    def test_a_wire_on_the_wrong_stud_is_another_car(self) -> None:
        bench = bench_of(demo(ROADSTER))
        (of, _, *_) = next(iter(can_have(bench.build, "wrong stud")))
        other = others_for(bench.build, "wrong stud", of)[0]
        fault(bench, 1.0, "wrong stud", of, other)
        moved = bench.rig.build.wires[of]
        self.assertEqual(str(moved.to_terminal), other)
        self.assertTrue(bench.frame(2.0).settled)

    @proves("blown fuse", "missing fuse", "wrong fuse")
    def test_a_blown_fuse_is_dead_and_a_fuse_too_small_parts_in_use(self) -> None:
        bench = self.lit(blower_switch="on")
        self.assertGreater(self.now(bench, "heater-blower"), 60)
        fuse = bench.sizing.wires[self.wire_to(bench, "heater-blower.+")].fuse
        fault(bench, 4.0, "wrong fuse", fuse, "3")
        bench.run(9.0)
        self.assertEqual(bench.frame(9.0).parted, [fuse])
        self.assertLess(self.now(bench, "heater-blower"), 60)
        do(bench, 10.0, "fit", fuse)
        self.assertGreater(percent(bench, bench.frame(14.0), "heater-blower"), 60)
        for at_s, kind in ((15.0, "blown fuse"), (20.0, "missing fuse")):
            fault(bench, at_s, kind, fuse)
            self.assertLess(amps(bench, bench.frame(at_s + 1.0), "heater-blower"), 0.1)
            do(bench, at_s + 2.0, "fit", fuse)
            self.assertFalse(bench.moment.faults)

    @proves("blown lamp", "missing lamp")
    def test_a_turn_lamp_blown_or_missing_speeds_the_flasher(self) -> None:
        for kind in ("blown lamp", "missing lamp"):
            bench = self.lit(turn_switch="right")
            self.assertTrue(told(bench, "flashes 90"))
            fault(bench, 4.0, kind, "turn-lamp-rear-right")
            bench.run(7.0)
            self.assertTrue(told(bench, "flashes 180"))

    @proves("wrong lamp", "lamps exchanged")
    def test_lamps_in_the_wrong_holder_are_dim_or_bright(self) -> None:
        bench = self.lit(brake_switch="pressed")
        before = amps(bench, bench.frame(3.0), "side-lamp-left")
        fault(bench, 4.0, "wrong lamp", "side-lamp-left", "Stop lamp 21 W")
        self.assertGreater(amps(bench, bench.frame(6.0), "side-lamp-left"), 4 * before)
        do(bench, 7.0, "mend", "all")
        fault(bench, 8.0, "lamps exchanged", "stop-lamp-left", "side-lamp-left")
        frame = bench.frame(10.0)
        self.assertLess(
            amps(bench, frame, "stop-lamp-left"), 0.4 * amps(bench, frame, "stop-lamp-right")
        )

    def test_a_lamp_goes_only_into_a_holder_that_takes_it(self) -> None:
        build = bench_of(demo(ROADSTER)).build
        headlamps = others_for(build, "wrong lamp", "dipped-beam-left")
        self.assertIn("Driving lamp halogen 100 W", headlamps)
        self.assertNotIn("Tail lamp LED", headlamps)
        exchanged = others_for(build, "lamps exchanged", "dipped-beam-left")
        self.assertIn("main-beam-left", exchanged)
        self.assertNotIn("tail-lamp-left", exchanged)

    @proves("missing relay", "stuck relay", "welded relay")
    def test_relays_missing_stuck_and_welded(self) -> None:
        relay = "main-beam-left-relay"
        for kind, at, lit in (
            ("missing relay", "main", False),
            ("stuck relay", "main", False),
            ("welded relay", "dip", True),
        ):
            bench = self.lit(dip_switch=at)
            self.assertEqual(self.now(bench, "main-beam-left") > 20, at == "main")
            fault(bench, 4.0, kind, relay)
            bench.run(6.0)
            self.assertEqual(self.now(bench, "main-beam-left") > 20, lit, kind)

    @proves("four-pin relay")
    def test_a_four_pin_relay_in_a_five_pin_socket_feeds_nothing_at_rest(self) -> None:
        bench = bench_of(changeover("mini 5-pin"))
        do(bench, 1.0, "switch", "feed", "on")
        self.assertGreater(percent(bench, bench.frame(2.0), "rest-lamp"), 50)
        fault(bench, 3.0, "four-pin relay", "relay")
        self.assertLess(percent(bench, bench.frame(4.0), "rest-lamp"), 1)

    @proves("coil reversed")
    def test_a_diode_relay_connected_backwards_shorts_its_feed(self) -> None:
        kind = next(
            name
            for name, row in catalogue().relays.items()
            if row.suppression.startswith("diode") and not row.has_twin_outputs
        )
        car = changeover(kind)
        car["wires"] = [row for row in car["wires"] if "rest-lamp" not in row["to_terminal"]]
        bench = bench_of(car)
        fault(bench, 0.5, "coil reversed", "relay")
        do(bench, 1.0, "switch", "feed", "on")
        do(bench, 1.0, "switch", "light", "on")
        bench.run(4.0)
        self.assertTrue(told(bench, "parts after"))

    @proves("missing ground")
    def test_a_shared_ground_lost_makes_lamps_glow_through_each_other(self) -> None:
        """Tail and turn lamp share a ground: without it the tail lamp's current goes on through the
        turn lamp, and both glow dim (the two filaments are in series)."""
        bench = bench_of(shared_ground())
        do(bench, 1.0, "switch", "tail-switch", "on")
        frame = bench.frame(3.0)
        self.assertGreater(percent(bench, frame, "tail"), 60)
        self.assertLess(percent(bench, frame, "turn"), 1)
        fault(bench, 4.0, "missing ground", "rear")
        frame = bench.frame(6.0)
        self.assertLess(percent(bench, frame, "tail"), 95)
        self.assertAlmostEqual(
            amps(bench, frame, "tail"), abs(amps(bench, frame, "turn")), delta=0.02
        )
        self.assertGreater(abs(amps(bench, frame, "turn")), 0.1)

    @proves("swapped pins")
    def test_wires_exchanged_at_a_switch_light_the_other_side(self) -> None:
        bench = self.lit(turn_switch="left")
        fault(bench, 4.0, "swapped pins", "turn-switch", "left/right")
        frames = [bench.frame(4.5 + 0.05 * step) for step in range(30)]
        left = max(percent(bench, row, "turn-lamp-front-left") for row in frames)
        right = max(percent(bench, row, "turn-lamp-front-right") for row in frames)
        self.assertGreater(right, 20)
        self.assertLess(left, 2)

    @proves("plug off", "wrong plug")
    def test_plugs_off_and_in_their_neighbour(self) -> None:
        bench = bench_of(two_plugs())
        do(bench, 1.0, "switch", "light", "on")
        self.assertGreater(percent(bench, bench.frame(2.0), "one"), 50)
        self.assertLess(percent(bench, bench.frame(2.0), "two"), 1)
        fault(bench, 3.0, "plug off", "plug-one")
        self.assertLess(percent(bench, bench.frame(4.0), "one"), 1)
        do(bench, 5.0, "mend", "all")
        fault(bench, 6.0, "wrong plug", "plug-one", "plug-two")
        frame = bench.frame(8.0)
        self.assertGreater(percent(bench, frame, "two"), 50)
        self.assertLess(percent(bench, frame, "one"), 1)

    @proves("weak battery")
    def test_a_weak_battery_sags_until_it_turns_no_engine(self) -> None:
        bench = bench_of(demo(ROADSTER))
        fault(bench, 0.2, "weak battery", "battery")
        do(bench, 0.5, "key", to="run")
        do(bench, 2.0, "key", to="crank")
        frame = bench.frame(4.0)
        self.assertLess(frame.battery_v, 8.0)
        self.assertFalse(frame.engine_runs)

    @proves("dead alternator")
    def test_an_alternator_dead_or_without_its_exciter_charges_nothing(self) -> None:
        for kind in ("dead alternator", "open wire"):
            bench = bench_of(demo(ROADSTER))
            exciter = self.wire_to(bench, "alternator.D+")
            of = "alternator" if kind == "dead alternator" else exciter
            fault(bench, 0.2, kind, of)
            do(bench, 0.5, "key", to="run")
            do(bench, 1.0, "value", "engine_rpm", 2500)
            frame = bench.frame(4.0)
            self.assertEqual(frame.alternator_a, 0.0, kind)
            self.assertLess(frame.battery_v, 12.7)

    @proves("stuck switch")
    def test_a_switch_that_is_stuck_does_not_answer(self) -> None:
        bench = self.lit(brake_switch="pressed")
        fault(bench, 4.0, "stuck switch", "brake-switch", "pressed")
        do(bench, 5.0, "switch", "brake-switch", "released")
        bench.run(7.0)
        self.assertGreater(self.now(bench, "stop-lamp-left"), 40)

    @proves("stand-in switch")
    def test_a_switch_of_the_other_kind_works_the_wrong_way_round(self) -> None:
        bench = self.lit()
        fault(bench, 4.0, "stand-in switch", "brake-switch")
        bench.run(5.0)
        self.assertGreater(self.now(bench, "stop-lamp-left"), 40)
        do(bench, 6.0, "switch", "brake-switch", "pressed")
        bench.run(8.0)
        self.assertLess(self.now(bench, "stop-lamp-left"), 1)

    @proves("stalled motor")
    def test_a_stalled_motor_takes_its_starting_current_and_stands(self) -> None:
        bench = self.lit()
        before = abs(amps(bench, bench.frame(3.0), "fuel-pump"))
        fault(bench, 4.0, "stalled motor", "fuel-pump")
        frame = bench.frame(4.5)
        self.assertEqual(percent(bench, frame, "fuel-pump"), 0.0)
        self.assertGreater(abs(amps(bench, frame, "fuel-pump")), 2.4 * before)

    @proves("tripped channel")
    def test_a_channel_that_stays_tripped_leaves_its_loads_dead(self) -> None:
        bench = bench_of(demo(VAN))
        do(bench, 0.5, "switch", "brake-pedal", "pressed")
        self.assertGreater(percent(bench, bench.frame(2.0), "stop-lamp-left"), 40)
        channel = next(
            line.name
            for module in modules(demo(VAN)).modules
            for line in module.channels
            if module.id == "rear-module" and "Stop lamp left" in line.loads
        )
        fault(bench, 3.0, "tripped channel", "rear-module", channel)
        self.assertLess(percent(bench, bench.frame(4.0), "stop-lamp-left"), 1)

    @proves("lost module", "lost bus")
    def test_what_a_lost_module_or_bus_takes_along(self) -> None:
        for kind in ("lost module", "lost bus"):
            bench = bench_of(demo(VAN))
            of = next(
                of for of, _ in can_have(bench.build, kind) if "rear" in of or kind == "lost bus"
            )
            do(bench, 0.5, "key", to="run")
            do(bench, 1.0, "switch", "keypad-button-1", "on")
            lit = {n for n, row in enumerate(bench.frame(3.0).load_percent) if row > 2}
            fault(bench, 4.0, kind, of)
            still = {n for n, row in enumerate(bench.frame(6.0).load_percent) if row > 2}
            self.assertLess(still, lit, kind)

    def test_every_kind_is_held_to_its_symptom(self) -> None:
        by_the_wipers = {"out of step"}  # with the rest of what wipers do
        self.assertEqual(PROVED | by_the_wipers, set(KINDS))


class TrippedChannelTest(TestCase):
    def test_a_channel_trips_into_a_short_tries_again_and_gives_up(self) -> None:
        bench = bench_of(demo(VAN))
        modules = {part.id for part in bench.build.parts_of_kind("module")}
        wire_id = next(
            row.id
            for row in bench.build.wires.values()
            if row.from_terminal.part in modules
            and any(
                way.name == row.from_terminal.name and way.when
                for way in bench.build.parts[row.from_terminal.part].ways
            )
        )
        owner = bench.build.wires[wire_id].from_terminal.part
        fault(bench, 1.0, "short to ground", wire_id)
        do(bench, 1.5, "key", to="run")
        for row in bench.build.parts.values():
            if row.kind in ("switch", "button") and row.contacts and "start" not in row.id:
                do(bench, 2.0, "switch", row.id, row.contacts.positions[-1].name)
        bench.run(8.0)
        trips = told(bench, "trips at")
        self.assertGreater(len(trips), 2)
        self.assertTrue(told(bench, "stays off"))
        do(bench, 9.0, "mend", "all")
        self.assertFalse(bench.moment.tripped)
        self.assertTrue(any(owner in row.of for row in bench.tape))


class AllTest(TestCase):
    def test_no_fault_anywhere_leaves_the_bench_unsettled(self) -> None:
        for name in (ROADSTER, VAN):
            sound = bench_of(demo(name))
            do(sound, 0.5, "key", to="run")
            sound.run(1.5)
            snapshot = sound.snapshot()
            for kind in KINDS:
                fits = [of for of, _ in can_have(sound.build, kind)]
                for of in fits[:: max(1, len(fits) // 2)][:2]:
                    others = list(others_for(sound.build, kind, of))
                    bench = Bench(demo(name))
                    bench.restore(snapshot)
                    fault(bench, 2.0, kind, of, others[-1] if others else "")
                    bench.run_to(2.6)
                    self.assertTrue(bench.point.settled, (kind, of))
                    self.assertLess(bench.point.operating.residual_a, 1e-6, (kind, of))


class DealtTest(TestCase):
    def test_what_is_dealt_can_be_and_is_the_same_for_a_seed(self) -> None:
        build = demo(ROADSTER).build
        for hard in HARD:
            kinds = set()
            for seed in range(30):
                dealt = deal(build, hard, f"{seed}")
                self.assertEqual(dealt, deal(build, hard, f"{seed}"))
                self.assertEqual(problem_of(dealt, build), "")
                self.assertEqual(KINDS[dealt.kind].hard, HARD.index(hard))
                self.assertTrue(dealt.blind)
                kinds.add(dealt.kind)
            self.assertGreater(len(kinds), 2)

    def test_a_guess_is_right_or_not_and_only_then_told(self) -> None:
        build = demo(ROADSTER).build
        dealt = Fault("blown fuse", "main-fuse", blind=True)
        self.assertEqual(judge(build, dealt, "battery", []).was, "")
        self.assertTrue(judge(build, dealt, "main-fuse", []).right)
        gives_up = judge(build, dealt, None, [])
        self.assertFalse(gives_up.right)
        self.assertIn("Main fuse", gives_up.was)

    def test_faults_that_cannot_be_are_refused_with_the_way_out(self) -> None:
        bench = bench_of(demo(ROADSTER))
        for kind, of, other in (
            ("blown fuse", "horn", ""),
            ("nothing", "horn", ""),
            ("wrong fuse", "main-fuse", "7"),
            ("open wire", "w9999", ""),
        ):
            with self.assertRaises(UnusableInput):
                fault(bench, 1.0, kind, of, other)
        self.assertTrue(bench.frame(1.5).settled)


def changeover(kind: str) -> dict:
    """A changeover relay with a lamp at rest and one pulled in."""
    return document(
        [
            part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10}),
            switch("feed", *ON_OFF),
            switch("light", *ON_OFF),
            part("relay", "relay", catalogue=kind),
            part("rest-lamp", "load", catalogue="Stop lamp 21 W"),
            part("lamp", "load", catalogue="Stop lamp 21 W"),
        ],
        [
            wire(1, "battery.+", "fuse.in"),
            wire(2, "fuse.out", "feed.in"),
            wire(3, "feed.out", "relay.30"),
            wire(4, "feed.out", "light.in"),
            wire(5, "light.out", "relay.86"),
            wire(6, "relay.85", "battery.-"),
            wire(7, "relay.87", "lamp.+"),
            wire(8, "relay.87a", "rest-lamp.+"),
            wire(9, "lamp.-", "battery.-"),
            wire(10, "rest-lamp.-", "battery.-"),
        ],
    )


def shared_ground() -> dict:
    """A tail lamp and a turn lamp on one ground point of a metal body; the turn lamp's feed is
    joined to ground through the other turn lamp in front, as a flasher at rest has it."""
    return document(
        [
            part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10}),
            switch("tail-switch", *ON_OFF),
            part("tail", "load", catalogue="Tail lamp 5 W"),
            part("turn", "load", catalogue="Turn lamp 21 W"),
            part("front", "load", catalogue="Turn lamp 21 W"),
            part("rear", "ground point"),
            part("nose", "ground point"),
            part("engine", "ground point"),
        ],
        [
            wire(1, "battery.+", "fuse.in"),
            wire(2, "fuse.out", "tail-switch.in"),
            wire(3, "tail-switch.out", "tail.+"),
            wire(4, "tail.-", "rear.stud"),
            wire(5, "turn.-", "rear.stud"),
            wire(6, "turn.+", "front.+"),
            wire(7, "front.-", "nose.stud"),
            wire(8, "engine.stud", "battery.-"),
        ],
        body_conducts=True,
    )


def two_plugs() -> dict:
    """Two lamps behind two plugs of one kind at one place, one of them fed."""
    pins = [{"name": "1"}]
    return document(
        [
            part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10}),
            switch("light", *ON_OFF),
            part("plug-one", "connector", pins=pins),
            part("plug-two", "connector", pins=pins),
            part("one", "load", catalogue="Stop lamp 21 W"),
            part("two", "load", catalogue="Stop lamp 21 W"),
        ],
        [
            wire(1, "battery.+", "fuse.in"),
            wire(2, "fuse.out", "light.in"),
            wire(3, "light.out", "plug-one.1a"),
            wire(4, "plug-one.1b", "one.+"),
            wire(5, "plug-two.1b", "two.+"),
            wire(6, "one.-", "battery.-"),
            wire(7, "two.-", "battery.-"),
        ],
    )

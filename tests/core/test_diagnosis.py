"""Finding faults: what is predicted under a fault is what the bench shows, one cause is found for
many symptoms, and dealt faults are found in few tests."""

from functools import cache
from unittest import TestCase, mock

import numpy as np

from circuitry.bench.faults import Fault
from circuitry.design.model import Terminal
from circuitry.design.state import State
from circuitry.diagnosis import Finder, Measured, Seen
from circuitry.diagnosis.predicted import Predicted
from circuitry.diagnosis.seen import BACKWARDS, DEAD, DIM, WORKS, near
from circuitry.diagnosis.suspects import concerned, suspects
from circuitry.diagnosis.tests import (
    HEALED,
    LAMP_LOOSE_V,
    STAYS_DARK,
    STAYS_LIT,
    THE_SAME,
    gain,
    shows,
    spans,
    swap_test,
    turns_tests,
)
from circuitry.diagnosis.tests import Test as DiagnosisTest
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.progress import Stopped, watched
from circuitry.proving.facts import short
from circuitry.proving.situation import Probe, Situation
from circuitry.reach.paths import paths_of
from tests.core.benches import COUPE, ROADSTER, VAN, demo
from tests.core.dealing import Dealer, Table, caught, one_of_each_kind


@cache
def dealer(name: str = ROADSTER) -> Dealer:
    return Dealer(demo(name))


def situation(title: str) -> Situation:
    return dealer().situation(title)


STOP = "Stop lamps: Brake pedal to pressed"
SIDE = "Side and tail lamps: Light switch to side"
DIP = "Dipped beam: Light switch to head"
FAULTS = (
    (Fault("open wire", "w49"), DIP),
    (Fault("bad joint", "w31", ohm=2.0), STOP),
    (Fault("short to ground", "w30"), STOP),
    (Fault("short to wire", "w35", "w49"), SIDE),
    (Fault("stuck relay", "dipped-beam-left-relay"), DIP),
    (Fault("missing relay", "horn-relay"), "Horn: Horn push to pressed"),
    (Fault("welded relay", "main-beam-left-relay"), DIP),
    (Fault("swapped pins", "light-switch", "side/head"), SIDE),
    (Fault("stuck switch", "dip-switch", "main"), DIP),
    (Fault("stand-in switch", "brake-switch"), STOP),
    (Fault("weak battery", "battery"), DIP),
    (Fault("blown fuse", "f2-side-lamp-left"), SIDE),
)


class PredictedTest(TestCase):
    """The low-rank changes of the steady network against the bench, which is another network of
    the car as it is wired, stepped through time."""

    def test_under_each_kind_of_fault_the_bench_shows_the_same(self) -> None:
        car = dealer()
        for fault, title in FAULTS:
            with self.subTest(str(fault)):
                at = situation(title)
                table = Table(car, [fault])
                looks = {row.load: row.word for row in table.look(at)}
                (number,) = car.predictor.numbers([fault]).tolist()
                for load, word in looks.items():
                    likely = Seen(at, load, word).likelihood(
                        car.predictor, car.predictor.numbers([fault])
                    )
                    self.assertGreater(float(likely[0]), 0.2, (load, word))
                predicted = car.predictor.predict(at, [number])
                self.assertIn(number, predicted.of)
                table.put(at)
                for load in looks:
                    self.assert_same_volts(table, load, predicted, number)

    def assert_same_volts(self, table: Table, load: str, predicted: Predicted, number: int) -> None:
        network = table.dealer.predictor.network
        for name in ("+", "-"):
            node = network.node[Terminal(load, name)]
            expected = float(predicted.node_v[predicted.of[number], node])
            shown = float(
                table.bench.point.operating.node_v[
                    table.bench.rig.network.node[Terminal(load, name)]
                ]
            )
            if expected == expected and shown == shown:
                self.assertAlmostEqual(shown, expected, delta=0.25, msg=f"{load}.{name}")

    def test_what_makes_no_difference_is_not_solved(self) -> None:
        car = dealer()
        numbers = car.predictor.numbers([Fault("open wire", "w49")]).tolist()
        predicted = car.predictor.predict(situation(STOP), numbers)
        self.assertNotIn(numbers[0], predicted.of)

    def test_a_module_without_its_ground_does_not_come_on(self) -> None:
        """It gets enough through what grounds elsewhere to hold what was on, but not to start."""
        car = dealer(COUPE)
        at = car.situation("Headlamps: Light switch to head")
        numbers = car.predictor.numbers([Fault("open wire", "w42")])
        for load in ("dipped-beam-left", "dipped-beam-right"):
            seen = Seen(at, load, DEAD)
            self.assertEqual(seen.likelihood(car.predictor, numbers)[0], 1.0, load)

    def test_a_lamp_that_is_fed_the_other_way_round_lights_and_a_motor_turns_backwards(
        self,
    ) -> None:
        van = dealer(VAN)
        for title, load, fault, word in (
            (
                "Side lamps: Light switch to side",
                "instrument-lamp",
                "instrument-cluster-plug 31/58",
                WORKS,
            ),
            (
                "Window left: Key to run, Window switch left to up",
                "window-motor-left",
                "window-switch-left in/ground",
                BACKWARDS,
            ),
        ):
            seen = Seen(van.situation(title), load, word)
            numbers = van.predictor.numbers([Fault("swapped pins", *fault.split())])
            with self.subTest(load):
                self.assertEqual(seen.likelihood(van.predictor, numbers)[0], 1.0)

    def test_a_search_that_is_stopped_leaves_nothing_half_known(self) -> None:
        """What was being solved when it was stopped is solved when it is asked for again."""
        car, at = Dealer(demo(ROADSTER)), situation(DIP)
        numbers = car.predictor.numbers([Fault("open wire", "w49")])
        car.predictor.predict(at)

        def stop(doing: str, share: float) -> None:
            raise Stopped

        from_rest = mock.patch.object(Network, "_going_on", return_value={})
        with from_rest, watched(stop), self.assertRaises(Stopped):
            car.predictor.ask({at: numbers.tolist()})
        seen = Seen(at, "dipped-beam-left", DEAD)
        self.assertEqual(seen.likelihood(car.predictor, numbers)[0], 1.0)


class FinderTest(TestCase):
    def finder(self) -> Finder:
        return Finder(dealer().predictor, dealer().situations)

    def seen(self, title: str, **words: str) -> list[Seen]:
        return [Seen(situation(title), load.replace("_", "-"), at) for load, at in words.items()]

    def test_one_dead_lamp_of_two_is_its_lamp_or_its_wires_not_what_they_share(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(DIP, dipped_beam_left=DEAD, dipped_beam_right=WORKS))
        ranked = [row.of for row in finder.ranked(4)]
        self.assertEqual(ranked[0], "dipped-beam-left")
        self.assertEqual(set(ranked[1:3]), {"w49", "w50"})

    def test_of_two_lamps_side_by_side_what_both_share_makes_neither_look_worse(self) -> None:
        """One dipped beam is dim and the other right: it is its lamp, its wire or its ground."""
        at, finder = situation(DIP), Finder(dealer().predictor, dealer().situations)
        finder.observe(Seen(at, "dipped-beam-left", DIM), Seen(at, "dipped-beam-right", WORKS))
        first = {row.of for row in finder.ranked(3)}
        self.assertEqual(first, {"dipped-beam-left", "w49", "w50"})
        shared = [row for row in finder.ranked(99) if row.of in ("w18", "w19", "w196", "w2")]
        self.assertLess(sum(row.share for row in shared), 0.05)

    def test_what_works_in_the_same_situation_counts(self) -> None:
        """A fuse that both lamps hang on is not what one of them lacks, though the other was only
        looked at beside it."""
        finder = self.finder()
        finder.observe(*self.seen(DIP, dipped_beam_left=DEAD, dipped_beam_right=WORKS))
        taken = [(row.load, row.word) for row in finder.observed if isinstance(row, Seen)]
        self.assertEqual(set(taken), {("dipped-beam-left", DEAD), ("dipped-beam-right", WORKS)})
        both = {row.of for row in finder.ranked(30) if row.share > 0.001}
        self.assertNotIn("f3-dipped-beam-left", both)

    def test_many_loads_amiss_by_one_cause_are_one_cause(self) -> None:
        """The ground bar at the nose has come off: lamps there glow through each other, the horn is
        dead, what grounds elsewhere works. Found within four tests."""
        car = dealer()
        cause = Fault("open wire", "w196")
        observed = Table(car, [cause]).walk()
        words = {row.word for row in observed}
        self.assertTrue({DEAD, DIM, WORKS} <= words, words)
        finder = self.finder()
        finder.observe(*observed)
        self.assertIn("w196", [row.of for row in finder.ranked(4)])
        game = car.play([cause])
        self.assertTrue(game.found)
        self.assertLessEqual(game.tests, 4)

    def test_a_test_halves_what_is_left_and_its_outcome_moves_the_suspects(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(DIP, dipped_beam_left=DEAD, dipped_beam_right=DEAD))
        test, bits = finder.best(1)[0]
        self.assertGreater(bits, 0.3)
        outcomes = finder.outcomes(test)
        self.assertGreater(len(outcomes), 1)
        self.assertAlmostEqual(sum(row.share for row in outcomes), 1.0, places=3)
        probe = Probe("volts", Terminal("panel", "F3"), Terminal("battery", "-"))
        finder.observe(Measured(situation(DIP), probe, 0.0), *self.seen(STOP, stop_lamp_left=WORKS))
        self.assertEqual(finder.ranked(1)[0].of, "f3-dipped-beam-left")

    def test_an_observation_that_is_mistaken_does_not_hide_the_fault(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(DIP, dipped_beam_left=DEAD, dipped_beam_right=WORKS))
        finder.observe(*self.seen(SIDE, tail_lamp_right=DIM))
        self.assertIn("dipped-beam-left", [row.of for row in finder.ranked(4)])

    def test_a_fault_under_which_the_car_never_settles_explains_whatever_is_seen(self) -> None:
        """Without the ground of its panel's bar a module wakes and sleeps without end."""
        car = dealer(COUPE)
        at, fault = car.situation("Headlamps: Light switch to head"), Fault("open wire", "w17")
        (number,) = car.predictor.numbers([fault]).tolist()
        self.assertIn(number, car.predictor.predict(at, [number]).unsettled)
        finder = Finder(car.predictor, car.situations)
        finder.observe(*(Seen(at, f"dipped-beam-{side}", DIM) for side in ("left", "right")))
        shares = {row.of: row.share for row in finder.ranked(99)}
        self.assertGreater(shares["w17"], 0.001)

    def test_of_one_dead_lamp_the_other_is_looked_at_first(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(STOP, stop_lamp_left=DEAD))
        test = finder.best(1)[0][0]
        self.assertEqual((test.kind, test.things), ("see", ("stop-lamp-right",)))
        words = {row.words for row in finder.outcomes(test)}
        self.assertTrue({WORKS, DEAD} <= words, words)
        both = self.finder()
        both.observe(*self.seen(STOP, stop_lamp_left=DEAD, stop_lamp_right=WORKS))
        finder.looked(test, WORKS)
        self.assertEqual(finder.ranked(1)[0].of, both.ranked(1)[0].of)
        self.assertNotIn(test.id, [row.id for row, _ in finder.best(8)])
        self.assertEqual(finder.test(test.id).id, test.id)

    def test_a_test_that_was_made_is_known_whatever_is_said_after(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(STOP, stop_lamp_left=DEAD))
        turns = [test.id for test in turns_tests(dealer().build, "f1-horn")]
        for name in ("refit/f1-horn", *turns, "alone/w31", "swap/horn-relay"):
            self.assertEqual(finder.test(name).id, name)
        self.assertRaises(UnusableInput, finder.test, "look/wings")

    def test_what_is_known_to_be_missing_is_no_suspect(self) -> None:
        rows = suspects(dealer().build, missing={"dipped-beam-left"})
        self.assertNotIn("dipped-beam-left", {row.of for row in rows})

    def test_it_was_not_that_and_cannot_get_there(self) -> None:
        finder = self.finder()
        finder.observe(*self.seen(DIP, dipped_beam_left=DEAD, dipped_beam_right=WORKS))
        first = finder.best(1)[0][0]
        finder.skip(first)
        self.assertNotEqual(finder.best(1)[0][0].id, first.id)
        finder.ruled_out("dipped-beam-left")
        self.assertNotEqual(finder.ranked(1)[0].of, "dipped-beam-left")


class BlownTest(TestCase):
    """Shorts: what has blown stays blown, what takes its time to blow was seen before it did."""

    def test_a_fuse_that_blew_at_the_horn_leaves_what_shares_it_dead(self) -> None:
        car = dealer()
        short = Fault("short to ground", "w24")
        (number,) = car.predictor.numbers([short]).tolist()
        horn, stop = situation("Horn: Horn push to pressed"), situation(STOP)
        car.predictor.ask({horn: [number], stop: [number]})
        blown = car.predictor.blown(number, [horn])
        self.assertEqual(blown, {"f1-horn"})
        self.assertEqual(car.predictor.blown(number, [stop]), set())
        opened = car.predictor.opened(number, blown)
        dead = Seen(stop, "stop-lamp-left", DEAD)
        self.assertLess(dead.likelihood(car.predictor, np.array([number]))[0], 0.01)
        self.assertEqual(dead.likelihood(car.predictor, np.array([opened]))[0], 1.0)
        finder = Finder(car.predictor, car.situations)
        finder.observe(Seen(horn, "horn", DEAD), dead, Seen(stop, "stop-lamp-right", DEAD))
        test = finder.test("look/fuses/panel")
        finder.looked(test, "f1-horn blown")
        finder.looked(finder.test("refit/f1-horn"), "blows again")
        behind = {step.owner for step in paths_of(car.build).behind(Terminal("f1-horn", "out"))}
        self.assertIn(finder.ranked(1)[0].of, behind)

    def test_the_wires_of_a_stud_are_taken_off_by_turns(self) -> None:
        car = dealer(COUPE)
        (test,) = (
            test
            for test in turns_tests(car.build, "main-fuse")
            if test.id == "turns/main-fuse/feed-bar.stud"
        )
        self.assertIn("w40", test.things)
        blown = frozenset({"main-fuse"})
        self.assertEqual(shows(test, Fault("short to ground", "w40"), blown), "w40 puts it out")
        elsewhere = Fault("short to ground", "w20")
        self.assertEqual(shows(test, elsewhere, blown), STAYS_LIT)
        self.assertEqual(shows(test, elsewhere, frozenset()), STAYS_DARK)

    def test_a_motor_that_stalls_runs_its_channel_warm_before_it_trips(self) -> None:
        car = dealer(COUPE)
        (number,) = car.predictor.numbers([Fault("stalled motor", "washer-pump")]).tolist()
        at = car.situation("Wipers and washer: Key to run, Wiper switch to wash")
        predicted = car.predictor.predict(at, [number, car.predictor.held(number)])
        self.assertIn(number, predicted.slow)
        node = car.predictor.network.node[Terminal("washer-pump", "+")]
        volts = predicted.volts(node, np.array([number, car.predictor.held(number)]))
        self.assertLess(volts[0], 1.0)
        self.assertGreater(volts[1], 9.0)

    def test_what_hangs_behind_the_fuse_of_a_coil_can_blow_it(self) -> None:
        """The radio of the van hangs on a relay whose coil shares a fuse with another relay: its
        pins exchanged blow that fuse, and the radio is dead."""
        build = demo(VAN).build
        self.assertIn("run-relay", concerned(build, build.parts["radio"], State("run")))
        self.assertNotIn("horn-relay", concerned(build, build.parts["radio"], State("run")))


class SwapTest(TestCase):
    def test_a_relay_is_exchanged_with_a_good_one_of_its_kind(self) -> None:
        car = dealer()
        test = swap_test(car.build, "horn-relay")
        assert test is not None
        twin = next(
            p for p in car.build.parts.values() if p.name in test.title and p.name != "Horn relay"
        )
        self.assertEqual(twin.catalogue, car.build.parts["horn-relay"].catalogue)
        for kind, of, expected in (
            ("stuck relay", "horn-relay", HEALED),
            ("stuck relay", twin.id, THE_SAME),
            ("swapped pins", "horn-relay", THE_SAME),
            ("open wire", "w24", THE_SAME),
        ):
            self.assertEqual(shows(test, Fault(kind, of), frozenset()), expected)
        self.assertIsNone(swap_test(car.build, "battery"))
        finder = Finder(car.predictor, car.situations)
        finder.observe(Seen(situation("Horn: Horn push to pressed"), "horn", DEAD))
        before = {row.of: row.share for row in finder.ranked()}
        finder.looked(finder.test("swap/horn-relay"), THE_SAME)
        after = {row.of: row.share for row in finder.ranked()}
        self.assertLess(after.get("horn-relay", 0.0), before["horn-relay"])


class JumpTest(TestCase):
    """A fused jumper in place of a contact: what works with it was lost there, or before it."""

    horn = "Horn: Horn push to pressed"

    def jumped(self, *faults: Fault) -> str:
        car = dealer()
        table, finder = Table(car, faults), Finder(car.predictor, car.situations)
        finder.observe(Seen(situation(self.horn), "horn", DEAD))
        test = finder.test(f"jump/horn-relay/30/87/horn/{short(situation(self.horn))}")
        table.make(finder, test)
        (seen,) = (row for row in finder.observed if row.situation == test.situation)
        assert isinstance(seen, Seen)
        return seen.word

    def test_at_the_bench_a_dead_relay_is_jumped_and_a_broken_wire_is_not(self) -> None:
        self.assertEqual(self.jumped(Fault("stuck relay", "horn-relay")), WORKS)
        self.assertEqual(self.jumped(Fault("open wire", "w24")), DEAD)

    def test_what_works_by_the_jumper_points_at_the_relay_and_what_works_it(self) -> None:
        finder = Finder(dealer().predictor, dealer().situations)
        finder.observe(Seen(situation(self.horn), "horn", DEAD))
        name = f"jump/horn-relay/30/87/horn/{short(situation(self.horn))}"
        before = {row.of: row.share for row in finder.ranked(40)}
        finder.looked(finder.test(name), WORKS)
        after = {row.of: row.share for row in finder.ranked(40)}
        self.assertGreater(after["horn-relay"], before["horn-relay"])
        self.assertLess(after.get("w24", 0.0), 0.01 * before["w24"])
        self.assertLess(after.get("f1-horn", 0.0), 0.1)

    def test_it_is_never_put_across_a_load_and_only_where_it_is_at_hand(self) -> None:
        finder = Finder(dealer().predictor, dealer().situations)
        finder.observe(Seen(situation(self.horn), "horn", DEAD))
        names = [row.of for row in finder.ranked(40)]
        jumps = [row for row in finder._tests(names, finder.in_play(), []) if "jump/" in row.id]
        kinds = {dealer().build.parts[row.id.split("/")[1]].kind for row in jumps}
        self.assertEqual(kinds, {"relay", "switch"})
        self.assertTrue(all(row.cautions for row in jumps))
        offered = [row for row, _ in finder.best(99)]
        self.assertTrue(any(row.tools == ("fused jumper",) for row in offered))
        for tool in ("fused jumper", "meter"):
            left = [row for row, _ in finder.best(99, without=[tool])]
            self.assertTrue(left)
            self.assertFalse(any(tool in row.tools for row in left))


class PairTest(TestCase):
    def seen(self) -> list[Seen]:
        """One of two stop lamps, and one of two dipped beams: they share nothing of their own."""
        stop, dip = situation(STOP), situation(DIP)
        works = [Seen(stop, "stop-lamp-right", WORKS), Seen(dip, "dipped-beam-right", WORKS)]
        return [Seen(stop, "stop-lamp-left", DEAD), Seen(dip, "dipped-beam-left", DEAD), *works]

    def test_what_no_single_fault_explains_is_two(self) -> None:
        finder = Finder(dealer().predictor, dealer().situations)
        finder.observe(*self.seen())
        first, second = finder.ranked(2)
        self.assertEqual({first.of, second.of}, {"dipped-beam-left", "stop-lamp-left"})
        for row in (first, second):
            name = dealer().build.parts[row.of].name
            self.assertEqual(row.words, f"lamp blown: {name}, beside another fault")
        finder.looked(finder.test("look/lamp/dipped-beam-left"), "dipped-beam-left blown")
        self.assertEqual(finder.ranked(1)[0].of, "dipped-beam-left")
        self.assertTrue(finder.is_sure())
        finder.ruled_out("dipped-beam-left")
        self.assertNotEqual(finder.ranked(1)[0].of, "dipped-beam-left")

    def test_what_one_fault_explains_is_one(self) -> None:
        finder = Finder(dealer().predictor, dealer().situations)
        finder.observe(*self.seen()[1:])
        self.assertTrue(all(row.beside is None for row in finder.suspects))

    def test_two_at_once_are_solved_as_both(self) -> None:
        predictor, at = dealer().predictor, situation(DIP)
        faults = Fault("open wire", "w49"), Fault("blown lamp", "side-lamp-left")
        one, other = predictor.numbers(faults).tolist()
        both = np.array([predictor.together(one, other)])
        for load in ("dipped-beam-left", "side-lamp-left"):
            self.assertEqual(Seen(at, load, DEAD).likelihood(predictor, both)[0], 1.0, load)
        self.assertEqual(Seen(at, "dipped-beam-right", WORKS).likelihood(predictor, both)[0], 1.0)


class MoveTest(TestCase):
    """What is moved tells now and then: by Bayes' rule nothing seen leaves two fifths of a
    suspicion, and something seen leaves little else."""

    def finder(self) -> Finder:
        finder = Finder(dealer().predictor, dealer().situations)
        words = {"dipped-beam-left": DIM, "dipped-beam-right": WORKS}
        finder.observe(*(Seen(situation(DIP), load, word) for load, word in words.items()))
        return finder

    def at_lamp(self, finder: Finder) -> DiagnosisTest:
        return finder.test(f"move/front-left/{short(situation(DIP))}")

    def test_nothing_seen_as_it_is_moved_leaves_some_suspicion(self) -> None:
        finder = self.finder()
        test = self.at_lamp(finder)
        outcomes = {row.words: row.share for row in finder.outcomes(test)}
        self.assertAlmostEqual(sum(outcomes.values()), 1.0, places=6)
        self.assertEqual(set(outcomes), {THE_SAME, "w49 changes it", "w50 changes it"})
        order = [suspect.fault for suspect in finder.suspects]
        here, elsewhere = (order.index(Fault("bad joint", of, ohm=2.0)) for of in ("w49", "w196"))
        before = finder.weights.copy()
        finder.looked(test, THE_SAME)
        share = finder.weights / before
        self.assertAlmostEqual(share[here] / share[elsewhere], 0.4, places=6)
        self.assertNotIn(test.id, [row.id for row, _ in finder.best(99)])

    def test_what_changes_as_it_is_moved_is_the_one(self) -> None:
        finder = self.finder()
        finder.looked(self.at_lamp(finder), "w50 changes it")
        self.assertEqual(finder.ranked(1)[0].of, "w50")
        self.assertTrue(finder.is_sure())

    def test_what_stays_as_it_is_or_has_blown_does_not_change(self) -> None:
        test = self.at_lamp(self.finder())
        for fault, parted, expected in (
            (Fault("chafe", "w49"), frozenset(), "w49 changes it"),
            (Fault("chafe", "w49"), frozenset({"f3-dipped-beam-left"}), THE_SAME),
            (Fault("blown lamp", "dipped-beam-left"), frozenset(), THE_SAME),
            (Fault("open wire", "w2"), frozenset(), THE_SAME),
        ):
            self.assertEqual(shows(test, fault, parted), expected)


class GainTest(TestCase):
    def test_a_test_that_splits_four_in_halves_tells_one_bit(self) -> None:
        groups, quarter = np.arange(4), np.full(4, 0.25)
        self.assertAlmostEqual(gain(np.array([0, 0, 1, 1]), groups, quarter), 1.0)
        self.assertAlmostEqual(gain(np.array([0, 1, 2, 3]), groups, quarter), 2.0)
        self.assertAlmostEqual(gain(np.zeros(4, dtype=int), groups, quarter), 0.0)

    def test_what_fits_both_outcomes_is_told_apart_by_neither(self) -> None:
        """Of two suspects the second may show either: an outcome that speaks for the first leaves
        the second as likely as before, and only the other half of the time is anything told."""
        bins, groups = np.array([0, 0, 1]), np.array([0, 1, 1])
        shares, left = np.array([0.5, 0.25, 0.25]), np.array([0.5, 0.5, 0.5])
        told = 1.0 - 0.75 * 1.0 - 0.25 * 0.0
        self.assertAlmostEqual(gain(bins, groups, shares, left), told)

    def test_readings_that_no_meter_tells_apart_are_one_span(self) -> None:
        volts = np.array([12.1, 0.02, 12.2, 6.0, np.nan, 0.1])
        self.assertEqual(spans(volts, "volts").tolist(), [3, 1, 3, 2, 0, 1])

    def test_a_lamp_that_is_cold_reads_less_than_it_would_hot(self) -> None:
        """A 21 W lamp in series with a coil of 45 Ω takes 0.23 A: hot it would show 2 V, cold it
        shows half a volt; a short shows all."""
        shown_v, loosely = (
            np.array([2.0, 0.5, 12.4]),
            spans(np.array([2.0, 0.5, 12.4]), "volts", LAMP_LOOSE_V),
        )
        self.assertEqual(loosely.tolist(), [0, 0, 1])
        self.assertGreater(near(shown_v, 0.5, "volts", LAMP_LOOSE_V)[0], 0.9)
        self.assertLess(near(shown_v, 0.5, "volts", LAMP_LOOSE_V)[2], 0.01)


class DealtTest(TestCase):
    """A few deals, looked for at the bench; many more in the measures."""

    def test_dealt_faults_are_found_in_few_tests(self) -> None:
        played = []
        for name, seeds in ((ROADSTER, ("t1", "t4", "t9")), (COUPE, ("t2", "t5", "t7"))):
            car = dealer(name)
            played += [car.play([car.dealt(seed)]) for seed in seeds]
        seen = [game for game in played if game.seen]
        self.assertGreater(len(seen), 1)
        self.assertTrue(all(game.found for game in seen), seen)
        self.assertLessEqual(sorted(game.tests for game in seen)[len(seen) // 2], 5)

    def test_faults_that_were_hard_to_find_are_found(self) -> None:
        """A feed of one side of the turn lamps, of which the other works; a short that is live
        only while the engine is cranked; pins of the relay on whose fuse nearly all hangs; and of
        one of two relays that turn a lock both ways."""
        for name, fault, most in (
            (VAN, Fault("open wire", "w76"), 3),
            (COUPE, Fault("short to ground", "w34"), 7),
            (ROADSTER, Fault("swapped pins", "run-relay", "30/86"), 12),
            (VAN, Fault("swapped pins", "central-locks-up-relay", "85/87a"), 4),
        ):
            game = dealer(name).play([fault])
            with self.subTest(str(fault), found=game.found):
                self.assertEqual(game.found, fault)
                self.assertLessEqual(game.tests, most)

    def test_a_lamp_behind_which_the_car_never_settles_is_not_offered(self) -> None:
        """With a lamp in place of the key fuse the van's flasher, keypad and pump control take
        away each other's feed: no such test is offered, and others are."""
        fault = Fault("short to ground", "w65")
        self.assertEqual(dealer(VAN).play([fault]).found, fault)


class CaughtTest(TestCase):
    def test_nearly_every_kind_of_fault_fails_some_step_of_the_plan(self) -> None:
        for name in (ROADSTER, COUPE):
            car = dealer(name)
            faults = one_of_each_kind(car, "caught", 3)
            missed = [fault for fault in faults if not caught(car, fault)]
            self.assertLessEqual(len(missed), 0.05 * len(faults), missed)

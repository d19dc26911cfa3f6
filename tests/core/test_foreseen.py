"""What faults may make of a situation to first order, held to the solver's whole answer."""

import random
from unittest import TestCase, mock

import numpy as np

from circuitry.design.model import Build
from circuitry.design.state import State
from circuitry.diagnosis import Finder, Predictor
from circuitry.diagnosis.foreseen import LIT, OUT, TO_SOLVE, Foreseen
from circuitry.diagnosis.suspects import suspects
from circuitry.document.reading import from_document
from circuitry.network import Network
from circuitry.network.equations import Join
from circuitry.network.network import OFF_PERCENT, Change, Settled
from circuitry.network.response import Response, changes_of
from circuitry.proving import Today
from circuitry.proving.situation import Situation
from tests.core.benches import COUPE, ROADSTER, VAN, demo
from tests.core.cars import document, part, wire
from tests.core.dealing import Dealer, Table

SITUATIONS, FAULTS = 2, 300
CLEARLY_LIT, CLEARLY_OUT_PERCENT = 0.65, 4.0
"""Nearer to where people change their word, either may be said."""


def heaters() -> Build:
    """Two heaters on one feed, and a third that nothing feeds: all of them resistors."""
    return from_document(
        document(
            [
                part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 30}),
                part("joint", "splice"),
                part("left", "load", catalogue="Seat heater"),
                part("right", "load", catalogue="Seat heater"),
                part("screen", "load", catalogue="Heated screen"),
            ],
            [
                wire(1, "battery.+", "fuse.in"),
                wire(2, "fuse.out", "joint.splice"),
                wire(3, "joint.splice", "left.+"),
                wire(4, "left.-", "battery.-"),
                wire(5, "joint.splice", "right.+"),
                wire(6, "right.-", "battery.-"),
                wire(7, "screen.-", "battery.-"),
            ],
        )
    )


class ResponseTest(TestCase):
    def test_where_everything_is_a_resistor_the_first_order_is_the_whole(self) -> None:
        """Open, worse, joined to ground, joined to what floats, and two of them at once."""
        network = Network(heaters())
        settled = network.settle(State("run"))
        row = {wire: at for at, wire in enumerate(network.build.wires)}
        node = {str(end): at for end, at in network.node.items()}
        changes = [
            Change(opens={row["w3"]}),
            Change(opens={row["w2"]}),
            Change(ohms={row["w1"]: 0.5}),
            Change(joins=[Join(node["left.+"], network.reference, 1 / 0.2)]),
            Change(joins=[Join(node["joint.splice"], node["screen.+"], 100.0)]),
            Change(opens={row["w5"]}, ohms={row["w4"]: 0.1}),
        ]
        answers = Response(network, settled, Change()).to(changes_of(network, changes))
        states = [State("run")] * len(changes)
        before_v = np.nan_to_num(settled.operating.node_v)
        for number, solved in enumerate(network.try_many(states, changes=changes)):
            assert isinstance(solved, Settled)
            known = ~np.isnan(solved.operating.node_v)
            with self.subTest(changes[number]):
                after_v = (before_v + answers[:, number])[known]
                np.testing.assert_allclose(after_v, solved.operating.node_v[known], atol=2e-3)

    def test_more_changes_than_there_is_place_for_are_not_foreseen(self) -> None:
        network = Network(heaters())
        change = Change(opens={0, 1}, joins=[Join(0, 1, 1.0)] * 15)
        self.assertFalse(changes_of(network, [change]).foreseen[0])


def in_order(row: Situation) -> str:
    """What situations are sorted by: the same in every process, as the order of a set is not."""
    sets = (sorted(map(str, rows)) for rows in (row.at, row.out, row.joined))
    return str((row.key, str(row.supply), *sets))


class ForeseenTest(TestCase):
    """Against the solver, by faults and situations drawn with a seed."""

    def test_what_is_foreseen_is_what_is_solved(self) -> None:
        draw = random.Random(29)
        told, other, blown_otherwise = 0, [], []
        for name in (ROADSTER, VAN, COUPE):
            dealer = Dealer(demo(name))
            near = draw.sample(sorted(dealer.build.wires), 8)
            every = np.unique(
                dealer.predictor.numbers(row.fault for row in suspects(dealer.build, near=near))
            )
            for situation in draw.sample(sorted(dealer.situations, key=in_order), SITUATIONS):
                numbers = np.array(draw.sample(every.tolist(), FAULTS))
                seen = self.held_to_the_solver(dealer.predictor, situation, numbers)
                told += seen[0]
                other += seen[1]
                blown_otherwise += seen[2]
        self.assertGreater(told, 0.7 * 3 * SITUATIONS * FAULTS * 45)
        self.assertLess(len(other), told / 20_000, other[:5])
        self.assertLessEqual(len(blown_otherwise), 2, blown_otherwise)

    def held_to_the_solver(
        self, predictor: Predictor, situation: Situation, numbers: np.ndarray
    ) -> tuple[int, list, list]:
        """How many loads are told, and those told clearly otherwise than they are solved; and the
        faults under which something else blows."""
        loads = list(range(len(predictor.load_at)))
        told = predictor.foresee(situation).loads(numbers, loads)  # type: ignore[union-attr]
        foreseen = predictor.foresee(situation)
        assert foreseen is not None
        predicted = predictor.predict(situation, numbers.tolist())
        sound = predictor.sound_percent(predicted)
        other, blown_otherwise = [], []
        for row, (number, at) in enumerate(zip(numbers, predicted.rows(numbers), strict=True)):
            if at < 0:
                continue
            percent = predicted.percent[at]
            off = np.abs(sound) < OFF_PERCENT
            as_sound = percent * np.sign(sound)  # what turns the other way has less than nothing
            clearly = as_sound >= CLEARLY_LIT * np.abs(sound)
            lit = np.where(off, np.abs(percent) >= OFF_PERCENT, clearly)
            out = np.abs(percent) < CLEARLY_OUT_PERCENT
            wrong = ((told[row] == LIT) & ~lit) | ((told[row] == OUT) & ~out)
            other += [(number, situation, load) for load in np.flatnonzero(wrong).tolist()]
            calm = (told[row] != TO_SOLVE).any()
            if calm and set(foreseen.blown(int(number))) != set(predicted.parted[at]):
                blown_otherwise.append((int(number), situation))
        return int((told != TO_SOLVE).sum()), other, blown_otherwise

    def test_the_finder_ranks_as_it_would_with_everything_solved(self) -> None:
        dealer = Dealer(demo(ROADSTER))
        for seed in ("foreseen 3", "foreseen 8"):
            fault = dealer.dealt(seed)
            observed = Table(dealer, [fault]).walk()
            with self.subTest(str(fault)):
                quick = Finder(dealer.predictor, dealer.situations)
                quick.observe(*observed)
                with mock.patch.object(Foreseen, "_step_on"):
                    slow = Finder(Predictor(dealer.build, Today()), dealer.situations)
                    slow.observe(*observed)
                shares = {row.of: row.share for row in slow.ranked(30)}
                for row in quick.ranked(12):
                    self.assertAlmostEqual(row.share, shares.get(row.of, 0.0), delta=0.02)

"""The integer programme against every combination there is, and the shelf."""

import random
from itertools import product
from unittest import TestCase

import numpy as np

from circuitry.sizing.least_copper import PRICE_MM2_M_PER_W, Fit, Loss, least_copper
from circuitry.sizing.reels import fewer_reels

AREAS = np.array([0.5, 1.0, 2.5, 4.0])
MOST = len(AREAS) - 1


class Case:
    """A few wires with random lengths and currents, on the ways of a few loads."""

    def __init__(self, draw: random.Random) -> None:
        self.count = draw.randint(2, 5)
        self.length_m = np.array([draw.uniform(0.3, 4) for _ in range(self.count)])
        self.ohm = self.length_m[:, None] * 0.0185 / AREAS
        self.floor = np.array([draw.randint(0, 1) for _ in range(self.count)])
        self.most = np.array([draw.randint(at, MOST) for at in self.floor])
        self.losses = [self._loss(draw) for _ in range(draw.randint(1, 3))]

    def _loss(self, draw: random.Random) -> Loss:
        wires = sorted(draw.sample(range(self.count), draw.randint(1, self.count)))
        amps = [draw.uniform(1, 15) for _ in wires]
        wire_v = sum(a * self.ohm[w, self.floor[w]] for w, a in zip(wires, amps, strict=True))
        lost_v = draw.uniform(0, 0.3) + wire_v
        return Loss(lost_v, draw.uniform(0.2, 0.9), 12.0, wires, amps, ["one"] * len(wires), 5.0)

    def cost(self, size: np.ndarray, price: float) -> float:
        """Copper beyond the floors, and the price of what is lost beyond the limits."""
        copper = float((self.length_m * (AREAS[size] - AREAS[self.floor])).sum())
        for loss in self.losses:
            saved = sum(
                amps * (self.ohm[wire, self.floor[wire]] - self.ohm[wire, size[wire]])
                for wire, amps in zip(loss.wires, loss.amps, strict=True)
            )
            copper += price * loss.load_a * max(loss.lost_v - saved - loss.limit_v, 0.0)
        return copper

    def fit(self, **fields: object) -> Fit:
        """What the programme answers."""
        return least_copper(
            self.floor, self.most, self.ohm, AREAS, self.length_m, self.losses, **fields
        )


def alike(case: Case, leg: list[int], size: np.ndarray) -> bool:
    """Whether a wire of a leg is as thick as another, as far as its floor and terminals go."""
    thickest = int(size[leg].max())
    return all(
        size[wire] >= min(thickest, case.most[wire]) or thickest <= case.floor[leg].max()
        for wire in leg
    )


class LeastCopperTest(TestCase):
    def test_nothing_costs_less_of_all_combinations(self) -> None:
        draw = random.Random(8)
        for _ in range(120):
            case = Case(draw)
            fit = case.fit(worth=0.0)
            spans = [range(case.floor[w], case.most[w] + 1) for w in range(case.count)]
            best = min(case.cost(np.array(sizes), PRICE_MM2_M_PER_W) for sizes in product(*spans))
            self.assertAlmostEqual(case.cost(fit.size, PRICE_MM2_M_PER_W), best, delta=best * 1e-3)
            self.assertLessEqual(fit.gap, 0.01)
            self.assertTrue(((fit.size >= case.floor) & (fit.size <= case.most)).all())

    def test_a_thicker_wire_that_nobody_would_notice_is_not_fitted(self) -> None:
        """1 m at 10 A: from 0.5 to 4 mm² saves 0.32 V, to 1 mm² 0.185 V; 1 % of 12 V is 0.12 V."""
        ohm = np.array([0.0185 / AREAS])
        floor, most, length = np.array([0]), np.array([MOST]), np.array([1.0])
        for amps, size in ((10.0, 1), (3.0, 0)):
            lost = float(amps * ohm[0, 0])
            loss = Loss(lost, lost - 0.05, 12.0, [0], [amps], ["one"], 50.0)
            fit = least_copper(floor, most, ohm, AREAS, length, [loss])
            self.assertEqual(fit.size.tolist(), [size], amps)

    def test_there_is_no_thin_piece_inside_a_thick_run(self) -> None:
        draw = random.Random(5)
        for _ in range(60):
            case = Case(draw)
            case.most[:] = MOST
            case.floor[0] = case.floor.max()
            fit = case.fit(worth=0.0, tapers=[(0, at) for at in range(1, case.count)])
            self.assertEqual(fit.size[0], fit.size.max())

    def test_a_leg_climbs_as_one_there_and_back_left_and_right(self) -> None:
        """Of all combinations in which the wires of a leg take the same size, where their floors
        and terminals let them, nothing costs less."""
        draw = random.Random(11)
        climbed = 0
        for _ in range(80):
            case = Case(draw)
            leg = sorted(draw.sample(range(case.count), 2))
            fit = case.fit(worth=0.0, legs=[leg])
            spans = [range(case.floor[w], case.most[w] + 1) for w in range(case.count)]
            sizes = [np.array(row) for row in product(*spans) if alike(case, leg, np.array(row))]
            best = min(case.cost(row, PRICE_MM2_M_PER_W) for row in sizes)
            self.assertTrue(alike(case, leg, fit.size))
            self.assertAlmostEqual(case.cost(fit.size, PRICE_MM2_M_PER_W), best, delta=best * 1e-3)
            climbed += bool((fit.size[leg] > case.floor[leg]).any())
        self.assertGreater(climbed, 20)

    def test_a_looser_limit_takes_no_more_copper(self) -> None:
        draw = random.Random(3)
        for _ in range(40):
            case = Case(draw)
            tight = case.fit().copper_mm2_m
            case.losses = [
                Loss(row.lost_v, row.limit_v + 0.1, 12.0, row.wires, row.amps, row.cables, 5.0)
                for row in case.losses
            ]
            self.assertLessEqual(case.fit().copper_mm2_m, tight + 1e-6)


class ReelsTest(TestCase):
    def test_a_size_of_which_much_is_needed_stays(self) -> None:
        size, most = np.array([0, 0, 1, 2]), np.full(4, 3)
        few = fewer_reels(size, most, AREAS, np.array([1.0, 1, 1, 30]))
        many = fewer_reels(size, most, AREAS, np.array([90.0, 90, 1, 30]))
        self.assertEqual(few.tolist(), [2, 2, 2, 2])
        self.assertEqual(many.tolist(), [0, 0, 2, 2])

    def test_a_terminal_that_takes_no_more_keeps_its_size(self) -> None:
        size, most = np.array([0, 1]), np.array([0, 3])
        self.assertEqual(fewer_reels(size, most, AREAS, np.ones(2)).tolist(), [0, 1])

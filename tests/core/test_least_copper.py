"""The integer programme against every combination there is, and the shelf."""

import random
from dataclasses import replace
from itertools import product
from unittest import TestCase

import numpy as np

from circuitry.sizing.least_copper import PRICE_MM2_M_PER_W, Fit, Loss, least_copper
from circuitry.sizing.reels import fewer_reels

AREAS = np.array([0.5, 1.0, 2.5, 4.0])
MOST = len(AREAS) - 1
STEPS = range(len(AREAS))


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
        cables, trunk = ["one"] * len(wires), wires[: draw.randint(0, len(wires))]
        trunk_v = draw.uniform(-0.2, 0.2) if trunk else 0.0
        limit_v = draw.uniform(0.2, 0.9)
        return Loss(lost_v, limit_v, 12.0, wires, amps, cables, 5.0, trunk, trunk_v)

    def cost(self, size: np.ndarray, price: float) -> float:
        """Copper beyond the floors, and the price of what is lost beyond the limits."""
        copper = float((self.length_m * (AREAS[size] - AREAS[self.floor])).sum())
        for loss in self.losses:
            saved = {
                wire: amps * (self.ohm[wire, self.floor[wire]] - self.ohm[wire, size[wire]])
                for wire, amps in zip(loss.wires, loss.amps, strict=True)
            }
            too_much = loss.lost_v - loss.limit_v
            beyond = [too_much - sum(saved.values())]
            beyond.append(loss.trunk_v - sum(saved[wire] for wire in loss.trunk))
            if too_much > 0:
                copper += price * loss.load_a * max(*beyond, 0.0)
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
        """1 m: from 0.5 to 1 mm² saves 0.185 V at 10 A and 0.056 V at 3 A; half a per cent of 12 V
        is 0.06 V."""
        ohm = np.array([0.0185 / AREAS])
        floor, most, length = np.array([0]), np.array([MOST]), np.array([1.0])
        for amps, size in ((10.0, 1), (3.0, 0)):
            lost = float(amps * ohm[0, 0])
            loss = Loss(lost, lost - 0.05, 12.0, [0], [amps], ["one"], 50.0)
            fit = least_copper(floor, most, ohm, AREAS, length, [loss], steps=STEPS)
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
        for _ in range(60):
            case = Case(draw)
            case.losses = [replace(row, trunk=(), trunk_v=0.0) for row in case.losses]
            before = case.fit(steps=STEPS).copper_mm2_m
            case.losses = [replace(row, limit_v=row.limit_v + 0.1) for row in case.losses]
            self.assertLessEqual(case.fit(steps=STEPS).copper_mm2_m, before + 1e-6)

    def test_less_current_takes_no_more_copper_for_a_load(self) -> None:
        """For one: several may change places, as what is worth it for all of them does."""
        draw = random.Random(3)
        bought = 0.0
        for _ in range(60):
            case, share = Case(draw), draw.uniform(0.5, 0.95)
            (row, *_) = case.losses
            row = replace(row, trunk=(), trunk_v=0.0)
            case.losses = [row]
            before = case.fit(steps=STEPS).copper_mm2_m
            bought += before
            amps = [share * amps for amps in row.amps]
            less = replace(row, lost_v=share * row.lost_v, amps=amps, load_a=share * row.load_a)
            case.losses = [less]
            self.assertLessEqual(case.fit(steps=STEPS).copper_mm2_m, before + 1e-6)
        self.assertGreater(bought, 50)

    def test_the_trunk_makes_up_for_itself_and_a_branch_does_not(self) -> None:
        """A branch of 4 m and a trunk of 4 m lose 0.3 V each; the trunk loses 0.1 V too much."""
        length = np.array([4.0, 4.0])
        ohm = length[:, None] * 0.0185 / AREAS
        lost = 2 * 4.0 * float(ohm[0, 0])
        size = {}
        for trunk_v in (0.0, 0.1):
            loss = Loss(
                lost, lost - 0.1, 12.0, [0, 1], [4.0, 4.0], ["trunk", "lamp"], 4.0, [0], trunk_v
            )
            # a thinner branch costs less copper, so that alone decides
            fit = least_copper(
                np.array([0, 0]), np.array([3, 3]), ohm, AREAS, np.array([4.0, 3.0]), [loss]
            )
            size[trunk_v] = fit.size.tolist()
        self.assertEqual(size, {0.0: [0, 1], 0.1: [1, 0]})


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

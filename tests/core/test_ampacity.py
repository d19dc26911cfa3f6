"""The heat balance against published figures."""

import math
from itertools import pairwise
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.sizing.ampacity import (
    convection_w_per_m2_k,
    free_air_ampacity_a,
    surface_loss_w_per_m,
)

THIN_WALL = "PVC heat-resistant thin wall"
ANCHORS_A = {
    "0.5": 11,
    "0.75": 14,
    "1": 16.5,
    "1.5": 21,
    "2": 25,
    "2.5": 29,
    "3": 33,
    "4": 39,
    "6": 50,
}


class AmpacityTest(TestCase):
    def carries(self, size: str, ambient_c: float = 60, insulation: str = THIN_WALL) -> float:
        tables = catalogue()
        return free_air_ampacity_a(tables.conductor[size], tables.insulation[insulation], ambient_c)

    def test_anchor_thin_wall_at_60_degrees(self) -> None:
        for size, anchor_a in ANCHORS_A.items():
            carries_a = self.carries(f"{size} mm²")
            self.assertLess(abs(carries_a / anchor_a - 1), 0.12, f"{size} mm²: {carries_a:.1f} A")

    def test_convection_of_a_known_pipe(self) -> None:
        """0.1 m pipe at 165 °C in 23 °C air: h = 7.29 W/m²K, 325 W/m by convection
        (Incropera and DeWitt, Fundamentals of Heat and Mass Transfer, example 9.4)."""
        film = convection_w_per_m2_k(0.1, 165, 23)
        self.assertAlmostEqual(film, 7.29, delta=0.25)
        self.assertAlmostEqual(film * math.pi * 0.1 * 142, 325, delta=11)

    def test_radiation_of_the_same_pipe(self) -> None:
        """441 W/m at emissivity 0.85; ours is 0.9."""
        loss = surface_loss_w_per_m(0.1, 165, 23)
        convection = convection_w_per_m2_k(0.1, 165, 23) * math.pi * 0.1 * 142
        self.assertAlmostEqual(loss - convection, 441 * 0.9 / 0.85, delta=3)

    def test_thicker_carries_more_and_hotter_places_less(self) -> None:
        for rows in catalogue().conductors.values():
            for thin, thick in pairwise(rows):
                self.assertLess(self.carries(thin.name), self.carries(thick.name))
        for cool, warm in pairwise(range(0, 105, 15)):
            self.assertGreater(self.carries("2 mm²", cool), self.carries("2 mm²", warm))

    def test_nothing_is_carried_at_the_limit(self) -> None:
        self.assertEqual(self.carries("6 mm²", 105), 0)

    def test_better_insulation_carries_more(self) -> None:
        self.assertLess(self.carries("1 mm²", 60, "PVC"), self.carries("1 mm²", 60, "silicone"))

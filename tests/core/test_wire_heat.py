"""How warm a wire gets: along its way by hand, in time against published figures."""

import math
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput
from circuitry.sizing.ampacity import free_air_ampacity_a
from circuitry.sizing.transient import warm_c, wire_of
from circuitry.sizing.wire_heat import wire_heat
from tests.core.cars import roadster_sizing

LAMP = "w49"


class AlongTest(TestCase):
    def test_every_spot_is_as_warm_as_its_own_ampacity_says(self) -> None:
        """``T = T_air + (T_limit − T_air) (I / I_z)²`` with I_z in the air, cover and company of
        each piece; the length is that to cut, and each place is met in order."""
        sizing = roadster_sizing()
        heat, row = wire_heat(sizing, LAMP), sizing.wires[LAMP]
        conductor = catalogue().conductor[row.size]
        insulation = catalogue().insulation[row.insulation]
        self.assertAlmostEqual(heat.spots[0].at_m, 0.0)
        self.assertAlmostEqual(heat.spots[-1].at_m, row.length_m)
        metres = [spot.at_m for spot in heat.spots]
        self.assertEqual(metres, sorted(metres))
        ends = (heat.spots[0], heat.spots[-1])
        for spot in ends:
            carries_a = free_air_ampacity_a(conductor, insulation, spot.ambient_c)
            rise_k = (heat.limit_c - spot.ambient_c) * (row.lasting_a / carries_a) ** 2
            self.assertAlmostEqual(spot.conductor_c, spot.ambient_c + rise_k, places=6)
        self.assertEqual(max(spot.ambient_c for spot in heat.spots), row.ambient_c)

    def test_the_hottest_spot_of_a_wire_that_is_chosen_is_within_its_limit(self) -> None:
        sizing = roadster_sizing()
        for row in sizing.wires.values():
            if not row.pinned:
                spots = wire_heat(sizing, row.wire).spots
                hottest_c = max(spot.conductor_c for spot in spots)
                self.assertLessEqual(hottest_c, wire_heat(sizing, row.wire).limit_c + 2, row.wire)


class InTimeTest(TestCase):
    def test_short_times_are_the_adiabatic_ones(self) -> None:
        """1 mm² of copper from 30 to 160 °C in 1 s: k = 115 A s^½/mm² from 70 °C, and 226 √ln(…)
        from here (IEC 60364-4-43 and IEC 60949)."""
        conductor = catalogue().conductor["1 mm²"]
        insulation = catalogue().insulation["PVC"]
        area = conductor.copper_area_mm2
        amps = 226 * area * math.sqrt(math.log((234.5 + 160) / (234.5 + 30)))
        self.assertAlmostEqual(
            warm_c(wire_of(conductor, insulation), 30.0, 1e9, 0.0, amps, 1.0), 160.0, delta=0.01
        )

    def test_in_the_end_it_is_as_warm_as_for_ever(self) -> None:
        """At its ampacity a wire ends at its limit, at half of it at a quarter of the rise."""
        row = roadster_sizing().wires[LAMP]
        conductor, insulation = (
            catalogue().conductor[row.size],
            catalogue().insulation[row.insulation],
        )
        limit_c = insulation.continuous_limit_c
        for share in (1.0, 0.5):
            ends_c = warm_c(
                wire_of(conductor, insulation),
                row.ambient_c,
                row.carries_a,
                0.0,
                share * row.carries_a,
                1e6,
            )
            expected_c = row.ambient_c + (limit_c - row.ambient_c) * share**2
            self.assertAlmostEqual(ends_c, expected_c, delta=0.01)

    def test_it_never_cools_under_an_overload_and_damage_is_where_it_crosses(self) -> None:
        heat = wire_heat(roadster_sizing(), LAMP, 60.0)
        row = heat.overload
        self.assertEqual(list(row.celsius), sorted(row.celsius))
        assert row.damage_s is not None
        before = max(
            (at for at, c in zip(row.seconds, row.celsius, strict=True) if c < heat.damage_c)
        )
        self.assertGreater(row.damage_s, 0.7 * before)
        self.assertLess(row.damage_s, 1.5 * before)

    def test_a_fuse_parts_in_time_for_a_chosen_wire_and_too_late_for_a_thin_one(self) -> None:
        sizing = roadster_sizing()
        self.assertTrue(wire_heat(sizing, LAMP, 30.0).overload.safe)
        self.assertFalse(wire_heat(sizing, "w77", 45.0).overload.safe)

    def test_what_cannot_be_asked_is_refused_by_name(self) -> None:
        for wire, amps in (("w999", 1.0), (LAMP, 0.0), (LAMP, 1e6), (LAMP, float("nan"))):
            with self.assertRaises(UnusableInput):
                wire_heat(roadster_sizing(), wire, amps)

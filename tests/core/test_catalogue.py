"""The reference figures are all there and sane."""

from itertools import pairwise
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput

STAGES = {
    *("stock", "lay-out", "feeds", "circuits", "size", "budget", "make"),
    *("power-up", "find-a-fault", "hand-over"),
}


class CatalogueTest(TestCase):
    def test_every_stage_has_help_and_every_word_its_stages(self) -> None:
        tables = catalogue()
        self.assertEqual({row.stage for row in tables.help}, STAGES)
        words = [row.word for row in tables.words]
        self.assertEqual(len(words), len(set(words)))
        for row in tables.words:
            self.assertLessEqual(set(row.stages.split()), STAGES, row.word)
            self.assertTrue(row.stages and row.meaning.endswith("."), row.word)

    def test_every_row_of_the_reference_is_loaded(self) -> None:
        tables = catalogue()
        counts = {
            "metric": len(tables.conductors["metric"]),
            "awg": len(tables.conductors["awg"]),
            "insulation": len(tables.insulation),
            "fuses": sum(map(len, tables.fuses.values())),
            "curves": sum(map(len, tables.fuse_curves.values())),
            "relays": len(tables.relays),
            "loads": len(tables.loads),
            "rings": len(tables.rings),
            "connectors": len(tables.connectors),
            "grouping": len(tables.grouping),
        }
        expected = {
            "metric": 18,
            "awg": 16,
            "insulation": 5,
            "fuses": 88,
            "curves": 60,
            "relays": 12,
            "loads": 91,
            "rings": 8,
            "connectors": 10,
            "grouping": 12,
        }
        self.assertEqual(counts, expected)

    def test_thicker_conductors_resist_less_and_are_fatter(self) -> None:
        for rows in catalogue().conductors.values():
            for thin, thick in pairwise(rows):
                self.assertLess(thin.copper_area_mm2, thick.copper_area_mm2)
                self.assertGreater(thin.r20_mohm_per_m, thick.r20_mohm_per_m)
                self.assertLess(thin.outside_diameter_mm, thick.outside_diameter_mm)

    def test_resistance_follows_from_copper_area(self) -> None:
        """17.241 Ω·mm²/km for annealed copper (IEC 60028), with lay and class tolerance."""
        for rows in catalogue().conductors.values():
            for row in rows:
                ideal = 17.241 / row.copper_area_mm2
                self.assertGreater(row.r20_mohm_per_m, ideal * 0.98, row.name)
                self.assertLess(row.r20_mohm_per_m, ideal * 1.13, row.name)

    def test_larger_fuses_resist_less(self) -> None:
        for family, rows in catalogue().fuses.items():
            for small, large in pairwise(rows):
                self.assertLess(small.rating_a, large.rating_a, family)
                self.assertGreaterEqual(
                    small.cold_resistance_mohm, large.cold_resistance_mohm, family
                )

    def test_fuse_curves_fall_and_have_an_order(self) -> None:
        for family, points in catalogue().fuse_curves.items():
            self.assertIn(
                family, {*catalogue().fuses, "breaker auto-reset", "breaker manual-reset"}
            )
            for low, high in pairwise(points):
                self.assertLess(low.multiple_of_rating, high.multiple_of_rating)
                self.assertGreater(low.least_time_s, high.least_time_s)
            for point in points:
                if point.most_time_s is not None:
                    self.assertLess(point.least_time_s, point.most_time_s)

    def test_insulation_temperatures_rise_with_severity(self) -> None:
        for row in catalogue().insulation.values():
            self.assertLess(row.continuous_limit_c, row.overload_240h_limit_c)
            self.assertLessEqual(row.overload_240h_limit_c, row.short_circuit_limit_c)

    def test_every_relay_pulls_in_above_drop_out_and_carries_less_when_hot(self) -> None:
        for row in catalogue().relays.values():
            self.assertGreater(row.pull_in_max_v, row.drop_out_min_v)
            self.assertGreaterEqual(row.no_continuous_a_23c, row.no_continuous_a_85c)
            self.assertEqual(row.has_rest_contact, row.nc_continuous_a_23c is not None, row.kind)

    def test_every_load_gives_power_or_current(self) -> None:
        for row in catalogue().loads.values():
            self.assertNotEqual(row.rated_w is None, row.rated_a is None, row.name)
            self.assertGreaterEqual(row.inrush_x, 1)

    def test_grouping_only_takes_away(self) -> None:
        factors = catalogue().grouping_factors([count / 4 for count in range(4, 160)]).tolist()
        self.assertEqual((factors[0], factors[4]), (1.0, 0.8))
        for few, many in pairwise(factors):
            self.assertGreaterEqual(few, many)

    def test_an_unknown_fuse_says_which_there_are(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "It comes as 1, 2, 3"):
            catalogue().fuse("regular blade", 11)

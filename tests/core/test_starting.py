"""Inrush, end stops and stuck motors against the fuse before them, and slow families."""

import math
from unittest import TestCase

from circuitry.catalogue import catalogue
from circuitry.design.model import Build
from circuitry.devices.fuse_times import longest_time_s, middle_time_s, shortest_time_s
from circuitry.document.reading import from_document, read
from circuitry.edits import apply_operations
from circuitry.finding import Finding
from circuitry.sizing import size_build
from circuitry.sizing.starting import Starting, pulse, survives
from circuitry.sizing.time_current import time_current
from tests.core.cars import ROOT, document, part, switch, wire


def car(family: str, load: str, rating_a: float | None = None, **figures: float) -> Build:
    """A load behind a switch and a fuse in its feed."""
    fitted = {} if rating_a is None else {"rating_a": rating_a}
    parts = [
        part("fuse", "fuse", catalogue=family, figures=fitted),
        switch("push", ("off", []), ("on", [["in", "out"]])),
        part("load", "load", catalogue=load, figures=figures),
    ]
    ends = [
        ("battery.+", "fuse.in"),
        ("fuse.out", "push.in"),
        ("push.out", "load.+"),
        ("load.-", "battery.-"),
    ]
    wires = [wire(number, *pair, size=None) for number, pair in enumerate(ends)]
    return from_document(document(parts, wires))


def found(build: Build, code: str) -> list[Finding]:
    return [row for row in size_build(build).findings if row.code == code]


class PulseTest(TestCase):
    def test_melting_integral_is_that_of_the_falling_current(self) -> None:
        """Against the sum over small steps of ``i² dt`` for a lamp and a motor that start beside
        3 A."""
        rows = [Starting("a", "A", 41, 0.06, 4.1, False), Starting("b", "B", 30, 0.15, 6, False)]
        steps, until_s = 20_000, 0.15
        summed = 0.0
        for number in range(steps):
            at = (number + 0.5) * until_s / steps
            amps = 3 + sum(
                r.running_a + (r.inrush_a - r.running_a) * math.exp(-3 * at / r.inrush_s)
                for r in rows
            )
            summed += amps**2 * until_s / steps
        row = pulse(rows, 3.0)
        self.assertAlmostEqual(row.peak_a, 74.0)
        self.assertAlmostEqual(row.peak_a**2 * row.seconds, summed, delta=1e-4 * summed)

    def test_what_does_not_rise_as_it_starts_asks_nothing(self) -> None:
        self.assertEqual(pulse([Starting("a", "A", 4.5, 0.0, 4.5, False)], 0.0).seconds, 0.0)


class FamiliesTest(TestCase):
    def test_bands_are_those_of_the_tables(self) -> None:
        """At twice the rating: blades part in 0.15 to 5 s (ISO 8820-3), cartridges in 5 to 100 s,
        breakers in 4 to 30 s and those of panels in 10 to 60 s; a link at 2.5 times in 5 to 30."""
        for family, times, least_s, most_s in (
            ("regular blade", 2.0, 0.15, 5.0),
            ("cartridge", 2.0, 5.0, 100.0),
            ("breaker auto-reset", 2.0, 4.0, 30.0),
            ("breaker panel", 2.0, 10.0, 60.0),
            ("fusible link", 2.5, 5.0, 30.0),
        ):
            rating_a = catalogue().fuses[family][0].rating_a
            amps = times * rating_a
            self.assertAlmostEqual(shortest_time_s(family, rating_a, amps), least_s, places=6)
            self.assertAlmostEqual(longest_time_s(family, rating_a, amps), most_s, places=6)
            middle_s = math.sqrt(least_s * most_s)
            self.assertAlmostEqual(middle_time_s(family, rating_a, amps), middle_s, places=6)

    def test_every_family_has_a_curve_and_sizes_a_car(self) -> None:
        for family in catalogue().fuses:
            self.assertTrue(catalogue().fuse_curves[family], family)
            row = size_build(car(family, "Electric water pump")).fuses["fuse"]
            self.assertGreaterEqual(row.carries_a, row.lasting_a, family)

    def test_a_breaker_bears_less_where_it_is_hot_than_a_fuse(self) -> None:
        """At 60 °C: 0.5 % a kelvin against 0.15 %."""
        build = car("breaker panel", "Electric water pump")
        row = build.places[build.parts["fuse"].place]
        fields = {"ambient_c": 60.0}
        hot = apply_operations(
            build, [{"op": "change", "collection": "places", "id": row.id, "fields": fields}]
        )
        self.assertAlmostEqual(size_build(hot).fuses["fuse"].bears_a, 25 * (1 - 0.005 * 35))


class StartingTest(TestCase):
    def test_a_fast_fuse_is_chosen_larger_for_a_fan_and_a_slow_one_is_not(self) -> None:
        fast = size_build(car("regular blade", "Radiator fan 400 mm")).fuses["fuse"]
        slow = size_build(car("cartridge", "Radiator fan 400 mm")).fuses["fuse"]
        self.assertGreaterEqual(fast.rating_a, 35)
        self.assertEqual(slow.rating_a, 30)

    def test_one_that_is_pinned_too_fast_is_told_and_mended(self) -> None:
        build = car("regular blade", "Radiator fan 400 mm", 30.0)
        (row,) = found(build, "start-parts-fuse")
        self.assertIn("load starts", row.title)
        labels = [mend.label for mend in row.mends]
        self.assertIn("Fit a slow cartridge fuse", labels)
        for mend in row.mends:
            mended = apply_operations(build, list(mend.operations))
            self.assertEqual(found(mended, "start-parts-fuse"), [], mend.label)
        self.assertEqual(found(car("cartridge", "Radiator fan 400 mm", 30.0), row.code), [])

    def test_a_window_at_its_end_does_not_part_its_fuse(self) -> None:
        """22 A for two seconds: a blade of 10 A would part, the one that is chosen does not."""
        (row,) = found(car("regular blade", "Window motor", 7.5), "start-parts-fuse")
        self.assertIn("stands at its end", row.title)
        self.assertEqual(found(car("regular blade", "Window motor"), "start-parts-fuse"), [])

    def test_a_stuck_motor_parts_its_fuse_unless_that_is_too_large(self) -> None:
        self.assertEqual(found(car("regular blade", "Wiper motor slow"), "stall-not-cleared"), [])
        (row,) = found(car("regular blade", "Wiper motor slow", 20.0), "stall-not-cleared")
        self.assertIn("sticks", row.title)

    def test_a_breaker_that_closes_again_is_told_before_lamps_only(self) -> None:
        lamp = car("breaker auto-reset", "Dipped beam halogen 55 W")
        self.assertEqual(len(found(lamp, "breaker-cycles")), 1)
        self.assertEqual(found(car("breaker auto-reset", "Wiper motor slow"), "breaker-cycles"), [])
        by_hand = car("breaker manual-reset", "Dipped beam halogen 55 W")
        self.assertEqual(found(by_hand, "breaker-cycles"), [])

    def test_the_picture_says_which_start_is_the_hardest(self) -> None:
        curves = time_current(size_build(car("regular blade", "Radiator fan 400 mm", 30.0)), "fuse")
        assert curves.start is not None
        self.assertFalse(curves.survives)
        self.assertAlmostEqual(curves.start.amps, 84, delta=4)
        self.assertLess(curves.start.margin, 2.0)


class SolenoidTest(TestCase):
    def test_a_starters_fuse_survives_its_solenoid_pulling_in(self) -> None:
        """35 A for a fifth of a second beside nothing, 10 A held: 7.5 A would part, and is not
        chosen in a car that is started by recipe."""
        sizing = size_build(read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes()))
        fuse = next(row for row in sizing.fuses.values() if "start-relay" in row.fuse)
        curves = time_current(sizing, fuse.fuse)
        assert curves.start is not None
        self.assertAlmostEqual(curves.start.amps, 35, delta=2)
        self.assertTrue(curves.survives)
        self.assertGreaterEqual(fuse.rating_a, 15)
        group = (tuple(curves.start.loads),)
        self.assertFalse(survives("regular blade", 7.5, group, 10.0))

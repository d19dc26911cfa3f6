from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from circuitry import quantities
from circuitry.quantities import NotUnderstood


class QuantitiesTest(TestCase):
    def test_lengths_as_people_type_them(self) -> None:
        """A foot is 0.3048 m and an inch 0.0254 m (international yard and pound agreement)."""
        for text, metres in (
            ("3 ft 4", 1.016),
            ("3' 4\"", 1.016),
            ("3ft", 0.9144),
            ("40 in", 1.016),
            ("1,2", 1.2),
            ("85cm", 0.85),
            ("250 mm", 0.25),
        ):
            self.assertAlmostEqual(quantities.length_m(text), metres, msg=text)

    def test_lengths_that_are_none(self) -> None:
        for text in ("", "0", "400 m", "-1", "3 m 4", "long", "1 2 3", "3 furlongs"):
            with self.assertRaises(NotUnderstood, msg=text):
                quantities.length_m(text)

    def test_ratings(self) -> None:
        for text, figure in (
            ("55W", ("rated_w", 55.0)),
            ("0,5 A", ("rated_a", 0.5)),
            ("500 mA", ("rated_a", 0.5)),
            ("1.4kW", ("rated_w", 1400.0)),
        ):
            self.assertEqual(quantities.rating(text), figure)
        self.assertEqual(quantities.rating("21", "w"), ("rated_w", 21.0))
        for text in ("21", "lots", "-5 W", "0 A", "5 V"):
            with self.assertRaises(NotUnderstood, msg=text):
                quantities.rating(text)

    def test_wire_sizes(self) -> None:
        for text, name in (
            ("1.5 mm2", "1.5 mm²"),
            ("1,5", "1.5 mm²"),
            ("18 AWG", "18 AWG"),
            ("16ga", "16 AWG"),
        ):
            self.assertEqual(quantities.conductor(text), name)
        self.assertEqual(quantities.conductor("14", "awg"), "14 AWG")
        with self.assertRaisesRegex(NotUnderstood, "a size that is made: 0.35 mm², 0.5 mm²"):
            quantities.conductor("1.7 mm2")

    @given(st.floats(0.01, 99.9), st.sampled_from(["m", "cm", "mm", "ft", "in"]))
    def test_a_length_written_in_any_unit_is_the_same_length(
        self, metres: float, unit: str
    ) -> None:
        text = f"{metres / quantities.METRES[unit]:.9f} {unit}"
        self.assertAlmostEqual(quantities.length_m(text), metres, places=6)

    @given(st.text(max_size=30))
    def test_any_text_is_read_or_refused_in_words(self, text: str) -> None:
        for read in (quantities.length_m, quantities.rating, quantities.conductor, quantities.amps):
            try:
                read(text)
            except NotUnderstood as problem:
                self.assertTrue(str(problem))

"""What if? Each question names what would change, and its operations make it so."""

from unittest import TestCase

from circuitry.edits import apply_operations
from circuitry.edits.mending import mend_all
from circuitry.edits.what_if import QUESTIONS, Asked, operations_of, what_changes
from circuitry.errors import UnusableInput
from circuitry.sizing import size_build
from tests.core.cars import roadster, roadster_sizing

ASKED = (
    Asked("lamps to LED"),
    Asked("battery elsewhere", place="nose"),
    Asked("a reel used up", size="4 mm²"),
    Asked("a load takes", part="radiator-fan", amount=11.0),
    Asked("hotter", amount=20.0),
    Asked("another school", school="by ampacity alone"),
)


class WhatIfTest(TestCase):
    def test_every_question_changes_what_it_asks(self) -> None:
        self.assertEqual({row.question for row in ASKED}, set(QUESTIONS))
        for asked in ASKED:
            with self.subTest(asked.question):
                label, operations = operations_of(roadster(), asked)
                after = size_build(apply_operations(roadster(), operations))
                changes = what_changes(roadster_sizing(), after)
                self.assertTrue(label)
                self.assertTrue(changes.wires or changes.fuses or changes.drops)
                used = {row.size for row in after.wires.values() if not row.pinned}
                if asked.size:
                    self.assertNotIn(asked.size, used)

    def test_a_smaller_fan_and_a_freer_school_take_less_copper(self) -> None:
        for asked in (ASKED[3], ASKED[5]):
            _, operations = operations_of(roadster(), asked)
            after = size_build(apply_operations(roadster(), operations))
            changes = what_changes(roadster_sizing(), after)
            self.assertLessEqual(changes.copper_kg_after, changes.copper_kg_before)

    def test_what_cannot_be_asked_says_why(self) -> None:
        for asked, code in (
            (Asked("colder"), "unknown-question"),
            (Asked("battery elsewhere", place="moon"), "unknown-place"),
            (Asked("a reel used up", size="95 mm²"), "not-on-the-shelf"),
            (Asked("a load takes", part="horn", amount=-1.0), "bad-amount"),
            (Asked("a load takes", part="panel", amount=1.0), "unknown-load"),
            (Asked("hotter"), "bad-amount"),
            (Asked("another school", school="mine"), "unknown-school"),
            (Asked("another school", school="by kind of load"), "nothing-to-do"),
        ):
            with self.subTest(asked), self.assertRaises(UnusableInput) as caught:
                operations_of(roadster(), asked)
            self.assertEqual(caught.exception.code, code)


class MendAllTest(TestCase):
    def test_all_that_are_safe_are_mended_and_nothing_is_worse(self) -> None:
        mended = mend_all(roadster(), size_build)
        self.assertGreater(len(mended.mends), 3)
        after = size_build(apply_operations(roadster(), list(mended.operations)))
        for severities in (("stop",), ("stop", "look")):
            before, now = (
                sum(row.severity in severities for row in sizing.findings)
                for sizing in (roadster_sizing(), after)
            )
            self.assertLess(now, before)
        titles = {row.title for row in after.findings if row.mends}
        self.assertLessEqual(titles, set(mended.left))

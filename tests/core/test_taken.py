"""Functions of one car written in another as they were answered there."""

from unittest import TestCase

from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.recipes.sample import bare_car
from circuitry.recipes.taken import Taken, taken_over
from tests.core.benches import COUPE, ROADSTER, VAN, demo
from tests.core.cars import roadster


def operation(taken: Taken) -> dict:
    answers = dict(taken.answers)
    return {"op": "write_recipe", "recipe": taken.recipe, "answers": answers, "name": taken.name}


class TakenTest(TestCase):
    def test_every_function_of_the_demos_comes_with_its_loads_and_name(self) -> None:
        bare, made, refused = bare_car(), 0, set()
        for car in (ROADSTER, VAN, COUPE):
            other = demo(car).build
            for circuit in (row for row in other.circuits.values() if row.written):
                taken = taken_over(bare, other, circuit.id)
                try:
                    after = apply_operations(bare, [operation(taken)])
                except UnusableInput:
                    refused.add(taken.recipe)
                    continue
                new = [row for row in after.circuits.values() if row.id not in bare.circuits]
                self.assertIn(circuit.name, [row.name for row in new])
                here = {load.name for row in new for load in after.loads_of(row.id)}
                there = {load.name for load in other.loads_of(circuit.id)}
                self.assertEqual(there - here, set(), circuit.name)
                made += 1
        self.assertGreater(made, 60)
        self.assertEqual(refused, {"data-bus"})  # there is nothing to join in a bare car

    def test_what_is_there_is_used_and_what_means_nothing_here_is_asked_anew(self) -> None:
        here, other = roadster(), demo(VAN).build
        switches = {part.name: part.id for part in here.parts_of_kind("switch")}
        taken = taken_over(here, other, "stop-lamp-left")
        self.assertEqual(taken.answers["switch"], {"part": switches["Brake pedal"]})
        self.assertEqual(taken.answers["load"]["row"], other.parts["stop-lamp-left"].catalogue)
        self.assertIn(taken.answers["load"]["place"], here.places)
        self.assertIn("Module", taken_over(here, other, "amplifier").anew)

    def test_what_no_recipe_wrote_is_refused_in_words(self) -> None:
        other = demo(ROADSTER).build
        by_hand = next(row for row in other.circuits.values() if row.written is None)
        for circuit in (by_hand.id, "ghost"):
            with self.assertRaisesRegex(UnusableInput, "not written as a function there"):
                taken_over(bare_car(), other, circuit)

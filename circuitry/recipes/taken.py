"""A function as it was written in another car, asked again in this one."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.design.model import Build, Circuit, Part
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question, place_near, suiting, table_named
from circuitry.recipes.book import RECIPES

ANSWERED_HERE = ("fuse", "terminals")
"""Kinds of question whose answers mean nothing in another car."""


@dataclass(frozen=True)
class Taken:
    """What to ask a recipe for: the answers of the other car, with the parts and places of this
    one. ``anew`` are questions that this car has to answer by itself."""

    recipe: str
    name: str
    answers: Mapping[str, Any]
    anew: tuple[str, ...]


def taken_over(build: Build, other: Build, circuit_id: str) -> Taken:
    """A written circuit of another build, in the words of this one; raises UnusableInput.

    A part of the same name that is free here is used; any other is asked for as a new one like it,
    at the place that is called most like its own.
    """
    circuit = other.circuits.get(circuit_id)
    if circuit is None or circuit.written is None or circuit.written.recipe not in RECIPES:
        raise UnusableInput(
            "not-a-function",
            circuit_id,
            f"{circuit.name if circuit else circuit_id} was not written as a function there, so "
            "it cannot be asked for again. Add it by its parts.",
        )
    answers, anew = {}, []
    for question in RECIPES[circuit.written.recipe].questions:
        if question.name not in circuit.written.answers:
            continue
        answer = circuit.written.answers[question.name]
        try:
            answers[question.name] = _here(build, other, question, answer)
        except LookupError:
            anew.append(question.label)
    return Taken(circuit.written.recipe, _free_name(build, circuit), answers, tuple(anew))


def _here(build: Build, other: Build, question: Question, answer: Any) -> Any:
    """An answer in this car; raises LookupError where it has none."""
    match question.kind:
        case "loads":
            return [_part(build, other, question, row) for row in answer or ()]
        case "load" | "switch" | "sender":
            return None if answer is None else _part(build, other, question, answer)
        case "place":
            return _place(build, other, answer)
        case "part":
            return None if answer is None else _same(build, other.parts[answer]).id
        case kind if kind in ANSWERED_HERE and answer:
            raise LookupError(question.name)
    return answer


def _part(build: Build, other: Build, question: Question, answer: Mapping[str, str]) -> Any:
    if "part" not in answer:
        return {**answer, "place": _place(build, other, answer["place"])}
    there = other.parts[answer["part"]]
    free = [part for part in suiting(build, question) if part.name == there.name]
    if free:
        return {"part": free[0].id}
    place = _place(build, other, there.place)
    return {"row": _row(question, there), "place": place, "name": there.name}


def _row(question: Question, part: Part) -> str:
    """The catalogue row or contact table of this question that a part is most like."""
    if question.kind == "switch":
        alike = (row for row in question.rows if table_named(row) == part.contacts)
        return next(alike, question.rows[0])
    return part.catalogue or question.rows[0]


def _place(build: Build, other: Build, place_id: str) -> str:
    place = other.places[place_id]
    words = tuple(place.name.lower().replace(",", "").split())
    by_name = (here.id for here in build.places.values() if here.name == place.name)
    return next(by_name, place_near(build, words).id)


def _same(build: Build, part: Part) -> Part:
    for here in build.parts_of_kind(part.kind):
        if here.name == part.name:
            return here
    raise LookupError(part.name)


def _free_name(build: Build, circuit: Circuit) -> str:
    names = {row.name for row in build.circuits.values()}
    names_for = (f"{circuit.name[:76]} {number}" for number in range(2, len(names) + 3))
    return next(name for name in (circuit.name, *names_for) if name not in names)

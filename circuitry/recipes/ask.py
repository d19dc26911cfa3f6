"""What a recipe asks, and the answers it takes for granted from what the build already has."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.design.model import Build, Part, Place
from circuitry.devices import switches_of
from circuitry.devices.contact_tables import ISOLATOR, KILL_ISOLATOR, TABLES

Answers = Mapping[str, Any]


@dataclass(frozen=True)
class Question:
    """One thing that a recipe asks for.

    ``kind`` is load, loads, switch, sender, part, place, choice, flag, number, text, fuse,
    terminal or terminals. ``rows`` are catalogue loads that a load may be, or contact tables
    that a switch may have, or what a sender tells, the first the usual. ``near`` are words that
    find its place and its name. ``of_kind`` are the kinds of part that may be chosen. An
    ``optional`` thing may be left out; ``left_out`` says that it is, unless the list already
    has one, and so do these loads in the car, by ``left_out_with``. A ``shared`` switch may
    serve others too, such as the light switch; any other is taken only while no wire lands on
    it. ``beside`` is the kind of part that a new one sits beside.
    """

    name: str
    kind: str
    label: str
    rows: tuple[str, ...] = ()
    near: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    of_kind: tuple[str, ...] = ()
    usual: Any = None
    optional: bool = False
    left_out: bool = False
    left_out_with: tuple[str, ...] = ()
    shared: bool = False
    beside: str = ""
    help: str = ""


def default_answer(build: Build, question: Question, taken: set[str]) -> Any:
    """What the recipe takes when a question is not answered; None where nothing suits.

    ``taken`` are parts that earlier questions have taken already; it grows.
    """
    match question.kind:
        case "load":
            return _load(build, question, taken)
        case "loads":
            found = _load(build, question, taken)
            return [found] if found else []
        case "switch":
            return _switch(build, question, taken)
        case "sender":
            free = [part for part in suiting(build, question) if part.id not in taken]
            taken |= {part.id for part in free[:1]}
            return {"part": free[0].id} if free else None
        case "part":
            wired = build.wired_parts() if question.optional else set()
            parts = () if question.left_out else _parts(build, question)
            return next((part.id for part in parts if part.id not in taken | wired), None)
        case "place":
            return place_near(build, question.near).id if build.places else None
        case "terminals":
            return []
    return question.usual if question.usual is not None else (question.choices or (None,))[0]


def shape_problem(question: Question, answer: Any) -> str | None:
    """What an answer must be, where it is not even of that shape; the recipe judges the rest."""
    shape, right = {
        "load": ("a load of the list, or a new one with its place", _is_part_answer(answer)),
        "loads": (
            "a list of loads",
            answer is None
            or (isinstance(answer, list) and all(row and _is_part_answer(row) for row in answer)),
        ),
        "switch": ("a switch that is there, or a new one", _is_part_answer(answer)),
        "sender": ("a sender that is there, or a new one", _is_part_answer(answer)),
        "part": ("a part of the build", answer is None or isinstance(answer, str)),
        "fuse": ("a way or a fuse", answer is None or isinstance(answer, str)),
        "place": ("a place of the build", isinstance(answer, str)),
        "choice": (f"one of {', '.join(question.choices)}", isinstance(answer, str)),
        "flag": ("yes or no", isinstance(answer, bool)),
        "number": ("a number", isinstance(answer, int | float) and not isinstance(answer, bool)),
        "text": ("a text", isinstance(answer, str)),
        "terminals": (
            "a list of terminals",
            isinstance(answer, list) and all(isinstance(row, str) for row in answer),
        ),
    }[question.kind]
    return None if right else f"is {shape}"


def _is_part_answer(answer: Any) -> bool:
    return answer is None or (
        isinstance(answer, dict) and all(isinstance(said, str) for said in answer.values())
    )


def suiting(build: Build, question: Question) -> list[Part]:
    """The parts of a build that may be the answer: unwired loads of its rows, switches with the
    contacts that it asks for, parts of its kinds."""
    match question.kind:
        case "load" | "loads":
            wired = build.wired_parts()
            return [
                part
                for part in build.parts_of_kind("load")
                if part.catalogue in question.rows
                and part.id not in wired
                and part.circuit is None
                and part.housed is None
            ]
        case "switch":
            tables = [table_named(row) for row in question.rows]
            switches = switches_of(build)
            return [p for p in switches if p.contacts in tables and p.kind != "key switch"]
        case "sender":
            wired, sensors = build.wired_parts(), build.parts_of_kind("sensor")
            return [p for p in sensors if p.catalogue in question.rows and p.id not in wired]
        case "part":
            return build.parts_of_kind(*question.of_kind)
    return []


def _load(build: Build, question: Question, taken: set[str]) -> Any:
    """An unwired load of the list that suits, or a new one of the usual kind."""
    free = [part for part in suiting(build, question) if part.id not in taken]
    ranked = sorted(free, key=lambda part: -_likeness(build, part, question.near))
    if ranked and is_meant(ranked[0], question):
        taken.add(ranked[0].id)
        return {"part": ranked[0].id}
    there = {part.catalogue for part in build.parts_of_kind("load")}
    if question.left_out or there & set(question.left_out_with) or not build.places:
        return None
    return {"row": question.rows[0], "place": place_near(build, question.near).id}


def _switch(build: Build, question: Question, taken: set[str]) -> Any:
    used = taken if question.shared else taken | build.wired_parts()
    free = [part for part in suiting(build, question) if part.id not in used]
    words = question.near
    ranked = sorted(free, key=lambda part: -_likeness(build, part, words))
    telling = question.rows[0] not in COMMON_TABLES
    if ranked and (telling or is_meant(ranked[0], question)):
        taken.add(ranked[0].id)
        return {"part": ranked[0].id}
    if question.left_out or not build.places:
        return None
    beside = build.parts_of_kind(question.beside) if question.beside else []
    place = beside[0].place if beside else place_near(build, words[-1:]).id
    return {"row": question.rows[0], "place": place}


COMMON_TABLES = {
    "Switch, off and on",
    "Push button",
    "Pedal switch",
    "Limit switch",
    "Door switch",
    "Reversing switch",
    "Up and down switch",
    "Three-speed switch",
    "Four-speed switch",
    "Two-speed switch",
}
"""Tables that several switches of a car share: only a like name says that it is the one meant."""


def table_named(name: str) -> Any:
    """The contact table of this name."""
    return {"Kill isolator": KILL_ISOLATOR, "Battery isolator": ISOLATOR}.get(name) or TABLES[name]


def _parts(build: Build, question: Question) -> list[Part]:
    parts = suiting(build, question)
    return sorted(parts, key=lambda part: -_likeness(build, part, question.near))


def is_meant(part: Part, question: Question) -> bool:
    """Whether a part's name holds the first word that the question looks for."""
    return not question.near or question.near[0] in part.name.lower()


def _likeness(build: Build, part: Part, words: tuple[str, ...]) -> int:
    """How many of the words stand in its name or its place, the name counting for more."""
    name = f"{part.name} {part.id}".lower().replace("-", " ")
    place = build.places.get(part.place)
    at = f"{place.name} {place.id}".lower().replace("-", " ") if place else ""
    return sum(2 * (word in name) + (word in at) for word in words)


def place_near(build: Build, words: tuple[str, ...]) -> Place:
    """The place whose name holds most of the words, the last for two, or else the first; the zone
    that it is in tells between those whose names say the same."""

    def likeness(place: Place) -> tuple[int, int]:
        named = f"{place.name} {place.id}".lower().replace("-", " ")
        in_all = f"{named} {place.zone}"
        asked = (*words, *words[-1:])
        return sum(word in named for word in asked), sum(word in in_all for word in asked)

    return max(build.places.values(), key=likeness)

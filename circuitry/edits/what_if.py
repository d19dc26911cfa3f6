"""What if? Changes that a builder weighs before deciding, and what else they change."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import DROP_SCHOOLS, Build, Part
from circuitry.devices.load import rated_current_a
from circuitry.errors import UnusableInput
from circuitry.sizing.facts import shelf_of
from circuitry.sizing.placement import loom
from circuitry.sizing.result import Sizing

Operation = dict[str, Any]
HOTTEST_C = 150.0
LEAST_TOLD_V = 0.02
"""Drops that change by less are not told."""


@dataclass(frozen=True)
class Asked:
    """What is asked: the question, and of the others what it needs."""

    question: str
    part: str | None = None
    place: str | None = None
    size: str | None = None
    amount: float | None = None
    school: str | None = None


@dataclass(frozen=True)
class Moved:
    """One figure before and after, as it is said."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class WhatChanges:
    """What a change does to a car: sizes, ratings, volts lost, findings, copper and reels."""

    wires: tuple[Moved, ...]
    fuses: tuple[Moved, ...]
    drops: tuple[Moved, ...]
    findings_gone: tuple[str, ...]
    findings_new: tuple[str, ...]
    copper_kg_before: float
    copper_kg_after: float
    reels_before: int
    reels_after: int


def operations_of(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    """The change in words, and the operations that would make it; raises UnusableInput."""
    answer = _QUESTIONS.get(asked.question)
    if answer is None:
        raise UnusableInput(
            "unknown-question",
            asked.question,
            f"“{asked.question}” is no question. Ask one of {', '.join(_QUESTIONS)}.",
        )
    label, operations = answer(build, asked)
    if not operations:
        raise UnusableInput("nothing-to-do", asked.question, f"{label}: nothing would change.")
    return label, operations


def what_changes(before: Sizing, after: Sizing) -> WhatChanges:
    """What is different in the second sizing."""
    names = {wire.id: wire.label for wire in after.build.wires.values()}
    loads = {load.id: load.name for load in after.build.parts_of_kind("load")}
    titles = [{row.id: row.title for row in sizing.findings} for sizing in (before, after)]
    looms = loom(before), loom(after)
    return WhatChanges(
        tuple(
            Moved(names[wire], before.wires[wire].size, row.size)
            for wire, row in after.wires.items()
            if wire in before.wires and before.wires[wire].size != row.size
        ),
        tuple(
            Moved(
                after.build.parts[fuse].name,
                f"{before.fuses[fuse].rating_a:g} A",
                f"{row.rating_a:g} A",
            )
            for fuse, row in after.fuses.items()
            if fuse in before.fuses and before.fuses[fuse].rating_a != row.rating_a
        ),
        tuple(
            Moved(loads[load], f"{before.loads[load].drop_v:.2f} V", f"{row.drop_v:.2f} V")
            for load, row in after.loads.items()
            if load in before.loads and abs(before.loads[load].drop_v - row.drop_v) >= LEAST_TOLD_V
        ),
        tuple(title for row, title in titles[0].items() if row not in titles[1]),
        tuple(title for row, title in titles[1].items() if row not in titles[0]),
        looms[0].copper_kg,
        looms[1].copper_kg,
        len(looms[0].metres),
        len(looms[1].metres),
    )


def _lamps_to_led(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    lamps = [load for load in build.parts_of_kind("load") if load.catalogue in catalogue().led_for]
    return f"{len(lamps)} lamps to LED", [
        _change("parts", lamp.id, catalogue=catalogue().led_for[lamp.catalogue or ""], figures={})
        for lamp in lamps
    ]


def _battery_elsewhere(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    battery = build.parts_of_kind("battery")[0]
    place = build.places.get(asked.place or "")
    if place is None:
        raise UnusableInput("unknown-place", asked.place or "place", "Choose a place of the car.")
    if place.id == battery.place:
        return f"Battery at {place.name}", []
    return f"Battery at {place.name}", [{"op": "move_part", "part": battery.id, "place": place.id}]


def _reel_used_up(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    names = [row.name for row in shelf_of(build.policy)]
    if asked.size not in names:
        raise UnusableInput(
            "not-on-the-shelf",
            asked.size or "size",
            f"The shelf has no {asked.size}. It has {', '.join(names)}.",
        )
    left = [name for name in names if name != asked.size]
    if not left:
        raise UnusableInput("empty-shelf", asked.size, "That is the last size on the shelf.")
    return f"No {asked.size} on the shelf", [_policy(shelf=left)]


def _load_takes(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    load = build.parts.get(asked.part or "")
    if load is None or load.kind != "load":
        raise UnusableInput("unknown-load", asked.part or "load", "Choose a load of the list.")
    if not asked.amount or not 0 < asked.amount <= 1000:
        raise UnusableInput("bad-amount", "amount", "Say how many amps, above 0 and up to 1000.")
    return f"{load.name} takes {asked.amount:g} A", _takes(load, asked.amount)


def _takes(load: Part, amps: float) -> list[Operation]:
    if abs(rated_current_a(load) - amps) < 1e-9:
        return []
    figures = {name: value for name, value in load.figures.items() if name != "rated_w"}
    return [_change("parts", load.id, figures={**figures, "rated_a": amps})]


def _hotter(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    if asked.amount is None or not -60 <= asked.amount <= 60 or asked.amount == 0:
        raise UnusableInput("bad-amount", "amount", "Say by how many degrees, up to 60.")
    word = "hotter" if asked.amount > 0 else "cooler"
    return f"{abs(asked.amount):g} °C {word} everywhere", [
        _change(
            "places", place.id, ambient_c=min(max(place.ambient_c + asked.amount, -40), HOTTEST_C)
        )
        for place in build.places.values()
    ]


def _another_school(build: Build, asked: Asked) -> tuple[str, list[Operation]]:
    if asked.school not in DROP_SCHOOLS:
        raise UnusableInput(
            "unknown-school", asked.school or "school", f"Schools: {', '.join(DROP_SCHOOLS)}."
        )
    label = f"Judge drop {asked.school}"
    if asked.school == build.policy.drop_school:
        return label, []
    return label, [_policy(drop_school=asked.school)]


_QUESTIONS: Mapping[str, Callable[[Build, Asked], tuple[str, list[Operation]]]] = {
    "lamps to LED": _lamps_to_led,
    "battery elsewhere": _battery_elsewhere,
    "a reel used up": _reel_used_up,
    "a load takes": _load_takes,
    "hotter": _hotter,
    "another school": _another_school,
}
QUESTIONS = tuple(_QUESTIONS)


def _change(collection: str, thing: str, **fields: Any) -> Operation:
    return {"op": "change", "collection": collection, "id": thing, "fields": fields}


def _policy(**fields: Any) -> Operation:
    return _change("build", "build", policy=fields)

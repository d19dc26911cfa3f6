"""The figures of a part by hand: which a kind takes, and how people type them."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from circuitry.design.checks import NUMBERS_BY_KIND
from circuitry.design.kinds import is_sender
from circuitry.design.model import Build, Part
from circuitry.errors import UnusableInput
from circuitry.network.elements import (
    REGULATED_V,
    USUAL_ALTERNATOR_A,
    USUAL_RESISTOR_OHM,
    USUAL_SENDER_OHM,
)
from circuitry.network.state import DEFAULT_BATTERY_MOHM
from circuitry.quantities import NotUnderstood, with_unit


@dataclass(frozen=True)
class Figure:
    """A figure that a kind of part takes: its words and unit, and what counts while it is not
    given."""

    name: str
    said: str
    unit: str
    usual: float | None = None


UNITS: Mapping[str, Mapping[str, float]] = {
    "A": {"": 1, "a": 1, "ma": 0.001},
    "V": {"": 1, "v": 1},
    "W": {"": 1, "w": 1, "kw": 1000},
    "Ω": {"": 1, "ω": 1, "ohm": 1, "kω": 1000, "kohm": 1000, "k": 1000},
    "mΩ": {"": 1, "mω": 1, "mohm": 1, "ω": 1000, "ohm": 1000},
    "of full": {"": 1, "%": 0.01},
}
_WORDS = (
    Figure("resistance_ohm", "resistance", "Ω"),
    Figure("rated_w", "rating", "W"),
    Figure("rated_a", "rating", "A"),
    Figure("rating_a", "rating", "A"),
    Figure("contact_rating_a", "contacts carry", "A"),
    Figure("regulated_v", "regulated to", "V", REGULATED_V),
    Figure("state_of_charge", "charge", "of full", 1.0),
    Figure("resistance_mohm", "inside resistance", "mΩ", DEFAULT_BATTERY_MOHM),
)
_USUAL = {
    ("resistor", "resistance_ohm"): USUAL_RESISTOR_OHM,
    ("sender", "resistance_ohm"): USUAL_SENDER_OHM,
    ("alternator", "rated_a"): USUAL_ALTERNATOR_A,
}


def figures_of_kinds() -> dict[str, list[Figure]]:
    """What each kind of part takes; loads have theirs in the stock list.

    A sensor without contacts is listed as ``sender``.
    """
    names_of: dict[str, set[str]] = {**NUMBERS_BY_KIND, "sender": {"resistance_ohm"}}
    names_of["sensor"] = {"contact_rating_a"}
    return {
        kind: [
            replace(row, usual=_USUAL.get((kind, row.name), row.usual))
            for row in _WORDS
            if row.name in names
        ]
        for kind, names in names_of.items()
        if kind != "load"
    }


def figures_as(part: Part) -> str:
    """The kind whose figures a part takes: that of a sensor without contacts is ``sender``."""
    return "sender" if is_sender(part) else part.kind


def set_figures(build: Build, part_id: str, cells: Mapping[str, str]) -> Build:
    """The build with figures of a part as typed; an empty cell gives up the part's own.

    Raises UnusableInput for what the kind does not take and what cannot be read.
    """
    part = build.parts.get(part_id)
    if part is None:
        raise UnusableInput("unknown-part", part_id, f"The build has no part “{part_id}”.")
    known = {row.name: row for row in figures_of_kinds().get(figures_as(part), [])}
    figures = dict(part.figures)
    for name, text in cells.items():
        if name not in known:
            raise UnusableInput(
                "unknown-figure",
                part.id,
                f"{part.name} takes no “{name}”. It takes {', '.join(known) or 'none'}.",
            )
        if text.strip():
            figures[name] = _read(part.name, known[name], text)
        else:
            figures.pop(name, None)
    return replace(build, parts={**build.parts, part.id: replace(part, figures=figures)})


def _read(name: str, figure: Figure, text: str) -> float:
    try:
        value = with_unit(text, UNITS[figure.unit], f"a number of {figure.unit}")
    except NotUnderstood as problem:
        raise UnusableInput(
            "bad-figure", figure.name, f"{name}, {figure.said}: “{text}” is not {problem}."
        ) from None
    if value <= 0:
        raise UnusableInput(
            "bad-figure", figure.name, f"{name}, {figure.said}: “{text}” must be above 0."
        )
    return value

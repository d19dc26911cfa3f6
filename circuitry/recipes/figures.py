"""The figures of a part by hand: which a kind takes, and how people type them."""

from collections.abc import Mapping
from dataclasses import replace

from circuitry.design.model import Build, Part
from circuitry.devices import DEVICES, device_of
from circuitry.devices.device import Figure
from circuitry.errors import UnusableInput
from circuitry.quantities import NotUnderstood, with_unit

UNITS: Mapping[str, Mapping[str, float]] = {
    "A": {"": 1, "a": 1, "ma": 0.001},
    "V": {"": 1, "v": 1},
    "W": {"": 1, "w": 1, "kw": 1000},
    "Ω": {"": 1, "ω": 1, "ohm": 1, "kω": 1000, "kohm": 1000, "k": 1000},
    "mΩ": {"": 1, "mω": 1, "mohm": 1, "ω": 1000, "ohm": 1000},
    "of full": {"": 1, "%": 0.01},
}


def figures_of_kinds() -> dict[str, list[Figure]]:
    """What each kind of part takes; loads have theirs in the stock list.

    A sensor without contacts is listed as ``sender``, or as the kind of sender that it is.
    """
    sets = (device.figure_sets().items() for device in DEVICES.values())
    return {name: list(figures) for each in sets for name, figures in each if figures}


def figures_as(part: Part) -> str:
    """The kind whose figures a part takes: a sensor without contacts is a ``sender``, or
    the kind of sender that it is."""
    return device_of(part).figures_as(part)


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

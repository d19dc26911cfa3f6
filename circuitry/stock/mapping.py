"""Which heading of a foreign table means which column of a list."""

import re
from collections.abc import Mapping, Sequence

from circuitry import quantities

UNITS = ("w", "kw", "a", "ma", "v", "s", "ms", "m", "cm", "mm", "ft", "mm2", "mm²", "awg")
HEADINGS: Mapping[str, tuple[str, ...]] = {
    "name": ("name", "load", "item", "component", "description", "device", "consumer", "part"),
    "what": ("what it is", "what", "type", "kind", "catalogue", "category"),
    "where": ("where", "place", "location", "position", "zone"),
    "rating": ("rated", "rating", "power", "watts", "watt", "current", "amps", "load w", "w", "a"),
    "state": ("state", "status", "action", "keep or new"),
    "key": ("live from", "key", "key position", "ignition", "feed", "supply"),
    "switch": ("switched by", "switch", "control", "controlled by"),
    "through": ("through", "relay", "via"),
    "fuse": ("behind", "fuse", "protected by", "way"),
    "test_v": ("tested at", "test voltage", "voltage", "volts"),
    "inrush_x": ("inrush", "inrush factor", "surge"),
    "inrush_s": ("inrush for", "inrush time"),
    "stall_a": ("stall", "stall current"),
    "duty": ("duty", "duty cycle"),
    "source": ("source of figures", "source", "reference", "data sheet"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments"),
}


def guessed(headings: Sequence[str]) -> list[str | None]:
    """The column that each heading likely means, each at most once; None where none fits.

    The same words fit first, then a heading that begins with them: ``Power (W)`` is the rating.
    """
    tidy = [_tidy(heading) for heading in headings]
    columns: list[str | None] = [None] * len(tidy)
    for fits in (_same, _begins):
        for column, words in HEADINGS.items():
            if column in columns:
                continue
            for number, heading in enumerate(tidy):
                if columns[number] is None and heading and fits(heading, words):
                    columns[number] = column
                    break
    return columns


def with_units(headings: Sequence[str], rows: Sequence[Sequence[str]]) -> list[list[str]]:
    """The rows with the unit of their heading behind bare numbers: ``Power (W)`` says watts."""
    units = [_unit(heading) for heading in headings]
    return [
        [
            f"{cell} {unit}" if unit and re.fullmatch(quantities.NUMBER, cell) else cell
            for cell, unit in zip(row, units, strict=True)
        ]
        for row in rows
    ]


def _unit(heading: str) -> str | None:
    """The unit in brackets or behind a comma at the end of a heading, if it is one."""
    match = re.search(r"(?:[(\[]|,\s*)([^\s()\[\],]+)[)\]]?\s*$", heading)
    return match[1] if match and match[1].lower() in UNITS else None


def _tidy(heading: str) -> str:
    letters = "".join(c if c.isalnum() else " " for c in heading.lower())
    return " ".join(letters.split())


def _same(heading: str, words: Sequence[str]) -> bool:
    return heading in words


def _begins(heading: str, words: Sequence[str]) -> bool:
    return any(len(word) > 2 and heading.split()[0] == word.split()[0] for word in words)

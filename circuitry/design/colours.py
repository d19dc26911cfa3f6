"""Colours of wires: their international letter codes, and the build's policy for choosing them.

A wire has one colour or two, the second a tracer: ``green/white``.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from circuitry.design.model import Build, Circuit

LETTERS: Mapping[str, str] = MappingProxyType(
    {
        "black": "BK",
        "brown": "BN",
        "red": "RD",
        "orange": "OG",
        "yellow": "YE",
        "green": "GN",
        "blue": "BU",
        "violet": "VT",
        "grey": "GY",
        "white": "WH",
        "pink": "PK",
        "turquoise": "TQ",
    }
)
"""Colour codes of IEC 60757."""
HEX: Mapping[str, str] = MappingProxyType(
    {
        "black": "#1C1C1C",
        "brown": "#7A4A21",
        "red": "#C8201C",
        "orange": "#E87A12",
        "yellow": "#F2CB1D",
        "green": "#2E8B3D",
        "blue": "#2456B8",
        "violet": "#7A3F9D",
        "grey": "#8C9196",
        "white": "#FFFFFF",
        "pink": "#EE8FB0",
        "turquoise": "#22A7A7",
    }
)
"""The colours as they are drawn."""
POLICIES = ("by function", "one colour", "by stage")
PALETTE: Mapping[str, str] = MappingProxyType(
    {
        "feed": "red",
        "lighting": "white",
        "switch": "brown",
        "accessory": "green",
        "engine": "yellow",
        "ground": "black",
        "one colour": "grey",
    }
)
"""What is taken for each function unless the build says otherwise."""
TRACERS = ("", "blue", "violet", "orange", "brown", "red", "turquoise", "pink", "grey")
STAGE_COLOURS = ("blue", "yellow", "green", "orange", "violet", "turquoise", "pink", "brown")
"""Of the tape of each stage, unless the build says otherwise; more stages begin again."""


def letters_of(colour: str) -> str:
    """The letter code of a colour as the builder names it: ``green/white`` is GNWH.

    A colour that has no code stays as it is written.
    """
    parts = [part.strip().lower() for part in colour.split("/")]
    if not all(part in LETTERS for part in parts):
        return colour
    return "".join(LETTERS[part] for part in parts)


def named(code: str) -> str:
    """The colour of a letter code, or the text itself: GNWH is ``green/white``."""
    text = code.strip()
    names = {letters: name for name, letters in LETTERS.items()}
    pairs = [text[at : at + 2].upper() for at in range(0, len(text), 2)]
    return "/".join(names[pair] for pair in pairs) if all(p in names for p in pairs) else text


def stage_colour(build: "Build", stage: int) -> str:
    """The colour of the tape of a stage."""
    colours = build.policy.tapes or STAGE_COLOURS
    return colours[(stage - 1) % len(colours)]


def colour_for(build: "Build", circuit: "Circuit", role: str) -> str:
    """The colour of a new wire of a circuit by the build's policy; ``role`` is feed or ground.

    By function, circuits of one group differ by their tracer.
    """
    palette = {**PALETTE, **build.policy.palette}
    if build.policy.colours == "one colour":
        return palette["one colour"]
    if build.policy.colours == "by stage":
        return stage_colour(build, circuit.stage)
    if role == "ground":
        return palette["ground"]
    base = palette.get(circuit.group, palette["feed"])
    alike = [row.id for row in build.circuits.values() if row.group == circuit.group]
    number = alike.index(circuit.id) if circuit.id in alike else len(alike)
    tracers = [tracer for tracer in TRACERS if tracer != base]
    tracer = tracers[number % len(tracers)]
    return f"{base}/{tracer}" if tracer else base

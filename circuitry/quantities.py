"""Figures as people type them: with or without a unit, with a comma or a point."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.catalogue import catalogue

NUMBER = r"[-+]?\d+(?:[.,]\d+)?"
METRES = {
    "m": 1.0,
    "metre": 1.0,
    "metres": 1.0,
    "cm": 0.01,
    "mm": 0.001,
    "ft": 0.3048,
    "feet": 0.3048,
    "foot": 0.3048,
    "'": 0.3048,
    "′": 0.3048,
    "in": 0.0254,
    "inch": 0.0254,
    "inches": 0.0254,
    '"': 0.0254,
    "″": 0.0254,
}
FEET = ("ft", "feet", "foot", "'", "′")
SQUARE_MM = ("mm2", "mm²", "mm^2", "sqmm", "qmm", "mm")
GAUGE = ("awg", "ga", "gauge")


@dataclass(frozen=True)
class NotUnderstood(Exception):
    """A cell that cannot be read; ``expected`` says what would be."""

    expected: str

    def __str__(self) -> str:
        return self.expected


def number(text: str, expected: str = "a number") -> float:
    """A plain number; a comma stands for a point."""
    if not re.fullmatch(NUMBER, text.strip()):
        raise NotUnderstood(expected)
    return float(text.strip().replace(",", "."))


def with_unit(text: str, units: Mapping[str, float], expected: str) -> float:
    """A number with one of these units, times what the unit is worth; "" is the unit left out."""
    match = re.fullmatch(rf"\s*({NUMBER})\s*([^\d\s]*)\s*", text)
    if not match or match[2].lower() not in units:
        raise NotUnderstood(expected)
    return number(match[1]) * units[match[2].lower()]


def amps(text: str) -> float:
    """``5``, ``0.5A``, ``500 mA``."""
    value = with_unit(text, {"": 1, "a": 1, "ma": 0.001, "amp": 1, "amps": 1}, "amps, like 0.5 A")
    if value <= 0:
        raise NotUnderstood("amps above 0")
    return value


def volts(text: str) -> float:
    """``13.5`` or ``13.5 V``."""
    value = with_unit(text, {"": 1, "v": 1, "volt": 1, "volts": 1}, "volts, like 13.5 V")
    if not 0 < value <= 60:
        raise NotUnderstood("volts above 0 and up to 60; what is above 60 V d.c. is out of scope")
    return value


OPEN_WORDS = ("ol", "o.l", "o.l.", "open", "inf", "∞", "1.", "-ol")
"""What meters show, and builders type, where nothing joins the probes."""
READINGS: Mapping[str, tuple[Mapping[str, float], str]] = {
    "V": (
        {"": 1, "v": 1, "volt": 1, "volts": 1, "mv": 0.001},
        "volts, like 12.3, 12,3 V or 850 mV",
    ),
    "A": (
        {"": 1, "a": 1, "amp": 1, "amps": 1, "ma": 0.001, "µa": 1e-6, "ua": 1e-6},
        "amps, like 3.2 or 40 mA",
    ),
    "Ω": (
        {"": 1, "ω": 1, "ohm": 1, "ohms": 1, "r": 1, "kω": 1e3, "k": 1e3, "kohm": 1e3}
        | {"mω": 1e-3, "mohm": 1e-3, "megaohm": 1e6},
        "ohms, like 0.3, 4.7 kΩ, or OL where it is open",
    ),
}


def meter_reading(text: str, unit: str) -> float | None:
    """What a meter shows, in V, A or Ω; None where it shows that nothing joins its probes."""
    units, expected = READINGS[unit]
    tidy = text.strip().lower()
    if unit == "Ω" and tidy in OPEN_WORDS:
        return None
    return with_unit(tidy.replace("−", "-"), units, expected)


def with_prefix(value: float, unit: str) -> str:
    """A figure as a meter shows it: ``12.30 V``, ``35 mA``, ``0.3 Ω``, ``10 kΩ``."""
    if unit == "A" and 0 < abs(value) < 0.1:
        return f"{1000 * value:.0f} mA"
    if unit == "Ω":
        if value >= 1e6:
            return f"{value / 1e6:.1f} MΩ"
        if value >= 1e3:
            return f"{value / 1e3:.{0 if value >= 1e4 else 1}f} kΩ"
        return f"{value:.{1 if value < 10 else 0}f} Ω"
    return f"{value:.{1 if unit == 'A' and abs(value) >= 10 else 2}f} {unit}"


def seconds(text: str) -> float:
    """``0.05``, ``0.05 s``, ``50 ms``."""
    value = with_unit(text, {"": 1, "s": 1, "ms": 0.001}, "seconds, like 0.05 s or 50 ms")
    if value < 0:
        raise NotUnderstood("seconds from 0")
    return value


def rating(text: str, usual_unit: str = "") -> tuple[str, float]:
    """``55W``, ``0.5A``, ``5``: the figure that it stands for, ``rated_w`` or ``rated_a``.

    ``usual_unit``, w or a, is that of a number on its own.
    """
    expected = "watts or amps, like 55 W or 0.5 A"
    match = re.fullmatch(rf"\s*({NUMBER})\s*(w|kw|a|ma|watt|watts|amp|amps)?\s*", text.lower())
    unit = (match and match[2]) or usual_unit
    if not match or not unit:
        raise NotUnderstood(expected)
    value = number(match[1]) * {"k": 1000, "m": 0.001}.get(unit[0] if len(unit) == 2 else "", 1)
    if value <= 0:
        raise NotUnderstood(f"{expected}, above 0")
    return ("rated_w" if "w" in unit else "rated_a"), value


def length_m(text: str, usual_unit: str = "m") -> float:
    """``3 ft 4``, ``3' 4"``, ``1.2 m``, ``120cm``, ``1,2``: metres."""
    expected = "a length, like 1.2 m, 85 cm or 3 ft 4"
    tidy = text.strip().lower().replace("’", "'").replace("”", '"').replace("''", '"')
    pieces = re.findall(rf"({NUMBER})\s*([a-z]+|['\"′″]|$)", tidy)
    if not pieces or re.sub(rf"({NUMBER})\s*([a-z]+|['\"′″]|$)", "", tidy).strip(" ,-"):
        raise NotUnderstood(expected)
    total = 0.0
    before = ""
    for figure, unit in pieces:
        meant = unit or ("in" if before in FEET else usual_unit)
        if meant not in METRES or (before and before not in FEET):
            raise NotUnderstood(expected)
        total += number(figure) * METRES[meant]
        before = meant
    if not 0 < total <= 100:
        raise NotUnderstood(f"{expected}; more than 0 and at most 100 m")
    return total


def conductor(text: str, system: str = "metric") -> str:
    """``18 AWG``, ``1.5 mm2``, ``1,5``: the name of the catalogue's size.

    ``system``, metric or awg, is that of a number on its own.
    """
    match = re.fullmatch(rf"\s*({NUMBER}|[1-4]/0)\s*([^\d\s]\S*)?\s*", text.lower())
    unit = (match and match[2]) or ("mm2" if system == "metric" else "awg")
    if not match or unit not in (*SQUARE_MM, *GAUGE):
        raise NotUnderstood("a wire size, like 1.5 mm² or 16 AWG")
    if unit in SQUARE_MM:
        name = f"{number(match[1]):g} mm²" if "/" not in match[1] else ""
    else:
        name = f"{match[1]} AWG"
    if name not in catalogue().conductor:
        sizes = ", ".join(
            size.name for size in catalogue().conductors["metric" if unit in SQUARE_MM else "awg"]
        )
        raise NotUnderstood(f"a size that is made: {sizes}")
    return name


def yes_or_no(text: str) -> bool:
    """A tick as people type it."""
    word = text.strip().lower()
    if word in ("yes", "y", "x", "1", "true", "✓", "proved", "ok"):
        return True
    if word in ("", "no", "n", "0", "false", "-"):
        return False
    raise NotUnderstood("yes or no")

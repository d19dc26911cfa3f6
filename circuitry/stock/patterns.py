"""What a stock row can be: loads of the catalogue, and patterns of switches, sensors and feeds."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

from circuitry.catalogue import catalogue
from circuitry.design.model import ContactTable, Part, Pin, Way
from circuitry.devices.contact_tables import ISOLATOR, KEY, SENSORS, SWITCHES
from circuitry.devices.module import module_fields
from circuitry.devices.sensor import SENDERS

GROUP_OF_KIND = {
    "load": "loads",
    "switch": "switches",
    "key switch": "switches",
    "sensor": "sensors",
    "box": "boxes",
    "flasher": "boxes",
    "button": "switches",
    "isolator": "switches",
    "alternator": "feeds",
    "converter": "feeds",
    "second battery": "feeds",
    "split-charge relay": "feeds",
    "solar panel": "feeds",
    "ammeter": "feeds",
    "bus bar": "feeds",
    "battery": "feeds",
    "panel": "feeds",
    "module": "feeds",
    "stud": "feeds",
    "ground point": "feeds",
}
OWN = "own contacts"


@dataclass(frozen=True)
class Pattern:
    """A thing to list: its kind of part and what a new one starts with."""

    name: str
    kind: str
    contacts: ContactTable | None = None
    ways: tuple[Way, ...] = ()
    pins: tuple[Pin, ...] = ()


@cache
def patterns() -> Mapping[str, Pattern]:
    """All patterns by name, loads first in the order of the catalogue."""
    loads = [
        Pattern(row.name, "load") for row in catalogue().loads.values() if row.group != "control"
    ]
    return {row.name: row for row in (*loads, *_switches(), *_sensors(), *_boxes(), *_feeds())}


def _switches() -> list[Pattern]:
    tables = (Pattern(name, "switch", table) for name, table in SWITCHES.items())
    return [Pattern("Ignition key", "key switch", KEY), *tables]


def _sensors() -> list[Pattern]:
    acting = (Pattern(name, "sensor", table) for name, table in SENSORS.items())
    return [*acting, *(Pattern(name, "sensor") for name in (*SENDERS, "Speed sensor"))]


def _boxes() -> list[Pattern]:
    def box(name: str, *pins: tuple[str, str]) -> Pattern:
        return Pattern(name, "box", pins=tuple(Pin(*pin) for pin in pins))

    power = (("1", "supply"), ("2", "input"), ("3", "ground"))
    return [
        box("Control box", *power),
        box("Keypad", *power, ("4", "bus"), ("5", "bus")),
        *(Pattern(row, "flasher") for row in catalogue().flashers),
    ]


def _feeds() -> list[Pattern]:
    def panel(count: int) -> Pattern:
        ways = tuple(Way(f"F{number}", "main") for number in range(1, count + 1))
        return Pattern(_with_ways("panel", count), "panel", ways=ways)

    def module(row: str) -> Pattern:
        fields = module_fields(row)
        return Pattern(row, "module", ways=fields["ways"], pins=fields["pins"])

    return [
        Pattern("Battery", "battery"),
        Pattern("Alternator", "alternator"),
        Pattern("D.c. converter", "converter"),
        Pattern("Second battery", "second battery"),
        Pattern("Split-charge relay", "split-charge relay"),
        Pattern("Solar panel", "solar panel"),
        Pattern("Ammeter", "ammeter"),
        Pattern("Battery isolator", "isolator", ISOLATOR),
        *(panel(count) for count in (4, 6, 8, 10, 12, 16, 20)),
        *(module(row) for row in catalogue().modules),
        Pattern("Stud", "stud"),
        Pattern("Bus bar", "bus bar"),
        Pattern("Ground point", "ground point"),
    ]


def _with_ways(kind: str, count: int) -> str:
    return f"Panel of {count} ways" if kind == "panel" else f"Power module of {count} channels"


def pattern_of(part: Part) -> str:
    """The name of what a part is, for the list."""
    if part.kind == "load":
        return part.catalogue or ""
    if part.catalogue in patterns():
        return part.catalogue or ""
    if part.kind in ("panel", "module"):
        return _with_ways(part.kind, len(part.ways))
    for row in patterns().values():
        same = row.contacts == part.contacts and row.kind == part.kind
        if same and row.kind not in ("box", "sensor"):
            return row.name
    return OWN if part.contacts else part.kind


def became(part: Part, pattern: Pattern) -> Part:
    """The part as another thing of its sort; its own figures go when it is another load."""
    if pattern.kind == "load":
        return replace(part, catalogue=pattern.name, figures={})
    return replace(
        part,
        kind=pattern.kind,
        catalogue=pattern.name,
        contacts=pattern.contacts,
        ways=pattern.ways,
        pins=pattern.pins,
    )


def completed(name: str) -> str | None:
    """The pattern that a typed name stands for: the same, or the only or first that begins so.

    A name of several words also finds the pattern with all of them in it, or the pattern whose
    every word it holds: ``Horn 2`` is a horn.
    """
    typed = name.strip().lower()
    if not typed:
        return None
    rows = {row.lower(): row for row in patterns()}
    if typed in rows:
        return rows[typed]
    beginning = [row for lower, row in rows.items() if lower.startswith(typed)]
    if beginning:
        return beginning[0]
    words = set(typed.replace(",", " ").split()) - SIDES
    within = [row for lower, row in rows.items() if words and words <= set(lower.split())]
    if within:
        return within[0]
    inside = {row: set(lower.replace(",", " ").split()) for lower, row in rows.items()}
    telling = [row for row, its in inside.items() if its <= words]
    return max(telling, key=lambda row: len(inside[row]), default=None)


SIDES = {"left", "right", "front", "rear", "nearside", "offside"}

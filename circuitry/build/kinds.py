"""The kinds of part, the terminals each has, and the contacts of relays."""

from circuitry.build.model import ContactTable, Part, Position
from circuitry.catalogue import Relay, catalogue

FIXED_TERMINALS = {
    "battery": ("+", "-"),
    "fuse": ("in", "out"),
    "load": ("+", "-"),
    "stud": ("stud",),
    "ground point": ("stud",),
    "splice": ("splice",),
}
SWITCH_KINDS = ("switch", "key switch", "sensor")
KINDS = (*FIXED_TERMINALS, "panel", "module", "relay", *SWITCH_KINDS, "box")
SENDER_TERMINALS = ("signal", "ground")
MODULE_TERMINALS = ("feed", "ground")


def terminals_of(part: Part) -> tuple[str, ...]:
    """Names of the part's terminals, in the order a screen lists them."""
    if part.kind in FIXED_TERMINALS:
        return FIXED_TERMINALS[part.kind]
    if part.kind == "panel":
        buses = dict.fromkeys(way.bus for way in part.ways)
        return (*buses, *(way.name for way in part.ways))
    if part.kind == "module":
        return (*MODULE_TERMINALS, *(way.name for way in part.ways))
    if part.kind == "box":
        return tuple(pin.name for pin in part.pins)
    if part.kind == "relay":
        return relay_terminals(relay_row(part))
    if part.contacts:
        return part.contacts.terminals
    return SENDER_TERMINALS if part.kind == "sensor" else ()


def relay_row(part: Part) -> Relay:
    """The catalogue row of a relay that has passed the checks."""
    return catalogue().relays[part.catalogue or ""]


def relay_terminals(row: Relay) -> tuple[str, ...]:
    """30, 85, 86, 87 and, where the kind has them, 87a or 87b (ISO 7588 numbering)."""
    extra = ("87a",) if row.has_rest_contact else ("87b",) if row.has_twin_outputs else ()
    return ("30", "85", "86", "87", *extra)


def relay_contacts(row: Relay) -> ContactTable:
    """The contact table of a relay: positions ``rest`` and ``pulled in``."""
    rest = (("30", "87a"),) if row.has_rest_contact else ()
    working = ("30", "87", "87b") if row.has_twin_outputs else ("30", "87")
    return ContactTable("30", (Position("rest", rest), Position("pulled in", (working,))))

"""The kinds of part, the terminals each has, and the contacts of relays."""

from circuitry.catalogue import Relay, catalogue
from circuitry.design.model import ContactTable, Part, Position

FIXED_TERMINALS = {
    "battery": ("+", "-"),
    "alternator": ("B+", "D+", "-"),
    "fuse": ("in", "out"),
    "load": ("+", "-"),
    "flasher": ("49", "49a", "31"),
    "diode": ("anode", "cathode"),
    "resistor": ("1", "2"),
    "stud": ("stud",),
    "bus bar": ("stud",),
    "ground point": ("stud",),
    "splice": ("splice",),
}
"""Terminals of the kinds that always have the same; numbers and B+, D+ as in DIN 72552."""
SWITCH_KINDS = ("switch", "key switch", "isolator", "sensor")
KINDS = (*FIXED_TERMINALS, "panel", "module", "relay", *SWITCH_KINDS, "box", "connector")
SENDER_TERMINALS = ("signal", "ground")
MODULE_TERMINALS = ("feed", "ground")


def terminals_of(part: Part) -> tuple[str, ...]:
    """Names of the part's terminals, in the order a screen lists them."""
    if part.kind in FIXED_TERMINALS:
        return FIXED_TERMINALS[part.kind]
    if part.kind == "panel":
        buses = dict.fromkeys(way.bus for way in part.ways)
        return (*buses, *(way.name for way in part.ways))
    pins = tuple(pin.name for pin in part.pins)
    if part.kind == "module":
        return (*MODULE_TERMINALS, *(way.name for way in part.ways), *pins)
    if part.kind == "box":
        return pins
    if part.kind == "connector":
        return tuple(half for pin in pins for half in cavity_halves(pin))
    if part.kind == "relay":
        return relay_terminals(relay_row(part))
    if part.contacts:
        return part.contacts.terminals
    return SENDER_TERMINALS if part.kind == "sensor" else ()


def cavity_halves(cavity: str) -> tuple[str, str]:
    """The terminals of a cavity in the two halves of a connector."""
    return f"{cavity}a", f"{cavity}b"


def supply_pins(part: Part) -> tuple[str, str] | None:
    """The pins between which a box or module is fed; None when it has not got both."""
    if part.kind == "module":
        return MODULE_TERMINALS
    supply = next((pin.name for pin in part.pins if pin.function == "supply"), None)
    ground = next((pin.name for pin in part.pins if pin.function == "ground"), None)
    return (supply, ground) if supply and ground else None


def outputs_of(part: Part) -> list[tuple[str, str]]:
    """Name and condition of each channel of a module and each output of a box that has one."""
    channels = [(way.name, way.when) for way in part.ways if way.when]
    return channels + [(pin.name, pin.when) for pin in part.pins if pin.when]


def is_sender(part: Part) -> bool:
    """Whether a sensor has a resistance that tells a value, in place of contacts."""
    return part.kind == "sensor" and part.contacts is None


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

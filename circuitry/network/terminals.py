"""What each terminal takes: the thinnest and thickest wire, and the current it bears for ever.

A wire must fit what it ends on. Rings for thin wires come with holes for every stud, so that of a
stud only the thickest wire binds; pins and large blades have a thinnest one too.
"""

from circuitry.catalogue import Relay, TerminalRange, catalogue
from circuitry.design.kinds import MODULE_TERMINALS, relay_row
from circuitry.design.model import Build, Part, Terminal
from circuitry.network.laws import rated_current_a

FUSE_TERMINALS = {
    "mini blade": "fuse way mini",
    "regular blade": "fuse way standard blade",
    "maxi blade": "fuse way maxi",
    "bolt-down M5": "stud M6",
    "bolt-down M8": "stud M8",
    "cartridge": "fuse way maxi",
    "breaker auto-reset": "fuse way standard blade",
    "breaker manual-reset": "fuse way standard blade",
    "breaker panel": "stud M6",
}
LINK = "fusible link"
BLADE, LARGE_BLADE, PIN = "blade 6.3 mm", "blade 9.5 mm", "sealed pin size 20"
STUD, HEAVY_STUD, SMALL_STUD = "stud M8", "stud M10", "stud M6"
BOLTED_RELAY_A = 100.0
LARGE_BLADE_RELAY_A = 70.0
BOLTED_LOAD_A = 40.0
LARGE_BLADE_LOAD_A = 20.0
"""Currents from which terminals are screwed or are the large blade; typical."""


def terminal_range(build: Build, terminal: Terminal) -> TerminalRange | None:
    """The row of what a wire ends on here; None where any size goes, as in a splice."""
    known: dict[Terminal, TerminalRange | None] = build.derived.setdefault("terminals", {})
    if terminal not in known:
        known[terminal] = _range(build, build.lands(terminal))
    return known[terminal]


def is_screwed(build: Build, terminal: Terminal) -> bool:
    """Whether a wire ends here in a ring on a stud."""
    row = terminal_range(build, terminal)
    return row is not None and row.terminal.startswith("stud")


def _range(build: Build, landed: Terminal) -> TerminalRange | None:
    part = build.parts[landed.part]
    if part.kind == "connector":
        return _cavity(part)
    name = _kind_of_terminal(build, part, landed.name)
    return catalogue().terminals[name] if name else None


def fits(row: TerminalRange | None, area_mm2: float) -> bool:
    """Whether a wire of this area goes into such a terminal, within a hundredth."""
    if row is None:
        return True
    least_mm2 = 0.0 if row.terminal.startswith("stud") else row.least_mm2
    return least_mm2 * 0.99 <= area_mm2 <= row.most_mm2 * 1.01


def _cavity(part: Part) -> TerminalRange | None:
    """A cavity takes what the contacts of its family take."""
    for row in catalogue().connectors:
        if row.contact == part.catalogue:
            return TerminalRange(
                row.contact, row.wire_min_mm2, row.wire_max_mm2, row.current_a, row.note
            )
    return None


def _kind_of_terminal(build: Build, part: Part, name: str) -> str | None:
    match part.kind:
        case "battery" | "isolator":
            main = part.kind == "battery" or name in ("in", "out", "alternator")
            return HEAVY_STUD if main else BLADE
        case "stud" | "bus bar" | "ground point":
            return STUD
        case "alternator":
            return STUD if name == "B+" or name == "-" else BLADE
        case "fuse" if part.catalogue == LINK:
            return None
        case "fuse":
            return FUSE_TERMINALS.get(part.catalogue or "", "screw clamp small")
        case "panel":
            if name in {way.bus for way in part.ways}:
                return SMALL_STUD
            return FUSE_TERMINALS.get(_family_in(build, part, name), "fuse way standard blade")
        case "relay":
            return relay_terminal(relay_row(part), name)
        case "load":
            return _of_load(rated_current_a(part))
        case "module":
            return SMALL_STUD if name in MODULE_TERMINALS else _of_channel(part, name)
        case "box":
            return _of_box(build, part, name)
        case "splice":
            return None
    return BLADE


def _family_in(build: Build, panel: Part, way: str) -> str:
    """The family of the fuse in a way of a panel; what the panel takes where none is fitted."""
    families: dict[tuple[str, str], str] | None = build.derived.get("families in ways")
    if families is None:
        families = build.derived["families in ways"] = {
            (fuse.fitted.panel, fuse.fitted.way): fuse.catalogue or ""
            for fuse in build.parts_of_kind("fuse")
            if fuse.fitted
        }
    return families.get((panel.id, way)) or str(panel.figures.get("fuse_family", ""))


def relay_terminal(row: Relay, name: str) -> str:
    """The row of a terminal of a kind of relay."""
    carries_a = row.no_continuous_a_23c
    if name in ("85", "86"):
        return BLADE
    if carries_a >= BOLTED_RELAY_A:
        return STUD
    return LARGE_BLADE if carries_a >= LARGE_BLADE_RELAY_A else BLADE


def _of_load(rated_a: float) -> str:
    if rated_a >= BOLTED_LOAD_A:
        return HEAVY_STUD
    return LARGE_BLADE if rated_a >= LARGE_BLADE_LOAD_A else BLADE


def _of_channel(part: Part, name: str) -> str:
    return BLADE if name in {way.name for way in part.ways} else PIN


def _of_box(build: Build, part: Part, name: str) -> str:
    """What carries a load of many amps inside a unit is screwed: the load's own pins, and those
    of the contact of a relay beside it, as of a starter's solenoid."""
    housed = [row for row in build.parts.values() if row.housed and row.housed.unit == part.id]
    most_a = max((rated_current_a(row) for row in housed if row.kind == "load"), default=0.0)
    heavy = {
        pin
        for row in housed
        for own, pin in (row.housed.pins if row.housed else {}).items()
        if row.kind == "load" or (row.kind == "relay" and own in ("30", "87"))
    }
    return _of_load(most_a) if name in heavy else BLADE

"""What each terminal takes: the thinnest and thickest wire, and the current it bears for ever.

A wire must fit what it ends on. Rings for thin wires come with holes for every stud, so that of a
stud only the thickest wire binds; pins and large blades have a thinnest one too.
"""

from collections.abc import Mapping

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Terminal, Wire
from circuitry.devices.registry import device_of

IN_ONE_CRIMP = 2
"""Wires that are crimped together into one open contact; a seal closes round one."""


def terminal_range(build: Build, terminal: Terminal) -> TerminalRange | None:
    """The row of what a wire ends on here; None where any size goes, as in a splice."""
    known: dict[Terminal, TerminalRange | None] = build.derived.setdefault("terminals", {})
    if terminal not in known:
        landed = build.lands(terminal)
        part = build.parts[landed.part]
        known[terminal] = device_of(part).takes(build, part, landed.name)
    return known[terminal]


def is_screwed(build: Build, terminal: Terminal) -> bool:
    """Whether a wire ends here in a ring on a stud."""
    row = terminal_range(build, terminal)
    return row is not None and row.terminal.startswith("stud")


def fits(row: TerminalRange | None, area_mm2: float) -> bool:
    """Whether a wire of this area goes into such a terminal, within a hundredth."""
    if row is None:
        return True
    least_mm2 = 0.0 if row.terminal.startswith("stud") else row.least_mm2
    return least_mm2 * 0.99 <= area_mm2 <= row.most_mm2 * 1.01


def is_sealed(row: TerminalRange | None) -> bool:
    """Whether a wire takes a seal before it is crimped into such a terminal."""
    if row is None:
        return False
    contacts = catalogue().connectors
    return row.terminal.startswith("sealed") or any(
        contact.contact == row.terminal and contact.sealed == "yes" for contact in contacts
    )


def joined_behind(build: Build) -> Mapping[Terminal, tuple[Wire, ...]]:
    """The wires of each contact of a sized build that takes fewer than end on it: more than its
    crimp closes over, or than two, or than one behind a seal.

    They are joined in the loom behind it, and a tail of the thickest of them goes into the contact;
    a stud takes a ring for each.
    """
    landing: dict[Terminal, list[Wire]] = {}
    for wire in build.wires.values():
        for end in (wire.from_terminal, wire.to_terminal):
            landing.setdefault(build.lands(end), []).append(wire)
    found = {}
    for at, wires in landing.items():
        row = terminal_range(build, at) if len(wires) > 1 else None
        if row is None or row.terminal.startswith("stud"):
            continue
        area_mm2 = sum(catalogue().conductor[wire.size or ""].copper_area_mm2 for wire in wires)
        most = 1 if is_sealed(row) else IN_ONE_CRIMP
        if len(wires) > most or area_mm2 > row.most_mm2 * 1.01:
            found[at] = tuple(wires)
    return found

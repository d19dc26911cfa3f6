"""What each terminal takes: the thinnest and thickest wire, and the current it bears for ever.

A wire must fit what it ends on. Rings for thin wires come with holes for every stud, so that of a
stud only the thickest wire binds; pins and large blades have a thinnest one too.
"""

from circuitry.catalogue import TerminalRange
from circuitry.design.model import Build, Terminal
from circuitry.devices.registry import device_of


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

"""Fuses, fusible links and breakers: what opens by itself before a wire gets too hot."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache

import numpy as np

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import Around, Branch, Crossing, Device, Figure
from circuitry.devices.fuse_times import NEVER_S, holds_share, middle_time_s
from circuitry.devices.laws import Figure as Share
from circuitry.devices.laws import Lag
from circuitry.errors import UnusableInput

LINK = "fusible link"
BOLTED = ("bolt-down", "breaker panel")
"""Families whose wires end in rings."""
TERMINALS_OF_FAMILY = {
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
COOLS_S = 30.0
"""How fast a fuse cools that was not quite melted: typical of blade fuses in their clips."""
USUAL_TERMINAL, USUAL_WAY = "screw clamp small", "fuse way standard blade"


class Fuse(Device):
    """A resistance that goes with the rating; sizing rates it where the builder does not."""

    kind = "fuse"
    figures = (Figure("rating_a", "rating", "A"),)
    drawn_as = "fuse"
    glyph = "M-2 5 h5 v-5 h12 v10 h-12 v-5 m12 0 h5 M3 5 h12"
    row_word = "fuse family"
    usual_row = "regular blade"
    row_changes = True
    put_into = ("in", "out")

    def rows(self) -> Mapping[str, object] | None:
        return catalogue().fuses

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "in", "out"

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        if "rating_a" in part.figures and part.catalogue in catalogue().fuses:
            try:
                catalogue().fuse(part.catalogue or "", float(part.figures["rating_a"]))
            except (UnusableInput, ValueError) as problem:
                yield UnusableInput("unknown-fuse", part.id, f"{who}: {problem}")
        if part.fitted is None:
            return
        panel = build.parts.get(part.fitted.panel)
        ways = {way.name for way in panel.ways} if panel and panel.kind == "panel" else ()
        if part.fitted.way not in ways:
            yield UnusableInput(
                "unknown-way",
                part.id,
                f"{who} sits in way {part.fitted.way} of “{part.fitted.panel}”, which is not "
                "there. Choose a way of a panel.",
            )

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield Branch("fuse", "in", "out", crossing=Crossing())

    def lags(self, part: Part) -> Mapping[str, Lag]:
        rating_a = part.number("rating_a", 0)
        return {"fuse": Melting(part.catalogue or "", rating_a)} if rating_a else {}

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        if part.catalogue == LINK:
            return None
        family = TERMINALS_OF_FAMILY.get(part.catalogue or "", USUAL_TERMINAL)
        return catalogue().terminals[family]

    def detail(self, part: Part) -> str:
        return f"{part.number('rating_a', 0):g} A" if "rating_a" in part.figures else ""

    def says(self, part: Part, kind: str) -> str:
        return f"{part.number('rating_a', 0):g} A"


@dataclass(frozen=True)
class Melting(Lag):
    """How far a fuse has melted, or a breaker bent: it parts at 1.

    At a steady current it parts after the time of its usual curve; below the least that ever parts
    it, what has melted is given back. Shares of different currents add up, as damage does in
    Miner's rule (Miner, 1945).
    """

    family: str
    rating_a: Share
    drives = "current"
    cools_s = COOLS_S

    def bears(self) -> Share:
        return holds_share(self.family) * self.rating_a

    def steady(self, drive: Share) -> Share:
        seconds = middle_time_s(self.family, self.rating_a, np.abs(drive))
        return np.where(seconds < NEVER_S, 1.0, 0.0)

    def rate(self, drive: Share, at: Share) -> Share:
        amps, cools = np.abs(drive), -np.asarray(at) / COOLS_S
        if np.all(amps < self.bears()):
            return cools
        seconds = middle_time_s(self.family, self.rating_a, amps)
        return np.where(seconds < NEVER_S, 1 / seconds, cools)


def fuse_siemens(part: Part, rating_a: float | None, joint_resistance: float) -> float:
    """The conductance of a fuse of this rating with what holds it, in S; raises UnusableInput."""
    if rating_a is None:
        raise UnusableInput(
            "unrated-fuse", part.id, f"Fuse “{part.name}” has no rating yet. Size it first."
        )
    link_ohm, held_ohm = _ohm(part.catalogue or "", rating_a)
    return 1 / (link_ohm + held_ohm * joint_resistance)


@cache
def _ohm(family: str, rating_a: float) -> tuple[float, float]:
    """Cold resistance of a fuse, and of what holds it."""
    row, joints = catalogue().fuse(family, rating_a), catalogue().joints
    bolted = family.startswith(BOLTED)
    held_mohm = (
        2 * joints["ring"].resistance_mohm if bolted else joints["fuse clips"].resistance_mohm
    )
    return row.cold_resistance_mohm / 1000, held_mohm / 1000

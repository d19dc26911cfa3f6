"""Meters with their honest limits: what each joins to the car, and what it shows."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.design.model import Build, Terminal
from circuitry.document.checks import terminal_problem
from circuitry.errors import UnusableInput

METERS = ("1", "2", "clamp", "lead")
"""Two meters with probes, a clamp, and a lead: a jumper, a powered probe or a bench supply."""
VOLTMETER_OHM = 10e6
LAMPS_W = {"test lamp 5 W": 5.0, "test lamp 21 W": 21.0}
LAMP_V = 13.5
LISTENS = "powered probe"
"""Without its button pressed it tells whether its tip is at plus, at minus, or at nothing."""
LEADS = ("fused jumper", LISTENS, "powered probe plus", "powered probe minus", "bench supply")
PROBES = ("voltmeter", "ohmmeter", *LAMPS_W)
JUMPER_OHM, PROBE_OHM, SUPPLY_OHM = 0.02, 0.05, 0.02
USUAL_JUMPER_A, PROBE_BREAKER_A, USUAL_SUPPLY_A, SUPPLY_V = 5.0, 8.0, 5.0, 13.0
MOST_A = 30.0
LEAD_FUSE = "regular blade"
"""The family whose curve the fuse of a jumper and the breaker of a probe go by."""
LIVE_V = 0.05
"""Across an ohmmeter's probes: above it what is measured is live."""
CONTINUITY_OHM = 10.0
PLUS_SHARE, MINUS_OHM = 0.6, 200.0
"""Of the battery's volts, above which a powered probe shows plus; and to ground, below which it
shows minus. Typical."""


@dataclass(frozen=True)
class Meter:
    """A meter on the car: what it is, where its probes are, the wire that a clamp is round, and the
    fuse of a jumper or the limit of a supply, in A."""

    kind: str
    red: Terminal | None = None
    black: Terminal | None = None
    wire: str = ""
    limit_a: float = 0.0

    def as_row(self) -> dict[str, Any]:
        """As plain data."""
        row: dict[str, Any] = {"kind": self.kind}
        if self.red is not None and self.black is not None:
            row |= {"red": str(self.red), "black": str(self.black)}
        if self.wire:
            row["wire"] = self.wire
        if self.limit_a:
            row["limit_a"] = self.limit_a
        return row


def meter_from(row: Any, build: Build, where: str) -> Meter | None:
    """A meter from plain data, None where it is taken off; raises UnusableInput."""
    if row is None:
        return None
    kind = row.get("kind") if isinstance(row, Mapping) else row
    known = (*PROBES, *LEADS, "clamp")
    if kind not in known:
        raise UnusableInput(
            "unknown-meter", where, f"No meter is called “{kind}”. Known: {', '.join(known)}."
        )
    if kind == "clamp":
        wire = str(row.get("wire") or "")
        if wire not in build.wires:
            raise UnusableInput(
                "unknown-wire", where, f"The build has no wire “{wire}” to put the clamp round."
            )
        return Meter(kind, wire=wire)
    red, black = (_terminal(row.get(name), build, where) for name in ("red", "black"))
    usual = {"fused jumper": USUAL_JUMPER_A, "bench supply": USUAL_SUPPLY_A}.get(kind, 0.0)
    limit_a = row.get("limit_a", usual)
    if not isinstance(limit_a, int | float) or not 0 <= limit_a <= MOST_A:
        raise UnusableInput("bad-action", where, f"Its limit must be 0 to {MOST_A:g} A.")
    return Meter(kind, red, black, limit_a=float(limit_a))


def _terminal(text: Any, build: Build, where: str) -> Terminal:
    if not isinstance(text, str):
        raise UnusableInput("bad-terminal", where, "Put both probes on terminals: part.terminal.")
    terminal = Terminal.parse(text)
    problem = terminal_problem(build, terminal, "A probe is on")
    if problem:
        raise UnusableInput("missing-terminal", where, problem)
    return terminal

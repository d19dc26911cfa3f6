"""What of a loom can be made in the next hour."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from circuitry.design.model import Build
from circuitry.workshop.schedule import WireLine, schedule

MINUTES_A_WIRE, AN_HOUR = 4, 60
"""To cut a wire, end and label it; typical."""


@dataclass(frozen=True)
class NextHour:
    """Circuits whose wires can be made in about an hour; whether the wire for them is at hand."""

    circuits: tuple[str, ...]
    wires: int
    minutes: int
    at_hand: bool


def next_hour(build: Build, cut: Collection[str]) -> NextHour | None:
    """Whole circuits whose wires are not cut yet, in the order of the work, those first for which
    there is wire at hand; None where every wire is cut."""
    waiting: dict[str, list[WireLine]] = {}
    for line in schedule(build):
        if line.id not in cut:
            waiting.setdefault(line.circuit_name or "no circuit", []).append(line)
    if not waiting:
        return None
    at_hand = {(reel.size, reel.colour) for reel in build.reels.values()}

    def is_ready(lines: Sequence[WireLine]) -> bool:
        return all((line.size, line.colour) in at_hand for line in lines)

    order = sorted(waiting, key=lambda name: not is_ready(waiting[name]))
    ready = is_ready(waiting[order[0]])
    chosen: list[str] = []
    wires = 0
    for name in order:
        too_long = (wires + len(waiting[name])) * MINUTES_A_WIRE > AN_HOUR
        if chosen and (too_long or is_ready(waiting[name]) != ready):
            break
        chosen.append(name)
        wires += len(waiting[name])
    return NextHour(tuple(chosen), wires, wires * MINUTES_A_WIRE, ready)

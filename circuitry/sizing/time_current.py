"""Time and current: how long protection takes to part, and how long the wire behind it bears it.

On logarithmic axes the protection's longest curve must lie left of and below the curve of every
wire that it guards, and its shortest right of and above what the load takes while it starts.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.devices.fuse_times import longest_time_s, shortest_time_s
from circuitry.errors import UnusableInput
from circuitry.finding import Finding
from circuitry.sizing.ampacity import enough
from circuitry.sizing.causes import let_size
from circuitry.sizing.result import Sizing
from circuitry.sizing.starting import (
    Start,
    Starting,
    behind_each_fuse,
    hardest_start,
    survives,
)
from circuitry.sizing.transient import bears_s, wire_of

POINTS = 60
LONGEST_S, SHORTEST_S = 1e5, 1e-3
MULTIPLES = np.geomspace(1.05, 40.0, POINTS)
Worst = tuple[float, float, str]


@dataclass(frozen=True)
class Curve:
    """A line of points: current in A and time in s."""

    amps: tuple[float, ...]
    seconds: tuple[float, ...]


@dataclass(frozen=True)
class WireCurve:
    """How long a wire bears a current until its insulation is at its limit for short times."""

    wire: str
    label: str
    size: str
    curve: Curve


@dataclass(frozen=True)
class TimeCurrent:
    """The picture of one fuse: its band, the wires that it guards, and the loads behind it.

    ``start`` is the start of loads that comes nearest to parting it, and whether it survives that
    ``survives``. ``margin`` is the least ratio of what a wire bears to what the fuse takes at most,
    found at ``worst_a`` on ``worst_wire``; from one the fuse ``guards`` its wires.
    """

    fuse: str
    name: str
    rating_a: float
    least: Curve
    most: Curve
    wires: tuple[WireCurve, ...]
    loads: tuple[Starting, ...]
    start: Start | None
    margin: float | None
    worst_a: float | None
    worst_wire: str | None
    survives: bool
    guards: bool


def time_current(sizing: Sizing, fuse_id: str) -> TimeCurrent:
    """The picture of a fuse; raises UnusableInput where there is none of that id."""
    row = sizing.fuses.get(fuse_id)
    if row is None:
        raise UnusableInput("unknown-fuse", fuse_id, f"The build has no fuse “{fuse_id}”.")
    part = sizing.build.parts[fuse_id]
    behind = behind_each_fuse(sizing.build, sizing.easiest).get(fuse_id, ())
    amps = row.rating_a * MULTIPLES
    least_s, _ = _band(part.catalogue or "")
    most_s, wires, worst = _against(sizing, fuse_id, _guarded(sizing).get(fuse_id, []))
    margin, worst_a, worst_wire = worst or (None, None, None)
    return TimeCurrent(
        fuse_id,
        part.name,
        row.rating_a,
        _curve(amps, least_s),
        _curve(amps, most_s),
        wires,
        tuple(row for rows in behind for row in rows),
        hardest_start(part.catalogue or "", row.rating_a, behind, row.current_a),
        margin,
        worst_a,
        worst_wire,
        survives(part.catalogue or "", row.rating_a, behind, row.current_a),
        worst is None or worst[0] >= 1,
    )


def _against(
    sizing: Sizing, fuse: str, guarded: list[str]
) -> tuple[list[float], tuple[WireCurve, ...], Worst | None]:
    """The slowest curve of a fuse, those of the wires it guards, and where they come nearest."""
    rating_a, family = sizing.fuses[fuse].rating_a, sizing.build.parts[fuse].catalogue or ""
    amps = rating_a * MULTIPLES
    _, most_s = _band(family)
    wires = tuple(_wire(sizing, wire, amps) for wire in guarded)
    return most_s, wires, _worst(amps.tolist(), most_s, wires)


@cache
def _band(family: str) -> tuple[list[float], list[float]]:
    """The least and the most that a fuse of this family takes at each multiple of its rating."""
    times = MULTIPLES.tolist()
    return (
        [shortest_time_s(family, 1.0, at) for at in times],
        [longest_time_s(family, 1.0, at) for at in times],
    )


def slow_protection(sizing: Sizing) -> Iterator[Finding]:
    """Fuses that may take longer than a wire behind them bears; a wire that is too thin for what
    lasts is told of that alone."""
    for fuse, guarded in _guarded(sizing).items():
        _, _, worst = _against(sizing, fuse, guarded)
        if worst is None or worst[0] >= 1:
            continue
        margin, worst_a, row = worst[0], worst[1], sizing.wires[worst[2]]
        if not enough(row.carries_a, row.must_carry_a):
            continue
        build = sizing.build
        wire = build.wires[row.wire]
        yield Finding(
            "protection-slow",
            "look",
            (fuse, wire.id),
            wire.circuit,
            f"{build.wire_of(wire)} is at its limit before {build.parts[fuse].name} parts",
            f"at {worst_a:.0f} A the wire bears {margin:.0%} of that time",
            "all the time that the fuse may take",
            "In a fault the insulation softens first. Thicker wire, a faster fuse or a smaller one "
            "puts it right.",
            tuple(let_size([wire] if row.pinned else [])),
        )


def _guarded(sizing: Sizing) -> dict[str, list[str]]:
    """For each fuse the wires that answer for it, of each size the one that bears least; a tap
    answers for the fuse that it leads to."""
    by_size: dict[str, dict[str, str]] = {}
    for row in sizing.wires.values():
        if row.fuse and row.must_carry_a >= sizing.fuses[row.fuse].rating_a:
            mine = by_size.setdefault(row.fuse, {})
            known = mine.get(row.size)
            if known is None or row.carries_a < sizing.wires[known].carries_a:
                mine[row.size] = row.wire
    return {
        fuse: sorted(mine.values(), key=lambda wire: sizing.wires[wire].carries_a)
        for fuse, mine in by_size.items()
    }


def _wire(sizing: Sizing, wire_id: str, amps: np.ndarray) -> WireCurve:
    row, wire = sizing.wires[wire_id], sizing.build.wires[wire_id]
    insulation = catalogue().insulation[row.insulation]
    seconds = bears_s(
        wire_of(catalogue().conductor[row.size], insulation),
        row.ambient_c,
        row.carries_a,
        row.lasting_a,
        amps,
    ).tolist()
    return WireCurve(wire_id, wire.label, row.size, _curve(amps, seconds))


def _curve(amps: np.ndarray, seconds: list[float]) -> Curve:
    """The points that lie on the sheet."""
    pairs = [
        (at, second)
        for at, second in zip(amps.tolist(), seconds, strict=True)
        if SHORTEST_S <= second <= LONGEST_S
    ]
    return Curve(tuple(at for at, _ in pairs), tuple(second for _, second in pairs))


def _worst(amps: list[float], most_s: list[float], wires: tuple[WireCurve, ...]) -> Worst | None:
    """Where a wire bears least against the fuse's slowest curve: by what factor, at what current,
    and which."""
    takes = dict(zip(amps, most_s, strict=True))
    return min(
        (
            (second / takes[at], at, wire.wire)
            for wire in wires
            for at, second in zip(wire.curve.amps, wire.curve.seconds, strict=True)
            if takes[at] < LONGEST_S
        ),
        default=None,
    )

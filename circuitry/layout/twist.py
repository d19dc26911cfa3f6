"""Wires twisted in layers around a core, each layer the other way round; or laid side by side.

A wire on a layer of pitch diameter ``P`` and lay ``L`` is ``√(1 + (πP/L)²)`` times as long as the
run, the helix unrolled. As many lie on a layer as their angles, ``2 asin(d/P)`` each, go into a
turn: six around one of the same, then twelve, then eighteen.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from circuitry.design.model import Build
from circuitry.design.routes import way_of
from circuitry.layout.bundles import PACKING, conductor_of

LAY_X = 12.0
"""The lay of a layer against its pitch diameter; typical, 8 to 16."""
HEAVY_X = 2.0
"""A wire so many times as thick as the middle one lies in the core, untwisted."""
WHOLE_TURN, SMALL = 2 * math.pi, 1e-9
TURNS = ("left", "right")
TWISTED = "twisted"


@dataclass(frozen=True)
class Layer:
    """A layer from inside out, the core first: its wires by label, strings that fill it up, which
    way it turns, its lay and the diameter over it in mm, and by what its wires are longer."""

    wires: tuple[str, ...]
    labels: tuple[str, ...]
    fillers: int
    turns: str
    lay_mm: float
    over_mm: float
    longer: float


def twists(build: Build) -> Mapping[str, tuple[Layer, ...]]:
    """The layers of every run with wires of a sized build: what goes farthest is innermost, so that
    what leaves first lies outside."""
    metres: dict[str, float] = {}
    through: dict[str, list[str]] = {}
    for wire in build.wires.values():
        way = way_of(build, wire)
        metres[wire.id] = sum(run.length_m for run in way)
        for run in way:
            through.setdefault(run.id, []).append(wire.id)
    thick = {w.id: conductor_of(w).outside_diameter_mm for w in build.wires.values()}
    labels = {wire.id: wire.label for wire in build.wires.values()}
    return {
        run: layers(sorted(wires, key=lambda w: (-metres[w], -thick[w], w)), thick, labels)
        for run, wires in through.items()
    }


def layers(
    wires: Sequence[str], thick: Mapping[str, float], labels: Mapping[str, str]
) -> tuple[Layer, ...]:
    """The layers of one bundle, its wires in the order from inside out."""
    middle = sorted(thick[wire] for wire in wires)[len(wires) // 2]
    heavy = [wire for wire in wires if thick[wire] >= HEAVY_X * middle]
    waiting = [wire for wire in wires if wire not in heavy]
    core = heavy or [waiting.pop(0)]
    over = thick[core[0]]
    if len(core) > 1:
        over = PACKING * math.sqrt(sum(thick[wire] ** 2 for wire in core))
    found = [Layer(tuple(core), tuple(labels[w] for w in core), 0, "straight", 0.0, over, 0.0)]
    while waiting:
        ring: list[str] = []
        for wire in list(waiting):
            if _turn([*(thick[row] for row in ring), thick[wire]], over) <= WHOLE_TURN + SMALL:
                ring.append(wire)
                waiting.remove(wire)
        widest = max(thick[wire] for wire in ring)
        pitch = over + widest
        left = WHOLE_TURN - _turn([thick[wire] for wire in ring], over)
        fillers = math.floor(left / _angle(widest, pitch) + SMALL)
        over += 2 * widest
        found.append(
            Layer(
                tuple(ring),
                tuple(labels[wire] for wire in ring),
                fillers,
                TURNS[len(found) % 2],
                LAY_X * pitch,
                over,
                math.hypot(1.0, math.pi / LAY_X) - 1,
            )
        )
    return tuple(found)


def _angle(thick_mm: float, pitch_mm: float) -> float:
    return 2 * math.asin(min(thick_mm / pitch_mm, 1.0))


def _turn(thick_mm: Sequence[float], over_mm: float) -> float:
    """The angles that wires take together around what is ``over_mm`` thick."""
    pitch = over_mm + max(thick_mm)
    return sum(_angle(one, pitch) for one in thick_mm)


def twist_m(build: Build) -> Mapping[str, float]:
    """By how much each wire is longer for being twisted, in m; nothing where the builder lays side
    by side."""
    if build.policy.laying != TWISTED:
        return {}
    longer: dict[str, float] = {}
    for run, found in twists(build).items():
        for layer in found:
            for wire in layer.wires:
                more_m = build.runs[run].length_m * layer.longer
                longer[wire] = longer.get(wire, 0.0) + more_m
    return longer

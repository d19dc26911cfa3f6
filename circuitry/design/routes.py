"""Ways through the runs: which runs a wire takes, its length and the hottest place it passes."""

import math
from itertools import pairwise

import networkx as nx

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Place, Run, Runs, Wire

END_EXTRA_M = {"panel": 0.25, "module": 0.25, "battery": 0.2}
USUAL_END_EXTRA_M = 0.15
LEVEL_M = {"floor": 0.25, "waist": 0.75, "roof": 1.35}
ROUNDABOUT = 1.3
HOT_FROM_C = 70.0
HOT_INSULATION = "XLPE thin wall"


def way_of(build: Build, wire: Wire) -> tuple[Run, ...]:
    """The runs of a wire in order: as pinned, or else the shortest way between its two places.

    Empty where both ends are in one place, where no run leads (see ``has_way``), and for a wire
    with a length of its own.
    """
    if wire.way is not None:
        return tuple(build.runs[run] for run in wire.way)
    if wire.length_m is not None:
        return ()
    return shortest_way(build.runs, *ends_of(build, wire)) or ()


def has_way(build: Build, wire: Wire) -> bool:
    """Whether the length of a wire follows from runs, from its own figure, or from one place."""
    start, end = ends_of(build, wire)
    return wire.length_m is not None or start == end or bool(way_of(build, wire))


def ends_of(build: Build, wire: Wire) -> tuple[str, str]:
    """The places of its two ends."""
    return build.parts[wire.from_terminal.part].place, build.parts[wire.to_terminal.part].place


def length_m(build: Build, wire: Wire) -> float:
    """Length to cut: the measured length or that of its runs, plus the extra for the ends.

    Where no run leads, the distance on the plan and a third more stand in for it.
    """
    return _between_ends_m(build, wire) + extra_m(build, wire)


def extra_m(build: Build, wire: Wire) -> float:
    """What is added at the two ends: its own figure, or what the parts there usually take."""
    if wire.extra_m is not None:
        return wire.extra_m
    kinds = (build.parts[end.part].kind for end in (wire.from_terminal, wire.to_terminal))
    return sum(end_extra_m(build, kind) for kind in kinds)


def end_extra_m(build: Build, kind: str) -> float:
    """Length added at an end of a wire on a part of this kind."""
    return build.policy.end_extra_m.get(kind, usual_end_extra_m(kind))


def usual_end_extra_m(kind: str) -> float:
    """Length added at an end on a part of this kind where the build says nothing of its own."""
    return END_EXTRA_M.get(kind, USUAL_END_EXTRA_M)


def _between_ends_m(build: Build, wire: Wire) -> float:
    if wire.length_m is not None:
        return wire.length_m
    way = way_of(build, wire)
    start, end = ends_of(build, wire)
    if not way and start != end:
        return ROUNDABOUT * drawn_m(build.places[start], build.places[end])
    return sum(run.length_m for run in way)


def drawn_m(one: Place, other: Place) -> float:
    """Straight distance between two places on the plan, their levels counted."""
    rise_m = LEVEL_M[one.level] - LEVEL_M[other.level]
    return math.hypot(one.x_m - other.x_m, one.y_m - other.y_m, rise_m)


def places_passed(build: Build, wire: Wire) -> list[Place]:
    """Every place the wire touches, its two ends included."""
    names = set(ends_of(build, wire))
    for run in way_of(build, wire):
        names |= {run.from_place, run.to_place}
    return [build.places[name] for name in sorted(names)]


def insulation_of(build: Build, wire: Wire) -> str:
    """The insulation of a wire: its own, or that of the build; where it is hot, one that bears
    it, rather than three sizes more copper."""
    if wire.insulation is not None:
        return wire.insulation
    usual = build.policy.insulation
    hottest_c = max(place.ambient_c for place in places_passed(build, wire))
    cool = catalogue().insulation[usual].continuous_limit_c
    hot = catalogue().insulation[HOT_INSULATION].continuous_limit_c
    return HOT_INSULATION if hottest_c >= HOT_FROM_C and cool < hot else usual


def distance_m(build: Build, start: str, end: str) -> float:
    """Shortest measured distance between two places; infinite when no run leads there."""
    if start == end:
        return 0.0
    runs = shortest_way(build.runs, start, end)
    return float("inf") if runs is None else sum(run.length_m for run in runs)


def shortest_way(runs: Runs, start: str, end: str) -> tuple[Run, ...] | None:
    """The shortest chain of runs between two places (Dijkstra), or None.

    The first question about a place finds the ways from it to every other.
    """
    if (start, start) not in runs.ways:
        runs.ways |= _ways_from(runs, start)
    return runs.ways.get((start, end))


def _ways_from(runs: Runs, start: str) -> dict[tuple[str, str], tuple[Run, ...] | None]:
    graph: nx.Graph[str] = nx.Graph()
    graph.add_node(start)
    for run in sorted(runs.values(), key=lambda run: -run.length_m):
        graph.add_edge(run.from_place, run.to_place, length_m=run.length_m, run=run)
    return {
        (start, end): tuple(graph.edges[pair]["run"] for pair in pairwise(places))
        for end, places in nx.single_source_dijkstra_path(graph, start, weight="length_m").items()
    }

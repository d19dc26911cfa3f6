"""Ways through the runs: which runs a wire takes, its length and the hottest place it passes."""

from itertools import pairwise

import networkx as nx

from circuitry.build.model import Build, Place, Run, Runs, Wire
from circuitry.errors import UnusableInput


def way_of(build: Build, wire: Wire) -> tuple[Run, ...]:
    """The runs of a wire in order: as written, or else the shortest way between its two places.

    Raises UnusableInput when no run leads there.
    """
    if wire.way is not None:
        return tuple(build.runs[run] for run in wire.way)
    start = build.parts[wire.from_terminal.part].place
    end = build.parts[wire.to_terminal.part].place
    if start == end or wire.length_m is not None:
        return ()
    runs = shortest_way(build.runs, start, end)
    if runs is None:
        raise UnusableInput(
            "no-way",
            wire.label,
            f"Wire {wire.label}: no run leads from {build.places[start].name} to "
            f"{build.places[end].name}. Add a run between them, or give the wire a length_m.",
        )
    return runs


def length_m(build: Build, wire: Wire) -> float:
    """Length to cut: the measured length or that of its runs, plus the extra for the ends."""
    if wire.length_m is not None:
        return wire.length_m + wire.extra_m
    return sum(run.length_m for run in way_of(build, wire)) + wire.extra_m


def places_passed(build: Build, wire: Wire) -> list[Place]:
    """Every place the wire touches, its two ends included."""
    names = {build.parts[end.part].place for end in (wire.from_terminal, wire.to_terminal)}
    for run in way_of(build, wire):
        names |= {run.from_place, run.to_place}
    return [build.places[name] for name in sorted(names)]


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

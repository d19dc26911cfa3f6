"""The loom laid flat: the measured runs at their true lengths, as on a board to build it on.

A loom is built as a tree: where runs close a loop, the thinnest bundle of the loop is parted, and
said. The longest way is laid first, along the board and back; each branch leaves at the angle at
which it comes nearest to nothing that lies there already.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import networkx as nx

from circuitry.design.model import Build, Run
from circuitry.layout.bundles import Bundle, bundles
from circuitry.layout.twist import TWISTED, Layer, twists
from circuitry.workshop.splices import staggered

MM = 1000.0
ANGLES = (0, 45, -45, 90, -90, 30, -30, 60, -60, 120, -120, 75, -75, 15, -15, 105, -105, 135, -135)
"""In degrees from the way on, the easiest to build first."""
CLEAR_MM = 70.0
"""Two legs that do not meet lie at least so far apart, for a hand and a label."""
MARGIN_MM = 120.0
LONGEST_MM = 5000.0
"""A board in a garage is no longer; a longer trunk goes round the end of it and back."""
DOWN = 90.0
Point = tuple[float, float]


@dataclass(frozen=True)
class Spot:
    """A place of the loom on the board, in mm: what is there, each with its wires and how far its
    ends stand out; what is joined before it, in words."""

    place: str
    name: str
    x_mm: float
    y_mm: float
    ends: tuple["Breakout", ...]
    splices: tuple[str, ...]

    @property
    def told(self) -> tuple[str, ...]:
        """What is written beside it."""
        ends = (f"{end.name}: {', '.join(end.labels)}" for end in self.ends)
        return (*ends, *self.splices)


@dataclass(frozen=True)
class Breakout:
    """A part at a spot: the wires that end on it, by label, and the length left for its ends."""

    part: str
    name: str
    labels: tuple[str, ...]
    wires: tuple[str, ...]


@dataclass(frozen=True)
class Taped:
    """Wires that lie side by side between two places: taped together before they are laid, so
    that they leave the bundle as one."""

    name: str
    wires: tuple[str, ...]
    labels: tuple[str, ...]


@dataclass(frozen=True)
class BoardLeg:
    """A run on the board, in mm: where it lies, its length, its bundle, what covers it, where it is
    clipped, from its first end; what it passes through. ``parted`` legs are free at their end;
    ``layers`` are those of a twisted bundle, from inside out, ``taped`` the groups of one that is
    not, those of most wires first."""

    run: str
    name: str
    x1_mm: float
    y1_mm: float
    x2_mm: float
    y2_mm: float
    length_mm: float
    diameter_mm: float
    wires: tuple[str, ...]
    cover: str
    clips_mm: tuple[float, ...]
    hole: str
    parted: bool
    layers: tuple[Layer, ...]
    taped: tuple[Taped, ...]


@dataclass(frozen=True)
class Board:
    """The board: its size in mm, spots and legs, the loops that were parted in words, and how many
    pairs of legs cross."""

    width_mm: float
    height_mm: float
    spots: tuple[Spot, ...]
    legs: tuple[BoardLeg, ...]
    parted: tuple[str, ...]
    crossings: int


def board(build: Build) -> Board:
    """The loom of a sized build laid flat; runs without wires are no part of it."""
    found = {run: bundle for run, bundle in bundles(build).items() if bundle.wires}
    graph: nx.MultiGraph[str] = nx.MultiGraph()
    for run_id in found:
        run = build.runs[run_id]
        graph.add_edge(run.from_place, run.to_place, key=run_id)
    laid = _Laid(build, found)
    parted = []
    for places in sorted(nx.connected_components(graph), key=lambda part: (-len(part), min(part))):
        tree, left = _parted(build, graph.subgraph(places), found)
        laid.lay(tree, left)
        parted += [_said(build, run, found) for run in left]
    return laid.board(tuple(parted))


def _parted(
    build: Build, graph: "nx.MultiGraph[str]", found: Mapping[str, Bundle]
) -> tuple["nx.Graph[str]", list[Run]]:
    """The tree of the thickest bundles, and the runs that would close loops."""
    tree: nx.Graph[str] = nx.Graph()
    tree.add_nodes_from(graph)
    left = []
    keys = [key for _, _, key in graph.edges(keys=True)]
    for run_id in sorted(keys, key=lambda key: (-found[key].diameter_mm, key)):
        run = build.runs[run_id]
        if nx.has_path(tree, run.from_place, run.to_place):
            left.append(run)
        else:
            tree.add_edge(run.from_place, run.to_place, run=run, metres=run.length_m)
    return tree, left


def _said(build: Build, run: Run, found: Mapping[str, Bundle]) -> str:
    names = build.places[run.from_place].name, build.places[run.to_place].name
    count = len(found[run.id].wires)
    wires = "wire is" if count == 1 else "wires are"
    return (
        f"The loom closes a loop: part it at {names[1]}, where {count} {wires} led from {names[0]}"
    )


class _Laid:
    """What lies on the board so far."""

    def __init__(self, build: Build, found: Mapping[str, Bundle]) -> None:
        self.build, self.found = build, found
        self.twisted = twists(build) if build.policy.laying == TWISTED else {}
        self.at: dict[str, Point] = {}
        self.legs: list[tuple[Run, Point, Point, bool]] = []
        self.lowest = 0.0

    def lay(self, tree: "nx.Graph[str]", left: Sequence[Run]) -> None:
        """Lay a tree below what lies there, its longest way first."""
        trunk = _longest(tree)
        begins = len(self.legs)
        self.at[trunk[0]] = (0.0, self.lowest)
        heading = 0.0
        for here, there in pairwise(trunk):
            run: Run = tree.edges[here, there]["run"]
            x = self.at[here][0]
            onward = run.length_m * MM * math.cos(math.radians(heading))
            if heading != DOWN and not 0 <= x + onward <= max(LONGEST_MM, run.length_m * MM):
                self._lay(run, here, there, DOWN)
                heading = 180.0 if x > LONGEST_MM / 2 else 0.0
            else:
                self._lay(run, here, there, heading)
        on_trunk = set(trunk)
        side = 1
        for here in trunk:
            for there in self._branches(tree, here, on_trunk):
                self._branch(tree, here, there, 90.0 * side, on_trunk)
                side = -side
        for run in left:
            self._loose(run)
        mine = self.legs[begins:]
        top = min(min(a[1], b[1]) for _, a, b, _ in mine)
        if top < self.lowest:
            self._move(begins, set(tree), self.lowest - top)
        self.lowest = max(max(a[1], b[1]) for _, a, b, _ in self.legs) + 3 * MARGIN_MM

    def _branches(self, tree: "nx.Graph[str]", here: str, but: set[str]) -> list[str]:
        others = [there for there in tree[here] if there not in but]
        return sorted(others, key=lambda there: (-tree.edges[here, there]["run"].length_m, there))

    def _branch(
        self, tree: "nx.Graph[str]", here: str, there: str, way: float, known: set[str]
    ) -> None:
        run: Run = tree.edges[here, there]["run"]
        angle = self._best(run, here, way)
        self._lay(run, here, there, angle)
        known.add(there)
        for beyond in self._branches(tree, there, known):
            self._branch(tree, there, beyond, angle, known)

    def _loose(self, run: Run) -> None:
        """A run that closes a loop lies free from its first end."""
        angle = self._best(run, run.from_place, 90.0)
        start = self.at[run.from_place]
        self.legs.append((run, start, _end(start, run.length_m * MM, angle), True))

    def _lay(self, run: Run, here: str, there: str, angle: float) -> None:
        start = self.at[here]
        self.at[there] = _end(start, run.length_m * MM, angle)
        self.legs.append((run, start, self.at[there], False))

    def _best(self, run: Run, here: str, way: float) -> float:
        """The angle at which a leg comes nearest to nothing, the easiest of the clear ones."""
        start = self.at[here]
        best, most = way, -1.0
        for turn in ANGLES:
            end = _end(start, run.length_m * MM, way + turn)
            clear = self._clear(start, end)
            if clear >= CLEAR_MM:
                return way + turn
            if clear > most:
                best, most = way + turn, clear
        return best

    def _clear(self, start: Point, end: Point) -> float:
        """How near a leg would come to others: to those that meet it at its start, by how far its
        end is from them."""
        nearest = math.inf
        for _, one, other, _ in self.legs:
            if start in (one, other):
                nearest = min(nearest, _from_line(end, one, other))
            else:
                nearest = min(nearest, _apart(start, end, one, other))
        return nearest

    def _move(self, begins: int, places: set[str], down: float) -> None:
        for place in places:
            x, y = self.at[place]
            self.at[place] = x, y + down
        for number in range(begins, len(self.legs)):
            run, one, other, free = self.legs[number]
            self.legs[number] = run, (one[0], one[1] + down), (other[0], other[1] + down), free

    def board(self, parted: tuple[str, ...]) -> Board:
        """Everything moved to positive places, with a margin around."""
        if not self.legs:
            return Board(0.0, 0.0, (), (), (), 0)
        points = [point for _, one, other, _ in self.legs for point in (one, other)]
        left, top = (min(point[axis] for point in points) - MARGIN_MM for axis in (0, 1))
        right, low = (max(point[axis] for point in points) + MARGIN_MM for axis in (0, 1))
        ends, joined = dict(_ends(self.build)), _joined(self.build)
        spots = tuple(
            Spot(
                place,
                self.build.places[place].name,
                x - left,
                y - top,
                ends.get(place, ()),
                joined.get(place, ()),
            )
            for place, (x, y) in self.at.items()
        )
        legs = tuple(self._leg(row, left, top) for row in self.legs)
        return Board(right - left, low - top, spots, legs, parted, _crossings(self.legs))

    def _leg(self, row: tuple[Run, Point, Point, bool], left: float, top: float) -> BoardLeg:
        run, one, other, free = row
        names = self.build.places[run.from_place].name, self.build.places[run.to_place].name
        bundle = self.found[run.id]
        length = run.length_m * MM
        count = math.floor(length / run.fixings_mm)
        hole = "" if run.hole_mm is None else f"{run.hole_fit}, hole {run.hole_mm:g} mm"
        return BoardLeg(
            run.id,
            f"{names[0]} to {names[1]}",
            *(one[0] - left, one[1] - top, other[0] - left, other[1] - top),
            length,
            bundle.diameter_mm,
            bundle.wires,
            run.cover,
            tuple(run.fixings_mm * (number + 0.5) for number in range(count)),
            hole,
            free,
            self.twisted.get(run.id, ()),
            () if self.twisted else tuple(_taped(self.build, bundle.wires)),
        )


def _taped(build: Build, wires: Sequence[str]) -> Iterator[Taped]:
    """The wires of a bundle by the two places between which they lead."""
    groups: dict[frozenset[str], list[str]] = {}
    for wire_id in wires:
        wire = build.wires[wire_id]
        ends = (build.lands(end).part for end in (wire.from_terminal, wire.to_terminal))
        groups.setdefault(frozenset(build.parts[part].place for part in ends), []).append(wire_id)
    for places in sorted(groups, key=lambda key: (-len(groups[key]), sorted(key))):
        yield Taped(
            " – ".join(sorted(build.places[place].name for place in places)),
            tuple(groups[places]),
            tuple(build.wires[wire].label for wire in groups[places]),
        )


def _ends(build: Build) -> Iterator[tuple[str, tuple[Breakout, ...]]]:
    """What wires end on at each place."""
    found: dict[str, dict[str, list[str]]] = {}
    for wire in build.wires.values():
        for end in (wire.from_terminal, wire.to_terminal):
            part = build.parts[build.lands(end).part]
            found.setdefault(part.place, {}).setdefault(part.id, []).append(wire.id)
    for place, parts in found.items():
        yield (
            place,
            tuple(
                Breakout(
                    part,
                    build.parts[part].name,
                    tuple(build.wires[wire].label for wire in dict.fromkeys(wires)),
                    tuple(dict.fromkeys(wires)),
                )
                for part, wires in parts.items()
            ),
        )


def _joined(build: Build) -> Mapping[str, tuple[str, ...]]:
    """What is joined before contacts of each place, and how far before them."""
    found: dict[str, tuple[str, ...]] = {}
    for at, wires, tail_m in staggered(build):
        part = build.parts[at.part]
        labels = ", ".join(wire.label for wire in wires)
        says = f"{labels} joined {tail_m * MM:.0f} mm before {part.name}, {at.name}"
        found[part.place] = (*found.get(part.place, ()), says)
    return found


def _longest(tree: "nx.Graph[str]") -> list[str]:
    """The longest way through a tree: from the farthest of any place to the farthest of that."""

    def farthest(start: str) -> str:
        metres = nx.single_source_dijkstra_path_length(tree, start, weight="metres")
        return max(metres, key=lambda place: (metres[place], place))

    first = farthest(min(tree))
    return nx.shortest_path(tree, first, farthest(first), weight="metres")


def _end(start: Point, length: float, angle: float) -> Point:
    turned = math.radians(angle)
    return start[0] + length * math.cos(turned), start[1] + length * math.sin(turned)


def _from_line(point: Point, one: Point, other: Point) -> float:
    """The distance of a point from a line between two."""
    dx, dy = other[0] - one[0], other[1] - one[1]
    length = dx * dx + dy * dy
    along = ((point[0] - one[0]) * dx + (point[1] - one[1]) * dy) / length if length else 0.0
    along = min(max(along, 0.0), 1.0)
    return math.dist(point, (one[0] + along * dx, one[1] + along * dy))


def _apart(a: Point, b: Point, c: Point, d: Point) -> float:
    """The distance between two lines: none where they cross."""
    if _cross(a, b, c, d):
        return 0.0
    return min(_from_line(a, c, d), _from_line(b, c, d), _from_line(c, a, b), _from_line(d, a, b))


def _cross(a: Point, b: Point, c: Point, d: Point) -> bool:
    def side(p: Point, q: Point, r: Point) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < -1e-6 and side(c, d, a) * side(c, d, b) < -1e-6


def _crossings(legs: Sequence[tuple[Run, Point, Point, bool]]) -> int:
    return sum(
        _cross(one[1], one[2], other[1], other[2])
        for number, one in enumerate(legs)
        for other in legs[:number]
    )

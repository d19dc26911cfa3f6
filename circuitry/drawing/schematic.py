"""The schematic of a circuit, laid out by rule: columns from feed to ground, no line by hand.

Layers as in Sugiyama, Tagawa and Toda (1981): each symbol stands one column right of what feeds it,
lines that pass a column keep a lane in it, and the order within a column follows its neighbours.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import networkx as nx

from circuitry.design.model import Build
from circuitry.drawing.symbols import Content, Join, Symbol, content_of

PITCH = 20.0
SYMBOL_WIDTH = 140.0
SMALL_WIDTH = 34.0
GAP = 14.0
HEAD = 30.0
LONG_DETAIL = 12
"""Letters of a detail that leave no room for a sign beside it."""
LETTER = 5.5
"""Width of a letter of what feeds a circuit; a bus is as wide as its name."""
TRACK = 7.0
CHANNEL = 22.0
SMALL_KINDS = ("pin", "splice", "lane")
FLAT_KINDS = (*SMALL_KINDS, "bus", "ground point")
"""Kinds that are one line high, their name in the line."""
SHARE_BEFORE = {**dict.fromkeys(SMALL_KINDS, 0.5), "bus": 1.0}
"""Where narrow kinds stand in their column: in its middle, or at its right edge."""
SWEEPS = 6
Links = dict[str, list[tuple[str, float]]]
"""What each symbol is joined to, and how far down that its port is."""


@dataclass(frozen=True)
class DrawnPort:
    """A terminal on the edge of a symbol, in px."""

    name: str
    side: str
    x: float
    y: float


@dataclass(frozen=True)
class DrawnSymbol:
    """A symbol with its place and ports, in px; ``sign`` is drawn from ``sign_x``, ``sign_y``."""

    id: str
    kind: str
    part: str | None
    name: str
    detail: str
    sign: str
    sign_x: float
    sign_y: float
    x: float
    y: float
    width: float
    height: float
    ports: tuple[DrawnPort, ...]


@dataclass(frozen=True)
class DrawnLine:
    """A wire, or a join inside a unit, as corners in px."""

    wire: str | None
    label: str
    colour: str
    points: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Schematic:
    """A drawing: its size in px, symbols and lines."""

    width: float
    height: float
    symbols: tuple[DrawnSymbol, ...]
    lines: tuple[DrawnLine, ...]


def schematic(build: Build, circuit: str) -> Schematic:
    """The schematic of a circuit of a build; empty when it has no wires."""
    content = content_of(build, circuit)
    if not content.symbols:
        return Schematic(0.0, 0.0, (), ())
    _set_columns(content)
    routes = _routes(content)
    columns = _order(content, routes)
    tracks = _place(content, columns, routes)
    symbols = [row for row in content.symbols.values() if row.kind != "lane"]
    lines = tuple(_line(content, route, tracks) for route in routes)
    return Schematic(
        max(row.x + _width(row) for row in symbols) + 2 * GAP,
        max(row.y + _height(row) for row in symbols) + GAP,
        tuple(_drawn(row) for row in symbols),
        lines,
    )


@dataclass(frozen=True)
class Route:
    """A join with the lanes that it takes through the columns between.

    ``back`` ends on a right port, so that its line comes in from the right.
    """

    number: int
    join: Join
    stops: tuple[str, ...]
    back: bool


def _set_columns(content: Content) -> None:
    """Longest way from the feed; what closes a loop does not count."""
    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(content.symbols)
    for join in content.joins:
        first, last = join.start[0], join.end[0]
        ends_right = _is_right(content, join.end) and not _is_right(content, join.start)
        pair = (last, first) if ends_right else (first, last)
        if first == last or _is_back(content, join) or graph.has_edge(*pair):
            continue
        if not nx.has_path(graph, pair[1], pair[0]):
            graph.add_edge(*pair)
    for symbol in nx.topological_sort(graph):
        before = [content.symbols[row].column + 1 for row in graph.predecessors(symbol)]
        content.symbols[symbol].column = max(before, default=0)
    for symbol in reversed(list(nx.topological_sort(graph))):
        after = [content.symbols[row].column - 1 for row in graph.successors(symbol)]
        if content.symbols[symbol].kind in ("bus", "fuse") and after:
            content.symbols[symbol].column = min(after)
    loads = [row for row in content.symbols.values() if row.kind == "load"]
    ends = [row for row in loads if not _leads_on(content, graph, row)]
    column = max((row.column for row in ends), default=0)
    for row in ends:
        row.column = column
    last_column = (
        max(row.column for row in content.symbols.values() if row.kind != "ground point") + 1
    )
    for row in content.symbols.values():
        if row.kind == "ground point":
            row.column = last_column


def _leads_on(content: Content, graph: "nx.DiGraph[str]", load: Symbol) -> bool:
    """Whether something other than ground stands to the right of a load."""
    return any(content.symbols[row].kind != "ground point" for row in graph.successors(load.id))


def _is_right(content: Content, port: tuple[str, str]) -> bool:
    symbol = content.symbols[port[0]]
    return port[1] in symbol.right and port[1] not in symbol.left


def _is_left(content: Content, port: tuple[str, str]) -> bool:
    symbol = content.symbols[port[0]]
    return port[1] in symbol.left and port[1] not in symbol.right


def _is_back(content: Content, join: Join) -> bool:
    """Whether both ends are right ports, or both left: such a line does not order the two."""
    both = (join.start, join.end)
    return all(_is_right(content, end) for end in both) or all(
        _is_left(content, end) for end in both
    )


def _routes(content: Content) -> list[Route]:
    """Each join from left to right, with a lane in every column that it passes."""
    routes = []
    for number, join in enumerate(list(content.joins)):
        first, last = content.symbols[join.start[0]], content.symbols[join.end[0]]
        if last.column < first.column:
            join = Join(join.wire, join.label, join.colour, join.end, join.start)
            first, last = last, first
        back = _is_right(content, join.end)
        over = range(first.column + 1, last.column + 1 if back else last.column)
        stops = []
        for column in over:
            lane = Symbol(f"lane-{number}-{column}", "lane", None, "", "")
            lane.left = lane.right = ["lane"]
            lane.column = column
            content.symbols[lane.id] = lane
            stops.append(lane.id)
        routes.append(Route(number, join, tuple(stops), back))
    return routes


def _order(content: Content, routes: list[Route]) -> list[list[Symbol]]:
    """The symbols of each column from top to bottom, by the mean place of their neighbours."""
    columns: dict[int, list[Symbol]] = defaultdict(list)
    for symbol in content.symbols.values():
        columns[symbol.column].append(symbol)
    rows = [columns[number] for number in range(max(columns) + 1)]
    links: Links = defaultdict(list)
    for route in routes:
        chain = [route.join.start, *((stop, "lane") for stop in route.stops), route.join.end]
        for one, other in pairwise(chain):
            links[one[0]].append((other[0], _share(content, other)))
            links[other[0]].append((one[0], _share(content, one)))
    for sweep in range(SWEEPS):
        at = {row.id: float(place) for column in rows for place, row in enumerate(column)}
        rightwards = sweep % 2 == 0
        for number in range(len(rows)) if rightwards else reversed(range(len(rows))):
            beside = number - 1 if rightwards else number + 1
            fixed = {row.id for row in rows[beside]} if 0 <= beside < len(rows) else set()
            rows[number].sort(key=partial(_mean_place, links, at, fixed))
            at |= {row.id: float(place) for place, row in enumerate(rows[number])}
    return rows


def _mean_place(links: Links, at: Mapping[str, float], fixed: set[str], symbol: Symbol) -> float:
    """The mean place of what a symbol is joined to in the fixed column, or its own."""
    near = [at[other] + share for other, share in links[symbol.id] if other in fixed]
    return sum(near) / len(near) if near else at[symbol.id]


def _share(content: Content, port: tuple[str, str]) -> float:
    """How far down its symbol a port is, from 0 to 1."""
    symbol = content.symbols[port[0]]
    side = symbol.right if port[1] in symbol.right else symbol.left
    return side.index(port[1]) / max(len(side), 1) if port[1] in side else 0.0


def _place(
    content: Content, columns: list[list[Symbol]], routes: list[Route]
) -> dict[tuple[int, int], float]:
    """Set x and y of every symbol; gives the x of each route's track in each channel."""
    crossing: dict[int, list[int]] = defaultdict(list)
    for route in routes:
        for channel in _channels(content, route):
            crossing[channel].append(route.number)
    tracks: dict[tuple[int, int], float] = {}
    x = GAP
    for channel, column in enumerate(columns):
        width = max((_width(row) for row in column if row.kind != "lane"), default=SMALL_WIDTH)
        for row in column:
            row.x = x + SHARE_BEFORE.get(row.kind, 0.0) * (width - _width(row))
        x += width + CHANNEL
        for number in crossing[channel]:
            tracks[number, channel] = x
            x += TRACK
        x += CHANNEL
    for stack in columns:
        _stack(stack)
    for sweep in range(SWEEPS):
        for stack in columns if sweep % 2 == 0 else reversed(columns):
            _pull(content, stack, routes)
    top = min(row.y for row in content.symbols.values()) - GAP
    for row in content.symbols.values():
        row.y -= top
    _shorten_tracks(content, crossing, routes, tracks)
    return tracks


def _channels(content: Content, route: Route) -> list[int]:
    """The channels that a route goes up or down in: one for each stop on its way."""
    first = content.symbols[route.join.start[0]].column
    last = content.symbols[route.join.end[0]].column
    return list(range(first, last + 1 if route.back or first == last else last))


def _stack(column: list[Symbol]) -> None:
    y = GAP
    for row in column:
        row.y = y
        y += _height(row) + (GAP if row.kind != "lane" else 2)


def _pull(content: Content, column: list[Symbol], routes: list[Route]) -> None:
    """Move symbols towards the lines that reach them, keeping their order and their gaps."""
    wanted: dict[str, list[float]] = defaultdict(list)
    ids = {row.id for row in column}
    for route in routes:
        chain = [route.join.start, *((stop, "lane") for stop in route.stops), route.join.end]
        for one, other in pairwise(chain):
            for mine, its in ((one, other), (other, one)):
                if mine[0] in ids and its[0] not in ids:
                    offset = port_y(content.symbols[mine[0]], mine[1]) - content.symbols[mine[0]].y
                    wanted[mine[0]].append(port_y(content.symbols[its[0]], its[1]) - offset)
    lowest = GAP
    for row in column:
        near = wanted.get(row.id)
        target = sum(near) / len(near) if near else row.y
        row.y = max(lowest, target)
        lowest = row.y + _height(row) + (GAP if row.kind != "lane" else 2)


def _shorten_tracks(
    content: Content,
    crossing: dict[int, list[int]],
    routes: list[Route],
    tracks: dict[tuple[int, int], float],
) -> None:
    """Within each channel give the tracks out so that lines cross less: by the height they end."""
    for column, numbers in crossing.items():
        places = sorted(tracks[number, column] for number in numbers)

        def height(number: int) -> float:
            end = routes[number].join.end
            return -port_y(content.symbols[end[0]], end[1])

        for place, number in zip(places, sorted(numbers, key=height), strict=True):
            tracks[number, column] = place


def _line(content: Content, route: Route, tracks: dict[tuple[int, int], float]) -> DrawnLine:
    """Right along the row, up or down in the channel after each column, and so on to the end."""
    join = route.join
    points = [_port_xy(content.symbols[join.start[0]], join.start[1], right=True)]
    stops = [*((stop, "lane") for stop in route.stops), join.end]
    for channel, (symbol, port) in zip(_channels(content, route), stops, strict=False):
        track = tracks[route.number, channel]
        y = port_y(content.symbols[symbol], port)
        points += [(track, points[-1][1]), (track, y)]
    points.append(_port_xy(content.symbols[join.end[0]], join.end[1], right=route.back))
    return DrawnLine(join.wire, join.label, join.colour, tuple(_straight(points)))


def _straight(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """The corners without those that lie on a straight line."""
    kept = points[:1]
    for here, after in pairwise(points[1:]):
        before = kept[-1]
        if not (before[0] == here[0] == after[0] or before[1] == here[1] == after[1]):
            kept.append(here)
    return [*kept, points[-1]]


def _width(symbol: Symbol) -> float:
    if symbol.kind == "bus":
        return min(SYMBOL_WIDTH, SMALL_WIDTH + LETTER * len(symbol.name))
    return SMALL_WIDTH if symbol.kind in SMALL_KINDS else SYMBOL_WIDTH


def _height(symbol: Symbol) -> float:
    if symbol.kind == "lane":
        return PITCH / 2
    head = 0.0 if symbol.kind in FLAT_KINDS else HEAD
    return head + PITCH * max(len(symbol.left), len(symbol.right), 1)


def port_y(symbol: Symbol, port: str) -> float:
    """The height of a port in px."""
    if symbol.kind == "lane":
        return symbol.y + PITCH / 4
    side = symbol.right if port in symbol.right else symbol.left
    head = 0.0 if symbol.kind in FLAT_KINDS else HEAD
    return symbol.y + head + PITCH * (side.index(port) + 0.5)


def _port_xy(symbol: Symbol, port: str, right: bool) -> tuple[float, float]:
    """The place of a port; one on both sides is taken on the side asked for."""
    if port not in symbol.right:
        right = False
    elif port not in symbol.left:
        right = True
    return symbol.x + (_width(symbol) if right else 0.0), port_y(symbol, port)


def _drawn(symbol: Symbol) -> DrawnSymbol:
    sides = (("left", symbol.left, 0.0), ("right", symbol.right, _width(symbol)))
    # the sign of a load stands between its terminals, that of others beside a short detail
    is_load = symbol.kind == "load"
    sign_x = symbol.x + (_width(symbol) / 2 - 10 if is_load else _width(symbol) - 26)
    sign_y = symbol.y + (_height(symbol) - 17 if is_load else 17)
    has_room = is_load or len(symbol.detail) < LONG_DETAIL
    ports = tuple(
        DrawnPort(name, side, symbol.x + across, port_y(symbol, name))
        for side, names, across in sides
        for name in names
    )
    return DrawnSymbol(
        symbol.id,
        symbol.kind,
        symbol.part,
        symbol.name,
        symbol.detail,
        symbol.sign if has_room else "",
        sign_x,
        sign_y,
        symbol.x,
        symbol.y,
        _width(symbol),
        _height(symbol),
        ports,
    )

"""Where the symbols of a schematic stand: columns from feed to ground, the order within each, and
the heights at which most lines run straight.

Layers as in Sugiyama, Tagawa and Toda (1981): each symbol stands right of what feeds it, a line
that passes a column keeps a lane in it, the order within a column follows its neighbours and then
trades places while that saves a crossing. The heights are a linear programme: the least sum of what
the lines go up and down.
"""

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise, product

import networkx as nx
import numpy as np
from scipy.optimize import linprog
from scipy.sparse import coo_array

from circuitry.drawing.shapes import height, port_down
from circuitry.drawing.symbols import Content, Join, Port, Symbol

GAP = 9.0
SWEEPS = 8
STRAIGHT = {0: 1.0, 1: 2.0, 2: 6.0}
"""What it is worth that a line is straight, by how many of its ends are lanes."""
LOW = 0.02
"""What it is worth that the drawing is low."""
Links = Mapping[str, Sequence[tuple[str, Port]]]
"""By symbol, each of its ports with the port that it is joined to in a column beside it."""
RETURN_WORTH = 3.0
"""A return to a sign of its own is always straight: the sign goes where the line is."""


@dataclass(frozen=True)
class Route:
    """A join with the channels in which it may go up or down, and the lanes between them.

    Channel ``n`` is the room left of column ``n``. ``trunk`` is the port that it shares a way with.
    """

    join: Join
    channels: tuple[int, ...]
    lanes: tuple[str, ...]
    trunk: Port | None

    @property
    def stops(self) -> list[Port]:
        """The ports that it joins, lanes among them."""
        return [self.join.start, *((lane, "lane") for lane in self.lanes), self.join.end]


def is_right(content: Content, port: Port) -> bool:
    """Whether a port is at the right only."""
    symbol = content.symbols[port[0]]
    return port[1] in symbol.right and port[1] not in symbol.left


def is_left(content: Content, port: Port) -> bool:
    """Whether a port is at the left only."""
    symbol = content.symbols[port[0]]
    return port[1] in symbol.left and port[1] not in symbol.right


def set_columns(content: Content) -> None:
    """Longest way from the feed; what closes a loop does not count."""
    graph: nx.DiGraph[str] = nx.DiGraph()
    graph.add_nodes_from(content.symbols)
    for join in content.joins:
        first, last = join.start, join.end
        if is_right(content, last) or is_left(content, first):
            first, last = last, first
        if is_left(content, first) or is_right(content, last) or first[0] == last[0]:
            continue
        if not nx.has_path(graph, last[0], first[0]):
            graph.add_edge(first[0], last[0])
    for sources, sinks in _nets(content):
        for source, sink in product(sources, sinks):
            if source != sink and not nx.has_path(graph, sink, source):
                graph.add_edge(source, sink)
    order = list(nx.topological_sort(graph))
    column = dict.fromkeys(order, 0)
    for symbol in order:
        before = [column[row] + 1 for row in graph.predecessors(symbol)]
        column[symbol] = max(before, default=0)
    for symbol in reversed(order):
        after = [column[row] - 1 for row in graph.successors(symbol)]
        shape = content.symbols[symbol].shape
        if after and (shape == "source" or content.symbols[symbol].kind == "fuse"):
            column[symbol] = min(after)
    grounds = {row.id for row in content.symbols.values() if row.shape == "ground"}
    ends = [
        row.id
        for row in content.symbols.values()
        if row.kind == "load" and set(graph.successors(row.id)) <= grounds
    ]
    last_end = max((column[row] for row in ends), default=0)
    column |= dict.fromkeys(ends, last_end)
    most = max((column[row] for row in order if row not in grounds), default=0)
    column |= dict.fromkeys(grounds, most + 1)
    used = sorted(set(column.values()))
    for symbol, at in column.items():
        content.symbols[symbol].column = used.index(at)


def _nets(content: Content) -> Iterator[tuple[list[str], list[str]]]:
    """The symbols whose ports at the right feed a node, and those whose ports at the left it feeds:
    where a wire goes on from the end of another, both ends are fed alike."""
    joined: nx.Graph[Port] = nx.Graph((join.start, join.end) for join in content.joins)
    for net in nx.connected_components(joined):
        ports = sorted(net)
        yield (
            [port[0] for port in ports if is_right(content, port)],
            [port[0] for port in ports if is_left(content, port)],
        )


def routes_of(content: Content) -> list[Route]:
    """The way of each join through the channels, with a lane in every column that it passes; joins
    of one port share their lanes."""
    joined = Counter(end for join in content.joins for end in (join.start, join.end))
    routes = []
    for number, join in enumerate(content.joins):
        first, last = content.symbols[join.start[0]].column, content.symbols[join.end[0]].column
        leftwards = last < first
        leaves = first + 1 if _takes_right(content, join.start, not leftwards) else first
        arrives = last + 1 if _takes_right(content, join.end, leftwards) else last
        step = 1 if arrives >= leaves else -1
        channels = tuple(range(leaves, arrives + step, step))
        trunk = next((end for end in (join.start, join.end) if joined[end] > 1), None)
        lanes = []
        for one, other in pairwise(channels):
            column = min(one, other)
            name = f"lane {':'.join(trunk) if trunk else number} {column}"
            lane = Symbol(name, "lane", None, "", "lane", ports=["lane"])
            lane.left = lane.right = lane.ports
            lane.column = column
            lanes.append(content.symbols.setdefault(name, lane).id)
        routes.append(Route(join, channels, tuple(lanes), trunk))
    return routes


def _takes_right(content: Content, port: Port, wanted: bool) -> bool:
    """Whether a line leaves a port to the right: where it has the choice, as wanted."""
    if is_right(content, port):
        return True
    return wanted and not is_left(content, port)


def ordered(content: Content, routes: Sequence[Route]) -> list[list[Symbol]]:
    """The symbols of each column from top to bottom."""
    columns: dict[int, list[Symbol]] = defaultdict(list)
    for symbol in content.symbols.values():
        columns[symbol.column].append(symbol)
    rows = [columns[number] for number in range(max(columns) + 1)]
    links: dict[str, list[tuple[str, Port]]] = defaultdict(list)
    for route in routes:
        for one, other in pairwise(route.stops):
            if content.symbols[one[0]].column != content.symbols[other[0]].column:
                links[one[0]].append((one[1], other))
                links[other[0]].append((other[1], one))
    best = (_crossings(content, rows, links), *_kept(content, rows))
    for sweep in range(SWEEPS):
        at = _places(rows)
        rightwards = sweep % 2 == 0
        for number in range(len(rows)) if rightwards else reversed(range(len(rows))):
            beside = number - 1 if rightwards else number + 1
            rows[number].sort(key=partial(_mean_place, content, links, at, beside))
            at |= {row.id: float(place) for place, row in enumerate(rows[number])}
        _order_ports(content, rows, links)
        _trade_places(content, rows, links)
        crossings = _crossings(content, rows, links)
        if crossings < best[0]:
            best = (crossings, *_kept(content, rows))
    _, order, sides = best
    for symbol in content.symbols.values():
        symbol.left, symbol.right = sides[symbol.id]
    return order


def _kept(
    content: Content, rows: Sequence[Sequence[Symbol]]
) -> tuple[list[list[Symbol]], dict[str, tuple[list[str], list[str]]]]:
    """The order of the symbols and of their ports as it stands now."""
    sides = {row.id: (list(row.left), list(row.right)) for row in content.symbols.values()}
    return [list(row) for row in rows], sides


def _places(rows: Sequence[Sequence[Symbol]]) -> dict[str, float]:
    return {symbol.id: float(place) for row in rows for place, symbol in enumerate(row)}


def _mean_place(
    content: Content, links: Links, at: Mapping[str, float], beside: int, symbol: Symbol
) -> float:
    """The mean place of what a symbol is joined to in the column beside it, or its own."""
    near = [
        at[other[0]] + _share(content, other)
        for _, other in links[symbol.id]
        if content.symbols[other[0]].column == beside
    ]
    return sum(near) / len(near) if near else at[symbol.id]


def _order_ports(content: Content, rows: Sequence[Sequence[Symbol]], links: Links) -> None:
    """The ends of contacts and the ports of boxes in the order of what they lead to."""
    at = _places(rows)
    for symbol in content.symbols.values():
        if symbol.shape not in ("contact", "frame"):
            continue
        wanted: dict[str, list[float]] = defaultdict(list)
        for port, other in links[symbol.id]:
            wanted[port].append(at[other[0]] + _share(content, other))
        for side in (symbol.left, symbol.right):
            usual = {name: place for place, name in enumerate(symbol.ports)}
            joined = sorted(
                (name for name in side if name in wanted),
                key=lambda name: (sum(wanted[name]) / len(wanted[name]), usual[name]),
            )
            side[:] = [*joined, *(name for name in side if name not in wanted)]


def _share(content: Content, port: Port) -> float:
    """How far down its symbol a port is, from 0 to 1."""
    symbol = content.symbols[port[0]]
    return port_down(symbol, port[1]) / height(symbol)


def _trade_places(content: Content, rows: Sequence[list[Symbol]], links: Links) -> None:
    """Exchange neighbours in a column while that saves a crossing."""
    at = _places(rows)
    for row in rows:
        is_better = True
        while is_better:
            is_better = False
            for place, (one, other) in enumerate(pairwise(row)):
                if _between(content, at, links, one, other) > _between(
                    content, at, links, other, one
                ):
                    row[place], row[place + 1] = other, one
                    at[one.id], at[other.id] = at[other.id], at[one.id]
                    is_better = True


def _between(
    content: Content, at: Mapping[str, float], links: Links, upper: Symbol, lower: Symbol
) -> int:
    """How often the lines of two neighbours cross when the one is above the other."""
    found = 0
    for port, its in links[upper.id]:
        for other_port, others in links[lower.id]:
            here, there = content.symbols[its[0]], content.symbols[others[0]]
            if here.column == there.column and (upper.id, port) != (lower.id, other_port):
                found += at[its[0]] + _share(content, its) > at[others[0]] + _share(content, others)
    return found


def _crossings(content: Content, rows: Sequence[Sequence[Symbol]], links: Links) -> int:
    at = _places(rows)
    found = 0
    for symbol_row in rows:
        lines = [
            (
                at[symbol.id] + _share(content, (symbol.id, port)),
                at[other[0]] + _share(content, other),
            )
            for symbol in symbol_row
            for port, other in links[symbol.id]
            if content.symbols[other[0]].column > symbol.column
        ]
        found += sum(
            (one[0] - other[0]) * (one[1] - other[1]) < 0
            for number, one in enumerate(lines)
            for other in lines[number + 1 :]
        )
    return found


def set_heights(
    content: Content, rows: Sequence[Sequence[Symbol]], routes: Sequence[Route]
) -> None:
    """The heights that keep the order and let the lines go up and down the least."""
    number = {symbol: place for place, symbol in enumerate(content.symbols)}
    hops: dict[tuple[Port, Port], float] = {}
    for route in routes:
        for one, other in pairwise(route.stops):
            lanes = (one[1] == "lane") + (other[1] == "lane")
            worth = RETURN_WORTH if content.symbols[other[0]].shape == "ground" else STRAIGHT[lanes]
            hops[one, other] = hops.get((one, other), 0.0) + worth
    count, foot = len(number), len(number)
    size = count + 1 + len(hops)
    entries: list[tuple[int, int, float]] = []
    limits: list[float] = []

    def at_most(limit: float, *terms: tuple[int, float]) -> None:
        entries.extend((len(limits), place, factor) for place, factor in terms)
        limits.append(limit)

    for row in rows:
        for upper, lower in pairwise(row):
            gap = 2.0 if upper.shape == lower.shape == "lane" else GAP
            at_most(-height(upper) - gap, (number[upper.id], 1.0), (number[lower.id], -1.0))
        if row:
            at_most(-height(row[-1]), (number[row[-1].id], 1.0), (foot, -1.0))
    for place, (one, other) in enumerate(hops):
        down = port_down(content.symbols[one[0]], one[1]) - port_down(
            content.symbols[other[0]], other[1]
        )
        for sign in (1.0, -1.0):
            at_most(
                -sign * down,
                (number[one[0]], sign),
                (number[other[0]], -sign),
                (count + 1 + place, -1.0),
            )
    cost = np.concatenate([np.zeros(count), [LOW * len(rows)], list(hops.values())])
    cost[:count] = LOW / 100
    lines, places, factors = zip(*entries, strict=True)
    matrix = coo_array((factors, (lines, places)), shape=(len(limits), size)).tocsr()
    found = linprog(  # the types know no sparse matrix
        cost,
        A_ub=matrix,  # type: ignore[call-overload]
        b_ub=limits,
        bounds=(0, None),
        method="highs",
    )
    for symbol, place in number.items():
        content.symbols[symbol].y = round(float(found.x[place]), 1)

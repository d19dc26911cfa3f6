"""The schematic of a circuit, laid out by rule: columns from feed to ground, no line by hand."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from circuitry.design.colours import HEX, letters_of
from circuitry.design.model import Build
from circuitry.drawing import shapes
from circuitry.drawing.layering import Route, ordered, routes_of, set_columns, set_heights
from circuitry.drawing.shapes import DrawnText
from circuitry.drawing.symbols import Content, Port, Symbol, content_of

MARGIN = 10.0
TRACK = 8.0
"""Between lines that go up or down side by side."""
STUB = 8.0
CAPITAL = 7.0
"""Width of a letter of a label, most of them capitals."""
ON_ONE_LINE = 20.0
"""What it costs that two lines lie on one another, in crossings."""


@dataclass(frozen=True)
class DrawnPort:
    """A terminal on the edge of a symbol, in px."""

    name: str
    side: str
    x: float
    y: float


@dataclass(frozen=True)
class DrawnSymbol:
    """A symbol in px: its strokes as an SVG path, its frame and sign where it has one, its dots,
    words and ports. The sign is drawn from ``sign_x``, ``sign_y``, ``sign_scale`` times as large.
    """

    id: str
    kind: str
    part: str | None
    name: str
    detail: str
    x: float
    y: float
    width: float
    height: float
    frame: tuple[float, float, float, float] | None
    strokes: str
    dots: tuple[tuple[float, float], ...]
    sign: str
    sign_x: float
    sign_y: float
    sign_scale: float
    texts: tuple[DrawnText, ...]
    ports: tuple[DrawnPort, ...]


@dataclass(frozen=True)
class DrawnLine:
    """A wire, or a join inside a unit, as corners in px, with what is written along it.

    ``base`` and ``tracer`` are its colours as they are drawn, empty where there is none.
    """

    wire: str | None
    base: str
    tracer: str
    points: tuple[tuple[float, float], ...]
    said: DrawnText | None


@dataclass(frozen=True)
class Schematic:
    """A drawing: its size in px, symbols, lines, and the dots where lines of one terminal part."""

    width: float
    height: float
    symbols: tuple[DrawnSymbol, ...]
    lines: tuple[DrawnLine, ...]
    joints: tuple[tuple[float, float], ...]


def schematic(build: Build, circuit: str) -> Schematic:
    """The schematic of a circuit of a build; empty when it has no wires."""
    content = content_of(build, circuit)
    if not content.symbols:
        return Schematic(0.0, 0.0, (), (), ())
    set_columns(content)
    routes = routes_of(content)
    rows = ordered(content, routes)
    set_heights(content, rows, routes)
    tracks = _place(content, rows, routes)
    lines = [_points(content, route, tracks) for route in routes]
    said = _labels(routes, lines)
    symbols = [row for row in content.symbols.values() if row.shape != "lane"]
    for row in symbols:
        row.y += MARGIN
    lines = [[(x, y + MARGIN) for x, y in line] for line in lines]
    wide = max(
        *(row.x + shapes.width(row) for row in symbols), *(x for line in lines for x, _ in line)
    )
    deep = max(
        *(row.y + shapes.height(row) for row in symbols), *(y for line in lines for _, y in line)
    )
    return Schematic(
        wide + MARGIN,
        deep + MARGIN,
        tuple(_drawn(row) for row in symbols),
        tuple(
            DrawnLine(route.join.wire, *_colours(route.join.colour), tuple(line), words)
            for route, line, words in zip(routes, lines, said, strict=True)
        ),
        tuple(_joints(lines)),
    )


def _colours(colour: str) -> tuple[str, str]:
    """Base and tracer of a wire as they are drawn; a colour that is not known has neither."""
    base, _, tracer = colour.lower().partition("/")
    return HEX.get(base.strip(), ""), HEX.get(tracer.strip(), "")


@dataclass
class _Bunch:
    """The lines that go up or down on one track of a channel: where they come in from the left and
    from the right."""

    lefts: set[float]
    rights: set[float]

    @property
    def span(self) -> tuple[float, float]:
        """From its highest to its lowest, in px."""
        heights = self.lefts | self.rights
        return min(heights), max(heights)


Tracks = Mapping[tuple[int, object], float]


def _place(content: Content, rows: Sequence[Sequence[Symbol]], routes: Sequence[Route]) -> Tracks:
    """Set the x of every symbol; gives the x of each bunch of lines in each channel."""
    bunches: dict[int, dict[object, _Bunch]] = defaultdict(dict)
    for route in routes:
        stops = [_height(content, stop) for stop in route.stops]
        for place, channel in enumerate(route.channels):
            bunch = bunches[channel].setdefault(_key(route), _Bunch(set(), set()))
            for stop, y in ((place, stops[place]), (place + 1, stops[place + 1])):
                (bunch.lefts if _is_left_of(content, route, stop, channel) else bunch.rights).add(y)
    tracks: dict[tuple[int, object], float] = {}
    x = MARGIN
    for channel in range(len(rows) + 1):
        turning = {
            key: bunch for key, bunch in bunches[channel].items() if bunch.span[0] < bunch.span[1]
        }
        if channel:
            x += _room(content, routes, channel, rows[channel - 1], at_right=True)
        for key in _tracked(turning):
            tracks[channel, key] = x
            x += TRACK
        if channel == len(rows):
            break
        x += _room(content, routes, channel, rows[channel], at_right=False)
        column = [row for row in rows[channel] if row.shape != "lane"]
        wide = max((shapes.width(row) for row in column), default=0.0)
        for row in rows[channel]:
            share = {"source": 1.0, "ground": 0.0}.get(row.shape, 0.5)
            row.x = x + share * (wide - shapes.width(row))
        x += wide
    return tracks


def _key(route: Route) -> object:
    return route.trunk or id(route)


def _height(content: Content, port: Port) -> float:
    symbol = content.symbols[port[0]]
    return symbol.y + shapes.port_down(symbol, port[1])


def _is_left_of(content: Content, route: Route, stop: int, channel: int) -> bool:
    """Whether a stop of a route comes into a channel from the left."""
    return content.symbols[route.stops[stop][0]].column < channel


def _room(
    content: Content,
    routes: Sequence[Route],
    channel: int,
    column: Sequence[Symbol],
    at_right: bool,
) -> float:
    """So much between the tracks of a channel and a column beside it that every label is read."""
    beside = {row.id for row in column}
    wide = max((shapes.width(row) for row in column if row.shape != "lane"), default=0.0)
    least = STUB
    for route, at_start in zip(routes, _said_at_start(routes), strict=True):
        port = route.join.start if at_start else route.join.end
        if not route.join.label or port[0] not in beside:
            continue
        if route.channels[0 if at_start else -1] != channel:
            continue
        symbol = content.symbols[port[0]]
        share = {"source": 1.0, "ground": 0.0}.get(symbol.shape, 0.5)
        within = share * (wide - shapes.width(symbol))
        inset = shapes.port_xy(symbol, port[1], right=at_right)[0] - symbol.x + within
        inset = wide - inset if at_right else inset
        least = max(least, CAPITAL * len(_said(route)) + STUB - inset)
    return least if channel or least > STUB else 0.0


def _said_at_start(routes: Sequence[Route]) -> list[bool]:
    """Whether each wire has its label after its start: where others share its end, and none its
    start."""
    landed = Counter(end for row in routes for end in (row.join.start, row.join.end))
    return [landed[row.join.end] > 1 == landed[row.join.start] for row in routes]


def _said(route: Route) -> str:
    return f"{route.join.label} {letters_of(route.join.colour)}"


def _tracked(bunches: Mapping[object, _Bunch]) -> list[object]:
    """The bunches from left to right so that their lines cross least: neighbours trade places
    while that saves a crossing."""
    order = sorted(bunches, key=lambda key: bunches[key].span)
    for _ in range(len(order)):
        traded = False
        for place in range(len(order) - 1):
            one, other = bunches[order[place]], bunches[order[place + 1]]
            if _cost(other, one) < _cost(one, other):
                order[place], order[place + 1] = order[place + 1], order[place]
                traded = True
        if not traded:
            break
    return order


def _cost(left: _Bunch, right: _Bunch) -> float:
    """How often the lines of two bunches cross when the one goes up or down left of the other."""
    least, most = right.span
    crossed = sum(least < y < most for y in left.rights)
    least, most = left.span
    crossed += sum(least < y < most for y in right.lefts)
    return crossed + ON_ONE_LINE * len(left.rights & right.lefts)


def _points(content: Content, route: Route, tracks: Tracks) -> list[tuple[float, float]]:
    """Along the row, up or down on the track of each channel, and so on to the end."""
    start, end = (content.symbols[port[0]] for port in (route.join.start, route.join.end))
    points = [shapes.port_xy(start, route.join.start[1], right=route.channels[0] > start.column)]
    for place, channel in enumerate(route.channels):
        y = _height(content, route.stops[place + 1])
        track = tracks.get((channel, _key(route)))
        if track is not None:
            points += [(track, points[-1][1]), (track, y)]
    points.append(shapes.port_xy(end, route.join.end[1], right=route.channels[-1] > end.column))
    return _straight(points)


def _straight(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """The corners without those that lie on a straight line."""
    kept = [points[0]]
    for here, after in pairwise(points[1:]):
        before = kept[-1]
        if not (before[0] == here[0] == after[0] or before[1] == here[1] == after[1]):
            kept.append(here)
    return [*kept, points[-1]]


def _joints(lines: Iterable[Sequence[tuple[float, float]]]) -> list[tuple[float, float]]:
    """Where lines of one terminal part: the corners of one that lie within another, which begins or
    ends where it does."""
    drawn = list(lines)
    found: dict[tuple[float, float], None] = {}
    for number, line in enumerate(drawn):
        for other in drawn[:number] + drawn[number + 1 :]:
            if not {line[0], line[-1]} & {other[0], other[-1]}:
                continue
            for corner in line[1:-1]:
                if any(_within(corner, one, two) for one, two in pairwise(other)):
                    found[corner] = None
    return list(found)


def _within(at: tuple[float, float], one: tuple[float, float], other: tuple[float, float]) -> bool:
    """Whether a point lies on a straight piece, its ends left out."""
    (x, y), (left, upper), (right, lower) = at, one, other
    if left == right == x:
        return min(upper, lower) < y < max(upper, lower)
    return upper == lower == y and min(left, right) < x < max(left, right)


def _labels(
    routes: Sequence[Route], lines: Sequence[Sequence[tuple[float, float]]]
) -> list[DrawnText | None]:
    """What is written along each wire, before its end or after its start; one above the other
    where both are shared."""
    above: dict[tuple[float, float], int] = defaultdict(int)
    said: list[DrawnText | None] = []
    for route, line, at_start in zip(routes, lines, _said_at_start(routes), strict=True):
        if not route.join.label:
            said.append(None)
            continue
        at, beside = (line[0], line[1]) if at_start else (line[-1], line[-2])
        to_the_left = beside[0] < at[0]
        lift = above[at]
        above[at] += 1
        said.append(
            DrawnText(
                at[0] + (-3.0 if to_the_left else 3.0),
                at[1] + MARGIN - 3.5 - 11 * lift,
                _said(route),
                "end" if to_the_left else "start",
                "detail",
            )
        )
    return said


def _drawn(symbol: Symbol) -> DrawnSymbol:
    sides = (("left", symbol.left, False), ("right", symbol.right, True))
    ports = tuple(
        DrawnPort(name, side, *shapes.port_xy(symbol, name, is_right))
        for side, names, is_right in sides
        for name in names
    )
    sign_x, sign_y, scale = shapes.sign_at(symbol)
    return DrawnSymbol(
        id=symbol.id,
        kind=symbol.kind,
        part=symbol.part,
        name=symbol.name,
        detail=symbol.detail,
        x=symbol.x,
        y=symbol.y,
        width=shapes.width(symbol),
        height=shapes.height(symbol),
        frame=shapes.frame(symbol),
        strokes=shapes.strokes(symbol),
        dots=tuple(shapes.dots(symbol)),
        sign=symbol.sign,
        sign_x=sign_x,
        sign_y=sign_y,
        sign_scale=scale,
        texts=tuple(shapes.texts(symbol)),
        ports=ports,
    )

"""The whole car on one sheet: from the battery through feeds and fuses to functions and loads.

Feeds stand one below the other, each a step further in than what feeds it; what is behind a fuse
runs to the right in a line, fuses, functions and loads below one another. What is folded says how
many loads it holds.
"""

from collections import defaultdict
from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass, field

from circuitry.devices import device_of
from circuitry.drawing.schematic import DrawnLine, DrawnSymbol, Schematic
from circuitry.drawing.shapes import DrawnText
from circuitry.sizing.feeds import Point, WayLine, feeds
from circuitry.sizing.result import Sizing

LEVELS = ("feeds", "fuses", "functions", "loads")
"""How far it unfolds, each with those before it."""
LINE, MARGIN, TRUNK, STEP = 19.0, 12.0, 14.0, 26.0
SIGN, AFTER_SIGN, STUB = 20.0, 6.0, 12.0
BATTERY_SIGN = "M0 5 h8 m0 -4 v8 m3 -6 v4 m0 -2 h9"
LETTER, BOLD_LETTER = 5.6, 6.2
LEAST_IN_A = 0.1
"""Below it a current is told in mA."""


@dataclass
class Node:
    """A branch of the tree: what it is, its words and figures, and what hangs on it."""

    id: str
    level: int
    kind: str
    name: str
    figures: str
    sign: str = ""
    under: list["Node"] = field(default_factory=list)
    x: float = 0.0
    wide: float = 0.0
    row: int = 0


def overview(sizing: Sizing, level: str = "loads", turned: Set[str] = frozenset()) -> Schematic:
    """The sheet of a sized build, unfolded to a level of ``LEVELS``; ``turned`` are the branches
    folded that would not be, or the other way round. What a symbol shows is its branch.
    """
    root = _Survey(sizing).root()
    shown = LEVELS.index(level)
    rows = _set_rows(root, shown, turned, 0, 0)
    nodes = list(_walk(root, shown, turned))
    for node in nodes:
        if node.level < 2 and node.under and not _is_open(node, shown, turned):
            node.figures += f" · {_count(node)} loads"
    x = max(node.x for node in nodes if node.level == 0) + STEP
    for level_of in range(len(LEVELS)):
        column = [node for node in nodes if node.level == level_of]
        widest = max(map(_width, column), default=0.0)
        for node in column:
            node.wide = widest if level_of else _width(node)
            node.x = x if level_of else node.x
        if column and level_of:
            x += widest + TRUNK + STUB
    symbols, lines = [], []
    for node in nodes:
        is_open = _is_open(node, shown, turned)
        symbols.append(_symbol(node))
        lines += [_branch(node, child) for child in node.under if is_open]
    return Schematic(
        max(node.x + node.wide for node in nodes) + MARGIN,
        2 * MARGIN + LINE * rows,
        tuple(symbols),
        tuple(lines),
        (),
    )


class _Survey:
    """A build being told as a tree: its loads by what protects them."""

    def __init__(self, sizing: Sizing) -> None:
        self.sizing, self.build = sizing, sizing.build
        self.behind: dict[str, list[str]] = defaultdict(list)
        fed = set()
        for load in sizing.loads.values():
            guards = [row for row in load.path.feed if row.kind in ("fuse", "output")]
            if guards:
                last = guards[-1]
                key = last.owner if last.kind == "fuse" else str(last.to_terminal)
                self.behind[key].append(load.load)
                fed.add(load.load)
        self.unfed = [part.id for part in self.build.parts_of_kind("load") if part.id not in fed]

    def root(self) -> Node:
        """The battery with all that hangs on it, then what nothing feeds."""
        told = feeds(self.sizing)
        root = self._point(told.root)
        root.under += [self._point(point) for point in told.loose]
        if self.unfed:
            bare = Node("not-fed", 1, "part", "Not fed through a fuse", "")
            bare.under = self._functions("not-fed", self.unfed)
            root.under.append(bare)
        return root

    def _point(self, point: Point) -> Node:
        part = self.build.parts[point.id.partition(".")[0]]
        sign = BATTERY_SIGN if part.kind == "battery" else device_of(part).sign(part)
        most_a = max(point.sums_a.values(), default=0.0)
        rating = f"{point.rating_a:g} A · " if point.rating_a else ""
        figures = f"{rating}{_amps(most_a)} at most"
        node = Node(point.id, 0, part.kind, point.name, figures)
        node.sign = sign
        if part.kind == "fuse":
            node.under += self._functions(point.id, self.behind[part.id])
        node.under += [self._way(point.id, row) for row in point.ways if row.circuits or row.fuse]
        node.under += [self._point(row) for row in point.points]
        return node

    def _way(self, point: str, way: WayLine) -> Node:
        key = way.fuse or f"{point}.{way.name}"
        name = way.fuse_name or way.name
        most_a = max(way.sums_a.values(), default=0.0)
        rating = f"{way.rating_a:g} A · " if way.rating_a else ""
        figures = f"{rating}{_amps(most_a)} at most"
        node = Node(key, 1, "fuse", name, figures)
        if way.fuse:
            fuse = self.build.parts[way.fuse]
            node.sign = device_of(fuse).sign(fuse)
        node.under = self._functions(key, self.behind[key])
        return node

    def _functions(self, key: str, loads: Sequence[str]) -> list[Node]:
        """The loads behind a fuse or channel, by circuit."""
        by_circuit: dict[str, list[str]] = defaultdict(list)
        for load in loads:
            by_circuit[self.build.parts[load].circuit or ""].append(load)
        return [
            self._function(f"{key} {circuit}", circuit, of) for circuit, of in by_circuit.items()
        ]

    def _function(self, name: str, circuit: str, loads: Sequence[str]) -> Node:
        known = self.build.circuits.get(circuit)
        title = known.name if known else "in no circuit"
        figures = "1 load" if len(loads) == 1 else f"{len(loads)} loads"
        node = Node(name, 2, "function", title, figures)
        node.under = [self._load(load) for load in loads]
        return node

    def _load(self, load: str) -> Node:
        part = self.build.parts[load]
        row = self.sizing.loads.get(load)
        place = self.build.places[part.place].name
        amps = f"{_amps(row.amps)}, " if row else ""
        sign = device_of(part).sign(part)
        return Node(load, 3, "load", part.name, f"{amps}{place}", sign)


def _is_open(node: Node, shown: int, turned: Set[str]) -> bool:
    """Whether what hangs on a branch is drawn."""
    usual = any(row.level <= shown for row in node.under)
    return bool(node.under) and (usual != (node.id in turned))


def _set_rows(node: Node, shown: int, turned: Set[str], row: int, deep: int) -> int:
    """Set the row of a branch and of what is shown of it, and how far in feeds stand; gives the
    first row below."""
    node.row, node.x = row, MARGIN + STEP * deep
    if not _is_open(node, shown, turned):
        return row + 1
    row += node.level == 0
    for child in node.under:
        row = _set_rows(child, shown, turned, row, deep + 1)
    return row


def _walk(node: Node, shown: int, turned: Set[str]) -> Iterator[Node]:
    yield node
    if _is_open(node, shown, turned):
        for child in node.under:
            yield from _walk(child, shown, turned)


def _count(node: Node) -> int:
    """The loads on a branch."""
    return sum(map(_count, node.under)) if node.level < 3 else 1


def _amps(amps: float) -> str:
    return f"{amps:.1f} A" if amps >= LEAST_IN_A else f"{1000 * amps:.0f} mA"


def _width(node: Node) -> float:
    sign = SIGN + AFTER_SIGN if node.sign else 0.0
    return sign + BOLD_LETTER * (len(node.name) + 1) + LETTER * len(node.figures)


def _y(node: Node) -> float:
    return MARGIN + LINE * (node.row + 0.5)


def _symbol(node: Node) -> DrawnSymbol:
    x, y = node.x, _y(node)
    at = x + (SIGN + AFTER_SIGN if node.sign else 0.0)
    texts = [DrawnText(at, y + 4, node.name, "start", "name")]
    after, end = at + BOLD_LETTER * (len(node.name) + 1), x + node.wide
    if node.figures and node.level == 0:
        texts.append(DrawnText(after, y + 4, node.figures, "start", "detail"))
    elif node.figures:
        texts.append(DrawnText(end, y + 4, node.figures, "end", "detail"))
    return DrawnSymbol(
        id=node.id,
        kind=node.kind,
        part=node.id,
        name=node.name,
        detail=node.figures,
        x=x,
        y=y - LINE / 2 + 1,
        width=node.wide,
        height=LINE - 2,
        frame=None,
        strokes="",
        dots=(),
        sign=node.sign,
        sign_x=x,
        sign_y=y - 5,
        sign_scale=1.0,
        texts=tuple(texts),
        ports=(),
    )


def _branch(node: Node, child: Node) -> DrawnLine:
    """Down from a feed and in, or on from a fuse or function to the right."""
    end = child.x - 3, _y(child)
    if node.level == 0:
        track = node.x + SIGN / 2
        points = [(track, _y(node) + SIGN / 2), (track, end[1]), end]
    else:
        start, track = (node.x + node.wide + 4, _y(node)), child.x - STUB
        points = [start, end]
        if child.row != node.row:
            points = [(track, start[1]), (track, end[1]), end]
    return DrawnLine(None, "", "", tuple(points), None)

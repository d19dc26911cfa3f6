"""The shape of each symbol on the common grid: its size, its ports, its strokes and its words."""

from dataclasses import dataclass
from textwrap import wrap
from typing import Literal

from circuitry.drawing.symbols import Symbol

PITCH = 25.0
"""From one port to the next."""
LETTER = 5.9
"""Width of a letter of the words, 11 px high; a little wide, so that none runs out."""
LINE = 12.5
"""From one line of words to the next."""
LONGEST_LINE, MOST_LINES = 19, 3
SIGN, SIGN_SCALE = 20.0, 1.2
CLEAR = 13.0
"""Above and below a line that carries a sign."""
BODY = SIGN * SIGN_SCALE + 6
THROW = 38.0
"""A contact from its hinge to its ends."""
LANE = 9.0
ENDS = ("source", "sink", "ground")
BESIDE = 20.0
"""From the line of an end to its name, which stands beside it."""
SILENT = ("in", "out", "+", "-", "anode", "cathode", "1", "2", "stud", "splice")
"""Ports whose names say nothing that the sign does not."""


Anchor = Literal["start", "middle", "end"]


@dataclass(frozen=True)
class DrawnText:
    """Words at a place, in px; ``role`` is name, detail or port."""

    x: float
    y: float
    text: str
    anchor: Anchor
    role: Literal["name", "detail", "port"]


def name_lines(symbol: Symbol) -> list[str]:
    """The name broken into lines; what is longer still ends in three dots."""
    lines = wrap(symbol.name, LONGEST_LINE) or [""]
    if len(lines) > MOST_LINES:
        lines = [*lines[: MOST_LINES - 1], f"{lines[MOST_LINES - 1][: LONGEST_LINE - 1]}…"]
    return lines


def _detail(symbol: Symbol) -> str:
    text = symbol.detail if symbol.shape != "dot" else ""
    return text if len(text) <= LONGEST_LINE + 5 else f"{text[: LONGEST_LINE + 4]}…"


def _said_width(symbol: Symbol) -> float:
    return LETTER * max(*(len(row) for row in name_lines(symbol)), len(_detail(symbol)), 1)


def _rows(symbol: Symbol) -> int:
    return max(len(symbol.left), len(symbol.right), 1)


def width(symbol: Symbol) -> float:
    """Of its words and itself, in px."""
    match symbol.shape:
        case "lane":
            return 0.0
        case "dot":
            return max(16.0, LETTER * len(symbol.name))
        case "source" | "sink" | "ground":
            return _said_width(symbol) + BESIDE
        case "frame":
            names = [
                LETTER * max(map(len, side), default=0) for side in (symbol.left, symbol.right)
            ]
            return max(_said_width(symbol), sum(names) + 18 + (SIGN if symbol.sign else 0))
    return max(_said_width(symbol), _body(symbol))


def _body(symbol: Symbol) -> float:
    """From its left ports to its right ones; its words may be wider."""
    match symbol.shape:
        case "line":
            return BODY
        case "contact":
            names = [
                LETTER * max((len(name) for name in side if name not in SILENT), default=0) + 3
                for side in (symbol.left, symbol.right)
            ]
            return THROW + 2 * max(names)
        case "dot":
            return 12.0
    return width(symbol)


def _overhang(symbol: Symbol) -> float:
    """How far its words reach beyond its ports, on either side."""
    return (width(symbol) - _body(symbol)) / 2


def _head(symbol: Symbol) -> float:
    """From its top to its first port."""
    if symbol.shape == "lane":
        return LANE / 2
    words = LINE * len(name_lines(symbol))
    if symbol.shape in ENDS:
        return max(words / 2, 9.0)
    if symbol.shape == "frame":
        return words + 3 + PITCH / 2
    return words + (7.0 if symbol.shape == "dot" else CLEAR)


def height(symbol: Symbol) -> float:
    """From the top of its name to its foot, in px."""
    if symbol.shape == "lane":
        return LANE
    foot = LINE if _detail(symbol) else 0.0
    if symbol.shape in ENDS:
        return 2 * _head(symbol)
    if symbol.shape == "dot":
        return _head(symbol) + 5
    return (
        _head(symbol)
        + PITCH * (_rows(symbol) - 1)
        + (PITCH / 2 if symbol.shape == "frame" else CLEAR)
        + foot
    )


def port_down(symbol: Symbol, port: str) -> float:
    """How far below its top a port is, in px; one alone on its side stands in the middle."""
    side = symbol.right if port in symbol.right else symbol.left
    if symbol.shape == "lane" or port not in side:
        return _head(symbol)
    lower = (_rows(symbol) - len(side)) / 2 if symbol.shape == "contact" else 0.0
    return _head(symbol) + PITCH * (side.index(port) + lower)


def port_xy(symbol: Symbol, port: str, right: bool) -> tuple[float, float]:
    """The place of a port; one on both sides is taken on the side asked for."""
    if port not in symbol.right:
        right = False
    elif port not in symbol.left:
        right = True
    overhang = _overhang(symbol)
    across = width(symbol) - overhang if right or symbol.shape == "source" else overhang
    return symbol.x + across, symbol.y + port_down(symbol, port)


def frame(symbol: Symbol) -> tuple[float, float, float, float] | None:
    """The box of a symbol that has one: x, y, width and height."""
    if symbol.shape != "frame":
        return None
    top = symbol.y + _head(symbol) - PITCH / 2
    return symbol.x, top, width(symbol), PITCH * _rows(symbol)


def sign_at(symbol: Symbol) -> tuple[float, float, float]:
    """Where the sign of a symbol is drawn from, and how large: x, y and scale."""
    scale = SIGN_SCALE if symbol.shape == "line" else 1.0
    middle = symbol.x + width(symbol) / 2
    y = symbol.y + _head(symbol)
    if symbol.shape == "frame":
        y += PITCH * (_rows(symbol) - 1) / 2
    return middle - SIGN * scale / 2, y - 5 * scale, scale


def strokes(symbol: Symbol) -> str:
    """The lines of a symbol as an SVG path, in px."""
    overhang = _overhang(symbol)
    x, y = symbol.x + overhang, symbol.y + _head(symbol)
    end = symbol.x + width(symbol) - overhang
    match symbol.shape:
        case "dot":
            return f"M{x:g} {y:g} H{end:g}"
        case "source":
            return f"M{end - 14:g} {y:g} H{end:g} M{end - 14:g} {y - 8:g} V{y + 8:g}"
        case "sink":
            return f"M{x:g} {y:g} H{x + 14:g} M{x + 14:g} {y - 8:g} V{y + 8:g}"
        case "ground":
            bars = (f"M{x + 5 + 4 * n:g} {y - 8 + 3 * n:g} V{y + 8 - 3 * n:g}" for n in range(3))
            return f"M{x:g} {y:g} H{x + 5:g} {' '.join(bars)}"
        case "line":
            start, _, scale = sign_at(symbol)
            return f"M{x:g} {y:g} H{start:g} M{start + SIGN * scale:g} {y:g} H{end:g}"
        case "contact":
            return _contact(symbol)
    return ""


def _contact(symbol: Symbol) -> str:
    """Stubs to the hinge and the ends, and a blade for what is joined at rest; one that joins
    nothing at rest stands open beside its first end."""
    middle = symbol.x + width(symbol) / 2
    hinge = {}
    parts = []
    for name in symbol.ports:
        is_left = name in symbol.left
        edge, y = port_xy(symbol, name, right=not is_left)
        inner = middle - THROW / 2 if is_left else middle + THROW / 2
        hinge[name] = (inner, y)
        parts.append(f"M{edge:g} {y:g} H{inner:g}")
    moved: set[str] = set()
    for one, other in [*symbol.at_rest, *symbol.inside]:
        from_, to = (other, one) if other == symbol.common else (one, other)
        if from_ in moved:
            continue
        is_closed = (one, other) in symbol.at_rest
        open_by = 0.0 if is_closed else 8.0
        parts.append(_blade(hinge[from_], hinge[to], 1.0 if is_closed else 0.85, open_by))
        moved.add(from_)
    return " ".join(parts)


def _blade(
    one: tuple[float, float], other: tuple[float, float], share: float, open_by: float
) -> str:
    (x, y), (to_x, to_y) = one, other
    if x == to_x:
        return f"M{x:g} {y:g} L{to_x:g} {to_y:g}"
    return f"M{x:g} {y:g} L{x + share * (to_x - x):g} {y + share * (to_y - y) - open_by:g}"


def dots(symbol: Symbol) -> list[tuple[float, float]]:
    """Where a joint or the end of a contact is marked by a dot."""
    if symbol.shape == "dot":
        return [(symbol.x + width(symbol) / 2, symbol.y + _head(symbol))]
    if symbol.shape != "contact":
        return []
    middle = symbol.x + width(symbol) / 2
    return [
        (
            middle + (THROW / 2 if name in symbol.right else -THROW / 2),
            symbol.y + port_down(symbol, name),
        )
        for name in symbol.ports
    ]


def texts(symbol: Symbol) -> list[DrawnText]:
    """The words of a symbol: its name above, its detail below, the names of its ports."""
    middle, end = symbol.x + width(symbol) / 2, symbol.x + width(symbol)
    lines = name_lines(symbol)
    x, top = middle, symbol.y
    anchor: Anchor = "middle"
    if symbol.shape in ENDS:
        is_source = symbol.shape == "source"
        x, anchor = (end - BESIDE, "end") if is_source else (symbol.x + BESIDE, "start")
        top += _head(symbol) - LINE * len(lines) / 2
    said = [
        DrawnText(x, top + LINE * (number + 1) - 3, line, anchor, "name")
        for number, line in enumerate(lines)
    ]
    if detail := _detail(symbol):
        said.append(DrawnText(middle, symbol.y + height(symbol) - 3, detail, "middle", "detail"))
    if symbol.shape in ("frame", "contact"):
        said += [_port_text(symbol, name) for name in symbol.ports if _is_said(symbol, name)]
    return said


def _is_said(symbol: Symbol, name: str) -> bool:
    return symbol.shape == "frame" or name not in SILENT


def _port_text(symbol: Symbol, name: str) -> DrawnText:
    is_right = name in symbol.right
    x, y = port_xy(symbol, name, is_right)
    down = 4.0 if symbol.shape == "frame" else -4.0
    across = 4.0 if symbol.shape == "frame" else 2.0
    anchor: Anchor = "end" if is_right else "start"
    return DrawnText(x + (-across if is_right else across), y + down, name, anchor, "port")

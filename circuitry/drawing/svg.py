"""A schematic as an SVG document that stands on its own."""

from xml.sax.saxutils import escape

from circuitry.design.colours import letters_of
from circuitry.drawing.schematic import FLAT_KINDS, DrawnLine, DrawnSymbol, Schematic

STYLE = (
    "text{font-family:sans-serif;font-size:11px;fill:#1F2529}"
    ".quiet{fill:#5C666D;font-size:10px}"
    "rect{fill:#FCFBF8;stroke:#1F2529}path{fill:none;stroke:#1F2529;stroke-width:1.4}"
)


def as_svg(drawing: Schematic, title: str) -> str:
    """The drawing as text; wires carry their label and the letter code of their colour."""
    size = f'width="{drawing.width:g}" height="{drawing.height:g}"'
    box = f'viewBox="0 0 {drawing.width:g} {drawing.height:g}"'
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} {box}>',
        f"<title>{escape(title)}</title>",
        f"<style>{STYLE}</style>",
        *(_line(line) for line in drawing.lines),
        *(_symbol(symbol) for symbol in drawing.symbols),
        "</svg>",
    ]
    return "\n".join(rows) + "\n"


def _line(line: DrawnLine) -> str:
    corners = " L".join(f"{x:g} {y:g}" for x, y in line.points)
    path = f'<path d="M{corners}"/>'
    if not line.label:
        return path
    x, y = line.points[-1]
    said = f"{line.label} {letters_of(line.colour)}"
    at = f'x="{x - 4:g}" y="{y - 3:g}" text-anchor="end"'
    return f'{path}<text class="quiet" {at}>{escape(said)}</text>'


def _symbol(symbol: DrawnSymbol) -> str:
    if symbol.kind in FLAT_KINDS:
        return _flat(symbol)
    frame = (
        f'<rect x="{symbol.x:g}" y="{symbol.y:g}" width="{symbol.width:g}" '
        f'height="{symbol.height:g}" rx="3"/>'
    )
    names = [
        f'<text class="quiet" x="{port.x + (4 if port.side == "left" else -4):g}" '
        f'y="{port.y + 3:g}" text-anchor="{"start" if port.side == "left" else "end"}">'
        f"{escape(port.name)}</text>"
        for port in symbol.ports
    ]
    x, y = symbol.x + 4, symbol.y + 12
    title = f'<text x="{x:g}" y="{y:g}">{escape(symbol.name)}</text>'
    sign = f'<path transform="translate({symbol.sign_x:g} {symbol.sign_y:g})" d="{symbol.sign}"/>'
    return frame + title + (sign if symbol.sign else "") + "".join(names)


def _flat(symbol: DrawnSymbol) -> str:
    """A pin or splice as a dot, a source or a ground as its name and a bar."""
    x, y, end = symbol.x, symbol.y + symbol.height / 2, symbol.x + symbol.width
    if symbol.kind in ("pin", "splice"):
        middle = (x + end) / 2
        shape = f"M{x:g} {y:g} H{end:g}"
        dot = f'<circle cx="{middle:g}" cy="{y:g}" r="3"/>'
        return f'<path d="{shape}"/>{dot}{_said(symbol, middle, y - 6, "middle")}'
    if symbol.kind == "ground point":
        bars = (f"M{x + 2 + 4 * n:g} {y - 8 + 3 * n:g} V{y + 8 - 3 * n:g}" for n in range(3))
        return (
            f'<path d="M{x:g} {y:g} h2 {" ".join(bars)}"/>{_said(symbol, x + 16, y + 4, "start")}'
        )
    bar = f"M{end - 6:g} {y:g} H{end:g} M{end - 6:g} {y - 8:g} V{y + 8:g}"
    return f'<path d="{bar}"/>{_said(symbol, end - 10, y + 4, "end")}'


def _said(symbol: DrawnSymbol, x: float, y: float, anchor: str) -> str:
    at = f'x="{x:g}" y="{y:g}" text-anchor="{anchor}"'
    return f'<text class="quiet" {at}>{escape(symbol.name)}</text>'

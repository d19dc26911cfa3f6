"""A schematic as an SVG document that stands on its own."""

from xml.sax.saxutils import escape

from circuitry.drawing.schematic import DrawnLine, DrawnSymbol, Schematic
from circuitry.drawing.shapes import DrawnText

INK, QUIET, SHEET = "#1F2529", "#5C666D", "#FCFBF8"
STYLE = (
    f"text{{font-family:sans-serif;font-size:11px;fill:{INK}}}"
    f".detail,.port{{fill:{QUIET}}}.name{{font-weight:bold}}"
    f"rect{{fill:{SHEET};stroke:{INK}}}path{{fill:none;stroke:{INK};stroke-width:1.4}}"
    f"circle{{fill:{INK}}}"
)


def as_svg(drawing: Schematic, title: str) -> str:
    """The drawing as text; wires in their colours, with their label and letter code."""
    size = f'width="{drawing.width:g}" height="{drawing.height:g}"'
    box = f'viewBox="0 0 {drawing.width:g} {drawing.height:g}"'
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} {box}>',
        f"<title>{escape(title)}</title>",
        f"<style>{STYLE}</style>",
        *(_line(line) for line in drawing.lines),
        *(_dot(x, y) for x, y in drawing.joints),
        *(_symbol(symbol) for symbol in drawing.symbols),
        *(_words(line.said) for line in drawing.lines if line.said),
        "</svg>",
    ]
    return "\n".join(rows) + "\n"


def _line(line: DrawnLine) -> str:
    """A wire: its colour on a dark edge, its tracer in dashes; what is no wire is thin."""
    way = " L".join(f"{x:g} {y:g}" for x, y in line.points)
    if not line.base:
        return f'<path d="M{way}"/>'
    strokes = [(INK, 3.4, ""), (line.base, 2.2, "")]
    if line.tracer:
        strokes.append((line.tracer, 2.2, ' stroke-dasharray="4 7"'))
    return "".join(
        f'<path d="M{way}" style="stroke:{colour};stroke-width:{wide}"{dashes}/>'
        for colour, wide, dashes in strokes
    )


def _symbol(symbol: DrawnSymbol) -> str:
    parts = []
    if symbol.frame:
        x, y, width, height = symbol.frame
        parts.append(f'<rect x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}" rx="2"/>')
    if symbol.strokes:
        parts.append(f'<path d="{symbol.strokes}"/>')
    if symbol.sign:
        at = f"translate({symbol.sign_x:g} {symbol.sign_y:g}) scale({symbol.sign_scale:g})"
        parts.append(f'<path transform="{at}" d="{symbol.sign}"/>')
    parts += [_dot(x, y) for x, y in symbol.dots]
    parts += [_words(text) for text in symbol.texts]
    return "".join(parts)


def _dot(x: float, y: float) -> str:
    return f'<circle cx="{x:g}" cy="{y:g}" r="2.6"/>'


def _words(text: DrawnText) -> str:
    at = f'x="{text.x:g}" y="{text.y:g}" text-anchor="{text.anchor}"'
    return f'<text class="{text.role}" {at}>{escape(text.text)}</text>'

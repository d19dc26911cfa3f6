"""The board as an SVG document at full size: one unit is a millimetre."""

import math
from collections.abc import Iterator
from xml.sax.saxutils import escape

from circuitry.workshop.board import Board, BoardLeg, Spot

LEAST_LINE_MM, CLIP_MM, DOT_MM, LETTER_MM = 3.0, 10.0, 9.0, 14.0
STYLE = (
    "text{font-family:sans-serif;font-size:14px;fill:#1F2529}.quiet{fill:#5C666D;font-size:11px}"
    "line{stroke:#1F2529}.clip{stroke-width:2}.free{stroke-dasharray:18 10}"
    "circle{fill:#FFFFFF;stroke:#1F2529;stroke-width:2}"
)


def board_svg(drawn: Board, title: str) -> str:
    """The drawing as text: legs as thick as their bundles, clips as strokes across, spots with what
    ends at each."""
    size = f'width="{drawn.width_mm:g}mm" height="{drawn.height_mm:g}mm"'
    box = f'viewBox="0 0 {drawn.width_mm:g} {drawn.height_mm:g}"'
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} {box}>',
        f"<title>{escape(title)}</title>",
        f"<style>{STYLE}</style>",
        *(row for leg in drawn.legs for row in _leg(leg)),
        *(row for spot in drawn.spots for row in _spot(spot)),
        "</svg>",
    ]
    return "\n".join(rows) + "\n"


def _leg(leg: BoardLeg) -> Iterator[str]:
    free = ' class="free"' if leg.parted else ""
    width = max(leg.diameter_mm, LEAST_LINE_MM)
    ends = _line(leg.x1_mm, leg.y1_mm, leg.x2_mm, leg.y2_mm)
    yield f'<line{free} {ends} stroke-width="{width:g}"/>'
    along = (leg.x2_mm - leg.x1_mm) / leg.length_mm, (leg.y2_mm - leg.y1_mm) / leg.length_mm
    across = -along[1] * (width / 2 + CLIP_MM), along[0] * (width / 2 + CLIP_MM)
    for at in leg.clips_mm:
        x, y = leg.x1_mm + along[0] * at, leg.y1_mm + along[1] * at
        clip = _line(x - across[0], y - across[1], x + across[0], y + across[1])
        yield f'<line class="clip" {clip}/>'
    x, y = (leg.x1_mm + leg.x2_mm) / 2, (leg.y1_mm + leg.y2_mm) / 2
    turned = math.degrees(math.atan2(along[1], along[0]))
    turned += 180 if abs(turned) > 90.1 else 0
    words = [
        f"{leg.length_mm / 1000:.2f} m",
        f"{len(leg.wires)} wires, {leg.diameter_mm:.0f} mm",
        leg.cover if leg.cover != "none" else "",
        leg.hole,
    ]
    said = escape(" · ".join(filter(None, words)))
    place = f'transform="translate({x:g} {y:g}) rotate({turned:g})"'
    yield f'<text class="quiet" {place} y="{-width / 2 - 6:g}" text-anchor="middle">{said}</text>'


def _line(x1: float, y1: float, x2: float, y2: float) -> str:
    return f'x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}"'


def _spot(spot: Spot) -> Iterator[str]:
    x, y = spot.x_mm, spot.y_mm
    yield f'<circle cx="{x:g}" cy="{y:g}" r="{DOT_MM:g}"/>'
    yield f'<text x="{x + 14:g}" y="{y + 26:g}">{escape(spot.name)}</text>'
    for number, said in enumerate(spot.told):
        down = y + 26 + LETTER_MM * (number + 1)
        yield f'<text class="quiet" x="{x + 14:g}" y="{down:g}">{escape(said)}</text>'

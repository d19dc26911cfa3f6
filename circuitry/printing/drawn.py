"""A schematic on paper: as part of a book, or on a sheet of its own."""

import io
from functools import cache

from reportlab.graphics import renderPDF
from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import landscape
from svglib.fonts import FontMap
from svglib.svglib import svg2rlg

from circuitry.drawing import Schematic, as_svg
from circuitry.printing.paper import (
    BOLD,
    FONTS,
    HEAD,
    MARGIN,
    PLAIN,
    SAFETY,
    Page,
    size_of,
    with_fonts,
)

LARGEST_SCALE = 0.9
"""Points to a px of the drawing: words 10 points high."""


@cache
def _fonts() -> FontMap:
    fonts = FontMap()
    for weight, file, name in (("normal", "regular", PLAIN), ("bold", "semibold", BOLD)):
        path = str(FONTS / f"print-{file}.ttf")
        fonts.register_font("sans-serif", weight=weight, font_path=path, rlgFontName=name)
    return fonts


def on_paper(drawing: Schematic, title: str, width: float, height: float) -> Drawing | None:
    """A drawing as large as it may be within so many points; None when there is nothing in it."""
    if not drawing.symbols:
        return None
    svg = io.BytesIO(as_svg(drawing, title).encode())
    found: Drawing | None = svg2rlg(svg, font_map=_fonts())
    if found is None:
        return None
    scale = min(width / found.width, height / found.height, LARGEST_SCALE)
    found.scale(scale, scale)
    found.width, found.height = found.width * scale, found.height * scale
    return found


def sheet(drawing: Schematic, title: str, paper: str = "A4") -> bytes:
    """A PDF of one sheet, turned so that the drawing is as large as it may be.

    Raises UnusableInput for a paper that is not known.
    """
    upright = size_of(paper)
    is_tall = drawing.height * upright[0] > drawing.width * upright[1]
    width, height = upright if is_tall else landscape(upright)
    room = width - 2 * MARGIN, height - 2 * MARGIN - 2 * HEAD
    with_fonts()
    file = io.BytesIO()
    canvas = Page(file, pagesize=(width, height))
    canvas.setTitle(title)
    canvas.setFont(BOLD, 13)
    canvas.drawString(MARGIN, height - MARGIN - 6, title)
    canvas.setFont(PLAIN, 8)
    canvas.drawString(MARGIN, MARGIN - 2, SAFETY)
    found = on_paper(drawing, title, *room)
    if found is None:
        canvas.setFont(PLAIN, 11)
        canvas.drawString(MARGIN, height / 2, "Nothing is wired here yet.")
    else:
        top = height - MARGIN - HEAD
        renderPDF.draw(found, canvas, MARGIN + (room[0] - found.width) / 2, top - found.height)
    canvas.save()
    return file.getvalue()

"""The board at full size over many sheets, to be taped together: marks where sheets overlap, and a
ruler on each by which the printer is checked."""

import io
import math
from collections.abc import Callable, Iterator

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from circuitry.printing.paper import BOLD, PLAIN, Page, size_of, with_fonts
from circuitry.progress import report
from circuitry.workshop.board import Board, BoardLeg, Spot

EDGE_MM, OVERLAP_MM, RULER_MM = 10.0, 10.0, 100.0
LEAST_LINE_MM, CLIP_MM, DOT_MM = 2.0, 10.0, 6.0
MOST_SAID, LETTER_MM, LINE_MM = 14, 1.5, 3.5


def board_pages(drawn: Board, title: str, paper: str = "A4") -> bytes:
    """A PDF at 1 : 1, sheets named by row and column; those on which nothing lies are left out.

    Raises UnusableInput for a paper that is not known.
    """
    width_mm, height_mm = (round(size / mm, 2) for size in size_of(paper))
    each = width_mm - 2 * EDGE_MM - OVERLAP_MM, height_mm - 2 * EDGE_MM - OVERLAP_MM
    file = io.BytesIO()
    with_fonts()
    canvas = Page(file, pagesize=size_of(paper))
    canvas.setTitle(f"{title}: the loom laid flat, full size")
    sheets = list(_sheets(drawn, each))
    for number, (row, column) in enumerate(sheets):
        report("Setting sheets of the board", number / len(sheets))
        _sheet(canvas, drawn, title, (row, column), each, height_mm)
        canvas.showPage()
    if not sheets:
        canvas.setFont(PLAIN, 11)
        canvas.drawString(EDGE_MM * mm, (height_mm - 20) * mm, "No wire goes through any run yet.")
        canvas.showPage()
    canvas.save()
    return file.getvalue()


def sheet_name(row: int, column: int) -> str:
    """Rows by letter, columns by number: B3."""
    return f"{chr(ord('A') + row % 26)}{'' if row < 26 else row // 26}{column + 1}"


def _sheets(drawn: Board, each: tuple[float, float]) -> Iterator[tuple[int, int]]:
    """Row and column of the sheets on which something lies."""
    columns, rows = math.ceil(drawn.width_mm / each[0]), math.ceil(drawn.height_mm / each[1])
    for row in range(rows):
        for column in range(columns):
            box = column * each[0], row * each[1], (column + 1) * each[0], (row + 1) * each[1]
            if any(_touches(leg, box) for leg in drawn.legs) or any(
                _is_told(spot, box) for spot in drawn.spots
            ):
                yield row, column


def _touches(leg: BoardLeg, box: tuple[float, float, float, float]) -> bool:
    """Whether a leg, or a clip on it, lies on a sheet."""
    steps = max(int(leg.length_mm / 5), 1)
    near = leg.diameter_mm / 2
    for step in range(steps + 1):
        x = leg.x1_mm + (leg.x2_mm - leg.x1_mm) * step / steps
        y = leg.y1_mm + (leg.y2_mm - leg.y1_mm) * step / steps
        if box[0] - near <= x <= box[2] + near and box[1] - near <= y <= box[3] + near:
            return True
    return False


def _is_told(spot: Spot, box: tuple[float, float, float, float]) -> bool:
    """Whether words of a spot stand on a sheet."""
    lines = min(len(spot.told), MOST_SAID) + 1
    wide = max((len(said) for said in spot.told), default=10)
    left, top = spot.x_mm + 9, spot.y_mm + 20
    right, low = left + LETTER_MM * wide, top + LINE_MM * lines
    return left < box[2] and right > box[0] and top < box[3] and low > box[1]


def _sheet(
    canvas: Canvas,
    drawn: Board,
    title: str,
    at: tuple[int, int],
    each: tuple[float, float],
    height_mm: float,
) -> None:
    row, column = at
    left, top = column * each[0] - EDGE_MM, row * each[1] - EDGE_MM

    def x(board_mm: float) -> float:
        return (board_mm - left) * mm

    def y(board_mm: float) -> float:
        return (height_mm - (board_mm - top)) * mm

    canvas.saveState()
    box = canvas.beginPath()
    wide, high = each[0] + OVERLAP_MM, each[1] + OVERLAP_MM
    box.rect(EDGE_MM * mm, (height_mm - EDGE_MM - high) * mm, wide * mm, high * mm)
    canvas.clipPath(box, stroke=0)
    for leg in drawn.legs:
        _leg(canvas, leg, x, y)
    for spot in drawn.spots:
        canvas.setLineWidth(1)
        canvas.circle(x(spot.x_mm), y(spot.y_mm), DOT_MM * mm)
        canvas.setFont(BOLD, 11)
        canvas.drawString(x(spot.x_mm + 9), y(spot.y_mm + 24), spot.name)
        canvas.setFont(PLAIN, 8)
        for number, said in enumerate(spot.told[:MOST_SAID]):
            canvas.drawString(x(spot.x_mm + 9), y(spot.y_mm + 24) - 10 * (number + 1), said)
    canvas.restoreState()
    _furniture(canvas, title, at, each, height_mm)


def _leg(
    canvas: Canvas, leg: BoardLeg, x: Callable[[float], float], y: Callable[[float], float]
) -> None:
    canvas.setLineWidth(max(leg.diameter_mm, LEAST_LINE_MM) * mm)
    canvas.setStrokeGray(0.75)
    canvas.line(x(leg.x1_mm), y(leg.y1_mm), x(leg.x2_mm), y(leg.y2_mm))
    canvas.setStrokeGray(0)
    canvas.setLineWidth(0.8)
    canvas.line(x(leg.x1_mm), y(leg.y1_mm), x(leg.x2_mm), y(leg.y2_mm))
    along = (leg.x2_mm - leg.x1_mm) / leg.length_mm, (leg.y2_mm - leg.y1_mm) / leg.length_mm
    half = leg.diameter_mm / 2 + CLIP_MM
    canvas.setFont(PLAIN, 9)
    for at in leg.clips_mm:
        cx, cy = leg.x1_mm + along[0] * at, leg.y1_mm + along[1] * at
        ends = (
            cx + along[1] * half,
            cy - along[0] * half,
            cx - along[1] * half,
            cy + along[0] * half,
        )
        canvas.line(x(ends[0]), y(ends[1]), x(ends[2]), y(ends[3]))
    words = f"{leg.name}: {leg.length_mm / 1000:.2f} m, {len(leg.wires)} wires, {leg.cover}"
    turned = -math.degrees(math.atan2(along[1], along[0]))
    turned += 180 if abs(turned) > 90.1 else 0
    pieces = max(round(leg.length_mm / 300), 1)
    for piece in range(pieces):
        part = (piece + 0.5) / pieces
        canvas.saveState()
        canvas.translate(
            x(leg.x1_mm + (leg.x2_mm - leg.x1_mm) * part),
            y(leg.y1_mm + (leg.y2_mm - leg.y1_mm) * part),
        )
        canvas.rotate(turned)
        canvas.drawCentredString(0, (leg.diameter_mm / 2 + 2) * mm, words)
        canvas.restoreState()


def _furniture(
    canvas: Canvas, title: str, at: tuple[int, int], each: tuple[float, float], height_mm: float
) -> None:
    """The name of the sheet, marks where the next ones lie on it, and the ruler."""
    row, column = at
    canvas.setFont(BOLD, 10)
    canvas.drawString(EDGE_MM * mm, (height_mm - 7) * mm, f"{title}   {sheet_name(row, column)}")
    canvas.setFont(PLAIN, 8)
    beside = f"right of it {sheet_name(row, column + 1)}, below it {sheet_name(row + 1, column)}"
    canvas.drawString((EDGE_MM + 75) * mm, (height_mm - 7) * mm, f"{beside}; overlap at the marks")
    right, low = EDGE_MM + each[0], height_mm - EDGE_MM - each[1]
    canvas.setLineWidth(0.4)
    canvas.setDash(2, 2)
    canvas.line(right * mm, EDGE_MM / 2 * mm, right * mm, (height_mm - EDGE_MM) * mm)
    canvas.line(EDGE_MM * mm, low * mm, (right + OVERLAP_MM) * mm, low * mm)
    canvas.setDash()
    for step in range(11):
        x = (EDGE_MM + step * RULER_MM / 10) * mm
        canvas.line(x, 3 * mm, x, (6 if step % 5 else 7.5) * mm)
    canvas.line(EDGE_MM * mm, 3 * mm, (EDGE_MM + RULER_MM) * mm, 3 * mm)
    canvas.drawString(
        (EDGE_MM + RULER_MM + 2) * mm, 3 * mm, "100 mm: if not, print at 100 % without fitting"
    )

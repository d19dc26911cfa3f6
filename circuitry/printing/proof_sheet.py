"""The sheet of a proof: its steps with what to expect, and boxes to fill in beside the car. Each
step has the number by which it is typed back."""

from collections.abc import Collection, Iterator

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table

from circuitry.printing.paper import MARGIN, Box, pages, size_of, style, text
from circuitry.proving import SECTIONS, Band, Plan, Step
from circuitry.proving.step import Operation
from circuitry.quantities import with_prefix

READING_MM, TICK_MM, TALL_MM, LOW_MM = 26, 4, 7, 4.5


def proof_sheet(
    plan: Plan, about: str, steps: Collection[str] | None = None, paper: str = "A4"
) -> bytes:
    """A PDF of the steps of a plan, or of those named; ``about`` says of which car, and when.

    Raises UnusableInput for a paper that is not known.
    """
    width = size_of(paper)[0] - 2 * MARGIN
    story: list[Flowable] = [*_head()]
    section = ""
    for number, step in enumerate(plan.steps, 1):
        if steps is not None and step.id not in steps:
            continue
        if step.section != section:
            section = step.section
            story.append(text(SECTIONS[section], style(15, bold=True, before=8)))
        story.append(KeepTogether([*_step(number, step, width), Spacer(0, 3 * mm)]))
    return pages("Sheet of proof", about, story, paper)


def _head() -> Iterator[Flowable]:
    yield text("Who measured: ______________________      When: ______________________", style(11))
    yield Spacer(0, 2 * mm)
    yield text(
        "Write what the meter shows and tick what you saw. To type it back, open Power up, choose "
        "“Type in a sheet” and give each step by its number."
    )


def _step(number: int, step: Step, width: float) -> Iterator[Flowable]:
    heading = [text(f"{number}", style(12, bold=True)), text(step.title, style(12, bold=True))]
    tick = TICK_MM * mm
    verdict = [Box(tick, tick), text("passed"), Box(tick, tick), text("not right")]
    columns = [12 * mm, width - 60 * mm, 6 * mm, 15 * mm, 6 * mm, 21 * mm]
    flush = ("LEFTPADDING", (0, 0), (0, -1), 0)
    yield Table([[*heading, *verdict]], columns, style=[("VALIGN", (0, 0), (-1, -1), "TOP"), flush])
    for caution in step.cautions:
        yield text(f"CAUTION  {caution}", style(bold=True))
    if step.place:
        yield text(f"At: {step.place}")
    if step.how:
        yield text(step.how)
    for word, names in (("In", step.goes_in), ("Out", step.stays_out)):
        if names:
            yield text(f"{word}: {', '.join(names)}")
    if step.operate:
        yield text(f"Do: {'; '.join(map(_operated, step.operate))}")
    rows = [*_looks(step), *_readings(step)]
    if rows:
        inner = [width - (READING_MM + 58) * mm, 58 * mm, READING_MM * mm]
        lines = ("LINEABOVE", (0, 0), (-1, -1), 0.25, "#999999")
        middle = ("VALIGN", (0, 0), (-1, -1), "MIDDLE")
        yield Table(rows, inner, style=[lines, middle, flush], hAlign="LEFT")


def _operated(row: Operation) -> str:
    held = row.held and row.position != "held"
    return f"{row.said}, held" if held else row.said


def _looks(step: Step) -> Iterator[list[Flowable | list[Flowable]]]:
    for look in step.looks:
        if not look.waits:
            box = Box(READING_MM * mm - 12, LOW_MM * mm)
            yield [text(look.name), text(f"{look.right}: tick, or what you see"), box]


def _readings(step: Step) -> Iterator[list[Flowable | list[Flowable]]]:
    for row in step.readings:
        if not row.waits:
            what: list[Flowable] = [text(row.name, style(bold=True)), text(row.where)]
            box = Box(READING_MM * mm - 12, TALL_MM * mm)
            yield [what, text(band_said(row.band, row.unit), style(11)), box]


def band_said(band: Band, unit: str) -> str:
    """A band in words: ``11.80 to 12.30 V``, ``up to 0.3 Ω``, ``open, above 10 kΩ``."""
    low = with_prefix(band.low, unit)
    if band.high is None:
        return f"open, above {low}" if band.expected is None else f"above {low}"
    high = with_prefix(band.high, unit)
    if band.low <= 0:
        return f"up to {high}"
    figure, _, its_unit = low.partition(" ")
    return f"{figure} to {high}" if high.endswith(f" {its_unit}") else f"{low} to {high}"

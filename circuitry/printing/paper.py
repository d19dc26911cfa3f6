"""Paper: page sizes, the fonts that pages carry, what stands at the head and foot of each."""

import io
from collections.abc import Iterator, Sequence
from functools import cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A3, A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    CondPageBreak,
    Flowable,
    Frame,
    PageTemplate,
    Paragraph,
)
from reportlab.platypus.tableofcontents import TableOfContents

from circuitry.errors import UnusableInput
from circuitry.progress import report

SIZES = {"A4": A4, "A3": A3, "letter": LETTER}
FONTS = Path(__file__).parent / "fonts"
PLAIN, BOLD = "plain", "bold"
MARGIN, HEAD, FOOT = 15 * mm, 9 * mm, 9 * mm
BELOW_HEADING = 45 * mm
SAFETY = (
    "A planning aid, not a certificate. Battery negative off first and on last. Local codes and "
    "licensed people decide. Above 60 V d.c. hands off."
)
LACKING = (
    "An empty box stands for a letter that these pages do not have; on the screen and in the file "
    "it is whole."
)


class _Font(TTFont):
    """A font that notes in a document which letters it was asked for and does not have."""

    def splitString(self, text: Any, doc: Any, encoding: str = "utf-8") -> Any:  # noqa: N802
        """The text by subset of the font."""
        if any(ord(letter) not in self.face.charToGlyph for letter in text if letter.isprintable()):
            doc.lacking = True
        return super().splitString(text, doc, encoding)


class Page(Canvas):
    """A canvas that says at the foot of a page where letters are lacking."""

    def showPage(self) -> None:  # noqa: N802
        """End the page."""
        if getattr(self._doc, "lacking", False):  # type: ignore[attr-defined]
            self.setFont(PLAIN, 7.5)
            self.drawString(MARGIN, MARGIN / 2, LACKING)
        super().showPage()


@cache
def with_fonts() -> None:
    """Make the fonts known that pages carry."""
    for name, file in ((PLAIN, "regular"), (BOLD, "semibold")):
        pdfmetrics.registerFont(_Font(name, str(FONTS / f"print-{file}.ttf")))
    for name in (PLAIN, BOLD):
        pdfmetrics.registerFontFamily(name, normal=name, bold=BOLD, italic=name, boldItalic=BOLD)


def style(size: float = 9.5, bold: bool = False, before: float = 0.0) -> ParagraphStyle:
    """A style of text, by its size in points."""
    with_fonts()
    return ParagraphStyle(
        "text",
        fontName=BOLD if bold else PLAIN,
        fontSize=size,
        leading=size * 1.25,
        spaceBefore=before,
    )


def text(words: str, how: ParagraphStyle | None = None) -> Paragraph:
    """A paragraph of plain words: nothing in them is markup."""
    return Paragraph(escape(words), how or style())


def size_of(paper: str) -> tuple[float, float]:
    """Width and height of a paper in points; raises UnusableInput for one that is not known."""
    if paper not in SIZES:
        raise UnusableInput(
            "unknown-paper", "paper", f"“{paper}” is no paper here. Take {' or '.join(SIZES)}."
        )
    return SIZES[paper]


class _Document(BaseDocTemplate):
    """A document that tells its table of contents of each heading."""

    def afterFlowable(self, flowable: Flowable) -> None:  # noqa: N802
        """Note the page of a heading, and mark it for whoever reads on a screen."""
        level = getattr(flowable, "level", None)
        if level is None:
            return
        words, key = flowable.words, f"{self.page} {flowable.words}"  # type: ignore[attr-defined]
        self.canv.bookmarkPage(key)
        self.canv.addOutlineEntry(words, key, level, closed=True)
        self.notify("TOCEntry", (level, escape(words), self.page, key))


class Heading(Paragraph):
    """A heading that stands in the table of contents, of level 0 or 1."""

    def __init__(self, words: str, level: int = 0) -> None:
        how = style(17 - 4 * level, bold=True, before=8)
        how.keepWithNext = level == 0
        super().__init__(escape(words), how)
        self.words, self.level = words, level


def contents() -> TableOfContents:
    """The table of contents: every heading with its page."""
    table = TableOfContents()
    table.levelStyles = [style(10, bold=True, before=3), style(8.5)]
    for how, indent in zip(table.levelStyles, (0, 12), strict=True):
        how.leftIndent = indent
    return table


def pages(title: str, about: str, story: Sequence[Flowable], paper: str) -> bytes:
    """A PDF: ``title`` and ``about`` stand at the head of each page, its number at the foot. Says
    how far it is, and stops when it is asked to."""
    width, height = size_of(paper)
    file = io.BytesIO()
    document = _Document(
        file, pagesize=(width, height), title=title, subject=about, creator="Oilstone", lang="en"
    )
    frame = Frame(
        MARGIN,
        MARGIN + FOOT,
        width - 2 * MARGIN,
        height - 2 * MARGIN - HEAD - FOOT,
        leftPadding=0,
        rightPadding=0,
        topPadding=0,
        bottomPadding=0,
    )

    def furniture(canvas: Canvas, _: BaseDocTemplate) -> None:
        report(f"Setting page {canvas.getPageNumber()}")
        canvas.setFont(BOLD, 9)
        canvas.drawString(MARGIN, height - MARGIN, title)
        canvas.setFont(PLAIN, 9)
        canvas.drawRightString(width - MARGIN, height - MARGIN, about)
        canvas.setLineWidth(0.5)
        canvas.line(MARGIN, height - MARGIN - 3, width - MARGIN, height - MARGIN - 3)
        canvas.setFont(PLAIN, 7.5)
        canvas.drawString(MARGIN, MARGIN, SAFETY)

    document.addPageTemplates([PageTemplate("page", [frame], onPage=furniture)])
    document.multiBuild(list(_not_at_the_foot(story)), canvasmaker=_Numbered)
    return file.getvalue()


def _not_at_the_foot(story: Sequence[Flowable]) -> Iterator[Flowable]:
    """Each smaller heading with room for what begins below it."""
    for row in story:
        if isinstance(row, Heading) and row.level:
            yield CondPageBreak(BELOW_HEADING)
        yield row


class _Numbered(Page):
    """A canvas that knows how many pages there are before it writes the number of any."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._pages: list[dict[str, Any]] = []
        self._marks: list[str] = []

    def bookmarkPage(self, key: str, *_: Any) -> None:  # type: ignore[override]  # noqa: N802
        """Mark this page, once it is written."""
        self._marks.append(key)

    def showPage(self) -> None:  # noqa: N802
        """Keep the page for later."""
        self._pages.append(dict(self.__dict__))
        self._marks = []
        self._startPage()  # type: ignore[attr-defined]

    def save(self) -> None:
        """Number all pages and write them."""
        for number, page in enumerate(self._pages, 1):
            self.__dict__.update(page)
            for key in self._marks:
                super().bookmarkPage(key)
            self.setFont(PLAIN, 9)
            right = page["_pagesize"][0] - MARGIN
            self.drawRightString(right, MARGIN, f"{number} of {len(self._pages)}")
            super().showPage()
        super().save()


class Box(Flowable):
    """An empty box to write in or to tick."""

    def __init__(self, width: float, height: float) -> None:
        super().__init__()
        self.width, self.height = width, height

    def draw(self) -> None:
        """The box."""
        self.canv.setLineWidth(0.7)
        self.canv.rect(0, 0, self.width, self.height)

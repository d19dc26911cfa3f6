"""The book of the car: everything that whoever owns it, or works on it, must know, on paper.

Of the whole car, or of one circuit to take under it.
"""

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from PIL import Image as Picture
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    Image,
    KeepTogether,
    PageBreak,
    Spacer,
    Table,
    TableStyle,
)

from circuitry.budget import Budget
from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.battery import capacity_ah
from circuitry.drawing import schematic
from circuitry.errors import UnusableInput
from circuitry.layout.bundles import bundles
from circuitry.printing.drawn import on_paper
from circuitry.printing.paper import (
    MARGIN,
    SAFETY,
    Heading,
    contents,
    pages,
    size_of,
    style,
    text,
)
from circuitry.printing.plan import CarPlan
from circuitry.progress import report
from circuitry.sizing.feeds import Ground, Point, feeds
from circuitry.sizing.result import Sizing
from circuitry.workshop import Workshop, workshop
from circuitry.workshop.plugs import Cavity, asked_said

FINE: list[Any] = [
    ("LINEBELOW", (0, 0), (-1, 0), 0.7, "#000000"),
    ("LINEBELOW", (0, 1), (-1, -1), 0.25, "#999999"),
    ("VALIGN", (0, 0), (-1, -1), "TOP"),
    ("TOPPADDING", (0, 0), (-1, -1), 1.5),
    ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ("LEFTPADDING", (0, 0), (-1, -1), 2),
    ("RIGHTPADDING", (0, 0), (-1, -1), 3),
]
SMALL = 8.0
HIGHEST_DRAWING = 0.8
"""Of the height of a page, so that its table begins below it."""
PHOTO_MM = 70
DEAD = (
    "One thing is dead: look at its fuse by the chart, then at its lamp, then at its ground.",
    "Several things are dead together: look at what they share, the fuse of their feed or their "
    "ground point, before anything else.",
    "A new fuse of the same rating blows at once: leave it out. Something touches the body; a "
    "larger fuse would burn the wire instead.",
    "Nothing at all: the isolator, the rings on the battery, the main fuse.",
    "Slow starter, dim lamps: volts at the battery's posts while it cranks, then at the starter.",
)


@dataclass(frozen=True)
class Told:
    """Something that was done, when and by what words: an edit, a step that was proved."""

    at: str
    says: str
    note: str = ""


@dataclass(frozen=True)
class Extras:
    """What the book tells beside the build: who built it, the record of proof with its readings,
    the history of changes, and photos as JPEG with their words."""

    builder: str = ""
    today: str = ""
    proofs: Sequence[Told] = ()
    history: Sequence[Told] = ()
    photos: Sequence[tuple[str, bytes]] = field(default=())


def book(
    sizing: Sizing,
    budget: Budget,
    extras: Extras,
    paper: str = "A4",
    circuit: str | None = None,
) -> bytes:
    """The book as PDF, or one circuit of it; raises UnusableInput for a paper or circuit that is
    not known, and Stopped when it is asked to stop."""
    build = sizing.build
    if circuit is not None and circuit not in build.circuits:
        raise UnusableInput("unknown-circuit", circuit, f"The build has no circuit “{circuit}”.")
    writer = _Book(sizing, budget, extras, paper)
    story = list(writer.whole() if circuit is None else writer.of_circuit(circuit))
    title = build.name if circuit is None else f"{build.name}: {build.circuits[circuit].name}"
    return pages(title, extras.builder or extras.today, story, paper)


class _Book:
    def __init__(self, sizing: Sizing, budget: Budget, extras: Extras, paper: str) -> None:
        self.sizing, self.build, self.budget, self.extras = sizing, sizing.build, budget, extras
        width, height = size_of(paper)
        self.width = width - 2 * MARGIN
        self.height = height - 2 * MARGIN - 24 * mm
        self.made: Workshop = workshop(self.build, solutions=sizing.solutions)
        self.lines = {line.id: line for line in self.made.wires}

    def whole(self) -> Iterator[Flowable]:
        """The book of the car."""
        yield from self._cover()
        parts = (
            ("For the owner", self._owner),
            ("Fuses", self._fuses),
            ("Relays", self._relays),
            ("Supply and grounds", self._supply),
            ("Where things are", self._plan),
            ("Circuits", self._circuits),
            ("Wires", self._wires),
            ("Plugs and pins", self._plugs),
            ("Splices", self._splices),
            ("What it draws", self._budget),
            ("To look at, and what is lived with", self._findings),
            ("Record of proof", self._proofs),
            ("Photos", self._photos),
            ("History of changes", self._history),
        )
        for number, (title, write) in enumerate(parts):
            report(f"Writing: {title}", number / len(parts))
            rows = list(write())
            if rows:
                yield PageBreak()
                yield Heading(title)
                yield from rows

    def of_circuit(self, circuit: str) -> Iterator[Flowable]:
        """One circuit, to take under the car."""
        yield text(SAFETY)
        yield from self._circuit(circuit, level=0)
        every = feeds(self.sizing).grounds
        grounds = [row for row in every if circuit in {load.circuit for load in row.circuits}]
        yield from self._grounds(grounds)

    def _cover(self) -> Iterator[Flowable]:
        yield Spacer(0, 30 * mm)
        yield text(self.build.name, style(30, bold=True))
        yield text("The book of its electrical system", style(15))
        yield Spacer(0, 6 * mm)
        for words in (self.extras.builder, self.extras.today):
            if words:
                yield text(words, style(11))
        yield Spacer(0, 6 * mm)
        yield text(SAFETY, style(bold=True))
        yield Spacer(0, 8 * mm)
        yield contents()

    def _table(
        self, headings: Sequence[str], rows: Sequence[Sequence[str]], shares: Sequence[float]
    ) -> Table:
        """Rows of text under headings; ``shares`` are those of the width."""
        head = [text(words, style(SMALL, bold=True)) for words in headings]
        how = style(SMALL)
        cells = [[text(cell, how) for cell in row] for row in rows]
        widths = [self.width * share / sum(shares) for share in shares]
        return Table([head, *cells], widths, repeatRows=1, style=TableStyle(FINE), hAlign="LEFT")

    def _owner(self) -> Iterator[Flowable]:
        battery = self.build.parts_of_kind("battery")[0]
        place = self.build.places[battery.place].name
        yield Heading("Battery and isolator", 1)
        yield text(f"The battery is at {place}: {capacity_ah(battery):g} Ah.")
        for part in self.build.parts_of_kind("isolator"):
            yield text(
                f"{part.name}: at {self.build.places[part.place].name}. It cuts the car off."
            )
        yield text("Battery negative comes off first and goes on last. Rings and watches off.")
        parked = self.budget.parked
        if parked is not None:
            days = f"{parked.to_half_days:.0f} days"
            yield text(
                f"Parked it draws {1000 * parked.draw_a:.0f} mA: the battery is half empty after "
                f"{days}. Charge it, or switch it off, when it stands longer."
            )
        yield Heading("When something is dead", 1)
        for words in DEAD:
            yield text(f"•  {words}")
        lamps = list(_lamps(self.build))
        if lamps:
            yield Heading("Lamps", 1)
            yield self._table(("Lamp", "Where", "Kind"), lamps, (3, 3, 4))

    def _fuses(self) -> Iterator[Flowable]:
        for panel in dict.fromkeys(way.panel for way in self.made.chart):
            rows = [
                (
                    way.way,
                    "" if way.rating_a is None else f"{way.rating_a:g}",
                    way.colour,
                    way.feeds,
                )
                for way in self.made.chart
                if way.panel == panel
            ]
            yield Heading(panel, 1)
            yield self._table(("Way", "A", "Colour", "Feeds"), rows, (1, 1, 1.5, 8))
        alone = [
            (fuse.name, f"{fuse.number('rating_a', 0):g}", fuse.catalogue or "", self._place(fuse))
            for fuse in self.build.parts_of_kind("fuse")
            if fuse.fitted is None
        ]
        if alone:
            yield Heading("In lines of their own", 1)
            yield self._table(("Fuse", "A", "Kind", "Where"), alone, (3, 1, 2, 4))

    def _relays(self) -> Iterator[Flowable]:
        rows = [
            (
                part.name,
                part.catalogue or part.kind,
                self._place(part),
                self.build.circuits[part.circuit].name if part.circuit else "",
            )
            for part in self.build.parts_of_kind("relay", "flasher", "split-charge relay")
            if part.housed is None
        ]
        if rows:
            yield self._table(("Relay", "Kind", "Where", "For"), rows, (3, 3, 3, 3))

    def _supply(self) -> Iterator[Flowable]:
        tree = feeds(self.sizing)
        yield text(
            "From the battery to what it feeds, with the most that flows in any key position."
        )
        rows = list(_points(tree.root, 0))
        yield self._table(("Point", "A at most", "Fuse A", "Ways"), rows, (5, 1.2, 1.2, 5))
        yield Heading("Grounds", 1)
        yield from self._grounds(tree.grounds)

    def _grounds(self, grounds: Sequence[Ground]) -> Iterator[Flowable]:
        rows = [
            (
                row.name,
                row.place,
                str(row.rings),
                row.back,
                ", ".join(load.name for load in row.circuits),
            )
            for row in grounds
        ]
        if rows:
            yield self._table(
                ("Ground", "Where", "Rings", "Back by", "Of"), rows, (3, 3, 1, 1.5, 5)
            )

    def _plan(self) -> Iterator[Flowable]:
        yield CarPlan(self.build, self.width, min(self.height * 0.62, self.width * 1.2))
        named = {place: number for number, place in enumerate(self.build.places, 1)}
        rows = [
            (str(named[row.id]), row.name, row.zone, f"{row.ambient_c:g}", self._things_at(row.id))
            for row in self.build.places.values()
        ]
        yield self._table(
            ("No.", "Place", "Zone", "°C", "What is there"), rows, (0.7, 3, 2, 0.8, 7)
        )
        yield Heading("Runs", 1)
        found = bundles(self.build)
        places = self.build.places
        runs = [
            (
                f"{places[run.from_place].name} to {places[run.to_place].name}",
                f"{run.length_m:.2f}",
                str(len(found[run.id].wires)),
                f"{found[run.id].diameter_mm:.0f}",
                run.cover,
            )
            for run in self.build.runs.values()
        ]
        yield self._table(("Run", "m", "Wires", "Bundle mm", "Cover"), runs, (6, 1, 1, 1.4, 2))

    def _things_at(self, place: str) -> str:
        names = [
            part.name
            for part in self.build.parts.values()
            if part.place == place and part.fitted is None and part.housed is None
        ]
        return ", ".join(names)

    def _circuits(self) -> Iterator[Flowable]:
        for number, circuit in enumerate(self.build.circuits):
            report("Drawing circuits", number / len(self.build.circuits))
            yield from self._circuit(circuit)

    def _circuit(self, circuit: str, level: int = 1) -> Iterator[Flowable]:
        row = self.build.circuits[circuit]
        sized = self.sizing.circuits.get(circuit)
        head: list[Flowable] = [Heading(row.name, level)]
        if sized is not None and sized.current_a > 0:
            fuse = self.build.parts[sized.fuse].name if sized.fuse else ""
            more = f" and {sized.fuses - 1} more" if sized.fuses > 1 else ""
            says = [f"{sized.current_a:.1f} A at most", f"behind {fuse}{more}" if fuse else ""]
            head.append(text(", ".join(filter(None, says))))
        drawing = on_paper(
            schematic(self.build, circuit),
            self.build.circuits[circuit].name,
            self.width,
            self.height * HIGHEST_DRAWING,
        )
        yield KeepTogether([*head, drawing] if drawing is not None else head)
        wires = [line for line in self.lines.values() if line.circuit == circuit]
        if wires:
            rows = [
                (
                    line.label,
                    f"{line.size} {line.letters}",
                    f"{line.length_m:.2f}",
                    line.start.says,
                    line.end.says,
                )
                for line in wires
            ]
            yield self._table(("Wire", "Size, colour", "m", "From", "To"), rows, (1, 2, 0.9, 4, 4))
        yield Spacer(0, 4 * mm)

    def _wires(self) -> Iterator[Flowable]:
        rows = [
            (
                line.label,
                line.circuit_name,
                f"{line.size} {line.letters}",
                f"{line.length_m:.2f}",
                f"{line.start.says} ({line.start.ends_in})",
                f"{line.end.says} ({line.end.ends_in})",
            )
            for line in self.made.wires
        ]
        headings = ("Wire", "Circuit", "Size, colour", "m", "From", "To")
        if rows:
            yield self._table(headings, rows, (1, 2.4, 1.9, 0.9, 4, 4))

    def _plugs(self) -> Iterator[Flowable]:
        for face in self.made.faces:
            rows = [
                (
                    cavity.name.replace("-", " "),
                    (", ".join(cavity.labels) or _empty(cavity))
                    + (f"; joined behind it, tail {cavity.tail.size}" if cavity.tail else ""),
                    cavity.contact,
                    "; ".join(filter(None, (cavity.function, cavity.can, asked_said(cavity)))),
                )
                for row in face.rows
                for cavity in row
            ]
            half = f", half {face.half}" if face.half else ""
            yield Heading(f"{face.name}{half}", 1)
            yield text(" · ".join(filter(None, (face.place, face.contact))))
            yield self._table(("Cavity", "Wires", "Contact", "For"), rows, (1.4, 4, 3, 4))

    def _splices(self) -> Iterator[Flowable]:
        rows = [
            (
                splice.name,
                ", ".join(splice.labels),
                f"{splice.barrel_mm2:g} mm²",
                f"{splice.tail.size}, {splice.tail.length_m:.2f} m" if splice.tail else "",
            )
            for splice in self.made.splices
        ]
        if rows:
            yield self._table(("Splice", "Wires", "Barrel", "Tail"), rows, (4, 5, 1.4, 2))

    def _budget(self) -> Iterator[Flowable]:
        rows = [
            (
                row.name,
                f"{row.draws_a:.2f}" if row.draws_a < 1 else f"{row.draws_a:.1f}",
                f"{row.alternator_a:z.1f}" if row.engine_rpm else "",
                f"{row.posts_v:.1f}",
                row.says,
            )
            for row in self.budget.scenarios
        ]
        headings = ("Scenario", "Draws A", "Alternator A", "Posts V", "Answer")
        yield self._table(headings, rows, (3, 1, 1.2, 1, 6))

    def _findings(self) -> Iterator[Flowable]:
        rows = [
            (
                row.severity if not row.accepted else "lived with",
                row.title,
                f"{row.found}; {row.limit}",
                row.accepted or row.why,
            )
            for row in self.sizing.findings
        ]
        if rows:
            yield self._table(("", "What", "Found; limit", "Why"), rows, (1.2, 4, 3, 6))

    def _told(self, rows: Sequence[Told], headings: Sequence[str]) -> Iterator[Flowable]:
        if rows:
            cells = [(row.at, row.says, row.note) for row in rows]
            yield self._table(headings, cells, (2, 6, 5))

    def _proofs(self) -> Iterator[Flowable]:
        yield from self._told(self.extras.proofs, ("When", "Step", "Readings, notes"))

    def _history(self) -> Iterator[Flowable]:
        yield from self._told(self.extras.history, ("When", "What", ""))

    def _photos(self) -> Iterator[Flowable]:
        for words, jpeg in self.extras.photos:
            report("Setting photos")
            with Picture.open(io.BytesIO(jpeg)) as picture:
                wide, high = picture.size
            scale = PHOTO_MM * mm / max(wide, high)
            image = Image(io.BytesIO(jpeg), wide * scale, high * scale, hAlign="LEFT")
            yield KeepTogether([image, text(words), Spacer(0, 4 * mm)])

    def _place(self, part: Part) -> str:
        return self.build.places[part.place].name


def _empty(cavity: Cavity) -> str:
    return "keying plug" if cavity.keys else "blind plug" if cavity.blind else "free"


def _lamps(build: Build) -> Iterator[tuple[str, str, str]]:
    """Every lamp that somebody may have to change."""
    for load in build.parts_of_kind("load"):
        row = catalogue().loads[load.catalogue or ""]
        if row.group == "lighting":
            yield load.name, build.places[load.place].name, row.name


def _points(point: Point, depth: int) -> Iterator[tuple[str, str, str, str]]:
    most_a = max(point.sums_a.values(), default=0.0)
    ways = ", ".join(way.name for way in point.ways if way.fuse or way.circuits)
    fuse = "" if point.rating_a is None else f"{point.rating_a:g}"
    yield f"{'—  ' * depth}{point.name}", f"{most_a:.1f}", fuse, ways
    for below in point.points:
        yield from _points(below, depth + 1)

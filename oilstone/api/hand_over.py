"""Hand over: the journal, revisions, the book of the car."""

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.text import slugify
from ninja import Router

from circuitry.design.model import Build
from circuitry.drawing import as_svg, schematic
from circuitry.edits import differences
from circuitry.edits.what_if import what_changes
from circuitry.errors import UnusableInput
from circuitry.formats.tables import write_csv
from circuitry.plain import plain
from circuitry.printing import Extras, Told, book
from circuitry.progress import report
from circuitry.sizing import Sizing
from circuitry.workshop import STEPS, workshop
from circuitry.workshop.board import board
from circuitry.workshop.board_svg import board_svg
from circuitry.workshop.lists import LISTS
from circuitry.workshop.next_hour import next_hour
from circuitry.workshop.schedule import schedule
from oilstone.api import schemas
from oilstone.api.answers import edit_answer, json_answer
from oilstone.builds import archive, history, models
from oilstone.builds.results import budget_at, build_at, sized, sizing_at, steps_at

router = Router(tags=["hand over"])
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}
ANSWERS = {200: schemas.EditAnswer, 409: schemas.Conflict, **REFUSALS}
NIGHT = timedelta(hours=4)
"""What is done after midnight belongs to the evening before."""
MOST_NAMED = 6


@router.get("/builds/{build_id}/journal", response={200: schemas.JournalView, **REFUSALS})
def read_journal(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """What was done, by evening, the newest first; what waits, and what can be done in an hour."""
    row = get_object_or_404(models.Build, pk=build_id)
    sizing = sizing_at(row)
    return json_answer(
        {
            "today": _evening(timezone.now()).isoformat(),
            "evenings": _evenings(row),
            "waits": list(_waits(row, sizing)),
            "next": plain(next_hour(sizing.build, _cut(row))),
            "minutes": _minutes(row),
        }
    )


@router.post("/builds/{build_id}/journal", response={200: schemas.JournalView, **REFUSALS})
def add_line(request: HttpRequest, build_id: schemas.RowId, body: schemas.JournalRequest) -> Any:
    """Write a line into the journal."""
    row = get_object_or_404(models.Build, pk=build_id)
    if not body.words.strip():
        raise UnusableInput("empty-line", "words", "Write what was done, or what is to be kept.")
    row.journal.create(words=body.words.strip(), stage=body.stage, minutes=body.minutes)
    return read_journal(request, build_id)


@router.delete("/builds/{build_id}/journal/{line_id}", response={200: schemas.JournalView})
def drop_line(request: HttpRequest, build_id: schemas.RowId, line_id: schemas.RowId) -> Any:
    """Take a line out of the journal."""
    get_object_or_404(models.JournalLine, pk=line_id, build_id=build_id).delete()
    return read_journal(request, build_id)


@router.get("/builds/{build_id}/history", response={200: list[schemas.RevisionView], **REFUSALS})
def read_history(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Every edit, the newest first."""
    row = get_object_or_404(models.Build, pk=build_id)
    edits = row.edits.defer("changes").order_by("-revision")
    return [
        {"revision": e.revision, "label": e.label, "name": e.name, "kind": e.kind, "at": e.at}
        for e in edits
    ]


@router.post(
    "/builds/{build_id}/history/{revision}/name",
    response={200: list[schemas.RevisionView], **REFUSALS},
)
def name_revision(
    request: HttpRequest,
    build_id: schemas.RowId,
    revision: schemas.Revision,
    body: schemas.RevisionName,
) -> Any:
    """Call a revision something; an empty name takes it away."""
    edit = get_object_or_404(models.Edit, build_id=build_id, revision=revision)
    edit.name = body.name.strip()
    edit.save(update_fields=["name"])
    return read_history(request, build_id)


@router.post("/builds/{build_id}/history/{revision}/back", response=ANSWERS)
def go_back(
    request: HttpRequest,
    build_id: schemas.RowId,
    revision: schemas.Revision,
    body: schemas.MoveRequest,
) -> Any:
    """Make the build what it was at a revision; this is an edit of its own, and can be undone."""
    get_object_or_404(models.Build, pk=build_id)
    changes = history.go_back(build_id, body.base, revision)
    row = models.Build.objects.get(pk=build_id)
    return edit_answer(row.revision, changes, sizing_at(row))


@router.get("/builds/{build_id}/history/compare", response={200: schemas.CompareView, **REFUSALS})
def compare(request: HttpRequest, build_id: schemas.RowId, before: int, after: int) -> Any:
    """Two revisions side by side: what is different, in things and in figures."""
    row = get_object_or_404(models.Build, pk=build_id)
    one, other = (history.build_of(row, revision) for revision in (before, after))
    return json_answer(_compared(before, one, after, other))


@router.get(
    "/builds/{build_id}/compare/{other_id}", response={200: schemas.CompareView, **REFUSALS}
)
def compare_builds(request: HttpRequest, build_id: schemas.RowId, other_id: schemas.RowId) -> Any:
    """What this build has otherwise than another, in things and in figures."""
    here, there = (get_object_or_404(models.Build, pk=pk) for pk in (build_id, other_id))
    answer = _compared(there.revision, build_at(there), here.revision, build_at(here))
    return json_answer(answer)


def _compared(before: int, one: Build, after: int, other: Build) -> dict[str, Any]:
    return {
        "before": before,
        "after": after,
        "changes": plain(differences(one, other)),
        "figures": plain(what_changes(sized(one), sized(other))),
    }


@router.get("/builds/{build_id}/book", response={200: bytes, **REFUSALS})
def print_book(
    request: HttpRequest,
    build_id: schemas.RowId,
    paper: Literal["A4", "letter"] = "A4",
    circuit: str | None = None,
    builder: str = "",
) -> HttpResponse:
    """The book of the car as PDF, or one circuit of it."""
    row = get_object_or_404(models.Build, pk=build_id)
    data = book(sizing_at(row), budget_at(row), _extras(row, builder), paper, circuit)
    response = HttpResponse(data, content_type="application/pdf")
    file = slugify(f"{row.name} {circuit or 'book'}")
    response["Content-Disposition"] = f'attachment; filename="{file}.pdf"'
    return response


@router.get("/builds/{build_id}/everything", response={200: bytes, **REFUSALS})
def export_everything(
    request: HttpRequest,
    build_id: schemas.RowId,
    paper: Literal["A4", "letter"] = "A4",
    builder: str = "",
) -> HttpResponse:
    """The archive of a build with its tables as CSV, its drawings as SVG and its book as PDF; it is
    read back like any archive."""
    row = get_object_or_404(models.Build, pk=build_id)
    response = HttpResponse(
        archive.pack(row, dict(_beside(row, builder, paper))), content_type="application/zip"
    )
    file = slugify(f"{row.name} everything {row.revision}")
    response["Content-Disposition"] = f'attachment; filename="{file}.zip"'
    return response


def _beside(row: models.Build, builder: str, paper: str) -> Iterator[tuple[str, bytes]]:
    sizing = sizing_at(row)
    build = sizing.build
    made = workshop(build, solutions=sizing.solutions)
    for name, told in LISTS.items():
        yield f"tables/{name}.csv", write_csv(*told(made))
    for number, circuit in enumerate(build.circuits.values()):
        report("Drawing circuits", number / len(build.circuits))
        drawn = as_svg(schematic(build, circuit.id), circuit.name)
        yield f"drawings/{circuit.id}.svg", drawn.encode()
    yield "drawings/loom-board.svg", board_svg(board(build), build.name).encode()
    yield "book.pdf", book(sizing, budget_at(row), _extras(row, builder), paper)


def _extras(row: models.Build, builder: str) -> Extras:
    return Extras(
        builder[:80],
        _day_said(timezone.localdate()),
        [_proved(proof) for proof in row.proofs.all().order_by("at")],
        [
            Told(_moment(edit.at), edit.label, edit.name)
            for edit in row.edits.defer("changes").order_by("revision")
        ],
        [(photo.caption or photo.identity, bytes(photo.image)) for photo in row.photos.all()],
    )


def _proved(proof: models.Proof) -> Told:
    readings = [
        f"{reading.get('name', name)} {reading.get('text', reading.get('value', ''))}"
        for name, reading in (proof.readings or {}).items()
        if isinstance(reading, dict)
    ]
    words = "passed" if proof.passed else "not right"
    return Told(
        _moment(proof.at), proof.title or proof.step, "; ".join([words, *readings, proof.note])
    )


def _moment(at: Any) -> str:
    return timezone.localtime(at).strftime("%d %b %Y %H:%M")


def _day_said(day: date) -> str:
    return f"{day.day} {day.strftime('%B %Y')}"


def _evening(at: Any) -> date:
    return (at.astimezone() - NIGHT).date()  # by the clock of this machine


def _evenings(row: models.Build) -> list[dict[str, Any]]:
    days: dict[date, dict[str, Any]] = {}

    def of(at: Any) -> dict[str, Any]:
        empty: dict[str, Any] = {"edits": [], "made": {}, "proved": [], "lines": []}
        return days.setdefault(_evening(at), {**empty, "photos": 0, "found": []})

    for edit in row.edits.defer("changes").filter(kind=models.Edit.DO):
        of(edit.at)["edits"].append(edit.label)
    for made in row.made.all():
        steps = of(made.at)["made"]
        steps[made.step] = steps.get(made.step, 0) + 1
    for proof in row.proofs.all():
        word = "" if proof.passed else " (not right)"
        of(proof.at)["proved"].append(f"{proof.title or proof.step}{word}")
    for photo in row.photos.defer("image", "thumbnail"):
        of(photo.at)["photos"] += 1
    for fault in row.faults.all():
        of(fault.at)["found"].append(fault.words)
    for line in row.journal.all():
        own = {"id": line.pk, "words": line.words, "stage": line.stage, "minutes": line.minutes}
        of(line.at)["lines"].append(own)
    return [
        {
            "day": day.isoformat(),
            **rest,
            "made": [f"{rest['made'][step]} {step}" for step in STEPS if step in rest["made"]],
        }
        for day, rest in sorted(days.items(), reverse=True)
    ]


def _cut(row: models.Build) -> set[str]:
    return set(row.made.filter(step=STEPS[0]).values_list("wire", flat=True))


def _minutes(row: models.Build) -> dict[str, int]:
    found: dict[str, int] = {}
    for line in row.journal.filter(minutes__gt=0):
        found[line.stage] = found.get(line.stage, 0) + line.minutes
    return found


def _waits(row: models.Build, sizing: Sizing) -> Iterator[dict[str, str]]:
    """What is not done yet, stage by stage, each with the view that it is in."""
    stops = [f for f in sizing.findings if f.severity == "stop" and not f.accepted]
    if stops:
        yield {"view": "circuits", "says": f"{len(stops)} findings say stop: {stops[0].title}"}
    undecided = [p.name for p in sizing.build.parts.values() if p.state == "to decide"]
    if undecided:
        names = ", ".join(undecided[:MOST_NAMED])
        yield {"view": "stock", "says": f"{len(undecided)} to decide: {names}"}
    guessed = sum(not run.measured for run in sizing.build.runs.values())
    if guessed:
        yield {"view": "lay-out", "says": f"{guessed} runs to measure"}
    lines = schedule(sizing.build)
    cut = _cut(row)
    if left := sum(line.id not in cut for line in lines):
        yield {"view": "make", "says": f"{left} of {len(lines)} wires to cut"}
    steps = steps_at(row)
    passed = row.proofs.filter(passed=True).values("step").distinct().count()
    if steps is None or passed < steps:
        of = "" if steps is None else f" of {steps}"
        yield {"view": "power-up", "says": f"{passed}{of} steps proved"}

"""Make: what a loom takes, and what of it has been made."""

from typing import Any, Literal

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import Router

from circuitry.errors import UnusableInput
from circuitry.formats.tables import write_csv, write_xlsx
from circuitry.plain import plain
from circuitry.printing import board_pages
from circuitry.workshop import STEPS, Done, Workshop, workshop
from circuitry.workshop.board import Board, board
from circuitry.workshop.board_svg import board_svg
from circuitry.workshop.lists import LISTS
from circuitry.workshop.schedule import changed, schedule
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.api.stock import XLSX
from oilstone.builds import models
from oilstone.builds.results import sizing_at

router = Router(tags=["make"])
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}


@router.get("/builds/{build_id}/make", response={200: schemas.MakeView, **REFUSALS})
def read_make(request: HttpRequest, build_id: schemas.RowId, stage: int | None = None) -> Any:
    """Wires, cut list, plugs, fuse chart and shopping list, and what has been made."""
    return json_answer(_view(get_object_or_404(models.Build, pk=build_id), stage))


@router.get("/builds/{build_id}/made", response={200: schemas.MadeCount, **REFUSALS})
def read_made(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """How many wires are cut, and how many of these are wanted otherwise now."""
    row = get_object_or_404(models.Build, pk=build_id)
    lines = {line.id: line for line in schedule(sizing_at(row).build)}
    done = _done(row)
    cut = {made.wire for made in done if made.step == STEPS[0]}
    return {"wires": len(lines), "cut": len(cut), "changed": len(list(changed(lines, done)))}


@router.post("/builds/{build_id}/made", response={200: schemas.MakeView, **REFUSALS})
def tick(request: HttpRequest, build_id: schemas.RowId, body: schemas.MadeRequest) -> Any:
    """Tick a step of wires off, with all before it; or take it back, with all after it."""
    row = get_object_or_404(models.Build, pk=build_id)
    if body.step not in STEPS:
        raise UnusableInput("unknown-step", body.step, f"A step is one of {', '.join(STEPS)}.")
    lines = {line.id: line for line in schedule(sizing_at(row).build)}
    at = STEPS.index(body.step)
    with transaction.atomic():
        if not body.done:
            row.made.filter(wire__in=body.wires, step__in=STEPS[at:]).delete()
        for wire in body.wires if body.done else ():
            line = lines.get(wire)
            if line is None:
                raise UnusableInput("unknown-wire", wire, f"The build has no wire “{wire}”.")
            was = {"length_m": line.cut_m, "size": line.size, "colour": line.colour}
            for step in STEPS[: at + 1]:
                row.made.get_or_create(wire=wire, step=step, defaults={**was, "label": line.label})
    return json_answer(_view(row, body.stage))


@router.get("/builds/{build_id}/make/board", response={200: Board, **REFUSALS})
def read_board(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The loom laid flat."""
    row = get_object_or_404(models.Build, pk=build_id)
    return json_answer(plain(board(sizing_at(row).build)))


@router.get("/builds/{build_id}/make/board.svg", response={200: str, **REFUSALS})
def board_drawing(request: HttpRequest, build_id: schemas.RowId) -> HttpResponse:
    """The loom laid flat as an SVG file, a unit a millimetre."""
    row = get_object_or_404(models.Build, pk=build_id)
    text = board_svg(board(sizing_at(row).build), row.name)
    return _file(text.encode(), "image/svg+xml", f"{slugify(row.name) or 'build'}-board.svg")


@router.get("/builds/{build_id}/make/board.pdf", response={200: bytes, **REFUSALS})
def board_sheets(
    request: HttpRequest, build_id: schemas.RowId, paper: Literal["A4", "A3", "letter"] = "A4"
) -> HttpResponse:
    """The loom laid flat at full size, over sheets to be taped together."""
    row = get_object_or_404(models.Build, pk=build_id)
    data = board_pages(board(sizing_at(row).build), row.name, paper)
    return _file(data, "application/pdf", f"{slugify(row.name) or 'build'}-board-{paper}.pdf")


@router.get("/builds/{build_id}/make/{name}.{ending}", response={200: bytes, **REFUSALS})
def read_list(
    request: HttpRequest,
    build_id: schemas.RowId,
    name: str,
    ending: Literal["csv", "xlsx"],
    stage: int | None = None,
) -> HttpResponse:
    """One of the lists as a table to keep, or for a label printer."""
    row = get_object_or_404(models.Build, pk=build_id)
    if name not in LISTS:
        raise UnusableInput("unknown-list", name, f"A list is one of {', '.join(LISTS)}.")
    table = LISTS[name](_made(row, stage))
    data = write_csv(*table) if ending == "csv" else write_xlsx(name, *table)
    kind = XLSX if ending == "xlsx" else "text/csv"
    return _file(data, kind, f"{slugify(row.name) or 'build'}-{name}.{ending}")


def _file(data: bytes, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _made(row: models.Build, stage: int | None) -> Workshop:
    sizing = sizing_at(row)
    return workshop(sizing.build, _done(row), stage, sizing.solutions)


def _done(row: models.Build) -> list[Done]:
    return [
        Done(made.wire, made.step, made.length_m, made.size, made.colour, made.label)
        for made in row.made.all()
    ]


def _view(row: models.Build, stage: int | None) -> dict[str, Any]:
    done: dict[str, list[str]] = {}
    for made in row.made.all():
        done.setdefault(made.wire, []).append(made.step)
    return {"workshop": plain(_made(row, stage)), "done": done, "steps": list(STEPS)}

"""The stock list: its rows, cells judged before they are set, tables in and out, first lists."""

from dataclasses import replace
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, Router
from ninja.files import UploadedFile

from circuitry.design.model import ENGINE_PLACES, STYLES
from circuitry.document.reading import hold
from circuitry.formats.tables import MOST_BYTES, read_table, write_csv, write_xlsx
from circuitry.plain import plain
from circuitry.stock import COLUMNS, TypedRow, cell_problems, found_by_name, stock_rows
from circuitry.stock.audit import COLOURS, audit
from circuitry.stock.drafting import draft
from circuitry.stock.mapping import guessed, with_units
from circuitry.stock.patterns import GROUP_OF_KIND, patterns
from circuitry.stock.proposal import bill
from circuitry.stock.start import BATTERY_PLACES, OPTIONS, SHELLS, SIZES_M, answers, start
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.builds import models, storage
from oilstone.builds.results import build_at, sized

router = Router(tags=["stock"])
REFUSALS = {404: schemas.Problem, 413: schemas.Problem, 422: schemas.Problem}
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("/kinds-of-car", response=schemas.KindsOfCar)
def kinds_of_car(request: HttpRequest) -> Any:
    """What can be answered when a build is started from a kind of car."""
    return {
        "styles": STYLES,
        "shells": SHELLS,
        "engines": ENGINE_PLACES,
        "batteries": BATTERY_PLACES,
        "options": OPTIONS,
        "sizes_m": SIZES_M,
    }


@router.post("/kinds-of-car", response={201: schemas.Created, **REFUSALS})
def start_build(request: HttpRequest, body: schemas.KindOfCarRequest) -> Any:
    """Create a build with a first stock list, places and guessed runs."""
    build = start(answers(body.model_dump()))
    hold(build)
    sized(build)
    with transaction.atomic():
        return 201, {"id": storage.create(build).pk}


@router.get("/builds/{build_id}/stock", response={200: schemas.StockView, 404: schemas.Problem})
def read_stock(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The stock list of the newest revision."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    kinds: dict[str, list[str]] = {}
    for row in patterns().values():
        kinds.setdefault(GROUP_OF_KIND[row.kind], []).append(row.name)
    return json_answer({"columns": COLUMNS, "rows": stock_rows(build), "kinds": kinds})


@router.post(
    "/builds/{build_id}/stock/check",
    response={200: list[schemas.CellProblemView], 404: schemas.Problem},
)
def check_cells(request: HttpRequest, build_id: schemas.RowId, body: schemas.CellsRequest) -> Any:
    """Every cell that could not be set, and what was expected there; nothing is saved."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    rows = [TypedRow(row.part, row.cells) for row in body.rows]
    if body.by_name:
        rows = found_by_name(build, rows)
    return plain(cell_problems(build, rows, body.new_places))


@router.post("/builds/{build_id}/draft", response={200: schemas.DraftView, **REFUSALS})
def draft_wiring(request: HttpRequest, build_id: schemas.RowId, body: schemas.DraftRequest) -> Any:
    """The wiring of everything in the list that has none, without saving it."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    drafted = draft(build, body.wants())
    told = plain(replace(drafted, build=None))
    del told["build"]
    return json_answer({**told, "bill": bill(sized(drafted.build)) if body.sized else None})


@router.post("/tables", response={200: schemas.TableView, **REFUSALS})
def read_file(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """The table in a CSV or XLSX file as text; nothing is saved."""
    data = file.read(MOST_BYTES + 1)
    table = read_table(data, file.name or "The file")
    rows = with_units(table.headings, table.rows)
    columns = guessed(table.headings)
    return {"name": file.name, **plain(table), "rows": rows, "columns": columns}


@router.get("/builds/{build_id}/stock.csv", response={200: str, 404: schemas.Problem})
def stock_csv(request: HttpRequest, build_id: schemas.RowId) -> HttpResponse:
    """The stock list as CSV."""
    row = get_object_or_404(models.Build, pk=build_id)
    return _download(write_csv(*_stock_table(row)), row, "csv", "text/csv; charset=utf-8")


@router.get("/builds/{build_id}/stock.xlsx", response={200: bytes, 404: schemas.Problem})
def stock_xlsx(request: HttpRequest, build_id: schemas.RowId) -> HttpResponse:
    """The stock list as a spreadsheet."""
    row = get_object_or_404(models.Build, pk=build_id)
    return _download(write_xlsx("Stock", *_stock_table(row)), row, "xlsx", XLSX)


@router.get("/builds/{build_id}/audit", response={200: schemas.AuditView, 404: schemas.Problem})
def read_audit(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """What was recorded of old looms and of a ready-made harness, judged."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    return {**plain(audit(build)), "colours": COLOURS}


def _stock_table(row: models.Build) -> tuple[list[str], list[list[str]]]:
    headings = [column.title for column in COLUMNS]
    rows = stock_rows(build_at(row))
    return headings, [[line.cells[column.key] for column in COLUMNS] for line in rows]


def _download(data: bytes, row: models.Build, ending: str, content_type: str) -> HttpResponse:
    response = HttpResponse(data, content_type=content_type)
    name = f"{slugify(row.name) or 'build'}-stock.{ending}"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response

"""Builds: list, create from a document, read, export; the catalogue and the choices."""

from typing import Any

from django.db import transaction
from django.db.models import Count, Q
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, Router
from ninja.files import UploadedFile

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part
from circuitry.devices import terminals_of
from circuitry.devices.load import output_word, rated_current_a
from circuitry.document.reading import MAX_BYTES, read, too_large, write, write_thing
from circuitry.errors import UnusableInput
from circuitry.plain import plain
from circuitry.recipes.choices import choices
from circuitry.recipes.figures import figures_as
from oilstone.api import schemas
from oilstone.api.answers import json_answer, results_view
from oilstone.builds import archive, copies, deletion, history, live, models, results, storage
from oilstone.builds.results import build_at, sized, sizing_at

router = Router(tags=["builds"])
MOST_ARCHIVE_BYTES = 400_000_000
LONGEST_NAME = 80
COPY = ", copy"
REFUSALS = {404: schemas.Problem, 413: schemas.Problem, 422: schemas.Problem}


@router.get("/builds", response=list[schemas.BuildSummary])
def list_builds(request: HttpRequest, deleted: bool = False) -> Any:
    """All builds; or those that were deleted and can still be brought back."""
    rows = models.Build.with_deleted.filter(deleted__isnull=not deleted).annotate(
        loads=Count("part", filter=Q(part__kind="load"), distinct=True),
        circuits=Count("circuit", distinct=True),
    )
    names = ("id", "name", "revision", "changed", "loads", "circuits", "deleted")
    return [
        {**{name: getattr(row, name) for name in names}, "gone_at": deletion.gone_at(row)}
        for row in rows
    ]


@router.post("/builds", response={201: schemas.Created, **REFUSALS})
def create_build(request: HttpRequest) -> Any:
    """Create a build from the JSON document in the body; it is stored whole or not at all."""
    size_bytes = int(request.headers.get("Content-Length") or 0)
    if size_bytes > MAX_BYTES:
        raise too_large(size_bytes)
    build = read(request.body)
    sized(build)
    with transaction.atomic():
        return 201, {"id": storage.create(build).pk}


@router.post("/archives", response={201: schemas.Created, **REFUSALS})
def open_archive(request: HttpRequest, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Create a build from a file that holds everything of one; whole or not at all."""
    if (file.size or 0) > MOST_ARCHIVE_BYTES:
        raise UnusableInput(
            "too-large",
            "file",
            f"The file has {(file.size or 0) / 1e6:.0f} MB; at most {MOST_ARCHIVE_BYTES / 1e6:g} "
            "MB are read.",
        )
    return 201, {"id": archive.unpack(file.read(), file.name or "The file").pk}


@router.get("/builds/{build_id}/archive", response={200: bytes, 404: schemas.Problem})
def export_archive(request: HttpRequest, build_id: schemas.RowId) -> HttpResponse:
    """Everything of a build in one file: document, photos, proofs and history."""
    row = get_object_or_404(models.Build, pk=build_id)
    response = HttpResponse(archive.pack(row), content_type="application/zip")
    name = f"{slugify(row.name) or 'build'}-{row.revision}.zip"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@router.get("/copies", response=list[copies.Copy])
def list_copies(request: HttpRequest) -> Any:
    """The copies of all data that were taken by themselves, the newest first."""
    return copies.told()


@router.post("/copies/{name}/take-back", response={204: None, **REFUSALS})
def take_copy_back(request: HttpRequest, name: str) -> Any:
    """Make all builds what they were in a copy; what is there now is copied first."""
    try:
        copies.take_back(name)
    except copies.DataTrouble as problem:
        raise UnusableInput("bad-copy", name, str(problem)) from None
    results.forget(sizes=False)
    live.forget()
    return 204, None


@router.post("/builds/{build_id}/copies", response={201: schemas.Created, 404: schemas.Problem})
def copy_build(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """A second build like this one, with all that belongs to it."""
    row = get_object_or_404(models.Build, pk=build_id)
    name = f"{row.name[: LONGEST_NAME - len(COPY)]}{COPY}"
    return 201, {"id": archive.unpack(archive.pack(row), row.name, name).pk}


@router.delete("/builds/{build_id}", response={204: None, 404: schemas.Problem})
def delete_build(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Put a build out of sight; it can be brought back for 30 days."""
    deletion.delete(get_object_or_404(models.Build, pk=build_id))
    return 204, None


@router.post("/builds/{build_id}/bring-back", response={204: None, 404: schemas.Problem})
def bring_build_back(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Put a deleted build back among the others."""
    row = get_object_or_404(models.Build.with_deleted, pk=build_id)
    deletion.bring_back(row)
    return 204, None


@router.get("/builds/{build_id}", response={200: schemas.BuildView, 404: schemas.Problem})
def read_build(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The build at its newest revision."""
    row = get_object_or_404(models.Build, pk=build_id)
    build = build_at(row)
    moves = history.reversible(build_id)
    return json_answer(
        {
            "id": row.pk,
            "revision": row.revision,
            "changed": row.changed,
            "undo": moves.undo.label if moves.undo else None,
            "redo": moves.redo.label if moves.redo else None,
            **_build_view(build),
        }
    )


@router.get("/builds/{build_id}/document", response={200: dict[str, Any], 404: schemas.Problem})
def export_build(request: HttpRequest, build_id: schemas.RowId) -> HttpResponse:
    """The build's document as a file to keep; reading it again gives the same build."""
    row = get_object_or_404(models.Build, pk=build_id)
    response = HttpResponse(write(build_at(row)), content_type="application/json")
    name = slugify(row.name) or "build"
    response["Content-Disposition"] = f'attachment; filename="{name}.json"'
    return response


@router.get("/builds/{build_id}/results", response={200: schemas.Results, 404: schemas.Problem})
def read_results(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """What sizing answers for the newest revision."""
    row = get_object_or_404(models.Build, pk=build_id)
    return json_answer(results_view(sizing_at(row)))


@router.get(
    "/builds/{build_id}/candidates/{owner}",
    response={200: list[schemas.CandidateView], 404: schemas.Problem},
)
def read_candidates(request: HttpRequest, build_id: schemas.RowId, owner: str) -> Any:
    """The sizes that were weighed for a wire or fuse, and why each was refused or taken."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    if owner not in sizing.wires and owner not in sizing.fuses:
        raise Http404(f"This build has no wire and no fuse “{owner}”.")
    return json_answer(sizing.candidates(owner))


@router.get("/builds/{build_id}/choices", response={200: schemas.ChoicesView, 404: schemas.Problem})
def read_choices(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Everything that a new circuit can be tied to."""
    return plain(choices(build_at(get_object_or_404(models.Build, pk=build_id))))


@router.get("/catalogue/loads", response=list[schemas.CatalogueLoad])
def catalogue_loads(request: HttpRequest) -> Any:
    """The catalogue's loads with their typical figures."""
    return [plain(row) for row in catalogue().loads.values() if row.group != "control"]


def _build_view(build: Build) -> dict[str, Any]:
    return {
        "name": build.name,
        "body_conducts": build.body_conducts,
        "policy": write_thing(build.policy, every_field=True),
        "body": write_thing(build.body, every_field=True),
        "harness_from": build.harness_from,
        "places": _things(build.places),
        "runs": _things(build.runs),
        "parts": [_part_view(part) for part in build.parts.values()],
        "wires": _things(build.wires),
        "circuits": _things(build.circuits),
        "found_circuits": _things(build.found_circuits),
        "pin_pairs": _things(build.pin_pairs),
        "harness_circuits": _things(build.harness_circuits),
        "acceptances": _things(build.acceptances),
        "scenarios": _things(build.scenarios),
        "reels": _things(build.reels),
    }


def _things(collection: Any) -> list[dict[str, Any]]:
    return [plain(thing) for thing in collection.values()]


def _part_view(part: Part) -> dict[str, Any]:
    is_load = part.kind == "load"
    return {
        **plain(part),
        "terminals": terminals_of(part),
        "rated_a": rated_current_a(part) if is_load else None,
        "output_word": output_word(part) if is_load else None,
        "figures_as": figures_as(part),
    }

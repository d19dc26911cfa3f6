"""Changes: edit, preview, undo, redo. All go through ``oilstone.builds.history``."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.edits import Change, apply_operations, differences
from circuitry.edits.mending import mend_all
from circuitry.edits.what_if import Asked, operations_of, what_changes
from circuitry.plain import plain
from oilstone.api import schemas
from oilstone.api.answers import edit_answer, json_answer
from oilstone.builds import history, models
from oilstone.builds.results import build_at, sized, sizing_at

router = Router(tags=["edits"])
ANSWERS = {
    200: schemas.EditAnswer,
    404: schemas.Problem,
    409: schemas.Conflict,
    422: schemas.Problem,
}


@router.post("/builds/{build_id}/edits", response=ANSWERS)
def edit_build(request: HttpRequest, build_id: schemas.RowId, body: schemas.EditRequest) -> Any:
    """Apply operations as one edit and one revision; all of them or none."""
    get_object_or_404(models.Build, pk=build_id)
    changes = history.make_edit(build_id, body.base, body.label, body.operations)
    return _answer(build_id, changes)


@router.post("/builds/{build_id}/preview", response=ANSWERS)
def preview_edit(request: HttpRequest, build_id: schemas.RowId, body: schemas.EditRequest) -> Any:
    """What an edit would answer, without saving anything."""
    get_object_or_404(models.Build, pk=build_id)
    build = history.build_at_base(build_id, body.base)
    after = apply_operations(build, body.operations)
    return edit_answer(body.base, differences(build, after), sized(after))


@router.post(
    "/builds/{build_id}/changes",
    response={200: list[schemas.ChangeView], **{k: v for k, v in ANSWERS.items() if k != 200}},
)
def look_at_changes(
    request: HttpRequest, build_id: schemas.RowId, body: schemas.EditRequest
) -> Any:
    """What an edit would change, at once: its sizes, which take longer, are in its preview."""
    get_object_or_404(models.Build, pk=build_id)
    build = history.build_at_base(build_id, body.base)
    return json_answer(differences(build, apply_operations(build, body.operations)))


@router.post(
    "/builds/{build_id}/what-if",
    response={200: schemas.WhatIfAnswer, 404: schemas.Problem, 422: schemas.Problem},
)
def ask_what_if(request: HttpRequest, build_id: schemas.RowId, body: schemas.WhatIfRequest) -> Any:
    """What a change would do to the whole car, without saving anything."""
    row = get_object_or_404(models.Build, pk=build_id)
    build = build_at(row)
    label, operations = operations_of(build, Asked(**body.dict()))
    answer = what_changes(sizing_at(row), sized(apply_operations(build, operations)))
    return json_answer({"label": label, "operations": operations, **plain(answer)})


@router.post(
    "/builds/{build_id}/mending",
    response={200: schemas.MendedView, 404: schemas.Problem, 422: schemas.Problem},
)
def find_safe_mends(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Everything that can be mended without making anything worse, without saving it."""
    return json_answer(
        plain(mend_all(build_at(get_object_or_404(models.Build, pk=build_id)), sized))
    )


@router.post("/builds/{build_id}/undo", response=ANSWERS)
def undo_edit(request: HttpRequest, build_id: schemas.RowId, body: schemas.MoveRequest) -> Any:
    """Take back the newest edit that stands; this is a revision of its own."""
    get_object_or_404(models.Build, pk=build_id)
    return _answer(build_id, history.undo(build_id, body.base))


@router.post("/builds/{build_id}/redo", response=ANSWERS)
def redo_edit(request: HttpRequest, build_id: schemas.RowId, body: schemas.MoveRequest) -> Any:
    """Do again the edit taken back last; this is a revision of its own."""
    get_object_or_404(models.Build, pk=build_id)
    return _answer(build_id, history.redo(build_id, body.base))


def _answer(build_id: schemas.RowId, changes: list[Change]) -> HttpResponse:
    row = models.Build.objects.get(pk=build_id)
    return edit_answer(row.revision, changes, sizing_at(row))

"""Large answers, written straight from the core's dataclasses."""

from collections.abc import Sequence
from typing import Any

from django.http import HttpResponse
from pydantic_core import to_json, to_jsonable_python

from circuitry.edits import Change
from circuitry.sizing import Sizing
from oilstone.api import schemas

DIGITS = 6


def json_answer(value: Any) -> HttpResponse:
    """JSON of dataclasses, dicts and tuples, without a check of each field on the way out.

    The shape is that of the operation's ``response``; the API's tests hold the one to the other.
    """
    return HttpResponse(to_json(value), content_type="application/json")


def results_view(sizing: Sizing) -> dict[str, Any]:
    """A sizing as the API shows it, in figures of as many digits as any meter has: the rest would
    be most of what is sent."""
    load_fields = schemas.LoadResult.model_fields
    view = {
        "wires": sizing.wires,
        "fuses": sizing.fuses,
        "circuits": sizing.circuits,
        "findings": sizing.findings,
        "loads": {
            load: {name: getattr(row, name) for name in load_fields}
            for load, row in sizing.loads.items()
        },
    }
    rounded: dict[str, Any] = _rounded(to_jsonable_python(view))
    return rounded


def _rounded(value: Any) -> Any:
    match value:
        case float():
            return float(f"{value:.{DIGITS}g}")
        case dict():
            return {name: _rounded(each) for name, each in value.items()}
        case list():
            return [_rounded(each) for each in value]
    return value


def edit_answer(revision: int, changes: Sequence[Change], sizing: Sizing) -> HttpResponse:
    """What an edit or its preview changes, and the new results."""
    return json_answer({"revision": revision, "changes": changes, "results": results_view(sizing)})

"""The API object, its routers, and how refusals are answered."""

from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser

from circuitry.document.reading import read_json, too_large
from circuitry.errors import UnusableInput
from circuitry.plain import plain
from circuitry.progress import Stopped
from oilstone.api import (
    bench,
    budget,
    builds,
    circuits,
    diagnosis,
    edits,
    hand_over,
    layout,
    make,
    phone,
    photos,
    proofs,
    stock,
    work,
)
from oilstone.builds.history import NothingToMove, StaleBase
from oilstone.trouble import trouble


class BoundedParser(Parser):
    """Reads the body of a request as the core reads a document: bounded, and finite."""

    def parse_body(self, request: HttpRequest) -> Any:
        """The JSON value of the body; raises UnusableInput, which ``http_error`` finds again."""
        return read_json(request.body)


TOO_LARGE, UNUSABLE, CONFLICT, MISSING = 413, 422, 409, 404
ANY_REQUEST = (403, CONFLICT, UNUSABLE, 500, 503)
"""Another origin, stopped on request, not shaped as it should be, and what is wrong here."""
WITH_A_BODY = (400, TOO_LARGE)
REFUSED = {
    "description": "Refused, with the reason and the way out",
    "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
}


class Api(NinjaAPI):
    """The API, whose document declares what is answered by the handlers below too."""

    def get_openapi_schema(self, **kwargs: Any) -> Any:
        """The document, with every status that an operation may answer."""
        document = super().get_openapi_schema(**kwargs)
        document["components"]["responses"] = {"Refused": REFUSED}
        for path in document["paths"].values():
            for operation in path.values():
                declared = {str(status) for status in operation["responses"]}
                for status in ANY_REQUEST + WITH_A_BODY * ("requestBody" in operation):
                    if str(status) not in declared:
                        operation["responses"][status] = {"$ref": "#/components/responses/Refused"}
        return document


api = Api(
    title="Oilstone",
    version="1",
    docs_url=None,
    openapi_url="openapi.json",
    parser=BoundedParser(),
)
api.add_router("", builds.router)
api.add_router("", edits.router)
api.add_router("", bench.router)
api.add_router("", proofs.router)
api.add_router("", diagnosis.router)
api.add_router("", stock.router)
api.add_router("", layout.router)
api.add_router("", photos.router)
api.add_router("", circuits.router)
api.add_router("", budget.router)
api.add_router("", make.router)
api.add_router("", hand_over.router)
api.add_router("", phone.router)
api.add_router("", work.router)

MOST_TOLD = 20


def _problem(request: HttpRequest, code: str, where: str, message: str, **more: Any) -> Any:
    return {"code": code, "where": where, "message": message, "mends": [], **more}


@api.exception_handler(UnusableInput)
def unusable(request: HttpRequest, problem: UnusableInput) -> HttpResponse:
    """422, or 413 for what is too large."""
    status = TOO_LARGE if problem.code == "too-large" else UNUSABLE
    body = _problem(
        request, problem.code, problem.where, problem.message, mends=plain(problem.mends)
    )
    return api.create_response(request, body, status=status)


@api.exception_handler(RequestDataTooBig)
def too_big(request: HttpRequest, problem: RequestDataTooBig) -> HttpResponse:
    """413 for a body beyond the largest document."""
    return unusable(request, too_large(int(request.headers.get("Content-Length") or 0)))


@api.exception_handler(StaleBase)
def stale(request: HttpRequest, problem: StaleBase) -> HttpResponse:
    """409 with what happened meanwhile."""
    told = problem.since[-MOST_TOLD:]
    labels = ", ".join(f"“{edit.label}”" for edit in told) or "another change"
    if len(problem.since) > len(told):
        labels = f"{len(problem.since)} changes, the last of them {labels}"
    body = _problem(
        request,
        "stale-base",
        "base",
        f"The build has changed meanwhile: {labels}. Look at it, then try again.",
        revision=problem.revision,
        since=[
            {"revision": edit.revision, "label": edit.label, "kind": edit.kind, "at": edit.at}
            for edit in told
        ],
    )
    return api.create_response(request, body, status=CONFLICT)


@api.exception_handler(NothingToMove)
def nothing_to_move(request: HttpRequest, problem: NothingToMove) -> HttpResponse:
    """409 when there is no edit to undo or redo."""
    message = f"There is nothing to {problem.word}."
    body = _problem(request, f"nothing-to-{problem.word}", "history", message)
    return api.create_response(request, body, status=CONFLICT)


@api.exception_handler(Stopped)
def stopped(request: HttpRequest, problem: Stopped) -> HttpResponse:
    """409 for work that was stopped on request."""
    body = _problem(request, "stopped", "work", "Stopped, as you asked. Nothing was changed.")
    return api.create_response(request, body, status=CONFLICT)


@api.exception_handler(Exception)
def at_fault(request: HttpRequest, problem: Exception) -> HttpResponse:
    """500 or 503 for what is wrong on this side, with a plain word and a line in the log."""
    found = trouble(problem)
    body = _problem(request, found.code, "server", found.message)
    return api.create_response(request, body, status=found.status)


@api.exception_handler(Http404)
def not_found(request: HttpRequest, problem: Http404) -> HttpResponse:
    """404 for a build that is not there."""
    body = _problem(request, "not-found", request.path, "There is no such build here.")
    return api.create_response(request, body, status=MISSING)


@api.exception_handler(ValidationError)
def invalid(request: HttpRequest, problem: ValidationError) -> HttpResponse:
    """422 for a request that is not shaped as the API says; names the first field."""
    first = problem.errors[0]
    where = "/".join(str(step) for step in first["loc"])
    body = _problem(request, "bad-request", where, f"{where}: {first['msg']}.")
    return api.create_response(request, body, status=UNUSABLE)


@api.exception_handler(HttpError)
def http_error(request: HttpRequest, problem: HttpError) -> HttpResponse:
    """Whatever else the framework refuses, such as a body that is not JSON."""
    if isinstance(problem.__cause__, UnusableInput):
        return unusable(request, problem.__cause__)
    body = _problem(request, "bad-request", "request", str(problem))
    return api.create_response(request, body, status=problem.status_code)

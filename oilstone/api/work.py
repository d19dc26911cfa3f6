"""How far long work is, and a way to stop it."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router

from oilstone.api import schemas
from oilstone.work import at_work

router = Router(tags=["work"])


@router.get("/work/{name}", response={200: schemas.WorkView | None})
def read_work(request: HttpRequest, name: str) -> Any:
    """What the request of this name is doing; null before it begins and once it is done."""
    return at_work(name)


@router.delete("/work/{name}", response={204: None, 404: schemas.Problem})
def stop_work(request: HttpRequest, name: str) -> Any:
    """Let the request of this name stop where it can; it changes nothing then."""
    work = at_work(name)
    if work is None:
        raise Http404(f"Nothing is at work under the name “{name}”.")
    work.stop = True
    return 204, None

"""The door for phones: whether it is open, and the square code that leads through it."""

import io
from typing import Any

import segno
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router

from oilstone import phone
from oilstone.api import schemas
from oilstone.certificate import authority_file

router = Router(tags=["phone"])
CODE_SCALE = 6


@router.get("/phone", response=schemas.PhoneView)
def read_phone(request: HttpRequest, to: str = "/") -> Any:
    """Whether the door is open; on this machine, with the link and the code that let a phone in."""
    return _view(request, to)


@router.put("/phone", response={200: schemas.PhoneView, 422: schemas.Problem})
def put_phone(request: HttpRequest, body: schemas.PhoneRequest) -> Any:
    """Open the door for phones, or shut it; on this machine alone."""
    if body.on:
        phone.open_up()
    else:
        phone.shut()
    return _view(request, body.to)


@router.get("/phone/certificate", response={200: bytes})
def read_certificate(request: HttpRequest) -> HttpResponse:
    """The certificate that a phone may be told to trust."""
    content = authority_file(settings.DATA / "phone").read_bytes()
    response = HttpResponse(content, content_type="application/x-x509-ca-cert")
    response["Content-Disposition"] = 'attachment; filename="oilstone.crt"'
    return response


def _view(request: HttpRequest, to: str) -> Any:
    door, through = phone.open_door(), phone.came_in(request)
    if door is None or through:
        return {"on": door is not None, "through": through, "link": "", "code": ""}
    link = door.link(to)
    drawn = io.BytesIO()
    segno.make(link, error="m").save(drawn, kind="svg", scale=CODE_SCALE, border=2, xmldecl=False)
    return {"on": True, "through": False, "link": link, "code": drawn.getvalue().decode()}

"""The API, and the one page of the front end for every other address."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.urls import path, re_path

from server.api.api import api


def page(request: HttpRequest) -> HttpResponseBase:
    """The front end's page; its own router reads the address."""
    index = settings.FRONTEND / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built. Run “make demo”.", status=503)
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]

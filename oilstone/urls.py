"""The API, and the one page of the front end for every other address."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.urls import path, re_path

from oilstone.api.api import api


def page(request: HttpRequest) -> HttpResponseBase:
    """The front end's page; its own router reads the address."""
    index = settings.FRONTEND / "index.html"
    if not index.exists():
        message = f"The front end is not there. Start with “{settings.START}”."
        return HttpResponse(message, status=503)
    response = FileResponse(index.open("rb"), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


def missing(request: HttpRequest, exception: Exception) -> HttpResponseBase:
    """404 in the words of the API."""
    message = f"There is nothing at {request.path}."
    return JsonResponse(
        {"code": "not-found", "where": request.path, "message": message}, status=404
    )


def fault(request: HttpRequest) -> HttpResponseBase:
    """500 for what went wrong outside the API; its trace is in the log file."""
    message = f"Something is wrong in Oilstone itself. It is written down in {settings.LOG_FILE}."
    return JsonResponse({"code": "fault", "where": request.path, "message": message}, status=500)


handler404 = "oilstone.urls.missing"
handler500 = "oilstone.urls.fault"
urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]

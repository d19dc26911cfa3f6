"""Only this application's own pages may change anything."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")


class SameOriginMiddleware:
    """Refuse a change that a page of another origin asks for (it would need no login here)."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on, unless it changes something and comes from elsewhere."""
        origin = request.headers.get("Origin")
        own = f"{request.scheme}://{request.get_host()}"
        if request.method not in SAFE_METHODS and origin not in (None, own):
            refusal = {
                "code": "other-origin",
                "where": origin,
                "message": f"A page of {origin} may not change builds here.",
            }
            return JsonResponse(refusal, status=403)
        return self.get_response(request)

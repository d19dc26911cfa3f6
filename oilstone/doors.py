"""Who may come in, and what a page of ours may do.

Only this application's own pages may ask the API for anything or change anything; a page of another
origin may do no more than link to one of ours.
"""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from oilstone.phone import answered_at_door

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # the component library writes its styles as it runs
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "manifest-src 'self'",
        "worker-src 'self'",
        "base-uri 'none'",
        "form-action 'none'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=()",
}


class DoorsMiddleware:
    """Refuse what another origin asks for, and hold our own pages to themselves."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on, unless another origin asks for more than a page."""
        stranger = _stranger(request)
        response = _refused(stranger) if stranger else answered_at_door(request)
        if response is None:
            response = self.get_response(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response


def _stranger(request: HttpRequest) -> str | None:
    """The origin that asks for what it may not have; None where all is well."""
    origin = request.headers.get("Origin")
    own = f"{request.scheme}://{request.get_host()}"
    if request.method not in SAFE_METHODS and origin not in (None, own):
        return origin
    if request.headers.get("Sec-Fetch-Site") in ("cross-site", "same-site"):
        goes_to_a_page = (
            request.method == "GET"
            and request.headers.get("Sec-Fetch-Mode") == "navigate"
            and request.headers.get("Sec-Fetch-Dest") == "document"
            and not request.path.startswith("/api/")
        )
        return None if goes_to_a_page else origin or "another site"
    return None


def _refused(stranger: str) -> HttpResponse:
    refusal = {
        "code": "other-origin",
        "where": stranger,
        "message": f"A page of {stranger} may not read or change builds here.",
    }
    return JsonResponse(refusal, status=403)

"""Long work of a request: how far it is, and a way to stop it.

A request that names itself in the header ``X-Work`` can be asked after, and be stopped, by another.
"""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from django.http import HttpRequest, HttpResponse

from circuitry.progress import Stopped, watched

LONGEST_NAME = 64
_guard = threading.Lock()
_at_work: dict[str, "Work"] = {}


@dataclass
class Work:
    """One request at work: what it is doing, the share done, and whether it is to stop."""

    doing: str = "Reading"
    share: float = 0.0
    began_s: float = field(default_factory=time.monotonic)
    stop: bool = False

    def tell(self, doing: str, share: float) -> None:
        """Note how far the work is; raises Stopped when it is to stop."""
        if self.stop:
            raise Stopped
        self.doing, self.share = doing, share

    @property
    def seconds(self) -> float:
        """How long it has been at work."""
        return time.monotonic() - self.began_s


class WorkMiddleware:
    """Let the core tell how far a request is that names itself."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request, watched while it is at work."""
        name = request.headers.get("X-Work", "")[:LONGEST_NAME]
        if not name:
            return self.get_response(request)
        work = Work()
        with _guard:
            _at_work[name] = work
        try:
            with watched(work.tell):
                return self.get_response(request)
        finally:
            with _guard:
                if _at_work.get(name) is work:
                    del _at_work[name]


def at_work(name: str) -> Work | None:
    """The request of this name, while it is at work."""
    with _guard:
        return _at_work.get(name)

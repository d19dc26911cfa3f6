"""The door for phones: a second way in, on the local network, that the builder opens and shuts.

Shut by default. While it is open, whoever brings its token, which is shown on this machine as a
square code, may read builds and record what was measured and seen; nothing else.
"""

import hmac
import ipaddress
import re
import secrets
import socket
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qs

from cheroot.ssl.builtin import BuiltinSSLAdapter
from cheroot.wsgi import Server
from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect, JsonResponse

from circuitry.errors import UnusableInput
from oilstone.certificate import certify

THROUGH = "oilstone.phone"
"""Set in the environment of a request that came in by this door."""
COOKIE = "oilstone-phone"
THREADS = 8
KEPT_S = 7 * 24 * 3600
"""How long a phone that is asleep keeps its cookie; the door's token ends with the door."""
READS = ("GET", "HEAD")
MAY_CHANGE = re.compile(r"^/api/builds/\d+/(proofs|today|photos|diagnosis|faults|journal|made)$")
SCAN, SCAN_AGAIN = "scan-again", "Scan the code on the laptop again: this one is no longer good."
PAGE = (
    "<!doctype html><html lang=en><meta charset=utf-8>"
    "<meta name=viewport content='width=device-width'><title>Oilstone</title>"
    "<p style='font: 20px/1.4 sans-serif; margin: 2em'>{}</p></html>"
)


MOST_AT_ONCE, A_SECOND, TURNED_AWAY = 600.0, 10.0, 30.0
"""What one address may ask for at once and then in each second, in requests; one that is turned
away counts for so many."""
ADDRESSES = 1000


@dataclass(frozen=True)
class Door:
    """An open door: its token, the address it is at, and what serves it."""

    token: str
    address: str
    server: Server

    def link(self, path: str) -> str:
        """The link that lets a phone in and leads to a page."""
        return f"{self.address}/phone/{self.token}?to={path}"


_open: Door | None = None
_guard, _counting = threading.Lock(), threading.Lock()
"""The first is held while the door is opened or shut, which waits for the requests at it; so what
they need has a lock of its own."""
_asked: "OrderedDict[str, tuple[float, float]]" = OrderedDict()
"""By address, how much it has asked for, less what has worn off, and when that was."""


def open_door() -> Door | None:
    """The door while it is open."""
    return _open


def open_up() -> Door:
    """Open the door, or leave it open; raises UnusableInput where there is no local network."""
    global _open
    with _guard:
        if _open is None:
            _open = _opened(_own_address())
        return _open


def shut() -> None:
    """Shut the door: its token is worth nothing any more."""
    global _open
    with _guard:
        if _open is not None:
            _open.server.stop()
            settings.ALLOWED_HOSTS.remove(_open.server.bind_addr[0])
            _open = None


def _own_address() -> str:
    """This machine's address on its own network."""
    if settings.PHONE_ADDRESS:
        return str(settings.PHONE_ADDRESS)
    try:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
            probe.connect(("192.0.2.1", 9))  # sends nothing: it only chooses a way
            address = str(probe.getsockname()[0])
    except OSError:
        address = ""
    if not address or not ipaddress.ip_address(address).is_private:
        raise UnusableInput(
            "no-local-network",
            "phone",
            "This machine is on no private network. Join the one that the phone is on, or let the "
            "phone make one that this machine joins, and turn it on again.",
        )
    return address


def _opened(address: str) -> Door:
    certificate, key = certify(settings.DATA / "phone", address)
    for port in (settings.PHONE_PORT, 0):
        server = Server((address, port), _through_the_door, numthreads=THREADS)
        server.max_request_body_size = settings.LARGEST_REQUEST_BYTES
        server.ssl_adapter = BuiltinSSLAdapter(str(certificate), str(key))
        try:
            server.prepare()
            break
        except OSError as problem:
            refused = problem
    else:
        raise UnusableInput(
            "phone-refused", "phone", f"Nothing can be opened at {address} ({refused})."
        )
    settings.ALLOWED_HOSTS.append(address)
    threading.Thread(target=server.serve, daemon=True).start()
    at = server.bind_addr[1]
    return Door(secrets.token_urlsafe(24), f"https://{address}:{at}", server)


def _through_the_door(environ: dict[str, Any], start_response: Any) -> Any:
    from oilstone.wsgi import application  # which is made once Django is set up

    return application({**environ, THROUGH: True}, start_response)


def came_in(request: HttpRequest) -> bool:
    """Whether a request came in by the door for phones."""
    return bool(request.META.get(THROUGH))


def answered_at_door(request: HttpRequest) -> HttpResponse | None:
    """What the door itself answers: lets a phone in, or turns it away; None lets the request on."""
    if not came_in(request):
        return None
    address = str(request.META.get("REMOTE_ADDR", ""))
    if _counted(address, 1.0) > MOST_AT_ONCE:
        words = "Too much at once from this address. Wait a minute."
        response = _turned_away(request, "too-much-at-once", words, status=429)
        response["Retry-After"] = "60"
        return response
    response = _answered(request)
    if response is not None and response.status_code == 403:
        _counted(address, TURNED_AWAY)
    return response


def _counted(address: str, more: float) -> float:
    """What an address has asked for so far, with so much more; it wears off with time."""
    with _counting:
        was, at = _asked.pop(address, (0.0, 0.0))
        now = time.monotonic()
        left = max(was - A_SECOND * (now - at), 0.0)
        total = left + more if left <= MOST_AT_ONCE else left
        _asked[address] = total, now
        if len(_asked) > ADDRESSES:
            _asked.popitem(last=False)
        return total


def _answered(request: HttpRequest) -> HttpResponse | None:
    door = _open
    if door is None:
        return _turned_away(request, SCAN, "The door for phones is shut. Open it on the laptop.")
    brought = re.fullmatch(r"/phone/([\w-]+)", request.path)
    if brought:
        return _let_in(request, brought[1], door)
    if not hmac.compare_digest(request.COOKIES.get(COOKIE, ""), door.token):
        return _turned_away(request, SCAN, SCAN_AGAIN)
    if request.method not in READS and not MAY_CHANGE.match(request.path):
        words = "A phone reads and records. Change the build on the laptop."
        return _turned_away(request, "reads-and-records", words)
    return None


def _let_in(request: HttpRequest, token: str, door: Door) -> HttpResponse:
    if not hmac.compare_digest(token, door.token):
        return _turned_away(request, SCAN, SCAN_AGAIN)
    to = parse_qs(request.META.get("QUERY_STRING", "")).get("to", ["/"])[0]
    response = HttpResponseRedirect(to if re.fullmatch(r"/(?!/)[\w./%-]*", to) else "/")
    response.set_cookie(
        COOKIE, door.token, max_age=KEPT_S, secure=True, httponly=True, samesite="Lax"
    )
    return response


def _turned_away(request: HttpRequest, code: str, words: str, status: int = 403) -> HttpResponse:
    if request.path.startswith("/api/"):
        problem = {"code": code, "where": "phone", "message": words, "mends": []}
        return JsonResponse(problem, status=status)
    return HttpResponse(PAGE.format(words), status=status)

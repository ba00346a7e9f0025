"""Who may ask, and what every answer carries: host, origin, passcode, size; then the safety headers."""

import logging
import socket
from collections.abc import Collection, Iterator
from contextlib import suppress
from ipaddress import ip_address
from typing import Final
from urllib.parse import parse_qs, urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import MutableHeaders
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from keenquiet.api.entrance import entrance_page
from keenquiet.api.visitors import TooManyGuesses, Visitors
from keenquiet.core.errors import InputError
from keenquiet.documents import plain

_CSP: Final = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; media-src 'self' blob:; "
    "worker-src 'self' blob:; connect-src 'self'; font-src 'self'; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'self'"
)
_HEADERS: Final = {
    "Content-Security-Policy": _CSP,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",  # without one a form of ours would come from an origin of "null"
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "microphone=(self), camera=(), geolocation=()",
}
_LOCAL_HOSTS: Final = frozenset({"127.0.0.1", "localhost", "[::1]"})
_MOST_UPLOAD_BYTES: Final = 4_600_000_000  # two hours of two channels, 24 bits at 96 kHz, and a bundle of as much
_UPLOADS: Final = (
    "/readings",
    "/bundles",
    "/calibrator",
    "/sound",
    "/watches/import",
    "/bleed",
    "/in-the-phones",
)  # nothing else takes a file, whatever a request calls itself
_SESSION: Final = "kq_session"
_log = logging.getLogger("keenquiet")


def error_response(status: int, field: str, reason: str, cure: str, **more: int) -> JSONResponse:
    """A refusal in the contract's shape."""
    return JSONResponse({"error": {"field": field, "reason": reason, "cure": cure}, **more}, status_code=status)


class TooLarge(Exception):
    """A body went on beyond what is taken."""


class Guard:
    """Around an application. visitors : who may come in from other machines; None: this machine only. names : by which
    this machine may be called besides its own.
    """

    def __init__(self, app: ASGIApp, visitors: Visitors | None = None, names: Collection[str] = ()) -> None:
        self.app = app
        self.visitors = visitors
        self._names = frozenset(name.lower() for name in (*names, *_own_names()))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun = False

        async def with_headers(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers[name] = value
                if request.url.path.startswith("/api") and headers.get("content-type") == "application/json":
                    headers["Cache-Control"] = "no-store"
            await send(message)

        request = Request(scope)
        try:
            answer = self._refusal(request) or await self._entered(request, receive)
            if answer is None:
                answer, receive = await _checked(request, receive)
            await (answer or self.app)(scope, receive, with_headers)
        except TooLarge:
            if not begun:
                await _too_large()(scope, receive, with_headers)
        except Exception:
            _log.exception("%s %s failed", request.method, request.url.path)
            if begun:
                raise
            refusal = error_response(
                500, "server", "Keen Quiet failed at this.", "Try again; if it stays, tell us what you did."
            )
            await refusal(scope, receive, with_headers)

    def _refusal(self, request: Request) -> Response | None:
        host = request.headers.get("host") or ""
        name = _name_of(host).lower()
        if self.visitors is None and name not in _LOCAL_HOSTS:
            return error_response(403, "host", "This address is not served.", "Use http://127.0.0.1.")
        # a page elsewhere whose own name leads here must not read what its visitor may: an address cannot be lent so
        if name not in _LOCAL_HOSTS and name not in self._names and not _is_address(name):
            return error_response(
                403, "host", "Keen Quiet is not called so.", "Use its address, or start it with --called NAME."
            )
        origin = request.headers.get("origin")
        if origin and request.method not in ("GET", "HEAD") and urlsplit(origin).netloc != host:
            return error_response(403, "origin", "Another page tried to reach Keen Quiet.", "Use its own page.")
        if request.url.path.startswith("/api") and request.headers.get("sec-fetch-site") == "cross-site":
            return error_response(403, "origin", "Another page tried to read from Keen Quiet.", "Use its own page.")
        length = request.headers.get("content-length") or "0"
        if not (length.isascii() and length.isdigit()):
            return error_response(400, "content-length", f"{length[:20]!r} is no length.", "Leave it out.")
        if int(length[:20]) > _MOST_UPLOAD_BYTES:
            return error_response(413, "file", "The upload is larger than 4.6 GB.", "Cut it shorter.")
        return None

    async def _entered(self, request: Request, receive: Receive) -> Response | None:
        """None for who has come in; else the entrance, a session, or a refusal."""
        visitors = self.visitors
        if visitors is None:
            return None
        path = request.url.path
        known = visitors.knows(request.cookies.get(_session_of(request), ""))
        if path == "/enter":
            return await self._at_the_entrance(request, receive, visitors, known=known)
        if known:
            return None
        if path.startswith("/api") or request.method != "GET":
            return error_response(401, "passcode", "This Keen Quiet asks for a passcode.", "Give it at /enter.")
        return RedirectResponse("/enter", status_code=303)

    async def _at_the_entrance(
        self, request: Request, receive: Receive, visitors: Visitors, *, known: bool
    ) -> Response:
        if request.method != "POST":
            return HTMLResponse(entrance_page(known=known, word=request.query_params.get("word", "")[:80]))
        form = parse_qs((await _body(receive, 4000)).decode("utf-8", "replace"))
        if "everywhere" in form and known:
            visitors.end_all()
            return HTMLResponse(entrance_page("Everybody is signed out."))
        if "word" in form:
            secret = visitors.let_in_by(form["word"][0])
            if secret is None:
                return HTMLResponse(entrance_page("That code was used, or is older than ten minutes."), status_code=401)
            return _with_session(request, secret)
        address = request.client.host if request.client else "?"
        try:
            secret = await run_in_threadpool(visitors.let_in, form.get("passcode", [""])[0], address)
        except TooManyGuesses as exc:
            page = HTMLResponse(entrance_page(f"Too many tries. Wait {exc.wait_s:.0f} seconds."), status_code=429)
            page.headers["retry-after"] = f"{exc.wait_s:.0f}"
            return page
        if secret is None:
            return HTMLResponse(entrance_page("That is not the passcode."), status_code=401)
        return _with_session(request, secret)


def _session_of(request: Request) -> str:
    """The cookie's name: under TLS one that no other host or path can set."""
    return f"__Host-{_SESSION}" if request.url.scheme == "https" else _SESSION


def _with_session(request: Request, secret: str) -> Response:
    answer = RedirectResponse("/", status_code=303)  # nowhere else, whatever the address says
    answer.set_cookie(
        _session_of(request),
        secret,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        max_age=2_592_000,
    )
    return answer


def _name_of(host: str) -> str:
    """The host without its port; an IPv6 address keeps its brackets."""
    return host.rsplit("]", 1)[0] + "]" if host.startswith("[") else host.split(":", 1)[0]


def _own_names() -> Iterator[str]:
    """What this machine calls itself, and what its own network calls it."""
    name = socket.gethostname()
    yield from (name, name.split(".")[0], f"{name.split('.')[0]}.local")


def _is_address(name: str) -> bool:
    with suppress(ValueError):
        ip_address(name.strip("[]"))
        return True
    return False


async def _checked(request: Request, receive: Receive) -> tuple[Response | None, Receive]:
    """The body bounded: JSON read whole and looked through before anything parses it, anything else counted as it
    comes, whatever length it claims.
    """
    kind = (request.headers.get("content-type") or "").split(";")[0].strip().lower()
    uploads = kind.startswith("multipart/") and request.url.path.endswith(_UPLOADS)
    if uploads or request.method in ("GET", "HEAD"):
        return None, _counted(receive)
    try:
        body = await _body(receive, plain.MOST_BYTES)
    except TooLarge:
        return error_response(413, "body", "The request is too large.", "Send less at once."), receive
    if body:
        try:  # on a thread of its own: a long document must not keep everybody else waiting
            await run_in_threadpool(plain.parsed, body)
        except InputError as exc:
            return error_response(422, exc.field, exc.reason, exc.cure), receive
    return None, _replayed(body, receive)


def _too_large() -> Response:
    return error_response(413, "file", "The upload is larger than 4.6 GB.", "Cut it shorter.")


async def _body(receive: Receive, most_bytes: int) -> bytes:
    parts: list[bytes] = []
    size = 0
    while True:
        message = await receive()
        if message["type"] != "http.request":
            return b"".join(parts)
        parts.append(message.get("body", b""))
        size += len(parts[-1])
        if size > most_bytes:
            raise TooLarge
        if not message.get("more_body"):
            return b"".join(parts)


def _counted(receive: Receive) -> Receive:
    size = 0

    async def counting() -> Message:
        nonlocal size
        message = await receive()
        size += len(message.get("body", b""))
        if size > _MOST_UPLOAD_BYTES:
            raise TooLarge
        return message

    return counting


def _replayed(body: bytes, receive: Receive) -> Receive:
    given = False

    async def replaying() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return replaying

"""Who may ask, and what every answer carries: host, origin, passcode, size; then the safety headers."""

import secrets
from typing import Final
from urllib.parse import urlsplit

from starlette.datastructures import MutableHeaders
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

_CSP: Final = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; media-src 'self' blob:; "
    "worker-src 'self' blob:; connect-src 'self'; font-src 'self'; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'self'"
)
_HEADERS: Final = {
    "Content-Security-Policy": _CSP,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}
_LOCAL_HOSTS: Final = frozenset({"127.0.0.1", "localhost", "[::1]", "testserver"})
_MOST_UPLOAD_BYTES: Final = 1_100_000_000


def error_response(status: int, field: str, reason: str, cure: str, **more: int) -> JSONResponse:
    """A refusal in the contract's shape."""
    return JSONResponse({"error": {"field": field, "reason": reason, "cure": cure}, **more}, status_code=status)


class Guard:
    """Around an application. passcode : other hosts may use it after giving that once; None: this machine only."""

    def __init__(self, app: ASGIApp, passcode: str | None = None) -> None:
        self.app = app
        self.passcode = passcode

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        refusal = self._refusal(Request(scope))
        if refusal is not None:
            await refusal(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers[name] = value
            await send(message)

        await self.app(scope, receive, with_headers)

    def _refusal(self, request: Request) -> Response | None:
        host = (request.headers.get("host") or "").rsplit(":", 1)[0]
        if self.passcode is None and host not in _LOCAL_HOSTS:
            return error_response(403, "host", "This address is not served.", "Use http://127.0.0.1.")
        origin = request.headers.get("origin")
        if origin and request.method not in ("GET", "HEAD") and urlsplit(origin).netloc != request.headers.get("host"):
            return error_response(403, "origin", "Another page tried to reach Keen Quiet.", "Use its own page.")
        if self.passcode is not None and (answer := self._passcode_answer(request, self.passcode)) is not None:
            return answer
        length = request.headers.get("content-length") or "0"
        if not length.isdigit():
            return error_response(400, "content-length", f"{length[:20]!r} is no length.", "Leave it out.")
        if int(length) > _MOST_UPLOAD_BYTES:
            return error_response(413, "file", "The upload is larger than 1 GB.", "Cut it shorter.")
        return None

    @staticmethod
    def _passcode_answer(request: Request, passcode: str) -> Response | None:
        """None when the visitor may pass; else a refusal, or a cookie for `?passcode=`."""
        given = request.cookies.get("kq_passcode", "")
        if secrets.compare_digest(given.encode(), passcode.encode()):
            return None
        if secrets.compare_digest(request.query_params.get("passcode", "").encode(), passcode.encode()):
            answer = Response(status_code=303, headers={"location": request.url.path})
            answer.set_cookie("kq_passcode", passcode, httponly=True, samesite="strict")
            return answer
        return error_response(
            401,
            "passcode",
            "This Keen Quiet asks for a passcode.",
            "Open /?passcode=... once with the passcode it was started with.",
        )

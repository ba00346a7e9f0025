"""The built interface: sent compressed as it was built, and kept for good where its name holds a hash of its content.

It needs none of the computing: `front` serves it while the rest is still being loaded.
"""

from pathlib import Path
from typing import Final

from starlette.requests import Request
from starlette.responses import FileResponse, Response
from starlette.types import Receive, Scope, Send

from keenquiet.api.guard import error_response

WEB: Final = Path(__file__).parent.parent / "web_dist"
_FOR_GOOD: Final = "public, max-age=31536000, immutable"
_ASK_AGAIN: Final = "no-cache"
# best first; the build leaves these beside each file that is worth it (web/vite.config.ts)
_ENCODINGS: Final = (("br", ".br"), ("gzip", ".gz"))
_TYPES: Final = {
    ".js": "text/javascript",
    ".css": "text/css",
    ".html": "text/html",
    ".svg": "image/svg+xml",
    ".woff2": "font/woff2",
    ".json": "application/json",
}


async def pages(scope: Scope, receive: Receive, send: Send) -> None:
    """Any address that is no file is the page itself."""
    await _answer(Request(scope))(scope, receive, send)


def _answer(request: Request) -> Response:
    path = request.url.path.lstrip("/")
    if path == "api" or path.startswith("api/"):
        return error_response(404, "path", "There is no such address.", "See docs/formats.md.")
    if request.method not in ("GET", "HEAD"):
        return error_response(405, "method", f"{request.method} is not for pages.", "See docs/formats.md.")
    if not (WEB / "index.html").is_file():
        return error_response(404, "path", "The interface is not built.", "Run `make setup`.")
    try:
        asked = (WEB / path).resolve()
        is_file = bool(path) and asked.is_file() and asked.is_relative_to(WEB.resolve())
    except (OSError, ValueError):  # longer than any file's name, or with a character that none may hold
        return error_response(404, "path", "There is no such address.", "Start at /.")
    if not is_file and path.startswith("assets/"):
        return error_response(404, "path", "There is no such file any more.", "Load the page again.")
    return _sent(asked if is_file else WEB / "index.html", request, hashed=path.startswith("assets/"))


def _sent(file: Path, request: Request, *, hashed: bool) -> Response:
    headers = {"cache-control": _FOR_GOOD if hashed else _ASK_AGAIN, "vary": "accept-encoding"}
    media = _TYPES.get(file.suffix, "application/octet-stream")
    accepted = request.headers.get("accept-encoding", "")
    for name, ending in _ENCODINGS:
        packed = file.with_name(file.name + ending)
        if name in accepted and packed.is_file():
            return FileResponse(packed, media_type=media, headers={**headers, "content-encoding": name})
    return FileResponse(file, media_type=media, headers=headers)

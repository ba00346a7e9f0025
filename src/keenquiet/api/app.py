"""The application: routers, errors into HTTP, safety headers, the built interface."""

import secrets
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from keenquiet.api import readings, rooms, tools
from keenquiet.core.errors import InputError
from keenquiet.service.data import Data
from keenquiet.store.errors import NotFound, RevisionConflict, StorageFull

WEB = Path(__file__).parent.parent / "web_dist"
_CSP = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; media-src 'self' blob:; "
    "worker-src 'self' blob:; connect-src 'self'; font-src 'self'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_LOCAL_HOSTS = {"127.0.0.1", "localhost", "[::1]", "testserver"}
_MOST_UPLOAD_BYTES = 1_100_000_000


def make_app(folder: Path, *, passcode: str | None = None) -> FastAPI:
    """The web application over one data folder. With a passcode, other hosts may use it after giving that once."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        app.state.data.close()

    app = FastAPI(
        title="Keen Quiet",
        version="0.1.0",
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )
    app.state.data = Data(folder)
    for router in (rooms.router, readings.router, tools.router):
        app.include_router(router, prefix="/api")
    _errors(app)
    _safety(app, passcode)
    _interface(app)
    return app


def _errors(app: FastAPI) -> None:
    @app.exception_handler(InputError)
    def input_error(request: Request, exc: InputError) -> JSONResponse:
        return _error(422, exc.field, exc.reason, exc.cure)

    @app.exception_handler(RequestValidationError)
    def validation_error(request: Request, exc: RequestValidationError) -> JSONResponse:
        first = exc.errors()[0]
        where = [str(part) for part in first["loc"] if part not in ("body", "query", "path")]
        return _error(422, ".".join(where) or "request", f"{first['msg']}.", "Check this field.")

    @app.exception_handler(NotFound)
    def not_found(request: Request, exc: NotFound) -> JSONResponse:
        return _error(404, "id", str(exc), "Go back to the list of rooms.")

    @app.exception_handler(RevisionConflict)
    def conflict(request: Request, exc: RevisionConflict) -> JSONResponse:
        return _error(
            409, "revision", str(exc), "Choose which version to keep; both are still there.", newest=exc.newest
        )

    @app.exception_handler(StorageFull)
    def full(request: Request, exc: StorageFull) -> JSONResponse:
        return _error(507, "disk", str(exc), "Free some space and try again.")


def _error(status: int, field: str, reason: str, cure: str, **more: int) -> JSONResponse:
    return JSONResponse({"error": {"field": field, "reason": reason, "cure": cure}, **more}, status_code=status)


def _safety(app: FastAPI, passcode: str | None) -> None:
    @app.middleware("http")
    async def guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        host = (request.headers.get("host") or "").rsplit(":", 1)[0]
        if passcode is None and host not in _LOCAL_HOSTS:
            return _error(403, "host", "This address is not served.", "Use http://127.0.0.1.")
        origin = request.headers.get("origin")
        if origin and request.method not in ("GET", "HEAD") and urlsplit(origin).netloc != request.headers.get("host"):
            return _error(403, "origin", "Another page tried to reach Keen Quiet.", "Use its own page.")
        if passcode is not None and (answer := _passcode_answer(request, passcode)) is not None:
            return answer
        if int(request.headers.get("content-length") or 0) > _MOST_UPLOAD_BYTES:
            return _error(413, "file", "The upload is larger than 1 GB.", "Cut it shorter.")
        response = await call_next(request)
        response.headers["Content-Security-Policy"] = _CSP
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        return response


def _passcode_answer(request: Request, passcode: str) -> Response | None:
    """None when the visitor may pass; else a refusal, or a cookie for `?passcode=`."""
    given = request.cookies.get("kq_passcode", "")
    if secrets.compare_digest(given.encode(), passcode.encode()):
        return None
    if secrets.compare_digest(request.query_params.get("passcode", "").encode(), passcode.encode()):
        answer = Response(status_code=303, headers={"location": request.url.path})
        answer.set_cookie("kq_passcode", passcode, httponly=True, samesite="strict")
        return answer
    return _error(
        401,
        "passcode",
        "This Keen Quiet asks for a passcode.",
        "Open /?passcode=... once with the passcode it was started with.",
    )


def _interface(app: FastAPI) -> None:
    if not (WEB / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=WEB / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return _error(404, "path", "There is no such address.", "See docs/formats.md.")
        asked = (WEB / path).resolve()
        if path and asked.is_file() and asked.is_relative_to(WEB.resolve()):
            return FileResponse(asked)
        return FileResponse(WEB / "index.html", headers={"cache-control": "no-cache"})

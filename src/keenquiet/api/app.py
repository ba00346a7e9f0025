"""The application: routers, errors into HTTP, safety headers, the built interface."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError, ResponseValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from keenquiet.api import hush, questions, readings, rooms, songs, takes, tools, watches
from keenquiet.api.guard import Guard, error_response
from keenquiet.api.pages import pages
from keenquiet.api.visitors import Visitors
from keenquiet.core.errors import InputError
from keenquiet.service.data import Data
from keenquiet.service.jobs import Cancelled, TooMany, stop_all
from keenquiet.store.errors import (
    Busy,
    NotFound,
    RevisionConflict,
    StorageFull,
    StoreError,
    TakenOver,
    UsedBefore,
    disk_trouble,
)


def make_app(folder: Path, *, passcode: str | None = None, guarded: bool = True) -> FastAPI:
    """The web application over one data folder. With a passcode, other hosts may use it after giving that once.

    guarded : False where a guard stands before it already.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        stop_all()
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
    app.state.preparing = None
    for router in (
        rooms.router,
        readings.router,
        tools.router,
        questions.router,
        hush.router,
        watches.router,
        takes.router,
        songs.router,
    ):
        app.include_router(router, prefix="/api")
    _errors(app)
    app.mount("/", pages)
    if guarded:
        app.add_middleware(Guard, visitors=Visitors(passcode) if passcode is not None else None)
    return app


def _errors(app: FastAPI) -> None:
    @app.exception_handler(InputError)
    def input_error(request: Request, exc: InputError) -> JSONResponse:
        return error_response(422, exc.field, exc.reason, exc.cure)

    @app.exception_handler(RequestValidationError)
    def validation_error(request: Request, exc: RequestValidationError) -> JSONResponse:
        first = exc.errors()[0]
        where = [str(part) for part in first["loc"] if part not in ("body", "query", "path")]
        return error_response(422, ".".join(where) or "request", f"{first['msg']}.", "Check this field.")

    @app.exception_handler(HTTPException)
    def refused(request: Request, exc: HTTPException) -> JSONResponse:
        if isinstance(exc.__cause__, OSError):  # an upload that the temporary folder could not take
            full = disk_trouble(exc.__cause__, "the upload")
            return error_response(507, "disk", str(full), "Free some space and try again.")
        field = "address" if exc.status_code in (404, 405) else "request"
        return error_response(exc.status_code, field, f"{exc.detail}.", "Check what was asked for.")

    @app.exception_handler(NotFound)
    def not_found(request: Request, exc: NotFound) -> JSONResponse:
        return error_response(404, "id", str(exc), "Go back to the list of rooms.")

    @app.exception_handler(RevisionConflict)
    def conflict(request: Request, exc: RevisionConflict) -> JSONResponse:
        return error_response(
            409, "revision", str(exc), "Choose which version to keep; both are still there.", newest=exc.newest
        )

    @app.exception_handler(UsedBefore)
    def used_before(request: Request, exc: UsedBefore) -> JSONResponse:
        return error_response(409, "Idempotency-Key", str(exc), "Make a new one for each recording.")

    @app.exception_handler(TakenOver)
    def taken_over(request: Request, exc: TakenOver) -> JSONResponse:
        return error_response(409, "device", str(exc), "Take over from it, or look on.")

    @app.exception_handler(StorageFull)
    def full(request: Request, exc: StorageFull) -> JSONResponse:
        return error_response(507, "disk", str(exc), "Free some space and try again.")

    @app.exception_handler(Busy)
    def busy(request: Request, exc: Busy) -> JSONResponse:
        return error_response(503, "data", str(exc), "Try again in a moment.")

    @app.exception_handler(StoreError)
    def damaged(request: Request, exc: StoreError) -> JSONResponse:
        return error_response(507, "data", str(exc), "See `keenquiet check`.")

    @app.exception_handler(ResponseValidationError)
    @app.exception_handler(Exception)
    def failed(request: Request, exc: Exception) -> JSONResponse:
        return error_response(
            500, "server", "Keen Quiet failed at this.", "Try again; if it stays, tell us what you did."
        )

    @app.exception_handler(TooMany)
    def too_many(request: Request, exc: TooMany) -> JSONResponse:
        return error_response(503, "work", str(exc), "Wait a moment and ask again.")

    @app.exception_handler(Cancelled)
    def cancelled(request: Request, exc: Cancelled) -> JSONResponse:
        return error_response(409, "work", "This was stopped before it was done.", "Ask again.")

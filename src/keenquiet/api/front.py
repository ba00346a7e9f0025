"""What stands before the application while it is being loaded: pages at once, questions as soon as it is there.

Loading what computes takes more than a second; a page on the screen meanwhile is what a person waits for.
"""

import asyncio
from collections.abc import Callable, Collection
from concurrent.futures import Future
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from keenquiet.api.guard import Guard, error_response
from keenquiet.api.pages import pages
from keenquiet.api.visitors import Visitors

if TYPE_CHECKING:  # loading these is what a page does not wait for
    from keenquiet.service.data import Data
    from keenquiet.service.jobs import Job


class Front:
    """An application over one data folder that loads itself.

    names : by which this machine may be called besides its own. on_failure : called when it could not be loaded.
    prepare : what comes into the folder before it is served, and then goes on as a job that the page is told of.
    """

    def __init__(
        self,
        folder: Path,
        *,
        visitors: Visitors | None,
        on_failure: Callable[[], None],
        names: Collection[str] = (),
        prepare: "Callable[[Data], Job[None]] | None" = None,
    ) -> None:
        self._prepare = prepare
        self.loaded: Future[ASGIApp] = Future()
        self._guarded = Guard(self._pages_or_app, visitors, names)
        Thread(target=self._load, args=(folder, on_failure), daemon=True, name="loading").start()

    def _load(self, folder: Path, on_failure: Callable[[], None]) -> None:
        try:
            from keenquiet.api.app import make_app
            from keenquiet.service.upkeep import swept

            app = make_app(folder, guarded=False)
            swept(app.state.data)
            if self._prepare is not None:
                app.state.preparing = self._prepare(app.state.data)
            self.loaded.set_result(app)
        except BaseException as exc:
            self.loaded.set_exception(exc)
            on_failure()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._lifespan(receive, send)
        else:
            await self._guarded(scope, receive, send)

    async def _pages_or_app(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and not scope["path"].startswith("/api"):
            await pages(scope, receive, send)
            return
        try:
            app = await asyncio.wrap_future(self.loaded)
        except Exception as exc:  # the server is going down for it, and says the same in the terminal
            refusal = error_response(507, "data", str(exc), "See the terminal that Keen Quiet was started in.")
            await refusal(scope, receive, send)
            return
        await app(scope, receive, send)

    async def _lifespan(self, receive: Receive, send: Send) -> None:
        """Starts at once; on the way down the application, if it got so far, lets go of its folder."""
        await receive()
        await send({"type": "lifespan.startup.complete"})
        await receive()
        if self.loaded.done() and self.loaded.exception() is None:
            messages: list[Message] = [{"type": "lifespan.startup"}, {"type": "lifespan.shutdown"}]

            async def told() -> Message:
                return messages.pop(0)

            async def ignored(message: Message) -> None:
                return None

            await self.loaded.result()({"type": "lifespan", "asgi": {"version": "3.0"}}, told, ignored)
        await send({"type": "lifespan.shutdown.complete"})

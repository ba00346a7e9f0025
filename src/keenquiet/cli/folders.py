"""Commands that work on a data folder, and the server."""

import os
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from keenquiet.cli.files import json_at, keep, say
from keenquiet.core.errors import InputError

if TYPE_CHECKING:
    from keenquiet.service.data import Data
    from keenquiet.service.jobs import Job

T = TypeVar("T")


def served(
    data: Path, *, host: str, port: int, passcode: str | None, prepare: "Callable[[Data], Job[None]] | None" = None
) -> None:
    """`serve`. prepare : what comes into the folder first, and the job that goes on while it is served."""
    if host not in ("127.0.0.1", "localhost", "::1") and not passcode:
        raise InputError("host", f"{host} can be reached by others.", "Give a --passcode, or keep 127.0.0.1.")
    import uvicorn

    from keenquiet.api.front import Front

    def give_up() -> None:
        server.should_exit = True

    front = Front(data, passcode=passcode, on_failure=give_up, prepare=prepare)
    level = os.environ.get("KEENQUIET_LOG", "warning")
    server = uvicorn.Server(uvicorn.Config(front, host=host, port=port, log_level=level))
    print(f"Keen Quiet is ready: http://{host}:{port}  (data in {data}; stop with Ctrl-C)", flush=True)
    server.run()
    if front.loaded.done():
        front.loaded.result()  # what went wrong while loading is said here


def demonstrated(data: Path, *, port: int, only_load: bool) -> None:
    """`demo`."""
    if only_load:
        from keenquiet.demo.load import load_demo

        _with_data(data, load_demo)
    else:
        served(data, host="127.0.0.1", port=port, passcode=None, prepare=demo_begun)


def demo_begun(data: "Data") -> "Job[None]":
    """The demo's rooms at once; the job that makes their readings."""
    from keenquiet.demo.load import load_rooms, record_readings
    from keenquiet.service.jobs import started

    load_rooms(data)
    return started(f"demo-{data.folder}", "Recording the demo's readings", partial(record_readings, data))


def _with_data(folder: Path, use: Callable[[Any], T]) -> T:
    from keenquiet.service.data import Data

    data = Data(folder)
    try:
        return use(data)
    finally:
        data.close()


def exported(folder: Path, room: str, as_json: bool, *, out: Path) -> None:
    """`export`."""
    from keenquiet.service import bundles, rooms
    from keenquiet.service.data import Data

    def export(opened: Data) -> dict[str, Any]:
        chosen = next((r for r in rooms.list_rooms(opened) if room in (r.id, r.name)), None)
        if chosen is None:
            raise InputError(
                "room", f"{room!r} is not in this data folder.", "Give its name or id; --data chooses the folder."
            )
        content, _ = bundles.exported(opened, chosen.id)
        keep(out, content)
        return {"out": str(out), "bytes": len(content), "room": chosen.name}

    say(_with_data(folder, export), as_json)


def imported(folder: Path, bundle: Path, as_json: bool) -> None:
    """`import`."""
    from keenquiet.service import bundles, rooms
    from keenquiet.service.data import Data

    def take(opened: Data) -> dict[str, Any]:
        if bundle.suffix == ".json":
            made = rooms.create(opened, json_at(bundle, "BUNDLE"))
            return {"id": made.id, "name": made.name, "readings": 0}
        try:
            content = bundle.read_bytes()
        except OSError as exc:
            raise InputError(
                "file", f"{bundle.name} cannot be read: {exc.strerror}.", "Check the file's name."
            ) from exc
        return bundles.imported(opened, content).model_dump()

    say(_with_data(folder, take), as_json)


def backed_up(folder: Path, as_json: bool) -> None:
    """`backup`."""
    say({"backup": _with_data(folder, lambda opened: str(opened.database.backup("by-hand")))}, as_json)


def checked(folder: Path, as_json: bool) -> None:
    """`check`."""
    from keenquiet.service.data import checked as look_over

    found = _with_data(folder, look_over)
    say(found, as_json)
    if not found["sound"]:
        sys.exit(1)

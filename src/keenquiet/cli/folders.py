"""Commands that work on a data folder, and the server."""

import os
import socket
import sys
from collections.abc import Callable, Collection
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Any, Final, TypeVar

from keenquiet.cli.files import json_at, kept_whole, say
from keenquiet.core.errors import InputError

if TYPE_CHECKING:
    from keenquiet.service.data import Data
    from keenquiet.service.jobs import Job

T = TypeVar("T")


_LOCAL: Final = ("127.0.0.1", "localhost", "::1")
_STOP_S: Final = 2  # what is still being asked then is let go of


def served(
    data: Path,
    *,
    host: str,
    port: int,
    passcode: str | None,
    tls: bool = False,
    phone: bool = False,
    called: Collection[str] = (),
    prepare: "Callable[[Data], Job[None]] | None" = None,
) -> None:
    """`serve`. phone : to one's own network, with https and a passcode. called : names of this machine besides its own.
    prepare : what comes into the folder first, and the job that goes on while it is served.
    """
    import uvicorn

    os.umask(0o077)  # what is recorded here is its owner's

    class _Server(uvicorn.Server):
        """Told to stop, it tells its jobs: whoever waits for one is answered, and need not be cut off."""

        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            jobs = sys.modules.get("keenquiet.service.jobs")
            if jobs is not None:
                jobs.stop_all()
            super().handle_exit(sig, frame)

    from keenquiet.api.front import Front
    from keenquiet.api.visitors import Visitors, made_up
    from keenquiet.store.claim import claimed

    def give_up() -> None:
        server.should_exit = True

    if phone:
        host, tls, passcode = ("0.0.0.0" if host in _LOCAL else host), True, passcode or made_up()
    if host not in _LOCAL and passcode is None:
        raise InputError(
            "host", f"{host} can be reached by others.", "Give a --passcode, or --phone, which makes one up."
        )
    visitors = None if passcode is None else Visitors(passcode)
    with claimed(data):
        front = Front(data, visitors=visitors, on_failure=give_up, names=called, prepare=prepare)
        level = os.environ.get("KEENQUIET_LOG", "warning")
        files, note = _secured(data, host) if tls else ({}, "")
        config = uvicorn.Config(
            front,
            host=host,
            port=port,
            log_level=level,
            timeout_graceful_shutdown=_STOP_S,
            proxy_headers=False,
            **files,
        )
        server = _Server(config)
        listening = _bound(host, port)
        _say_where(data, host, port, passcode, visitors.word() if visitors else "", tls=tls, note=note)
        code = 0
        try:
            server.run(sockets=[listening])
        except KeyboardInterrupt:
            code = 130
    if front.loaded.done():
        front.loaded.result()  # what went wrong while loading is said here
    # a search or a reading under way is nothing to wait for: all that was acknowledged is on the disk
    sys.stdout.flush()
    os._exit(code)


def _bound(host: str, port: int) -> socket.socket:
    """A socket that listens there. Raises InputError when the address is taken or is none of this machine's."""
    found = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_STREAM)
    found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        found.bind((host, port))
    except (OSError, OverflowError) as exc:
        found.close()
        said = exc.strerror if isinstance(exc, OSError) else str(exc)
        raise InputError("port", f"{host}:{port} cannot be used: {said}.", "Choose another --port.") from exc
    return found


def _secured(data: Path, host: str) -> tuple[dict[str, Any], str]:
    from keenquiet.store.certificate import local_certificate, own_address

    made = local_certificate(data, tuple(dict.fromkeys(["localhost", "127.0.0.1", own_address(), *_named(host)])))
    note = (
        "The certificate was made on this machine, so the phone warns once. Compare what it shows, then go on:\n"
        f"  SHA-256 {made.fingerprint}\n"
    )
    return {"ssl_keyfile": str(made.key), "ssl_certfile": str(made.certificate)}, note


def _named(host: str) -> list[str]:
    return [] if host in ("0.0.0.0", "::") else [host]


def _say_where(data: Path, host: str, port: int, passcode: str | None, word: str, *, tls: bool, note: str) -> None:
    scheme = "https" if tls else "http"
    print(f"Keen Quiet is ready: {scheme}://{host}:{port}  (data in {data}; stop with Ctrl-C)", flush=True)
    if passcode is None:
        return
    import segno

    from keenquiet.store.certificate import own_address

    shown = host if _named(host) else own_address()
    print(
        f"Passcode: {passcode}\n{note}On a phone in the same network, scan this (once, within ten minutes) or open {scheme}://{shown}:{port}"
    )
    segno.make(f"{scheme}://{shown}:{port}/enter?word={word}").terminal(compact=True)
    if not tls:
        print("Over http a phone may look and change, but not record: browsers keep the microphone. --tls gives it.")
    sys.stdout.flush()


def demonstrated(data: Path, *, port: int, only_load: bool) -> None:
    """`demo`."""
    if only_load:
        from keenquiet.demo.load import load_demo

        _with_data(data, load_demo)
    else:
        served(data, host="127.0.0.1", port=port, passcode=None, prepare=demo_begun)


def demo_begun(data: "Data") -> "Job[None]":
    """The demo's rooms at once; the job that makes their readings."""
    from keenquiet.demo.load import begin

    return begin(data)[1]


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
        with kept_whole(out) as file:
            made = bundles.export_to(opened, chosen.id, file)
        return {"out": str(out), "bytes": out.stat().st_size, "room": chosen.name, "missing": list(made.missing)}

    say(_with_data(_existing(folder), export), as_json)


def imported(folder: Path, bundle: Path, as_json: bool) -> None:
    """`import`."""
    from keenquiet.service import bundles, rooms
    from keenquiet.service.data import Data

    def take(opened: Data) -> dict[str, Any]:
        if bundle.suffix == ".json":
            made = rooms.create(opened, json_at(bundle, "BUNDLE"))
            return {"id": made.id, "name": made.name, "readings": 0}
        try:
            file = bundle.open("rb")
        except OSError as exc:
            raise InputError(
                "file", f"{bundle.name} cannot be read: {exc.strerror}.", "Check the file's name."
            ) from exc
        with file:
            return bundles.imported(opened, file).model_dump()

    say(_with_data(folder, take), as_json)


def backed_up(folder: Path, as_json: bool) -> None:
    """`backup`."""
    say({"backup": _with_data(_existing(folder), lambda opened: str(opened.database.backup("by-hand")))}, as_json)


def restored(folder: Path, as_json: bool, *, backup: str | None, only_list: bool) -> None:
    """`restore`."""
    from keenquiet.service import restoring
    from keenquiet.store.claim import claimed

    if not (folder / "backups").is_dir():
        raise InputError("data", f"{folder} has no backups.", "Choose it with --data; `backup` makes one.")
    if only_list:
        say({"backups": [one.model_dump(mode="json") for one in restoring.backups(folder)]}, as_json)
        return
    with claimed(folder):  # no server goes on writing into what is put aside
        say(restoring.restored(folder, backup).model_dump(), as_json)


def checked(folder: Path, as_json: bool, *, repair: bool) -> None:
    """`check`."""
    from keenquiet.service import upkeep

    found = upkeep.repaired(folder) if repair else upkeep.checked(folder)
    say(found, as_json)
    if not found["sound"]:
        sys.exit(1)


def _existing(folder: Path) -> Path:
    """A folder that is only asked about is not made. Raises InputError where there is none."""
    if not (folder / "keenquiet.db").is_file():
        raise InputError("data", f"{folder} is no data folder.", "Choose it with --data; `serve` makes one.")
    return folder

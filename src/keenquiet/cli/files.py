"""Files that commands read and write, and how they say what they found."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, BinaryIO

from pydantic import BaseModel

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import parsed
from keenquiet.documents.schema import RoomDoc


def say(answer: BaseModel | dict[str, Any], as_json: bool) -> None:
    """Print one document: on one line as JSON, else to be read."""
    found = answer.model_dump(mode="json") if isinstance(answer, BaseModel) else answer
    print(json.dumps(found, ensure_ascii=False, indent=None if as_json else 2))


def room_at(path: Path) -> RoomDoc:
    """A room document from a file. Raises InputError."""
    from keenquiet.documents.convert import read_room

    return read_room(json_at(path, "ROOM.json"))


def json_at(path: Path, field: str) -> Any:
    """Parsed JSON from a file. Raises InputError naming the field."""
    try:
        content = path.read_bytes()
    except OSError as exc:
        raise InputError(field, f"{path.name} cannot be read: {exc.strerror}.", "Check the file's name.") from exc
    try:
        return parsed(content, field=field)
    except InputError as exc:
        raise InputError(
            field, f"{path.name} {exc.reason}", f"{exc.cure} `keenquiet schema` shows the format."
        ) from exc


def keep(out: Path, content: bytes) -> None:
    """Write a file. Raises InputError when it cannot be."""
    try:
        out.write_bytes(content)
    except OSError as exc:
        raise InputError("out", f"{out} cannot be written: {exc.strerror}.", "Choose another place.") from exc


@contextmanager
def kept_whole(out: Path) -> Iterator[BinaryIO]:
    """A file that is there whole or not at all. Raises InputError when it cannot be written."""
    partial = out.with_name(f".{out.name}.part")
    try:
        with partial.open("wb") as file:
            yield file
        partial.replace(out)
    except OSError as exc:
        raise InputError("out", f"{out} cannot be written: {exc.strerror}.", "Choose another place.") from exc
    finally:
        partial.unlink(missing_ok=True)

"""Files that commands read and write, and how they say what they found."""

import json
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from keenquiet.core.errors import InputError
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
        return json.loads(path.read_text(encoding="utf-8"))
    except OSError as exc:
        raise InputError(field, f"{path.name} cannot be read: {exc.strerror}.", "Check the file's name.") from exc
    except (UnicodeDecodeError, ValueError, RecursionError) as exc:
        raise InputError(
            field, f"{path.name} is not valid JSON.", "Check the file; `keenquiet schema` shows the format."
        ) from exc


def keep(out: Path, content: bytes) -> None:
    """Write a file. Raises InputError when it cannot be."""
    try:
        out.write_bytes(content)
    except OSError as exc:
        raise InputError("out", f"{out} cannot be written: {exc.strerror}.", "Choose another place.") from exc

"""JSON from outside, bounded before anything reads it: depth, size, numbers, and text that can be kept and shown."""

import json
import re
from typing import Any, Final

from keenquiet.core.errors import InputError

MOST_BYTES: Final = 4_000_000
_MOST_DEPTH: Final = 40  # a room's own parts lie some ten deep
_MOST_PARTS: Final = 200_000
_MOST_TEXT: Final = 20_000
MOST_NUMBER: Final = 1e15  # the largest there are count milliseconds since 1970; sums and squares of it stay finite
# control characters but tab and line ends; halves of surrogate pairs; what XML calls no character
_NO_TEXT: Final = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def parsed(content: bytes, *, field: str = "body", most_bytes: int = MOST_BYTES, most_parts: int = _MOST_PARTS) -> Any:
    """JSON as values. Raises InputError when it is none, too large, too deep, or holds text that is none."""
    if len(content) > most_bytes:
        raise InputError(field, f"has {len(content) / 1e6:.1f} MB of JSON.", f"At most {most_bytes / 1e6:.0f} MB.")
    try:
        value = json.loads(content, parse_constant=_no_number)
    except RecursionError as exc:
        raise InputError(field, "is nested too deeply.", f"At most {_MOST_DEPTH} levels.") from exc
    except ValueError as exc:  # no JSON, no UTF-8, a number of a million digits
        raise InputError(field, "is not valid JSON.", "Check it with any JSON tool.") from exc
    check(value, field=field, most_parts=most_parts)
    return value


def _no_number(word: str) -> float:
    raise ValueError(f"{word} is no JSON")


def check(value: Any, *, field: str, most_parts: int = _MOST_PARTS) -> None:
    """Raise InputError when a value is too deep, has too many parts, or holds text that cannot be kept."""
    waiting: list[tuple[Any, int]] = [(value, 1)]
    parts = 0
    while waiting:
        one, depth = waiting.pop()
        parts += 1
        if depth > _MOST_DEPTH:
            raise InputError(field, "is nested too deeply.", f"At most {_MOST_DEPTH} levels.")
        if parts > most_parts:
            raise InputError(field, "has too many parts.", f"At most {most_parts}.")
        if isinstance(one, str):
            check_text(one, field=field)
        elif isinstance(one, dict):
            for name, inner in one.items():
                check_text(name, field=field)
                waiting.append((inner, depth + 1))
        elif isinstance(one, list):
            waiting += [(inner, depth + 1) for inner in one]
        elif isinstance(one, (int, float)) and not abs(one) <= MOST_NUMBER:
            raise InputError(field, "holds a number beyond any use.", "Use ordinary numbers.")


def check_text(text: str, *, field: str) -> None:
    """Raise InputError when a text is too long or holds characters that cannot be written or shown."""
    if len(text) > _MOST_TEXT:
        raise InputError(field, f"holds a text of {len(text)} characters.", f"At most {_MOST_TEXT}.")
    found = _NO_TEXT.search(text)
    if found is not None:
        code = f"U+{ord(found.group()):04X}"
        raise InputError(field, f"holds {code}, which is no character that can be shown.", "Type it again without it.")


def shown_name(name: str) -> str:
    """A file's name as it is kept: in any script, without what cannot be shown and without folders."""
    return without_controls(name.replace("\\", "/").rsplit("/", 1)[-1])[:200] or "file"


def without_controls(text: str) -> str:
    """A text without the characters that cannot be shown."""
    return _NO_TEXT.sub("", text)


def one_line(text: str) -> str:
    """A text on one line: line ends would end an entry of a DXF file or start a row of a table; control characters make
    an SVG no XML.
    """
    return " ".join(without_controls(text).split())

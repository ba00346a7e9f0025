"""Logs of sound levels from elsewhere, as CSV: times and levels, in whatever order, with whatever is missing.

What a number means cannot be guessed: the unit is asked for, and the offset of times that name no zone.
"""

import csv
import io
from array import array
from datetime import datetime, timedelta, timezone
from itertools import chain
from typing import BinaryIO, Final, Literal, TextIO

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.read.sound_log import SoundLog

Unit = Literal["dBA", "dBFS", "dB"]
_TIMES: Final = ("time", "timestamp", "datetime", "date", "utc", "when")
_LEVELS: Final = ("laeq", "level", "db", "spl", "leq", "value")
_MOST_ROWS: Final = 2_000_000
_MOST_BYTES: Final = 100_000_000
_LONGEST_ROW: Final = 100_000  # characters
_LOWEST_DB, _HIGHEST_DB = -200.0, 200.0


def read_log(content: BinaryIO, *, offset_min: float = 0.0) -> SoundLog:
    """A log from a table with a column of times and one of levels.

    Times are ISO 8601, or seconds since 1970; those without a zone are local, offset_min ahead of UTC. Raises
    InputError with the row at fault; a level that is empty is a gap.
    """
    size = content.seek(0, io.SEEK_END)
    if size > _MOST_BYTES:
        raise InputError("log", f"has {size / 1e6:.0f} MB.", "Cut it into months.")
    content.seek(0)
    if not -24 * 60 <= offset_min <= 24 * 60:
        raise InputError("offset_min", f"{offset_min:g} min is no zone.", "Give minutes ahead of UTC, -720 to 840.")
    text = io.TextIOWrapper(content, encoding="utf-8-sig", newline="")
    try:
        return _read(text, timezone(timedelta(minutes=offset_min)))
    except UnicodeDecodeError as exc:
        raise InputError("log", "is not a text.", "Export it as CSV in UTF-8.") from exc
    except csv.Error as exc:
        raise InputError("log", f"is no table ({exc}).", "Export it with one time and one level a row.") from exc
    finally:
        text.detach()  # whoever gave it closes it


def _read(text: TextIO, zone: timezone) -> SoundLog:
    """Row by row: a million of them take three numbers each, and no text."""
    first = text.readline(_LONGEST_ROW)
    rows = csv.reader(chain([first], text), delimiter=_delimiter(first))
    head = next(rows, None)
    if head is None:
        raise InputError("log", "is empty.", "Export it with a header and a row for each level.")
    at, level_at = _columns(head)
    times, offsets, levels = array("d"), array("d"), array("d")
    for number, row in enumerate(rows, start=2):
        if number > _MOST_ROWS:
            raise InputError("log", f"has more than {_MOST_ROWS} rows.", "Cut it into months.")
        if len(row) <= max(at, level_at) or not row[level_at].strip():
            continue
        moment = _moment(row[at].strip(), zone, number)
        level = _level(row[level_at].strip(), number)
        times.append(moment.timestamp())
        offsets.append((moment.utcoffset() or timedelta()).total_seconds())
        levels.append(level)
    return SoundLog.of(np.asarray(times), np.asarray(levels), offset_s=np.asarray(offsets) if offsets else 0.0)


def _delimiter(first: str) -> str:
    return max(",;\t", key=first.count)


def _columns(head: list[str]) -> tuple[int, int]:
    names = [name.strip().lower() for name in head]
    at = next((i for key in _TIMES for i, name in enumerate(names) if key in name), None)
    level = next((i for key in _LEVELS for i, name in enumerate(names) if key in name and i != at), None)
    if at is None or level is None:
        raise InputError(
            "log", f"has no columns of times and levels: {', '.join(names)[:80]}.", "Name them time and level_db."
        )
    return at, level


def _moment(text: str, zone: timezone, row: int) -> datetime:
    try:
        seconds = float(text)
    except ValueError:
        try:
            moment = datetime.fromisoformat(text)
        except ValueError as exc:
            raise InputError("log", f"row {row}: {text[:40]!r} is no time.", "Write 2026-05-03T21:15:00.") from exc
        return moment if moment.tzinfo is not None else moment.replace(tzinfo=zone)
    try:
        return datetime.fromtimestamp(seconds, zone)
    except (OverflowError, ValueError, OSError) as exc:
        raise InputError("log", f"row {row}: {text[:40]!r} is no time.", "Give seconds since 1970.") from exc


def _level(text: str, row: int) -> float:
    try:
        level = float(text.replace(",", "."))
    except ValueError as exc:
        raise InputError("log", f"row {row}: {text[:40]!r} is no level.", "Give decibels as a number.") from exc
    if not _LOWEST_DB <= level <= _HIGHEST_DB:
        raise InputError("log", f"row {row}: {level:g} dB is no level.", "Give decibels, -200 to 200.")
    return level


def log_csv(log: SoundLog) -> bytes:
    """A log as a table, times in UTC and as the clock on the wall said."""
    out = io.StringIO()
    out.write("time,local time,level_db\n")
    for utc, local, level in zip(log.utc_s, log.local_s, log.level_db, strict=True):
        out.write(f"{_iso(utc)}Z,{_iso(local)},{level:.1f}\n")
    return out.getvalue().encode()


def _iso(seconds: float) -> str:
    return (datetime(1970, 1, 1) + timedelta(seconds=float(seconds))).isoformat(timespec="seconds")

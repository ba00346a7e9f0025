"""Hours of the week: chances of an undisturbed take from notes and logs, the best windows, as calendar and table."""

import csv
import io
from datetime import UTC, date, datetime, time, timedelta
from typing import Annotated, Final
from uuid import NAMESPACE_URL, uuid5

import numpy as np
from pydantic import ConfigDict, Field

from keenquiet.advice.clock import clock
from keenquiet.advice.hush import DAYS, attempts_words, chance_words, window_words
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import performance_dba
from keenquiet.core.judge.hours import (
    Chances,
    NotedNoise,
    Window,
    both,
    good_windows,
    least_bad,
    least_under_db,
    log_chances,
    noted_chances,
)
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.read.sound_log import RISE_DB, SoundLog
from keenquiet.core.room.calendar import Calendar
from keenquiet.core.waves.noise_at import THE_HOUSE, noise_at_microphone
from keenquiet.documents.convert import calendar_of
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import Answer, Num, Num2, Num2OrNone, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.predict import acoustics_of
from keenquiet.service.questions.base import ArrangementAsk, Filed, Question
from keenquiet.service.watching import log_of_room

_ANY_DB: Final = 30.0  # wanted where the brief wants nothing of Hush
_RRULE_DAYS: Final = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
_MOST_EVENTS: Final = 14


class HoursAsk(ArrangementAsk):
    """minutes : of the take; as the brief says when left out."""

    minutes: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None


class HourChance(Answer):
    """weekday : Monday 0. chance, low, high : null where nothing can be said. known : noted, log, or null."""

    weekday: int
    hour: int
    chance: NumOrNone
    low: NumOrNone
    high: NumOrNone
    attempts: NumOrNone
    under_db: Num2OrNone
    known: str | None
    nights: int
    allowed: bool


class WindowAnswer(Answer):
    """from, to : hours of the weekday."""

    model_config = ConfigDict(from_attributes=True, populate_by_name=True, serialize_by_alias=True)

    weekday: int
    from_h: Annotated[Num, Field(alias="from")]
    to_h: Annotated[Num, Field(alias="to")]
    chance: Num


class LogSaid(Answer):
    """What was found of a log: rows that came twice or out of order, gaps, nights, its quiet. [dB]"""

    seconds: Num
    nights: int
    gaps: int
    repeated: int
    unsorted: int
    quiet_db: Num2


class HoursAnswer(Answer):
    """Contract of `hours`. now : the chance at the arrangement's hour. flags : `too_little` where a log speaks of fewer
    than three nights, `noise_unknown`, `no_window`.
    """

    minutes: Num
    hours: list[HourChance]
    windows: list[WindowAnswer]
    least_bad: WindowAnswer | None = None
    quarters: list[list[NumOrNone]]
    now: NumOrNone
    words: str
    now_words: str
    log: LogSaid | None
    flags: list[str]


def hours(case: Case, asked: HoursAsk) -> HoursAnswer:
    """Chances of an undisturbed take by weekday and hour, from the notes of a document and the watches of the room."""
    log = None if case.data is None or case.room_id is None else log_of_room(case.data, case.room_id)
    return hours_by(case, asked, log)


def hours_by(case: Case, asked: HoursAsk, log: SoundLog | None, *, too_loud_db: float | None = None) -> HoursAnswer:
    """Contract of `hours`. log : all that was watched."""
    room, doc = case.room, case.doc
    length = room.brief.piece_min if asked.minutes is None else asked.minutes
    if not 0 < length <= 240:
        raise InputError("minutes", f"{length} min is no take.", "Give the length of the piece, up to four hours.")
    found = _chances(case, length, log, too_loud_db)
    allowed = calendar_of(room.brief.allowed)
    windows = good_windows(found, allowed, minutes=length) if found is not None else ()
    anytime = good_windows(found, Calendar(), minutes=length) if found is not None else ()
    weekday = doc.weekday if doc.weekday is not None else 0
    now = None
    if found is not None and doc.hour is not None:
        value = float(found.chance[weekday, min(int(doc.hour * 4), 95)])
        now = value if np.isfinite(value) else None
    calmest = None if found is None or windows else least_bad(found, allowed, minutes=length)
    flags = []
    if not room.noises and log is None:
        flags.append("noise_unknown")
    if log is not None and found is not None and not found.by_log.any():
        flags.append("too_little")
    if not windows:
        flags.append("no_window")
    hourly = None if found is None else found.hourly()
    return HoursAnswer(
        minutes=length,
        hours=[
            _hour(hourly, day, hour, allowed=allowed.runs_at(hour + 0.5, day)) for day in range(7) for hour in range(24)
        ],
        windows=list(windows),
        quarters=[[None if not np.isfinite(c) else round(float(c), 3) for c in row] for row in found.chance]
        if found is not None
        else [],
        now=now,
        least_bad=calmest,
        words=window_words(
            windows, anytime, least_bad=calmest, under_db=None if calmest is None else _under_then(calmest, found)
        )
        if found is not None
        else "Not known yet: note what makes noise here and when, or watch a night.",
        now_words=""
        if now is None
        else f"{chance_words(now)[:1].upper() + chance_words(now)[1:]}. {attempts_words(now)}".strip(),
        log=None if log is None else log_said(log),
        flags=flags,
    )


def _under_then(window: Window, found: Chances) -> float | None:
    part = found.under_db[window.weekday, int(window.from_h * 4) : int(window.to_h * 4)]
    heard = part[np.isfinite(part)]
    return float(heard.mean()) if len(heard) else None


def log_said(log: SoundLog) -> LogSaid:
    """What a log is."""
    return LogSaid(
        seconds=len(log.utc_s) * log.step_s,
        nights=log.nights,
        gaps=len(log.parts) - 1,
        repeated=log.repeated,
        unsorted=log.unsorted,
        quiet_db=log.quiet_db,
    )


def _chances(case: Case, minutes: float, log: SoundLog | None, too_loud_db: float | None) -> Chances | None:
    noted = _noted(case, minutes) if case.room.noises else None
    if log is None:
        return noted
    limit = too_loud_db
    if limit is None and noted is not None:
        limit = log.quiet_db + _allowed_rise_db(case.wanted, float(noted.under_db.max()))
    return both(noted, log_chances(log, minutes=minutes, too_loud_db=limit))


def _allowed_rise_db(wanted: Wanted, best_under_db: float) -> float:
    """How far over a log's quiet a noise may rise: what the quietest hour leaves more than is wanted, by the notes; at
    least what counts as an event.
    """
    return max(best_under_db - least_under_db(best_under_db, _wanted_db(wanted)), RISE_DB)


def _wanted_db(wanted: Wanted) -> float:
    low = wanted.hush_db.low
    return _ANY_DB if low is None else low


def _noted(case: Case, minutes: float) -> Chances:
    """From the notes: every noise at the microphone while it sounds, whatever the hour. What is switched off, or let in
    less by closed ways, counts as it is.
    """
    # any hour and any day: the calendar decides
    doc = case.doc.model_copy(update={"hour": None, "weekday": None})
    scenario, acoustics = acoustics_of(case.room, doc)
    noise = noise_at_microphone(scenario.described, scenario.arrangement, decay=acoustics.decay, hour=None)
    levels = {**noise.by_source_dba, **noise.passing_dba}
    return noted_chances(
        [NotedNoise(n.name, n.calendar, levels[n.name], n.cycle) for n in scenario.described.noises],
        performance_dba=performance_dba(scenario.arrangement),
        house_dba=noise.by_source_dba[THE_HOUSE],
        wanted_db=_wanted_db(case.wanted),
        minutes=minutes,
    )


def _hour(found: Chances | None, day: int, hour: int, *, allowed: bool) -> HourChance:
    def at(values: np.ndarray | None) -> float | None:
        if values is None or not np.isfinite(values[day, hour]):
            return None
        return float(values[day, hour])

    chance = at(None if found is None else found.chance)
    return HourChance(
        weekday=day,
        hour=hour,
        chance=chance,
        low=at(None if found is None else found.low),
        high=at(None if found is None else found.high),
        attempts=1 / chance if chance else None,
        under_db=at(None if found is None else found.under_db),
        known=None if found is None or chance is None else "log" if found.by_log[day, hour] else "noted",
        nights=0 if found is None else int(found.nights[day, hour]),
        allowed=allowed,
    )


def hours_csv(case: Case, asked: HoursAsk) -> bytes:
    """The week as a table, an hour a row."""
    return as_csv(hours(case, asked))


def hours_ics(case: Case, asked: HoursAsk) -> bytes:
    """The best windows as a calendar."""
    return as_ics(case.room, hours(case, asked), from_day=date.today())


def as_csv(answer: HoursAnswer) -> bytes:
    """The week as a table, an hour a row."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(
        ["weekday", "hour", "chance", "low", "high", "attempts", "steady noise under the performance [dB]", "known by",
         "nights", "playing allowed"]
    )  # fmt: skip
    for row in answer.hours:
        figures = (row.chance, row.low, row.high, row.attempts, row.under_db)
        writer.writerow(
            [DAYS[row.weekday], f"{row.hour:02d}:00", *("" if v is None else v for v in figures), row.known or "",
             row.nights, "yes" if row.allowed else "no"]
        )  # fmt: skip
    return out.getvalue().encode()


def as_ics(room: RoomDoc, answer: HoursAnswer, *, from_day: date) -> bytes:
    """The best windows as weekly events in local time (RFC 5545, floating), days that are alike as one event."""
    grouped: dict[tuple[float, float, float], list[int]] = {}
    # where no hour is quiet the least bad one is better to know than none
    for window in answer.windows or ([answer.least_bad] if answer.least_bad else []):
        grouped.setdefault((window.from_h, window.to_h, round(window.chance, 2)), []).append(window.weekday)
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Keen Quiet//Hours//EN", "CALSCALE:GREGORIAN"]
    stamp = datetime.combine(from_day, time(), UTC).strftime("%Y%m%dT%H%M%SZ")
    for (start, end, chance), days in list(grouped.items())[:_MOST_EVENTS]:
        days = sorted(days)
        first = from_day + timedelta(days=min((day - from_day.weekday()) % 7 for day in days))
        name = f"{room.name}-{start}-{end}-{days}"
        told = f"{clock(start)} to {clock(end)}, takes of {answer.minutes:g} min: {chance_words(chance)}."
        lines += [
            "BEGIN:VEVENT",
            f"UID:{uuid5(NAMESPACE_URL, name)}",
            f"DTSTAMP:{stamp}",
            f"DTSTART:{_local(first, start)}",
            f"DTEND:{_local(first, end)}",
            f"RRULE:FREQ=WEEKLY;BYDAY={','.join(_RRULE_DAYS[day] for day in days)}",
            f"SUMMARY:{_escaped(f'Quiet: {room.name}')}",
            f"DESCRIPTION:{_escaped(told)}",
            "END:VEVENT",
        ]
    lines.append("END:VCALENDAR")
    return "".join(f"{_folded(line)}\r\n" for line in lines).encode()


def _local(day: date, hour: float) -> str:
    return (datetime.combine(day, time()) + timedelta(hours=hour)).strftime("%Y%m%dT%H%M%S")


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace(";", "\\;").replace(",", "\\,").replace("\n", "\\n")


def _folded(line: str) -> str:
    """At most 75 octets a line, further ones after a space, no character cut in two."""
    parts: list[str] = []
    now = ""
    for character in line:
        if len((now + character).encode()) > (75 if not parts else 74):
            parts.append(now)
            now = ""
        now += character
    return "\r\n ".join([*parts, now])


HOURS = Question(
    "hours",
    HoursAsk,
    HoursAnswer,
    hours,
    work="quick",
    heard="always",
    files={"csv": Filed("text/csv", hours_csv), "ics": Filed("text/calendar", hours_ics)},
)

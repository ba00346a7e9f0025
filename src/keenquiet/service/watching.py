"""Watches: hours of listening, kept as levels by the second and as short sounds of what passed. Nothing else is kept.

A block may come twice, late, longer, or after a gap: each second is kept once, the first that came of it, and what was
not heard stays a gap. One device listens at a time.
"""

import io
import threading
from collections import OrderedDict
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any, BinaryIO, Final

import numpy as np
import soundfile
from sqlalchemy import func, select, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from keenquiet.core.errors import InputError
from keenquiet.core.read.sound_log import SoundLog
from keenquiet.core.read.watch import COLUMNS, LOWEST_DBFS, Ear, packed, second_levels_db, unpacked, worth_a_clip
from keenquiet.core.types import FloatArray
from keenquiet.documents.convert import read_room, scenario_of
from keenquiet.rig.night import night_levels
from keenquiet.service.answers.watches import BlockKept, ClipAnswer, Passed, PracticeBlock, WatchAnswer, WatchSummary
from keenquiet.service.data import Data, new_id, note_in_ledger, now, room_row
from keenquiet.service.sound_logs import log_csv, read_log
from keenquiet.store.errors import NotFound, TakenOver
from keenquiet.store.models import Watch, WatchClip, WatchPart

MOST_CLIP_BYTES: Final = 45_000_000  # of a watch: a night stays under 50 MB
_MOST_BLOCK_S: Final = 120
_MOST_LEVELS: Final = 3600
_RATES_HZ: Final = (8_000, 192_000)
_BEFORE_S: Final = 600  # whose median is the usual
_FROM_MS, _TO_MS = 946_684_800_000, 4_102_444_800_000  # 2000 to 2100
_MOST_OFFSET_MIN: Final = 14 * 60
_MOST_STEPS: Final = 720
_MOST_PASSED: Final = 400
_LONGEST_FILLED: Final = 20  # steps of a log that are kept as unknown
_MOST_STRETCHES: Final = 50_000

# the last seconds of each watch that is going on, so that a clip may begin in a block and end in the next
_ears: OrderedDict[str, Ear] = OrderedDict()
_ears_lock = threading.Lock()
_MOST_EARS: Final = 8


def begun(data: Data, room_id: str, *, way: str, device: str = "") -> WatchSummary:
    """A new watch of a room. device : the one that listens, by a name of its own; none: any may send."""
    with data.database.session() as session:
        room_row(session, room_id)
        watch = Watch(id=new_id(), room_id=room_id, way=way, unit="dBFS", started_at=now(), device=device)
        session.add(watch)
        note_in_ledger(session, room_id, "watch", "A watch began", {"watch_id": watch.id})
        session.flush()
        return _summary(session, watch)


def _of(session: Session, watch_id: str) -> Watch:
    watch = session.get(Watch, watch_id)
    if watch is None or watch.deleted_at is not None:
        raise NotFound("There is no such watch here.")
    return watch


def listed(data: Data, room_id: str) -> list[WatchSummary]:
    """Watches of a room, newest first."""
    with data.database.session() as session:
        room_row(session, room_id)
        rows = session.scalars(
            select(Watch).where(Watch.room_id == room_id, Watch.deleted_at.is_(None)).order_by(Watch.sequence.desc())
        ).all()
        return [_summary(session, row) for row in rows]


def _summary(session: Session, watch: Watch) -> WatchSummary:
    ends = session.execute(
        select(WatchPart.from_ms, WatchPart.count, WatchPart.offset_min)
        .where(WatchPart.watch_id == watch.id)
        .order_by(WatchPart.from_ms)
    ).all()
    clips = session.scalar(select(func.count()).select_from(WatchClip).where(WatchClip.watch_id == watch.id)) or 0
    gaps, nights, last = 0, set(), None
    for from_ms, count, offset in ends:
        gaps += last is not None and from_ms >= last + watch.step_ms
        last = max(last or 0, from_ms + count * watch.step_ms)
        nights.add((from_ms + offset * 60_000 - 43_200_000) // 86_400_000)
    return WatchSummary.out_of(
        watch,
        next_ms=last,
        seconds=sum(count for _, count, _ in ends) * watch.step_ms // 1000,
        gaps=gaps,
        nights=len(nights),
        clips=clips,
        megabytes=(watch.clip_bytes + COLUMNS * sum(count for _, count, _ in ends)) / 1e6,
    )


def add_sound(
    data: Data, watch_id: str, *, from_ms: int, offset_min: int, rate_hz: int, pcm: bytes, device: str = ""
) -> BlockKept:
    """Some seconds of sound, 16 bits, one channel, little-endian. Levels are kept, and a clip where something passes.

    Raises InputError for what cannot be, TakenOver when another device listens by now, StorageFull when the disk is.
    """
    _check_time(from_ms, offset_min)
    if not _RATES_HZ[0] <= rate_hz <= _RATES_HZ[1]:
        raise InputError("rate", f"{rate_hz} Hz is no rate for sound.", "Send 8 000 to 192 000 Hz.")
    if len(pcm) % 2 or not 2 * rate_hz <= len(pcm) <= 2 * rate_hz * _MOST_BLOCK_S:
        raise InputError("block", "is no block of one second to two minutes.", "Send ten seconds of 16-bit samples.")
    samples = np.frombuffer(pcm, dtype="<i2").astype(float) / 32768
    levels = second_levels_db(samples, rate_hz)
    if np.max(np.abs(samples)) == 0:
        levels = np.full_like(levels, np.nan)  # a muted microphone hears nothing, which is not quiet
    before = _before(data, watch_id, from_ms)
    new = _keep_levels(data, watch_id, from_ms, offset_min, levels, device)
    kept, flags = 0, list[str]()
    for part in new:  # sound that was heard before gives no second clip
        heard = samples[part.start * rate_hz : part.stop * rate_hz]
        some, full = _keep_clips(data, watch_id, from_ms + 1000 * part.start, rate_hz, heard, levels[part, 0], before)
        kept, flags = kept + some, flags + full
    return _block_kept(from_ms, levels, new, clips=kept, flags=list(dict.fromkeys(flags)))


def _block_kept(from_ms: int, levels: FloatArray, new: list[slice], *, clips: int, flags: list[str]) -> BlockKept:
    last = float(levels[-1, 0])
    return BlockKept(
        next_ms=from_ms + len(levels) * 1000,
        level_dba=last if np.isfinite(last) else None,
        seconds=sum(part.stop - part.start for part in new),
        clips=clips,
        flags=flags,
    )


def add_levels(
    data: Data, watch_id: str, *, from_ms: int, offset_min: int, rows: list[list[float]], device: str = ""
) -> BlockKept:
    """Levels that were made elsewhere, A-weighted and by octave, a row a second."""
    _check_time(from_ms, offset_min)
    if not 1 <= len(rows) <= _MOST_LEVELS or any(len(row) != COLUMNS for row in rows):
        raise InputError("rows", "are not one second to an hour of nine levels each.", "Send A and eight octaves.")
    levels = np.array(rows, dtype=float)
    new = _keep_levels(data, watch_id, from_ms, offset_min, levels, device)
    return _block_kept(from_ms, levels, new, clips=0, flags=[])


def _check_time(from_ms: int, offset_min: int) -> None:
    if not _FROM_MS <= from_ms < _TO_MS:
        raise InputError("from_ms", f"{from_ms} is no time of this century.", "Check the clock of this machine.")
    if abs(offset_min) > _MOST_OFFSET_MIN:
        raise InputError("offset_min", f"{offset_min} min is no zone.", "Send minutes ahead of UTC.")


def _keep_levels(
    data: Data, watch_id: str, from_ms: int, offset_min: int, levels: FloatArray, device: str
) -> list[slice]:
    """Keep those seconds of a block that were not heard yet; which they are, as slices of it."""
    with data.database.session() as session:
        # the write comes first: it holds off whoever would look at the same moment
        session.execute(update(Watch).where(Watch.id == watch_id).values(device=Watch.device))
        watch = _of(session, watch_id)
        is_over = watch.ended_at is not None and from_ms >= 1000 * watch.ended_at.timestamp()
        if is_over or watch.way == "import":
            raise InputError("watch", "has been stopped.", "Begin another one.")
        if device and watch.device and device != watch.device and from_ms >= watch.device_from_ms:
            raise TakenOver("Another device listens for this watch by now.")
        new = _unheard(session, watch, from_ms, len(levels))
        for part in new:
            session.add(
                WatchPart(
                    watch_id=watch_id,
                    from_ms=from_ms + watch.step_ms * part.start,
                    count=part.stop - part.start,
                    offset_min=offset_min,
                    levels=packed(levels[part]),
                )
            )
        return new


def _unheard(session: Session, watch: Watch, from_ms: int, count: int) -> list[slice]:
    """Which steps of a block none of a watch's parts covers by half or more."""
    step = watch.step_ms
    free = np.ones(count, dtype=bool)
    parts = session.execute(
        select(WatchPart.from_ms, WatchPart.count).where(
            WatchPart.watch_id == watch.id,
            WatchPart.from_ms < from_ms + step * count,
            WatchPart.from_ms + WatchPart.count * step > from_ms,
        )
    ).all()
    for start_ms, length in parts:
        first = round((start_ms - from_ms) / step)
        free[max(first, 0) : max(first + length, 0)] = False
    edges = np.flatnonzero(np.diff(np.concatenate([[0], free.astype(int), [0]])))
    return [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def taken_over(data: Data, watch_id: str, *, device: str, from_ms: int) -> WatchSummary:
    """Another device listens from a moment on; what the former one heard before it is still taken."""
    with data.database.session() as session:
        watch = _of(session, watch_id)
        if watch.ended_at is not None:
            raise InputError("watch", "has been stopped.", "Begin another one.")
        watch.device, watch.device_from_ms = device, from_ms
        session.flush()
        return _summary(session, watch)


def _before(data: Data, watch_id: str, from_ms: int) -> FloatArray:
    """A-weighted levels of the last minutes before a block, (n,)."""
    with data.database.session() as session:
        parts = session.scalars(
            select(WatchPart.levels)
            .where(
                WatchPart.watch_id == watch_id,
                WatchPart.from_ms < from_ms,
                WatchPart.from_ms >= from_ms - 1000 * _BEFORE_S,
            )
            .order_by(WatchPart.from_ms)
        ).all()
    return np.concatenate([unpacked(part)[:, 0] for part in parts]) if parts else np.zeros(0)


def _keep_clips(
    data: Data,
    watch_id: str,
    from_ms: int,
    rate_hz: int,
    samples: FloatArray,
    levels_dba: FloatArray,
    before: FloatArray,
) -> tuple[int, list[str]]:
    """Clips of what passes; they begin two seconds before it, and are cut once their five seconds are there."""
    with _ears_lock:
        ear = _ears.setdefault(watch_id, Ear())
        _ears.move_to_end(watch_id)
        while len(_ears) > _MOST_EARS:
            _ears.popitem(last=False)
        due = ear.heard(from_ms, rate_hz, samples, worth_a_clip(levels_dba, before))
    kept = 0
    for clip in due:
        buffer = io.BytesIO()
        soundfile.write(buffer, clip.samples, rate_hz, format="FLAC", subtype="PCM_16")
        content = buffer.getvalue()
        with data.database.session() as session:
            if _of(session, watch_id).clip_bytes + len(content) > MOST_CLIP_BYTES:
                return kept, ["clips_full"]
        digest = data.audio.keep(content, ".flac")
        with data.database.session() as session:
            watch = _of(session, watch_id)
            done: Any = session.execute(
                insert(WatchClip)
                .values(
                    watch_id=watch_id,
                    at_ms=clip.at_ms,
                    seconds=len(clip.samples) / rate_hz,
                    rise_db=clip.rise_db,
                    audio_sha256=digest,
                    audio_suffix=".flac",
                )
                .on_conflict_do_nothing()
            )
            if done.rowcount:
                watch.clip_bytes += len(content)
                kept += 1
    return kept, []


def stopped(data: Data, watch_id: str, *, why: str) -> WatchSummary:
    """A watch ended; what it heard stays."""
    with data.database.session() as session:
        watch = _of(session, watch_id)
        if watch.ended_at is None:
            watch.ended_at, watch.stopped_why = now(), why
            found = _summary(session, watch)
            note_in_ledger(
                session, watch.room_id, "watch", f"A watch ended after {found.seconds / 3600:.1f} h", {"why": why}
            )
        session.flush()
        return _summary(session, watch)


def set_counts(data: Data, watch_id: str, *, counts: bool) -> WatchSummary:
    """Whether a watch says something of the hours."""
    with data.database.session() as session:
        watch = _of(session, watch_id)
        watch.counts = counts
        session.flush()
        return _summary(session, watch)


def removed(data: Data, watch_id: str) -> None:
    """A watch put aside: it is shown and counted no more."""
    with data.database.session() as session:
        _of(session, watch_id).deleted_at = now()


def opened(data: Data, watch_id: str) -> WatchAnswer:
    """One watch with its curves and what passed."""
    with data.database.session() as session:
        watch = _of(session, watch_id)
        summary = _summary(session, watch)
        parts = _parts(session, watch_id)
        clips = [c.at_ms for c in session.scalars(select(WatchClip).where(WatchClip.watch_id == watch_id))]
    log = _log(parts, watch)
    if log is None:
        return WatchAnswer.out_of(
            summary,
            every_s=60,
            at_ms=[],
            offset_min=0,
            level_db=[],
            loudest_db=[],
            quiet_db=None,
            passed=[],
            words="Nothing heard yet.",
        )
    every = max(int(np.ceil((log.utc_s[-1] - log.utc_s[0] + 1) / _MOST_STEPS / 10)) * 10, 10)
    start = np.floor(log.utc_s[0] / every) * every
    slot = ((log.utc_s - start) // every).astype(int)
    count = int(slot[-1]) + 1
    mean, top = np.full(count, np.nan), np.full(count, np.nan)
    power = np.bincount(slot, 10 ** (log.level_db / 10), count)
    heard = np.bincount(slot, minlength=count)
    mean[heard > 0] = 10 * np.log10(power[heard > 0] / heard[heard > 0])
    np.fmax.at(top, slot, log.level_db)
    passing = sorted(sorted(log.passing(), key=lambda p: -p.rise_db)[:_MOST_PASSED], key=lambda p: p.at_s)
    return WatchAnswer.out_of(
        summary,
        every_s=every,
        at_ms=[round(1000 * (start + every * i)) for i in range(count)],
        offset_min=round(float(log.offset_s[-1]) / 60),
        level_db=mean,
        loudest_db=top,
        quiet_db=log.quiet_db,
        passed=[
            Passed.out_of(
                p,
                at_ms=round(1000 * p.at_s),
                clip_ms=next(
                    (c for c in clips if c - 1000 <= 1000 * (p.at_s + p.seconds) and c + 5000 >= 1000 * p.at_s), None
                ),
            )
            for p in passing
        ],
        words=_words(summary, log),
    )


def _words(summary: WatchSummary, log: SoundLog) -> str:
    hours, minutes = divmod(summary.seconds // 60, 60)
    spent = f"{hours} h {minutes:02d} min" if hours else f"{minutes} min"
    passed = len(log.passing())
    gaps = f", {summary.gaps} gap{'s' if summary.gaps != 1 else ''} in it" if summary.gaps else ""
    return f"{spent} heard{gaps}; {passed} time{'s' if passed != 1 else ''} something stood out of the quiet."


def _parts(session: Session, watch_id: str) -> list[tuple[int, int, bytes]]:
    rows = session.execute(
        select(WatchPart.from_ms, WatchPart.offset_min, WatchPart.levels)
        .where(WatchPart.watch_id == watch_id)
        .order_by(WatchPart.from_ms)
    ).all()
    return [(row[0], row[1], row[2]) for row in rows]


def _lowest_db(watch: Watch) -> float:
    """The lowest level that is kept: of sound pressure none is below 0."""
    return LOWEST_DBFS if watch.unit == "dBFS" else -0.5


def _log(parts: list[tuple[int, int, bytes]], watch: Watch) -> SoundLog | None:
    """All parts as one log; seconds without a level are gaps."""
    step_s = watch.step_ms / 1000
    times, offsets, levels = [], [], []
    for from_ms, offset_min, content in parts:
        found = unpacked(content, _lowest_db(watch))[:, 0]
        times.append(from_ms / 1000 + step_s * np.arange(len(found)))
        offsets.append(np.full(len(found), 60.0 * offset_min))
        levels.append(found)
    if sum(int(np.count_nonzero(np.isfinite(part))) for part in levels) < 2:
        return None
    return SoundLog.of(np.concatenate(times), np.concatenate(levels), offset_s=np.concatenate(offsets))


def log_of_room(data: Data, room_id: str) -> SoundLog | None:
    """All that was watched in a room, each watch against its own quiet: gains and microphones differ. [dB over it]

    Simulated nights count only while there is no real one.
    """
    with data.database.session() as session:
        watches = session.scalars(
            select(Watch).where(Watch.room_id == room_id, Watch.deleted_at.is_(None), Watch.counts.is_(True))
        ).all()
        real = [watch for watch in watches if watch.way != "rig"]
        logs = [_log(_parts(session, watch.id), watch) for watch in real or watches]
    heard = [log for log in logs if log is not None]
    if not heard:
        return None
    return SoundLog.of(
        np.concatenate([log.utc_s for log in heard]),
        np.concatenate([log.level_db - log.quiet_db for log in heard]),
        offset_s=np.concatenate([log.offset_s for log in heard]),
    )


def watch_csv(data: Data, watch_id: str) -> bytes:
    """A watch as a table of seconds."""
    with data.database.session() as session:
        watch = _of(session, watch_id)
        log = _log(_parts(session, watch_id), watch)
    if log is None:
        raise InputError("watch", "has heard nothing yet.", "Let it run for a minute.")
    return log_csv(log)


def clip_of(data: Data, watch_id: str, at_ms: int) -> Any:
    """Path of a clip's sound. Raises NotFound."""
    with data.database.session() as session:
        _of(session, watch_id)
        clip = session.scalar(select(WatchClip).where(WatchClip.watch_id == watch_id, WatchClip.at_ms == at_ms))
        if clip is None:
            raise NotFound("There is no such clip.")
        return data.audio.path(clip.audio_sha256, clip.audio_suffix)


def clips(data: Data, watch_id: str) -> list[ClipAnswer]:
    """Clips of a watch in order of time."""
    with data.database.session() as session:
        _of(session, watch_id)
        rows = session.scalars(select(WatchClip).where(WatchClip.watch_id == watch_id).order_by(WatchClip.at_ms)).all()
        return [ClipAnswer.out_of(row) for row in rows]


def imported(data: Data, room_id: str, content: BinaryIO, *, name: str, unit: str, offset_min: int) -> WatchSummary:
    """A log from elsewhere as a watch. Raises InputError with the row at fault, and when nobody says the unit."""
    if unit not in ("dBA", "dB", "dBFS"):
        raise InputError("unit", f"{unit!r} is not said.", "Say dBA, dB or dBFS: a number alone means nothing.")
    log = read_log(content, offset_min=offset_min)
    step_ms = max(round(1000 * log.step_s), 1)
    with data.database.session() as session:
        room_row(session, room_id)
        watch = Watch(
            id=new_id(),
            room_id=room_id,
            way="import",
            name=name[:200],
            unit=unit,
            step_ms=step_ms,
            started_at=_time(log.utc_s[0]),
            ended_at=_time(log.utc_s[-1]),
            stopped_why="asked",
        )
        session.add(watch)
        session.flush()
        rows = (
            {
                "watch_id": watch.id,
                "from_ms": from_ms,
                "count": len(levels),
                "offset_min": round(offset_s / 60),
                "levels": packed(levels, _lowest_db(watch)),
            }
            for from_ms, offset_s, levels in _in_steps(log, step_ms)
        )
        session.execute(insert(WatchPart), list(rows))
        note_in_ledger(session, room_id, "watch", f"A log came in: {name}"[:300], {"watch_id": watch.id})
        session.flush()
        return _summary(session, watch)


def _in_steps(log: SoundLog, step_ms: int) -> Iterator[tuple[int, float, FloatArray]]:
    """A log's levels put where they belong in even steps: when each stretch begins [ms], the offset of its clock [s],
    (n, 9) levels. Short gaps stay unknown steps, long ones begin another stretch. Raises InputError for a log in
    tatters.
    """
    step = np.round((log.utc_s - log.utc_s[0]) * 1000 / step_ms).astype(np.int64)
    apart = np.diff(step)
    breaks = np.flatnonzero((apart > _LONGEST_FILLED) | ((np.diff(log.offset_s) != 0) & (apart > 0))) + 1
    if len(breaks) >= _MOST_STRETCHES:
        raise InputError("log", f"falls into {len(breaks) + 1} stretches.", "Bring one of even steps.")
    for first, last in pairwise([0, *breaks.tolist(), len(step)]):
        rows = np.full((int(step[last - 1] - step[first]) + 1, COLUMNS), np.nan)
        np.fmax.at(rows[:, 0], step[first:last] - step[first], log.level_db[first:last])
        yield round(1000 * float(log.utc_s[0])) + int(step[first]) * step_ms, float(log.offset_s[first]), rows


def _time(utc_s: float) -> datetime:
    return datetime(1970, 1, 1, tzinfo=UTC) + timedelta(seconds=float(utc_s))


def practice(
    data: Data, room_id: str, *, from_ms: int, offset_min: int, seconds: int, arrangement_id: str | None = None
) -> PracticeBlock:
    """Seconds of a night that the practice rig makes of what is noted."""
    _check_time(from_ms, offset_min)
    if not 1 <= seconds <= _MOST_LEVELS:
        raise InputError("seconds", f"{seconds} s is no block.", "Ask for up to an hour.")
    with data.database.session() as session:
        document = read_room(room_row(session, room_id).document)
    scenario = scenario_of(document, document.arrangement_doc(arrangement_id))
    levels = night_levels(scenario, from_s=from_ms / 1000, offset_s=60.0 * offset_min, seconds=seconds)
    return PracticeBlock(from_ms=from_ms, rows=np.round(levels, 1).tolist())

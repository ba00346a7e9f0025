"""Readings kept: imported, recorded or from the rig; each with its sound and the scene that it was taken in."""

import os
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from keenquiet.advice.reasons import words
from keenquiet.core.errors import InputError
from keenquiet.core.read.curve import read_curve
from keenquiet.core.read.quality import Reason, Verdict
from keenquiet.core.read.sweep import SweepSpec, exponential_sweep
from keenquiet.core.read.sweep_marks import with_marks
from keenquiet.documents.convert import read_arrangement, read_room
from keenquiet.documents.scene import scene_of
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.rig.spoils import SPOILS
from keenquiet.rig.voice import RATE_HZ
from keenquiet.service import calibrations
from keenquiet.service.answers.marks import Empty, FigureAnswer
from keenquiet.service.answers.numbers import plain
from keenquiet.service.answers.readings import (
    CurveKept,
    CurveResult,
    ReadingAnswer,
    ReadingBrief,
    ReadingHeadline,
    ReadingSettings,
    ReadingSummary,
    Result,
    verdict_answer,
)
from keenquiet.service.briefs import BRIEF_VERSION, DAMAGED, MOST_LISTED, brief_of, reading_rows, result_of
from keenquiet.service.data import Data, Json, new_id, note_in_ledger, now, room_row
from keenquiet.service.kinds import KINDS, kind_named
from keenquiet.service.kinds.base import ReadOptions, Settled
from keenquiet.service.reading import analyse, calibration_of_rig, rig_recording, rig_take
from keenquiet.service.standing import Placed, Standing, figure_of, since_words
from keenquiet.store.apart import TEMPORARY, decode_apart, unpacked_apart
from keenquiet.store.audio import digest_of
from keenquiet.store.audiofile import Audio, wav_bytes
from keenquiet.store.errors import NotFound, UsedBefore
from keenquiet.store.models import Reading

WAYS: Final = ("import", "browser")
_GAINS_DB: Final = (-30.0, 40.0)


def room_of_row(data: Data, room_id: str) -> tuple[RoomDoc, int]:
    """A room's document and the revision that it stands at."""
    with data.database.session() as session:
        row = room_row(session, room_id)
        return read_room(row.document), row.revision


def settings_of(chain: Json) -> ReadingSettings:
    """A reading's settings, checked. Raises InputError naming what is wrong."""
    try:
        return ReadingSettings.model_validate(chain)
    except ValidationError as exc:
        first = exc.errors()[0]
        field = ".".join(["settings", *(str(part) for part in first["loc"])])
        raise InputError(field, f"{first['msg']}.", "Leave it out, or give it as docs/formats.md says.") from exc


def take_in(
    data: Data,
    room_id: str,
    *,
    kind: str,
    way: str,
    file_name: str,
    content: bytes | Path,
    arrangement_id: str | None,
    settings: Json,
    sent_as: str | None = None,
    silenced: Sequence[str] = (),
    counts: bool = True,
) -> ReadingAnswer:
    """Keep an imported or recorded reading. Raises InputError when the file cannot be decoded at all.

    sent_as : the sender's own name for it; what is sent again under the same name is answered, not filed again.
    silenced : noises that were off besides those that the arrangement has off. counts : False for what was made
    elsewhere: it is judged, and settles no mark.
    """
    sent = None if sent_as is None else Sent(sent_as, digest_of(content))
    if sent is not None and (there := _sent_before(data, room_id, sent)) is not None:
        return there
    known = kind_named(kind)
    if way not in WAYS:
        raise InputError("way", f"{way!r} is not a way in.", "Use import or browser.")
    chain = settings_of(settings)
    if known.read is None:
        return _curve_kept(data, room_id, file_name, content, arrangement_id, chain, sent)
    if known.form == "tone":
        chain = chain.model_copy(update=calibrations.for_chain(data, plain(chain)))
    with tempfile.TemporaryDirectory(prefix=f"{TEMPORARY}{os.getpid()}-") as folder:
        content = unpacked_apart(content, file_name, Path(folder))
        audio = decode_apart(content, file_name, most_seconds=known.most_seconds, in_parts=known.in_parts)
        return _kept(data, room_id, kind, way, file_name, content, audio, arrangement_id, chain, sent, silenced, counts)


@dataclass(frozen=True)
class Sent:
    """How a recording came: under which name of the sender's, and the SHA-256 of what was sent."""

    as_: str
    sha256: str


def _sent_before(data: Data, room_id: str, sent: Sent) -> ReadingAnswer | None:
    """What was filed when the same came before. Raises UsedBefore when something else did under this name."""
    with data.database.session() as session:
        row = session.scalar(select(Reading).where(Reading.sent_as == sent.as_))
    if row is None:
        return None
    if row.room_id != room_id or row.sent_sha256 not in (None, sent.sha256):
        raise UsedBefore("Another recording was sent under this name before.")
    return full(row)


def from_rig(
    data: Data,
    room_id: str,
    *,
    kind: str,
    arrangement_id: str | None,
    gain_db: float,
    seed: int | None = None,
    faults: tuple[str, ...] = (),
    silenced: Sequence[str] = (),
    seconds: float | None = None,
) -> ReadingAnswer:
    """Let the practice rig take a reading of the room as arranged; its seed differs each time unless given.

    silenced : noises that are off besides. seconds : of a silence, None the usual.
    """
    room, _ = room_of_row(data, room_id)
    arrangement = with_silenced(room.arrangement_doc(arrangement_id), silenced)
    if not _GAINS_DB[0] <= gain_db <= _GAINS_DB[1]:
        raise InputError(
            "gain_db", f"{gain_db:g} dB lies outside -30 to 40 dB.", "Set the gain within the rig's range."
        )
    chosen = seed if seed is not None else int.from_bytes(bytes.fromhex(new_id().replace("-", "")[:6]), "big")
    sung = [fault for fault in faults if fault in SPOILS]
    if sung and kind_named(kind).form == "take":
        samples, rate = rig_take(room, arrangement, seed=chosen, gain_db=gain_db, fault=sung[0]).samples, float(RATE_HZ)
    else:
        recording = rig_recording(room, arrangement, kind, seed=chosen, gain_db=gain_db, faults=faults, seconds=seconds)
        samples, rate = recording.samples, float(recording.sample_rate_hz)
    content = wav_bytes(samples, rate)
    audio = Audio(np.atleast_2d(samples), rate, 24, ".wav")
    settings = ReadingSettings(
        gain_db=gain_db,
        device="practice rig",
        seed=chosen,
        calibration_db=calibration_of_rig(gain_db),
        faults=list(faults) or None,
    )
    name = f"rig-{kind}.wav"
    # a fault made on purpose shows what it does, and settles nothing
    return _kept(
        data, room_id, kind, "rig", name, content, audio, arrangement_id, settings, silenced=silenced, counts=not sung
    )


def with_silenced(arrangement: ArrangementDoc, silenced: Sequence[str]) -> ArrangementDoc:
    """An arrangement in which these are off, too."""
    return arrangement.model_copy(update={"silenced": list(dict.fromkeys([*arrangement.silenced, *silenced]))})


def _kept(
    data: Data,
    room_id: str,
    kind: str,
    way: str,
    file_name: str,
    content: bytes | Path,
    audio: Audio,
    arrangement_id: str | None,
    settings: ReadingSettings,
    sent: Sent | None = None,
    silenced: Sequence[str] = (),
    counts: bool = True,
) -> ReadingAnswer:
    room, revision = room_of_row(data, room_id)
    arrangement = with_silenced(room.arrangement_doc(arrangement_id), silenced)
    heard = analyse(audio, kind, curves=True, options=ReadOptions(calibration_db=settings.calibration_db))
    return filed(
        data,
        room_id,
        kind=kind,
        way=way,
        file_name=file_name,
        content=content,
        audio=audio,
        room=room,
        revision=revision,
        arrangement=arrangement,
        settings=settings,
        result=heard.beside(room, arrangement),
        settled=heard.settled(room, arrangement),
        sent=sent,
        counts=counts,
    )


def _curve_kept(
    data: Data,
    room_id: str,
    file_name: str,
    content: bytes | Path,
    arrangement_id: str | None,
    settings: ReadingSettings,
    sent: Sent | None,
) -> ReadingAnswer:
    room, revision = room_of_row(data, room_id)
    try:
        text = content if isinstance(content, bytes) else content.read_bytes()
        f_hz, level_db = read_curve(text.decode("utf-8-sig"))
    except UnicodeDecodeError as exc:
        raise InputError(
            "file", f"{file_name} is no text.", "Give frequency in Hz and level in dB, one pair a line."
        ) from exc
    curve = CurveKept(f_hz=f_hz, level_db=level_db)
    return filed(
        data,
        room_id,
        kind="curve",
        way="import",
        file_name=file_name,
        content=content,
        audio=None,
        room=room,
        revision=revision,
        arrangement=room.arrangement_doc(arrangement_id),
        settings=settings,
        result=CurveResult(verdict=verdict_answer(Verdict(True)), curve=curve),
        settled=Settled(),
        sent=sent,
    )


def filed(
    data: Data,
    room_id: str,
    *,
    kind: str,
    way: str,
    file_name: str,
    content: bytes | Path,
    audio: Audio | None,
    room: RoomDoc,
    revision: int,
    arrangement: ArrangementDoc,
    settings: ReadingSettings,
    result: Result,
    settled: Settled,
    simulated: bool | None = None,
    scene: Json | None = None,
    sent: Sent | None = None,
    counts: bool = True,
) -> ReadingAnswer:
    """Put a reading and its sound where they stay, with its line in the ledger; whole or not at all.

    audio : None for what is no sound. simulated : None when the way says it. scene : None for the room as it stands.
    """
    suffix = ".csv" if audio is None else audio.suffix
    digest = data.audio.keep(content, suffix)
    row = Reading(
        id=new_id(),
        room_id=room_id,
        kind=kind,
        way=way,
        simulated=way == "rig" if simulated is None else simulated,
        taken_at=now(),
        arrangement=arrangement.model_dump(mode="json", exclude_none=True),
        audio_sha256=digest,
        audio_suffix=suffix,
        file_name=file_name[:200],
        sample_rate_hz=0.0 if audio is None else audio.sample_rate_hz,
        seconds=0.0 if audio is None else audio.whole_s or audio.seconds,
        settings=plain(settings),
        result=plain(result),
        brief=brief_of(kind, result),
        brief_version=BRIEF_VERSION,
        measured={mark: plain(figure) for mark, figure in settled.measured.items()},
        predicted={mark: plain(figure) for mark, figure in settled.predicted.items()},
        empty=[plain(empty) for empty in settled.empty],
        note="",
        tags=[],
        counts=counts,
        room_revision=revision,
        scene=scene or scene_of(room, arrangement).model_dump(mode="json", exclude_none=True),
        sent_as=None if sent is None else sent.as_,
        sent_sha256=None if sent is None else sent.sha256,
    )
    try:
        return _file(data, room_id, row, result.verdict.word)
    except IntegrityError:
        # the same reading came twice at once: the other one was faster
        there = None if sent is None else _sent_before(data, room_id, sent)
        if there is None:
            raise
        return there


def _file(data: Data, room_id: str, row: Reading, word: str) -> ReadingAnswer:
    with data.database.session() as session:
        room_row(session, room_id)
        session.add(row)
        session.flush()
        title = f"{kind_named(row.kind).words.name}{' (simulated)' if row.simulated else ''}: {word}"
        note_in_ledger(
            session,
            room_id,
            "reading",
            title,
            {"measured": row.measured, "predicted": row.predicted},
            reading_id=row.id,
        )
        return full(row)  # what cannot be told is not filed


def summary_or_damage(row: Reading, standing: Standing | None = None) -> ReadingSummary:
    """A reading in brief; one that cannot be read any more breaks no list: it says so, and can be binned."""
    try:
        return summary(row, standing)
    except DAMAGED:
        damaged = Verdict(False, (Reason("damaged_row"),))
        return ReadingSummary(
            id=row.id,
            kind=row.kind if row.kind in KINDS else "curve",
            form="broken",
            way="rig" if row.way == "rig" else "import",
            simulated=bool(row.simulated),
            taken_at=row.taken_at.isoformat(),
            file_name=str(row.file_name),
            sample_rate_hz=0.0,
            seconds=0.0,
            note=str(row.note),
            tags=[],
            counts=False,
            verdict=verdict_answer(damaged),
            measured={},
            predicted={},
            empty=[],
            settings=ReadingSettings(),
            headline=ReadingHeadline(said="cannot be shown"),
            mic_at=(0.0, 0.0, 0.0),
            room_revision=row.room_revision,
            sequence=row.sequence,
        )


def summary(row: Reading, standing: Standing | None = None) -> ReadingSummary:
    """A reading without its figures; with what changed in the room since, where that is asked for."""
    kind = kind_named(row.kind)
    brief = ReadingBrief.model_validate(row.brief)
    changed = None if standing is None else standing.differing(Placed.of(row.arrangement, row.scene))
    return ReadingSummary.model_validate(
        {
            "id": row.id,
            "kind": row.kind,
            "form": kind.form,
            "way": row.way,
            "simulated": row.simulated,
            "taken_at": row.taken_at.isoformat(),
            "file_name": row.file_name,
            "sample_rate_hz": row.sample_rate_hz,
            "seconds": row.seconds,
            "note": row.note,
            "tags": row.tags,
            "counts": row.counts,
            "verdict": brief.verdict,
            "measured": {mark: figure_of(figure) for mark, figure in row.measured.items()},
            "predicted": {mark: FigureAnswer.model_validate(figure) for mark, figure in row.predicted.items()},
            "empty": [Empty.model_validate(empty) for empty in row.empty or []],
            "settings": ReadingSettings.model_validate(row.settings),
            "headline": _headline(row, brief),
            "mic_at": row.arrangement["microphone"]["at"],
            "room_revision": row.room_revision,
            "sequence": row.sequence,
            "current": None if changed is None else not changed,
            "since": None if changed is None else since_words(changed),
        }
    )


def _headline(row: Reading, brief: ReadingBrief) -> ReadingHeadline:
    """Its figures in brief; direct over room as the marks have it, led over to who performs."""
    bounce = row.measured.get("bounce")
    update = {} if bounce is None else {"direct_over_room_db": figure_of(bounce).value}
    return brief.headline.model_copy(update=update)


def full(row: Reading, standing: Standing | None = None) -> ReadingAnswer:
    """A reading with everything that the plots show."""
    brief = summary(row, standing)
    return ReadingAnswer.model_validate(
        {
            **{name: getattr(brief, name) for name in ReadingSummary.model_fields},
            "result": result_of(row),
            "arrangement": read_arrangement(row.arrangement),
        }
    )


def standing_in(data: Data, room_id: str) -> Standing:
    """Readings of a room held against it as it stands."""
    room, _ = room_of_row(data, room_id)
    return Standing.of(data, room_id, room, room.arrangement_doc(None))


def listed(
    data: Data, room_id: str, *, binned: bool = False, before: int | None = None, most: int = MOST_LISTED
) -> list[ReadingSummary]:
    """Readings of a room, or those in its bin, newest first. before : those of a lower sequence; most : of them."""
    standing = None if binned else standing_in(data, room_id)
    rows = reading_rows(data, room_id, binned=binned, before=before, most=most)
    return [summary_or_damage(row, standing) for row in rows]


def opened(data: Data, reading_id: str) -> ReadingAnswer:
    """One reading with its figures. Raises NotFound."""
    row = row_of(data, reading_id)
    try:
        return full(row)
    except DAMAGED as exc:
        raise InputError("reading", *words("damaged_row")) from exc


def row_of(data: Data, reading_id: str) -> Reading:
    """A reading's row. Raises NotFound."""
    with data.database.session() as session:
        return _there(session.get(Reading, reading_id))


def audio_of(data: Data, reading_id: str) -> Path:
    """Where the sound kept with a reading lies. Raises NotFound."""
    row = row_of(data, reading_id)
    return data.audio.path(row.audio_sha256, row.audio_suffix)


def described(
    data: Data, reading_id: str, *, note: str | None, tags: list[str] | None, counts: bool | None
) -> ReadingSummary:
    """Change what is said of a reading: its note, its tags, whether it counts for marks and fit."""
    with data.database.session() as session:
        row = _there(session.get(Reading, reading_id))
        if note is not None:
            row.note = note
        if tags is not None:
            row.tags = list(dict.fromkeys(tag.strip()[:40] for tag in tags if tag.strip()))[:12]
        if counts is not None and counts != row.counts:
            row.counts = counts
            words = "counts again" if counts else "set aside: it settles no mark"
            title = f"{kind_named(row.kind).words.name} {words}"
            note_in_ledger(session, row.room_id, "reading", title, {}, reading_id=row.id)
        return summary(row)


def set_binned(data: Data, reading_id: str, *, binned: bool) -> ReadingSummary:
    """Put a reading into the bin, or take it out again."""
    with data.database.session() as session:
        row = _there(session.get(Reading, reading_id))
        row.deleted_at = now() if binned else None
        words = "put into the bin" if binned else "taken out of the bin"
        name = kind_named(row.kind).words.name if row.kind in KINDS else "A reading"
        title = f"{name} {words}"
        note_in_ledger(session, row.room_id, "bin", title, {}, reading_id=row.id)
        return summary_or_damage(row)


def _there(row: Reading | None) -> Reading:
    if row is None:
        raise NotFound("There is no such reading here.")
    return row


def sweep_wav(sample_rate_hz: int = 48_000, *, spec: SweepSpec | None = None) -> bytes:
    """The sweep file to play: the sweep at -12 dBFS, a chirp a second before it and another two seconds after it."""
    if sample_rate_hz not in (44_100, 48_000, 88_200, 96_000):
        raise InputError("rate", f"{sample_rate_hz} Hz is not offered.", "Use 44100, 48000, 88200 or 96000.")
    sweep = exponential_sweep(spec or SweepSpec(), sample_rate_hz)
    return wav_bytes(0.25 * with_marks(sweep, sample_rate_hz), sample_rate_hz)

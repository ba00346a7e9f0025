"""Takes beyond a reading: against one's own line, line by line, what leaks, its wave, its labels and its name."""

import csv
import io
import re
from math import gcd
from pathlib import Path
from typing import Final

import numpy as np
import scipy

from keenquiet.advice.findings import FINDING_NAMES, moved_words
from keenquiet.advice.reasons import error_words
from keenquiet.advice.takes import heard_late_words, threshold_words
from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.take.against import Against, against, against_findings
from keenquiet.core.take.bleed import bleed_findings, bleed_of
from keenquiet.core.take.finding import Finding
from keenquiet.core.take.latency import comb_db, latency_of, notches_of
from keenquiet.core.take.levels import TakeLevels, take_levels
from keenquiet.core.take.lines import Join, Lines, Pair, lines_of
from keenquiet.core.take.phrases import Span
from keenquiet.core.take.threshold import SCALES, staircase
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.comb import ripple_db
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.plain import one_line
from keenquiet.service.answers.readings import TakeResult, finding_answer
from keenquiet.service.answers.takes import (
    AgainstAnswer,
    BleedAnswer,
    JoinAnswer,
    LatencyAnswer,
    LineAnswer,
    LineFault,
    LinesAnswer,
    StaircaseAnswer,
    WaveAnswer,
)
from keenquiet.service.answers.tools import ThirdDifference
from keenquiet.service.briefs import reading_rows, result_of
from keenquiet.service.data import Data
from keenquiet.service.kinds import kind_named
from keenquiet.service.reading_set import loudest_channel, sound_of, sound_path
from keenquiet.service.readings import row_of
from keenquiet.store.apart import decode_apart, envelope_apart
from keenquiet.store.audiofile import Audio, Envelope
from keenquiet.store.models import Reading

_MOST_POINTS: Final = 4000
_NOTHING_DB: Final = -200.0
_TELLING_DB: Final = 3.0  # of direct over room, from which it is no figure any more
_SAME_LINE_DB: Final = 1.5
LABEL_FORMS: Final = ("csv", "txt")


def take_row(data: Data, reading_id: str) -> Reading:
    """A reading that is a take. Raises InputError for another."""
    row = row_of(data, reading_id)
    if kind_named(row.kind).form != "take":
        raise InputError("reading", "is no take or spoken line.", "Choose one that was sung, played or spoken.")
    return row


def against_line(data: Data, reading_id: str, line_id: str | None = None) -> AgainstAnswer | None:
    """A take against the performer's own line: a reading named, else the first one tagged `line`, else the first take
    of this performer by this chain. None where there is no other.
    """
    row = take_row(data, reading_id)
    line = take_row(data, line_id) if line_id is not None else _line_of(data, row)
    if line is None or line.id == row.id:
        return None
    arrangement = read_arrangement(line.arrangement)
    away = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
    found: AgainstAnswer = data.worked.find(
        ("against", row.audio_sha256, line.audio_sha256, away),
        lambda: against_answer(sound_of(data, row), sound_of(data, line), from_m=away),
    )
    scenes = [(one.scene or {}).get("air", {}).get("temperature_c") for one in (row, line)]
    return found.model_copy(update={"line_id": line.id, "temperature_c": scenes})


def _line_of(data: Data, row: Reading) -> Reading | None:
    rows = [
        other
        for other in reversed(reading_rows(data, row.room_id))
        if kind_named(other.kind).form == "take"
        and other.simulated == row.simulated
        and other.sequence <= row.sequence
        and other.arrangement.get("performer", {}).get("source") == row.arrangement.get("performer", {}).get("source")
        and other.settings.get("device") == row.settings.get("device")
        and (other.counts or "line" in other.tags)
    ]
    tagged = [other for other in rows if "line" in other.tags]
    return next(iter(tagged or rows), None)


def against_answer(take: Audio, line: Audio, *, from_m: float | None) -> AgainstAnswer:
    """Contract of `analyse take --line`. from_m : from mouth to microphone when the line was recorded."""
    levels, samples = _read(take)
    line_levels, line_samples = _read(line, rate_hz=take.sample_rate_hz)
    found = against(levels, line_levels, samples=samples, line_samples=line_samples, sample_rate_hz=take.sample_rate_hz)
    findings = against_findings(found, take.whole_s or take.seconds)
    moved = moved_words(found.level_db, from_m)
    return AgainstAnswer.out_of(
        found,
        line_id=None,
        direct_over_room_db=found.direct_over_room_db if found.room_unsure_db <= _TELLING_DB else None,
        thirds=[
            ThirdDifference(centre_hz=float(f), difference_db=round(float(d), 2))
            for f, d in zip(found.centres_hz, found.thirds_db, strict=True)
        ],
        findings=[finding_answer(f, distance=moved) for f in findings],
        text=_against_words(found, findings),
    )


def _against_words(found: Against, findings: list[Finding]) -> str:
    if found.other:
        return "Another voice, or another line: nothing is concluded from it."
    if not findings and found.spread_db > _SAME_LINE_DB:
        return (
            f"Level {found.level_db:+.1f} dB. Not the same line, or sung otherwise (third octaves scatter by "
            f"{found.spread_db:.0f} dB): sing your line again to hear of bass and treble."
        )
    if not findings:
        return f"As your line was: level {found.level_db:+.1f} dB, nothing else worth a word."
    return "; ".join(FINDING_NAMES[f.kind] for f in findings) + "."


def _read(audio: Audio, *, rate_hz: float | None = None) -> tuple[TakeLevels, FloatArray]:
    """Levels and the loudest channel of a take, brought to another sample rate when asked. Raises InputError."""
    rate = audio.sample_rate_hz if rate_hz is None else rate_hz
    samples = _at_rate(audio, rate)
    try:
        return take_levels(samples, rate, bits=audio.bits), samples
    except MeasurementError as exc:
        raise InputError("file", *error_words(exc)) from exc


def levels_of(audio: Audio) -> TakeLevels:
    """Levels of a take, at its own rate. Raises InputError."""
    return _read(audio)[0]


def _at_rate(audio: Audio, rate_hz: float) -> FloatArray:
    """The loudest channel at a sample rate, (n,)."""
    samples: FloatArray = np.asarray(loudest_channel(audio), dtype=float)
    if rate_hz == audio.sample_rate_hz:
        return samples
    common = gcd(round(rate_hz), round(audio.sample_rate_hz))
    at_rate: FloatArray = scipy.signal.resample_poly(
        samples, round(rate_hz) // common, round(audio.sample_rate_hz) // common
    )
    return at_rate


def bleed_in(data: Data, reading_id: str, content: bytes | Path, name: str) -> BleedAnswer:
    """How loud a backing track is in a take."""
    return bleed_answer(sound_of(data, take_row(data, reading_id)), decode_apart(content, name))


def bleed_answer(take: Audio, backing: Audio) -> BleedAnswer:
    """Contract of `analyse take --backing`."""
    levels, samples = _read(take)
    known = _at_rate(backing, take.sample_rate_hz)
    found = bleed_of(samples, known, take.sample_rate_hz, levels.phrases, active_dba=levels.active_dba)
    told = bleed_findings(found, take.whole_s or take.seconds)
    if found is None:
        text = "There are no pauses to hear it in."
    elif told:
        text = "The backing is heard."
    else:
        text = f"The backing is not heard: {-min(found.under_db, 0.0):.0f} dB under you or less."
    return BleedAnswer(
        under_db=None if found is None else found.under_db,
        late_ms=None if found is None or not told else found.late_ms,
        explained=None if found is None else found.sure,
        findings=[finding_answer(f) for f in told],
        text=text,
    )


def takes_by_line(data: Data, first_id: str, second_id: str) -> LinesAnswer:
    """Two takes held against each other line by line."""
    first, second = take_row(data, first_id), take_row(data, second_id)
    found: LinesAnswer = data.worked.find(
        ("lines", first.audio_sha256, second.audio_sha256),
        lambda: lines_answer(sound_of(data, first), sound_of(data, second)),
    )
    return found


def lines_answer(a: Audio, b: Audio) -> LinesAnswer:
    """Contract of `analyse lines`."""
    levels_a, samples_a = _read(a)
    levels_b, samples_b = _read(b, rate_hz=a.sample_rate_hz)
    found = lines_of(levels_a, levels_b, samples_a=samples_a, samples_b=samples_b, sample_rate_hz=a.sample_rate_hz)
    begins = (a.from_s or 0.0, b.from_s or 0.0)
    return LinesAnswer(
        lines=[_line(pair, chosen, *begins) for pair, chosen in zip(found.pairs, found.chosen, strict=True)],
        only_a=[_span(phrase, begins[0]) for phrase in found.only_a],
        only_b=[_span(phrase, begins[1]) for phrase in found.only_b],
        joins=[_join(join) for join in found.joins],
        text=_lines_words(found),
    )


def _span(phrase: Span, begins_s: float) -> tuple[float, float]:
    """A phrase in the time of its file, of which what was read begins there."""
    return phrase.start_s + begins_s, phrase.end_s + begins_s


def _line(pair: Pair, chosen: str, begins_a: float, begins_b: float) -> LineAnswer:
    return LineAnswer.out_of(
        pair,
        a=_span(pair.a, begins_a),
        b=_span(pair.b, begins_b),
        faults_a=[_fault(f, begins_a) for f in pair.faults_a],
        faults_b=[_fault(f, begins_b) for f in pair.faults_b],
        chosen=chosen,
    )


def _fault(found: Finding, begins_s: float) -> LineFault:
    return LineFault(kind=found.kind, name=FINDING_NAMES[found.kind], start_s=found.start_s + begins_s)


def _join(join: Join) -> JoinAnswer:
    if join.step_db is None or join.heard is None:
        text = "The pause is too short to tell whether the cut is heard."
    elif join.heard:
        text = f"The room tone steps by {join.step_db:+.0f} dB: lay room tone under it, or crossfade in the pause."
    else:
        text = f"The cut is not heard: the room tones lie {abs(join.step_db):.1f} dB apart."
    return JoinAnswer.out_of(join, text=text)


def _lines_words(found: Lines) -> str:
    if not found.pairs:
        return "No line of the one is found in the other."
    wins = {side: sum(pair.better == side for pair in found.pairs) for side in ("a", "b")}
    if wins["a"] == wins["b"] == 0:
        return f"{len(found.pairs)} lines in both, none of them cleaner: choose by how they are sung."
    return f"{len(found.pairs)} lines in both: {wins['a']} cleaner in A, {wins['b']} in B; {len(found.joins)} cuts."


def wave_of(data: Data, reading_id: str, *, from_s: float, to_s: float, points: int) -> WaveAnswer:
    """The wave of part of a take, as lowest and highest sample of each stretch."""
    row = row_of(data, reading_id)
    points = min(points, _MOST_POINTS)
    found: Envelope = data.worked.find(
        ("wave", row.audio_sha256, from_s, to_s, points),
        lambda: envelope_apart(sound_path(data, row), row.file_name, from_s=from_s, to_s=to_s, points=points),
    )
    step = (found.to_s - found.from_s) / len(found.low)
    return WaveAnswer(start_s=found.from_s, step_s=step, low=found.low, high=found.high)


def labels_of(data: Data, reading_id: str, form: str) -> str:
    """Findings and phrases as a table, or as a label track: start, end, text, with tabs, a line each."""
    row = take_row(data, reading_id)
    result = result_of(row)
    if not isinstance(result, TakeResult):
        raise InputError("reading", "is no take.", "Choose a take.")
    if form not in LABEL_FORMS:
        raise InputError("form", f"{form!r} is no form of labels.", f"Use one of {', '.join(LABEL_FORMS)}.")
    rows: list[tuple[float, float, str, float | None, str, str]] = [
        (f.start_s, f.end_s, FINDING_NAMES.get(f.kind, f.kind), f.value, f.unit, f.cure) for f in result.findings
    ]
    rows += [(a, b, f"Line {n}", None, "", "") for n, (a, b) in enumerate(result.phrases, 1)]
    rows.sort(key=lambda told: (told[0], told[1]))
    if form == "txt":
        return "".join(
            f"{start:.3f}\t{end:.3f}\t{one_line(name)}{'' if value is None else f' {value:.1f} {unit}'.rstrip()}\n"
            for start, end, name, value, unit, _ in rows
        )
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow(["Start [s]", "End [s]", "What", "Size", "Unit", "Cure"])
    for start, end, name, value, unit, cure in rows:
        writer.writerow([f"{start:.2f}", f"{end:.2f}", name, "" if value is None else f"{value:.2f}", unit, cure])
    return buffer.getvalue()


def take_name(data: Data, row: Reading) -> str:
    """SONG-SECTION-NN: the first two tags, and the number among all takes so tagged, binned ones too: no name comes
    twice.
    """
    told = [re.sub(r"[^\w]+", "", tag.title()) for tag in _song_and_section(row)]
    song, section = ([*told, *["Take", "All"][len(told) :]])[:2]
    alike = sorted(
        (other.sequence, other.id)
        for binned in (False, True)
        for other in reading_rows(data, row.room_id, binned=binned)
        if kind_named(other.kind).form == "take" and _song_and_section(other) == _song_and_section(row)
    )
    number = 1 + next((i for i, (_, other_id) in enumerate(alike) if other_id == row.id), 0)
    return f"{song}-{section}-{number:02d}"


def _song_and_section(row: Reading) -> list[str]:
    """Tags that name a take: neither the mark of one's own line nor a step of a series."""
    return [tag for tag in row.tags if tag != "line" and ":" not in tag][:2]


def latency_answer(played: Audio, recorded: Audio) -> LatencyAnswer:
    """Contract of `analyse latency`: how much later a recording of a sound comes than the sound itself."""
    rate = played.sample_rate_hz
    one, other = np.asarray(loudest_channel(played), dtype=float), _at_rate(recorded, rate)
    found = latency_of(one, other, rate)
    if found is None:
        return LatencyAnswer(
            latency_ms=None,
            likeness=None,
            notches_hz=[],
            text="The sound is not found in the recording: play it louder, or check which channel was recorded.",
        )
    f_hz, comb = comb_db(found.latency_ms, found.gain_db, turned=found.turned)
    return LatencyAnswer.out_of(
        found,
        notches_hz=notches_of(found.latency_ms, turned=found.turned),
        ripple_db=ripple_db(10 ** (found.gain_db / 20)),
        comb_hz=f_hz,
        comb_db=comb,
        text=heard_late_words(found),
    )


def in_the_phones(data: Data, reading_id: str, content: bytes | Path, name: str) -> LatencyAnswer:
    """How late and how loud a take comes out of the headphones, by a recording of one cup held to the microphone."""
    return latency_answer(sound_of(data, take_row(data, reading_id)), decode_apart(content, name))


def threshold_answer(what: str, answers: str) -> StaircaseAnswer:
    """Contract of `threshold`. answers : r and w, right and wrong so far. Raises InputError for what is not asked."""
    if what not in SCALES:
        raise InputError("what", f"{what!r} is not asked.", f"Use one of {', '.join(SCALES)}.")
    if set(answers) - {"r", "w"}:
        raise InputError("answers", "are more than r and w.", "Write r for each right answer and w for each wrong one.")
    found = staircase([answer == "r" for answer in answers], SCALES[what])
    return StaircaseAnswer.out_of(
        found, what=what, plain_db=0.0 if SCALES[what].by_factors else _NOTHING_DB, text=threshold_words(what, found)
    )

"""Commands that read recordings, and the one that makes them."""

from pathlib import Path

import numpy as np

from keenquiet.cli.files import keep, room_at, say
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.read.sweep import SweepSpec
from keenquiet.core.read.tone import calibration_from
from keenquiet.service import hearing, tones
from keenquiet.service.answers.readings import ResponseResult, ToneResult, with_reason
from keenquiet.service.compared import PROVING, back_answer, line_answer, sides_answer
from keenquiet.service.kinds import kind_named
from keenquiet.service.kinds.base import ReadOptions
from keenquiet.service.reading import Heard, analyse, rig_recording
from keenquiet.service.reading_set import loudest_channel, mean_response, response_wav, words_answer
from keenquiet.store.audiofile import Audio, read_audio, wav_bytes

_DIGITS = 4


def read(file: Path, kind: str, as_json: bool, *, thirds: bool = False) -> None:
    """`analyse KIND FILE`."""
    known = kind_named(kind)
    audio = read_audio(file, most_seconds=known.most_seconds, in_parts=known.in_parts)
    say(analyse(audio, kind, options=ReadOptions(fraction=3 if thirds else 1)).result, as_json)


def read_sweep(
    recording: Path,
    as_json: bool,
    *,
    low_hz: float,
    high_hz: float,
    seconds: float,
    out: Path | None,
    thirds: bool,
    room: Path | None,
    arrangement: str | None,
) -> None:
    """`analyse sweep`."""
    if not (5 <= low_hz < high_hz <= 96_000 and 0.5 <= seconds <= 60):
        raise InputError(
            "low, high, seconds",
            f"{low_hz:g} to {high_hz:g} Hz in {seconds:g} s is no sweep.",
            "Give 5 <= low < high, 0.5 to 60 s.",
        )
    options = ReadOptions(spec=SweepSpec(low_hz, high_hz, seconds), fraction=3 if thirds else 1)
    heard = analyse(read_audio(recording), "sweep", options=options)
    if out is not None and heard.response is not None:
        keep(out, response_wav(heard.response.impulse, heard.response.sample_rate_hz))
    result = heard.result
    if room is not None:
        document = room_at(room)
        beside = heard.beside(document, document.arrangement_doc(arrangement))
        # what only the page's plots need stays away from a terminal
        result = beside.model_copy(update={"thirds": None, "energy_time": None})
    say(result, as_json)


def read_tone(
    file: Path, as_json: bool, *, calibrator: Path | None, calibrator_db: float, meter_db: float | None
) -> None:
    """`analyse tone`."""
    calibration, steady = None, True
    if meter_db is not None:
        bare = analyse(read_audio(file), "tone").result
        shown = bare.laeq_db if isinstance(bare, ToneResult) else None
        calibration = None if shown is None else meter_db - shown
    if calibrator is not None:
        sound = read_audio(calibrator, field="calibrator")
        calibration, steady = calibration_from(loudest_channel(sound), sound.sample_rate_hz, level_db=calibrator_db)
    result = analyse(read_audio(file), "tone", options=ReadOptions(calibration_db=calibration)).result
    if not steady:
        result.verdict = with_reason(result.verdict, "not_a_steady_tone", usable=False)
    say(result, as_json)


def compare(first: Path, second: Path, as_json: bool) -> None:
    """`analyse compare`."""
    answer = words_answer(read_audio(first), read_audio(second))
    say(answer.model_dump(mode="json", exclude={"simulated"}), as_json)


def sides(front: Path, back: Path, as_json: bool, *, pattern: str) -> None:
    """`analyse sides`."""
    say(sides_answer(read_audio(front), read_audio(back), pattern), as_json)


def replaced(then: Path, now: Path, as_json: bool, *, kind: str) -> None:
    """`analyse put-back`."""
    if kind not in PROVING:
        raise InputError("kind", f"{kind!r} cannot prove a place.", f"Use one of {', '.join(PROVING)}.")
    if kind == "spoken":
        say(line_answer(read_audio(then), read_audio(now)), as_json)
        return
    results = [heard.result for heard in usable_results([then, now], kind)]
    before, after = (result for result in results if isinstance(result, ResponseResult))
    say(back_answer(before, after), as_json)


def average(recordings: list[Path], as_json: bool, *, out: Path | None) -> None:
    """`analyse average`."""
    heard = [_usable(file, "sweep", field="recordings") for file in recordings]
    responses = [one.response for one in heard if one.response is not None]
    mean, rate, _ = mean_response([(r.impulse, r.sample_rate_hz) for r in responses], field="recordings")
    if out is not None:
        keep(out, response_wav(mean.impulse, rate))
    result = analyse(Audio(mean.impulse[None], rate, None, ".wav"), "ir").result
    say({**result.model_dump(mode="json"), "likeness": round(mean.likeness, 3)}, as_json)


def _usable(file: Path, kind: str, *, field: str) -> Heard:
    heard = analyse(read_audio(file), kind)
    if not heard.usable:
        raise InputError(field, f"{file.name} is not usable.", f"See what `analyse {kind}` says about it.")
    return heard


def usable_results(files: list[Path], kind: str) -> list[Heard]:
    """Recordings read, all of them usable. Raises InputError naming the first that is not."""
    return [_usable(file, kind, field="readings") for file in files]


def simulated(
    room: Path,
    kind: str,
    as_json: bool,
    *,
    out: Path,
    seed: int,
    arrangement: str | None,
    gain_db: float,
    faults: tuple[str, ...],
) -> None:
    """`simulate`."""
    document = room_at(room)
    if seed < 0:
        raise InputError("seed", f"{seed} is negative.", "Use 0 or more.")
    recording = rig_recording(
        document, document.arrangement_doc(arrangement), kind, seed=seed, gain_db=gain_db, faults=faults
    )
    keep(out, wav_bytes(recording.samples, recording.sample_rate_hz))
    truth = {
        "delay_ms": round(recording.delay_s * 1000, _DIGITS),
        "clock_ppm": round(recording.clock_ppm, _DIGITS),
        "t60_s": {str(f): round(float(t), _DIGITS) for f, t in zip(OCTAVES_HZ, recording.response.t60_s, strict=True)},
    }
    say(
        {
            "out": str(out),
            "simulated": True,
            "seconds": round(np.shape(recording.samples)[-1] / recording.sample_rate_hz, _DIGITS),
            "faults": list(faults),
            "set": truth,
        },
        as_json,
    )


def heard(room: Path, as_json: bool, *, dry: Path, out: Path, arrangement: str | None) -> None:
    """`hear`."""
    wav, answer = hearing.heard(room_at(room), read_audio(dry, field="dry"), arrangement)
    keep(out, wav)
    say({"out": str(out), **answer.model_dump(mode="json")}, as_json)


def spliced(first: Path, second: Path, as_json: bool) -> None:
    """`analyse splice`."""
    say(tones.splice_answer(read_audio(first, field="first"), read_audio(second, field="second")), as_json)


def shared(every: Path, without: list[str], again: Path | None, as_json: bool) -> None:
    """`analyse shares`."""
    off = {}
    for one in without:
        name, _, file = one.partition("=")
        if not name or not file:
            raise InputError("without", f"{one!r} names no source and file.", "Give NAME=FILE, e.g. Fridge=off.wav.")
        off[name] = read_audio(Path(file), field=f"without.{name}")
    repeated = None if again is None else read_audio(again, field="again")
    say(tones.round_answer(read_audio(every, field="all"), off, repeated), as_json)

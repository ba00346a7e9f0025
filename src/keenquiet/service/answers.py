"""Answers as JSON: the shapes of the command-line contract, used by the API too."""

import math
from collections.abc import Iterable
from dataclasses import asdict
from functools import lru_cache
from typing import Any

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.judge.forecast import Forecast, boom_range_hz, low_end_top_hz
from keenquiet.core.judge.tape_check import HEARD_WHERE_DRAWN_M, TapeCheck
from keenquiet.core.judge.wanted import PURPOSES, Span, Wanted
from keenquiet.core.judge.words import (
    boom_sentence,
    bounce_sentence,
    hush_sentence,
    note_words,
    surface_words,
    touch_sentence,
)
from keenquiet.core.read.decay import BandDecay
from keenquiet.core.read.figures import GlideFigures, ResponseFigures, TakeFigures, ToneFigures
from keenquiet.core.read.quality import Verdict
from keenquiet.core.room.room import Room
from keenquiet.core.room.shape import Face, Shape
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.modes import nearest_note
from keenquiet.core.waves.response import Transfer, level_db, monitors_response, smoothed_db
from keenquiet.core.waves.rigid import CLOSET_FIRST_MODE_HZ, first_mode_hz, method_for
from keenquiet.documents import Frame, RoomDoc

Json = dict[str, Any]


def rounded(value: Any, digits: int = 4) -> Any:
    """Numbers of any kind as plain JSON, rounded; what is not finite becomes null."""
    if isinstance(value, dict):
        return {key: rounded(item, digits) for key, item in value.items()}
    if isinstance(value, np.ndarray) and value.dtype.kind == "f" and np.isfinite(value).all():
        return np.round(value, digits).tolist()
    if isinstance(value, list | tuple | np.ndarray):
        return [rounded(item, digits) for item in value]
    if isinstance(value, bool | np.bool_):
        return bool(value)
    if isinstance(value, int | np.integer):
        return int(value)
    if isinstance(value, float | np.floating):
        return round(float(value), digits) if math.isfinite(value) else None
    return value


def verdict_json(verdict: Verdict) -> Json:
    """`{usable, word, reasons: [{code, text, cure}]}`."""
    return {"usable": verdict.usable, "word": verdict.word, "reasons": [asdict(reason) for reason in verdict.reasons]}


_NOTHING: dict[str, Json] = {
    "response": {
        "bands": [],
        "t_mid_s": None,
        "early": [],
        "ringing": [],
        "flutter": None,
        "direct_over_room_db": None,
    },
    "tone": {
        "calibrated": False,
        "laeq_db": None,
        "l90_db": None,
        "thirds": [],
        "octaves": [],
        "nc": None,
        "nr": None,
        "tones": [],
        "events": [],
        "noises": [],
    },
    "glide": {"swells": [], "pitch_low_hz": None, "pitch_high_hz": None},
    "take": {
        "loudness_lufs": None,
        "true_peak_dbtp": None,
        "sample_peak_dbfs": None,
        "average_dbfs": None,
        "active_dba": None,
        "noise_floor_dbfs": None,
        "noise_floor_dba": None,
        "snr_db": None,
        "gain_advice_db": None,
        "findings": [],
    },
}


def refused_json(kind: str, verdict: Verdict, *, sample_rate_hz: float) -> Json:
    """The answer for a recording that cannot be read: the contract's keys, empty, with the verdict."""
    like = "response" if kind in ("sweep", "ir", "clap") else "take" if kind in ("spoken", "pops", "loudest") else kind
    answer = {**_NOTHING[like], "verdict": verdict_json(verdict)}
    if kind in ("sweep", "ir", "clap"):
        answer["sample_rate_hz"] = sample_rate_hz
    if kind == "sweep":
        answer["sweep"] = None
    return answer


def response_json(figures: ResponseFigures, *, curves: bool = False) -> Json:
    """Contract of `analyse ir` and `analyse sweep`; with curves, what the plots need too."""
    answer: Json = {
        "sample_rate_hz": figures.sample_rate_hz,
        "bands": [
            {**row, **({"curve_s": rounded(band.curve_s), "curve_db": rounded(band.curve_db, 2)} if curves else {})}
            for row, band in zip(band_rows(figures.bands), figures.bands, strict=True)
        ],
        "t_mid_s": figures.t_mid_s,
        "early": [asdict(reflection) for reflection in figures.early],
        "ringing": [{**asdict(note), "note": note_words(note.f_hz)} for note in figures.ringing],
        "flutter": asdict(figures.flutter) if figures.flutter else None,
        "direct_over_room_db": figures.direct_over_room_db,
        "verdict": verdict_json(figures.verdict),
    }
    if figures.sweep is not None:
        sweep = figures.sweep
        answer["sweep"] = {
            "delay_ms": sweep.delay_s * 1000,
            "clock_ppm": sweep.clock_ppm,
            "snr_db": sweep.snr_db,
            "distortion_pct": sweep.distortion_pct,
        }
    if curves:
        smooth = smoothed_db(figures.low_db, figures.low_f_hz)
        answer["low_end"] = {"f_hz": figures.low_f_hz, "level_db": figures.low_db, "smooth_db": smooth}
        if figures.surface is not None:
            surface = figures.surface
            answer["surface"] = {
                "f_hz": rounded(surface.f_hz, 1),
                "time_s": surface.time_s,
                "level_db": rounded(surface.level_db, 1),
            }
    result: Json = rounded(answer)
    return result


def tone_json(figures: ToneFigures) -> Json:
    """Contract of `analyse tone`."""
    tone = figures.tone
    answer = {
        "calibrated": tone.calibrated,
        "laeq_db": tone.laeq_db,
        "l90_db": tone.l90_db,
        "thirds": _thirds(tone.thirds_hz, tone.thirds_db),
        "octaves": [{"centre_hz": f, "level_db": level} for f, level in zip(OCTAVES_HZ, tone.octaves_db, strict=True)],
        "nc": tone.nc,
        "nr": tone.nr,
        "tones": [asdict(found) for found in tone.tones],
        "noises": [asdict(n) for n in figures.noises],
        "events": [asdict(found) for found in tone.events],
        "verdict": verdict_json(figures.verdict),
    }
    result: Json = rounded(answer)
    return result


def _thirds(centres_hz: FloatArray, levels_db: FloatArray) -> list[Json]:
    return [{"centre_hz": float(f), "level_db": level} for f, level in zip(centres_hz, levels_db, strict=True)]


def band_rows(bands: Iterable[BandDecay]) -> list[Json]:
    """Figures of bands without their curves."""
    rows: list[Json] = rounded(
        [
            {
                "centre_hz": band.centre_hz,
                "edt_s": band.edt_s,
                "t20_s": band.t20_s,
                "t30_s": band.t30_s,
                "c50_db": band.c50_db,
                "c80_db": band.c80_db,
                "d50": band.d50,
                "ts_ms": band.ts_ms,
                "inr_db": band.inr_db,
                "flags": list(band.flags),
            }
            for band in bands
        ]
    )
    return rows


def glide_json(figures: GlideFigures, *, curves: bool = False) -> Json:
    """Contract of `analyse glide`; with curves the track and the level against pitch."""
    glide = figures.glide
    answer: Json = {
        "swells": [{"f_hz": s.f_hz, "rise_db": s.rise_db, "note": note_words(s.f_hz)} for s in glide.swells],
        "pitch_low_hz": float(np.nanpercentile(glide.pitch_hz, 1)),
        "pitch_high_hz": float(np.nanpercentile(glide.pitch_hz, 99)),
        "verdict": verdict_json(figures.verdict),
    }
    if curves:
        passed = np.isfinite(glide.rise_db)
        answer["track"] = {
            "time_s": glide.time_s,
            "pitch_hz": rounded(glide.pitch_hz, 1),
            "level_db": rounded(glide.level_db, 1),
        }
        answer["curve"] = {"f_hz": glide.curve_hz[passed], "rise_db": rounded(glide.rise_db[passed], 2)}
    result: Json = rounded(answer, 2)
    return result


def take_json(figures: TakeFigures, *, curves: bool = False) -> Json:
    """Contract of `analyse take`."""
    levels = figures.levels
    answer: Json = {
        key: getattr(levels, key)
        for key in (
            "loudness_lufs",
            "true_peak_dbtp",
            "sample_peak_dbfs",
            "average_dbfs",
            "active_dba",
            "noise_floor_dbfs",
            "noise_floor_dba",
            "snr_db",
            "gain_advice_db",
        )
    }
    answer["findings"] = [asdict(finding) for finding in levels.findings]
    answer["verdict"] = verdict_json(figures.verdict)
    if curves:
        answer["blocks_db"] = rounded(levels.blocks_db, 1)
        answer["thirds"] = _thirds(levels.thirds_hz, levels.thirds_db)
    result: Json = rounded(answer)
    return result


def paths_json(result: Forecast, room: RoomDoc) -> list[Json]:
    """Paths with surfaces by name and hit points in the document's coordinates."""
    frame = Frame.of(room)
    paths = result.paths
    offset = np.array([*frame.offset, 0.0])
    listed = []
    for i in np.flatnonzero(~paths.blocked):
        faces = [int(face) for face in paths.faces[i] if face >= 0]
        points = paths.points[i, : len(faces)] + offset
        listed.append(
            {
                "order": len(faces),
                "delay_ms": paths.delay_s[i] * 1000,
                "level_db": paths.level_db[i],
                "surfaces": [result.room.surface_name(face) for face in faces],
                "points": rounded(points, 4),
                "where": surface_words(result.room, faces[0], result.arrangement),
            }
        )
    answer: list[Json] = rounded(listed, 4)
    return answer


def modes_json(result: Forecast, *, to_hz: float) -> list[Json]:
    """Modes up to a frequency, lowest first."""
    modes = result.modes
    kinds, orders = modes.kinds, modes.orders
    listed = []
    for i in np.flatnonzero(modes.f_hz <= to_hz):
        note, cents = nearest_note(float(modes.f_hz[i]))
        listed.append(
            {
                "f_hz": modes.f_hz[i],
                "indices": None if orders is None else [int(n) for n in orders[i]],
                "kind": kinds[i],
                "t60_s": modes.t60_s[i],
                "heard_db": result.heard_db[i],
                "note": note,
                "cents": cents,
            }
        )
    answer: list[Json] = rounded(listed, 3)
    return answer


def decay_json(result: Forecast) -> list[Json]:
    """Statistical decay by octave, three formulas."""
    decay = result.decay
    answer: list[Json] = rounded(
        [
            {
                "centre_hz": f,
                "sabine_s": decay.sabine_s[i],
                "eyring_s": decay.eyring_s[i],
                "arau_s": decay.arau_s[i],
                "middle_s": decay.middle_s[i],
                "spread": decay.spread[i],
                "trusted": f * np.sqrt(2) > decay.trusted_above_hz,
            }
            for i, f in enumerate(OCTAVES_HZ)
        ]
    )
    return answer


def shape_json(room: Room, frame: Frame) -> Json:
    """Sizes that follow from the shape, and by which method its modes are found. The same answer is given again: leave
    it as it is.
    """
    return _shape_json(room.shape, frame.offset, room.air.speed_m_s)


@lru_cache(maxsize=24)
def _shape_json(shape: Shape, plan_offset: tuple[float, float], speed_m_s: float) -> Json:
    top_hz = low_end_top_hz(shape)
    offset = np.array([*plan_offset, 0.0])
    first_hz = first_mode_hz(shape, speed_m_s=speed_m_s)

    def shifted(face: Face, flat: FloatArray) -> FloatArray:
        return flat + np.array(plan_offset if face.kind in ("floor", "ceiling") else (0.0, 0.0))

    answer: Json = rounded(
        {
            "volume_m3": shape.volume_m3,
            "floor_area_m2": shape.floor_area_m2,
            "surface_area_m2": sum(face.area_m2 for face in shape.faces),
            "lowest_m": shape.lowest_m,
            "highest_m": shape.highest_m,
            "method": method_for(shape),
            "top_hz": top_hz,
            "first_mode_hz": first_hz,
            "in_voice_range": first_hz > CLOSET_FIRST_MODE_HZ,
            "faces": [
                {
                    "name": face.name,
                    "kind": face.kind,
                    "area_m2": face.area_m2,
                    "outline": shifted(face, face.outline),
                    "holes": [shifted(face, hole) for hole in face.holes],
                    "corners": face.to_space(face.outline) + offset,
                    "normal": face.normal,
                    "hole_corners": [face.to_space(hole) + offset for hole in face.holes],
                }
                for face in shape.faces
            ],
        }
    )
    return answer


def tape_json(found: TapeCheck, result: Forecast) -> Json | None:
    """Heard returns beside the tape: `{agrees, sentence, suspect, off_m, returns: [{where, drawn_ms, heard_ms,
    off_m}]}`.
    """
    if not found.returns:
        return None
    room, arrangement = result.room, result.arrangement
    heard = sum(check.off_m is not None and abs(check.off_m) < HEARD_WHERE_DRAWN_M for check in found.returns)
    if found.agrees:
        sentence = (
            f"The returns agree with the tape: {heard} of {len(found.returns)} surfaces are heard where they are drawn."
        )
    elif found.suspect is None:
        sentence = "Too few returns stand apart to check the tape here."
    else:
        sentence = _suspect_words(found, result)
    answer: Json = rounded(
        {
            "agrees": found.agrees,
            "sentence": sentence,
            "suspect": None if found.suspect is None else found.suspect[0],
            "off_m": found.off_m,
            "returns": [
                {
                    "where": surface_words(room, check.face, arrangement),
                    "drawn_ms": check.drawn_ms,
                    "heard_ms": check.heard_ms,
                    "off_m": check.off_m,
                }
                for check in found.returns
            ],
        }
    )
    return answer


def _suspect_words(found: TapeCheck, result: Forecast) -> str:
    off = found.off_m or 0.0
    by = f"{abs(off) * 100:.0f} cm"
    kind, number = found.suspect or ("", 0)
    if kind == "microphone":
        way = (
            ("further left", "further right"),
            ("nearer to the foot of the plan", "nearer to its top"),
            ("lower", "higher"),
        )[number][off > 0]
        return f"The returns fit better with the microphone {by} {way} than its mark: measure where it really stood."
    where = surface_words(result.room, number, result.arrangement)
    return (
        f"{where[0].upper()}{where[1:]} is heard {by} {'further away' if off > 0 else 'nearer'} "
        "than it is drawn: measure that distance again."
    )


def flutter_json(result: Forecast, room: RoomDoc) -> list[Json]:
    """Parallel hard patches, worst first, in the document's coordinates."""
    offset = np.array([*Frame.of(room).offset, 0.0])
    answer: list[Json] = rounded(
        [
            {
                "surfaces": [result.room.faces[f].name for f in pair.faces],
                "spacing_m": pair.spacing_m,
                "rate_hz": pair.rate_hz,
                "area_m2": pair.area_m2,
                "lost_db": pair.lost_db,
                "lasts_s": pair.lasts_s,
                "outline": pair.outline + offset,
                "across": pair.across,
                "where": [surface_words(result.room, f, result.arrangement) for f in pair.faces],
            }
            for pair in result.flutter
        ]
    )
    return answer


def wanted_of(room: RoomDoc) -> Wanted:
    """Wanted values for the room's brief."""
    return PURPOSES[room.brief.purpose]


def marks_json(result: Forecast, room: RoomDoc) -> Json:
    """The four marks as predicted: headline value with unit, what is wanted, one sentence, the figures behind it."""
    wanted = wanted_of(room)
    bounce, boom, hush, touch = result.bounce, result.boom, result.hush, result.touch
    marks = {
        "bounce": _mark(
            "Bounce",
            bounce.direct_over_room_db.value,
            bounce.direct_over_room_db.plus_minus,
            "dB",
            "direct over room",
            wanted.bounce_db,
            bounce_sentence(result, wanted),
            {
                "strongest_early_db": bounce.strongest_early_db,
                "strongest_early_ms": bounce.strongest_early_ms,
                "decay_s": bounce.decay_s.value,
                "decay_plus_minus_s": bounce.decay_s.plus_minus,
                "critical_distance_m": result.critical_distance_m,
                "decay_wanted_s": [wanted.decay_s.low, wanted.decay_s.high],
            },
        ),
        "boom": _mark(
            "Boom",
            boom.ring_s.value,
            boom.ring_s.plus_minus,
            "s",
            "ring time",
            wanted.boom_s,
            boom_sentence(result, wanted),
            {
                "note_hz": boom.note_hz,
                "swing_db": boom.swing_db.value,
                "swing_plus_minus_db": boom.swing_db.plus_minus,
                "range_hz": boom_range_hz(result.arrangement),
            },
        ),
        "hush": _mark(
            "Hush",
            hush.under_performance_db.value,
            hush.under_performance_db.plus_minus,
            "dB",
            "under the performance",
            wanted.hush_db,
            hush_sentence(result, wanted),
            {
                "noise_dba": hush.noise_dba,
                "performance_dba": hush.performance_dba,
                "sources_dba": result.noise.by_source_dba,
            },
        ),
        "touch": _mark(
            "Touch",
            None,
            None,
            "dBFS",
            "loudest peak",
            wanted.peak_dbfs,
            touch_sentence(result),
            {
                "distance_m": touch.distance_m,
                "proximity_db": touch.proximity_db,
                "sway_db": touch.sway_db,
                "off_axis_deg": touch.off_axis_deg,
            },
        ),
    }
    answer: Json = rounded(marks)
    return answer


def _mark(
    name: str,
    value: float | None,
    plus_minus: float | None,
    unit: str,
    meaning: str,
    wanted: Span,
    sentence: str,
    figures: Json,
) -> Json:
    return {
        "name": name,
        "value": value,
        "plus_minus": plus_minus,
        "unit": unit,
        "meaning": meaning,
        "wanted": asdict(wanted),
        "sentence": sentence,
        **figures,
    }


def _curve(f_hz: FloatArray, level: FloatArray, to_hz: float) -> Json:
    shown = f_hz <= to_hz + 1e-6
    curve: Json = rounded(
        {"f_hz": f_hz[shown], "level_db": level[shown], "smooth_db": smoothed_db(level, f_hz)[shown]}, 3
    )
    return curve


def _listening(result: Forecast, room: RoomDoc, arrangement_id: str | None, to_hz: float) -> Json | None:
    """The low end at the chair from the monitors, None where one of them is missing."""
    doc = room.arrangement_doc(arrangement_id)
    if not doc.monitors or doc.listener is None:
        return None
    frame = Frame.of(room)
    monitors, chair = np.array([frame.local(m.at) for m in doc.monitors]), np.array(frame.local(doc.listener.at))
    pressure = monitors_response(Transfer(result.room, result.modes), monitors, chair, result.response_f_hz)
    return _curve(result.response_f_hz, level_db(pressure), to_hz)


def forecast_json(result: Forecast, room: RoomDoc, *, to_hz: float, arrangement_id: str | None = None) -> Json:
    """Contract of `predict`; `listening` is the response from the monitors to the chair, where both stand."""
    return {
        "schroeder_hz": rounded(result.decay.trusted_above_hz, 1),
        "modes": modes_json(result, to_hz=to_hz),
        "shape": shape_json(result.room, Frame.of(room)),
        "flutter": flutter_json(result, room),
        "decay": decay_json(result),
        "paths": paths_json(result, room),
        "response": _curve(result.response_f_hz, result.response_db, to_hz),
        "listening": _listening(result, room, arrangement_id, to_hz),
        "marks": marks_json(result, room),
    }

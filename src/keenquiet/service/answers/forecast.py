"""The forecast of one arrangement as an answer: modes, decay, paths, response, shape, flutter, marks."""

from collections.abc import Iterable
from functools import lru_cache
from typing import Literal

import numpy as np

from keenquiet.advice.surfaces import surface_words
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.judge.forecast import AUDIBLE_DB, Forecast, low_end_top_hz
from keenquiet.core.judge.listening import CHAIR_HZ
from keenquiet.core.judge.screen_worth import screen_worths
from keenquiet.core.judge.which_place import first_among_the_notes
from keenquiet.core.room.room import Room
from keenquiet.core.room.shape import Face, Shape
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.flutter_pairs import FlutterPair
from keenquiet.core.waves.modes import nearest_note
from keenquiet.core.waves.pair import pair_of
from keenquiet.core.waves.response import Transfer, level_db, monitors_response, smoothed_db
from keenquiet.core.waves.rigid import method_for
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.marks import Known, Marks, marks_of, wanted_of
from keenquiet.service.answers.numbers import (
    IF_ANY,
    Answer,
    Gaps,
    Num,
    Num2,
    Numbers,
    NumOrNone,
    Points2,
    Points3,
    Vector3,
)


class PathAnswer(Answer):
    """surfaces : in the order met. points : hit points in the document's coordinates. where : as a musician says it."""

    order: int
    delay_ms: Num
    level_db: Num
    surfaces: list[str]
    points: Points3
    where: str


class ModeAnswer(Answer):
    """heard_db : against the strongest at the microphone. is_heard : within what counts."""

    f_hz: Num
    indices: tuple[int, int, int] | None
    kind: str
    t60_s: Num
    heard_db: Num
    is_heard: bool
    note: str
    cents: int


class DecayAnswer(Answer):
    centre_hz: float
    sabine_s: Num
    eyring_s: Num
    arau_s: Num
    middle_s: Num
    early_s: Num
    spread: Num
    trusted: bool


class DecayMiddle(Answer):
    """The middle of the decay beside what is wanted. judged : `longer`, `shorter`, `as_wanted`. bent : it fades faster
    at first than later on. measured : it was read in this room as it is.
    """

    value_s: Num
    judged: Literal["longer", "shorter", "as_wanted"]
    bent: bool = False
    measured: bool = False


class FaceAnswer(Answer):
    name: str
    kind: str
    area_m2: Num
    outline: Points2
    holes: list[Points2]
    corners: Points3
    hole_corners: list[Points3]
    normal: Vector3


class ShapeAnswer(Answer):
    """Sizes that follow from the shape, and by which method its modes are found."""

    volume_m3: Num
    floor_area_m2: Num
    surface_area_m2: Num
    lowest_m: Num
    highest_m: Num
    method: str
    top_hz: Num
    faces: list[FaceAnswer]


class FlutterAnswer(Answer):
    surfaces: list[str]
    where: list[str]
    spacing_m: Num
    rate_hz: Num
    area_m2: Num
    lost_db: Num
    lasts_s: Num
    outline: Points3
    across: Vector3


class Curve(Answer):
    """smooth_db : third-octave mean."""

    f_hz: Numbers
    level_db: Gaps
    smooth_db: Gaps


class Listening(Curve):
    """The low end at the chair from the monitors. swing_db : between its strongest note and its weakest."""

    swing_db: Num
    swing_range_hz: tuple[float, float]


class MonoLoss(Answer):
    centre_hz: float
    db: Num


class PairAnswer(Answer):
    """Two microphones summed: the later one's delay, the first notches, how deep they go, what octaves lose."""

    delay_ms: Num
    notches_hz: list[Num2]
    ripple_db: Num
    mono_loss: list[MonoLoss]
    ratio: Num
    kind: str
    recording_angle_deg: NumOrNone


class ScreenAnswer(Answer):
    """What a screen is worth here: what it wins in direct over room, what it takes of the sound that the performer
    feeds the room and that the room feeds the microphone, and the comb that it adds. [dB]
    """

    kind: str
    bounce_db: Num
    room_fed_db: Num
    gathered_db: Num
    colour_db: Num


class ForecastAnswer(Answer):
    """Contract of `predict`; `listening`, `pair` and `screens` where monitors with a chair, a second
    microphone, or screens stand. in_voice_range : the first mode lies among the notes of a voice.
    """

    schroeder_hz: Num
    modes: list[ModeAnswer]
    decay: list[DecayAnswer]
    decay_middle: DecayMiddle
    paths: list[PathAnswer]
    response: Curve
    listening: Listening | None = None
    pair: PairAnswer | None = IF_ANY
    screens: list[ScreenAnswer] | None = IF_ANY
    shape: ShapeAnswer
    first_mode_hz: Num
    in_voice_range: bool
    flutter: list[FlutterAnswer]
    marks: Marks


def forecast_answer(
    result: Forecast, room: RoomDoc, *, to_hz: float, known: Known | None = None, screens: bool = True
) -> ForecastAnswer:
    """A forecast as an answer. known : what readings say of this arrangement, where there are any.

    screens : False leaves out what each is worth, which takes a place's work for each.
    """
    marks = marks_of(result, wanted_of(room), known)
    return ForecastAnswer(
        schroeder_hz=round(result.decay.trusted_above_hz, 1),
        modes=mode_answers(result, to_hz=to_hz),
        decay=decay_answers(result),
        decay_middle=judged_decay(marks.bounce.decay_s, room).model_copy(
            update={"bent": result.decay.bent, "measured": known is not None and known.is_read}
        ),
        paths=path_answers(result, room),
        response=curve_answer(result.response_f_hz, result.response_db, to_hz),
        listening=_listening(result, to_hz),
        pair=_pair(result),
        screens=_screens(result) if screens else None,
        shape=shape_answer(result.room, Frame.of(room)),
        first_mode_hz=result.modes.f_hz[0],
        in_voice_range=first_among_the_notes(result),
        flutter=flutter_answers(result.flutter, result, room),
        marks=marks,
    )


def path_answers(result: Forecast, room: RoomDoc) -> list[PathAnswer]:
    """Paths with surfaces by name and hit points in the document's coordinates."""
    offset = _offset(room)
    paths = result.paths
    listed = []
    for i in np.flatnonzero(~paths.blocked):
        faces = [int(face) for face in paths.faces[i] if face >= 0]
        listed.append(
            PathAnswer(
                order=len(faces),
                delay_ms=paths.delay_s[i] * 1000,
                level_db=paths.level_db[i],
                surfaces=[result.room.surface_name(face) for face in faces],
                points=paths.points[i, : len(faces)] + offset,
                where=surface_words(result.room, faces[0], result.arrangement),
            )
        )
    return listed


def _offset(room: RoomDoc) -> FloatArray:
    return np.array([*Frame.of(room).offset, 0.0])


def mode_answers(result: Forecast, *, to_hz: float) -> list[ModeAnswer]:
    """Modes up to a frequency, lowest first."""
    modes = result.modes
    kinds, orders = modes.kinds, modes.orders
    listed = []
    for i in np.flatnonzero(modes.f_hz <= to_hz):
        note, cents = nearest_note(float(modes.f_hz[i]))
        listed.append(
            ModeAnswer(
                f_hz=round(float(modes.f_hz[i]), 3),
                indices=None if orders is None else (int(orders[i, 0]), int(orders[i, 1]), int(orders[i, 2])),
                kind=kinds[i],
                t60_s=round(float(modes.t60_s[i]), 3),
                heard_db=round(float(result.heard_db[i]), 3),
                is_heard=bool(result.heard_db[i] > AUDIBLE_DB),
                note=note,
                cents=cents,
            )
        )
    return listed


def decay_answers(result: Forecast) -> list[DecayAnswer]:
    """Decay by octave: three formulas, and what is predicted with its first 10 dB."""
    decay = result.decay
    return [
        DecayAnswer(
            centre_hz=f,
            sabine_s=decay.sabine_s[i],
            eyring_s=decay.eyring_s[i],
            arau_s=decay.arau_s[i],
            middle_s=decay.middle_s[i],
            early_s=decay.early_s[i],
            spread=decay.spread[i],
            trusted=bool(f * np.sqrt(2) > decay.trusted_above_hz),
        )
        for i, f in enumerate(OCTAVES_HZ)
    ]


def judged_decay(value_s: float, room: RoomDoc) -> DecayMiddle:
    """A mid-band decay beside what is wanted of the room."""
    span = wanted_of(room).decay_s
    if span.deficit(value_s) == 0:
        return DecayMiddle(value_s=value_s, judged="as_wanted")
    too_long = span.high is not None and value_s > span.high
    return DecayMiddle(value_s=value_s, judged="longer" if too_long else "shorter")


def shape_answer(room: Room, frame: Frame) -> ShapeAnswer:
    """Sizes of a shape. The same answer is given again: leave it as it is."""
    return _shape_answer(room.shape, frame.offset)


@lru_cache(maxsize=24)
def _shape_answer(shape: Shape, plan_offset: tuple[float, float]) -> ShapeAnswer:
    offset = np.array([*plan_offset, 0.0])

    def shifted(face: Face, flat: FloatArray) -> FloatArray:
        return flat + np.array(plan_offset if face.kind in ("floor", "ceiling") else (0.0, 0.0))

    return ShapeAnswer.out_of(
        shape,
        surface_area_m2=sum(face.area_m2 for face in shape.faces),
        method=method_for(shape),
        top_hz=low_end_top_hz(shape),
        faces=[
            FaceAnswer.out_of(
                face,
                outline=shifted(face, face.outline),
                holes=[shifted(face, hole) for hole in face.holes],
                corners=face.to_space(face.outline) + offset,
                hole_corners=[face.to_space(hole) + offset for hole in face.holes],
            )
            for face in shape.faces
        ],
    )


def flutter_answers(pairs: Iterable[FlutterPair], result: Forecast, room: RoomDoc) -> list[FlutterAnswer]:
    """Parallel hard patches of a forecast's room, in the document's coordinates."""
    return [
        FlutterAnswer.out_of(
            pair,
            surfaces=[result.room.faces[f].name for f in pair.faces],
            where=[surface_words(result.room, f, result.arrangement) for f in pair.faces],
            outline=pair.outline + _offset(room),
        )
        for pair in pairs
    ]


def curve_answer(f_hz: FloatArray, level: FloatArray, to_hz: float) -> Curve:
    """A response as far as asked for, with its third-octave mean."""
    shown = f_hz <= to_hz + 1e-6
    return Curve(f_hz=f_hz[shown], level_db=level[shown], smooth_db=smoothed_db(level, f_hz)[shown])


def _listening(result: Forecast, to_hz: float) -> Listening | None:
    """The low end at the chair from the monitors, None where one of them is missing."""
    arrangement = result.arrangement
    if not arrangement.monitors or arrangement.chair is None:
        return None
    monitors, chair = np.array([m.at for m in arrangement.monitors]), np.array(arrangement.chair.at)
    f_hz = result.response_f_hz
    level = level_db(monitors_response(Transfer(result.room, result.modes), monitors, chair, f_hz))
    judged = (f_hz >= CHAIR_HZ[0]) & (f_hz <= CHAIR_HZ[1])
    curve = curve_answer(f_hz, level, to_hz)
    return Listening(
        f_hz=curve.f_hz,
        level_db=curve.level_db,
        smooth_db=curve.smooth_db,
        swing_db=float(np.ptp(smoothed_db(level, f_hz)[judged])),
        swing_range_hz=CHAIR_HZ,
    )


def _screens(result: Forecast) -> list[ScreenAnswer] | None:
    bounce_db = result.bounce.direct_over_room_db.value
    worths = screen_worths(result.room, result.arrangement, bounce_db=bounce_db)
    return [ScreenAnswer.model_validate(worth) for worth in worths] or None


def _pair(result: Forecast) -> PairAnswer | None:
    """Performer to both microphones, None where there is one."""
    found = pair_of(result.room, result.arrangement)
    if found is None:
        return None
    return PairAnswer.out_of(
        found,
        delay_ms=found.delay_s * 1000,
        mono_loss=[MonoLoss(centre_hz=f, db=loss) for f, loss in zip(OCTAVES_HZ, found.mono_loss_db, strict=True)],
    )

"""Trials: guided series of takes with what is predicted of each step beside what was measured."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.advice.trials import COLUMNS, SERIES_WORDS, STEP_WORDS, said_of
from keenquiet.core.errors import InputError
from keenquiet.core.judge.aim import past_the_mouth, round_the_microphone
from keenquiet.core.waves.bleed import bleed_under_db
from keenquiet.documents.convert import scenario_of
from keenquiet.documents.schema import AbsorberDoc, ArrangementDoc, RoomDoc, ScreenDoc
from keenquiet.service.answers.readings import TakeResult
from keenquiet.service.answers.takes import TrialsAnswer, TrialStep
from keenquiet.service.briefs import reading_rows, result_of
from keenquiet.service.data import Data
from keenquiet.service.kinds import kind_named
from keenquiet.service.predict import predict
from keenquiet.service.readings import room_of_row, row_of
from keenquiet.store.models import Reading

_DISTANCES_CM: Final = (5, 10, 15, 20, 30)
_ROUND_DEG: Final = (0, 15, 30, 45, 60)
_GAIN_STEP_DB: Final = 6.0
_BLANKETS: Final = 3
_BLANKET_M: Final = (1.4, 2.0)
_BEHIND_M: Final = 0.5
_SHIELD_M: Final = (0.45, 0.35, 0.12)  # width, height, behind the microphone

Predicted = dict[str, float]


@dataclass(frozen=True)
class _Made:
    """Figures of one step, before they are set against the first. [dB]"""

    key: str
    figures: Predicted


def trials_of(data: Data, room_id: str, series: str, arrangement_id: str | None = None) -> TrialsAnswer:
    """A series for an arrangement: predicted, and measured by takes tagged `SERIES:STEP`."""
    room, _ = room_of_row(data, room_id)
    taken = {
        tag.removeprefix(f"{series}:"): row_of(data, row.id)
        for row in reversed(reading_rows(data, room_id))
        if kind_named(row.kind).form == "take"
        for tag in row.tags
        if tag.startswith(f"{series}:")
    }
    return trials_answer(room, room.arrangement_doc(arrangement_id), series, taken=taken)


def trials_answer(
    room: RoomDoc, arrangement: ArrangementDoc, series: str, *, taken: dict[str, Reading] | None = None
) -> TrialsAnswer:
    """Contract of `trials`. Raises InputError for an unknown series."""
    if series not in _SERIES:
        raise InputError("series", f"{series!r} is no series.", f"Use one of {', '.join(_SERIES)}.")
    made = _SERIES[series](room, arrangement)
    name, say = SERIES_WORDS[series]
    measured = _measured(taken or {}, made[0].key)
    steps = [
        TrialStep(
            key=step.key,
            name=STEP_WORDS[step.key],
            predicted={key: value - made[0].figures[key] for key, value in step.figures.items()},
            measured=measured.get(step.key),
            reading_id=row.id if taken and (row := taken.get(step.key)) else None,
        )
        for step in made
    ]
    return TrialsAnswer(
        series=series,
        name=name,
        say=say,
        steps=steps,
        columns={key: COLUMNS[key] for key in made[0].figures},
        text=said_of(steps),
    )


def _measured(taken: dict[str, Reading], first: str) -> dict[str, dict[str, float]]:
    """Figures of the takes against that of the first step; nothing before the first is there. [dB]"""
    figures = {key: _of_take(result_of(row)) for key, row in taken.items()}
    base = figures.get(first)
    if base is None:
        return {}
    return {
        key: {name: value - base[name] for name, value in its.items() if name in base} for key, its in figures.items()
    }


def _of_take(result: object) -> dict[str, float]:
    if not isinstance(result, TakeResult) or result.active_dba is None:
        return {}
    thirds = {t.centre_hz: t.level_db for t in result.thirds or [] if t.level_db is not None}

    def mean(low: float, high: float) -> float | None:
        inside = [level for f, level in thirds.items() if low <= f <= high]
        return float(np.mean(inside)) if inside else None

    middle, bass, treble = mean(500, 2000), mean(80, 125), mean(6300, 10_000)
    told = {
        "level": result.active_dba,
        "bounce": result.direct_over_room_db,
        "hush": result.snr_db,
        "bass": None if bass is None or middle is None else bass - middle,
        "treble": None if treble is None or middle is None else treble - middle,
        "sizzle": result.later.esses_db[0] if result.later and result.later.esses_db else None,
    }
    return {key: value for key, value in told.items() if value is not None}


def _figures(room: RoomDoc, arrangement: ArrangementDoc) -> Predicted:
    found = predict(room.model_copy(update={"arrangements": [arrangement]}), arrangement.id)
    return {
        "level": found.hush.performance_dba,
        "bounce": found.bounce.direct_over_room_db.value,
        "hush": found.hush.under_performance_db.value,
        "bass": found.touch.proximity_db,
    }


def _distances(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    mouth = np.array(arrangement.performer.at)
    away = np.array(arrangement.microphone.at) - mouth
    unit = away / float(np.linalg.norm(away))
    made = []
    for cm in reversed(_DISTANCES_CM):
        x, y, z = (round(float(v), 4) for v in mouth + unit * cm / 100)
        mic = arrangement.microphone.model_copy(update={"at": (x, y, z)})
        made.append(_Made(f"{cm}cm", _figures(room, arrangement.model_copy(update={"microphone": mic}))))
    return made


def _angles(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    scenario = scenario_of(room, arrangement)
    turned = {
        round(aimed.angle_deg): {"level": aimed.level_db, "bass": aimed.bass_db, "treble": aimed.treble_db}
        for aimed in past_the_mouth(scenario.arrangement, speed_m_s=scenario.described.air.speed_m_s)
    }
    angles = sorted(turned)

    def near(deg: int) -> Predicted:
        return turned[min(angles, key=lambda one: abs(one - deg))]

    made = [_Made(f"{deg}deg", near(deg)) for deg in (0, 20, 45, 90)]
    # above and below the mouth by 30 degrees: this model's mouth is as narrow upwards as it is sideways
    return [*made, _Made("above", near(30)), _Made("below", near(30))]


def _round(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    scenario = scenario_of(room, arrangement)
    aside = round_the_microphone(scenario.arrangement, _ROUND_DEG, speed_m_s=scenario.described.air.speed_m_s)
    return [
        _Made(f"{deg}round", {"level": aimed.level_db, "bass": aimed.bass_db, "sizzle": aimed.treble_db})
        for deg, aimed in zip(_ROUND_DEG, aside, strict=True)
    ]


def _behind(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    mouth, mic = np.array(arrangement.performer.at), np.array(arrangement.microphone.at)
    away = (mic - mouth)[:2] / max(float(np.linalg.norm((mic - mouth)[:2])), 1e-6)
    facing = float(np.degrees(np.arctan2(-away[1], -away[0])))
    x, y = mic[:2] + away * _SHIELD_M[2]
    shield = ScreenDoc(
        kind="filter",
        at=(float(x), float(y), max(float(mic[2]) - _SHIELD_M[1] / 2, 0.0)),
        faces_deg=facing,
        width_m=_SHIELD_M[0],
        height_m=_SHIELD_M[1],
        absorber=AbsorberDoc(thickness_m=0.04, flow_resistivity=10_000),
    )
    return [
        _Made("bare", _figures(room, _screened(arrangement))),
        _Made("shield", _figures(room, _screened(arrangement, shield))),
        _Made("soft", _figures(room, _screened(arrangement, *_blankets(room, arrangement, 1)))),
    ]


def _more_blankets(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    return [
        _Made(f"{count}blankets", _figures(room, _screened(arrangement, *_blankets(room, arrangement, count))))
        for count in range(_BLANKETS + 1)
    ]


def _screened(arrangement: ArrangementDoc, *screens: ScreenDoc) -> ArrangementDoc:
    return arrangement.model_copy(update={"screens": list(screens)})


def _blankets(room: RoomDoc, arrangement: ArrangementDoc, count: int) -> list[ScreenDoc]:
    """Behind the performer, then to either side of that, each turned to the performer, kept inside the room."""
    mouth = np.array(arrangement.performer.at)
    back = np.radians(arrangement.performer.faces_deg + 180)
    made = []
    for turn in (0.0, 70.0, -70.0)[:count]:
        towards = np.array([np.cos(back + np.radians(turn)), np.sin(back + np.radians(turn))])
        plan = np.array(room.shape.plan)
        low, high = plan.min(axis=0) + 0.08, plan.max(axis=0) - 0.08
        x, y = np.clip(mouth[:2] + towards * _BEHIND_M, low, high)
        facing = float(np.degrees(np.arctan2(-towards[1], -towards[0])))
        made.append(
            ScreenDoc(
                at=(float(x), float(y), 0.1), faces_deg=facing, width_m=_BLANKET_M[0] / 1.4, height_m=_BLANKET_M[1]
            )
        )
    return made


def _gains(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    """A quieter and a louder dial: what the room and the microphone make rises along, the recorder's own does not."""
    plain = _figures(room, arrangement)
    return [
        _Made("low", {"level": plain["level"], "hush": plain["hush"]}),
        _Made("high", {"level": plain["level"] + _GAIN_STEP_DB, "hush": plain["hush"]}),
    ]


def _phones(room: RoomDoc, arrangement: ArrangementDoc) -> list[_Made]:
    core = scenario_of(room, arrangement).arrangement
    away = np.array([float(np.linalg.norm(np.subtract(core.performer.at, core.microphone.at)))])
    return [_Made(cups, {"bleed": float(bleed_under_db(core, away, cups=cups)[0])}) for cups in ("closed", "open")]


_SERIES: Final[dict[str, Callable[[RoomDoc, ArrangementDoc], list[_Made]]]] = {
    "distance": _distances,
    "angle": _angles,
    "round": _round,
    "behind": _behind,
    "blankets": _more_blankets,
    "gains": _gains,
    "phones": _phones,
}

"""How far from the microphone: what every distance gives in this room, and the span that gives what is wanted."""

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from keenquiet.advice.placing import distance_sentence, limit_words, usual_sentence
from keenquiet.core.errors import InputError
from keenquiet.core.judge.distance_curve import LIFT_HZ, OWN_NOISE_DBA, PINS, ROLES, distance_curve
from keenquiet.core.judge.places import distance_between
from keenquiet.core.judge.usual import usual_m
from keenquiet.core.waves.bleed import bleed_under_db
from keenquiet.core.waves.puff import SCREENS
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import Answer, Gaps, Num, Numbers, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question


class DistanceAsk(ArrangementAsk):
    """role : `lead`, `backing`, `soloist` or `section`. screen : `none`, `on` the capsule or `off` it."""

    role: Annotated[str, Field(max_length=20)] = "lead"
    screen: Annotated[str, Field(max_length=20)] = "none"


class LimitAnswer(Answer):
    """end : of the span. mark : which of the four ends it. words : why, as a musician says it."""

    end: Literal["near", "far"]
    mark: str
    words: str


class SpanAnswer(Answer):
    """Distances that give all that is wanted. meets : False where none does; then where least is lacking."""

    from_m: Num
    to_m: Num
    meets: bool
    limits: list[LimitAnswer]


class PinAnswer(Answer):
    """A usual piece of advice, and what it gives here; null where no microphone can stand."""

    name: str
    distance_m: Num
    bounce_db: NumOrNone
    under_noise_db: NumOrNone
    proximity_db: Num
    puff: Num
    sway_db: Num
    sounds_m: NumOrNone


class LiftAnswer(Answer):
    f_hz: Num
    db: Numbers


class DistanceAnswer(Answer):
    """Contract of `distance`. By distance, null where no microphone can stand. [m, dB]

    room_noise_db, own_noise_db : how far the room's and the chain's own noise lie under the performance, under_noise_db
    both, quietest_db both under a quietest phrase. lift : of bass, beside proximity_db at 100 Hz. puff : push of a puff
    against 10 cm straight on. sway_db, sway_bass_db : of 5 cm nearer. sounds_m : as far away as this much room sounds.
    bleed_db : how far the owned headphones' leak lies under the performance, null without any. usual_m : from and to,
    where practice puts such a microphone.
    """

    distance_m: Numbers
    bounce_db: Gaps
    under_noise_db: Gaps
    room_noise_db: Gaps
    own_noise_db: Gaps
    quietest_db: Gaps
    proximity_db: Numbers
    lift: list[LiftAnswer]
    puff: Numbers
    sway_db: Numbers
    sway_bass_db: Numbers
    sounds_m: Gaps
    bleed_db: Numbers | None
    span: SpanAnswer | None
    usual_m: tuple[Num, Num]
    pins: list[PinAnswer]
    here_m: Num
    role: str
    own_noise_dba: Num
    sentence: str
    flags: list[str]


_PINNED = ("bounce_db", "under_noise_db", "proximity_db", "puff", "sway_db", "sounds_m")


def distances(case: Case, asked: DistanceAsk) -> DistanceAnswer:
    """What every distance between performer and microphone gives here, and the span that gives what is wanted.

    Raises InputError for an unknown role or screen.
    """
    for field, value, known in (("role", asked.role, ROLES), ("screen", asked.screen, SCREENS)):
        if value not in known:
            raise InputError(field, f"{value!r} is not one.", f"Use one of {', '.join(known)}.")
    stand, cups = case.stand, case.room.brief.owned.headphones
    own, named = own_noise_dba(case.room, stand.microphone.pattern)
    curve = distance_curve(
        case.acoustics, stand, case.wanted, hour=case.scenario.hour, role=asked.role, own_noise_dba=own,
        screen=asked.screen,
    )  # fmt: skip
    here = distance_between(stand)
    usual = usual_m(stand.performer.source.key, dynamic=case.doc.microphone.type == "dynamic")
    span = curve.span

    def at(name: str, distance_m: float) -> Any:
        return float(np.interp(np.log(distance_m), np.log(curve.distance_m), getattr(curve, name)))

    return DistanceAnswer.out_of(
        curve,
        lift=[LiftAnswer(f_hz=f, db=curve.lift_db[:, i]) for i, f in enumerate(LIFT_HZ)],
        bleed_db=None if cups == "none" else bleed_under_db(stand, curve.distance_m, cups=cups),
        span=None
        if span is None
        else SpanAnswer.out_of(span, limits=[LimitAnswer.out_of(lim, words=limit_words(lim)) for lim in span.limits]),
        pins=[PinAnswer(name=name, distance_m=d, **{one: at(one, d) for one in _PINNED}) for name, d in PINS],
        usual_m=usual,
        here_m=here,
        role=asked.role,
        own_noise_dba=own,
        sentence=distance_sentence(curve, here) + usual_sentence(usual),
        flags=case.flags(own_noise_generic=not named),
    )


def own_noise_dba(room: RoomDoc, pattern: str) -> tuple[float, bool]:
    """The own noise of the quietest owned microphone of a pattern, else a common one; whether it is known. [dB(A)]"""
    known = [
        mic.own_noise_dba
        for mic in room.brief.owned.microphones
        if mic.pattern == pattern and mic.own_noise_dba is not None
    ]
    return (min(known), True) if known else (OWN_NOISE_DBA, False)


DISTANCE = Question("distance", DistanceAsk, DistanceAnswer, distances)

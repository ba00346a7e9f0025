"""Where to stand, how far from the microphone, how to aim, where to listen: of a document's arrangement."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any, Final

import numpy as np

from keenquiet.advice.placing import (
    aim_words,
    distance_sentence,
    front_words,
    limit_words,
    listening_sentence,
    map_sentence,
    null_words,
    spot_reasons,
    triangle_words,
    usual_sentence,
)
from keenquiet.advice.schools import school_words
from keenquiet.advice.surfaces import surface_words
from keenquiet.advice.taping import wall_words
from keenquiet.core.edits import Edit, Place
from keenquiet.core.errors import InputError
from keenquiet.core.judge.aim import (
    Aimed,
    gathered_from_front,
    loud_notes,
    null_deg,
    null_towards_noise,
    past_the_mouth,
)
from keenquiet.core.judge.distance_curve import LIFT_HZ, OWN_NOISE_DBA, PINS, ROLES, distance_curve
from keenquiet.core.judge.forecast import Acoustics, forecast
from keenquiet.core.judge.listening import Found, best_listening, listening_place
from keenquiet.core.judge.places import distance_between, placing
from keenquiet.core.judge.schools import School, closet_or_room, schools
from keenquiet.core.judge.spots import lifted, place_map
from keenquiet.core.judge.treat_schools import treat_schools
from keenquiet.core.judge.usual import usual_m
from keenquiet.core.room.room import Room
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.bleed import bleed_under_db
from keenquiet.core.waves.puff import FROM_THE_MOUTH, SCREENS
from keenquiet.documents.edits import edit_doc
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.forecast import curve_answer
from keenquiet.service.answers.marks import wanted_of
from keenquiet.service.answers.placing import (
    AimAnswer,
    AimedAnswer,
    BestListening,
    BestSpot,
    CancellationAnswer,
    DistanceAnswer,
    LiftAnswer,
    LimitAnswer,
    ListeningAnswer,
    MapAnswer,
    NullAnswer,
    PinAnswer,
    ReturnAnswer,
    SchoolAnswer,
    SchoolsAnswer,
    SchoolSide,
    SpanAnswer,
    StandsAt,
    TriangleAnswer,
)
from keenquiet.service.predict import acoustics_of, prices_of

_CLOSET_SHARE: Final = 0.5  # of a place's volume: two rooms alike are no closet and room
_UNITS = {"bounce": "dB", "boom": "s", "hush": "dB", "all": "lacking"}


def distance_answer(
    room: RoomDoc, arrangement_id: str | None = None, *, role: str = "lead", screen: str = "none"
) -> DistanceAnswer:
    """Contract of `distance`. Raises InputError for an unknown role or screen."""
    for field, value, known in (("role", role, ROLES), ("screen", screen, SCREENS)):
        if value not in known:
            raise InputError(field, f"{value!r} is not one.", f"Use one of {', '.join(known)}.")
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    arrangement = scenario.arrangement
    own, named = own_noise_dba(room, arrangement.microphone.pattern)
    curve = distance_curve(
        acoustics, arrangement, wanted_of(room), hour=scenario.hour, role=role, own_noise_dba=own, screen=screen
    )
    here = distance_between(arrangement)
    usual = usual_m(arrangement.performer.source.key, dynamic=doc.microphone.type == "dynamic")
    span = curve.span
    cups = room.brief.owned.headphones

    def at(values: Any, distance_m: float) -> float:
        return float(np.interp(np.log(distance_m), np.log(curve.distance_m), values))

    return DistanceAnswer(
        distance_m=curve.distance_m,
        bounce_db=curve.bounce_db,
        under_noise_db=curve.under_noise_db,
        room_noise_db=curve.room_noise_db,
        own_noise_db=curve.own_noise_db,
        quietest_db=curve.quietest_db,
        proximity_db=curve.proximity_db,
        lift=[LiftAnswer(f_hz=f, db=curve.lift_db[:, i]) for i, f in enumerate(LIFT_HZ)],
        puff=curve.puff,
        sway_db=curve.sway_db,
        sway_bass_db=curve.sway_bass_db,
        sounds_m=curve.sounds_m,
        bleed_db=None if cups == "none" else bleed_under_db(arrangement, curve.distance_m, cups=cups),
        span=None
        if span is None
        else SpanAnswer(
            from_m=span.from_m,
            to_m=span.to_m,
            meets=span.meets,
            limits=[LimitAnswer(end=lim.end, mark=lim.mark, words=limit_words(lim)) for lim in span.limits],
        ),
        pins=[
            PinAnswer(
                name=name,
                distance_m=d,
                bounce_db=at(curve.bounce_db, d),
                under_noise_db=at(curve.under_noise_db, d),
                proximity_db=at(curve.proximity_db, d),
                puff=at(curve.puff, d),
                sway_db=at(curve.sway_db, d),
                sounds_m=at(curve.sounds_m, d),
            )
            for name, d in PINS
        ],
        usual_m=usual,
        here_m=here,
        role=role,
        own_noise_dba=own,
        sentence=distance_sentence(curve, here) + usual_sentence(usual),
        flags=[*([] if named else ["own_noise_generic"]), *([] if acoustics.room.noises else ["noise_unknown"])],
    )


def own_noise_dba(room: RoomDoc, pattern: str) -> tuple[float, bool]:
    """The own noise of the quietest owned microphone of a pattern, else a common one; whether it is known. [dB(A)]"""
    known = [
        mic.own_noise_dba
        for mic in room.brief.owned.microphones
        if mic.pattern == pattern and mic.own_noise_dba is not None
    ]
    return (min(known), True) if known else (OWN_NOISE_DBA, False)


def map_answer(
    room: RoomDoc,
    arrangement_id: str | None = None,
    *,
    mark: str = "all",
    height_m: float | None = None,
    step_m: float = 0.1,
) -> MapAnswer:
    """Contract of `map`."""
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    wanted, frame = wanted_of(room), Frame.of(room)
    if height_m is not None and not 0.3 <= height_m < scenario.room.shape.highest_m:
        raise InputError("height", f"nobody's mouth is at {height_m:.2f} m here.", "Between 0.3 m and the ceiling.")
    arrangement = lifted(scenario.arrangement, height_m)
    found = place_map(acoustics, arrangement, wanted, mark=mark, step_m=step_m, hour=scenario.hour)
    now = found.now
    best = []
    for spot in found.best:
        edits: list[Edit] = [*placing(spot.arrangement)]
        at = spot.arrangement.performer
        best.append(
            BestSpot(
                at=(at.at[0] + frame.offset[0], at.at[1] + frame.offset[1]),
                faces_deg=at.faces_deg,
                bounce_db=spot.result.bounce.direct_over_room_db.value,
                boom_s=spot.result.boom.ring_s.value,
                hush_db=spot.result.hush.under_performance_db.value if now.hush.known else None,
                reasons=spot_reasons(spot, now),
                edits=[edit_doc(edit, frame) for edit in edits],
            )
        )
    return MapAnswer(
        mark=mark,
        unit=_UNITS[mark],
        better="less" if mark in ("boom", "all") else "more",
        x_m=found.x_m + frame.offset[0],
        y_m=found.y_m + frame.offset[1],
        value=np.round(found.value, 3).tolist(),
        faces_deg=found.faces_deg.tolist(),
        best=best,
        here=found.here,
        step_m=found.step_m,
        clear_m=found.clear_m,
        sentence=map_sentence(found.best, found.lacks_now, found.clear_m),
        flags=[*([] if acoustics.room.noises else ["noise_unknown"]), *([] if found.wired else ["cable_too_short"])],
    )


def listening_answer(
    room: RoomDoc, arrangement_id: str | None = None, *, search: bool = False, free: bool = False
) -> ListeningAnswer:
    """Contract of `listening`. free : the search leaves the walls' middle lines, too."""
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    arrangement, space = scenario.arrangement, acoustics.room
    place = listening_place(acoustics, arrangement)
    frame = Frame.of(room)
    ear = arrangement.chair.at[2] if arrangement.chair else 1.2
    found = best_listening(acoustics, ear_m=ear, free=free) if search or free else []
    seated = replace(arrangement, performer=replace(arrangement.performer, faces_deg=_chair_facing(arrangement)))
    walls = [_best_listening(best, space, frame) for best in found]
    flags = [] if place else ["no_monitors" if not arrangement.monitors else "no_chair"]
    best = found[0] if found else None
    return ListeningAnswer(
        swing_db=place.swing_db if place else None,
        response=None if place is None else curve_answer(place.f_hz, place.response_db, place.f_hz[-1]),
        cancellations=[
            CancellationAnswer(
                monitor=c.monitor + 1,
                boundary=space.surface_name(c.face),
                where=surface_words(space, c.face, seated),
                f_hz=c.f_hz,
                depth_db=c.depth_db,
            )
            for c in (place.cancellations if place else ())
        ],
        early=[
            ReturnAnswer(
                monitor=r.monitor + 1,
                where=surface_words(space, r.face, seated),
                delay_ms=r.delay_s * 1000,
                level_db=r.level_db,
            )
            for r in (place.early if place else ())
        ],
        symmetry_db=place.symmetry_db if place else None,
        triangle=None
        if place is None
        else TriangleAnswer(**{**place.triangle.__dict__, "words": triangle_words(place.triangle, space.volume_m3)}),
        objective_db=place.objective_db if place else None,
        best=walls[0] if walls else None,
        walls=walls,
        sentence=listening_sentence(place, best, walls[0].wall if walls else "", searched=search or free),
        flags=flags,
    )


def _chair_facing(arrangement: Any) -> float:
    return float(arrangement.chair.faces_deg if arrangement.chair else arrangement.performer.faces_deg)


def _best_listening(found: Found, room: Room, frame: Frame) -> BestListening:
    offset = (*frame.offset, 0.0)

    def stands(at: Any, faces_deg: float) -> StandsAt:
        return StandsAt(at=tuple(a + o for a, o in zip(at, offset, strict=True)), faces_deg=faces_deg)

    edits: list[Edit] = [
        *(Place(f"monitor-{i + 1}", m.at, m.faces_deg) for i, m in enumerate(found.monitors)),
        Place("chair", found.chair.at, found.chair.faces_deg),
    ]
    start, end = (room.shape.corners[i % len(room.shape.plan)] for i in (found.wall, found.wall + 1))
    return BestListening(
        wall=wall_words(room, found.wall),
        wall_m=float(np.linalg.norm(end - start)),
        monitors=[stands(m.at, m.faces_deg) for m in found.monitors],
        listener=stands(found.chair.at, found.chair.faces_deg),
        swing_db=found.swing_db,
        early_db=found.early_db,
        symmetry_db=found.symmetry_db,
        objective_db=found.objective_db,
        edits=[edit_doc(edit, frame) for edit in edits],
    )


def aim_answer(room: RoomDoc, arrangement_id: str | None = None) -> AimAnswer:
    """How the angle between performer and microphone trades level, bass, treble, breath and noise."""
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    arrangement, speed = scenario.arrangement, acoustics.room.air.speed_m_s
    mic, frame = arrangement.microphone, Frame.of(room)
    null = null_towards_noise(acoustics, arrangement, hour=scenario.hour)
    voice = arrangement.performer.source.key in FROM_THE_MOUTH
    turned = "Turn the head by 45°" if voice else "Turn it by 45°"
    names = {"turn": turned, "tilt": "Tilt the microphone by 45°", "step-back": "Go twice as far"}
    return AimAnswer(
        past=[_aimed(f"{one.angle_deg:.0f}° past it", one) for one in past_the_mouth(arrangement, speed_m_s=speed)],
        loud=[_aimed(names[key], one) for key, one in loud_notes(arrangement, speed_m_s=speed).items()],
        null_deg=null_deg(mic.a),
        null=None
        if null is None
        else NullAnswer(
            **null.__dict__,
            words=null_words(null),
            edits=[edit_doc(Place("microphone", mic.at, null.aims_deg, null.tilt_deg), frame)],
        ),
        front_share=gathered_from_front(mic.a),
        front_words=front_words(mic.pattern, mic.a),
        aim_at=aim_words(arrangement.performer.source.key),
    )


def _aimed(name: str, one: Aimed) -> AimedAnswer:
    return AimedAnswer(**one.__dict__, name=name)


def schools_answer(
    room: RoomDoc, arrangement_id: str | None = None, *, others: Sequence[RoomDoc] = ()
) -> SchoolsAnswer:
    """What practitioners disagree on, both sides computed in this room. others : places that are at hand, too."""
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    listed = [_school(school) for school in schools(scenario, acoustics, wanted_of(room))]
    return SchoolsAnswer(schools=[*_closet(room, scenario, acoustics, others), *listed])


def treat_schools_answer(room: RoomDoc, arrangement_id: str | None = None) -> SchoolsAnswer:
    """What practitioners disagree on about treatment, both sides computed in this room, for the same money."""
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    list_ = prices_of(room)
    prices = {key: list_.price(key) for key in ("panel", "panel-50", "panel-150", "foam-25")}
    found = treat_schools(scenario, acoustics, wanted_of(room), prices)
    return SchoolsAnswer(schools=[_school(school) for school in found])


def _closet(
    room: RoomDoc, scenario: Scenario, acoustics: Acoustics, others: Sequence[RoomDoc]
) -> Iterator[SchoolAnswer]:
    """The smallest place at hand against the largest, where this room is one of both."""
    sizes = [(Frame.of(other).shape.volume_m3, other) for other in others if other.arrangements]
    here = acoustics.room.volume_m3
    smaller = [size for size in sizes if size[0] < _CLOSET_SHARE * here]
    larger = [size for size in sizes if here < _CLOSET_SHARE * size[0]]
    if not smaller and not larger:
        return
    _, other = min(smaller, key=lambda size: size[0]) if smaller else max(larger, key=lambda size: size[0])
    there, beside = acoustics_of(other, other.arrangement_doc(None))
    both = [
        (room, forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)),
        (other, forecast(beside, there.arrangement, hour=scenario.hour, uncertainty=False)),
    ]
    closet, big = sorted(both, key=lambda one: one[1].room.volume_m3)
    yield _school(closet_or_room(closet[1], big[1], wanted_of(room)), {"closet": closet[0].name, "room": big[0].name})


def _school(school: School, names: Mapping[str, str] | None = None) -> SchoolAnswer:
    words = school_words(school, names)
    return SchoolAnswer(
        key=school.key,
        question=words.question,
        sides=[
            SchoolSide(key=key, name=name, gives=gives, wins=key == school.winner) for key, name, gives in words.sides
        ],
        verdict=words.verdict,
        too_close=school.winner is None,
        facts={side: dict(facts) for side, facts in school.facts.items()},
    )

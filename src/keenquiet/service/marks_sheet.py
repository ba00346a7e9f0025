"""The marks sheet of an arrangement: where everybody stands by tape, and what else has to be as it was."""

import numpy as np

from keenquiet.advice.placing import way_words
from keenquiet.advice.taping import CAUTIONS, MICROPHONE_CAUTIONS, PROOF, by_hand, chain_words, wall_words
from keenquiet.core.judge.forecast import forecast
from keenquiet.core.room.room import Point, Room
from keenquiet.core.room.taping import Taped, taped
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import ChainDoc, RoomDoc
from keenquiet.export.marks_sheet import Line, marks_pdf
from keenquiet.export.sheet import sheet_of
from keenquiet.service.answers.sheet import MarksSheet, TapedMark
from keenquiet.service.predict import acoustics_of
from keenquiet.service.reaching import stand_lines


def sheet_answer(room: RoomDoc, arrangement_id: str | None = None, *, last: ChainDoc | None = None) -> MarksSheet:
    """Everything of it; the same for the phone, where one mark is put back at a time. last : how the chain was set when
    something was last recorded.
    """
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    arrangement, space = scenario.arrangement, acoustics.room
    frame = Frame.of(room)
    marks = [_marked(*one, room=space, frame=frame) for one in _who(scenario)]
    result = forecast(acoustics, arrangement, hour=scenario.hour, uncertainty=False)
    mic = arrangement.microphone
    return MarksSheet(
        room=room.name,
        arrangement=doc.name or doc.id,
        marks=marks,
        mouth_to_mic_m=result.touch.distance_m,
        off_axis_deg=result.touch.off_axis_deg,
        stand=stand_lines(room, space, mic.at),
        settings=[*_settings(room, scenario), *chain_words(doc.microphone.type, doc.chain.model_dump())],
        sounding=_sounding(arrangement.performer.source.key),
        by_hand=by_hand(doc.chain.model_dump(), breath=arrangement.performer.source.key in FROM_THE_MOUTH),
        chain=doc.chain,
        last=last,
        cautions=[words for kind, words in MICROPHONE_CAUTIONS.items() if kind == doc.microphone.type],
        proof=PROOF,
        bounce_db=result.bounce.direct_over_room_db.value,
    )


def sheet_pdf(room: RoomDoc, arrangement_id: str | None = None) -> bytes:
    """The same as one printable page."""
    answer = sheet_answer(room, arrangement_id)
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    space = acoustics.room
    lines = []
    for mark, (_, _, at, _, _) in zip(answer.marks, _who(scenario), strict=True):
        found = taped(space.shape, np.array(at[:2]))
        for wall, away in zip(found.walls, found.away_m, strict=True):
            foot = np.array(at[:2]) - space.faces[wall].normal[:2] * away
            lines.append(Line(np.array(at[:2]), foot, f"{away:.2f}", mark.who))
    return marks_pdf(answer.model_dump(), sheet_of(space, scenario.arrangement, "plan"), lines, CAUTIONS)


def _who(scenario: Scenario) -> list[tuple[str, str, Point, float, str]]:
    """Everybody with a name, a place, a way to face and what else is to be told of them."""
    now = scenario.arrangement
    mic = now.microphone
    tilt = f", tilted {abs(mic.tilt_deg):.0f}° {'up' if mic.tilt_deg > 0 else 'down'}" if abs(mic.tilt_deg) >= 1 else ""
    listed: list[tuple[str, str, Point, float, str]] = [
        (
            "performer",
            f"Performer, {_sounding(now.performer.source.key)}",
            now.performer.at,
            now.performer.faces_deg,
            now.performer.source.name,
        ),
        ("microphone", "Microphone, capsule", mic.at, mic.aims_deg, f"{mic.pattern}, front to you{tilt}"),
    ]
    if now.second_microphone is not None:
        other = now.second_microphone
        listed.append(("second-microphone", "Second microphone", other.at, other.aims_deg, other.pattern))
    listed += [
        (f"monitor-{i + 1}", f"Monitor {i + 1}", monitor.at, monitor.faces_deg, "front, at its tweeter")
        for i, monitor in enumerate(now.monitors)
    ]
    if now.chair is not None:
        listed.append(("chair", "Chair, ears", now.chair.at, now.chair.faces_deg, ""))
    if now.laptop is not None:
        listed.append(("laptop", "Laptop, its screen", now.laptop.at, now.laptop.faces_deg, "screen to you"))
    listed += [
        (
            f"screen-{i + 1}",
            f"Screen {i + 1}, {screen.kind}",
            screen.at,
            screen.faces_deg,
            f"{screen.width_m:.2f} m wide",
        )
        for i, screen in enumerate(now.screens)
    ]
    return listed


def _sounding(source: str) -> str:
    """What of a performer the microphone listens to."""
    return "mouth" if source in FROM_THE_MOUTH else "instrument"


def _marked(who: str, name: str, at: Point, faces_deg: float, says: str, *, room: Room, frame: Frame) -> TapedMark:
    found: Taped = taped(room.shape, np.array(at[:2]))
    walls = tuple(
        wall_words(room, wall) + ("" if on else ", its line drawn on")
        for wall, on in zip(found.walls, found.on_wall, strict=True)
    )
    return TapedMark(
        who=who,
        name=name,
        walls=(walls[0], walls[1]),
        away_m=found.away_m,
        height_m=at[2],
        faces=f"{way_words(faces_deg)} ({faces_deg % 360:.0f}°)",
        says=says,
        at=(at[0] + frame.offset[0], at[1] + frame.offset[1], at[2]),
    )


def _settings(room: RoomDoc, scenario: Scenario) -> list[tuple[str, str]]:
    hour = "any" if scenario.hour is None else f"{int(scenario.hour):02d}:{round(scenario.hour % 1 * 60):02d}"
    off = ", ".join(scenario.silenced) or "nothing"
    return [
        ("Temperature", f"{room.air.temperature_c:.0f} °C"),
        ("Hour", hour),
        ("Switched off", off),
        ("Gain", f"{scenario.gain_db:+.0f} dB from the usual".replace("-", "−") if scenario.gain_db else "as usual"),
    ]

"""The marks sheet of an arrangement: where everybody stands by tape, and what else has to be as it was."""

import numpy as np

from keenquiet.advice.placing import way_words
from keenquiet.advice.taping import CAUTIONS, MICROPHONE_CAUTIONS, PROOF, by_hand, chain_words, wall_words
from keenquiet.core.room.room import Arrangement, Point
from keenquiet.core.room.taping import Taped, taped
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.documents.schema import ChainDoc, RoomDoc
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Filed, Question
from keenquiet.service.questions.reach import stand_lines
from keenquiet.service.standing import kept_readings


class TapedMark(Answer):
    """Somebody's place as two lengths of tape and a height. walls : as a musician calls them, with their number."""

    who: str
    name: str
    walls: tuple[str, str]
    away_m: tuple[Num, Num]
    height_m: Num
    faces: str
    says: str
    at: tuple[Num, Num, Num]


class MarksSheet(Answer):
    """One page. settings : what is known of the chain, name and value; by_hand : what only the person knows and has not
    said; chain : what they said; last : what they said when something was last recorded; cautions : of the
    microphone's kind.
    sounding : mouth or instrument.
    """

    room: str
    arrangement: str
    marks: list[TapedMark]
    sounding: str
    mouth_to_mic_m: Num
    off_axis_deg: Num
    stand: list[str]
    settings: list[tuple[str, str]]
    by_hand: list[str]
    chain: ChainDoc = ChainDoc()
    last: ChainDoc | None = None
    cautions: list[str] = []
    proof: str
    bounce_db: NumOrNone


def marks_sheet(case: Case, asked: ArrangementAsk) -> MarksSheet:
    """Where everybody stands by tape, and what else has to be as it was; for the phone, too, where one mark is put back
    at a time.
    """
    doc, stand = case.doc, case.stand
    source, chain = stand.performer.source.key, doc.chain.model_dump()
    return MarksSheet(
        room=case.room.name,
        arrangement=doc.name or doc.id,
        marks=[_marked(*one, case=case) for one in _who(stand)],
        mouth_to_mic_m=case.now.touch.distance_m,
        off_axis_deg=case.now.touch.off_axis_deg,
        stand=stand_lines(case),
        settings=[*_settings(case.room, case.scenario), *chain_words(doc.microphone.type, chain)],
        sounding=_sounding(source),
        by_hand=by_hand(chain, breath=source in FROM_THE_MOUTH),
        chain=doc.chain,
        last=_last_chain(case),
        cautions=[words for kind, words in MICROPHONE_CAUTIONS.items() if kind == doc.microphone.type],
        proof=PROOF,
        bounce_db=case.now.bounce.direct_over_room_db.value,
    )


_LAST = 50  # readings among which somebody wrote down how the chain was set


def _last_chain(case: Case) -> ChainDoc | None:
    """How the chain was set when something was last recorded in a kept room, where anybody wrote it down."""
    rows = () if case.data is None or case.room_id is None else kept_readings(case.data, case.room_id)
    whole = (row.arrangement.chain for row in rows[:_LAST] if row.is_whole)
    return next((chain for chain in whole if chain != ChainDoc()), None)


def marks_sheet_pdf(case: Case, asked: ArrangementAsk) -> bytes:
    """The marks sheet as one printable page."""
    from keenquiet.export.marks_sheet import Line, marks_pdf  # a library of its own, for this alone
    from keenquiet.export.sheet import sheet_of

    space = case.space
    lines = []
    for who, _, at, _, _ in _who(case.stand):
        found = taped(space.shape, np.array(at[:2]))
        for wall, away in zip(found.walls, found.away_m, strict=True):
            foot = np.array(at[:2]) - space.faces[wall].normal[:2] * away
            lines.append(Line(np.array(at[:2]), foot, f"{away:.2f}", who))
    told = marks_sheet(case, asked).model_dump()
    return marks_pdf(told, sheet_of(space, case.stand, "plan"), lines, CAUTIONS)


def _who(now: Arrangement) -> list[tuple[str, str, Point, float, str]]:
    """Everybody with a name, a place, a way to face and what else is to be told of them."""
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


def _marked(who: str, name: str, at: Point, faces_deg: float, says: str, *, case: Case) -> TapedMark:
    found: Taped = taped(case.space.shape, np.array(at[:2]))
    walls = tuple(
        wall_words(case.space, wall) + ("" if on else ", its line drawn on")
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
        at=case.frame.document(at),
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


MARKS_SHEET = Question(
    "marks-sheet", ArrangementAsk, MarksSheet, marks_sheet, files={"pdf": Filed("application/pdf", marks_sheet_pdf)}
)

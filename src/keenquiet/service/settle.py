"""What readings settle beyond the marks: a fit of the description to them, and which of several places to use."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Final

import numpy as np

from keenquiet.advice.fit import moved_words, unexplained_words
from keenquiet.advice.places import recommendation, trait_words
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.judge.fit import Fit, fitted
from keenquiet.core.judge.forecast import Forecast, forecast
from keenquiet.core.judge.which_place import Candidate, ranked
from keenquiet.core.read.ringing import Note
from keenquiet.documents.convert import read_room
from keenquiet.documents.frame import Frame
from keenquiet.documents.scene import MATTERS
from keenquiet.documents.schema import ArrangementDoc, FitDoc, RoomDoc
from keenquiet.service.answers.forecast import shape_answer
from keenquiet.service.answers.marks import Known, MeasuredMark, as_measured, marks_of, wanted_of
from keenquiet.service.answers.readings import ResponseResult
from keenquiet.service.answers.settled import (
    FitAnswer,
    FitMarks,
    FitNote,
    FitOctave,
    LeftOut,
    PlaceAnswer,
    PlacesAnswer,
    UnexplainedAnswer,
)
from keenquiet.service.briefs import result_of
from keenquiet.service.candidates import with_somebody
from keenquiet.service.data import Data, room_row
from keenquiet.service.kinds import of_form
from keenquiet.service.known import as_heard, known_of
from keenquiet.service.predict import acoustics_of, find_modes, predict
from keenquiet.service.readings import row_of
from keenquiet.service.rooms import list_rooms
from keenquiet.service.standing import Standing, since_words

_QUIET_HOURS: Final = tuple(h / 2 for h in range(16, 46))
_MOVED: Final = 0.1  # log change of an octave's absorption that is worth telling


def fit_to(
    room: RoomDoc,
    arrangement: ArrangementDoc,
    results: list[ResponseResult],
    report: Callable[[float], None] | None = None,
) -> FitAnswer:
    """A fit of a document to the figures of readings taken in it, newest first.

    Decay by octave is the median over readings; notes come from the newest that has any.
    """
    bare = room.model_copy(update={"fit": None})
    _, acoustics = acoustics_of(bare, arrangement)
    decays = np.full((max(len(results), 1), 8), np.nan)
    for row, result in enumerate(results):
        for band in result.bands:
            if band.decay_s is not None and band.centre_hz in OCTAVES_HZ:
                decays[row, OCTAVES_HZ.index(int(band.centre_hz))] = band.decay_s
    notes = next((result.ringing for result in results if result.ringing), [])
    with np.errstate(all="ignore"):
        middle = np.array([np.median(c[np.isfinite(c)]) if np.any(np.isfinite(c)) else np.nan for c in decays.T])
    heard = tuple(Note(n.f_hz, n.t60_s, n.level_db) for n in notes)
    found = fitted(acoustics.room, decay_s=middle, notes=heard, report=report)
    return fit_answer(found, room, arrangement)


def fit_answer(found: Fit, room: RoomDoc, arrangement: ArrangementDoc) -> FitAnswer:
    """Before and after, what moved, what is left unexplained, and the `fit` to keep in the document."""
    keep = FitDoc.model_validate(
        {
            "absorption_factor": {str(f): round(float(x), 3) for f, x in zip(OCTAVES_HZ, found.factor, strict=True)},
            "mode_losses": [{"f_hz": round(f, 2), "rate_per_s": round(rate, 3)} for f, rate in found.mode_losses],
            "spread": round(found.spread, 3),
        }
    )
    here = {"arrangements": [arrangement]}
    before, after = (
        marks_of(predict(room.model_copy(update={**here, "fit": fit}), arrangement.id), wanted_of(room))
        for fit in (None, keep)
    )
    return FitAnswer(
        fit=keep,
        octaves=[
            FitOctave(
                centre_hz=f,
                measured_s=found.measured_s[i],
                before_s=found.before_s[i],
                after_s=found.after_s[i],
                factor=found.factor[i],
            )
            for i, f in enumerate(OCTAVES_HZ)
        ],
        notes=[
            FitNote(f_hz=n.f_hz, measured_s=n.t60_s, mode_hz=n.mode_hz, before_s=n.before_s, after_s=n.after_s)
            for n in found.notes
        ],
        moved=[
            moved_words(f, float(x)) for f, x in zip(OCTAVES_HZ, found.factor, strict=True) if abs(np.log(x)) > _MOVED
        ],
        unexplained=[
            UnexplainedAnswer(what=what, look_for=look_for)
            for what, look_for in map(unexplained_words, found.unexplained)
        ],
        marks=FitMarks(before=before, after=after),
    )


def fit_room(data: Data, room_id: str, *, report: Callable[[float], None] | None = None) -> FitAnswer:
    """Fit the room as it stands to its usable readings: real ones alone when there are any, else simulated ones.

    Readings of a room that was another then (walls, furniture, what hung) are left out, and said. Where somebody stood
    does not matter: decays and notes belong to the room.
    """
    with data.database.session() as session:
        room = with_somebody(read_room(room_row(session, room_id).document))
    arrangement = room.arrangement_doc(None)
    standing = Standing.of(data, room_id, room, arrangement)
    rows = [row for row in standing.rows if row.kind in of_form("response")]
    real = [row for row in rows if not row.simulated]
    used = real or rows
    if not used:
        raise InputError("readings", "there is no sweep or clap to fit to.", "Take a reading first.")
    of_the_room = MATTERS["boom"] - {"performer", "source", "microphone", "pattern"}
    changed = {row.id: tuple(d for d in standing.differing(row) if d.part in of_the_room) for row in used}
    current = [row for row in used if not changed[row.id]]
    left_out = [words for row in used if (words := since_words(changed[row.id])) is not None]
    if not current:
        raise InputError(
            "readings",
            f"none was taken in the room as it stands: since then {left_out[0]} changed.",
            "Take a new reading.",
        )
    if report is not None:
        find_modes(room, partial(_within, report, 0.0, 0.1))
    results = [result for row in current if isinstance(result := result_of(row_of(data, row.id)), ResponseResult)]
    answer = fit_to(room, arrangement, results, report)
    return answer.model_copy(
        update={
            "readings": [row.id for row in current],
            "left_out": list(dict.fromkeys(left_out)),
            "simulated": not real,
        }
    )


_MOST_PLACES: Final = 40  # the ones changed last: more are no choice, and take their time and memory
_TOO_MANY: Final = f"More than {_MOST_PLACES} places are too many to weigh at once. Give them projects, and choose one."


@dataclass(frozen=True)
class Place:
    """A document's arrangement to weigh, with what readings say of it."""

    key: str
    room: RoomDoc
    arrangement_id: str
    measured: Mapping[str, MeasuredMark] = field(default_factory=dict)
    standing: Standing | None = None


def compare_documents(places: list[Place], *, report: Callable[[float], None] | None = None) -> PlacesAnswer:
    """Places side by side, best first; one that cannot be weighed is told apart and spoils none of the others."""
    if not places:
        return PlacesAnswer(recommendation=recommendation([], {}), places=[])
    # one yardstick for all: what most of them are wanted for
    purposes = Counter(place.room.brief.purpose for place in places)
    brief = next(p.room.brief for p in places if p.room.brief.purpose == purposes.most_common(1)[0][0])
    wanted = wanted_of(places[0].room.model_copy(update={"brief": brief}))
    candidates, shown, left_out = [], {}, []
    for number, place in enumerate(places):
        name = _name(place, places)
        try:
            if report is not None:
                find_modes(place.room, partial(_within, report, number / len(places), 1 / len(places)))
            candidate, predicted, known = _weighed(place, name)
        except InputError as exc:
            left_out.append(LeftOut(key=place.key, name=name, why=f"{exc.reason} {exc.cure}"))
            continue
        candidates.append(candidate)
        result = candidate.forecast
        shape = shape_answer(result.room, Frame.of(place.room))
        shown[place.key] = {
            "key": place.key,
            "name": name,
            "arrangement_id": place.arrangement_id,
            "marks": marks_of(predicted, wanted, known),
            "measured": sorted(mark for mark, found in place.measured.items() if found.current),
            "changed": sorted({found.since for found in place.measured.values() if found.since}),
            "simulated": any(found.simulated for found in place.measured.values() if found.current),
            "guessed": place.room.guessed,
            "volume_m3": shape.volume_m3,
            "first_mode_hz": result.modes.f_hz[0],
        }
    verdicts = ranked(candidates, wanted=wanted)
    names = {c.key: c.name for c in candidates}
    return PlacesAnswer(
        recommendation=recommendation(verdicts, names),
        purpose=wanted.name,
        places=[
            PlaceAnswer.model_validate(
                {
                    **shown[v.key],
                    "deficits": v.deficits,
                    "total": v.total,
                    "reasons": [trait_words(trait) for trait in v.traits],
                    "would_change": None if v.would_change is None else trait_words(v.would_change),
                }
            )
            for v in verdicts
        ],
        left_out=left_out,
    )


def _within(report: Callable[[float], None], start: float, length: float, share: float) -> None:
    """Progress of a part as progress of the whole."""
    report(start + length * share)


def _name(place: Place, places: list[Place]) -> str:
    """The room's name, with the arrangement's where the room's alone says too little."""
    if len([other for other in places if other.room.name == place.room.name]) == 1:
        return place.room.name
    doc = place.room.arrangement_doc(place.arrangement_id)
    return f"{place.room.name}: {doc.name or doc.id}"


def _weighed(place: Place, name: str) -> tuple[Candidate, Forecast, Known]:
    """A place's forecast with what was measured put in its place, now and at its quietest hour."""
    doc = place.room.arrangement_doc(place.arrangement_id)
    room = place.room if place.standing is None else as_heard(place.room, place.standing)
    scenario, acoustics = acoustics_of(room, doc)
    predicted = forecast(acoustics, scenario.arrangement, hour=scenario.hour)
    known = Known(place.measured) if place.standing is None else known_of(place.standing, room, predicted)
    result = as_measured(predicted, known)
    # at its quietest hour: only noises that keep hours fall silent
    noises = scenario.described.noises
    running = [sum(noise.runs_at(hour) for noise in noises) for hour in _QUIET_HOURS]
    quiet = None
    if noises and min(running) < sum(noise.runs_at(scenario.hour) for noise in noises):
        best_hour = _QUIET_HOURS[int(np.argmin(running))]
        later = forecast(acoustics, scenario.arrangement, hour=best_hour, uncertainty=False)
        # what a silence said of the hour that stands leads over to the quiet one by what changes between them
        apart = later.hush.under_performance_db.value - predicted.hush.under_performance_db.value
        now = result.hush.under_performance_db
        quiet = replace(result, hush=replace(result.hush, under_performance_db=replace(now, value=now.value + apart)))
    return Candidate(place.key, name, result, quiet), predicted, known


def compare_places(
    data: Data, *, project: str | None = None, report: Callable[[float], None] | None = None
) -> PlacesAnswer:
    """All rooms of a project (or all rooms), each as it stands, with what was measured in it and still holds."""
    places: list[Place] = []
    broken: list[LeftOut] = []
    for row in list_rooms(data, project=project):
        try:
            with data.database.session() as session:
                room = with_somebody(read_room(room_row(session, row.id).document))
        except InputError as exc:
            broken.append(LeftOut(key=row.id, name=row.name, why=f"{exc.reason} {exc.cure}"))
            continue
        if len(places) == _MOST_PLACES:
            broken.append(LeftOut(key=row.id, name=row.name, why=_TOO_MANY))
            continue
        arrangement = room.arrangement_doc(None)
        standing = Standing.of(data, row.id, room, arrangement)
        places.append(Place(row.id, room, arrangement.id, standing.marks.by_mark(), standing))
    answer = compare_documents(places, report=report)
    return answer.model_copy(update={"left_out": [*answer.left_out, *broken]})

"""What readings settle beyond the marks: a fit of the description to them, and which of several places to use."""

from collections import Counter
from dataclasses import replace

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.judge.fit import Fit, fitted
from keenquiet.core.judge.forecast import Figure, Forecast, forecast
from keenquiet.core.judge.which_place import Candidate, ranked, recommendation
from keenquiet.core.read.ringing import Note
from keenquiet.documents import ArrangementDoc, Frame, RoomDoc, read_room
from keenquiet.service.answers import Json, marks_json, rounded, shape_json, wanted_of
from keenquiet.service.data import Data, room_row
from keenquiet.service.predict import acoustics_of, hour_of, predict
from keenquiet.service.reading import RESPONSES
from keenquiet.service.readings import measured_now
from keenquiet.service.rooms import list_rooms, reading_rows


def fit_to(room: RoomDoc, arrangement: ArrangementDoc, results: list[Json]) -> Json:
    """A fit of a document to the figures of readings taken in it (contract of `analyse ir`), newest first.

    Decay by octave is the median over readings; notes come from the newest that has any.
    """
    bare = room.model_copy(update={"fit": None})
    _, _, acoustics = acoustics_of(bare, arrangement)
    decays = np.full((max(len(results), 1), 8), np.nan)
    for row, result in enumerate(results):
        for band in result["bands"]:
            value = band.get("t30_s") or band.get("t20_s")
            if value is not None and band["centre_hz"] in OCTAVES_HZ:
                decays[row, OCTAVES_HZ.index(band["centre_hz"])] = value
    notes = next((result["ringing"] for result in results if result["ringing"]), [])
    with np.errstate(all="ignore"):
        middle = np.array([np.median(c[np.isfinite(c)]) if np.any(np.isfinite(c)) else np.nan for c in decays.T])
    found = fitted(
        acoustics.room, decay_s=middle, notes=tuple(Note(n["f_hz"], n["t60_s"], n["level_db"]) for n in notes)
    )
    return fit_json(found, room, arrangement)


def fit_json(found: Fit, room: RoomDoc, arrangement: ArrangementDoc) -> Json:
    """Before and after, what moved, what is left unexplained, and the `fit` to keep in the document."""
    keep = {
        "absorption_factor": {str(f): round(float(x), 3) for f, x in zip(OCTAVES_HZ, found.factor, strict=True)},
        "mode_losses": [{"f_hz": round(f, 2), "rate_per_s": round(rate, 3)} for f, rate in found.mode_losses],
        "spread": round(found.spread, 3),
    }
    here = {"arrangements": [arrangement]}
    marks = {
        name: marks_json(predict(room.model_copy(update={**here, "fit": fit}), arrangement.id), room)
        for name, fit in (("before", None), ("after", type(room).model_validate(room.model_dump() | {"fit": keep}).fit))
    }
    answer: Json = rounded(
        {
            "fit": keep,
            "octaves": [
                {
                    "centre_hz": f,
                    "measured_s": found.measured_s[i],
                    "before_s": found.before_s[i],
                    "after_s": found.after_s[i],
                    "factor": found.factor[i],
                }
                for i, f in enumerate(OCTAVES_HZ)
            ],
            "notes": [
                {
                    "f_hz": n.f_hz,
                    "measured_s": n.t60_s,
                    "mode_hz": n.mode_hz,
                    "before_s": n.before_s,
                    "after_s": n.after_s,
                }
                for n in found.notes
            ],
            "moved": [
                _moved(f, float(x)) for f, x in zip(OCTAVES_HZ, found.factor, strict=True) if abs(np.log(x)) > 0.1
            ],
            "unexplained": [{"what": u.what, "look_for": u.look_for} for u in found.unexplained],
            "marks": marks,
        }
    )
    return answer


def _moved(centre_hz: int, factor: float) -> str:
    change = (factor - 1) * 100
    return (
        f"{centre_hz} Hz: surfaces swallow {abs(change):.0f} % "
        f"{'more' if change > 0 else 'less'} than the catalogue says."
    )


def fit_room(data: Data, room_id: str) -> Json:
    """Fit the room as it stands to its usable readings: real ones alone when there are any, else simulated ones."""
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    rows = [
        r for r in reading_rows(data, room_id) if r.counts and r.kind in RESPONSES and r.result["verdict"]["usable"]
    ]
    real = [r for r in rows if not r.simulated]
    used = real or rows
    if not used:
        raise InputError("readings", "there is no sweep or clap to fit to.", "Take a reading first.")
    arrangement = room.arrangement_doc(None)
    current = [
        r for r in used if (r.arrangement.get("treatments") or []) == (_standing(arrangement).get("treatments") or [])
    ]
    if not current:
        raise InputError("readings", "none was taken with what hangs on the walls now.", "Take a new reading.")
    answer = fit_to(room, arrangement, [r.result for r in current])
    return {**answer, "readings": [r.id for r in current], "simulated": not real}


def _standing(arrangement: ArrangementDoc) -> Json:
    return arrangement.model_dump(mode="json", exclude_none=True)


def compare_documents(rooms: list[tuple[str, RoomDoc, str, Json]]) -> Json:
    """Places side by side. rooms : (key, document, arrangement id, measured marks).

    Measured marks take the place of predicted ones, with their own uncertainty.
    """
    if not rooms:
        return {"places": [], "recommendation": recommendation([], {})}
    # one yardstick for all: what most of them are wanted for
    purposes = Counter(room.brief.purpose for _, room, _, _ in rooms)
    brief = next(room.brief for _, room, _, _ in rooms if room.brief.purpose == purposes.most_common(1)[0][0])
    rooms = [
        (key, room.model_copy(update={"brief": brief}), arrangement_id, m) for key, room, arrangement_id, m in rooms
    ]
    wanted = wanted_of(rooms[0][1])
    candidates, shown = [], {}
    for key, room, arrangement_id, measured in rooms:
        doc = room.arrangement_doc(arrangement_id)
        value, arrangement, acoustics = acoustics_of(room, doc)
        result = _as_measured(forecast(acoustics, arrangement, hour=hour_of(doc)), measured)
        # at its quietest hour: only noises that keep hours fall silent
        hours = [h / 2 for h in range(16, 46)]
        running = [sum(n.runs_at(h) for n in value.noises) for h in hours]
        quiet = None
        if value.noises and min(running) < sum(n.runs_at(hour_of(doc)) for n in value.noises):
            best_hour = hours[int(np.argmin(running))]
            quiet = _as_measured(
                forecast(acoustics, arrangement, hour=best_hour, uncertainty=False),
                {k: m for k, m in measured.items() if k != "hush"},
            )
        name = (
            room.name
            if len([r for r in rooms if r[1].name == room.name]) == 1
            else f"{room.name}: {doc.name or doc.id}"
        )
        candidates.append(Candidate(key, name, result, quiet))
        shape = shape_json(value, Frame.of(room))
        marks = marks_json(result, room)
        if "touch" in measured:
            marks["touch"]["value"] = measured["touch"]["value"]
        shown[key] = {
            "key": key,
            "name": name,
            "arrangement_id": doc.id,
            "marks": marks,
            "measured": sorted(measured),
            "guessed": room.guessed,
            "simulated": any(m.get("simulated") for m in measured.values()),
            "volume_m3": shape["volume_m3"],
            "first_mode_hz": shape["first_mode_hz"],
        }
    verdicts = ranked(candidates, wanted=wanted)
    names = {c.key: c.name for c in candidates}
    answer: Json = rounded(
        {
            "recommendation": recommendation(verdicts, names),
            "purpose": wanted.name,
            "places": [
                {
                    **shown[v.key],
                    "deficits": v.deficits,
                    "total": v.total,
                    "reasons": list(v.reasons),
                    "would_change": v.would_change,
                }
                for v in verdicts
            ],
        }
    )
    return answer


def _as_measured(result: Forecast, measured: Json) -> Forecast:
    """The forecast with figures that readings settled put in their place."""
    bounce, boom, hush = result.bounce, result.boom, result.hush
    if "bounce" in measured:
        bounce = replace(
            bounce, direct_over_room_db=Figure(measured["bounce"]["value"], measured["bounce"]["plus_minus"])
        )
    if "boom" in measured:
        ring = Figure(measured["boom"]["value"], measured["boom"]["plus_minus"])
        boom = replace(boom, ring_s=ring, note_hz=measured["boom"].get("note_hz") or boom.note_hz)
    if "hush" in measured:
        hush = replace(hush, under_performance_db=Figure(measured["hush"]["value"], measured["hush"]["plus_minus"]))
    return replace(result, bounce=bounce, boom=boom, hush=hush)


def compare_places(data: Data, *, project: str | None = None) -> Json:
    """All rooms of a project (or all rooms), each as it stands, with what was measured in it and still holds."""
    listed = []
    for row in list_rooms(data):
        with data.database.session() as session:
            room = read_room(room_row(session, row["id"]).document)
        if project is not None and room.project != project:
            continue
        fresh = {k: m for k, m in measured_now(data, row["id"]).items() if not m["stale"]}
        listed.append((row["id"], room, room.arrangement_doc(None).id, fresh))
    return compare_documents(listed)

"""Predictions and next moves for a document. Surfaces are computed once and kept while marks are dragged."""

import json
import threading
from collections import OrderedDict
from typing import Any, Final

from keenquiet.core.judge.forecast import Acoustics, Forecast, as_loudspeaker, forecast
from keenquiet.core.judge.moves import Limits, Move, next_moves, without_noises
from keenquiet.core.room.room import Arrangement, Overlay, Room
from keenquiet.core.waves.porous import PorousAbsorber
from keenquiet.documents import ArrangementDoc, Frame, RoomDoc, TreatmentDoc, arrangement_of, room_of
from keenquiet.service.answers import Json, rounded, wanted_of

_KEPT: Final = 24
_lock = threading.Lock()
_kept: OrderedDict[str, Acoustics] = OrderedDict()
_rooms: OrderedDict[str, Room] = OrderedDict()


def hour_of(arrangement: ArrangementDoc) -> float | None:
    """Hour of the day that an arrangement is meant for, None when it says nothing. [h]"""
    hour = (arrangement.model_extra or {}).get("hour")
    return float(hour) if isinstance(hour, int | float) else None


def silenced_in(arrangement: ArrangementDoc) -> tuple[str, ...]:
    """Names of noises that are off in an arrangement."""
    names = (arrangement.model_extra or {}).get("silenced") or []
    return tuple(str(name) for name in names)


def _room_value(room: RoomDoc) -> tuple[str, Room]:
    """What does not change while marks are dragged, as text and as the core's value."""
    text = room.model_dump_json(exclude={"arrangements", "brief", "tape", "project"})
    with _lock:
        if text in _rooms:
            _rooms.move_to_end(text)
            return text, _rooms[text]
    made = room_of(room)
    with _lock:
        _rooms[text] = made
        while len(_rooms) > _KEPT:
            _rooms.popitem(last=False)
    return text, made


def _acoustics(text: str, arrangement_doc: ArrangementDoc, box: Room, arrangement: Arrangement) -> Acoustics:
    key = json.dumps([text, [t.model_dump() for t in arrangement_doc.treatments], silenced_in(arrangement_doc)])
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    made = Acoustics(without_noises(box, silenced_in(arrangement_doc)).with_overlays(arrangement.treatments))
    with _lock:
        _kept[key] = made
        while len(_kept) > _KEPT:
            _kept.popitem(last=False)
    return made


def acoustics_of(room: RoomDoc, doc: ArrangementDoc) -> tuple[Room, Arrangement, Acoustics]:
    """Room and arrangement as the core's values, and what is computed of them and kept."""
    text, value = _room_value(room)
    arrangement = arrangement_of(room, doc, value)
    return value, arrangement, _acoustics(text, doc, value, arrangement)


def predict(room: RoomDoc, arrangement_id: str | None = None, *, loudspeaker: bool = False) -> Forecast:
    """Forecast for one arrangement of a document; `loudspeaker` puts a small one in the performer's place, as a sweep
    does.
    """
    doc = room.arrangement_doc(arrangement_id)
    _, arrangement, acoustics = acoustics_of(room, doc)
    return forecast(acoustics, as_loudspeaker(arrangement) if loudspeaker else arrangement, hour=hour_of(doc))


def moves_for(room: RoomDoc, arrangement_id: str | None = None) -> list[Json]:
    """Ranked next moves, each with the arrangement that it leads to."""
    doc = room.arrangement_doc(arrangement_id)
    box = room_of(room)
    arrangement = arrangement_of(room, doc, box)
    brief = room.brief
    limits = Limits(budget=brief.budget, may_drill=brief.may_drill, has_duvet=brief.has_duvet, hour=hour_of(doc))
    moves = next_moves(without_noises(box, silenced_in(doc)), arrangement, wanted=wanted_of(room), limits=limits)
    return [_move_json(move, room, doc) for move in moves]


def _move_json(move: Move, room: RoomDoc, before: ArrangementDoc) -> Json:
    candidate = move.candidate
    units = {"bounce": "dB", "boom": "s", "hush": "dB", "touch": "dB"}
    answer = {
        "kind": candidate.kind,
        "title": candidate.title,
        "why": candidate.why,
        "effects": {
            mark: {"change": effect.value, "plus_minus": effect.plus_minus, "unit": units[mark]}
            for mark, effect in move.effects.items()
        },
        "cost": candidate.cost,
        "minutes": candidate.minutes,
        "reversible": candidate.reversible,
        "cautions": list(candidate.cautions),
        "arrangement": _arrangement_after(move, room, before),
    }
    result: Json = rounded(answer)
    return result


def _arrangement_after(move: Move, room: RoomDoc, before: ArrangementDoc) -> Json:
    frame = Frame.of(room)
    candidate = move.candidate
    after = before.model_copy(deep=True)

    def at(point: tuple[float, float, float]) -> tuple[float, float, float]:
        return round(point[0] + frame.offset[0], 3), round(point[1] + frame.offset[1], 3), round(point[2], 3)

    performer, mic = candidate.arrangement.performer, candidate.arrangement.microphone
    after.performer.at, after.performer.faces_deg = at(performer.at), round(performer.faces_deg, 1)
    after.microphone.at, after.microphone.aims_deg = at(mic.at), round(mic.aims_deg, 1)
    after.treatments = [*after.treatments, *(_treatment(frame, overlay) for overlay in move.added)]
    data: dict[str, Any] = after.model_dump(exclude_none=True)
    if candidate.hour is not None:
        data["hour"] = candidate.hour
    if candidate.silence is not None:
        data["silenced"] = [*silenced_in(before), candidate.silence]
    return data


def _treatment(frame: Frame, overlay: Overlay) -> TreatmentDoc:
    absorber = overlay.material.absorber
    is_catalogue = overlay.kind not in ("panel",)
    made_of: dict[str, Any] = (
        {"material": overlay.material.key}
        if is_catalogue or not isinstance(absorber, PorousAbsorber)
        else {
            "absorber": {
                "thickness_m": absorber.thickness_m,
                "flow_resistivity": absorber.flow_resistivity,
                "gap_m": absorber.gap_m,
            }
        }
    )
    return TreatmentDoc(
        kind=overlay.kind, label=overlay.name, **frame.patch_fields(overlay.face, overlay.rect), **made_of
    )

"""Predictions and next moves for a document. What was computed of a room's surfaces is kept while marks are dragged."""

import json
from collections.abc import Callable
from typing import Final

from keenquiet.advice.costs import PriceList
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import SUPPORT, Acoustics, Forecast, as_loudspeaker, forecast, low_end_top_hz
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Room
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.rigid import is_basis, rigid_modes
from keenquiet.documents.convert import calendar_of, room_of, scenario_of
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import ArrangementDoc, RoomDoc

_rooms: Final[Kept[str, Room]] = Kept(most_bytes=30_000_000, most=24)
_surfaces: Final[Kept[str, Acoustics]] = Kept(most_bytes=200_000_000, most=24, apart=is_basis)
_NOT_OF_THE_ROOM: Final = {"arrangements", "brief", "tape", "project"}
_HUNG: Final = {"treatments", "screens", "opened", "moved"}


def acoustics_of(room: RoomDoc, doc: ArrangementDoc) -> tuple[Scenario, Acoustics]:
    """The scenario of an arrangement and what is computed of its surfaces, both kept in layers: the room, what hangs
    and stands in it, the noises.
    """
    text = room.model_dump_json(exclude=_NOT_OF_THE_ROOM)
    scenario = scenario_of(room, doc, _rooms.find(text, lambda: room_of(room)))
    bare = room.model_dump_json(exclude=_NOT_OF_THE_ROOM | {"noises", "name"})
    hung = json.dumps(doc.model_dump(include=_HUNG), default=str)
    acoustics = _surfaces.find(bare + hung, lambda: Acoustics(scenario.described))
    return scenario, acoustics.with_noises_of(scenario.described)


def find_modes(room: RoomDoc, report: Callable[[float], None] | None, *, upto: float = 1.0) -> None:
    """The modes of a room's shape, so that they are at hand; slow for some shapes, with progress and a way to stop.
    upto : the share of the whole work that they are.
    """
    if report is None:
        return
    report(0.0)
    shape = Frame.of(room).shape
    top_hz = SUPPORT * low_end_top_hz(shape)
    rigid_modes(
        shape, f_max_hz=top_hz, speed_m_s=room_of(room).air.speed_m_s, progress=lambda share: report(upto * share)
    )


def predict(room: RoomDoc, arrangement_id: str | None = None, *, loudspeaker: bool = False) -> Forecast:
    """Forecast for one arrangement of a document; `loudspeaker` puts a small one in the performer's place, as a sweep
    does.
    """
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    arrangement = as_loudspeaker(scenario.arrangement) if loudspeaker else scenario.arrangement
    return forecast(acoustics, arrangement, hour=scenario.hour)


def limits_of(room: RoomDoc) -> Limits:
    """What the brief allows."""
    brief = room.brief
    return Limits(
        budget=brief.budget,
        may_drill=brief.may_drill,
        has_duvet=brief.has_duvet,
        owned=frozenset(brief.owned.cloth),
        patterns=tuple(one.pattern for one in brief.owned.microphones),
        stands=brief.owned.stands,
        allowed=calendar_of(brief.allowed),
    )


def prices_of(room: RoomDoc) -> PriceList:
    """What things cost here: the list in the room's currency, with its own prices first."""
    return PriceList(room.brief.currency, dict(room.brief.prices))

"""Rooms as answers."""

from keenquiet.documents.schema import FaceDoc, FurnishingDoc, OpeningDoc, RoomDoc, ShapeDoc
from keenquiet.service.answers.numbers import Answer


class Sketch(Answer):
    """As much of a room as its small picture shows."""

    shape: ShapeDoc
    surfaces: dict[str, FaceDoc] = {}
    openings: list[OpeningDoc] = []
    furnishings: list[FurnishingDoc] = []


class DemoIn(Answer):
    """The demo room to open."""

    id: str


class RoomSummary(Answer):
    """size_m : length, width, highest point of the ceiling. broken : why the room cannot be opened, if it cannot."""

    id: str
    name: str
    revision: int
    updated_at: str
    size_m: tuple[float, float, float] | None = None
    project: str | None = None
    sketch: Sketch | None = None
    broken: str | None = None


class RoomAnswer(RoomSummary):
    document: RoomDoc


class HistoryStep(Answer):
    """A document that undo or redo leads to. label : what was changed between it and its neighbour."""

    document: RoomDoc
    label: str


class HistoryAnswer(Answer):
    """What can be undone, oldest first, and redone, nearest first."""

    past: list[HistoryStep]
    future: list[HistoryStep]


class BundleIn(Answer):
    """A bundle taken in: the new room and how many readings came with it."""

    id: str
    name: str
    readings: int

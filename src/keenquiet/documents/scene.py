"""A scene: what acoustically matters of a room while a reading is taken, kept with it; and how two scenes differ."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final

from pydantic import BaseModel, ConfigDict

from keenquiet.documents.edits import folded
from keenquiet.documents.schema import (
    AirDoc,
    ArrangementDoc,
    CoverDoc,
    FaceDoc,
    FurnishingDoc,
    NoiseDoc,
    OpeningDoc,
    RoomDoc,
    ShapeDoc,
)

_NEAR_M: Final = 0.0101  # a tape is read to the centimetre: nearer than that nothing was moved
_NEAR_DEG: Final = 2.0
OF_THE_ROOM: Final = frozenset({"shape", "surface", "opening", "cover", "furniture", "treatment", "screen"})
_PLACES: Final = frozenset({"performer", "source", "microphone", "pattern"})
NOISE_ONLY: Final = frozenset({"noise", "hour", "silenced", "sealed"})
# which differences leave a mark's reading behind
MATTERS: Final[Mapping[str, frozenset[str]]] = {
    "bounce": OF_THE_ROOM | _PLACES,
    "boom": OF_THE_ROOM | _PLACES - {"pattern"},
    "hush": OF_THE_ROOM | _PLACES | NOISE_ONLY,
    "touch": _PLACES | {"gain"},
}


class Scene(BaseModel):
    """A room as it was used: its own state, with what the arrangement opened and moved made part of it."""

    model_config = ConfigDict(extra="ignore")

    shape: ShapeDoc
    surfaces: dict[str, FaceDoc] = {}
    openings: list[OpeningDoc] = []
    covers: list[CoverDoc] = []
    furnishings: list[FurnishingDoc] = []
    noises: list[NoiseDoc] = []
    air: AirDoc = AirDoc()
    arrangement: ArrangementDoc


@dataclass(frozen=True)
class Difference:
    """One thing that differs. part : which kind of thing. what : its name in the room, its number, or ""."""

    part: str
    what: str = ""


def scene_of(room: RoomDoc, arrangement: ArrangementDoc) -> Scene:
    """The scene of an arrangement in a room."""
    as_used, arranged = folded(room, arrangement)
    return Scene.model_validate({**_plain(as_used), "arrangement": _plain(arranged)})


def _plain(doc: BaseModel) -> dict[str, Any]:
    return doc.model_dump(mode="json", exclude_none=True)


def differences(then: Scene, now: Scene) -> tuple[Difference, ...]:
    """What differs between two scenes, once each."""
    return tuple(dict.fromkeys(_differing(then, now)))


def since(then: Scene, now: Scene, mark: str) -> tuple[Difference, ...]:
    """What differs and matters for a mark."""
    return tuple(found for found in differences(then, now) if found.part in MATTERS[mark])


def _differing(then: Scene, now: Scene) -> Iterator[Difference]:
    if _far(_plain(then.shape), _plain(now.shape)):
        yield Difference("shape")
    for name in sorted({*then.surfaces, *now.surfaces}):
        if _far(*(_made_of(scene.surfaces.get(name)) for scene in (then, now))):
            yield Difference("surface", name)
    for part, before, after in (
        ("opening", then.openings, now.openings),
        ("cover", then.covers, now.covers),
        ("furniture", then.furnishings, now.furnishings),
        ("noise", then.noises, now.noises),
        ("treatment", then.arrangement.treatments, now.arrangement.treatments),
        ("screen", then.arrangement.screens, now.arrangement.screens),
    ):
        yield from _lists(part, [_named(d) for d in before], [_named(d) for d in after])
    yield from _places(then.arrangement, now.arrangement)


def _places(then: ArrangementDoc, now: ArrangementDoc) -> Iterator[Difference]:
    if _far(then.performer.at, now.performer.at) or _turned(then.performer.faces_deg, now.performer.faces_deg):
        yield Difference("performer")
    if then.performer.source != now.performer.source:
        yield Difference("source")
    one, other = then.microphone, now.microphone
    if _far(one.at, other.at) or _turned(one.aims_deg, other.aims_deg) or _turned(one.tilt_deg, other.tilt_deg):
        yield Difference("microphone")
    if one.pattern != other.pattern:
        yield Difference("pattern")
    if (
        (then.hour is None) != (now.hour is None)
        or abs((then.hour or 0.0) - (now.hour or 0.0)) > 1e-6
        or then.weekday != now.weekday
    ):
        yield Difference("hour")
    if {(s.way, s.means) for s in then.sealed} != {(s.way, s.means) for s in now.sealed}:
        yield Difference("sealed")
    for name in sorted({*then.silenced} ^ {*now.silenced}):
        yield Difference("silenced", name)
    if abs(then.gain_db - now.gain_db) > 0.05:
        yield Difference("gain")


def _lists(part: str, before: list[dict[str, Any]], after: list[dict[str, Any]]) -> Iterator[Difference]:
    left = list(after)
    for item in before:
        same = next((other for other in left if not _far(item, other)), None)
        if same is None:
            yield Difference(part, _name(item))
        else:
            left.remove(same)
    for item in left:
        yield Difference(part, _name(item))


def _named(doc: BaseModel) -> dict[str, Any]:
    return _plain(doc)


def _name(item: dict[str, Any]) -> str:
    return str(item.get("name") or item.get("label") or item.get("kind") or "")


def _made_of(surface: FaceDoc | None) -> dict[str, Any]:
    return _plain(surface) if surface is not None else {}


def _turned(one_deg: float, other_deg: float) -> bool:
    return abs((one_deg - other_deg + 180) % 360 - 180) > _NEAR_DEG


def _far(one: Any, other: Any) -> bool:
    """Whether two plain values differ by more than a tape's reading."""
    if isinstance(one, bool) or isinstance(other, bool):
        return bool(one != other)
    if isinstance(one, int | float) and isinstance(other, int | float):
        return abs(one - other) > _NEAR_M
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() != other.keys() or any(
            _far(one[key], other[key]) for key in one if key not in ("label", "piece")
        )
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) != len(other) or any(map(_far, one, other))
    return bool(one != other)

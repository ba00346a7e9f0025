"""What is asked of the API; what it answers is in `service.answers`."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import NoiseDoc
from keenquiet.service.answers.takes import BlindCount
from keenquiet.service.questions.base import ArrangementAsk, DocumentAsk


class ErrorDetail(BaseModel):
    field: str
    reason: str
    cure: str


class ErrorAnswer(BaseModel):
    """A refusal: which field, why, and what to do. newest : the revision that stands, with a conflict."""

    error: ErrorDetail
    newest: int | None = None


# the widest that anything counted, measured in decibels or dated may be: what is beyond is refused before anybody adds
# it to anything
Count = Annotated[int, Field(ge=0, le=2**31)]
Decibels = Annotated[float, Field(ge=-400, le=400)]
Moment = Annotated[int, Field(ge=0, le=2**43)]  # milliseconds since 1970, until 2248
Zone = Annotated[int, Field(ge=-1440, le=1440)]  # minutes ahead of UTC

Units = Literal["metric", "imperial"]


class RoomCreate(BaseModel):
    """Either a whole document or three dimensions as typed, for a guess with how soft it is inside. units : in which a
    bare number is read; currency : sign of the money it is planned with.
    """

    document: dict[str, Any] | None = None
    name: str = ""
    length: str = ""
    width: str = ""
    height: str = ""
    softness: str = ""
    guessed: bool = False
    project: Annotated[str, Field(max_length=120)] = ""
    units: Units = "metric"
    currency: Annotated[str, Field(max_length=4)] | None = None


class RoomSave(BaseModel):
    """label : what was changed, as undo says it."""

    revision: Count
    document: dict[str, Any]
    label: Annotated[str, Field(max_length=200)] = ""


class HearAsk(DocumentAsk):
    """versions : arrangements by their id, and `outdoors`. reading_id : a take of one's own; null a line that is made.
    seed : which of those lines.
    """

    versions: Annotated[list[Annotated[str, Field(max_length=60)]], Field(min_length=1, max_length=4)]
    reading_id: Annotated[str, Field(max_length=60)] | None = None
    seed: Annotated[int, Field(ge=0, le=2**31)] | None = None


class MoveDone(BaseModel):
    revision: Count
    kind: Annotated[str, Field(min_length=1, max_length=24)]
    title: Annotated[str, Field(min_length=1, max_length=300)]
    edits: Annotated[list[EditDoc], Field(max_length=60)] = []


class RigAsk(BaseModel):
    kind: str
    arrangement_id: str | None = None
    gain_db: Decibels = 0.0
    seed: Annotated[int, Field(ge=0, le=2**31)] | None = None
    faults: Annotated[list[str], Field(max_length=12)] = []
    silenced: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=40)] = []
    seconds: Annotated[float, Field(ge=2, le=60)] | None = None


class SongAsk(BaseModel):
    """A song that is about to be recorded: how its samples come, where, and through which chain."""

    rate_hz: Annotated[float, Field(gt=0, le=1e6)]
    channels: Annotated[int, Field(ge=1, le=2)] = 1
    arrangement_id: Annotated[str, Field(max_length=80)] | None = None
    settings: dict[str, Any] = {}


class ReadingUpdate(BaseModel):
    note: Annotated[str, Field(max_length=2000)] | None = None
    tags: Annotated[list[str], Field(max_length=12)] | None = None
    counts: bool | None = None


class BetterAsk(BaseModel):
    than_id: Annotated[str, Field(max_length=36)]
    blind: BlindCount | None = None


class AverageAsk(BaseModel):
    reading_ids: Annotated[list[str], Field(max_length=20)]


class CalibrateAsk(BaseModel):
    reading_id: str
    method: str
    level_db: Decibels | None = None


class RoundAsk(BaseModel):
    """Readings of a house round: everything on, each source off alone by its name, everything on again."""

    all_on: str
    without: Annotated[dict[str, str], Field(min_length=1, max_length=20)]
    again: str | None = None


class NotedAsk(ArrangementAsk):
    """A silence, the number of one of its findings or null for all of it, and the noise's place and name."""

    reading_id: str
    finding: Annotated[int, Field(ge=0, le=40)] | None = None
    noise: NoiseDoc


# a name that a browser gave itself
Device = Annotated[str, Field(pattern="^[a-zA-Z0-9-]{8,64}$")]


class WatchAsk(BaseModel):
    """device : the one that will listen; without one any may send."""

    way: Literal["browser", "rig"] = "browser"
    device: Device | Literal[""] = ""


class TakeOverAsk(BaseModel):
    """Who listens, from when on. [ms since 1970]"""

    device: Device
    from_ms: Moment


class LevelsAsk(BaseModel):
    """A row a second: A-weighted, then octaves. [dBFS]"""

    from_ms: Moment
    offset_min: Zone
    device: Device | Literal[""] = ""
    rows: Annotated[list[Annotated[list[Decibels], Field(min_length=9, max_length=9)]], Field(max_length=3600)]


class StopAsk(BaseModel):
    why: Literal["asked", "disk", "microphone", "closed"] = "asked"


class WatchUpdate(BaseModel):
    counts: bool

"""What is asked of the API; what it answers is in `service.answers`."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import At3, NoiseDoc
from keenquiet.service.answers.takes import BlindCount


class ErrorDetail(BaseModel):
    field: str
    reason: str
    cure: str


class ErrorAnswer(BaseModel):
    """A refusal: which field, why, and what to do. newest : the revision that stands, with a conflict."""

    error: ErrorDetail
    newest: int | None = None


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

    revision: int
    document: dict[str, Any]
    label: Annotated[str, Field(max_length=200)] = ""


class DocumentAsk(BaseModel):
    document: dict[str, Any]


class ArrangementAsk(DocumentAsk):
    """room_id : with it what that room's readings say counts: marks are set beside it, noted noises held against it."""

    arrangement_id: str | None = None
    room_id: str | None = None


class ForecastAsk(ArrangementAsk):
    """screens : what each is worth, too."""

    to_hz: Annotated[float, Field(ge=40, le=300)] = 300.0
    screens: bool | None = None


class SwellAsk(ArrangementAsk):
    plane: str = "plan"
    height_m: Annotated[float, Field(gt=0, lt=30)] | None = None


class DistanceAsk(ArrangementAsk):
    """role : `lead`, `backing`, `soloist` or `section`. screen : `none`, `on` the capsule or `off` it."""

    role: Annotated[str, Field(max_length=20)] = "lead"
    screen: Annotated[str, Field(max_length=20)] = "none"


class MapAsk(ArrangementAsk):
    """mark : `bounce`, `boom`, `hush` or `all`. height_m : of the mouth. step_m : of the grid."""

    mark: Annotated[str, Field(max_length=20)] = "all"
    height_m: Annotated[float, Field(gt=0, lt=30)] | None = None
    step_m: Annotated[float, Field(ge=0.05, le=1)] = 0.1


class ListeningAsk(ArrangementAsk):
    """free : the search leaves the walls' middle lines, too."""

    search: bool = False
    free: bool | None = None


class PlanAsk(ArrangementAsk):
    """budget : of the brief when null. locked : edits of moves that stay, locked_cost what they cost. keep_free :
    surfaces on which nothing is hung. marks : those that matter. quick : a first answer from few pieces.
    """

    budget: Annotated[float, Field(ge=0, le=100_000)] | None = None
    only: Annotated[str, Field(max_length=20)] | None = None
    locked: Annotated[list[EditDoc], Field(max_length=60)] | None = None
    locked_cost: Annotated[float, Field(ge=0, le=100_000)] | None = None
    keep_free: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=60)] | None = None
    reversible: bool | None = None
    marks: Annotated[list[Annotated[str, Field(max_length=10)]], Field(max_length=4)] | None = None
    quick: bool | None = None


class HearAsk(DocumentAsk):
    """versions : arrangements by their id, and `outdoors`. reading_id : a take of one's own; null a line that is made.
    seed : which of those lines.
    """

    versions: Annotated[list[Annotated[str, Field(max_length=60)]], Field(min_length=1, max_length=4)]
    reading_id: Annotated[str, Field(max_length=60)] | None = None
    seed: Annotated[int, Field(ge=0, le=2**31)] | None = None


class ReachAsk(ArrangementAsk):
    """second : where another source is, null in the hands or at the mouth of who performs. [m]"""

    second: At3 | None = None


class SchoolsAsk(ArrangementAsk):
    """With `room_id` the other rooms of its project are held against this one. about : `places` or `treatment`."""

    about: Annotated[str, Field(pattern=r"^(places|treatment)$")] | None = None


class MoveDone(BaseModel):
    revision: int
    kind: Annotated[str, Field(min_length=1, max_length=24)]
    title: Annotated[str, Field(min_length=1, max_length=300)]
    edits: Annotated[list[EditDoc], Field(max_length=60)] = []


class RigAsk(BaseModel):
    kind: str
    arrangement_id: str | None = None
    gain_db: float = 0.0
    seed: Annotated[int, Field(ge=0, le=2**31)] | None = None
    faults: Annotated[list[str], Field(max_length=12)] = []
    silenced: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=40)] = []
    seconds: Annotated[float, Field(ge=2, le=60)] | None = None


class SongAsk(BaseModel):
    """A song that is about to be recorded: how its samples come, where, and through which chain."""

    rate_hz: float
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
    level_db: float | None = None


class HoursAsk(ArrangementAsk):
    """minutes : of the take; as the brief says when left out."""

    minutes: Annotated[float, Field(gt=0, le=240)] | None = None


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


class WatchAsk(BaseModel):
    way: Literal["browser", "rig"] = "browser"


class LevelsAsk(BaseModel):
    """A row a second: A-weighted, then octaves. [dBFS]"""

    from_ms: int
    offset_min: int
    rows: Annotated[list[Annotated[list[float], Field(min_length=9, max_length=9)]], Field(max_length=3600)]


class StopAsk(BaseModel):
    why: Literal["asked", "disk", "microphone", "closed"] = "asked"


class WatchUpdate(BaseModel):
    counts: bool

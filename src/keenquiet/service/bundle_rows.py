"""Rows of a bundle, described by the same models as the API's answers: what does not fit is refused before anything is
written.
"""

from collections.abc import Callable
from itertools import pairwise
from typing import Annotated, Any, Final, Literal, TypeVar, get_args

from pydantic import (
    AwareDatetime,
    BaseModel,
    ConfigDict,
    Field,
    StrictBool,
    ValidationError,
    field_validator,
    model_validator,
)

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.edits import edits_of
from keenquiet.documents.scene import Scene
from keenquiet.service.answers.marks import Empty, FigureAnswer, Headline, MeasuredFigure
from keenquiet.service.answers.readings import ReadingSettings
from keenquiet.service.briefs import form_of
from keenquiet.service.data import Json
from keenquiet.service.kinds import kind_named

Id = Annotated[str, Field(pattern=r"^[0-9a-f-]{36}$")]
Mark = Literal["bounce", "boom", "hush", "touch"]
_AGAIN: Final = "Export the bundle again."


class _Row(BaseModel):
    model_config = ConfigDict(extra="ignore")


T = TypeVar("T", bound=_Row)


class ReadingRow(_Row):
    """A reading as a bundle keeps it. sequence : its place in what happened; older bundles have none."""

    id: Id
    kind: Annotated[str, Field(max_length=16)]
    way: Literal["import", "browser", "rig"]
    simulated: StrictBool
    taken_at: AwareDatetime
    arrangement: Json
    audio_sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    audio_suffix: Literal[".wav", ".flac", ".aiff", ".ogg", ".csv"]
    file_name: Annotated[str, Field(max_length=200)]
    sample_rate_hz: Annotated[float, Field(ge=0, le=1e6)]
    seconds: Annotated[float, Field(ge=0, le=1e6)]
    settings: Json
    result: Json
    measured: dict[Mark, MeasuredFigure]
    predicted: dict[Mark, FigureAnswer]
    note: Annotated[str, Field(max_length=2000)] = ""
    tags: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=12)] = []
    counts: StrictBool = True
    empty: Annotated[list[Empty], Field(max_length=20)] = []
    room_revision: Annotated[int, Field(ge=0, le=10**9)] | None = None
    scene: Json | None = None
    sequence: Annotated[int, Field(ge=0, le=10**9)] = 0
    deleted_at: AwareDatetime | None = None

    @field_validator("arrangement")
    @classmethod
    def _arrangement(cls, value: Json) -> Json:
        _fits(lambda: read_arrangement(value))
        return value

    @field_validator("settings")
    @classmethod
    def _settings(cls, value: Json) -> Json:
        ReadingSettings.model_validate(value)
        return value

    @field_validator("scene")
    @classmethod
    def _scene(cls, value: Json | None) -> Json | None:
        if value is not None:
            Scene.model_validate(value)
        return value

    def fits_its_kind(self) -> None:
        """Raise when the result is none of its kind. Raises InputError, ValidationError."""
        form = kind_named(self.kind).form
        form_of(form).model_validate({**self.result, "form": form})


class MoveRow(_Row):
    """A move that was done."""

    id: Id
    kind: Annotated[str, Field(max_length=24)]
    title: Annotated[str, Field(max_length=300)]
    done_at: AwareDatetime
    before: "Promised"
    after: "Promised"
    arrangement: Json
    measured_before: dict[Mark, MeasuredFigure]
    edits: Annotated[list[Json], Field(max_length=60)] = []
    sequence: Annotated[int, Field(ge=0, le=10**9)] = 0

    @field_validator("arrangement")
    @classmethod
    def _arrangement(cls, value: Json) -> Json:
        _fits(lambda: read_arrangement(value))
        return value

    @field_validator("edits")
    @classmethod
    def _edits(cls, value: list[Json]) -> list[Json]:
        _fits(lambda: edits_of(value))
        return value


class Promised(BaseModel):
    """What was predicted on one side of a move."""

    marks: dict[Mark, Headline]


class EntryRow(_Row):
    """A line of the ledger. detail : with `measured` figures where a reading gave some."""

    at: AwareDatetime
    kind: Annotated[str, Field(max_length=24)]
    title: Annotated[str, Field(max_length=300)]
    detail: Json
    reading_id: Annotated[str, Field(max_length=36)] | None = None
    move_id: Annotated[str, Field(max_length=36)] | None = None

    @field_validator("detail")
    @classmethod
    def _detail(cls, value: Json) -> Json:
        measured = value.get("measured") or {}
        if not isinstance(measured, dict) or not set(measured) <= set(get_args(Mark)):
            raise ValueError("measured marks there are none of")
        for figure in measured.values():
            MeasuredFigure.model_validate(figure)
        return value


class RevisionRow(_Row):
    """A document as the room stood. Former ones may be of a former version: they are not read before somebody goes back
    to them.
    """

    number: Annotated[int, Field(ge=1, le=10**9)]
    saved_at: AwareDatetime
    label: Annotated[str, Field(max_length=200)] = ""
    document: Json


class CalibrationRow(_Row):
    """What full scale means for a chain that readings here were taken through."""

    device: Annotated[str, Field(max_length=200)]
    channel: Annotated[str, Field(max_length=40)]
    gain: Annotated[str, Field(max_length=80)]
    method: Literal["calibrator", "meter", "voice"]
    full_scale_db: Annotated[float, Field(ge=-100, le=300)]
    plus_minus_db: Annotated[float, Field(ge=0, le=100)]
    taken_at: AwareDatetime
    note: Annotated[str, Field(max_length=500)] = ""


class PartRow(_Row):
    """Steps of a watch without a gap; their levels lie beside, one stretch after the other."""

    from_ms: Annotated[int, Field(ge=0, le=2**43)]
    count: Annotated[int, Field(ge=1, le=10**8)]
    offset_min: Annotated[int, Field(ge=-1440, le=1440)]


class ClipRow(_Row):
    """A sound of what passed."""

    at_ms: Annotated[int, Field(ge=0, le=2**43)]
    seconds: Annotated[float, Field(ge=0, le=3600)]
    rise_db: Annotated[float, Field(ge=-400, le=400)]
    audio_sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    audio_suffix: Literal[".flac"]


class WatchRow(_Row):
    """A watch; its levels lie beside it in `watches/ID.levels`, nine bytes a step (`core.read.watch`)."""

    id: Id
    way: Literal["browser", "rig", "import"]
    name: Annotated[str, Field(max_length=200)] = ""
    unit: Literal["dBFS", "dBA", "dB"]
    started_at: AwareDatetime
    ended_at: AwareDatetime | None = None
    stopped_why: Annotated[str, Field(max_length=24)] = ""
    step_ms: Annotated[int, Field(ge=1, le=10**9)]
    clip_bytes: Annotated[int, Field(ge=0, le=10**12)]
    counts: StrictBool = True
    sequence: Annotated[int, Field(ge=0, le=10**9)] = 0
    deleted_at: AwareDatetime | None = None
    parts: Annotated[list[PartRow], Field(max_length=100_000)]
    clips: Annotated[list[ClipRow], Field(max_length=10_000)]

    @model_validator(mode="after")
    def _in_order(self) -> "WatchRow":
        for name, times in (("parts", [p.from_ms for p in self.parts]), ("clips", [c.at_ms for c in self.clips])):
            if any(later <= former for former, later in pairwise(times)):
                raise ValueError(f"{name} are not one after the other")
        return self


def _fits(look: Callable[[], object]) -> None:
    try:
        look()
    except InputError as exc:
        raise ValueError(f"{exc.field}: {exc.reason}") from exc


def row_of(model: type[T], item: Any, where: str) -> T:
    """A row checked. Raises InputError naming the entry and the field."""
    try:
        return model.model_validate(item)
    except ValidationError as exc:
        first = exc.errors()[0]
        field = ".".join(str(part) for part in first["loc"]) or "it"
        raise InputError(f"file/{where}", f"{field}: {first['msg']}.", _AGAIN) from exc
    except RecursionError as exc:
        raise InputError(f"file/{where}", "is nested too deeply.", _AGAIN) from exc

"""Request and answer shapes. Figures that only the plots read stay plain JSON; their shapes are in docs/formats.md."""

from typing import Annotated, Any

from pydantic import BaseModel, Field

from keenquiet.documents import FitDoc, RoomDoc


class ErrorDetail(BaseModel):
    field: str
    reason: str
    cure: str


class ErrorAnswer(BaseModel):
    error: ErrorDetail
    newest: int | None = None


class RoomSummary(BaseModel):
    id: str
    name: str
    revision: int
    updated_at: str
    size_m: tuple[float, float, float]  # length, width, highest point of the ceiling
    project: str | None = None
    sketch: dict[str, Any]


class RoomPublic(RoomSummary):
    document: RoomDoc


class RoomCreate(BaseModel):
    """Either a whole document or three dimensions as typed, for a guess with how soft it is inside."""

    document: dict[str, Any] | None = None
    name: str = ""
    length: str = ""
    width: str = ""
    height: str = ""
    softness: str = ""
    guessed: bool = False
    project: Annotated[str, Field(max_length=120)] = ""


class RoomSave(BaseModel):
    revision: int
    document: dict[str, Any]


class ForecastAsk(BaseModel):
    document: dict[str, Any]
    arrangement_id: str | None = None
    to_hz: Annotated[float, Field(ge=40, le=300)] = 300.0


class Wanted(BaseModel):
    low: float | None
    high: float | None
    source: str


class MarkBase(BaseModel):
    name: str
    value: float | None
    plus_minus: float | None
    unit: str
    meaning: str
    wanted: Wanted
    sentence: str


class BounceMark(MarkBase):
    strongest_early_db: float
    strongest_early_ms: float
    decay_s: float
    decay_plus_minus_s: float
    critical_distance_m: float
    decay_wanted_s: tuple[float | None, float | None]


class BoomMark(MarkBase):
    note_hz: float
    swing_db: float
    swing_plus_minus_db: float
    range_hz: tuple[float, float]


class HushMark(MarkBase):
    noise_dba: float
    performance_dba: float
    sources_dba: dict[str, float]


class TouchMark(MarkBase):
    distance_m: float
    proximity_db: float
    sway_db: float
    off_axis_deg: float


class Marks(BaseModel):
    bounce: BounceMark
    boom: BoomMark
    hush: HushMark
    touch: TouchMark


class PathPublic(BaseModel):
    order: int
    delay_ms: float
    level_db: float
    surfaces: list[str]
    points: list[tuple[float, float, float]]
    where: str


class ModePublic(BaseModel):
    f_hz: float
    indices: tuple[int, int, int] | None
    kind: str
    t60_s: float
    heard_db: float
    note: str
    cents: int


class DecayPublic(BaseModel):
    centre_hz: float
    sabine_s: float
    eyring_s: float
    arau_s: float
    middle_s: float
    spread: float
    trusted: bool


class FacePublic(BaseModel):
    name: str
    kind: str
    area_m2: float
    outline: list[tuple[float, float]]
    holes: list[list[tuple[float, float]]]
    corners: list[tuple[float, float, float]]
    hole_corners: list[list[tuple[float, float, float]]]
    normal: tuple[float, float, float]


class ShapePublic(BaseModel):
    volume_m3: float
    floor_area_m2: float
    surface_area_m2: float
    lowest_m: float
    highest_m: float
    method: str
    top_hz: float
    first_mode_hz: float
    in_voice_range: bool
    faces: list[FacePublic]


class FlutterPublic(BaseModel):
    surfaces: list[str]
    where: list[str]
    spacing_m: float
    rate_hz: float
    area_m2: float
    lost_db: float
    lasts_s: float
    outline: list[tuple[float, float, float]]
    across: tuple[float, float, float]


class JobError(BaseModel):
    field: str
    reason: str
    cure: str


class JobPublic(BaseModel):
    id: str
    what: str
    progress: float
    state: str
    error: JobError | None


class Pending(BaseModel):
    """The answer is being worked out; ask again when the job has ended."""

    pending: JobPublic


class SwellAsk(BaseModel):
    document: dict[str, Any]
    arrangement_id: str | None = None
    plane: str = "plan"
    height_m: Annotated[float, Field(gt=0, lt=30)] | None = None


class SwellPublic(BaseModel):
    plane: str
    height_m: float
    nx: int
    ny: int
    step_m: tuple[float, float]
    start_m: tuple[float, float]
    f_hz: list[float]
    at_microphone: list[float]
    values: str


class TapeResidual(BaseModel):
    start: int
    end: int
    length_m: float
    residual_m: float


class SquaredPublic(BaseModel):
    plan: list[tuple[float, float]]
    rms_m: float
    suspect: int | None
    angles_deg: list[float]
    readings: list[TapeResidual]


class AbsorberOctave(BaseModel):
    centre_hz: float
    normal: float
    diffuse: float


class AbsorberCurve(BaseModel):
    f_hz: list[float]
    diffuse: list[float]


class AbsorberPublic(BaseModel):
    octaves: list[AbsorberOctave]
    curve: AbsorberCurve
    resonance_hz: float | None


class DocumentAsk(BaseModel):
    document: dict[str, Any]


class FitOctave(BaseModel):
    centre_hz: float
    measured_s: float | None
    before_s: float
    after_s: float
    factor: float


class FitNote(BaseModel):
    f_hz: float
    measured_s: float
    mode_hz: float
    before_s: float
    after_s: float


class Unexplained(BaseModel):
    what: str
    look_for: str


class FitMarks(BaseModel):
    before: Marks
    after: Marks


class FitPublic(BaseModel):
    fit: FitDoc
    octaves: list[FitOctave]
    notes: list[FitNote]
    moved: list[str]
    unexplained: list[Unexplained]
    marks: FitMarks
    readings: list[str]
    simulated: bool


class PlacePublic(BaseModel):
    key: str
    name: str
    arrangement_id: str
    marks: Marks
    measured: list[str]
    simulated: bool
    guessed: bool
    volume_m3: float
    first_mode_hz: float
    deficits: dict[str, float]
    total: float
    reasons: list[str]
    would_change: str | None


class PlacesPublic(BaseModel):
    recommendation: str
    purpose: str | None = None
    places: list[PlacePublic]


class Curve(BaseModel):
    f_hz: list[float]
    level_db: list[float | None]
    smooth_db: list[float | None]


class ForecastPublic(BaseModel):
    schroeder_hz: float
    modes: list[ModePublic]
    decay: list[DecayPublic]
    shape: ShapePublic
    flutter: list[FlutterPublic]
    paths: list[PathPublic]
    response: Curve
    listening: Curve | None = None
    marks: Marks


class Effect(BaseModel):
    change: float
    plus_minus: float
    unit: str


class MovePublic(BaseModel):
    kind: str
    title: str
    why: str
    effects: dict[str, Effect]
    cost: float
    minutes: int
    reversible: bool
    cautions: list[str]
    arrangement: dict[str, Any]


class MoveDone(BaseModel):
    revision: int
    kind: Annotated[str, Field(min_length=1, max_length=24)]
    title: Annotated[str, Field(min_length=1, max_length=300)]


class Reason(BaseModel):
    code: str
    text: str
    cure: str


class VerdictPublic(BaseModel):
    usable: bool
    word: str
    reasons: list[Reason]


class ReadingHeadline(BaseModel):
    t_mid_s: float | None = None
    edt_mid_s: float | None = None
    c50_mid_db: float | None = None
    direct_over_room_db: float | None = None
    laeq_db: float | None = None
    calibrated: bool | None = None
    true_peak_dbtp: float | None = None
    snr_db: float | None = None
    loudness_lufs: float | None = None
    swell_hz: float | None = None
    pops: int | None = None


class ReadingSummary(BaseModel):
    id: str
    kind: str
    way: str
    simulated: bool
    taken_at: str
    file_name: str
    sample_rate_hz: float
    seconds: float
    note: str
    tags: list[str]
    counts: bool
    verdict: VerdictPublic
    measured: dict[str, dict[str, Any]]
    predicted: dict[str, dict[str, Any]]
    settings: dict[str, Any]
    headline: ReadingHeadline
    mic_at: tuple[float, float, float]


class ReadingPublic(ReadingSummary):
    result: dict[str, Any]
    arrangement: dict[str, Any]


class RigAsk(BaseModel):
    kind: str
    arrangement_id: str | None = None
    gain_db: float = 0.0
    seed: Annotated[int, Field(ge=0, le=2**31)] | None = None
    faults: Annotated[list[str], Field(max_length=12)] = []


class Choice(BaseModel):
    key: str
    name: str


class RigPublic(BaseModel):
    faults: list[Choice]


class ReadingUpdate(BaseModel):
    note: Annotated[str, Field(max_length=2000)] | None = None
    tags: Annotated[list[str], Field(max_length=12)] | None = None
    counts: bool | None = None


class AverageAsk(BaseModel):
    reading_ids: Annotated[list[str], Field(max_length=20)]


class ThirdDifference(BaseModel):
    centre_hz: float
    difference_db: float | None


class WordsPublic(BaseModel):
    gain_db: float
    thirds: list[ThirdDifference]
    noise_db: float | None
    simulated: list[bool]


class CalibrateAsk(BaseModel):
    reading_id: str
    method: str
    level_db: float | None = None


class CalibrationPublic(BaseModel):
    id: str
    device: str
    channel: str
    gain: str
    method: str
    full_scale_db: float
    plus_minus_db: float
    taken_at: str
    note: str
    reread: int | None = None


class MeasuredMark(BaseModel):
    value: float
    plus_minus: float
    reading_id: str
    taken_at: str
    simulated: bool
    stale: bool
    note_hz: float | None = None
    swing_db: float | None = None
    decay_s: float | None = None
    performer_correction_db: float | None = None
    average_dbfs: float | None = None
    noise_floor_dbfs: float | None = None
    gain_advice_db: float | None = None
    pops: int | None = None
    pop_db: float | None = None


class MeasuredMarks(BaseModel):
    bounce: MeasuredMark | None = None
    boom: MeasuredMark | None = None
    hush: MeasuredMark | None = None
    touch: MeasuredMark | None = None


class ProofRow(BaseModel):
    mark: str
    predicted_before: float | None
    predicted: float
    plus_minus: float
    measured: float | None
    measured_plus_minus: float | None
    measured_before: float | None
    simulated: bool | None
    reading_id: str | None
    within: bool | None


class LedgerPublic(BaseModel):
    id: int
    at: str
    kind: str
    title: str
    detail: dict[str, Any]
    reading_id: str | None
    move_id: str | None
    proof: list[ProofRow] | None


class MaterialPublic(BaseModel):
    key: str
    name: str
    group: str
    mounting: str
    absorption: list[float]
    scattering: list[float]
    filled: list[int]
    source: str
    confidence: str
    hatch: str


class FurnishingKind(Choice):
    size_m: tuple[float, float, float]
    blocks: bool


class Catalogue(BaseModel):
    materials: list[MaterialPublic]
    sources: list[Choice]
    patterns: list[str]
    furnishings: list[FurnishingKind]
    purposes: list[Choice]


class LengthPublic(BaseModel):
    metres: float
    imperial: str


class BundleIn(BaseModel):
    id: str
    name: str
    readings: int

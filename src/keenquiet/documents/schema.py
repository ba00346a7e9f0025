"""`room.json` as Pydantic models: the published format, each field once with its default and limits (docs/formats.md).

More fields may be added, each with a default.
"""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator

from keenquiet.core.errors import InputError
from keenquiet.core.things.microphone import PATTERNS
from keenquiet.core.things.sources import SOURCES

Finite = Annotated[
    float, Field(ge=-10_000, le=10_000)
]  # metres or degrees: far beyond any room, near enough to compute with
Positive = Annotated[float, Field(gt=0, le=1_000)]
Figure = Annotated[float, Field(ge=-1e9, le=1e9)]  # each has its own, closer limits where it is used
Key = Annotated[str, Field(max_length=80)]  # a word of the catalogue, a surface's name
At2 = tuple[Finite, Finite]
At3 = tuple[Finite, Finite, Finite]
Octaves = dict[Literal["63", "125", "250", "500", "1000", "2000", "4000", "8000"], Figure]


class Document(BaseModel):
    """Base: unknown fields are kept, so a newer file survives a round trip."""

    model_config = ConfigDict(extra="allow")


class AirDoc(Document):
    temperature_c: Annotated[float, Field(ge=-10, le=45)] = 20.0
    humidity_pct: Annotated[float, Field(ge=5, le=100)] = 50.0


class DropDoc(Document):
    """A lower part of the ceiling: a rectangle on the plan from its lower corner, and its height above the floor."""

    x_m: Finite
    y_m: Finite
    width_m: Positive
    depth_m: Positive
    height_m: Finite


class CeilingDoc(Document):
    kind: Literal["flat", "pitched"] = "flat"
    height_m: Finite | None = None
    along: Literal["x", "y"] | None = None
    profile: Annotated[list[tuple[Finite, Finite]], Field(max_length=40)] | None = None
    drops: Annotated[list[DropDoc], Field(max_length=12)] = []


class ShapeDoc(Document):
    plan: Annotated[list[At2], Field(min_length=3, max_length=64)]
    ceiling: CeilingDoc


class AbsorberDoc(Document):
    """What an absorber is built of, from the room inwards. Lengths in metres, flow resistivity in Pa s/m2, masses in
    kg/m2.

    `porous`: thickness_m, flow_resistivity, gap_m, facing. The others keep thickness_m and flow_resistivity for their
    filling
    (thickness 0: none). `membrane`: mass_kg_m2. `perforated`, `slotted`: open_share, opening_m, board_m. `cloth`:
    mass_kg_m2,
    fullness, resistance.
    """

    kind: Literal["porous", "membrane", "perforated", "slotted", "cloth"] = "porous"
    thickness_m: Figure = 0.0
    flow_resistivity: Figure = 8000.0
    gap_m: Figure = 0.0
    facing_resistance: Figure = 0.0
    facing_mass: Figure = 0.0
    mass_kg_m2: Figure = 5.0
    open_share: Figure = 0.05
    opening_m: Figure = 0.006
    board_m: Figure = 0.012
    fullness: Figure = 2.0
    resistance: Figure = 400.0


class SurfaceDoc(Document):
    """What a surface is made of: a catalogue key, own figures by octave, or a computed absorber."""

    material: Key | None = None
    absorption: Octaves | None = None
    absorber: AbsorberDoc | None = None


class RegionDoc(SurfaceDoc):
    """A part of a wall made of something else, by its lower corner: brick behind a bed, tiles, a mirror."""

    name: Annotated[str, Field(max_length=80)] = ""
    x_m: Finite
    z_m: Finite
    width_m: Positive
    height_m: Positive


class FaceDoc(SurfaceDoc):
    regions: Annotated[list[RegionDoc], Field(max_length=40)] = []


class PatchDoc(SurfaceDoc):
    kind: Key
    surface: Key
    x_m: Finite
    z_m: Finite
    width_m: Positive
    height_m: Positive


class OpeningDoc(PatchDoc):
    """A door or a window: lower corner x_m along the wall from its first vertex, z_m above the floor; open, ajar or
    shut.
    """

    hinge: Literal["left", "right"] = "right"
    state: Literal["shut", "ajar", "open"] = "shut"
    behind: Literal["outdoors", "room", "stairs"] = "room"
    gap_mm: Annotated[float, Field(ge=0, le=60)] | None = None
    make: Literal["light", "solid", "single", "double", "secondary"] | None = None


class LeakDoc(Document):
    """A way in that is neither door nor window: an opening in a surface, its middle at x_m along it and z_m up."""

    kind: Literal["vent", "pipe", "crack", "letterbox", "hatch"]
    surface: Key
    x_m: Finite
    z_m: Finite
    area_cm2: Annotated[float, Field(gt=0, le=20_000)] = 10.0


class CoverDoc(PatchDoc):
    """Cloth that belongs to the room: a curtain (drawn or not), a rug, a blanket on the wall."""

    kind: Literal["curtain", "rug", "blanket"] = "curtain"
    drawn: bool = True
    weight_kg_m2: Annotated[float, Field(ge=0.02, le=5)] = 0.4
    fullness: Figure = 2.0
    gap_m: Figure = 0.08


class TreatmentDoc(PatchDoc):
    """piece : its key in the list of pieces, where it is one of them: what it costs follows from that."""

    piece: Annotated[str, Field(max_length=40)] | None = None
    label: Annotated[str, Field(max_length=120)] | None = None


class FurnishingDoc(Document):
    kind: Key
    at: At2
    size_m: tuple[Positive, Positive, Positive] | None = None
    turn_deg: Finite = 0.0
    open: bool = False
    fullness: Annotated[float, Field(ge=0, le=1)] = 0.7


Hour = Annotated[float, Field(ge=0, le=24)]
Hours = Annotated[list[tuple[Hour, Hour]], Field(max_length=24)]
Weekday = Annotated[int, Field(ge=0, le=6)]


class DayHoursDoc(Document):
    """Weekdays (Monday 0) whose hours are these instead of the usual ones; no hours: not at all on those days."""

    weekdays: Annotated[list[Weekday], Field(min_length=1, max_length=7)]
    hours: Hours = []


OtherDays = Annotated[list[DayHoursDoc], Field(max_length=7)]


class CalendarDoc(Document):
    """Hours of every day, and weekdays that differ; no hours at all: always. An end before its start runs over
    midnight.
    """

    hours: Hours = []
    other_days: OtherDays = []


class CycleDoc(Document):
    """Something that comes and goes by itself: its period, and which share of it it sounds."""

    period_min: Annotated[float, Field(gt=0, le=1440)]
    on_share: Annotated[float, Field(gt=0, le=1)]


class NoiseDoc(Document):
    """A noise, by its octave levels at 1 m while it sounds; `outside` ones come through a surface, `inside` ones stand
    at a point, `structure` ones come through the building at a surface and are heard from every side of it. With both
    `surface` and `at` it comes through that spot of the surface.
    """

    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: Literal["outside", "inside", "structure"] = "outside"
    preset: Annotated[str, Field(max_length=40)] | None = None
    surface: Key | None = None
    at: At3 | None = None
    octaves_db: Octaves
    hum_hz: Annotated[float, Field(ge=20, le=8000)] | None = None
    hours: Hours = []
    other_days: OtherDays = []
    cycle: CycleDoc | None = None


def _known_pattern(value: str) -> str:
    if value not in PATTERNS:
        raise ValueError(f"{value!r} is not a pattern; use one of {', '.join(PATTERNS)}")
    return value


Pattern = Annotated[str, AfterValidator(_known_pattern)]


class PerformerDoc(Document):
    """lowest_hz : the lowest note sung or played; as is usual for the source when nobody said."""

    at: At3
    faces_deg: Finite = 0.0
    source: str = "voice-sung"
    lowest_hz: Annotated[float, Field(ge=16, le=2000)] | None = None

    @field_validator("source")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in SOURCES:
            raise ValueError(f"{value!r} is not a known source; use one of {', '.join(SOURCES)}")
        return value


class MicrophoneDoc(Document):
    """type : how it works, where it is known."""

    at: At3
    aims_deg: Finite = 180.0
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    pattern: Pattern = "cardioid"
    type: Literal["condenser", "dynamic", "ribbon"] | None = None


class FacingDoc(Document):
    at: At3
    faces_deg: Finite = 0.0


class LaptopDoc(FacingDoc):
    """Laptop and interface, its screen facing `faces_deg`, and how long the cables at hand are."""

    mic_cable_m: Annotated[float, Field(gt=0, le=100)] = 5.0
    phones_cable_m: Annotated[float, Field(gt=0, le=100)] = 3.0


class ScreenDoc(Document):
    """Something that stands free: an upright rectangle, `at` the middle of its lower edge, facing `faces_deg`."""

    kind: Annotated[str, Field(max_length=40)] = "blanket"
    at: At3
    faces_deg: Finite = 0.0
    width_m: Positive
    height_m: Positive
    absorber: AbsorberDoc = AbsorberDoc(kind="cloth", mass_kg_m2=0.6, gap_m=0.05)


class TryingDoc(Document):
    """The move that the arrangement `what-if` shows."""

    kind: Annotated[str, Field(max_length=24)] = "own"
    title: Annotated[str, Field(max_length=300)] = "My own change"
    why: Annotated[str, Field(max_length=600)] = ""
    edits: Annotated[list[dict[str, Any]], Field(max_length=60)] = []


class OpenedDoc(Document):
    """A wardrobe, door, window or curtain in another state than the room has it: `furnishings.0` open, `covers.1`
    drawn.
    """

    what: Annotated[str, Field(pattern=r"^(furnishings|openings|covers)\.\d{1,3}$")]
    state: Literal["open", "ajar", "shut", "drawn", "undrawn"]


class StandsDoc(Document):
    """A piece of furniture somewhere else than the room has it, by its number."""

    number: Annotated[int, Field(ge=0, le=999)]
    at: At2
    turn_deg: Finite = 0.0


class SealDoc(Document):
    """A way in that is closed: which one (`openings.0.gap`, `openings.1.pane`, `leaks.0`), and with what."""

    way: Annotated[str, Field(pattern=r"^(openings\.\d{1,3}\.(gap|keyhole|pane|leaf)|leaks\.\d{1,3})$")]
    means: Annotated[str, Field(max_length=24)]


Said = Annotated[str, Field(max_length=60)]


class ChainDoc(Document):
    """What only the person knows and must find again: the dial, pad and low cut as they are marked, which phones, how
    far the pop screen stands off, how warm it was. Empty where nobody said.
    """

    dial: Said = ""
    pad: Said = ""
    low_cut: Said = ""
    phones: Said = ""
    screen_gap_m: Annotated[float, Field(ge=0, le=1)] | None = None
    temperature_c: Annotated[float, Field(ge=-20, le=50)] | None = None


class ArrangementDoc(Document):
    id: Annotated[str, Field(min_length=1, max_length=60)]
    name: Annotated[str, Field(max_length=120)] = ""
    performer: PerformerDoc
    microphone: MicrophoneDoc
    monitors: Annotated[list[FacingDoc], Field(max_length=16)] = []
    listener: FacingDoc | None = None
    treatments: Annotated[list[TreatmentDoc], Field(max_length=60)] = []
    second_microphone: MicrophoneDoc | None = None
    screens: Annotated[list[ScreenDoc], Field(max_length=20)] = []
    laptop: LaptopDoc | None = None
    hour: Annotated[float, Field(ge=0, le=24, strict=True)] | None = None
    weekday: Weekday | None = None
    sealed: Annotated[list[SealDoc], Field(max_length=60)] = []
    silenced: Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=60)] = []
    gain_db: Annotated[float, Field(ge=-60, le=60)] = 0.0
    opened: Annotated[list[OpenedDoc], Field(max_length=60)] = []
    moved: Annotated[list[StandsDoc], Field(max_length=60)] = []
    chain: ChainDoc = ChainDoc()
    trying: TryingDoc | None = None


class OwnMicrophoneDoc(Document):
    """A microphone at hand. own_noise_dba : its maker's figure, when known."""

    name: Annotated[str, Field(max_length=60)] = ""
    pattern: Pattern = "cardioid"
    own_noise_dba: Annotated[float, Field(ge=0, le=60)] | None = None


class OwnedDoc(Document):
    """What is at hand already. cloth : keys of the list of prices that cost nothing any more."""

    microphones: Annotated[list[OwnMicrophoneDoc], Field(max_length=12)] = []
    stands: Annotated[int, Field(ge=0, le=20)] = 1
    headphones: Literal["none", "closed", "open"] = "closed"
    monitors: bool = False
    cloth: Annotated[
        list[Literal["curtain", "rug", "panel", "trap", "blanket", "pillows", "mattress", "clothes-rail"]],
        Field(max_length=10),
    ] = []


class BriefDoc(Document):
    """What is recorded, for whom the wanted values are chosen, and what may be spent and done."""

    purpose: Literal["dry-voice", "spoken", "some-room", "lively"] = "dry-voice"
    budget: Annotated[float, Field(ge=0, le=100_000)] = 120.0
    currency: Annotated[str, Field(max_length=4)] = "€"
    may_drill: bool = False
    has_duvet: bool = True
    posture: Literal["standing", "seated"] = "standing"
    layers: Literal["alone", "layered"] = "alone"
    role: Literal["lead", "backing", "soloist", "section"] = "lead"
    may_cut: bool = True
    piece_min: Annotated[float, Field(gt=0, le=240)] = 4.0
    layer_count: Annotated[int, Field(ge=1, le=200)] = 1
    allowed: CalendarDoc = CalendarDoc()
    owned: OwnedDoc = OwnedDoc()
    prices: Annotated[
        dict[Annotated[str, Field(max_length=40)], Annotated[float, Field(ge=0, le=100_000)]], Field(max_length=200)
    ] = {}


class TapeReadingDoc(Document):
    """A length read with the tape between two corners, numbered from 1."""

    start: Annotated[int, Field(ge=1, le=64)]
    end: Annotated[int, Field(ge=1, le=64)]
    length_m: Positive


class ModeLossDoc(Document):
    """What one mode loses beyond the description, found by a fit."""

    f_hz: Annotated[float, Field(gt=5, le=1000)]
    rate_per_s: Annotated[float, Field(ge=-500, le=500)]


class FitDoc(Document):
    """What a fit to readings found: factors on the surfaces' absorption by octave and the spread that is left."""

    absorption_factor: Octaves
    mode_losses: Annotated[list[ModeLossDoc], Field(max_length=400)] = []
    spread: Annotated[float, Field(gt=0, le=1)] = 0.1


class RoomDoc(Document):
    format: Literal["keen-quiet/room"] = "keen-quiet/room"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=120)]
    air: AirDoc = AirDoc()
    brief: BriefDoc = BriefDoc()
    shape: ShapeDoc
    surfaces: Annotated[dict[Key, FaceDoc], Field(max_length=200)] = {}
    openings: Annotated[list[OpeningDoc], Field(max_length=40)] = []
    covers: Annotated[list[CoverDoc], Field(max_length=60)] = []
    furnishings: Annotated[list[FurnishingDoc], Field(max_length=80)] = []
    noises: Annotated[list[NoiseDoc], Field(max_length=40)] = []
    leaks: Annotated[list[LeakDoc], Field(max_length=40)] = []
    arrangements: Annotated[list[ArrangementDoc], Field(max_length=50)] = []
    tape: Annotated[list[TapeReadingDoc], Field(max_length=200)] = []
    fit: FitDoc | None = None
    project: Annotated[str, Field(max_length=120)] = ""
    guessed: bool = False

    def arrangement_doc(self, arrangement_id: str | None = None) -> ArrangementDoc:
        """The arrangement with this id, or the first. Raises InputError when there is none."""
        for arrangement in self.arrangements:
            if arrangement_id in (None, arrangement.id):
                return arrangement
        raise InputError(
            "arrangements",
            f"has no arrangement {arrangement_id!r}." if arrangement_id else "is empty.",
            "Place a performer and a microphone.",
        )

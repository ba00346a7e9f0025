"""Catalogue, lengths, shapes and sounds as answers."""

from typing import Literal

from keenquiet.documents.schema import AbsorberDoc, CycleDoc
from keenquiet.service.answers.numbers import Answer, Num, Numbers, NumOrNone


class Choice(Answer):
    key: str
    name: str


class NoteAnswer(Answer):
    f_hz: Num
    name: str


class SourceChoice(Choice):
    """lowest : name of the lowest note usually played."""

    lowest: str


class MaterialAnswer(Answer):
    """also : what people call it; likely : how likely it is a floor, a wall, a ceiling, 1 the likeliest."""

    key: str
    name: str
    also: list[str]
    likely: dict[str, int]
    group: str
    mounting: str
    absorption: Numbers
    scattering: Numbers
    filled: list[int]
    source: str
    confidence: str
    hatch: str


class FurnishingKind(Choice):
    """body : lower and upper end of what blocks sound and nobody can be in, as shares of the height; equal ends block
    nothing.
    """

    size_m: tuple[float, float, float]
    body: tuple[float, float]


class PatternAnswer(Choice):
    """pressure : share `a` of a + (1 - a) cos. hint : what it is good for."""

    pressure: float
    hint: str


class PurposeAnswer(Choice):
    hint: str


class KindAnswer(Choice):
    """A kind of reading: all that the page needs to offer, take and show it."""

    form: str
    tells: str
    short: str
    seconds: float
    cue: str
    steps: tuple[str, str, str]
    good_dbfs: tuple[float, float]
    caution: str
    settles: list[str]
    by_loudspeaker: bool
    starts_itself: bool
    averaged: bool
    shown: bool
    by_hand: bool
    ways: list[str]
    also: list[str]


class PriceAnswer(Answer):
    """What a piece costs, by currency; a room may carry its own price (`brief.prices`). The figures are ours."""

    key: str
    prices: dict[str, float]
    minutes: int
    source: str


class PieceAnswer(Answer):
    """A piece on the shelf. made : what it is of, as a treatment has it. takes : how much of which price one is;
    cautions : in full. stands : it is set up like a screen, not hung.
    """

    key: str
    label: str
    group: Literal["home", "make", "buy"]
    mount: Literal["wall", "corner", "floor", "ceiling", "free"]
    kind: str
    width_m: Num
    height_m: Num
    kg: Num
    absorption: Numbers
    says: str
    material: str | None
    absorber: AbsorberDoc | None
    takes: dict[str, float]
    cautions: list[str]
    stands: bool


class NoisePresetAnswer(Answer):
    """A noise that homes have: octave levels at 1 m from the thing or from the surface it comes through. [dB]

    behind : kind of surface it usually comes through, "" inside. again : must be switched on again afterwards.
    """

    key: str
    label: str
    kind: str
    behind: str
    octaves_db: dict[str, Num]
    hum_hz: NumOrNone
    hours: list[tuple[Num, Num]]
    cycle: CycleDoc | None
    again: bool
    level_dba: Num


class FindingKindAnswer(Answer):
    """A kind of finding in takes. group : lost, mendable or taste. thread : what it is drawn with."""

    key: str
    name: str
    group: str
    thread: str


class NothingArrives(Answer):
    """A question to ask when nothing arrives, and what to try."""

    key: str
    question: str
    cure: str


class Catalogue(Answer):
    materials: list[MaterialAnswer]
    sources: list[SourceChoice]
    microphone_cautions: dict[str, str]
    patterns: list[PatternAnswer]
    furnishings: list[FurnishingKind]
    purposes: list[PurposeAnswer]
    kinds: list[KindAnswer]
    faults: list[Choice]
    take_faults: list[Choice]
    findings: list[FindingKindAnswer]
    threads: list[Choice]
    nothing_arrives: list[NothingArrives]
    prices: list[PriceAnswer]
    pieces: list[PieceAnswer]
    diffusing: str
    sounds: list[str]
    edits: dict[str, str]
    noises: list[NoisePresetAnswer]
    days: list[str]


class LengthAnswer(Answer):
    metres: float
    imperial: str


class AbsorberOctave(Answer):
    centre_hz: float
    normal: Num
    diffuse: Num


class AbsorberCurve(Answer):
    f_hz: Numbers
    diffuse: Numbers


class AbsorberAnswer(Answer):
    octaves: list[AbsorberOctave]
    curve: AbsorberCurve
    resonance_hz: NumOrNone


class ThirdDifference(Answer):
    centre_hz: float
    difference_db: NumOrNone


class WordsAnswer(Answer):
    """The same words twice, equally loud. simulated : which of the two are."""

    gain_db: Num
    thirds: list[ThirdDifference]
    noise_db: NumOrNone
    simulated: list[bool] = []


class SidesAnswer(Answer):
    """Which side of a microphone hears. difference_db : the side meant as the front over the other."""

    difference_db: Num
    pattern: str
    outcome: str
    text: str
    cure: str


class TurnAnswer(Answer):
    """before : how many recordings are read before it, 0 while it is read itself, null when it does not wait."""

    before: int | None


class PutBackAnswer(Answer):
    """Whether everybody is back where they stood. shared, of : first returns at the same time. moved : what is not as
    it was. The changes of direct over room, level and decay are null where they cannot be told.
    """

    proved: bool
    shared: int
    of: int
    bounce_db: NumOrNone
    decay_share: NumOrNone
    level_db: NumOrNone
    moved: list[str]
    text: str
    reasons: list[str]

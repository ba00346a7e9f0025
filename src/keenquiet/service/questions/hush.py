"""Hush of an arrangement: which noises spoil takes, under what they are heard, how they come in, what helps."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.advice.costs import CAUTIONS
from keenquiet.advice.hush import (
    ESCAPE,
    HEAT,
    HUM_CAUTION,
    NO_WAY,
    audible_words,
    buys_words,
    restore_words,
    warming_words,
    ways_words,
)
from keenquiet.advice.moves import move_words
from keenquiet.advice.ways import MEANS_WORDS, WAY_NOTES, WAY_WORDS
from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB
from keenquiet.core.edits import SealWay
from keenquiet.core.judge.candidate import Candidate
from keenquiet.core.judge.cooling import warming
from keenquiet.core.judge.forecast import Acoustics, performance_dba
from keenquiet.core.judge.noise_steps import ranked_steps
from keenquiet.core.judge.quiet_sets import QuietSet, quiet_sets
from keenquiet.core.read.audible import QUIET_PHRASE_DB, SQUEEZE_DB, Audible, audible, thirds_of, under_performance
from keenquiet.core.room.noise_presets import noise_presets
from keenquiet.core.room.ways import MEANS, Seal, change_db, closed
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.noise_at import NoiseAt, noise_at_microphone
from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import Answer, Num, Num2, Num2OrNone, Numbers2, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

DISTANCES_M: Final = (0.05, 0.1, 0.2, 0.3, 0.6, 1.0)
_VOICES: Final = ("voice-soft", "voice-spoken", "voice-sung", "voice-loud")
_HEATING_W: Final = 40.0  # a laptop and a lamp


class SourceHeard(Answer):
    """One noise at the microphone while it sounds. share : of the power of what goes on, null for what only passes.
    step_db : by how much the whole rises when it comes. way : steady, cycles or passes.
    """

    name: str
    level_dba: Num2
    share: NumOrNone
    step_db: Num2OrNone
    way: str
    warns: bool


class UnderAnswer(Answer):
    """How far the noise lies under the performance: as recorded, under a quiet phrase, squeezed by 10 dB, with a treble
    shelf besides, and after so many layers. [dB]
    """

    now: Num2
    quiet: Num2
    squeezed: Num2
    lifted: Num2
    layered: Num2
    layers: int


class EffortRow(Answer):
    """under_db : one for each distance. [dB]"""

    source: str
    name: str
    under_db: Numbers2


class AudibleAnswer(Answer):
    """By third octave at the microphone [dB]; heard : never, in pauses, under quiet phrases, always."""

    centre_hz: Numbers2
    noise_db: Numbers2
    performance_db: Numbers2
    heard: list[str]
    worst: str
    first_hz: Num2OrNone
    last_hz: Num2OrNone
    words: str


class Buys(Answer):
    """What closing a way with something wins: through its surface, in Hush now, and under what passes, null where
    nothing does. words : the same. [dB]
    """

    means: str
    label: str
    through_db: Num2
    hush_db: Num2
    passing_db: Num2 | None
    words: str
    cost: Num
    minutes: int
    edits: list[EditDoc]


class WayAnswer(Answer):
    """A way in. share : of the power through its surface in the octave that matters most. at : in the document's
    metres, null for a whole surface. closed_with : what closes it now.
    """

    key: str
    kind: str
    label: str
    surface: str
    share: Num2
    at: tuple[Num, Num, Num] | None
    note: str
    closed_with: str | None
    buys: list[Buys]


class QuietMove(Answer):
    """Moves against noise, one or several together. alone_db : what each wins by itself."""

    title: str
    parts: list[str]
    kinds: list[str]
    gain_db: Num2
    plus_minus_db: Num2
    alone_db: Numbers2
    surprising: bool
    cost: Num
    minutes: int
    reversible: bool
    cautions: list[str]
    edits: list[EditDoc]


class WarmingAnswer(Answer):
    minutes: Num2
    plus_minus_min: Num2
    cents_per_k: Num2
    allowed_k: Num2
    words: str
    caution: str


class RestoreItem(Answer):
    """Something switched off for the recording; must : it has to be on again."""

    name: str
    must: bool


class HushAnswer(Answer):
    """known : whether a noise is noted. sources : what spoils takes most first. distances_m : of the efforts' rows.

    flags : `noise_unknown` where nothing is noted.
    """

    known: bool
    performance_dba: Num2
    noise_dba: Num2
    sources: list[SourceHeard]
    under: UnderAnswer
    distances_m: Numbers2
    efforts: list[EffortRow]
    audible: AudibleAnswer
    audible_squeezed: AudibleAnswer
    ways: list[WayAnswer]
    ways_words: str
    moves: list[QuietMove]
    warming: WarmingAnswer
    restore: list[RestoreItem]
    restore_words: str
    cautions: list[str]
    flags: list[str]


def hush(case: Case, asked: ArrangementAsk) -> HushAnswer:
    """Which noises spoil takes, under what they are heard, how they come in, what helps alone and together."""
    room, scenario, space, stand = case.room, case.scenario, case.space, case.stand
    noise = noise_at_microphone(space, stand, decay=case.acoustics.decay, hour=scenario.hour)
    distance = float(np.linalg.norm(np.subtract(stand.performer.at, stand.microphone.at)))
    performance = np.array(stand.performer.source.level_db) - 20 * np.log10(distance)
    layers = room.brief.layer_count if room.brief.layers == "layered" else 1
    under = under_performance(performance, noise.octaves_db, layers=layers)
    centres, played = thirds_of(performance)
    _, there = thirds_of(noise.octaves_db)
    ways = list(_ways(case, noise))
    best = max((way for way in ways if way.buys), key=lambda way: _worth(way.buys[0]), default=None)
    off = list(dict.fromkeys(case.doc.silenced))
    warm = warming(space, devices_w=_HEATING_W)
    return HushAnswer(
        known=bool(room.noises),
        performance_dba=performance_dba(stand),
        noise_dba=noise.level_dba,
        sources=ranked_steps(noise, space.noises),
        under=UnderAnswer.out_of(under, quiet=under.now - QUIET_PHRASE_DB, layers=layers),
        distances_m=DISTANCES_M,
        efforts=_efforts(stand.performer.source.key, noise),
        audible=_audible(audible(centres, played, there)),
        audible_squeezed=_audible(audible(centres, played, there, lift_db=SQUEEZE_DB)),
        ways=ways,
        ways_words=ways_words(best.label, best.buys[0].words) if best else NO_WAY,
        moves=[
            _quiet_move(found, case)
            for found in quiet_sets(scenario, case.acoustics, wanted=case.wanted, limits=case.limits, costs=case.prices)
        ],
        warming=WarmingAnswer.out_of(warm, words=warming_words(warm), caution=HEAT),
        restore=[RestoreItem(name=name, must=_must_come_back(room, name)) for name in off],
        restore_words=restore_words(off),
        cautions=[HUM_CAUTION, ESCAPE],
        flags=[] if room.noises else ["noise_unknown"],
    )


def _efforts(source: str, noise: NoiseAt) -> list[EffortRow]:
    """How far the noise lies under each effort at each distance; a noise's level changes little over a metre."""
    keys = _VOICES if source in _VOICES else (source,)
    rows = []
    for key in keys:
        level = SOURCES[key].level_dba
        under = [level - 20 * np.log10(d) - noise.level_dba for d in DISTANCES_M]
        rows.append(EffortRow(source=key, name=SOURCES[key].name, under_db=under))
    return rows


def _audible(found: Audible) -> AudibleAnswer:
    return AudibleAnswer.out_of(found, centre_hz=found.centres_hz, words=audible_words(found))


def _must_come_back(room: RoomDoc, name: str) -> bool:
    preset = next((noise.preset for noise in room.noises if noise.name == name), None)
    return preset is not None and preset in noise_presets() and noise_presets()[preset].again


def _ways(case: Case, noise: NoiseAt) -> Iterator[WayAnswer]:
    """Ways in of the surfaces that something comes through now; where nothing does, of those with an opening."""
    scenario, faces = case.scenario, case.scenario.room.faces
    through = {n.surface for n in scenario.described.noises if n.kind == "outside" and n.runs_at(scenario.hour)}
    shut = closed(scenario.room.ways, scenario.sealed)
    for before, way in zip(scenario.room.ways, shut, strict=True):
        if way.face not in through and not way.key:
            continue
        if way.face is None or (way.kind in ("wall", "flanking") and way.face not in through):
            continue
        here = [other for other in shut if other.face == way.face]
        octave = _loudest_octave(scenario, way.face)
        total = sum(float(other.power[octave]) for other in here)
        seal = next((s for s in scenario.sealed if s.way == way.key), None)
        buys = []
        if seal is None and way.key and way.kind != "vent":
            for means in (m for m in MEANS.values() if before.kind in m.fits):
                seals = (*scenario.sealed, Seal(way.key, means.key))
                less = change_db(scenario.room.ways, seals, way.face) - change_db(
                    scenario.room.ways, scenario.sealed, way.face
                )
                cost = case.prices(Candidate("seal", (), f"seal-{means.key}"), case.limits)
                hush_db, passing_db = _wins_db(scenario, case.acoustics, noise, seals)
                buys.append(
                    Buys(
                        means=means.key,
                        label=MEANS_WORDS[means.key],
                        through_db=-float(less[octave]),
                        hush_db=hush_db,
                        passing_db=passing_db,
                        words=buys_words(hush_db, passing_db),
                        cost=cost.price,
                        minutes=cost.minutes,
                        edits=case.steps([SealWay(way.key, means.key)]),
                    )
                )
        yield WayAnswer(
            key=way.key,
            kind=way.kind,
            label=WAY_WORDS[way.kind],
            surface=faces[way.face].name,
            share=float(way.power[octave]) / total if total > 0 else 0.0,
            at=case.frame.document(way.at) if way.at is not None else None,
            note=WAY_NOTES.get(way.kind, ""),
            closed_with=MEANS_WORDS[seal.means] if seal else None,
            buys=sorted(buys, key=_worth, reverse=True),
        )


def _loudest_octave(scenario: Scenario, face: int) -> int:
    """The octave that carries most of what comes through a face, A-weighted."""
    levels: list[FloatArray] = [
        n.level_db for n in scenario.described.noises if n.surface == face and n.runs_at(scenario.hour)
    ]
    if not levels:
        return 3
    return int(np.argmax(np.sum(10 ** ((np.stack(levels) + A_WEIGHTING_OCTAVES_DB) / 10), axis=0)))


def _wins_db(
    scenario: Scenario, acoustics: Acoustics, noise: NoiseAt, seals: Sequence[Seal]
) -> tuple[float, float | None]:
    """What these seals win in Hush, as the marks and the moves count it, and under all that passes. [dB]"""
    sealed = replace(scenario, sealed=tuple(seals))
    after = noise_at_microphone(sealed.described, scenario.arrangement, decay=acoustics.decay, hour=scenario.hour)
    passing = _passing_dba(noise) - _passing_dba(after) if noise.passing_dba else None
    return noise.level_dba - after.level_dba, passing


def _passing_dba(noise: NoiseAt) -> float:
    return 10 * float(np.log10(sum(10 ** (level / 10) for level in noise.passing_dba.values())))


def _worth(buys: Buys) -> float:
    return max(buys.hush_db, buys.passing_db or 0.0)


def _quiet_move(found: QuietSet, case: Case) -> QuietMove:
    titles = [move_words(part, case.scenario, case.scenario, case.limits)[0] for part in found.parts]
    return QuietMove.out_of(
        found,
        title=" + ".join(titles),
        parts=titles,
        kinds=[part.kind for part in found.parts],
        cost=found.cost.price,
        minutes=found.cost.minutes,
        reversible=found.cost.reversible,
        cautions=[CAUTIONS[key] for key in found.cost.cautions],
        edits=case.steps(edit for part in found.parts for edit in part.edits),
    )


HUSH = Question("hush", ArrangementAsk, HushAnswer, hush, work="quick")

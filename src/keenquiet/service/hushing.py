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
from keenquiet.core.judge.audible import QUIET_PHRASE_DB, SQUEEZE_DB, Audible, audible, thirds_of, under_performance
from keenquiet.core.judge.candidate import Candidate
from keenquiet.core.judge.cooling import warming
from keenquiet.core.judge.forecast import Acoustics, performance_dba
from keenquiet.core.judge.noise_steps import ranked_steps
from keenquiet.core.judge.quiet_sets import QuietSet, quiet_sets
from keenquiet.core.room.noise_presets import noise_presets
from keenquiet.core.room.room import Room
from keenquiet.core.room.ways import MEANS, Seal, change_db, closed
from keenquiet.core.scenario import Scenario
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.noise_at import NoiseAt, noise_at_microphone
from keenquiet.core.waves.sources import SOURCES
from keenquiet.documents.edits import edit_doc
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.hush import (
    AudibleAnswer,
    Buys,
    EffortRow,
    HushAnswer,
    QuietMove,
    RestoreItem,
    SourceHeard,
    UnderAnswer,
    WarmingAnswer,
    WayAnswer,
)
from keenquiet.service.predict import acoustics_of, limits_of, prices_of

DISTANCES_M: Final = (0.05, 0.1, 0.2, 0.3, 0.6, 1.0)
_VOICES: Final = ("voice-soft", "voice-spoken", "voice-sung", "voice-loud")
_HEATING_W: Final = 40.0  # a laptop and a lamp


def hush_answer(room: RoomDoc, arrangement_id: str | None = None) -> HushAnswer:
    """Contract of `hush`."""
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    space, stand = acoustics.room, scenario.arrangement
    noise = noise_at_microphone(space, stand, decay=acoustics.decay, hour=scenario.hour)
    distance = float(np.linalg.norm(np.subtract(stand.performer.at, stand.microphone.at)))
    performance = np.array(stand.performer.source.level_db) - 20 * np.log10(distance)
    layers = room.brief.layer_count if room.brief.layers == "layered" else 1
    under = under_performance(performance, noise.octaves_db, layers=layers)
    centres, played = thirds_of(performance)
    _, there = thirds_of(noise.octaves_db)
    ways = list(_ways(room, scenario, acoustics, noise))
    best = max((way for way in ways if way.buys), key=lambda way: _worth(way.buys[0]), default=None)
    off = list(dict.fromkeys(doc.silenced))
    return HushAnswer(
        known=bool(room.noises),
        performance_dba=performance_dba(stand),
        noise_dba=noise.level_dba,
        sources=[SourceHeard(**step.__dict__, warns=step.warns) for step in ranked_steps(noise, space.noises)],
        under=UnderAnswer(**under.__dict__, quiet=under.now - QUIET_PHRASE_DB, layers=layers),
        distances_m=DISTANCES_M,
        efforts=_efforts(stand.performer.source.key, noise),
        audible=_audible(audible(centres, played, there)),
        audible_squeezed=_audible(audible(centres, played, there, lift_db=SQUEEZE_DB)),
        ways=ways,
        ways_words=ways_words(best.label, best.buys[0].words) if best else NO_WAY,
        moves=[
            _quiet_move(found, room, doc, scenario)
            for found in quiet_sets(scenario, acoustics, limits=limits_of(room), costs=prices_of(room))
        ],
        warming=_warming(space),
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
    return AudibleAnswer(
        centre_hz=found.centres_hz,
        noise_db=found.noise_db,
        performance_db=found.performance_db,
        heard=list(found.heard),
        worst=found.worst,
        first_hz=found.first_hz,
        last_hz=found.last_hz,
        words=audible_words(found),
    )


def _warming(space: Room) -> WarmingAnswer:
    found = warming(space, devices_w=_HEATING_W)
    return WarmingAnswer(
        minutes=found.minutes,
        plus_minus_min=found.plus_minus_min,
        cents_per_k=found.cents_per_k,
        allowed_k=found.allowed_k,
        words=warming_words(found),
        caution=HEAT,
    )


def _must_come_back(room: RoomDoc, name: str) -> bool:
    preset = next((noise.preset for noise in room.noises if noise.name == name), None)
    return preset is not None and preset in noise_presets() and noise_presets()[preset].again


def _ways(room: RoomDoc, scenario: Scenario, acoustics: Acoustics, noise: NoiseAt) -> Iterator[WayAnswer]:
    """Ways in of the surfaces that something comes through now; where nothing does, of those with an opening."""
    frame, faces = Frame.of(room), scenario.room.faces
    through = {n.surface for n in scenario.described.noises if n.kind == "outside" and n.runs_at(scenario.hour)}
    shut = closed(scenario.room.ways, scenario.sealed)
    prices, limits = prices_of(room), limits_of(room)
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
                cost = prices(Candidate("seal", (), f"seal-{means.key}"), limits)
                hush_db, passing_db = _wins_db(scenario, acoustics, noise, seals)
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
                        edits=[edit_doc(SealWay(way.key, means.key), frame)],
                    )
                )
        yield WayAnswer(
            key=way.key,
            kind=way.kind,
            label=WAY_WORDS[way.kind],
            surface=faces[way.face].name,
            share=float(way.power[octave]) / total if total > 0 else 0.0,
            at=frame.document(way.at) if way.at is not None else None,
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


def _quiet_move(found: QuietSet, room: RoomDoc, doc: ArrangementDoc, scenario: Scenario) -> QuietMove:
    frame, limits = Frame.of(room), limits_of(room)
    titles = [move_words(part, scenario, scenario, limits)[0] for part in found.parts]
    title = titles[0] if len(titles) == 1 else " + ".join(titles)
    return QuietMove(
        title=title,
        parts=titles,
        kinds=[part.kind for part in found.parts],
        gain_db=found.gain_db,
        plus_minus_db=found.plus_minus_db,
        alone_db=found.alone_db,
        surprising=found.surprising,
        cost=found.cost.price,
        minutes=found.cost.minutes,
        reversible=found.cost.reversible,
        cautions=[CAUTIONS[key] for key in found.cost.cautions],
        edits=[edit_doc(edit, frame) for part in found.parts for edit in part.edits],
    )

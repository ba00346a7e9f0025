"""Everything that can be chosen, in one answer: materials, performers, patterns, furniture, purposes, kinds, prices."""

from functools import cache

import numpy as np

from keenquiet.advice.choices import PATTERN_HINTS, PURPOSE_HINTS
from keenquiet.advice.costs import CAUTIONS, CURRENCIES, price_rows
from keenquiet.advice.differences import EDIT_WORDS
from keenquiet.advice.everyday import everyday_names, likely_places
from keenquiet.advice.findings import FINDING_NAMES, THREAD_NAMES
from keenquiet.advice.hush import DAYS
from keenquiet.advice.materials import takes
from keenquiet.advice.pieces import DIFFUSING, PIECE_WORDS
from keenquiet.advice.takes import NOTHING_ARRIVES
from keenquiet.advice.taping import MICROPHONE_CAUTIONS
from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, OCTAVES_HZ, sum_db
from keenquiet.core.judge.forecast import LOUDSPEAKER
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.furnishings import KINDS as FURNITURE
from keenquiet.core.room.noise_presets import NoisePreset, noise_presets
from keenquiet.core.take.finding import KINDS as FINDING_KINDS
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.things.microphone import PATTERNS
from keenquiet.core.things.pieces import Piece, pieces
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.modes import nearest_note
from keenquiet.documents.schema import CycleDoc
from keenquiet.documents.surfaces import absorber_doc
from keenquiet.rig.faults import FAULTS
from keenquiet.rig.spoils import SPOILS
from keenquiet.service.answers.tools import (
    Catalogue,
    Choice,
    FindingKindAnswer,
    FurnishingKind,
    KindAnswer,
    MaterialAnswer,
    NoisePresetAnswer,
    NothingArrives,
    PatternAnswer,
    PieceAnswer,
    PriceAnswer,
    PurposeAnswer,
    SourceChoice,
)
from keenquiet.service.kinds import KINDS, ReadingKind
from keenquiet.store.audiofile import SOUND_SUFFIXES


@cache
def catalogue() -> Catalogue:
    """The choices; the same answer each time."""
    return Catalogue(
        noises=[_noise(preset) for preset in noise_presets().values()],
        days=list(DAYS),
        materials=[
            MaterialAnswer.out_of(m, also=everyday_names().get(m.key, ()), likely=likely_places().get(m.key, {}))
            for m in CATALOGUE.values()
        ],
        microphone_cautions=MICROPHONE_CAUTIONS,
        sources=[
            SourceChoice.out_of(s, lowest=nearest_note(s.lowest_hz)[0])
            for s in SOURCES.values()
            if s.key != LOUDSPEAKER
        ],
        patterns=[PatternAnswer(key=p, name=p, pressure=a, hint=PATTERN_HINTS[p]) for p, a in PATTERNS.items()],
        furnishings=[FurnishingKind.out_of(kind) for kind in FURNITURE.values()],
        purposes=[PurposeAnswer.out_of(p, hint=PURPOSE_HINTS[p.key]) for p in PURPOSES.values()],
        kinds=[kind_answer(kind) for kind in KINDS.values()],
        faults=[Choice(key=key, name=name) for key, name in FAULTS.items()],
        take_faults=[Choice(key=key, name=FINDING_NAMES[key]) for key in SPOILS],
        findings=[
            FindingKindAnswer.out_of(kind, key=key, name=FINDING_NAMES[key]) for key, kind in FINDING_KINDS.items()
        ],
        threads=[Choice(key=key, name=name) for key, name in THREAD_NAMES.items()],
        nothing_arrives=[
            NothingArrives(key=key, question=question, cure=cure) for key, question, cure in NOTHING_ARRIVES
        ],
        prices=[
            PriceAnswer.out_of(
                row, prices={sign: row.prices[code] for sign, code in CURRENCIES.items() if code in row.prices}
            )
            for row in price_rows().values()
            if any(row.prices.values())
        ],
        pieces=[_piece(piece) for piece in pieces().values()],
        diffusing=DIFFUSING,
        sounds=list(SOUND_SUFFIXES),
        edits=dict(EDIT_WORDS),
    )


def _piece(piece: Piece) -> PieceAnswer:
    material = piece.material
    return PieceAnswer.out_of(
        piece,
        absorption=material.absorption,
        says=PIECE_WORDS[piece.key],
        material=material.key if material.key in CATALOGUE else None,
        absorber=None if material.key in CATALOGUE or material.absorber is None else absorber_doc(material.absorber),
        takes=dict(takes(piece.key)),
        cautions=[CAUTIONS["stand" if key == "mount" else key] for key in price_rows()[piece.key].cautions],
        stands=piece.mount == "free",
    )


def kind_answer(kind: ReadingKind) -> KindAnswer:
    """A kind of reading with its words."""
    return KindAnswer.out_of(kind, kind.words)


def _noise(preset: NoisePreset) -> NoisePresetAnswer:
    octaves = dict(zip(map(str, OCTAVES_HZ), preset.level_db, strict=True))
    cycle = preset.cycle
    return NoisePresetAnswer.out_of(
        preset,
        octaves_db=octaves,
        cycle=None if cycle is None else CycleDoc(period_min=cycle.period_min, on_share=cycle.on_share),
        level_dba=float(sum_db(np.array(preset.level_db) + A_WEIGHTING_OCTAVES_DB)),
    )

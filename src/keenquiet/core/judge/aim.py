"""Aim: how the microphone's angle trades the voice against bass, treble, breath and the room; and loud notes."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.judge.distance_curve import bass_lift_db
from keenquiet.core.judge.forecast import Acoustics
from keenquiet.core.room.room import Arrangement, Microphone, direction, directions
from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.capsule import RADIUS_M, diaphragm_gain
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.core.waves.puff import FROM_THE_MOUTH, puff_index
from keenquiet.core.waves.reverberant import place_bounce_db

ANGLES_DEG: Final = (0.0, 15.0, 30.0, 45.0, 60.0, 90.0)
_TREBLE: Final = 7  # the 8 kHz octave
_MID: Final = 4
_LOUD_DB: Final = 6.0  # what a loud note asks to be lowered by
_STEP_DEG: Final = 2.0
_STILL_ON_DB: Final = -3.0  # the performer may lose no more than this to a null


@dataclass(frozen=True)
class Aimed:
    """One way to stand to the microphone, against straight on at the same distance. [dB]

    level_db : of the middle. bass_db : of 100 Hz against the middle. treble_db : of 8 kHz against the middle.
    puff : index at the capsule.
    """

    angle_deg: float
    level_db: float
    bass_db: float
    treble_db: float
    puff: float


def past_the_mouth(
    arrangement: Arrangement, *, speed_m_s: float, kind: str = "side-address", screen: str = "none"
) -> list[Aimed]:
    """The microphone stays and looks at the mouth; the performer sings past it by some degrees."""
    return [_aimed(arrangement, turn, 0.0, _distance(arrangement), speed_m_s, kind, screen) for turn in ANGLES_DEG]


def round_the_microphone(
    arrangement: Arrangement, angles_deg: Sequence[float], *, speed_m_s: float, kind: str = "side-address"
) -> list[Aimed]:
    """The performer goes round the microphone and sings at it still: it hears from aside by some degrees."""
    return [
        _aimed(arrangement, 0.0, float(angle), _distance(arrangement), speed_m_s, kind, "none") for angle in angles_deg
    ]


def loud_notes(arrangement: Arrangement, *, speed_m_s: float, kind: str = "side-address") -> dict[str, Aimed]:
    """Three ways to take a loud note down: turn the head by 45 degrees, tilt the microphone by 45, go twice as far."""
    near = _distance(arrangement)
    return {
        "turn": _aimed(arrangement, 45.0, 0.0, near, speed_m_s, kind, "none"),
        "tilt": _aimed(arrangement, 0.0, 45.0, near, speed_m_s, kind, "none"),
        "step-back": _aimed(arrangement, 0.0, 0.0, near * 10 ** (_LOUD_DB / 20), speed_m_s, kind, "none"),
    }


def _aimed(
    arrangement: Arrangement,
    head_deg: float,
    mic_deg: float,
    distance_m: float,
    speed_m_s: float,
    kind: str,
    screen: str,
) -> Aimed:
    """Against straight on at the arrangement's distance."""
    a, near = arrangement.microphone.a, _distance(arrangement)
    source = arrangement.performer.source
    cos_mic = float(np.cos(np.deg2rad(mic_deg)))
    radiated = 20 * np.log10(source.gain(np.cos(np.deg2rad(head_deg))))
    taken = 20 * np.log10(np.maximum(np.abs(sensitivity(a, np.asarray(cos_mic))), 1e-3))
    face = 20 * np.log10(diaphragm_gain(mic_deg, radius_m=RADIUS_M[kind], speed_m_s=speed_m_s))
    level = radiated + taken + face - 20 * np.log10(distance_m / near)
    f_hz = np.array([100.0])
    lift = [
        float(bass_lift_db(a, cosine, distance_m=np.array([d]), f_hz=f_hz, speed_m_s=speed_m_s)[0, 0])
        for cosine, d in ((cos_mic, distance_m), (1.0, near))
    ]
    breath = source.key in FROM_THE_MOUTH
    return Aimed(
        angle_deg=head_deg or mic_deg,
        level_db=float(level[_MID]),
        bass_db=float(level[1] - level[_MID] + lift[0] - lift[1]),
        treble_db=float(level[_TREBLE] - level[_MID]),
        puff=float(puff_index(distance_m, head_deg, screen=screen)) if breath else 0.0,
    )


def _distance(arrangement: Arrangement) -> float:
    return float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))


def null_deg(a: float) -> float | None:
    """Angle off the axis at which a pattern hears nothing, None without one. [deg]"""
    if a > 0.5:
        return None
    return float(np.degrees(np.arccos(-a / (1 - a))))


@dataclass(frozen=True)
class Null:
    """The microphone turned so that its null looks at the worst noise, against how it looks now.

    under_db, bounce_db : what it wins in noise under the performance and in direct over room. level_db : of the voice.
    Below zero each is a loss: where the noise comes off every wall, a null takes little of it away.
    left_deg : how far the null still is from the noise. aims_deg, tilt_deg : the microphone's new aim.
    """

    noise: str
    aims_deg: float
    tilt_deg: float
    left_deg: float
    under_db: float
    level_db: float
    bounce_db: float
    treble_db: float
    bass_db: float


def null_towards_noise(
    acoustics: Acoustics, arrangement: Arrangement, *, hour: float | None = None, kind: str = "side-address"
) -> Null | None:
    """The aim, by turning and tilting in 2 degree steps, that brings the null nearest to the worst noise while the
    performer keeps all but 3 dB; None without a noise or a null.
    """
    room, mic = acoustics.room, arrangement.microphone
    off = null_deg(mic.a)
    # what comes through the building or only passes has no direction to turn away from
    running = [n for n in room.noises if n.runs_at(hour) and not n.passes and n.kind != "structure"]
    if off is None or not running:
        return None
    now = noise_at_microphone(room, arrangement, decay=acoustics.decay, hour=hour)
    worst = max(running, key=lambda noise: now.by_source_dba[noise.name])
    to_noise = _unit(np.subtract(worst.at, mic.at))
    to_voice = _unit(np.subtract(arrangement.performer.at, mic.at))
    turn, tilt = np.meshgrid(np.arange(0, 360, _STEP_DEG), np.arange(-60, 61, _STEP_DEG), indexing="ij")
    axes = directions(turn, tilt)
    voice = 20 * np.log10(np.maximum(sensitivity(mic.a, axes @ to_voice), 1e-6))
    aside = np.abs(np.degrees(np.arccos(np.clip(axes @ to_noise, -1, 1))) - off)
    left = np.where(voice >= _STILL_ON_DB, aside, np.inf)
    # among aims alike to a step, the one that keeps the voice best
    best = np.unravel_index(int(np.argmin(np.where(left <= left.min() + 1.0, -voice, np.inf))), left.shape)
    aimed = replace(arrangement, microphone=Microphone(mic.at, float(turn[best]), float(tilt[best]), mic.pattern))
    then = noise_at_microphone(room, aimed, decay=acoustics.decay, hour=hour)
    before, after = (_cos(spot, to_voice) for spot in (arrangement, aimed))
    level = _gain_db(mic.a, after) - _gain_db(mic.a, before)
    face = [
        20 * np.log10(diaphragm_gain(np.degrees(np.arccos(c)), radius_m=RADIUS_M[kind], speed_m_s=room.air.speed_m_s))
        for c in (before, after)
    ]
    near = np.array([_distance(arrangement)])
    lift = [
        float(bass_lift_db(mic.a, c, distance_m=near, f_hz=np.array([100.0]), speed_m_s=room.air.speed_m_s)[0, 0])
        for c in (before, after)
    ]
    return Null(
        noise=worst.name,
        aims_deg=aimed.microphone.aims_deg,
        tilt_deg=aimed.microphone.tilt_deg,
        left_deg=float(left[best]),
        under_db=level - (then.level_dba - now.level_dba),
        level_db=level,
        bounce_db=place_bounce_db(room, aimed, decay=acoustics.decay)
        - place_bounce_db(room, arrangement, decay=acoustics.decay),
        treble_db=float((face[1] - face[0])[_TREBLE]),
        bass_db=lift[1] - lift[0],
    )


def _cos(arrangement: Arrangement, to_voice: FloatArray) -> float:
    mic = arrangement.microphone
    return float(np.clip(direction(mic.aims_deg, mic.tilt_deg) @ to_voice, -1, 1))


def _gain_db(a: float, cosine: float) -> float:
    return float(20 * np.log10(max(abs(a + (1 - a) * cosine), 1e-6)))


def _unit(vector: FloatArray) -> FloatArray:
    unit: FloatArray = np.asarray(vector, dtype=float) / max(float(np.linalg.norm(vector)), 1e-9)
    return unit


def gathered_from_front(a: float) -> float:
    """Share of a diffuse field that a pattern gathers from the half space that it looks into. [-]

    Int_0^1 (a + (1-a) x)^2 dx over twice the efficiency: 1/2 for an omni, 7/8 for a cardioid.
    """
    b = 1 - a
    return (a**2 + a * b + b**2 / 3) / (2 * (a**2 + b**2 / 3))

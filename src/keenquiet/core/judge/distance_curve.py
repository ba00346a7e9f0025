"""The distance curve: what the way between performer and microphone does here, from 3 cm to 1.5 m (for the loud to
2.5 m), and what ends it.

Every figure is what the forecast would say with the microphone there: the same paths, decay and noises.
"""

from dataclasses import dataclass, replace
from functools import partial
from typing import Final

import numpy as np

from keenquiet.core.judge.forecast import DEFICIT_UNIT, Acoustics, swayed_m
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, direction
from keenquiet.core.things.microphone import near_field_gain
from keenquiet.core.things.sources import Source
from keenquiet.core.types import BoolArray, FloatArray
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.core.waves.puff import FROM_THE_MOUTH, puff_index
from keenquiet.core.waves.reverberant import place_bounce_db

NEAREST_M: Final = 0.03
FURTHEST_M: Final = 1.5
_LOUD_FURTHEST_M: Final = 2.5
_LOUD_DBA: Final = 85.0  # at 1 m: brass, drums, bagpipes, which stand further off than the rest
# what a common microphone and preamplifier take without a pad, and how far the loudest note's peak lies above the usual
# level: some 10 dB of playing (J. Meyer, dynamics) and 12 dB of crest (our estimates from data sheets and recordings)
_MOST_PEAK_DB: Final = 120.0
_LOUDEST_PEAK_DB: Final = 22.0
_POINTS: Final = 26
LIFT_HZ: Final = (50.0, 100.0, 200.0, 400.0)
MOST_SWAY_DB: Final = 3.0
MOST_LIFT_DB: Final = 6.0
MOST_PUFF: Final = 1.0
# a quietest phrase under the usual level: voices span some 25 dB, bowed strings and brass 30 and more from the softest
# to the loudest (J. Meyer, Acoustics and the Performance of Music, dynamics); half of it lies below the middle [dB]
_QUIET_VOICE_DB: Final = 12.0
_QUIET_INSTRUMENT_DB: Final = 15.0
OWN_NOISE_DBA: Final = 16.0  # a chain nobody has named: a common large capsule with its preamplifier (our estimate)
# how much further into the room a part wants to sit than the lead. [dB of direct over room]
ROLES: Final = {"lead": 0.0, "backing": -4.0, "soloist": -2.0, "section": -6.0}
# a listener's neutral room: 50 m3 that fade in 0.4 s, both ears open to all sides
_NEUTRAL_M3: Final = 50.0
_NEUTRAL_S: Final = 0.4
PINS: Final = (
    ("lips on it", 0.03),
    ("a hand's width", 0.10),
    ("six inches", 0.15),
    ("a foot", 0.30),
    ("across the stand", 0.60),
    ("instruments", 1.00),
)


@dataclass(frozen=True)
class Limit:
    """What ends the span at one end: a mark, and the key of its reason."""

    end: str
    mark: str
    why: str


@dataclass(frozen=True)
class Span:
    """Distances that give what is wanted. meets : False where none does; then the one that lacks least. [m]"""

    from_m: float
    to_m: float
    meets: bool
    limits: tuple[Limit, ...]


@dataclass(frozen=True)
class DistanceCurve:
    """By distance (n,); NaN where a microphone cannot stand.

    bounce_db : direct over room. room_noise_db, own_noise_db : how far the room's noise and the chain's own lie under
    the performance; under_noise_db : both together; quietest_db : the same under a quietest phrase.
    lift_db : (n, 4) of bass at LIFT_HZ. puff : see `waves.puff`. sway_db, sway_bass_db : what 5 cm nearer changes.
    sounds_m : distance at which a listener in a neutral room would hear this much room.
    """

    distance_m: FloatArray
    bounce_db: FloatArray
    room_noise_db: FloatArray
    own_noise_db: FloatArray
    under_noise_db: FloatArray
    quietest_db: FloatArray
    lift_db: FloatArray
    puff: FloatArray
    sway_db: FloatArray
    sway_bass_db: FloatArray
    sounds_m: FloatArray
    span: Span | None
    off_axis_deg: float

    @property
    def proximity_db(self) -> FloatArray:
        """Lift at 100 Hz, (n,). [dB]"""
        return self.lift_db[:, 1]


def sounds_at_m(direct_over_room_db: FloatArray | float, source: Source) -> FloatArray:
    """Distance at which a listener in a neutral room would have this direct over room, (...). [m]

    The critical distance 0.057 sqrt(Q V / T) of 50 m3 and 0.4 s, by the ratio's square root (H. Kuttruff, chapter 5).
    """
    q = 10 ** (source.directivity_index_db[4] / 10)
    critical = 0.057 * np.sqrt(q * _NEUTRAL_M3 / _NEUTRAL_S)
    far: FloatArray = critical * 10 ** (-np.asarray(direct_over_room_db) / 20)
    return far


def furthest_m(source: Source) -> float:
    """How far the curve goes: further for those who are loud. [m]"""
    return _LOUD_FURTHEST_M if source.level_dba >= _LOUD_DBA else FURTHEST_M


def at_distance(arrangement: Arrangement, distance_m: float) -> Arrangement:
    """The microphone at another distance on the same line from the performer, aimed as it is."""
    performer = np.array(arrangement.performer.at)
    away = np.array(arrangement.microphone.at) - performer
    x, y, z = performer + away * distance_m / float(np.linalg.norm(away))
    return replace(arrangement, microphone=replace(arrangement.microphone, at=(float(x), float(y), float(z))))


def bass_lift_db(
    a: float, cos_angle: float, *, distance_m: FloatArray, f_hz: FloatArray, speed_m_s: float
) -> FloatArray:
    """What closeness adds at low pitches, against the same microphone and angle far away, (n, n_f). [dB]"""
    far = max(abs(a + (1 - a) * cos_angle), 1e-3)
    near = np.array(
        [near_field_gain(a, cos_angle, distance_m=float(d), f_hz=f_hz, speed_m_s=speed_m_s) for d in distance_m]
    )
    lift: FloatArray = 20 * np.log10(np.abs(near) / far)
    return lift


def distance_curve(
    acoustics: Acoustics,
    arrangement: Arrangement,
    wanted: Wanted,
    *,
    hour: float | None = None,
    role: str = "lead",
    own_noise_dba: float = OWN_NOISE_DBA,
    screen: str = "none",
) -> DistanceCurve:
    """What each distance gives for this performer, microphone and room.

    acoustics : of the room with its treatments. role : one of ROLES. own_noise_dba : of microphone and preamplifier,
    as if a sound of that level were there. screen : see `waves.puff`.
    """
    room, source, mic = acoustics.room, arrangement.performer.source, arrangement.microphone
    here = float(np.linalg.norm(np.subtract(arrangement.performer.at, mic.at)))
    furthest = furthest_m(source)
    distance = np.unique(np.append(np.geomspace(NEAREST_M, furthest, _POINTS), np.clip(here, NEAREST_M, furthest)))
    placed = [at_distance(arrangement, float(d)) for d in distance]
    free = room.shape.contains(np.array([spot.microphone.at for spot in placed]))
    bounce, noise = np.full((2, len(distance)), np.nan)
    for i in np.flatnonzero(free):
        bounce[i] = place_bounce_db(room, placed[i], decay=acoustics.decay)
        noise[i] = noise_at_microphone(room, placed[i], decay=acoustics.decay, hour=hour).level_dba
    level = source.level_dba - 20 * np.log10(distance)
    room_noise, own_noise = level - noise, level - own_noise_dba
    together = level - 10 * np.log10(10 ** (noise / 10) + 10 ** (own_noise_dba / 10))
    quiet = _QUIET_VOICE_DB if source.key.startswith("voice") else _QUIET_INSTRUMENT_DB
    towards = np.subtract(arrangement.performer.at, mic.at) / here
    cosine = float(np.clip(direction(mic.aims_deg, mic.tilt_deg) @ towards, -1, 1))
    off_jet = float(np.degrees(np.arccos(np.clip(direction(arrangement.performer.faces_deg) @ -towards, -1, 1))))
    lifted_db = partial(bass_lift_db, mic.a, cosine, f_hz=np.array(LIFT_HZ), speed_m_s=room.air.speed_m_s)
    lift = lifted_db(distance_m=distance)
    nearer = swayed_m(distance)
    sway = 20 * np.log10(distance / nearer)
    leant = lifted_db(distance_m=nearer)
    breath = source.key in FROM_THE_MOUTH
    puff = puff_index(distance, off_jet, screen=screen) if breath else np.zeros_like(distance)
    lacks = _lacks(bounce, room_noise, lift[:, 1], puff, sway, wanted, role, bool(room.noises))
    lacks["near", "touch", "loud"] = np.maximum(level + _LOUDEST_PEAK_DB - _MOST_PEAK_DB, 0) / 6
    return DistanceCurve(
        distance_m=distance,
        bounce_db=bounce,
        room_noise_db=room_noise,
        own_noise_db=own_noise,
        under_noise_db=together,
        quietest_db=together - quiet,
        lift_db=lift,
        puff=puff,
        sway_db=sway,
        sway_bass_db=leant[:, 1] - lift[:, 1],
        sounds_m=sounds_at_m(bounce, source),
        span=_span(distance, lacks, free),
        off_axis_deg=float(np.degrees(np.arccos(cosine))),
    )


def _lacks(
    bounce: FloatArray,
    under: FloatArray,
    lift: FloatArray,
    puff: FloatArray,
    sway: FloatArray,
    wanted: Wanted,
    role: str,
    known_noise: bool,
) -> dict[tuple[str, str, str], FloatArray]:
    """What each distance lacks, by end, mark and reason, in units that are plainly bad at 1, (n,)."""
    shift = ROLES[role]
    low = (wanted.bounce_db.low if wanted.bounce_db.low is not None else -np.inf) + shift
    high = (wanted.bounce_db.high if wanted.bounce_db.high is not None else np.inf) + shift
    lacks = {
        ("near", "touch", "puff"): np.log2(np.maximum(puff / MOST_PUFF, 1e-9)).clip(0) / 2,
        ("near", "touch", "sway"): np.maximum(sway - MOST_SWAY_DB, 0) / 6,
        ("near", "touch", "lift"): np.maximum(lift - MOST_LIFT_DB, 0) / DEFICIT_UNIT["touch"],
        ("near", "bounce", "dry"): np.maximum(bounce - high, 0) / DEFICIT_UNIT["bounce"],
        ("far", "bounce", "room"): np.maximum(low - bounce, 0) / DEFICIT_UNIT["bounce"],
    }
    if known_noise and wanted.hush_db.low is not None:
        lacks["far", "hush", "noise"] = np.maximum(wanted.hush_db.low - under, 0) / DEFICIT_UNIT["hush"]
    return lacks


def _span(distance: FloatArray, lacks: dict[tuple[str, str, str], FloatArray], free: BoolArray) -> Span | None:
    """The longest stretch that lacks nothing; without one, where least is lacking. None where nothing can stand."""
    if not np.any(free):
        return None
    total = np.where(free, np.nan_to_num(sum(lacks.values()), nan=np.inf), np.inf)
    good = total <= 1e-9
    if np.any(good):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], good.astype(int), [0]])))
        stretches = zip(edges[::2], edges[1::2] - 1, strict=True)
        first, last = max(stretches, key=lambda span: distance[span[1]] / distance[span[0]])
        ends = {"near": _crossing(distance, total, int(first), -1), "far": _crossing(distance, total, int(last), 1)}
        beyond = {"near": int(first) - 1, "far": int(last) + 1}
        limits = [_worst(lacks, end, i) for end, i in beyond.items() if 0 <= i < len(distance) and free[i]]
        return Span(ends["near"], ends["far"], True, tuple(limit for limit in limits if limit))
    least = int(np.argmin(total))
    limits = [_worst(lacks, end, least, of=end) for end in ("near", "far")]
    there = float(distance[least])
    return Span(there, there, False, tuple(limit for limit in limits if limit))


def _crossing(distance: FloatArray, total: FloatArray, at: int, towards: int) -> float:
    """Where the lack begins beside the last distance without one, by the slope of the two beyond it. [m]"""
    beyond = at + towards
    if not 0 <= beyond < len(distance) or not np.isfinite(total[beyond]) or not 0 <= beyond + towards < len(distance):
        return float(distance[at])
    # the lack grows about evenly on the logarithm of the distance: its line through the next two reaches 0 between
    slope = total[beyond + towards] - total[beyond]
    share = np.clip(total[beyond] / slope, 0.0, 1.0) if np.isfinite(slope) and slope > 1e-9 else 1.0
    return float(distance[beyond] * (distance[at] / distance[beyond]) ** share)


def _worst(lacks: dict[tuple[str, str, str], FloatArray], end: str, i: int, of: str | None = None) -> Limit | None:
    """What lacks most at a distance; `of` only among what ends the span on that side."""
    here = {key: float(np.nan_to_num(lack[i])) for key, lack in lacks.items() if of is None or key[0] == of}
    if not here or max(here.values()) <= 1e-9:
        return None
    _, mark, why = max(here, key=lambda key: here[key])
    return Limit(end, mark, why)

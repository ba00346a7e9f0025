"""The four marks predicted for one arrangement, from the same models that judge every move."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np

from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, Performer, Room, direction
from keenquiet.core.room.shape import Shape
from keenquiet.core.things.microphone import proximity_lift_db, random_energy_efficiency
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.energy_walks import Walks
from keenquiet.core.waves.flutter_pairs import FlutterPair, flutter_pairs, standing_out
from keenquiet.core.waves.mode_count import mode_count
from keenquiet.core.waves.modes import Modes, damped_modes
from keenquiet.core.waves.noise_at import THE_HOUSE, NoiseAt, noise_at_microphone
from keenquiet.core.waves.paths import Paths, reflected_paths
from keenquiet.core.waves.perturbed import Perturbation
from keenquiet.core.waves.response import Transfer, heard_level_db, level_db, point, smoothed_db
from keenquiet.core.waves.reverberant import direct_over_room_at_db, mid_band_db, room_sound
from keenquiet.core.waves.rigid import method_for
from keenquiet.core.waves.statistics import (
    Decay,
    Walked,
    absorption_area_m2,
    critical_distance_m,
    decay,
    decay_towards,
    few_walks,
)

LOUDSPEAKER: Final = "loudspeaker-small"  # what plays a sweep in the performer's place
TOP_HZ: Final = 300.0  # the low end: modes and their response
SOLID_TOP_HZ: Final = 220.0  # the same where finite elements in space must do, whose work grows with the sixth power
_MOST_MODES: Final = 600  # that many are followed; a room above about 110 m3 has more below 300 Hz
_MOST_SOLID_MODES: Final = 240
_HALL_M3: Final = 200.0
# the same in a hall, where finite elements would keep a person waiting
_HALL_MODES: Final = {"box": _MOST_MODES, "prism": 300, "solid": 80}
_NOMINAL_SPEED_M_S: Final = 343.0
_LEAST_BOOM_OCTAVES: Final = 0.75
AUDIBLE_DB: Final = -14.0  # modes fainter than this against the strongest at the microphone are not told
HEARD_WITHIN_DB: Final = 10.0  # a note counts when it sounds within this of the strongest at the microphone
SUPPORT: Final = 1.15
ABSORPTION_SPREAD: Final = 0.20  # log-normal, catalogue figures before a fit
POSITION_SPREAD_M: Final = 0.02
SOURCE_LEVEL_SPREAD_DB: Final = 4.0  # how loud somebody sings is not known before a take
NOISE_LEVEL_SPREAD_DB: Final = 3.0
_HOUSE_SPREAD_DB: Final = 6.0  # our estimate: nobody knows a house before it is read
_DRAWS: Final = 64
_SWING_DRAWS: Final = 8  # a response costs more than a sum of paths
_SEED: Final = 20
_SWAY_M: Final = 0.05


@dataclass(frozen=True, slots=True)
class Figure:
    """A value with its standard uncertainty, both in the unit its name carries elsewhere."""

    value: float
    plus_minus: float


@dataclass(frozen=True)
class Bounce:
    """The room heard around the performer. dB over room, strongest early path, mid-band decay."""

    direct_over_room_db: Figure
    strongest_early_db: float
    strongest_early_ms: float
    strongest_path: int
    decay_s: Figure


@dataclass(frozen=True)
class Boom:
    """The note that hangs longest among those heard, and the swing of the low end."""

    ring_s: Figure
    note_hz: float
    swing_db: Figure
    worst_mode: int


@dataclass(frozen=True)
class Hush:
    """Noise under the performance at the microphone, and the noise itself. known : whether anybody has noted a noise;
    else there is only what a house at night may have.
    """

    under_performance_db: Figure
    noise_dba: float
    performance_dba: float
    leading: str
    known: bool = True


@dataclass(frozen=True)
class Touch:
    """How the microphone is used: distance, bass lift, and what 5 cm of sway does."""

    distance_m: float
    proximity_db: float
    sway_db: float
    off_axis_deg: float


@dataclass(frozen=True)
class Forecast:
    """All that the marks rest on, for one arrangement in one room."""

    room: Room
    arrangement: Arrangement
    decay: Decay
    paths: Paths
    modes: Modes
    heard_db: FloatArray
    response_f_hz: FloatArray
    response_db: FloatArray
    noise: NoiseAt
    bounce: Bounce
    boom: Boom
    hush: Hush
    touch: Touch
    acoustics: "Acoustics"

    @cached_property
    def bounce_draws_db(self) -> FloatArray:
        """Direct over room in 64 seeded draws of absorption and places, (64,). [dB]  Same seed, same draws: differences
        between two forecasts are paired.
        """
        return _bounce_draws_db(self.room, self.arrangement, self.decay)

    @property
    def flutter(self) -> list[FlutterPair]:
        """Parallel hard patches whose flutter a clap lets stand out of the room's decay, worst first."""
        return standing_out(self.acoustics.flutter, self.decay)

    @property
    def critical_distance_m(self) -> float:
        """Where direct sound and room are equal for this performer and microphone, on axis, at 1 kHz. [m]"""
        area = absorption_area_m2(self.room)[4:5]
        q = 10 ** (self.arrangement.performer.source.directivity_index_db[4] / 10)
        efficiency = random_energy_efficiency(self.arrangement.microphone.a)
        return float(critical_distance_m(area, q=q, efficiency=efficiency)[0])


def low_end_top_hz(shape: Shape) -> float:
    """Up to where modes are followed in a room of this shape: lower in a hall, where they lie so close that the decay
    by statistics says the same. [Hz]
    """
    method = method_for(shape)
    most = _MOST_SOLID_MODES if method == "solid" else _MOST_MODES
    if shape.volume_m3 > _HALL_M3:
        most = _HALL_MODES[method]
    return min(SOLID_TOP_HZ if method == "solid" else TOP_HZ, _holding(shape, most))


def is_hall(shape: Shape) -> bool:
    """Whether the room is so large that modes are followed less far than elsewhere."""
    return low_end_top_hz(shape) < (SOLID_TOP_HZ if method_for(shape) == "solid" else TOP_HZ)


def _holding(shape: Shape, count: int) -> float:
    """Frequency below which a shape has about so many modes, support included, in whole 5 Hz. [Hz]"""
    f_hz = np.arange(20.0, SUPPORT * TOP_HZ + 10, 5.0)
    expected = mode_count(f_hz, shape, speed_m_s=_NOMINAL_SPEED_M_S)
    enough = f_hz[expected <= count]
    top = float(enough[-1]) if len(enough) else float(f_hz[0])
    return max(float(np.floor(top / SUPPORT / 5.0)) * 5.0, 25.0)


class Acoustics:
    """A room with its treatments: everything that does not depend on where anybody stands. Keep it while marks are
    dragged.
    """

    def __init__(self, room: Room, modes: Modes | None = None) -> None:
        self.room = room
        if modes is not None:
            self.__dict__["modes"] = modes

    def with_noises_of(self, room: Room) -> "Acoustics":
        """The same surfaces with other noises: nothing that is heard of the walls changes."""
        other = Acoustics(replace(self.room, noises=room.noises), self.modes)
        other.__dict__ |= {"flutter": self.flutter, "decay": self.decay}  # a dragged mark asks for both at each step
        return other

    def towards(self, room: Room) -> "Acoustics":
        """A room of the same shape with other things on its faces or standing in it: its modes to first order, its
        decay by fewer walks.
        """
        other = Acoustics(room, self.perturbation.towards(room))
        other.__dict__["decay"] = decay_towards(self.decay, self._few_walks, room)
        return other

    @cached_property
    def _few_walks(self) -> tuple[Walks, Walked]:
        return few_walks(self.room)

    @cached_property
    def perturbation(self) -> Perturbation:
        """First-order changes of the modes; overlaps with patches are kept in it."""
        return Perturbation(self.room, self.modes)

    @cached_property
    def modes(self) -> Modes:
        """Damped modes to the top of the low end, coupled, and a little above, one by one, to support the response's
        upper end.
        """
        top_hz = low_end_top_hz(self.room.shape)
        return damped_modes(self.room, f_max_hz=SUPPORT * top_hz, f_coupled_hz=top_hz)

    @cached_property
    def transfer(self) -> Transfer:
        """Low-frequency transfer of the room."""
        return Transfer(self.room, self.modes)

    @cached_property
    def flutter(self) -> list[FlutterPair]:
        """Parallel hard patches that throw sound to and fro."""
        return flutter_pairs(self.room)

    @cached_property
    def decay(self) -> Decay:
        """Statistical decay."""
        return decay(self.room)


def forecast(
    acoustics: Acoustics, arrangement: Arrangement, *, hour: float | None = None, uncertainty: bool = True
) -> Forecast:
    """Predict the four marks.

    acoustics : of the room with the arrangement's treatments already on its faces. hour : local time for noises [h].
    uncertainty : False skips the draws (plus_minus becomes 0), for searches.
    """
    room = acoustics.room
    paths = reflected_paths(room, arrangement)
    f_hz = response_grid_hz(low_end_top_hz(room.shape))
    places = acoustics.transfer.between(point(arrangement.performer.at), point(arrangement.microphone.at), f_hz)
    heard = heard_level_db(acoustics.transfer.coupling(places), acoustics.modes)
    response = level_db(acoustics.transfer.response_at(places))
    noise = noise_at_microphone(room, arrangement, decay=acoustics.decay, hour=hour)
    return Forecast(
        room=room,
        arrangement=arrangement,
        decay=acoustics.decay,
        paths=paths,
        modes=acoustics.modes,
        heard_db=heard,
        response_f_hz=f_hz,
        response_db=response,
        noise=noise,
        bounce=_bounce(acoustics, arrangement, paths, uncertainty),
        boom=_boom(acoustics, arrangement, heard, response, f_hz, uncertainty),
        hush=_hush(arrangement, noise, known=bool(room.noises)),
        touch=_touch(room, arrangement),
        acoustics=acoustics,
    )


def as_loudspeaker(arrangement: Arrangement) -> Arrangement:
    """The same arrangement with a small loudspeaker in the performer's place: what a sweep reading sees."""
    performer = arrangement.performer
    return replace(arrangement, performer=Performer(performer.at, performer.faces_deg, SOURCES[LOUDSPEAKER]))


def response_grid_hz(top_hz: float = TOP_HZ) -> FloatArray:
    """Frequencies of the low-end response, 20 Hz to the top, 24 per octave. [Hz]"""
    return np.geomspace(20.0, top_hz, round(24 * float(np.log2(top_hz / 20.0))) + 1)


def boom_range_hz(arrangement: Arrangement, shape: Shape) -> tuple[float, float]:
    """Where boom matters: from a little below the performer's lowest note to TOP_HZ; in a hall, whose modes are
    followed less far, the highest of those. [Hz]
    """
    low, high = max(40.0, 0.85 * arrangement.performer.source.lowest_hz), TOP_HZ
    if not is_hall(shape):
        return low, high
    high = low_end_top_hz(shape)
    return min(low, high * 2**-_LEAST_BOOM_OCTAVES), high


def absorption_spread(room: Room) -> float:
    """Log-normal spread of the absorption figures: the catalogue's, a guess's, or what a fit to readings left. [-]"""
    return ABSORPTION_SPREAD if room.spread is None else room.spread


def _draws() -> np.random.Generator:
    return np.random.default_rng(_SEED)


def _disturbed_points(arrangement: Arrangement, rng: np.random.Generator) -> tuple[FloatArray, FloatArray]:
    shape = (_DRAWS, 3)
    source = point(arrangement.performer.at) + POSITION_SPREAD_M * rng.standard_normal(shape)
    mic = point(arrangement.microphone.at) + POSITION_SPREAD_M * rng.standard_normal(shape)
    return source, mic


def _bounce(acoustics: Acoustics, arrangement: Arrangement, paths: Paths, uncertainty: bool) -> Bounce:
    room = acoustics.room
    sound = room_sound(room, arrangement, paths=paths, decay=acoustics.decay)
    strongest = int(np.argmax(np.where(paths.blocked, -np.inf, paths.level_db)))
    mid_s = float(np.mean(acoustics.decay.middle_s[3:5]))
    plus_minus = decay_plus_minus = 0.0
    if uncertainty:
        plus_minus = float(np.std(_bounce_draws_db(room, arrangement, acoustics.decay)))
        model = float(np.mean(acoustics.decay.spread[3:5]))
        # absorption errors of many patches average: about 0.6 of the single-patch spread is left (our estimate)
        decay_plus_minus = mid_s * float(np.hypot(absorption_spread(room) * 0.6, model))
    return Bounce(
        direct_over_room_db=Figure(sound.direct_over_room_db, plus_minus),
        strongest_early_db=float(paths.level_db[strongest]),
        strongest_early_ms=float(paths.delay_s[strongest] * 1000),
        strongest_path=strongest,
        decay_s=Figure(mid_s, decay_plus_minus),
    )


def _bounce_draws_db(room: Room, arrangement: Arrangement, decay: Decay) -> FloatArray:
    rng = _draws()
    source, mic = _disturbed_points(arrangement, rng)
    factor = np.exp(absorption_spread(room) * rng.standard_normal((_DRAWS, len(room.faces), 1))) * np.ones((1, 1, 8))
    return mid_band_db(
        direct_over_room_at_db(room, arrangement, decay=decay, sources=source, mics=mic, absorption_factor=factor)
    )


def _boom(
    acoustics: Acoustics,
    arrangement: Arrangement,
    heard: FloatArray,
    response: FloatArray,
    f_hz: FloatArray,
    uncertainty: bool,
) -> Boom:
    modes = acoustics.modes
    low, high = boom_range_hz(arrangement, acoustics.room.shape)
    inside = (modes.f_hz >= low) & (modes.f_hz <= high)
    if not np.any(inside):
        inside = modes.f_hz > 0
    level = np.where(inside, heard, -np.inf)
    counts = level >= np.max(level) - HEARD_WITHIN_DB
    longer = modes.t60_s - decay_share(modes.f_hz, acoustics.decay) * float(np.mean(acoustics.decay.middle_s[3:5]))
    worst = int(np.argmax(np.where(counts, longer, -np.inf)))
    shown = (f_hz >= low) & (f_hz <= high)
    swing = float(np.ptp(smoothed_db(response, f_hz)[shown]))
    ring_pm = swing_pm = 0.0
    if uncertainty:
        ring_pm = float(modes.t60_s[worst]) * absorption_spread(acoustics.room)
        source, mic = _disturbed_points(arrangement, _draws())
        drawn = acoustics.transfer.response(source[:_SWING_DRAWS], mic[:_SWING_DRAWS], f_hz)
        swing_pm = float(np.std(np.ptp(smoothed_db(level_db(drawn), f_hz)[:, shown], axis=1))) + 1.0
    return Boom(Figure(float(modes.t60_s[worst]), ring_pm), float(modes.f_hz[worst]), Figure(swing, swing_pm), worst)


def performance_dba(arrangement: Arrangement) -> float:
    """Level of the performance at the microphone, free field, on the performer's axis. [dB(A)]"""
    distance = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
    return arrangement.performer.source.level_dba - 20 * float(np.log10(distance))


def _hush(arrangement: Arrangement, noise: NoiseAt, *, known: bool) -> Hush:
    performance = performance_dba(arrangement)
    return Hush(
        under_performance_db=Figure(
            performance - noise.level_dba, float(np.hypot(SOURCE_LEVEL_SPREAD_DB, noise_spread_db(noise)))
        ),
        known=known,
        noise_dba=noise.level_dba,
        performance_dba=performance,
        leading=max(noise.by_source_dba, key=lambda name: noise.by_source_dba[name]),
    )


def decay_share(f_hz: FloatArray | float, decay: Decay) -> FloatArray:
    """How far a note's ringing is the room's decay and no more: 0 up to the Schroeder frequency, 1 from half as much
    above it. [-]
    """
    share: FloatArray = np.clip((np.asarray(f_hz) / decay.trusted_above_hz - 1) / 0.5, 0.0, 1.0)
    return share


def noise_spread_db(noise: NoiseAt) -> float:
    """Standard uncertainty of the noise: of what is noted, and of the house itself, which is a guess, by their shares.
    [dB]
    """
    power = {name: 10 ** (level / 10) for name, level in noise.by_source_dba.items()}
    guessed = power[THE_HOUSE] / sum(power.values())
    return float(np.hypot((1 - guessed) * NOISE_LEVEL_SPREAD_DB, guessed * _HOUSE_SPREAD_DB))


def swayed_m(distance_m: FloatArray | float) -> FloatArray:
    """The distance after swaying 5 cm nearer, or half the way where less is left. [m]"""
    nearer: FloatArray = np.maximum(np.asarray(distance_m) - _SWAY_M, np.asarray(distance_m) / 2)
    return nearer


def _touch(room: Room, arrangement: Arrangement) -> Touch:
    mic, performer = arrangement.microphone, arrangement.performer
    offset = np.subtract(performer.at, mic.at)
    distance = float(np.linalg.norm(offset))
    cosine = float(np.clip(direction(mic.aims_deg, mic.tilt_deg) @ offset / distance, -1, 1))
    nearer = float(swayed_m(distance))
    return Touch(
        distance_m=distance,
        proximity_db=proximity_lift_db(mic.a, distance_m=distance, f_hz=100.0, speed_m_s=room.air.speed_m_s),
        sway_db=float(20 * np.log10(distance / nearer)),
        off_axis_deg=float(np.degrees(np.arccos(cosine))),
    )


MOST_DEFICIT: Final = 3.0
_DEAD_S: Final = 0.2
# what one unit of deficit is worth in the mark's own unit
DEFICIT_UNIT: Final = {"bounce": 10.0, "boom": 0.5, "hush": 15.0, "touch": 12.0}


def too_dead_s(result: Forecast, wanted: Wanted) -> float:
    """By how much the room fades faster than its purpose wants; 0 where dry is as good. [s]"""
    if wanted.bounce_db.high is None:
        return 0.0
    return max((wanted.decay_s.low or 0.0) - result.bounce.decay_s.value, 0.0)


def rings_too_long_s(result: Forecast, wanted: Wanted) -> float:
    """By how much the worst note hangs on longer than is wanted, as far as that is its own and not the room's. [s]"""
    boom = result.boom
    own_s = boom.ring_s.value - float(decay_share(boom.note_hz, result.decay)) * result.bounce.decay_s.value
    return min(wanted.boom_s.deficit(boom.ring_s.value), max(own_s, 0.0))


def is_too_dry(result: Forecast, wanted: Wanted) -> bool:
    """Whether softening leads away from what is wanted: more direct sound than that, or as much in a dead room."""
    over, span = result.bounce.direct_over_room_db.value, wanted.bounce_db
    if span.high is None:
        return False
    return over > span.high or (over >= (span.low or -np.inf) and too_dead_s(result, wanted) > 0)


def deficits(result: Forecast, wanted: Wanted) -> dict[str, float]:
    """How far each mark lies from what is wanted, each scaled so that 1 is plainly bad, saturating towards 3: twice as
    bad as hopeless is no worse.

    A room that is too dead for its purpose lacks in Bounce as one that is too live does. Above the Schroeder frequency
    a note that hangs on is the room's decay, which Bounce already counts: only what it hangs on longer counts in Boom.
    A noise that nobody has noted or read lacks nothing, as far as is known.
    """
    bounce, boom = result.bounce, result.boom
    dead, rings_s = too_dead_s(result, wanted), rings_too_long_s(result, wanted)
    plain = {
        "bounce": wanted.bounce_db.deficit(bounce.direct_over_room_db.value) / DEFICIT_UNIT["bounce"]
        + wanted.early_db.deficit(bounce.strongest_early_db) / 20
        + dead / _DEAD_S,
        "boom": rings_s / DEFICIT_UNIT["boom"] + max(boom.swing_db.value - 12.0, 0.0) / 30,
        "hush": wanted.hush_db.deficit(result.hush.under_performance_db.value) / DEFICIT_UNIT["hush"]
        if result.hush.known
        else 0.0,
        "touch": max(result.touch.proximity_db - 6.0, 0.0) / DEFICIT_UNIT["touch"]
        + max(result.touch.sway_db - 3.0, 0.0) / 6,
    }
    return {mark: lack / (1 + lack / MOST_DEFICIT) for mark, lack in plain.items()}

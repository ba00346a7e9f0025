"""The rig's recorder: loudspeaker or performer, room noise, preamplifier, converter: the samples a file would hold."""

import zlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import at_frequencies, exact_octaves_hz
from keenquiet.core.judge.forecast import as_loudspeaker
from keenquiet.core.read.sweep import FADE_IN_S, SweepSpec
from keenquiet.core.read.sweep_marks import AFTER_S as MARK_AFTER_S
from keenquiet.core.read.sweep_marks import BEFORE_S as MARK_BEFORE_S
from keenquiet.core.read.sweep_marks import LEVEL as MARK_LEVEL
from keenquiet.core.room.room import Arrangement, NoiseSource, Room, direction
from keenquiet.core.things.sources import SOURCES, Source
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.noise_at import BACKGROUND_DB
from keenquiet.rig.faults import GAIN_TOO_HIGH_DB, SWAY_M, in_the_air, in_the_chain, swaying
from keenquiet.rig.impulse import SAMPLE_RATE_HZ, RigResponse, rig_impulse
from keenquiet.rig.singer import Take, sung_through
from keenquiet.rig.spoils import spoiled
from keenquiet.rig.truth import true_room

FULL_SCALE_SPL_DB: Final = 100.0  # sound pressure level that reaches 0 dBFS at the rig's usual gain
_PREAMP_NOISE_SPL_DB: Final = 12.0  # equivalent input noise of an ordinary microphone and preamplifier
_TAKE_S: Final = 14.0
_LOUDEST_DB: Final = 7.0  # the loudest passage over the usual one
_PUFF_SPL_DB: Final = 108.0  # a p spoken straight at a microphone 10 cm away
_GLIDE_S: Final = 16.0
_SILENCE_S: Final = 12.0
_WANDER_DB: Final = 0.7  # of a machine from one day to another
_KEEPS_DB: Final = 0.1  # and within some minutes


# what a performer's source is sung or played with; what is left out is blown
_PLAYED: Final[Mapping[str, str]] = {
    "voice-soft": "voice",
    "voice-spoken": "voice",
    "voice-sung": "voice",
    "voice-loud": "voice",
    "choir-small": "voice",
    **dict.fromkeys(("guitar", "piano", "harp", "ukulele", "mandolin", "banjo", "hand-drum", "drums"), "plucked"),
    **dict.fromkeys(("violin", "viola", "double-bass"), "bowed"),
    "strings-plucked": "plucked",
    "amplifier-small": "plucked",
    "strings-bowed": "bowed",
    "cello": "bowed",
    "hurdy-gurdy": "bowed",
}
_LAST: Final = frozenset({"true_bits"})  # made by the converter itself: nothing comes after


@dataclass(frozen=True)
class RigSettings:
    """How the simulated recorder is set.

    gain_db : preamplifier gain against the usual. clock_ppm, delay_s : None draws them from the seed.
    distortion : quadratic share of the loudspeaker at full level. hour : local time for the noises.
    faults : names from `rig.faults.FAULTS`.
    """

    seed: int = 1
    gain_db: float = 0.0
    clock_ppm: float | None = None
    delay_s: float | None = None
    distortion: float = 0.004
    hour: float | None = None
    faults: tuple[str, ...] = ()
    silence_s: float | None = None  # of a guided silence, in which machines keep their level; None the usual
    spec: SweepSpec = field(default_factory=SweepSpec)


@dataclass(frozen=True)
class Recording:
    """samples (n,), or (2, n), at SAMPLE_RATE_HZ in -1..1, the response behind them, and what was set or drawn."""

    samples: FloatArray
    sample_rate_hz: int
    response: RigResponse
    clock_ppm: float
    delay_s: float


@dataclass(frozen=True)
class Performance:
    """What sounds while the recorder runs.

    dry : the sound at 1 m, from arrangement, settings, random numbers, clock offset [ppm] and start [s].
    by_loudspeaker : a small one stands where the performer does. volume_set : somebody turns it up until it is loud
    enough. breath : puffs reach the microphone. silent : nothing sounds. bare : the response itself, not a recording.
    """

    dry: "Dry"
    by_loudspeaker: bool = False
    volume_set: bool = False
    breath: bool = False
    silent: bool = False
    bare: bool = False


Dry = Callable[[Arrangement, RigSettings, np.random.Generator, float, float], FloatArray]


def _played_sweep(
    arrangement: Arrangement, settings: RigSettings, rng: np.random.Generator, clock_ppm: float, delay_s: float
) -> FloatArray:
    rate = SAMPLE_RATE_HZ * (1 + clock_ppm * 1e-6)
    played = _padded(_sweep(settings, clock_ppm), delay_s, MARK_AFTER_S + 0.3)
    mark = MARK_LEVEL * _pascal_like(80.0) * np.sqrt(2)
    for start_s in (-MARK_BEFORE_S, settings.spec.seconds + MARK_AFTER_S):
        if delay_s + start_s > 0:
            played += mark * _chirp(np.arange(len(played)) / rate - delay_s * SAMPLE_RATE_HZ / rate - start_s)
    return _loudspeaker(played, settings.distortion)


def _clapped(
    arrangement: Arrangement, settings: RigSettings, rng: np.random.Generator, clock_ppm: float, delay_s: float
) -> FloatArray:
    return _padded(_clap(rng), delay_s, 2.2)


def _glided(
    arrangement: Arrangement, settings: RigSettings, rng: np.random.Generator, clock_ppm: float, delay_s: float
) -> FloatArray:
    return _padded(_hummed(arrangement.performer.source, rng), 0.6, 0.8)


def _nothing(
    arrangement: Arrangement, settings: RigSettings, rng: np.random.Generator, clock_ppm: float, delay_s: float
) -> FloatArray:
    return np.zeros(int((settings.silence_s or _SILENCE_S) * SAMPLE_RATE_HZ))


def _phrases(source: str | None, louder_db: float = 0.0) -> Dry:
    """Sung by the performer, or by another source."""

    def performed(
        arrangement: Arrangement, settings: RigSettings, rng: np.random.Generator, clock_ppm: float, delay_s: float
    ) -> FloatArray:
        heard = arrangement.performer.source if source is None else SOURCES[source]
        loud: FloatArray = _padded(_sung(heard, rng), 0.8, 1.2) * 10 ** (louder_db / 20)
        return loud

    return performed


PERFORMANCES: Final[Mapping[str, Performance]] = {
    "sweep": Performance(_played_sweep, by_loudspeaker=True, volume_set=True),
    "ir": Performance(_played_sweep, by_loudspeaker=True, bare=True),
    "clap": Performance(_clapped, volume_set=True),
    "glide": Performance(_glided),
    "tone": Performance(_nothing, silent=True),
    "take": Performance(_phrases(None)),
    "loudest": Performance(_phrases(None, _LOUDEST_DB)),
    "spoken": Performance(_phrases("voice-spoken")),
    "pops": Performance(_phrases("voice-spoken"), breath=True),
}


def record(room: Room, arrangement: Arrangement, reading: str, settings: RigSettings) -> Recording:
    """What a recorder would get. `room` is the described room with its treatments; the rig finds its truth itself.

    reading : a key of PERFORMANCES. Raises KeyError for another.
    """
    performance = PERFORMANCES[reading]
    rng = np.random.default_rng(settings.seed)
    truth = true_room(room)
    seen = as_loudspeaker(arrangement) if performance.by_loudspeaker else arrangement
    response = rig_impulse(truth, seen, seed=_place_seed(truth, seen))
    clock = float(rng.uniform(-60, 60)) if settings.clock_ppm is None else settings.clock_ppm
    delay = MARK_BEFORE_S + float(rng.uniform(0.4, 1.2)) if settings.delay_s is None else settings.delay_s
    if performance.bare:
        return Recording(response.impulse / np.max(np.abs(response.impulse)) * 0.7, SAMPLE_RATE_HZ, response, 0.0, 0.0)
    dry = performance.dry(arrangement, settings, rng, clock, delay)
    wet = dry if performance.silent else scipy.signal.oaconvolve(dry, response.impulse)[: len(dry)]
    if "moving" in settings.faults and not performance.silent:
        wet = swaying(dry, wet, *_swayed(truth, seen, response))
    if performance.volume_set:  # somebody sets the volume until the recorder peaks near -4 dBFS, within reason
        wet = wet * min(0.63 / np.max(np.abs(wet)), 2.5)
    if performance.breath:
        wet = wet + _puffs(len(wet), arrangement, rng)
    wet = in_the_air(wet, settings.faults, rng, unit=_pascal_like(0.0))
    wander_db = _WANDER_DB if settings.silence_s is None else _KEEPS_DB
    pressure = wet + _noise(truth, arrangement, len(wet), rng, settings.hour, settings.seed, wander_db)
    hot_db = GAIN_TOO_HIGH_DB if "gain-too-high" in settings.faults else 0.0
    samples = in_the_chain(_preamplifier(pressure, settings.gain_db + hot_db), settings.faults, rng)
    return Recording(samples, SAMPLE_RATE_HZ, response, clock, delay)


def sing(room: Room, arrangement: Arrangement, settings: RigSettings, *, fault: str | None = None) -> Take:
    """The simulated performer in this room at this distance, with one fault or none, and the truth beside.

    Raises KeyError for a fault that cannot be made.
    """
    rng = np.random.default_rng(settings.seed)
    truth = true_room(room)
    response = rig_impulse(truth, arrangement, seed=_place_seed(truth, arrangement))
    source, gain = arrangement.performer.source, 10 ** (settings.gain_db / 20)
    total_db = 10 * float(np.log10(np.sum(10 ** (np.array(source.level_db) / 10))))
    away = np.subtract(arrangement.microphone.at, arrangement.performer.at)

    def noise(n: int) -> FloatArray:
        return gain * _noise(truth, arrangement, n, rng, settings.hour, settings.seed, _WANDER_DB)

    take = sung_through(
        response.impulse,
        noise,
        seed=settings.seed,
        rms=_pascal_like(total_db) * gain,
        distance_m=float(np.linalg.norm(away)),
        lowest_hz=max(source.lowest_hz, 82.0),
        instrument=_PLAYED.get(source.key, "blown"),
    )
    spoilt = take if fault is None else spoiled(take, fault, seed=settings.seed)
    if spoilt.chain is None:
        return replace(spoilt, chain=_preamplifier(spoilt.samples, 0.0))
    return spoilt if fault in _LAST else replace(spoilt, chain=_converted(spoilt.chain))


def _swayed(room: Room, arrangement: Arrangement, here: RigResponse) -> tuple[FloatArray, float]:
    """The response with the microphone a sway further from the source, its direct sound brought to the same sample, and
    how much later it came. [s]
    """
    mic, source = np.asarray(arrangement.microphone.at), np.asarray(arrangement.performer.at)
    away = (mic - source) / np.linalg.norm(mic - source)
    x, y, z = mic + SWAY_M * away
    there = replace(arrangement, microphone=replace(arrangement.microphone, at=(float(x), float(y), float(z))))
    if not room.shape.contains(np.array([there.microphone.at]))[0]:
        return here.impulse, SWAY_M / room.air.speed_m_s
    impulse = rig_impulse(room, there, seed=_place_seed(room, arrangement)).impulse
    late = SWAY_M / room.air.speed_m_s
    spectrum = np.fft.rfft(impulse)
    ahead = np.exp(2j * np.pi * np.fft.rfftfreq(len(impulse)) * late * SAMPLE_RATE_HZ)
    return np.asarray(np.fft.irfft(spectrum * ahead, len(impulse)), dtype=float), late


def _place_seed(room: Room, arrangement: Arrangement) -> int:
    """The same place answers the same way each time: what differs between two readings is the noise, not the room."""
    return zlib.crc32(f"{room.name}/{arrangement.performer.at}/{arrangement.microphone.at}".encode())


def _pascal_like(level_db: float) -> float:
    """Amplitude (RMS) of a level, with 1.0 at FULL_SCALE_SPL_DB."""
    return float(10 ** ((level_db - FULL_SCALE_SPL_DB) / 20))


def _padded(samples: FloatArray, before_s: float, after_s: float) -> FloatArray:
    return np.pad(samples, (round(before_s * SAMPLE_RATE_HZ), round(after_s * SAMPLE_RATE_HZ)))


def _sweep(settings: RigSettings, clock_ppm: float) -> FloatArray:
    """The player's sweep as the recorder's clock sees it: evaluated at the recorder's own sample times."""
    spec = settings.spec
    rate = SAMPLE_RATE_HZ * (1 + clock_ppm * 1e-6)
    t = np.arange(round(spec.seconds * rate)) / rate
    sweep = np.sin(2 * np.pi * spec.low_hz * spec.rate_s * np.expm1(t / spec.rate_s))
    sweep *= np.clip(t / FADE_IN_S, 0, 1) ** 2 * np.clip((spec.seconds - t) / 0.01, 0, 1)
    return sweep * _pascal_like(80.0) * np.sqrt(2)


def _chirp(since_s: FloatArray) -> FloatArray:
    """The player's mark at these times after its start (docs/formats.md): 1.5 to 9 kHz in 40 ms, Hann window."""
    inside = (since_s >= 0) & (since_s <= 0.04)
    t = np.where(inside, since_s, 0.0)
    wave: FloatArray = np.sin(2 * np.pi * (1500.0 * t + 7500.0 / 0.08 * t**2)) * np.sin(np.pi * t / 0.04) ** 2
    return np.where(inside, wave, 0.0)


def _loudspeaker(samples: FloatArray, distortion: float) -> FloatArray:
    """A small box: rolls off below 65 Hz and above 19 kHz, a broad rise in the mids, a little even distortion."""
    level = np.max(np.abs(samples))
    driven = samples + distortion * (samples**2 / level - level / 2)
    low = scipy.signal.butter(2, 65.0, btype="highpass", fs=SAMPLE_RATE_HZ, output="sos")
    top = scipy.signal.butter(1, 19_000.0, fs=SAMPLE_RATE_HZ, output="sos")
    shaped = scipy.signal.sosfilt(top, scipy.signal.sosfilt(low, driven))
    mids = scipy.signal.sosfilt(
        scipy.signal.butter(1, [800, 3000], btype="bandpass", fs=SAMPLE_RATE_HZ, output="sos"), shaped
    )
    result: FloatArray = shaped + 0.15 * mids
    return result


def _clap(rng: np.random.Generator) -> FloatArray:
    t = np.arange(int(0.02 * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
    burst = rng.standard_normal(len(t)) * np.exp(-t / 0.0012)
    shaped: FloatArray = scipy.signal.sosfilt(
        scipy.signal.butter(2, [500, 9000], btype="bandpass", fs=SAMPLE_RATE_HZ, output="sos"), burst
    )
    return shaped / np.max(np.abs(shaped)) * _pascal_like(96.0)


def _hummed(source: Source, rng: np.random.Generator) -> FloatArray:
    """A soft hum from a little below the performer's lowest note up an octave and a half and down again, unsteady as
    hums are.
    """
    t = np.arange(int(_GLIDE_S * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
    octave = 1.5 * (1 - np.abs(2 * t / _GLIDE_S - 1)) + 0.01 * np.sin(2 * np.pi * 4.7 * t + rng.uniform(0, 6))
    pitch = max(0.9 * source.lowest_hz, 60.0) * 2**octave
    phase = 2 * np.pi * np.cumsum(pitch) / SAMPLE_RATE_HZ
    wave = sum(np.cos(k * phase + rng.uniform(0, 6.28)) / k**1.5 for k in range(1, 14))
    drift = 10 ** (1.5 * np.sin(2 * np.pi * octave / 1.9 + rng.uniform(0, 6)) / 20)
    shaped = wave * drift * np.minimum(1, t / 0.2) * np.minimum(1, (_GLIDE_S - t) / 0.2)
    hum: FloatArray = shaped / np.sqrt(np.mean(shaped**2)) * _pascal_like(source.level_dba - 6.0)
    return hum


def _sung(source: Source, rng: np.random.Generator) -> FloatArray:
    """Phrases of harmonic notes with vibrato and breaths between, shaped to the performer's octave spectrum."""
    n = int(_TAKE_S * SAMPLE_RATE_HZ)
    out = np.zeros(n)
    scale = source.lowest_hz * 2 ** (np.array([0, 2, 3, 5, 7, 8, 10, 12]) / 12)
    start = 0.0
    while start < _TAKE_S - 2.2:
        for _ in range(int(rng.integers(2, 5))):
            # a last note that is cut off would be a click, and told as one
            length = min(float(rng.uniform(0.35, 0.9)), _TAKE_S - start)
            t = np.arange(int(length * SAMPLE_RATE_HZ)) / SAMPLE_RATE_HZ
            pitch = float(rng.choice(scale)) * (1 + 0.006 * np.sin(2 * np.pi * 5.3 * t))
            phase = 2 * np.pi * np.cumsum(pitch) / SAMPLE_RATE_HZ
            note = sum(np.cos(k * phase + rng.uniform(0, 6.28)) / k for k in range(1, 30))
            swell = float(rng.uniform(-5, 4))
            envelope = np.minimum(1, t / 0.05) * np.minimum(1, (length - t) / 0.08) * 10 ** (swell / 20)
            first = int(start * SAMPLE_RATE_HZ)
            out[first : first + len(t)] += note * envelope
            start += length * 0.95
        start += float(rng.uniform(0.7, 1.1))  # a breath
    shaped = _shaped(out, np.array(source.level_db), keep_colour=True)
    active = np.abs(shaped) > 1e-4 * np.max(np.abs(shaped))
    rms = float(np.sqrt(np.mean(shaped[active] ** 2)))
    total_db = 10 * np.log10(np.sum(10 ** (np.array(source.level_db) / 10)))
    return shaped / rms * _pascal_like(total_db)


def made_line(source: Source, *, seed: int) -> FloatArray:
    """A line of this performer without any room, at SAMPLE_RATE_HZ, peak at half of full scale, (n,)."""
    line = _sung(source, np.random.default_rng(seed))
    return line / float(np.max(np.abs(line))) * 0.5


def _puffs(n: int, arrangement: Arrangement, rng: np.random.Generator) -> FloatArray:
    """Puffs of breath at the microphone: a narrow jet whose pressure falls with distance and off its line
    (docs/physics.md, 6).
    """
    mouth, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    away = mic - mouth
    distance = float(np.linalg.norm(away))
    off_deg = np.degrees(np.arccos(np.clip(away @ direction(arrangement.performer.faces_deg) / distance, -1, 1)))
    level = _PUFF_SPL_DB - 40 * np.log10(max(distance, 0.03) / 0.1) - 20 * np.log10(1 + (off_deg / 10) ** 2)
    t = np.arange(n) / SAMPLE_RATE_HZ
    puffs = np.zeros(n)
    for at in 1.6 + 1.7 * np.arange(6) + rng.uniform(-0.2, 0.2, 6):
        since = np.clip(t - at, 0, None)
        puffs += np.sin(2 * np.pi * 42 * since) * since / 0.02 * np.exp(1 - since / 0.02) * (since < 0.15)
    return puffs * _pascal_like(level) * np.sqrt(2)


def _shaped(samples: FloatArray, octaves_db: FloatArray, *, keep_colour: bool = False) -> FloatArray:
    """Filter so that each octave gets its level; white input assumed unless keep_colour (then a pink-like one)."""
    n = scipy.fft.next_fast_len(len(samples), real=True)  # a length with a large prime factor takes ten times as long
    spectrum = scipy.fft.rfft(samples, n)
    f_hz = np.maximum(scipy.fft.rfftfreq(n, 1 / SAMPLE_RATE_HZ), 1.0)
    bandwidth = exact_octaves_hz() / np.sqrt(2)
    density = octaves_db - (10 * np.log10(bandwidth) if not keep_colour else 3 * np.log2(exact_octaves_hz() / 1000))
    gain = 10 ** (at_frequencies(density, f_hz) / 20) * np.clip(f_hz / 30, 0, 1) ** 2
    shaped: FloatArray = scipy.fft.irfft(spectrum * gain, n)[: len(samples)]
    return shaped


def _noise(
    room: Room,
    arrangement: Arrangement,
    n: int,
    rng: np.random.Generator,
    hour: float | None,
    seed: int,
    wander_db: float,
) -> FloatArray:
    """All noises as the microphone picks them up, with hums, drawn anew for each recording; what comes and goes by
    itself passes in it, goes on all the time, or is not there, as chance has it.
    """
    chance = np.random.default_rng([seed, 77])  # of its own: rooms without such noises are recorded as ever
    house, levels = picked_up_db(room, arrangement)
    total = _band_noise(house, n, rng)
    t = np.arange(n) / SAMPLE_RATE_HZ
    for noise, level in zip(room.noises, levels, strict=True):
        if not noise.runs_at(hour):
            continue
        shape = _coming_and_going(noise, t, chance)
        if shape is None:
            continue
        level = level + rng.normal(0, wander_db)
        sound = np.zeros(n)
        if noise.hum_hz is not None:
            band = int(np.argmin(np.abs(np.log(exact_octaves_hz() / noise.hum_hz))))
            for harmonic, drop in ((1, 0.0), (2, 9.0), (3, 15.0)):
                tone = _pascal_like(level[band] - 3.0 - drop) * np.sqrt(2)
                sound += tone * np.sin(2 * np.pi * noise.hum_hz * harmonic * t + rng.uniform(0, 6.28))
            level = level.copy()
            level[band] -= 3.0
        total += (sound + _band_noise(level, n, rng)) * shape
    hiss = rng.standard_normal(n) * _pascal_like(_PREAMP_NOISE_SPL_DB + 3.0)
    return total + hiss


def picked_up_db(room: Room, arrangement: Arrangement) -> tuple[FloatArray, list[FloatArray]]:
    """What the microphone picks up of the quiet house, and of each noise while it sounds, each (8,). [dB SPL]"""
    mic = arrangement.microphone
    area = room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2
    efficiency = mic.a**2 + (1 - mic.a) ** 2 / 3
    levels = []
    for noise in room.noises:
        distance = max(float(np.linalg.norm(np.subtract(noise.at, mic.at))), 0.2)
        solid = 4 * np.pi if noise.kind == "inside" else 2 * np.pi
        direct = 0.0 if noise.kind == "structure" else 1 / distance**2
        levels.append(noise.level_db + 10 * np.log10(efficiency * (direct + 4 * solid / area)))
    return BACKGROUND_DB + 10 * np.log10(efficiency), levels


def _coming_and_going(noise: NoiseSource, t_s: FloatArray, rng: np.random.Generator) -> FloatArray | float | None:
    """Amplitude over time of a noise in one recording, None when it rests then. t_s : (n,). [s]"""
    if noise.cycle is None:
        return 1.0
    period, on = 60 * noise.cycle.period_min, 60 * noise.cycle.on_min
    start = rng.uniform(-on, period - on)  # where its next beginning lies
    if not noise.passes:
        return 1.0 if start < 0 else None
    if start > t_s[-1]:
        return None
    bell: FloatArray = np.exp(-0.5 * ((t_s - start - on / 2) / (on / 5)) ** 2)
    return bell


def _band_noise(octaves_db: FloatArray, n: int, rng: np.random.Generator) -> FloatArray:
    """Gaussian noise whose octave levels are these. [dB SPL]"""
    # white noise of unit variance has density 2 / sample rate per hertz
    return _shaped(rng.standard_normal(n), octaves_db) * np.sqrt(SAMPLE_RATE_HZ / 2) * _pascal_like(0.0)


def _preamplifier(pressure: FloatArray, gain_db: float) -> FloatArray:
    """Gain, gentle low cut at 10 Hz, then the converter's hard limit and 24 bits."""
    sos = scipy.signal.butter(1, 10.0, btype="highpass", fs=SAMPLE_RATE_HZ, output="sos")
    amplified = scipy.signal.sosfilt(sos, pressure) * 10 ** (gain_db / 20)
    return _converted(amplified)


def _converted(samples: FloatArray) -> FloatArray:
    """The converter's hard limit and 24 bits."""
    clipped = np.clip(samples, -1.0, 1.0 - 2**-23)
    quantised: FloatArray = np.round(clipped * 2**23) / 2**23
    return quantised

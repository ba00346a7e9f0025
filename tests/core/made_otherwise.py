"""Takes made without the rig: sentences spoken by Debian's espeak-ng, strings, brass and pipes by other recipes, rooms
by image sources of pyroomacoustics, faults put in a second way. What was tuned on the rig is held against these.
"""

import io
import subprocess
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import pyroomacoustics
import scipy
import soundfile

from keenquiet.core.types import FloatArray

RATE = 48_000
_SENTENCES = (
    "Put the kettle back on the shelf before it boils.",
    "Six slow swans swim past the bridge.",
    "Nobody heard the baker come home last night.",
    "A paper boat keeps turning in the pool.",
    "We sat beside the open window and counted trams.",
    "The stairs are steep, so mind your step.",
    "Bring both the brushes and a bucket, please.",
    "My mother sang this song when it was raining.",
    "Seven years have passed since then.",
    "Tell the people by the door to wait.",
)
_VOICES = ("en", "en+f3", "en+m7", "en+f5", "en-gb-scotland", "en+klatt4", "en+m3", "en+f2")


@dataclass
class Made:
    """direct, room, floor : at the microphone, (n,). spans : of phrases [s]. got : of the recorder, if more than their
    sum. truth : kind, from, to [s] and size of what was put in.
    """

    direct: FloatArray
    room: FloatArray
    floor: FloatArray
    spans: list[tuple[float, float]]
    got: FloatArray | None = None
    truth: tuple[str, float, float, float] = ("", 0.0, 0.0, 0.0)
    others: dict[str, FloatArray] = field(default_factory=dict)

    @property
    def samples(self) -> FloatArray:
        return self.direct + self.room + self.floor if self.got is None else self.got

    @property
    def loud(self) -> float:
        sung = self.direct + self.room
        return float(
            np.sqrt(np.mean(np.concatenate([sung[int(a * RATE) : int(b * RATE)] for a, b in self.spans]) ** 2))
        )

    @property
    def seconds(self) -> float:
        return len(self.direct) / RATE


def say(text: str, voice: str, *, words_a_minute: int = 140, pitch: int = 50) -> FloatArray:
    """One sentence by espeak-ng, trimmed, at 48 kHz."""
    command = ["espeak-ng", "-v", voice, "-s", str(words_a_minute), "-p", str(pitch), "--stdout", text]
    told = subprocess.run(command, capture_output=True, check=True).stdout
    samples, rate = soundfile.read(io.BytesIO(told[:4] + b"\xff\xff\xff\x7f" + told[8:]))
    samples = scipy.signal.resample_poly(samples, RATE, rate)
    level = np.flatnonzero(np.abs(samples) > 0.01 * np.abs(samples).max())
    return samples[level[0] : level[-1] + RATE // 100]


def string(rng: np.random.Generator, pitch: float, seconds: float) -> FloatArray:
    """A plucked string by its modes, stiffness and damping included (N. Fletcher, T. Rossing, chapter 2)."""
    t = np.arange(int(seconds * RATE)) / RATE
    number = np.arange(1, 30)
    partial_hz = number * pitch * np.sqrt(1 + 1e-4 * number**2)
    weight = np.sin(np.pi * number * rng.uniform(0.12, 0.3)) / number**1.3
    fades = 1.2 / (1 + 0.15 * number**1.2)
    lines = weight[:, None] * np.exp(-t / fades[:, None]) * np.sin(2 * np.pi * partial_hz[:, None] * t)
    note = lines[partial_hz < 15_000].sum(axis=0)
    return note * np.minimum(1, np.arange(len(t)) / 60) * np.clip((seconds - t) / 0.08, 0, 1)


def brass(rng: np.random.Generator, pitch: float, seconds: float) -> FloatArray:
    """Frequency modulation whose index follows the loudness (J. Chowning, JAES 21 (1973) 526)."""
    t = np.arange(int(seconds * RATE)) / RATE
    shape = np.minimum(1, t / 0.06) * np.clip((seconds - t) / 0.08, 0, 1) * (0.75 + 0.25 * np.exp(-t / 0.1))
    wobble = 0.004 * pitch / 5.5 * np.sin(2 * np.pi * 5.5 * t)
    turn = 2 * np.pi * pitch * t + wobble
    return shape * np.sin(turn + 4.0 * shape * np.sin(turn)) + 0.002 * shape * rng.standard_normal(len(t))


def pipe(rng: np.random.Generator, pitch: float, seconds: float) -> FloatArray:
    """A flute: three partials and the breath's own noise around them."""
    t = np.arange(int(seconds * RATE)) / RATE
    shape = np.minimum(1, t / 0.09) * np.clip((seconds - t) / 0.1, 0, 1)
    tone = sum(a * np.sin(2 * np.pi * k * pitch * t) for k, a in ((1, 1.0), (2, 0.3), (3, 0.1)))
    breath = scipy.signal.lfilter(
        *scipy.signal.butter(2, [900, 7000], "bandpass", fs=RATE), rng.standard_normal(len(t))
    )
    return shape * (tone + 0.03 * breath)


PLAYED = {"string": (string, 98.0), "brass": (brass, 147.0), "pipe": (pipe, 294.0)}


def made(seed: int, *, who: str = "spoken", phrases: int = 8, floor_db: float = -58.0, peak_db: float = -9.0) -> Made:
    """A take without a fault: spoken, or played by `who`, half an arm from the microphone in a furnished room."""
    rng = np.random.default_rng([seed, 77])
    parts, spans, at = [np.zeros(RATE // 2)], [], 0.5
    voice = _VOICES[seed % len(_VOICES)]
    for number in range(phrases):
        if who == "spoken":
            one = say(_SENTENCES[(seed + number) % len(_SENTENCES)], voice, pitch=int(rng.integers(35, 65)))
        else:
            play, lowest = PLAYED[who]
            notes = [
                play(rng, lowest * 2 ** (rng.choice([0, 2, 4, 5, 7, 9, 12]) / 12), rng.uniform(0.3, 0.9))
                for _ in range(int(rng.integers(2, 5)))
            ]
            one = np.concatenate(notes)
        one *= 10 ** (rng.uniform(-1.0, 1.0) / 20) / np.sqrt(np.mean(one**2))
        rest = np.zeros(int(rng.uniform(0.8, 1.6) * RATE))
        parts += [one, rest]
        spans.append((at, at + len(one) / RATE))
        at += (len(one) + len(rest)) / RATE
    dry = np.concatenate(parts)
    direct, room = in_a_room(rng, dry)
    scale = 10 ** (peak_db / 20) / np.max(np.abs(direct + room))
    take = Made(direct * scale, room * scale, np.zeros(len(dry)), spans)
    noise = scipy.signal.lfilter([1], [1, -0.9], rng.standard_normal(len(dry))) + 0.5 * rng.standard_normal(len(dry))
    return replace(take, floor=noise / np.std(noise) * take.loud * 10 ** (floor_db / 20))


def in_a_room(
    rng: np.random.Generator,
    dry: FloatArray,
    *,
    soaks: float | None = None,
    distance: float | None = None,
    early_s: float = 0.0012,
) -> tuple[FloatArray, FloatArray]:
    """Direct sound and what a shoebox adds, each (n,). Free field 1 at 1 m.

    By image sources to the thirtieth order; where `soaks` says how little the walls swallow, by rays after the third:
    images would have to go to the hundredth, at the forty-fifth the decay is cut 25 dB down.
    """
    size = rng.uniform((2.6, 2.4, 2.2), (4.6, 3.8, 2.7))
    live = soaks is not None
    soaked = pyroomacoustics.Material(float(rng.uniform(0.3, 0.55)) if soaks is None else soaks, 0.3 if live else None)
    room = pyroomacoustics.ShoeBox(
        size, fs=RATE, materials=soaked, max_order=3 if live else 30, air_absorption=True, ray_tracing=live
    )
    if live:
        pyroomacoustics.random.seed(int(rng.integers(1 << 30)))
        room.set_ray_tracing(n_rays=20_000, receiver_radius=0.3)
    mouth = size * rng.uniform(0.35, 0.65, 3)
    away = np.array([rng.uniform(0.18, 0.35) if distance is None else distance, 0.08, -0.03])
    room.add_source(mouth)
    room.add_microphone(mouth + away)
    room.compute_rir()
    heard = np.asarray(room.rir[0][0])
    first = int(np.argmax(np.abs(heard)))
    early = np.where(np.arange(len(heard)) < first + int(early_s * RATE), heard, 0.0)
    return tuple(scipy.signal.oaconvolve(dry, part)[: len(dry)] for part in (early, heard - early))  # type: ignore[return-value]


def one_after_another(rng: np.random.Generator, who: str, seconds: float, lowest_hz: float) -> FloatArray:
    """Notes without a pause, of root mean square 1, (n,)."""
    line, at = np.zeros(int(seconds * RATE)), 0
    while at < len(line):
        note = PLAYED[who][0](rng, lowest_hz * 2 ** (rng.choice([0, 3, 5, 7, 10, 12]) / 12), rng.uniform(0.25, 0.6))
        line[at : at + len(note)] += note[: len(line) - at]
        at += len(note)
    return line / np.std(line)


def pressed(samples: FloatArray, drive: float) -> FloatArray:
    """Made loud up to full scale."""
    loud = np.tanh(samples * drive / np.max(np.abs(samples)))
    return 0.97 * loud / np.max(np.abs(loud))


def kit(rng: np.random.Generator, seconds: float, beat_s: float) -> FloatArray:
    """A drum kit that keeps time: a low one on each first, a rattling one on each third, cymbals on all eighths."""
    t = np.arange(int(0.25 * RATE)) / RATE
    low = np.sin(2 * np.pi * (50 * t - 2.7 * np.exp(-t / 0.03))) * np.exp(-t / 0.08) * np.minimum(1, t / 0.002)
    rattle = 0.4 * (
        rng.standard_normal(len(t)) * np.exp(-t / 0.06) + 0.5 * np.sin(2 * np.pi * 190 * t) * np.exp(-t / 0.05)
    )
    high = scipy.signal.butter(4, 7000, "highpass", fs=RATE, output="sos")
    cymbal = 0.3 * scipy.signal.sosfilt(high, rng.standard_normal(len(t))) * np.exp(-t / 0.02)
    out = np.zeros(int(seconds * RATE) + len(t))
    for eighth, at in enumerate(np.arange(0, seconds, beat_s / 2)):
        first = int(at * RATE)
        hit = cymbal + (low if eighth % 4 == 0 else 0) + (rattle if eighth % 4 == 2 else 0)
        out[first : first + len(t)] += hit
    return out[: int(seconds * RATE)] / np.std(out)


def mixed(seed: int, *, stereo: bool) -> FloatArray:
    """A song with everything in it, made loud, (2, n) or (1, n)."""
    rng = np.random.default_rng([seed, 8])
    voice = made(seed, phrases=6).samples
    seconds = len(voice) / RATE
    parts = (
        (1.2, 0.0, voice / np.std(voice)),
        (0.8, 0.0, one_after_another(rng, "string", seconds, 49.0)),
        (0.6, -0.5, one_after_another(rng, "string", seconds, 147.0)),
        (0.5, 0.6, one_after_another(rng, "pipe", seconds, 294.0)),
        (0.9, 0.1, kit(rng, seconds, 60 / float(rng.uniform(80, 130)))),
    )
    left, right = (
        sum(gain * np.cos(np.pi / 4 + side * turn) * part[: len(voice)] for gain, turn, part in parts)
        for side in (1, -1)
    )
    if not stereo:
        return pressed(left + right, 3.0)[None]  # type: ignore[operator]
    return np.stack([pressed(left, 3.0), pressed(right, 3.0)])  # type: ignore[arg-type]


def _moment(take: Made, rng: np.random.Generator) -> float:
    a, b = take.spans[int(rng.integers(1, len(take.spans)))]
    return float(a + (b - a) * rng.uniform(0.3, 0.6))


def _pause(take: Made, rng: np.random.Generator) -> float:
    number = int(rng.integers(1, len(take.spans)))
    return take.spans[number][0] - 0.4


def _put(take: Made, kind: str, at_s: float, sound: FloatArray, size: float = 0.0) -> Made:
    floor = take.floor.copy()
    at = int(at_s * RATE)
    floor[at : at + len(sound)] += sound[: len(floor) - at]
    return replace(take, floor=floor, truth=(kind, at_s, at_s + len(sound) / RATE, size))


def _all(take: Made, kind: str, samples: FloatArray, size: float = 0.0) -> Made:
    return replace(take, got=samples, truth=(kind, 0.0, take.seconds, size))


def _under(take: Made, kind: str, noise: FloatArray, db: float) -> Made:
    floor = take.floor + noise / np.std(noise) * take.loud * 10 ** (db / 20)
    return replace(take, floor=floor, truth=(kind, 0.0, take.seconds, db))


def _clipped(take: Made, rng: np.random.Generator) -> Made:
    """The dial too high by 5 dB: whole numbers of 16 bits, the ends of their range held."""
    hot = take.samples / np.max(np.abs(take.samples)) * 10 ** (5 / 20)
    at = int(np.argmax(np.abs(hot))) / RATE
    return replace(
        _all(take, "clipped", np.clip(np.round(hot * 32768), -32768, 32767) / 32768), truth=("clipped", at, at, 0)
    )


def _flat_top(take: Made, rng: np.random.Generator) -> Made:
    top = 0.4 * np.max(np.abs(take.direct + take.room))
    cut = np.clip(take.direct + take.room, -top, 0.97 * top) + take.floor
    return _all(take, "flat_top", cut * 0.5)


def _soft_over(take: Made, rng: np.random.Generator) -> Made:
    """A knee of the third power, met by two loud phrases."""
    gain = np.ones(len(take.direct))
    for a, b in take.spans[2::4]:
        gain[int((a - 0.1) * RATE) : int((b + 0.3) * RATE)] = 10 ** (10 / 20)
    sung = (take.direct + take.room) * gain + take.floor
    x = sung / np.max(np.abs(sung)) * 2.5
    a, b = take.spans[2]
    return replace(_all(take, "soft_over", 0.4 * x / (1 + np.abs(x) ** 3) ** (1 / 3)), truth=("soft_over", a, b, 0.0))


def _pop(take: Made, rng: np.random.Generator) -> Made:
    n = int(0.07 * RATE)
    puff = scipy.signal.sosfilt(scipy.signal.butter(2, 70, fs=RATE, output="sos"), rng.standard_normal(n) + 0.3)
    puff *= np.hanning(n)
    # no microphone reaches to standing still
    puff = scipy.signal.sosfilt(scipy.signal.butter(1, 20, "highpass", fs=RATE, output="sos"), puff)
    return _put(take, "pop", _moment(take, rng), puff / np.max(np.abs(puff)) * np.max(np.abs(take.direct)) * 0.8)


def _ess(take: Made, rng: np.random.Generator) -> Made:
    """In the place of what was sung there."""
    n, at = int(0.14 * RATE), _moment(take, rng)
    band = scipy.signal.cheby1(4, 1, [5500, 9000], "bandpass", fs=RATE, output="sos")
    hiss = scipy.signal.sosfilt(band, rng.standard_normal(n)) * np.hanning(n) ** 0.5
    out, first = take.samples.copy(), int(at * RATE)
    out[first : first + n] *= 1 - 0.95 * np.hanning(n) ** 0.4
    out[first : first + n] += hiss / np.std(hiss) * take.loud * 1.1
    return replace(_all(take, "ess", out), truth=("ess", at, at + n / RATE, 0.0))


def _hum(take: Made, rng: np.random.Generator) -> Made:
    t = np.arange(len(take.direct)) / RATE
    saw = scipy.signal.sawtooth(2 * np.pi * 60.02 * t)
    return _under(take, "hum", scipy.signal.sosfilt(scipy.signal.butter(1, 300, fs=RATE, output="sos"), saw), -38.0)


def _tone(take: Made, rng: np.random.Generator) -> Made:
    return _under(take, "tone", np.sin(2 * np.pi * 3130.0 * np.arange(len(take.direct)) / RATE), -46.0)


def _hiss(take: Made, rng: np.random.Generator) -> Made:
    return _under(take, "hiss", rng.standard_normal(len(take.direct)), -36.0)


def _rumble(take: Made, rng: np.random.Generator) -> Made:
    low = scipy.signal.sosfilt(
        scipy.signal.butter(3, [25, 50], "bandpass", fs=RATE, output="sos"), rng.standard_normal(len(take.direct))
    )
    return _under(take, "rumble", low, -22.0)


def _passing(take: Made, rng: np.random.Generator) -> Made:
    """A car: rises for two seconds, falls for two."""
    n = int(4 * RATE)
    rush = scipy.signal.sosfilt(
        scipy.signal.butter(1, [80, 900], "bandpass", fs=RATE, output="sos"), rng.standard_normal(n)
    )
    rush *= np.bartlett(n) ** 2
    middle = take.spans[4][0] - 0.3
    made = _put(take, "noise", middle - 2.0, rush / np.max(np.abs(rush)) * take.loud * 0.12)
    return replace(made, truth=("noise", middle - 1.0, middle + 1.0, 0.0))


def _dropout(take: Made, rng: np.random.Generator) -> Made:
    """A buffer that came too late: two milliseconds and more held at the last value, while somebody sounds."""
    out, at = take.samples.copy(), _moment(take, rng)
    while np.std(out[int(at * RATE) : int((at + 0.02) * RATE)]) < 0.1 * take.loud:
        at = _moment(take, rng)
    first, n = int(at * RATE), int(rng.uniform(0.002, 0.01) * RATE)
    out[first : first + n] = out[first - 1]
    return replace(_all(take, "dropout", out), truth=("dropout", at, at + n / RATE, 1000 * n / RATE))


def _click(take: Made, rng: np.random.Generator) -> Made:
    """A spark on the cable: one sample out of line."""
    out, at = take.samples.copy(), _moment(take, rng)
    out[int(at * RATE)] += 0.6 * np.max(np.abs(out))
    return replace(_all(take, "click", out), truth=("click", at, at, 0.0))


def _crackle(take: Made, rng: np.random.Generator) -> Made:
    out, at = take.samples.copy(), _moment(take, rng)
    for late in np.sort(rng.uniform(0, 0.3, 6)):
        n = int(0.0004 * RATE)
        first = int((at + late) * RATE)
        out[first : first + n] += rng.uniform(-1, 1, n) * 0.6 * np.max(np.abs(out))
    return replace(_all(take, "click", out), truth=("click", at, at + 0.3, 0.0))


def _creep(take: Made, rng: np.random.Generator) -> Made:
    louder = 10 ** (np.linspace(0, 5.0, len(take.direct)) / 20)
    quieter = 0.5
    made = replace(
        take, direct=take.direct * louder * quieter, room=take.room * louder * quieter, floor=take.floor * quieter
    )
    return replace(made, truth=("creep", 0.0, take.seconds, 5.0))


def _drift(take: Made, rng: np.random.Generator) -> Made:
    """From 30 to 15 cm: level by 1/r, the bass of a cardioid by its pressure gradient, block by block."""
    pieces, hop = np.zeros(len(take.direct)), RATE // 2
    window = scipy.signal.windows.hann(2 * hop, sym=False)
    k = 2 * np.pi * np.maximum(np.fft.rfftfreq(4 * hop, 1 / RATE), 15) / 343
    for first in range(-hop, len(take.direct), hop):
        r = 0.3 + (0.15 - 0.3) * np.clip((first + hop) / len(take.direct), 0, 1)
        lo, hi = max(first, 0), min(first + 2 * hop, len(take.direct))
        part = np.zeros(4 * hop)
        part[lo - first : hi - first] = take.direct[lo:hi] * window[lo - first : hi - first]
        gain = 0.3 / r * np.abs(1 + 0.5 / (1j * k * r)) / np.abs(1 + 0.5 / (1j * k * 0.3))
        out = np.fft.irfft(np.fft.rfft(part) * gain)
        end = min(first + 4 * hop, len(take.direct))
        pieces[lo:end] += out[lo - first : end - first]
    return replace(
        take, direct=0.5 * pieces, room=0.5 * take.room, floor=0.5 * take.floor, truth=("drift", 0.0, take.seconds, 6.0)
    )


def _jump(take: Made, rng: np.random.Generator) -> Made:
    at = take.spans[4][0] - 0.2
    gain = np.where(np.arange(len(take.direct)) < at * RATE, 1.0, 10 ** (-8 / 20))
    return replace(_all(take, "jump", take.samples * gain), truth=("jump", at, at, -8.0))


def _seam(take: Made, rng: np.random.Generator) -> Made:
    """The second half was recorded with the window open."""
    at = take.spans[4][0] - 0.35
    out = take.floor.copy()
    street = scipy.signal.lfilter([1], [1, -0.95], rng.standard_normal(len(out)))
    out += np.where(np.arange(len(out)) < at * RATE, 0.0, street / np.std(street) * take.loud * 10 ** (-46 / 20))
    return replace(take, floor=out, truth=("seam", at, at, 12.0))


def _roomy(take: Made, rng: np.random.Generator) -> Made:
    dry = take.direct / np.max(np.abs(take.direct))
    direct, room = in_a_room(rng, dry, soaks=0.06)
    scale = 0.3 / np.max(np.abs(direct + room))
    return replace(take, direct=direct * scale, room=2.5 * room * scale, truth=("roomy", 0.0, take.seconds, 0.0))


def _follower(take: Made, attack_s: float, release_s: float, gain_of: Callable[[float], float]) -> FloatArray:
    """Gain of a chain by a follower of the rectified wave, (n,)."""
    hop = 96
    power = np.abs(take.samples[: len(take.direct) // hop * hop]).reshape(-1, hop).max(axis=1)
    held, out = 0.0, np.empty(len(power))
    for i, p in enumerate(power.tolist()):
        held += (p - held) * (1 - np.exp(-hop / RATE / (attack_s if p > held else release_s)))
        out[i] = gain_of(20 * np.log10(held + 1e-9))
    return 10 ** (np.interp(np.arange(len(take.direct)), (np.arange(len(out)) + 0.5) * hop, out) / 20)


def _gate(take: Made, rng: np.random.Generator) -> Made:
    at = 20 * np.log10(take.loud) - 34
    gain = _follower(take, 0.002, 0.06, lambda db: 0.0 if db > at else -40.0)
    smooth = scipy.ndimage.uniform_filter1d(gain, 480)
    return _all(take, "gate", take.samples * smooth, 40.0)


def _compressed(take: Made, rng: np.random.Generator) -> Made:
    """Four to one, sixteen decibels over its knee, lets go in 0.15 s."""
    knee = 20 * np.log10(take.loud) - 16
    gain = _follower(take, 0.004, 0.15, lambda db: -0.75 * max(db - knee, 0.0))
    return _all(take, "compressed", take.samples * gain * 3)


def _auto_gain(take: Made, rng: np.random.Generator) -> Made:
    """A laptop's: turns everything towards one level within a second, up to 24 dB."""
    wanted = 20 * np.log10(take.loud)
    gain = _follower(take, 0.05, 1.0, lambda db: float(np.clip(wanted - db, -12, 18)))
    return _all(take, "auto_gain", take.samples * gain * 0.5)


def _breath(take: Made, rng: np.random.Generator) -> Made:
    n = int(0.35 * RATE)
    rush = scipy.signal.sosfilt(
        scipy.signal.butter(1, [600, 5000], "bandpass", fs=RATE, output="sos"), rng.standard_normal(n)
    )
    rush *= np.hamming(n) * (1 + 0.3 * np.sin(np.linspace(0, 9, n)))
    return _put(take, "breath", _pause(take, rng), rush / np.std(rush) * take.loud * 10 ** (-15 / 20))


def _thump(take: Made, rng: np.random.Generator) -> Made:
    t = np.arange(int(0.25 * RATE)) / RATE
    ring = np.sin(2 * np.pi * 62 * t) * np.exp(-t / 0.06) + 0.4 * np.sin(2 * np.pi * 131 * t) * np.exp(-t / 0.03)
    return _put(take, "thump", _pause(take, rng) - 0.1, ring * take.loud * 0.8)


def _lips(take: Made, rng: np.random.Generator) -> Made:
    n = int(0.006 * RATE)
    tick = scipy.signal.sosfilt(
        scipy.signal.butter(1, 1500, "highpass", fs=RATE, output="sos"), rng.standard_normal(n)
    ) * np.hanning(n)
    return _put(take, "lips", _pause(take, rng), tick / np.max(np.abs(tick)) * take.loud * 0.5)


def _polarity(take: Made, rng: np.random.Generator) -> Made:
    own = rng.standard_normal(len(take.direct)) * take.loud * 1e-3
    return _all(take, "polarity", np.stack([take.samples, -take.direct - 0.8 * take.room - take.floor + own]))


def _bits(take: Made, rng: np.random.Generator) -> Made:
    return _all(take, "true_bits", np.round(take.samples * 32768) / 32768, 16.0)


def _low_rate(take: Made, rng: np.random.Generator) -> Made:
    down = scipy.signal.resample_poly(take.samples, 1, 3)
    return _all(take, "low_rate", scipy.signal.resample_poly(down, 3, 1)[: len(take.direct)], 8.0)


def _dc(take: Made, rng: np.random.Generator) -> Made:
    return _all(take, "dc", take.samples + 0.03)


PUT_IN: dict[str, Callable[[Made, np.random.Generator], Made]] = {
    "clipped": _clipped, "flat_top": _flat_top, "soft_over": _soft_over, "pop": _pop, "ess": _ess, "hum": _hum,
    "tone": _tone, "hiss": _hiss, "rumble": _rumble, "noise": _passing, "dropout": _dropout, "click": _click,
    "crackle": _crackle, "creep": _creep, "drift": _drift, "jump": _jump, "seam": _seam, "roomy": _roomy,
    "gate": _gate, "compressed": _compressed, "auto_gain": _auto_gain, "breath": _breath, "thump": _thump,
    "lips": _lips, "polarity": _polarity, "true_bits": _bits, "low_rate": _low_rate, "dc": _dc,
}  # fmt: skip


def spoilt(kind: str, seed: int, *, who: str = "spoken") -> Made:
    """A take with one fault and its truth."""
    return PUT_IN[kind](made(seed, who=who), np.random.default_rng([seed, 9]))

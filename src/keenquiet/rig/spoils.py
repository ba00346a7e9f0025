"""What spoils takes, put in where the truth says: in what is sung, in the air, at the microphone, in the chain."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray
from keenquiet.rig.singer import Flaw, Take, ringing, sung_take
from keenquiet.rig.voice import RATE_HZ, ess, filtered, pinkish

Spoil = Callable[[Take, np.random.Generator], Take]
_CENTS: Final = 18.0


def _at(take: Take, rng: np.random.Generator) -> int:
    """The middle of a phrase. [samples]"""
    start, end = take.phrases[int(rng.integers(1, len(take.phrases)))]
    return int((start + (end - start) * rng.uniform(0.35, 0.65)) * RATE_HZ)


def _in_pause(take: Take, rng: np.random.Generator, *, before_s: float) -> int:
    """So long before a phrase, not the first. [samples]"""
    start, _ = take.phrases[int(rng.integers(1, len(take.phrases)))]
    return int((start - before_s) * RATE_HZ)


def _chain(take: Take, samples: FloatArray, *flaws: Flaw) -> Take:
    return replace(take, chain=samples).flawed(*flaws)


def _whole(take: Take, kind: str, size: float = 0.0) -> Flaw:
    return Flaw(kind, 0.0, take.seconds, size)


def _heard_in_air(take: Take, at: int, sound: FloatArray, kind: str, *, under_db: float, lasts_s: float) -> Take:
    """A sound in the air at a moment, its RMS so far under the phrases."""
    floor = take.floor.copy()
    part = floor[at : at + len(sound)]
    scale = take.loud * 10 ** (under_db / 20) / float(np.sqrt(np.mean(sound**2)))
    part += sound[: len(part)] * scale
    return replace(take, floor=floor).flawed(Flaw(kind, at / RATE_HZ, at / RATE_HZ + lasts_s, under_db))


def _clipped(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    part = slice(at, at + int(0.25 * RATE_HZ))
    loud = samples[part] * 1.6 / np.max(np.abs(samples[part]))
    samples[part] = np.clip(loud, -1.0, 1.0)
    return _chain(take, samples, Flaw("clipped", at / RATE_HZ, part.stop / RATE_HZ))


def _flat_top(take: Take, rng: np.random.Generator) -> Take:
    """Cut before the recorder: half of the wave's height is gone, at whatever level."""
    limit = 0.45 * float(np.max(np.abs(take.samples)))
    level = 10 ** (rng.uniform(-18, -3) / 20)
    cut = np.clip(take.samples, -limit, limit) / limit * level
    return _chain(take, cut + 1e-5 * rng.standard_normal(cut.shape[-1]), _whole(take, "flat_top"))


def _soft_over(take: Take, rng: np.random.Generator) -> Take:
    """A stage that presses tops as a tube does, met by the loud phrases only: every third is 12 dB louder."""
    gain = np.ones(len(take.dry))
    flaws = []
    for start, end in take.phrases[1::3]:
        gain[int((start - 0.2) * RATE_HZ) : int((end + 0.5) * RATE_HZ)] = 10 ** (12 / 20)
        flaws.append(Flaw("soft_over", start, end))
    sung = take.dry * gain + take.room * gain + take.floor
    drive = 3.0 / float(np.max(np.abs(sung)))
    return _chain(take, np.tanh(sung * drive) * 0.3, *flaws)


def _pop(take: Take, rng: np.random.Generator) -> Take:
    at = _at(take, rng)
    since = np.arange(int(0.15 * RATE_HZ)) / RATE_HZ
    puff = np.sin(2 * np.pi * 40 * since) * since / 0.02 * np.exp(1 - since / 0.02)
    floor = take.floor.copy()
    floor[at : at + len(puff)] += 0.85 * float(np.max(np.abs(take.samples))) * puff
    return replace(take, floor=floor).flawed(Flaw("pop", at / RATE_HZ, at / RATE_HZ + 0.08))


def _sharp_ess(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    scale = float(np.sqrt(np.mean(samples[at - RATE_HZ // 5 : at + RATE_HZ // 5] ** 2)))
    hissed = ess(rng, 1.0, 0.16)
    hissed *= scale * 1.2 / np.sqrt(np.mean(hissed**2))
    samples[at : at + len(hissed)] *= 1 - 0.9 * np.hanning(len(hissed)) ** 0.3
    samples[at : at + len(hissed)] += hissed
    return _chain(take, samples, Flaw("ess", at / RATE_HZ, at / RATE_HZ + 0.16))


def _hum(take: Take, rng: np.random.Generator) -> Take:
    t = np.arange(len(take.dry)) / RATE_HZ
    hum = sum(10 ** (-db / 20) * np.sin(2 * np.pi * 50 * k * t) for k, db in ((1, 44), (2, 46), (3, 50)))
    return replace(take, floor=take.floor + 1.2 * take.loud * hum).flawed(_whole(take, "hum"))


def _tone(take: Take, rng: np.random.Generator) -> Take:
    t = np.arange(len(take.dry)) / RATE_HZ
    f_hz = float(rng.uniform(1800, 6000))
    whine = 5e-3 * take.loud * np.sin(2 * np.pi * f_hz * t)
    return replace(take, floor=take.floor + whine).flawed(_whole(take, "tone", f_hz))


def _hiss(take: Take, rng: np.random.Generator) -> Take:
    sos = scipy.signal.butter(1, 2500, btype="highpass", fs=RATE_HZ, output="sos")
    hiss = 0.03 * take.loud * filtered(sos, rng, len(take.dry))
    return replace(take, floor=take.floor + hiss).flawed(_whole(take, "hiss"))


def _rumble(take: Take, rng: np.random.Generator) -> Take:
    sos = scipy.signal.butter(2, (22, 60), btype="bandpass", fs=RATE_HZ, output="sos")
    low = filtered(sos, rng, len(take.dry))
    return replace(take, floor=take.floor + 0.1 * take.loud * low / np.std(low)).flawed(_whole(take, "rumble"))


def _passing(take: Take, rng: np.random.Generator) -> Take:
    """A tram in a pause and into the phrases round it."""
    start, _ = take.phrases[len(take.phrases) // 2]
    t = np.arange(len(take.dry)) / RATE_HZ
    rush = filtered(scipy.signal.butter(2, (60, 800), btype="bandpass", fs=RATE_HZ, output="sos"), rng, len(t))
    bell = np.exp(-0.5 * ((t - (start - 0.4)) / 0.6) ** 2)
    tram = 0.037 * take.loud * rush / np.std(rush) * bell
    return replace(take, floor=take.floor + tram).flawed(Flaw("noise", start - 1.4, start + 0.6))


def _dropout(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at, n = _at(take, rng), int(rng.uniform(0.003, 0.02) * RATE_HZ)
    samples[at : at + n] = 0.0
    return _chain(take, samples, Flaw("dropout", at / RATE_HZ, (at + n) / RATE_HZ))


def _click(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    height = 0.85 * float(np.max(np.abs(samples)))
    samples[at : at + 3] += np.array([1.0, -0.83, 0.33]) * height * (1 if rng.random() < 0.5 else -1)
    return _chain(take, samples, Flaw("click", at / RATE_HZ, at / RATE_HZ))


def _ramp(take: Take, db: float) -> FloatArray:
    """Gain over the take from 0 to so many decibels, (n,)."""
    return 10 ** (np.linspace(0, db, len(take.dry)) / 20)


def _creep(take: Take, rng: np.random.Generator) -> Take:
    """Sung louder and louder: the room sounds louder along, the noise does not."""
    db = float(rng.uniform(5, 7))
    ramp = _ramp(take, db) / 2
    made = replace(take, dry=take.dry * ramp, room=take.room * ramp, floor=take.floor / 2)
    return made.flawed(_whole(take, "creep", db))


def _nearer(samples: FloatArray, here_m: float, there_m: FloatArray) -> FloatArray:
    """Direct sound of a cardioid as the mouth comes from one distance to others over the take: by 1/r, and the bass by
    more than that. there_m : (k,), each fades into the next.
    """
    n = len(samples)
    length = scipy.fft.next_fast_len(n, real=True)
    spectrum = scipy.fft.rfft(samples, length)
    k = 2 * np.pi * np.maximum(np.fft.rfftfreq(length, 1 / RATE_HZ), 20.0) / 343

    def lift(r: float) -> FloatArray:
        lifted: FloatArray = 0.5 * np.abs(2 + 1 / (1j * k * r))
        return lifted

    steps = np.linspace(0, n - 1, len(there_m))
    out = np.zeros(n)
    for number, r in enumerate(there_m):
        share = np.interp(np.arange(n), steps, np.eye(len(steps))[number])
        out += scipy.fft.irfft(spectrum * lift(float(r)) / lift(here_m) * here_m / r, length)[:n] * share
    return out


def _drift(take: Take, rng: np.random.Generator) -> Take:
    """The performer comes to two fifths of the distance: the direct sound grows by 8 dB, the room does not."""
    there = np.linspace(take.distance_m, 0.4 * take.distance_m, 25)
    made = replace(
        take, dry=0.5 * _nearer(take.dry, take.distance_m, there), room=0.5 * take.room, floor=take.floor / 2
    )
    return made.flawed(_whole(take, "drift", 20 * float(np.log10(1 / 0.4))))


def _turned(take: Take, rng: np.random.Generator) -> Take:
    """Sung past the microphone, the head turned well aside: the treble of the direct sound goes, its level hardly."""
    n = len(take.dry)
    octaves = np.log2(np.maximum(np.fft.rfftfreq(n, 1 / RATE_HZ), 20.0) / 1500)
    aside = np.fft.irfft(np.fft.rfft(take.dry) * 10 ** (-4.0 * np.maximum(octaves, 0) / 20), n)
    return replace(take, dry=aside, reference=take.samples).flawed(_whole(take, "turned", -8.0))


def _jump(take: Take, rng: np.random.Generator) -> Take:
    middle = len(take.phrases) // 2
    at = int((take.phrases[middle - 1][1] + take.phrases[middle][0]) / 2 * RATE_HZ)
    samples = take.samples.copy()
    samples[at:] *= 10 ** (9 / 20)
    return _chain(take, samples * 0.35, Flaw("jump", at / RATE_HZ, at / RATE_HZ, 9.0))


def _seam(take: Take, rng: np.random.Generator) -> Take:
    """Two takes cut together in a pause: the room tone steps."""
    middle = len(take.phrases) // 2
    at = int((take.phrases[middle - 1][1] + 0.4) * RATE_HZ)
    floor = take.floor.copy()
    floor[at:] += pinkish(rng, len(floor) - at) * take.loud * 10 ** (-50 / 20)
    return replace(take, floor=floor).flawed(Flaw("seam", at / RATE_HZ, at / RATE_HZ, 12.0))


def _roomy(take: Take, rng: np.random.Generator) -> Take:
    room = take.room + ringing(take.dry + take.room, rng, t60_s=0.8, level_db=1.0)
    made = replace(take, dry=0.5 * take.dry, room=0.5 * room, floor=0.5 * take.floor)
    return made.flawed(_whole(take, "roomy", 0.8))


def _polarity(take: Take, rng: np.random.Generator) -> Take:
    return _chain(take, np.stack([take.samples, -0.9 * take.samples]), _whole(take, "polarity"))


def _delay(take: Take, rng: np.random.Generator) -> Take:
    late = int(0.0025 * RATE_HZ)
    other = np.concatenate([np.zeros(late), take.samples[:-late]])
    return _chain(take, np.stack([take.samples, 0.9 * other]), _whole(take, "delay", 2.5))


def _mono_loss(take: Take, rng: np.random.Generator) -> Take:
    """A widened sound: the other side is turned over by half, and blurred for the rest: half is lost in the sum."""
    blur = np.concatenate([np.zeros(int(0.04 * RATE_HZ)), rng.standard_normal(int(0.06 * RATE_HZ))])
    one = take.samples
    blurred = scipy.signal.oaconvolve(one, blur)[: len(one)]
    blurred -= one * float(np.vdot(one, blurred) / np.vdot(one, one))
    other = -0.5 * one + np.sqrt(0.75) * blurred * float(np.linalg.norm(one) / np.linalg.norm(blurred))
    return _chain(take, np.stack([one, other]), _whole(take, "mono_loss", 10 * float(np.log10(2))))


def _twin(take: Take, rng: np.random.Generator) -> Take:
    return _chain(take, np.stack([take.samples, take.samples]), _whole(take, "twin"))


def _burst(rng: np.random.Generator, seconds: float, band_hz: tuple[float, float], fades_s: float) -> FloatArray:
    n = int(seconds * RATE_HZ)
    sos = scipy.signal.butter(2, band_hz, btype="bandpass", fs=RATE_HZ, output="sos")
    rushed: FloatArray = filtered(sos, rng, n) * np.exp(-np.arange(n) / RATE_HZ / fades_s)
    return rushed


def _thump(take: Take, rng: np.random.Generator) -> Take:
    """A knee against the desk: a low ring that dies away, with a knock on top."""
    t = np.arange(int(0.2 * RATE_HZ)) / RATE_HZ
    ring = np.sin(2 * np.pi * rng.uniform(70, 110) * t) * np.exp(-t / 0.05)
    at = _in_pause(take, rng, before_s=0.4)
    return _heard_in_air(
        take, at, ring + 0.05 * _burst(rng, 0.2, (300, 3000), 0.004), "thump", under_db=-12, lasts_s=0.1
    )


def _breath(take: Take, rng: np.random.Generator) -> Take:
    n = int(0.3 * RATE_HZ)
    sos = scipy.signal.butter(2, (800, 6000), btype="bandpass", fs=RATE_HZ, output="sos")
    rush = filtered(sos, rng, n) * np.hanning(n)
    return _heard_in_air(take, _in_pause(take, rng, before_s=0.42), rush, "breath", under_db=-16, lasts_s=0.3)


def _lips(take: Take, rng: np.random.Generator) -> Take:
    tick = _burst(rng, 0.012, (1800, 7000), 0.003)
    return _heard_in_air(take, _in_pause(take, rng, before_s=0.35), tick, "lips", under_db=-18, lasts_s=0.01)


def _cloth(take: Take, rng: np.random.Generator) -> Take:
    """A sleeve: a rush that comes and goes unevenly, in the middle of a pause after the first phrase's end."""
    n = int(0.22 * RATE_HZ)
    sos = scipy.signal.butter(1, (400, 9000), btype="bandpass", fs=RATE_HZ, output="sos")
    uneven = np.repeat(rng.uniform(0.4, 1.0, 6), n // 6 + 1)[:n]
    rush = filtered(sos, rng, n) * np.hanning(n) ** 0.5 * uneven
    at = int((take.phrases[-1][1] + 0.35) * RATE_HZ)
    return _heard_in_air(take, at, rush, "cloth", under_db=-22, lasts_s=0.22)


def _chair(take: Take, rng: np.random.Generator) -> Take:
    """A creak: lines that slide."""
    t = np.arange(int(0.25 * RATE_HZ)) / RATE_HZ
    phase = 2 * np.pi * np.cumsum(320 + 160 * t / 0.25) / RATE_HZ
    creak = sum(np.sin(k * phase) / k for k in range(1, 9)) * np.hanning(len(t))
    return _heard_in_air(take, _in_pause(take, rng, before_s=0.45), creak, "chair", under_db=-22, lasts_s=0.25)


def _keys(take: Take, rng: np.random.Generator) -> Take:
    """Keys of an instrument or a computer: ticks in a row, after the last phrase."""
    row = np.zeros(int(0.45 * RATE_HZ))
    for at in (0.0, 0.15, 0.3):
        tick = _burst(rng, 0.03, (700, 5000), 0.006)
        row[int(at * RATE_HZ) : int(at * RATE_HZ) + len(tick)] += tick
    return _heard_in_air(take, int((take.phrases[-1][1] + 0.4) * RATE_HZ), row, "keys", under_db=-28, lasts_s=0.33)


def _click_track(take: Take, rng: np.random.Generator) -> Take:
    """A click track in open headphones, 30 dB under the phrases at its peaks."""
    beat = 60 / float(rng.uniform(70, 140))
    floor = take.floor.copy()
    t = np.arange(int(0.02 * RATE_HZ)) / RATE_HZ
    tick = np.sin(2 * np.pi * 2500 * t) * np.exp(-t / 0.005) * take.loud * 10 ** (-30 / 20) * np.sqrt(2)
    for at in np.arange(0.3, take.seconds - 0.1, beat):
        first = int(at * RATE_HZ)
        floor[first : first + len(tick)] += tick
    return replace(take, floor=floor).flawed(_whole(take, "click_track", 1 / beat))


def _bleed(take: Take, rng: np.random.Generator) -> Take:
    """Another song in the headphones, 34 dB under the phrases, dulled and late by the way it comes."""
    song = sung_take(seed=int(rng.integers(1 << 30)), phrases=9, lowest_hz=110.0, instrument="bowed").samples
    backing = np.resize(song, len(take.dry))
    way = np.zeros(600)
    way[200], way[260], way[340] = 1.0, -0.4, 0.2
    sos = scipy.signal.butter(1, (300, 4000), btype="bandpass", fs=RATE_HZ, output="sos")
    leak = scipy.signal.sosfilt(sos, scipy.signal.oaconvolve(backing, way)[: len(backing)])
    leak *= take.loud * 10 ** (-34 / 20) / float(np.sqrt(np.mean(leak**2)))
    made = replace(take, floor=take.floor + leak, backing=backing)
    return made.flawed(_whole(take, "bleed", -34.0))


def _gain_follows(take: Take, *, attack_s: float, release_s: float, ratio: float) -> FloatArray:
    """A chain that turns loud sound down: its gain over time, level detected in 5 ms, (n,)."""
    hop = RATE_HZ // 200
    power = np.mean(take.samples[: len(take.dry) // hop * hop].reshape(-1, hop) ** 2, axis=1)
    level = 10 * np.log10(power + 1e-12)
    wish = -np.maximum(level - (20 * np.log10(take.loud) - 20), 0) * ratio
    gain, held = np.empty(len(wish)), 0.0
    for i, wished in enumerate(wish.tolist()):  # a recursion over two hundred steps a second
        held += (wished - held) * (1 - np.exp(-0.005 / (attack_s if wished < held else release_s)))
        gain[i] = held
    smooth: FloatArray = 10 ** (np.interp(np.arange(len(take.dry)), (np.arange(len(gain)) + 0.5) * hop, gain) / 20)
    return smooth


def _auto_gain(take: Take, rng: np.random.Generator) -> Take:
    gain = _gain_follows(take, attack_s=0.02, release_s=0.9, ratio=0.8)
    return _chain(take, take.samples * gain * 2, _whole(take, "auto_gain"))


def _compressed(take: Take, rng: np.random.Generator) -> Take:
    gain = _gain_follows(take, attack_s=0.005, release_s=0.25, ratio=0.8)
    return _chain(take, take.samples * gain * 2, _whole(take, "compressed"))


def _gate(take: Take, rng: np.random.Generator) -> Take:
    """Shuts by 30 dB a quarter of a second after each phrase, opens as the next begins."""
    gain = np.full(len(take.dry), 10 ** (-30 / 20))
    for start, end in take.phrases:
        gain[int((start - 0.02) * RATE_HZ) : int((end + 0.3) * RATE_HZ)] = 1.0
    smooth = scipy.ndimage.uniform_filter1d(gain, RATE_HZ // 100)
    return _chain(take, take.samples * smooth, _whole(take, "gate", 30.0))


def _wrong_side(take: Take, rng: np.random.Generator) -> Take:
    """Sung into the back of a cardioid: the direct sound 14 dB down and duller, the room as it was."""
    sos = scipy.signal.butter(1, 4000, fs=RATE_HZ, output="sos")
    dull = scipy.signal.sosfilt(sos, take.dry) * 10 ** (-14 / 20)
    made = replace(take, dry=dull, reference=take.samples)
    return made.flawed(_whole(take, "wrong_side", -14.0))


def _moved(kind: str, share: float) -> Spoil:
    def spoiled(take: Take, rng: np.random.Generator) -> Take:
        there = np.full(2, share * take.distance_m)
        made = replace(take, dry=_nearer(take.dry, take.distance_m, there), reference=take.samples)
        return made.flawed(_whole(take, kind, -20 * float(np.log10(share))))

    return spoiled


def _tilted(kind: str, db: float) -> Spoil:
    """The bass of everything that is sung raised or lowered below 300 Hz, as another place in the room does."""

    def spoiled(take: Take, rng: np.random.Generator) -> Take:
        sos = scipy.signal.butter(1, 300.0, fs=RATE_HZ, output="sos")
        gain = 10 ** (db / 20) - 1
        dry, room = (part + gain * scipy.signal.sosfilt(sos, part) for part in (take.dry, take.room))
        return replace(take, dry=dry, room=room, reference=take.samples).flawed(_whole(take, kind, db))

    return spoiled


def _tuning(take: Take, rng: np.random.Generator) -> Take:
    """Everything higher by 18 cents: played faster by as much."""
    ratio = 2 ** (_CENTS / 1200)
    n = len(take.dry)
    at = np.arange(n) * ratio
    # splines: straight lines between samples would take the treble
    faster = [scipy.ndimage.map_coordinates(part, [at], order=5, cval=0.0) for part in (take.dry, take.room)]
    phrases = [(a / ratio, b / ratio) for a, b in take.phrases]
    made = replace(take, dry=faster[0], room=faster[1], phrases=phrases, reference=take.samples)
    return made.flawed(_whole(take, "tuning", _CENTS))


def _resampled(kind: str, edge_hz: float) -> Spoil:
    """Nothing above an edge, as a lossy copy or a lower rate leave it."""

    def spoiled(take: Take, rng: np.random.Generator) -> Take:
        spectrum = np.fft.rfft(take.samples)
        f_hz = np.fft.rfftfreq(len(take.dry), 1 / RATE_HZ)
        cut = np.fft.irfft(spectrum * (f_hz < edge_hz), len(take.dry))
        return _chain(take, cut + 2e-8 * rng.standard_normal(len(cut)), _whole(take, kind, edge_hz / 1000))

    return spoiled


def _true_bits(take: Take, rng: np.random.Generator) -> Take:
    return _chain(take, np.round(take.samples * 2**15) / 2**15, _whole(take, "true_bits", 16.0))


SPOILS: Final[Mapping[str, Spoil]] = MappingProxyType(
    {
        "clipped": _clipped,
        "flat_top": _flat_top,
        "soft_over": _soft_over,
        "pop": _pop,
        "ess": _sharp_ess,
        "breath": _breath,
        "lips": _lips,
        "thump": _thump,
        "cloth": _cloth,
        "chair": _chair,
        "keys": _keys,
        "hum": _hum,
        "tone": _tone,
        "hiss": _hiss,
        "rumble": _rumble,
        "noise": _passing,
        "click_track": _click_track,
        "bleed": _bleed,
        "dropout": _dropout,
        "click": _click,
        "creep": _creep,
        "drift": _drift,
        "turned": _turned,
        "jump": _jump,
        "seam": _seam,
        "roomy": _roomy,
        "gate": _gate,
        "auto_gain": _auto_gain,
        "compressed": _compressed,
        "polarity": _polarity,
        "delay": _delay,
        "mono_loss": _mono_loss,
        "twin": _twin,
        "lossy": _resampled("lossy", 16_000.0),
        "low_rate": _resampled("low_rate", 11_025.0),
        "true_bits": _true_bits,
        "wrong_side": _wrong_side,
        "nearer": _moved("nearer", 0.5),
        "further": _moved("further", 2.0),
        "boomy": _tilted("boomy", 5.0),
        "thin": _tilted("thin", -5.0),
        "tuning": _tuning,
    }
)


def flawed_take(kind: str, *, seed: int, **voice: float) -> Take:
    """A take with one fault and its truth, in a room of its own. Raises KeyError for a kind that cannot be made."""
    return spoiled(sung_take(seed=seed, **voice), kind, seed=seed)  # type: ignore[arg-type]


def spoiled(take: Take, kind: str, *, seed: int) -> Take:
    """A take with one fault put in. Raises KeyError for a kind that cannot be made."""
    return SPOILS[kind](take, np.random.default_rng([seed, 5]))

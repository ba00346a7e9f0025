"""What is found in takes made of real recordings that were not made for it: untouched, and spoilt on purpose.

`python -m bench.recorded [FOLDER]` fetches four Debian packages (by apt-get download, into FOLDER or the cache of the
tests), strings their recordings to takes and prints how many draw a false finding, and how often each fault is found.
Nothing of it is in the repository. Its sources and their licences:

  festvox-ru       one speaker reading sentences, 16 kHz, 16 bits              N. Shmyrev, BSD-like
  ktuberling-data  single words by speakers of many languages, at home         KDE, GPL 2 or later
  freepats         instruments tone by tone, GUS patches                       freepats, GPL 2 or later with exception
  hydrogen-data    drums stroke by stroke                                      hydrogen, GPL 2 or later
"""

import subprocess
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import groupby
from pathlib import Path
from typing import Any, Final

import numpy as np
import scipy
import soundfile
from tests.kept_responses import FOLDER

from keenquiet.core.errors import MeasurementError
from keenquiet.core.figures import read_take
from keenquiet.core.take.finding import Finding
from keenquiet.core.types import FloatArray

_PACKAGES: Final = ("festvox-ru", "ktuberling-data", "freepats", "hydrogen-data")
_LANGUAGES: Final = ("ca", "da", "de", "el", "en", "fr", "gl", "lt", "nn", "ru", "sl", "uk")
_PLAYED: Final = [
    "000_Acoustic_Grand_Piano",
    "024_Nylon_Guitar",
    "025_Steel_Guitar",
    "042_Cello",
    "040_Violin",
    "046_Harp",
    "056_Trumpet",
    "060_French_Horn",
    "065_Alto_Sax",
    "068_Oboe",
    "071_Clarinet",
    "073_Flute",
]
_RATE: Final = 44_100
_TAKES: Final = 6
# what a take's own making tells rightly: words cut apart, low rates, a lossy past, few bits, rooms of their own
_TRUE: Final = {"low_rate", "lossy", "true_bits", "seam", "roomy", "too_quiet", "twin"}


@dataclass(frozen=True)
class Take:
    """samples : (n,). spans : from and to of each phrase. [s]"""

    name: str
    samples: FloatArray
    rate: int
    spans: list[tuple[float, float]]

    @property
    def loud(self) -> float:
        """RMS of what sounds."""
        power = np.concatenate([self.samples[round(a * self.rate) : round(b * self.rate)] for a, b in self.spans]) ** 2
        return float(np.sqrt(power[power > 1e-3 * power.max()].mean()))


def fetched(folder: Path) -> Path:
    """Where the packages lie unpacked."""
    for package in _PACKAGES:
        if not (there := folder / package).exists():
            folder.mkdir(parents=True, exist_ok=True)
            subprocess.run(["apt-get", "download", package], cwd=folder, check=True, capture_output=True)
            (file,) = folder.glob(f"{package}_*.deb")
            subprocess.run(["dpkg-deb", "-x", file, there], check=True)
            file.unlink()
    return folder


def takes(folder: Path) -> Iterator[Take]:
    """All untouched ones."""
    sentences = sorted((folder / "festvox-ru").rglob("ru_*.wav"))
    for number in range(2 * _TAKES):
        yield _strung(f"sentences {number}", sentences[6 * number : 6 * number + 6])
    for language in _LANGUAGES:
        words = sorted((folder / "ktuberling-data/usr/share/ktuberling/sounds" / language).glob("*.*"))
        rng = np.random.default_rng(len(words))
        for number in range(_TAKES // 3):
            yield _strung(f"words {language} {number}", [words[i] for i in rng.permutation(len(words))[:14]])
    for patch in _PLAYED:
        tones = _patch(folder / "freepats/usr/share/midi/freepats/Tone_000" / f"{patch}.pat")
        for number in range(_TAKES // 3):
            yield _played(patch[4:], tones, np.random.default_rng(number))
    kit = sorted((folder / "hydrogen-data").rglob("GMRockKit/*-Med.wav"))
    for number in range(_TAKES // 3):
        yield _beaten(kit, np.random.default_rng(number))


def _read(path: Path, rate: int) -> FloatArray:
    samples, own = soundfile.read(path, always_2d=True)
    mono = samples.mean(axis=1)
    divisor = int(np.gcd(own, rate))
    return np.asarray(scipy.signal.resample_poly(mono, rate // divisor, own // divisor), dtype=float)


def _strung(name: str, paths: list[Path]) -> Take:
    """Recordings one after another, equally loud, their ends crossing in each one's own background."""
    rate = soundfile.info(paths[0]).samplerate
    out, spans = np.zeros(0), []
    cross = round(0.03 * rate)
    for path in paths:
        part = _read(path, rate)
        part = part / max(np.sqrt(np.mean(part[np.abs(part) > 0.1 * np.abs(part).max()] ** 2)), 1e-9) * 0.1
        ramp = np.sqrt(np.linspace(0, 1, cross))
        start = max(len(out) - cross, 0)
        if len(out):
            out[-cross:] *= ramp[::-1]
            part[:cross] *= ramp
        out = np.concatenate([out, np.zeros(start + len(part) - len(out))])
        out[start : start + len(part)] += part
        spans.append((start / rate, len(out) / rate))
    return Take(name, out, rate, spans)


def _patch(path: Path) -> list[FloatArray]:
    """Tones of a GUS patch (Gravis patch format) at _RATE, those of 16 bits that last."""
    data = path.read_bytes()
    tones = []
    at = 239  # patch, instrument and layer headers
    for _ in range(data[198]):
        size, rate, mode = (int.from_bytes(data[at + a : at + b], "little") for a, b in ((8, 12), (20, 22), (55, 56)))
        if mode & 1:
            raw = np.frombuffer(data[at + 96 : at + 96 + size // 2 * 2], "<u2" if mode & 2 else "<i2").astype(float)
            divisor = int(np.gcd(rate, _RATE))
            wave = (raw - (32768 if mode & 2 else 0)) / 32768
            tones.append(np.asarray(scipy.signal.resample_poly(wave, _RATE // divisor, rate // divisor), dtype=float))
        at += 96 + size
    return [tone for tone in tones if len(tone) > 0.4 * _RATE]


def _played(name: str, tones: list[FloatArray], rng: np.random.Generator) -> Take:
    """Phrases of the tones as they were recorded, over a quiet pink floor."""
    out, spans = np.zeros(22 * _RATE), []
    at = 0.6
    while at < 19 and tones:
        start = at
        for _ in range(int(rng.integers(3, 6))):
            tone = tones[int(rng.integers(len(tones)))]
            tone = tone[: int(1.6 * _RATE)] / max(np.abs(tone).max(), 1e-9) * 0.25 * 10 ** (rng.uniform(-6, 0) / 20)
            fade = np.minimum(1, np.arange(len(tone))[::-1] / (0.15 * _RATE))
            first = int(at * _RATE)
            out[first : first + len(tone)] += (tone * fade)[: len(out) - first]
            at += min(float(rng.uniform(0.3, 0.7)), len(tone) / _RATE)
        at += 1.0
        spans.append((start, min(at, 22)))
        at += 0.7
    floor = scipy.signal.lfilter([1], [1, -0.95], rng.standard_normal(len(out)))
    return Take(name, out + floor / np.std(floor) * 10 ** (-68 / 20), _RATE, spans)


def _beaten(kit: list[Path], rng: np.random.Generator) -> Take:
    """A beat of a kit's strokes."""
    out = 1e-4 * rng.standard_normal(20 * _RATE)
    strokes = [_read(path, _RATE) for path in kit]
    for at in np.arange(0.5, 19, 0.25):
        stroke = strokes[int(rng.integers(len(strokes)))] * rng.uniform(0.2, 0.6)
        first = int((at + rng.normal(0, 0.01)) * _RATE)
        out[first : first + len(stroke)] += stroke[: len(out) - first]
    return Take("kit", out * 0.4 / np.abs(out).max(), _RATE, [(0.5, 19.5)])


def _pink(rng: np.random.Generator, n: int) -> FloatArray:
    noise = scipy.fft.irfft(scipy.fft.rfft(rng.standard_normal(n)) / np.sqrt(np.maximum(np.arange(n // 2 + 1), 20)), n)
    return np.asarray(noise / np.std(noise), dtype=float)


def _gated(take: Take, rng: np.random.Generator) -> FloatArray:
    """Shut within 0.12 s of each pause."""
    envelope = np.sqrt(scipy.ndimage.uniform_filter1d(take.samples**2, round(0.03 * take.rate)))
    opened = scipy.ndimage.maximum_filter1d(envelope > 0.05 * take.loud, round(0.16 * take.rate))
    gain = scipy.ndimage.uniform_filter1d(opened.astype(float), round(0.02 * take.rate))
    return take.samples * gain


def _eight_bits(take: Take, rng: np.random.Generator) -> FloatArray:
    return np.asarray(np.round(take.samples * 128) / 128, dtype=float)


def _tanh(take: Take, rng: np.random.Generator) -> FloatArray:
    """Tops pressed from where they pass their usual height."""
    drive = 1 / (1.5 * take.loud)
    return np.asarray(np.tanh(take.samples * drive) / drive, dtype=float)


def _stepped(take: Take, rng: np.random.Generator) -> FloatArray:
    """6 dB from a pause on, the room tone with it."""
    middle = take.spans[len(take.spans) // 2][0]
    return np.asarray(take.samples * np.where(np.arange(len(take.samples)) / take.rate > middle, 2.0, 1.0) / 2)


def _squeezed(take: Take, rng: np.random.Generator) -> FloatArray:
    """4:1 from 12 dB under the usual level, lets go in 60 ms."""
    power = take.samples**2
    fast = scipy.signal.lfilter([1 - (a := np.exp(-1 / (0.005 * take.rate)))], [1, -a], power)
    slow = scipy.ndimage.maximum_filter1d(fast, round(0.03 * take.rate))
    slow = scipy.signal.lfilter([1 - (b := np.exp(-1 / (0.06 * take.rate)))], [1, -b], slow)
    over = np.maximum(10 * np.log10(np.maximum(slow, 1e-12) / take.loud**2) + 12, 0)
    return np.asarray(take.samples * 10 ** (-0.75 * over / 20), dtype=float)


def _car(take: Take, rng: np.random.Generator) -> FloatArray:
    """Passing within eight seconds, 14 dB under the voice at its loudest."""
    t = np.arange(len(take.samples)) / take.rate
    rush = scipy.signal.sosfilt(
        scipy.signal.butter(2, (60, 1200), "bandpass", fs=take.rate, output="sos"), rng.standard_normal(len(t))
    )
    bell = np.exp(-0.5 * ((t - t[-1] * rng.uniform(0.35, 0.65)) / 2.0) ** 2)
    return np.asarray(take.samples + rush / np.std(rush) * bell * take.loud * 10 ** (-14 / 20), dtype=float)


def _hissing(take: Take, rng: np.random.Generator) -> FloatArray:
    return take.samples + rng.standard_normal(len(take.samples)) * take.loud * 10 ** (-30 / 20)


def _pink_floor(take: Take, rng: np.random.Generator) -> FloatArray:
    return take.samples + _pink(rng, len(take.samples)) * take.loud * 10 ** (-25 / 20)


def _ticking(take: Take, rng: np.random.Generator) -> FloatArray:
    """A click track in the phones, 12 dB under the voice's tops, every half second."""
    out = take.samples.copy()
    t = np.arange(round(0.02 * take.rate)) / take.rate
    tick = np.sin(2 * np.pi * 1800 * t) * np.exp(-t / 0.004) * np.abs(out).max() * 10 ** (-12 / 20)
    for at in np.arange(0.3, len(out) / take.rate - 0.1, 0.5):
        out[round(at * take.rate) : round(at * take.rate) + len(tick)] += tick
    return out


def _humming(take: Take, rng: np.random.Generator) -> FloatArray:
    t = np.arange(len(take.samples)) / take.rate
    hum = sum(np.sin(2 * np.pi * 50 * k * t + k) / k for k in (1, 2, 3))
    return np.asarray(take.samples + hum * take.loud * 10 ** (-32 / 20), dtype=float)


# kind -> how it is put in, and by which words it is told rightly
SPOILT: Final[dict[str, tuple[Callable[[Take, np.random.Generator], FloatArray], set[str]]]] = {
    "gate": (_gated, {"gate"}),
    "eight bits": (_eight_bits, {"true_bits"}),
    "tanh": (_tanh, {"soft_over", "flat_top", "clipped"}),
    "step of 6 dB": (_stepped, {"jump", "seam", "auto_gain"}),
    "4:1": (_squeezed, {"compressed"}),
    "car": (_car, {"rumble", "passing", "noise", "floor", "bleed"}),
    "hiss -30": (_hissing, {"hiss", "noise", "floor"}),
    "pink -25": (_pink_floor, {"noise", "floor", "rumble", "hiss"}),
    "click track": (_ticking, {"click_track"}),
    "hum": (_humming, {"hum"}),
}


def told(samples: FloatArray, rate: int, bits: int = 16) -> tuple[list[Finding], set[str]]:
    """What is found, and kinds of which is said that they cannot be told."""
    samples = np.round(np.clip(samples, -1, 1) * 2 ** (bits - 1)) / 2 ** (bits - 1)  # as a file holds them
    try:
        levels = read_take(samples[None], float(rate), bits=bits).levels
    except MeasurementError:
        return [], set()
    return list(levels.findings), set(levels.not_looked_for)


def _is_there(take: Take, found: Finding) -> bool:
    """Whether what was found is in the recording itself, by figures of another make."""

    def band_db(low_hz: float, high_hz: float, start_s: float = 0.0, end_s: float = 1e9, share: float = 10) -> float:
        sos = scipy.signal.butter(4, (low_hz, min(high_hz, 0.45 * take.rate)), "bandpass", fs=take.rate, output="sos")
        part = scipy.signal.sosfilt(sos, take.samples[round(start_s * take.rate) : round(end_s * take.rate)])
        piece = min(take.rate // 20, len(part))
        power = np.mean(part[: len(part) // piece * piece].reshape(-1, piece) ** 2, axis=1)
        return 10 * float(np.log10(np.percentile(power, share) + 1e-12)) - 20 * float(np.log10(take.loud))

    kind, start, end = found.kind, found.start_s, found.end_s
    if kind == "dc":
        return bool(abs(np.mean(take.samples)) > 0.05 * np.std(take.samples))
    if kind == "rumble":
        return band_db(20, 70) > -40
    if kind == "hiss":
        return band_db(3000, 10_000) > -52
    if kind == "noise":  # each recording was made equally loud, its background with it
        floors = [band_db(100, 5000, *span) for span in take.spans]
        return max(floors) - float(np.median(floors)) > 6
    if kind == "ess":  # as strong above 5 kHz as all of a usual moment within a few decibels
        return band_db(5000, 10_000, start, end, share=100) > -10
    if kind == "breath":  # noise, and plainly over what is there when nobody breathes
        part = take.samples[round(start * take.rate) : round(end * take.rate)]
        power = np.abs(np.fft.rfft(part * np.hanning(len(part)))) ** 2
        f_hz = np.fft.rfftfreq(len(part), 1 / take.rate)
        inside = power[(f_hz > 800) & (f_hz < 6000)] + 1e-20
        flat = float(np.exp(np.log(inside).mean()) / inside.mean())
        return flat > 0.2 and band_db(800, 6000, start, end, share=50) > band_db(800, 6000) + 10
    return False


def _untouched(take: Take) -> tuple[str, list[str]]:
    found = told(take.samples, take.rate)[0]
    return take.name, sorted({f.kind for f in found if f.kind not in _TRUE and not _is_there(take, f)})


def _spoilt(asked: tuple[Take, str]) -> tuple[str, bool, bool, list[str]]:
    take, kind = asked
    put_in, words = SPOILT[kind]
    findings, cannot = told(put_in(take, np.random.default_rng(7)), take.rate)
    found = {finding.kind for finding in findings}
    return kind, bool(words & found), words <= cannot, sorted(found)


def main() -> None:
    """Print what is found."""
    folder = fetched(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER / "recorded")
    every = list(takes(folder))
    with ProcessPoolExecutor() as pool:
        false = list(pool.map(_untouched, every))
        for name, found in false:
            print(f"{name:22s} {', '.join(found)}", flush=True)
        print(
            f"untouched: {sum(bool(f) for _, f in false)} of {len(false)} with a finding that no figure bears out",
            Counter(k for _, f in false for k in f),
        )
        spoken = [take for take in every if take.name.startswith(("sentences", "words"))][::3]
        results = pool.map(_spoilt, [(take, kind) for kind in SPOILT for take in spoken])
        for kind, group in groupby(results, key=lambda one: one[0]):
            its: list[Any] = list(group)
            hits, said = sum(hit for _, hit, _, _ in its), sum(said and not hit for _, hit, said, _ in its)
            print(f"{kind:14s} {hits} of {len(its)}, cannot be told is said of {said}", flush=True)


if __name__ == "__main__":
    main()

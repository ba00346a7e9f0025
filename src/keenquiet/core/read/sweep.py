"""The sweep: making it, and taking the room's response out of a recording of it.

The recorder starts at an unknown moment and its clock runs a little off the player's: the first is found in the sweep,
the second by the marks around it (`sweep_marks`), and removed.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.kept import Kept
from keenquiet.core.read.steadiness import Steadiness, steadiness
from keenquiet.core.read.sweep_marks import UNKNOWN_PPM, between_marks
from keenquiet.core.types import ComplexArray, FloatArray

FADE_IN_S: Final = 0.05
FADE_OUT_S: Final = 0.01
_MOST_PPM: Final = 400.0
_TAIL_S: Final = 2.0  # response kept after the direct sound
_LEAD_S: Final = 0.05
_REGULARISATION: Final = 1e-4  # of the reference's strongest energy, outside the swept range
# made responses, with a reflection louder than the direct sound among them, gather 0.89 to 1.00 of their pitches at one
# time; sweeps of 5 to 10 s for one of 6 leave 0.22 to 0.67
_GATHERED: Final = 0.78
_LEAST_PEAK_DB: Final = 18.0  # a sweep's compressed peak stands at least this far above the rest


@dataclass(frozen=True)
class SweepSpec:
    """Exponential sweep: low to high [Hz] in seconds [s]."""

    low_hz: float = 20.0
    high_hz: float = 20_000.0
    seconds: float = 6.0

    @property
    def rate_s(self) -> float:
        """L = T / ln(f2/f1): time in which the frequency grows e-fold. [s]"""
        return float(self.seconds / np.log(self.high_hz / self.low_hz))

    def time_of(self, f_hz: FloatArray) -> FloatArray:
        """When the sweep passes a frequency. [s]"""
        when: FloatArray = self.rate_s * np.log(f_hz / self.low_hz)
        return when


@dataclass(frozen=True)
class Deconvolved:
    """Impulse response from a sweep.

    impulse : (n,) with 50 ms before the direct sound. delay_s : direct sound after the recording's start, less the
    sweep's own start. clock_ppm : how much faster the recorder's clock ran than the player's, with its standard
    uncertainty; 0 and wide where no marks tell it.
    snr_db : direct sound above the noise before it. distortion_pct : harmonics 2 to 5 over the linear response.
    steady : what changed while the sweep ran.
    """

    impulse: FloatArray
    sample_rate_hz: float
    delay_s: float
    clock_ppm: float
    clock_plus_minus_ppm: float
    snr_db: float
    distortion_pct: float
    steady: Steadiness


def exponential_sweep(spec: SweepSpec, sample_rate_hz: float) -> FloatArray:
    """The sweep, faded at both ends, peak 1. Source: A. Farina, AES 108th Convention (2000), paper 5093."""
    high = min(spec.high_hz, 0.49 * sample_rate_hz)
    n = round(spec.seconds * sample_rate_hz)
    t = np.arange(n) / sample_rate_hz
    phase = 2 * np.pi * spec.low_hz * spec.rate_s * np.expm1(t / spec.rate_s)
    sweep = np.sin(phase)
    if high < spec.high_hz:  # a low sample rate cannot carry the top: silence there, not aliases
        sweep[t > spec.time_of(np.array(high))] = 0.0
    fade_in, fade_out = (round(part * sample_rate_hz) for part in (FADE_IN_S, FADE_OUT_S))
    sweep[:fade_in] *= np.sin(0.5 * np.pi * np.arange(fade_in) / fade_in) ** 2
    sweep[-fade_out:] *= np.cos(0.5 * np.pi * np.arange(1, fade_out + 1) / fade_out) ** 2
    return sweep


def _reference_spectrum(spec: SweepSpec, sample_rate_hz: float, n: int) -> ComplexArray:
    return _spectra.find(
        (spec, sample_rate_hz, n), lambda: np.asarray(scipy.fft.rfft(exponential_sweep(spec, sample_rate_hz), n))
    )


_spectra: Final[Kept[tuple[SweepSpec, float, int], ComplexArray]] = Kept(most_bytes=32_000_000, most=4)


def deconvolve(recording: FloatArray, sample_rate_hz: float, *, spec: SweepSpec | None = None) -> Deconvolved:
    """Room response from a recording of the sweep.

    recording : (n,) samples, sweep anywhere inside.
    Raises MeasurementError `no_sweep` when no sweep is found and `incomplete` when its end or start is cut off.
    Source: regularised spectral division after A. Farina (2000); clock offset from marks before and after.
    """
    spec = spec or SweepSpec()
    # Padded to recording + sweep: at the recording's own length the tail would wrap round before the direct sound.
    n = scipy.fft.next_fast_len(len(recording) + round(spec.seconds * sample_rate_hz), real=True)
    reference = _reference_spectrum(spec, sample_rate_hz, n)
    f_hz = np.arange(len(reference)) * sample_rate_hz / n
    energy = np.abs(reference) ** 2
    top = min(spec.high_hz, 0.46 * sample_rate_hz)
    inside = (f_hz >= spec.low_hz) & (f_hz <= top)
    # In the swept range the division is plain; outside, where the reference holds nothing, it is held back.
    floor = np.where(inside, 1e-8 * energy[inside].max(), _REGULARISATION * energy[inside].max() + energy)
    spectrum = (
        scipy.fft.rfft(recording, n) * np.conj(reference) / (energy + floor) * _band_taper(f_hz, spec.low_hz, top)
    )
    impulse = scipy.fft.irfft(spectrum, n)
    peak = int(np.argmax(np.abs(impulse)))
    _require_sweep(impulse, peak, sample_rate_hz)
    begin = peak if peak < n - round(spec.seconds * sample_rate_hz) else peak - n
    _require_whole(begin, len(recording), spec, sample_rate_hz)
    lead, tail = round(_LEAD_S * sample_rate_hz), round(_TAIL_S * sample_rate_hz)
    available = len(recording) - begin - round(spec.seconds * sample_rate_hz)
    end = max(min(tail, available), round(0.3 * sample_rate_hz))
    kept = np.take(impulse, np.arange(peak - lead, peak + end), mode="wrap")
    # the clock and what else changed are found apart from each other: on two cores at once
    with ThreadPoolExecutor(1) as other:
        looked = other.submit(
            steadiness,
            recording,
            impulse,
            reference,
            peak=peak,
            swept=(begin, begin + round(spec.seconds * sample_rate_hz)),
            pass_s=(spec.rate_s, spec.low_hz),
            sample_rate_hz=sample_rate_hz,
        )
        marked = between_marks(recording, begin, sweep_s=spec.seconds, sample_rate_hz=sample_rate_hz)
        ppm = 0.0 if marked is None or marked.moved or abs(marked.clock_ppm) > _MOST_PPM else marked.clock_ppm
        shift = 0.0
        if abs(ppm) > 0.5:
            kept, shift = _clock_corrected(kept, lead, ppm, sample_rate_hz, spec)
        steady = looked.result()
    if marked is None and steady.gathered < _GATHERED:
        raise _no_sweep()  # a sweep, but of another speed or range: its pitches never come together
    return Deconvolved(
        impulse=kept,
        sample_rate_hz=sample_rate_hz,
        delay_s=(begin + shift + _fractional_peak(kept, lead)) / sample_rate_hz,
        clock_ppm=ppm,
        clock_plus_minus_ppm=UNKNOWN_PPM if marked is None or marked.moved else marked.plus_minus_ppm,
        snr_db=_snr_db(impulse, peak, sample_rate_hz),
        distortion_pct=_distortion_pct(impulse, peak, spec, sample_rate_hz),
        steady=replace(steady, moved=steady.moved or (marked is not None and marked.moved)),
    )


def _clock_corrected(
    kept: FloatArray, lead: int, ppm: float, sample_rate_hz: float, spec: SweepSpec
) -> tuple[FloatArray, float]:
    """The response with its clock offset undone and its peak still at `lead`, and by how many samples the peak moved.

    Done on the part that is kept: the offset spreads the pulse by a few milliseconds only.
    """
    n = scipy.fft.next_fast_len(len(kept) + lead, real=True)
    spectrum = scipy.fft.rfft(kept, n) * _clock_phase(scipy.fft.rfftfreq(n, 1 / sample_rate_hz), ppm, spec)
    whole = scipy.fft.irfft(spectrum, n)
    reach = int(_MOST_PPM * 1e-6 * spec.seconds * sample_rate_hz) + 32
    near = np.arange(lead - reach, lead + reach) % n
    peak = int(near[np.argmax(np.abs(whole[near]))])
    moved = peak - lead if peak < n // 2 else peak - n - lead
    corrected: FloatArray = np.roll(whole, -moved)[: len(kept)]
    return corrected, float(moved)


def _band_taper(f_hz: FloatArray, low_hz: float, high_hz: float) -> FloatArray:
    """1 inside the swept range, cosine skirts outside: a third octave below, a tenth octave above."""
    with np.errstate(divide="ignore"):
        octaves = np.log2(np.maximum(f_hz, 1e-3))
    below = np.clip((np.log2(low_hz) - octaves) / 0.33, 0, 1)
    above = np.clip((octaves - np.log2(high_hz)) / 0.1, 0, 1)
    taper: FloatArray = np.cos(0.5 * np.pi * below) ** 2 * np.cos(0.5 * np.pi * above) ** 2
    return taper


def _require_sweep(impulse: FloatArray, peak: int, sample_rate_hz: float) -> None:
    """A compressed sweep is a sharp peak; anything else stays spread out."""
    width = round(0.01 * sample_rate_hz)
    around = np.arange(peak - width, peak + width) % len(impulse)
    rest = np.delete(impulse, around)
    loudness = float(np.sqrt(np.mean(rest**2)))
    if impulse[peak] == 0 or 20 * np.log10(abs(impulse[peak]) / max(loudness, 1e-30)) < _LEAST_PEAK_DB + 12:
        raise _no_sweep()


def _no_sweep() -> MeasurementError:
    return MeasurementError("no_sweep")


def _require_whole(begin: int, length: int, spec: SweepSpec, sample_rate_hz: float) -> None:
    slack = round(0.02 * sample_rate_hz)
    missing = begin + round(spec.seconds * sample_rate_hz) - length
    if begin < -slack or missing > slack:
        what = "start" if begin < -slack else "end"
        raise MeasurementError("incomplete", "sweep_cut", what=what, missing_s=max(-begin, missing) / sample_rate_hz)


def _clock_phase(f_hz: FloatArray, ppm: float, spec: SweepSpec) -> ComplexArray:
    """Phase that undoes a clock offset in a deconvolved response.

    A recorder running fast by e writes y(t) = s(t / (1+e)), whose spectrum is S(f (1+e)), and S(f) is divided out.
    What remains is the phase of S(f) / S(f (1+e)). By stationary phase arg S(f) = -2 pi f L (ln(f/f1) - 1), up to a
    constant.
    """
    safe = np.maximum(f_hz, spec.low_hz * 0.5)
    ratio = 1 + ppm * 1e-6

    def phase(f: FloatArray) -> FloatArray:
        return -2 * np.pi * spec.rate_s * f * (np.log(f / spec.low_hz) - 1)

    correction: ComplexArray = np.exp(1j * (phase(safe) - phase(safe * ratio)))
    return correction


def _fractional_peak(impulse: FloatArray, peak: int) -> float:
    """Offset of the true peak from the sample, by a parabola through three. [samples]"""
    y0, y1, y2 = np.abs(np.take(impulse, [peak - 1, peak, peak + 1], mode="wrap"))
    bend = y0 - 2 * y1 + y2
    return float(0.5 * (y0 - y2) / bend) if bend < 0 else 0.0


def _snr_db(impulse: FloatArray, peak: int, sample_rate_hz: float) -> float:
    """Peak of the response above the noise ahead of it, clear of harmonics' images. [dB]"""
    gap, length = round(0.02 * sample_rate_hz), round(0.05 * sample_rate_hz)
    before = np.take(impulse, np.arange(peak - gap - length, peak - gap), mode="wrap")
    return float(20 * np.log10(abs(impulse[peak]) / max(float(np.sqrt(np.mean(before**2))), 1e-12)))


def _distortion_pct(impulse: FloatArray, peak: int, spec: SweepSpec, sample_rate_hz: float) -> float:
    """Energy of the harmonics' responses, which come out L ln(k) ahead of the linear one, over the linear one's. [%]"""
    width = round(0.03 * sample_rate_hz)
    linear = np.take(impulse, np.arange(peak - width // 8, peak + width), mode="wrap")
    gap = np.take(impulse, np.arange(peak - 4 * width, peak - 3 * width), mode="wrap")
    noise = float(np.mean(gap**2))
    harmonics = 0.0
    for k in range(2, 6):
        place = peak - round(spec.rate_s * np.log(k) * sample_rate_hz)
        piece = np.take(impulse, np.arange(place - width // 8, place + width), mode="wrap")
        harmonics += max(float(np.sum(piece**2)) - 1.5 * noise * len(piece), 0.0)
    return 100 * float(np.sqrt(harmonics / np.sum(linear**2)))

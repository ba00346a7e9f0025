"""Repeats of one reading averaged: responses in step, so that noise falls by 3 dB with each doubling."""

from dataclasses import dataclass

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.decay import onset_index
from keenquiet.core.types import FloatArray

_LEAD_S = 0.05
_LEAST_LIKENESS = 0.8


@dataclass(frozen=True)
class Averaged:
    """impulse (n,): the mean. likeness : smallest correlation of one repeat's first 30 ms with the mean's. [-]"""

    impulse: FloatArray
    likeness: float


def averaged(impulses: list[FloatArray], sample_rate_hz: float) -> Averaged:
    """Mean of repeats, each shifted by fractions of a sample until its direct sound falls on the first one's.

    impulses : (n_i,) each, direct sound anywhere.
    Raises MeasurementError `disturbed` when the repeats do not resemble each other: something stood elsewhere.
    Source: coherent averaging of sweep responses, ISO 18233:2006, 6.3.3; Farina (2000).
    """
    lead = round(_LEAD_S * sample_rate_hz)
    parts = [_from_onset(impulse, lead) for impulse in impulses]
    length = min(len(part) for part in parts)
    parts = [part[:length] for part in parts]
    early = slice(0, lead + round(0.03 * sample_rate_hz))
    aligned = [parts[0]]
    for part in parts[1:]:
        aligned.append(_shifted(part, _lag(part[early], parts[0][early])))
    mean: FloatArray = np.mean(aligned, axis=0)
    likeness = min(float(np.corrcoef(part[early], mean[early])[0, 1]) for part in aligned)
    if likeness < _LEAST_LIKENESS:
        raise MeasurementError("disturbed", "repeats_differ")
    return Averaged(mean, likeness)


def _from_onset(impulse: FloatArray, lead: int) -> FloatArray:
    start = onset_index(impulse) - lead
    return impulse[start:] if start >= 0 else np.concatenate([np.zeros(-start), impulse])


def _lag(part: FloatArray, like: FloatArray) -> float:
    """By how many samples `part` comes after `like`, to a fraction: peak of their correlation, a parabola through
    three.
    """
    n = 1 << (2 * len(part) - 1).bit_length()
    cross = np.fft.irfft(np.fft.rfft(part, n) * np.conj(np.fft.rfft(like, n)), n)
    top = int(np.argmax(cross))
    y0, y1, y2 = (cross[(top + k) % n] for k in (-1, 0, 1))
    bend = y0 - 2 * y1 + y2
    exact = top + (0.5 * (y0 - y2) / bend if bend < 0 else 0.0)
    return float(exact if exact < n / 2 else exact - n)


def _shifted(part: FloatArray, by: float) -> FloatArray:
    """`part` moved earlier by a fraction of a sample, through its spectrum."""
    n = 1 << (len(part) + 1024 - 1).bit_length()
    turn = np.exp(2j * np.pi * np.fft.rfftfreq(n) * by)
    moved: FloatArray = np.fft.irfft(np.fft.rfft(part, n) * turn, n)[: len(part)]
    return moved

"""Octave and third-octave bands (IEC 61260-1), their filters, and values given by octave.

Mid-band frequencies are base-10: G = 10^(3/10), f_m = 1000 G^n (octaves) or 1000 G^(n/3) (thirds).
"""

from collections.abc import Mapping
from functools import lru_cache
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

OCTAVES_HZ: Final = (63, 125, 250, 500, 1000, 2000, 4000, 8000)  # nominal, IEC 61260-1
N_OCTAVES: Final = len(OCTAVES_HZ)
THIRDS_HZ: Final = (
    25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000,
    1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000, 10000,
)  # fmt: skip  # nominal, IEC 61260-1
G: Final = 10**0.3  # octave ratio, base 10
# A-weighting at the octave centres, IEC 61672-1 table 3. [dB]
A_WEIGHTING_OCTAVES_DB: Final = np.array([-26.2, -16.1, -8.6, -3.2, 0.0, 1.2, 1.0, -1.1])
MID_OCTAVES: Final = slice(3, 6)  # 500, 1000, 2000 Hz: where speech and song are judged


def exact_octaves_hz() -> FloatArray:
    """Exact mid-band frequencies of OCTAVES_HZ, (8,). [Hz]"""
    return 1000.0 * G ** np.arange(-4.0, 4.0)


def exact_thirds_hz() -> FloatArray:
    """Exact mid-band frequencies of THIRDS_HZ, (27,). [Hz]"""
    return 1000.0 * G ** (np.arange(-16.0, 11.0) / 3)


def band_edges_hz(centres_hz: FloatArray, *, fraction: int) -> tuple[FloatArray, FloatArray]:
    """Lower and upper band edges for 1/`fraction` octaves. [Hz]"""
    half = G ** (0.5 / fraction)
    return centres_hz / half, centres_hz * half


@lru_cache(maxsize=256)
def band_filter_sos(centre_hz: float, sample_rate_hz: float, fraction: int) -> FloatArray:
    """Band filter as second-order sections, (n_sections, 6).

    A Butterworth band-pass with three pole pairs, which meets class 1 of IEC 61260-1 for octaves and thirds.
    Raises InputError when the band's upper edge lies above 0.98 of the Nyquist frequency.
    """
    low, high = (float(edge) for edge in band_edges_hz(np.array(centre_hz), fraction=fraction))
    if high >= 0.98 * sample_rate_hz / 2:
        raise InputError(
            "sample_rate_hz",
            f"{sample_rate_hz:g} Hz is too low for the {centre_hz:g} Hz band.",
            "Record at 44.1 kHz or more.",
        )
    sos: FloatArray = scipy.signal.butter(3, [low, high], btype="bandpass", fs=sample_rate_hz, output="sos")
    return sos


def bands_within(sample_rate_hz: float, *, fraction: int) -> FloatArray:
    """Exact mid-bands that fit below the Nyquist frequency (octaves for 1, thirds for 3). [Hz]"""
    centres = exact_octaves_hz() if fraction == 1 else exact_thirds_hz()
    _, high = band_edges_hz(centres, fraction=fraction)
    fitting: FloatArray = centres[high < 0.98 * sample_rate_hz / 2]
    return fitting


def nominal_hz(centre_hz: float, *, fraction: int) -> float:
    """The nominal name of an exact mid-band frequency. [Hz]"""
    names = OCTAVES_HZ if fraction == 1 else THIRDS_HZ
    return float(min(names, key=lambda name: abs(np.log(name / centre_hz))))


_STEEPEST_DB: Final = 12.0  # an octave, of what is missing


def octaves_from_table(
    table: Mapping[str, float], *, field: str, low: float, high: float, sloped: bool = False
) -> FloatArray:
    """Values by octave from a `{"125": 0.1, ...}` table, (8,).

    What is missing at either end is held from its neighbour; sloped, as levels of noises are, it goes on as the last
    two do, by at most 12 dB an octave. Any other hole is interpolated over log frequency.
    Raises InputError for an unknown band, an empty table, or a value outside low..high or not finite.
    """
    found: dict[int, float] = {}
    for name, value in table.items():
        if name not in {str(band) for band in OCTAVES_HZ}:
            raise InputError(
                f"{field}.{name}", "is not an octave band.", "Use 63, 125, 250, 500, 1000, 2000, 4000, 8000."
            )
        if not low <= value <= high:  # asked this way round, NaN is refused too
            raise InputError(f"{field}.{name}", f"{value} lies outside {low:g} to {high:g}.", "Check the figure.")
        found[int(name)] = float(value)
    if not found:
        raise InputError(field, "has no values.", "Give at least one octave band.")
    known = sorted(found)
    at, values = np.log2(known), np.array([found[band] for band in known])
    where = np.log2(OCTAVES_HZ)
    filled: FloatArray = np.interp(where, at, values)
    if sloped and len(known) > 1:
        slopes = np.clip(np.diff(values) / np.diff(at), -_STEEPEST_DB, _STEEPEST_DB)
        filled += slopes[0] * np.minimum(where - at[0], 0) + slopes[-1] * np.maximum(where - at[-1], 0)
    return filled


def at_frequencies(octave_values: FloatArray, f_hz: FloatArray) -> FloatArray:
    """Octave values (..., 8) interpolated over log frequency to f_hz (n,), held at the ends: (..., n)."""
    place = np.clip(np.log2(np.maximum(f_hz, 1e-9) / exact_octaves_hz()[0]) / np.log2(G), 0, N_OCTAVES - 1)
    lower = np.minimum(place.astype(int), N_OCTAVES - 2)
    part = place - lower
    values: FloatArray = octave_values[..., lower] * (1 - part) + octave_values[..., lower + 1] * part
    return values


def a_weighting_db(f_hz: FloatArray) -> FloatArray:
    """A-weighting at any frequency. [dB]  Source: IEC 61672-1, annex E, analytical form."""
    squared = np.asarray(f_hz, dtype=float) ** 2
    with np.errstate(divide="ignore"):
        response = (
            12194.217**2
            * squared**2
            / (
                (squared + 20.598997**2)
                * np.sqrt((squared + 107.65265**2) * (squared + 737.86223**2))
                * (squared + 12194.217**2)
            )
        )
        weighted: FloatArray = 20 * np.log10(response) + 2.0
    return weighted


def sum_db(levels_db: FloatArray, axis: int = -1) -> FloatArray:
    """Energy sum of levels. [dB]"""
    with np.errstate(divide="ignore"):
        total: FloatArray = 10 * np.log10(np.sum(10 ** (np.asarray(levels_db) / 10), axis=axis))
    return total

"""What lies beneath a take: tones, hiss, rumble, what passes, and where the room tone steps; read in its pauses."""

from dataclasses import replace
from functools import partial
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.held import holds
from keenquiet.core.read.parts import block_levels, power_density
from keenquiet.core.read.tone import find_tones
from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span, between
from keenquiet.core.types import FloatArray

_CLEAR_S: Final = 0.2  # after a phrase, until most of its room has faded
_SOON_S: Final = 0.1
_LEAST_S: Final = 0.2
_UNDER_DB: Final = 60.0  # a tone so far under the performance is not heard
_HISS_UNDER_DB: Final = 52.0
_RUMBLE_UNDER_DB: Final = 40.0
_PASSING_DB: Final = 9.0
_TAIL_DB: Final = 9.0
# what passes under somebody who goes on, set on 60 real recordings: with a car 14 dB under the voice the softest
# moments of two seconds lay 9 to 21 dB under the loud ones and were noise (flatness 0.41 to 0.60); untouched, noise
# lay 22 dB and more under, and what lay higher were notes (0.23 at most)
_UNDER_LOUD_DB: Final = 21.7
_SOFTEST_S: Final = 1.5
_LASTS_S: Final = 2.0
_FALLS_DB: Final = 6.0
_NOISE_FLATNESS: Final = 0.35
_NOISE_HZ: Final = (150.0, 1200.0)
_EVERY: Final = 5  # moments
_LOOKED_AT: Final = 8
_SEAM_DB: Final = 5.0
_SETTLES: Final = 9  # moments that a level must keep
_HOP_S: Final = 0.05
_RISING: Final = 3
_PLAYED_HZ: Final = ((300.0, 700.0), (700.0, 1400.0), (1400.0, 2800.0), (2800.0, 5600.0))
# under that, pauses of untouched speech are as restless: 30 takes of recorded sentences, 53 to 64 dB under the voice
_PLAYED_UNDER_DB: Final = 48.0
_LEAST_PLAYED_S: Final = 0.4
_FADED_S: Final = 0.3
_RESTLESS_DB: Final = 2.0
_STARTS_DB: Final = 3.0
_STARTS_A_SECOND: Final = 1.5  # a breath before each phrase begins once


def beneath(
    samples: FloatArray, sample_rate_hz: float, moments: Moments, phrases: tuple[Span, ...], *, active_dba: float
) -> list[Finding]:
    """Findings in the pauses. samples : (n,). active_dba : level of the performance, A-weighted. [dBFS]"""
    weighted = moments.level_dba()
    passing_under = _passing_under(samples, sample_rate_hz, weighted)
    pauses = between(phrases, least_s=_LEAST_S, clear_s=_CLEAR_S)
    if len(pauses) < 2:
        return passing_under
    seconds = len(samples) / sample_rate_hz
    runs = [samples[round(p.start_s * sample_rate_hz) : round(p.end_s * sample_rate_hz)] for p in pauses]
    passing = _joined([*passing_under, *_passing(weighted, pauses)]) if passing_under else _passing(weighted, pauses)
    quiet = [run for run, p in zip(runs, pauses, strict=True) if not any(_meets(f, p) for f in passing)]
    if len(quiet) < 2:
        return passing
    if playing := _plays_on(samples, sample_rate_hz, phrases, weighted, active_dba):
        return playing  # whose tones and steps are no faults of their own
    soon = [p for p in between(phrases, least_s=_LEAST_S, clear_s=_SOON_S) if not any(_meets(f, p) for f in passing)]
    step = _seam(
        [samples[round(p.start_s * sample_rate_hz) : round(p.end_s * sample_rate_hz)] for p in soon],
        soon,
        sample_rate_hz,
    )
    step = step or _tone_steps(weighted, [p for p in pauses if not any(_meets(f, p) for f in passing)])
    return [*_steady(quiet, sample_rate_hz, seconds, active_dba), *passing, *step]


def _plays_on(
    samples: FloatArray, sample_rate_hz: float, phrases: tuple[Span, ...], weighted: FloatArray, active_dba: float
) -> list[Finding]:
    """Music or talk that goes on in the pauses: what a room is at rest keeps its level from one moment to the next in
    every band, and fades evenly; notes and words begin, again and again.

    Limits set on made takes: without bleed the level of a band changes by at most 1.2 dB from a twentieth of a second
    to the next (standard deviation, middle pause), with strings and drums, a pipe or talk by 2.8 to 7.9.
    """
    pauses = [
        # a long room falls through the whole pause, and its notes beat on the way
        pause
        for pause in between(phrases, least_s=_LEAST_PLAYED_S, clear_s=_FADED_S)
        if _falls_db(weighted, pause) < _TAIL_DB
    ]
    if len(pauses) < 2:
        return []
    hop = round(_HOP_S * sample_rate_hz)
    restless, starts = 0.0, 0.0
    for band_hz in _PLAYED_HZ:
        if band_hz[1] > 0.45 * sample_rate_hz:
            continue
        sos = scipy.signal.butter(2, band_hz, btype="bandpass", fs=sample_rate_hz, output="sos")
        steps = []
        for pause in pauses:
            run = samples[round(pause.start_s * sample_rate_hz) : round(pause.end_s * sample_rate_hz)]
            power = block_levels(run, sample_rate_hz, hop, after=partial(scipy.signal.sosfilt, sos))
            level = 10 * np.log10(np.maximum(power, 1e-16))[1:-1]
            steps.append(np.diff(level) - np.median(np.diff(level)))
        changes = float(np.median([np.std(step) / np.sqrt(2) for step in steps]))
        if changes > restless:
            restless = changes
            up = sum(np.count_nonzero(step > _STARTS_DB) for step in steps)
            starts = up / (_HOP_S * sum(len(step) for step in steps))
    level_dba = float(np.median([_usual_dba(weighted, p.start_s, p.end_s) for p in pauses]))
    if restless < _RESTLESS_DB or starts < _STARTS_A_SECOND or level_dba < active_dba - _PLAYED_UNDER_DB:
        return []
    return [Finding("bleed", pauses[0].start_s, pauses[-1].end_s, level_dba - active_dba, "dB", 0.6)]


def _passing_under(samples: FloatArray, sample_rate_hz: float, weighted: FloatArray) -> list[Finding]:
    """Stretches in which even the softest moments are noise, and loud: it passes while somebody goes on. value : over
    the take's own softest moments. [dB]
    """
    level = scipy.ndimage.uniform_filter1d(weighted, _EVERY)[_EVERY // 2 :: _EVERY]
    step_s = HOP_S * _EVERY
    if len(level) * step_s < 3 * _LASTS_S:
        return []
    soft = scipy.ndimage.percentile_filter(level, 5, size=round(_SOFTEST_S / step_s))
    least = float(np.percentile(level, 90)) - _UNDER_LOUD_DB
    held = scipy.ndimage.binary_opening(soft > least, np.ones(round(_LASTS_S / step_s), dtype=bool))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], held.astype(np.int8), [0]])))
    found = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        top = float(soft[first:last].max())
        comes, goes = (float(part.min(initial=top)) < top - _FALLS_DB for part in (soft[:first], soft[last:]))
        if comes and goes and _flatness(samples, sample_rate_hz, level, first, last) > _NOISE_FLATNESS:
            over = top - float(np.median(soft))
            found.append(Finding("noise", float(first * step_s), float(last * step_s), over, "dB", 0.7))
    return found


def _flatness(samples: FloatArray, sample_rate_hz: float, level: FloatArray, first: int, last: int) -> float:
    """Geometric over arithmetic mean of the power of the softest moments of a stretch, middle one: 0.56 of noise."""
    length = round(2 * HOP_S * _EVERY * sample_rate_hz)
    softest = first + np.argsort(level[first:last])[:_LOOKED_AT]
    starts = np.clip((softest * HOP_S * _EVERY * sample_rate_hz).astype(int), 0, len(samples) - length)
    power = np.abs(np.fft.rfft(samples[starts[:, None] + np.arange(length)] * np.hanning(length), axis=1)) ** 2
    f_hz = np.fft.rfftfreq(length, 1 / sample_rate_hz)
    inside = power[:, (f_hz > _NOISE_HZ[0]) & (f_hz < _NOISE_HZ[1])] + 1e-20
    return float(np.median(np.exp(np.log(inside).mean(axis=1)) / inside.mean(axis=1)))


def _joined(found: list[Finding]) -> list[Finding]:
    """What passes under a phrase and is heard in the pause beside it is one thing."""
    joined: list[Finding] = []
    for one in sorted(found, key=lambda each: each.start_s):
        if joined and one.start_s < joined[-1].end_s + _LASTS_S:
            last = joined.pop()
            ends = max(last.end_s, one.end_s)
            one = replace(last, end_s=ends, value=max(last.value, one.value))
        joined.append(one)
    return joined


def _meets(finding: Finding, pause: Span) -> bool:
    return finding.start_s < pause.end_s and finding.end_s > pause.start_s


def _steady(runs: list[FloatArray], sample_rate_hz: float, seconds: float, active_dba: float) -> list[Finding]:
    """Tones that hold on, hiss and rumble of all pauses together."""
    joined = np.concatenate(runs)
    segment = round(min(0.5, min(len(run) for run in runs) / sample_rate_hz) * sample_rate_hz)
    parts = [power_density(run, sample_rate_hz, segment=segment) for run in runs]
    f_hz = parts[0][0]
    # what ticks or knocks in one pause is not there in the middle one
    density = np.median([p[1] for p in parts], axis=0)
    found = []
    for tone in find_tones(f_hz, density)[:4]:
        if tone.f_hz > 700 and tone.level_db > active_dba - _UNDER_DB and holds([joined], sample_rate_hz, tone.f_hz):
            found.append(Finding("tone", 0.0, seconds, tone.level_db, "dBFS", 0.7, tone.f_hz))
            break
    step = float(f_hz[1])

    def level(low: float, high: float) -> float:
        inside = (f_hz >= low) & (f_hz < high)
        return 10 * float(np.log10(np.sum(density[inside]) * step + 1e-20)) if inside.any() else -200.0

    hiss, middle = level(3000, 10_000), level(300, 1500)
    if hiss > active_dba - _HISS_UNDER_DB and hiss > middle + 3 and not found:
        found.append(Finding("hiss", 0.0, seconds, hiss, "dBFS", 0.6))
    rumble, low = level(20, 70), level(120, 400)
    if rumble > active_dba - _RUMBLE_UNDER_DB and rumble > low + 12:
        found.append(Finding("rumble", 0.0, seconds, rumble, "dBFS", 0.7))
    return found


def _passing(weighted: FloatArray, pauses: tuple[Span, ...]) -> list[Finding]:
    """Pauses that stand out of the others, and then fall back: something passed."""
    # by their ends, where what the phrase has left is faint
    levels = np.array([_usual_dba(weighted, (p.start_s + p.end_s) / 2, p.end_s) for p in pauses])
    if len(levels) < 3:
        return []
    usual = float(np.median(levels))
    # a long room falls through the whole pause
    falls = np.array([_falls_db(weighted, p) for p in pauses])
    high = (levels > usual + _PASSING_DB) & (falls < _TAIL_DB)
    if np.count_nonzero(high) > len(levels) // 3 or (high.any() and high[-1] and high[-2:].all()):
        return []
    return [
        Finding("noise", pause.start_s - 0.5, pause.end_s + 0.3, float(level) - usual, "dB", 0.6)
        for pause, level, loud in zip(pauses, levels, high, strict=True)
        if loud
    ]


def _falls_db(weighted: FloatArray, pause: Span) -> float:
    """By how much a pause's last quarter lies under its first. [dB]"""
    quarter = pause.seconds / 4
    first = _usual_dba(weighted, pause.start_s, pause.start_s + quarter)
    return first - _usual_dba(weighted, pause.end_s - quarter, pause.end_s)


def _usual_dba(weighted: FloatArray, start_s: float, end_s: float) -> float:
    """Level of the middle moment from one time to another: a tick or a knock is no passing."""
    part = weighted[round(start_s / HOP_S) : max(round(end_s / HOP_S), round(start_s / HOP_S) + 1)]
    return float(np.median(part)) if len(part) else -160.0


def _tone_steps(weighted: FloatArray, pauses: list[Span]) -> list[Finding]:
    """Room tones that are alike until a pause and alike, but otherwise, from then on: cut together in between."""
    levels = np.array([_usual_dba(weighted, p.start_s, p.end_s) for p in pauses])
    best: tuple[float, int] | None = None
    for at in range(2, len(levels) - 1):
        step = float(np.median(levels[at:]) - np.median(levels[:at]))
        even = max(float(np.std(levels[at:])), float(np.std(levels[:at])))
        if abs(step) >= _SEAM_DB and even < 0.25 * abs(step) and (best is None or abs(step) > abs(best[0])):
            best = (step, at)
    if best is None:
        return []
    step, at = best
    middle = (float(np.median(levels[:at])) + float(np.median(levels[at:]))) / 2
    return [Finding("seam", *_cut_between(weighted, pauses[at - 1], pauses[at], middle, step), step, "dB", 0.5)]


def _cut_between(weighted: FloatArray, before: Span, after: Span, middle: float, step: float) -> tuple[float, float]:
    """Where room tones change, from and to: within one of two pauses where it shows there, else in the phrase between.
    [s]
    """
    for pause, otherwise in ((before, True), (after, False)):
        part = weighted[round(pause.start_s / HOP_S) : round(pause.end_s / HOP_S)]
        later = (scipy.ndimage.median_filter(part, _SETTLES, mode="nearest") > middle) == (step > 0)
        # the side that a pause mostly is not on must last, at its end or at its beginning
        run = later[::-1] if otherwise else ~later
        lasts = int(np.argmin(run)) if not run.all() else 0
        if lasts >= _SETTLES:
            moment = pause.end_s - lasts * HOP_S if otherwise else pause.start_s + lasts * HOP_S
            return moment - 0.1, moment + 0.1
    return before.end_s, after.start_s


def _seam(runs: list[FloatArray], pauses: list[Span], sample_rate_hz: float) -> list[Finding]:
    """A step up of the room tone within a pause: both sides even, and apart at once. Down is what a room does."""
    hop = round(_HOP_S * sample_rate_hz)
    sos = scipy.signal.butter(2, 150.0, btype="highpass", fs=sample_rate_hz, output="sos")
    found = []
    for run, pause in zip(runs, pauses, strict=True):
        power = block_levels(run, sample_rate_hz, hop, after=partial(scipy.signal.sosfilt, sos))
        level = 10 * np.log10(np.maximum(power, 1e-16))
        # what rises at the end of a pause is the next phrase
        level = level[: len(level) - _RISING]
        for at in range(2, len(level) - 3):
            before, after = level[:at], level[at:]
            step = float(np.median(after) - np.median(before))
            even = max(float(np.std(before)), float(np.std(after)))
            if step >= _SEAM_DB and even < 2.5 and level[at] - level[at - 1] > 0.6 * step:
                moment = pause.start_s + at * _HOP_S
                found.append(Finding("seam", moment - 0.05, moment + 0.05, step, "dB", 0.6))
                break
    return found

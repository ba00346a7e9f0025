"""Whether a take is kept, in part or played again: an engineer's ear, by what the brief wants."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
import scipy

from keenquiet.core.read.parts import power_density
from keenquiet.core.take.finding import KINDS, Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

Keep = Literal["keep", "parts", "again"]
# noise so near under the performance is heard in every pause, and when squeezed under every soft word;
# common advice asks for 40 dB and more, broadcasters refuse at 30 (estimates from practice, set on none of our sounds)
NOISY_DB: Final = 35.0
TOO_NOISY_DB: Final = 28.0
STEADY_DB: Final = 4.0  # of pauses over the softest moments: a tail that fades is no noise
_ROOMY_S: Final = 1.0  # from which no mixing makes a close voice of it
_PUFF_DB: Final = 25.0  # a pop so high shakes the loudspeaker whatever is filtered
_SPOILT: Final = 0.5  # share of a take from which it is done again
_STEADY_SPREAD_DB: Final = 1.5  # between the tenths of a steady noise; the softest held note swells by more
_LINES_DB: Final = 12.0  # over the spectrum beside it: what is played has lines. An estimate, untried on real rooms
_ABOUT_HZ: Final = 80.0
# a voice stops at once, by 25 dB in 0.16 s and more; where it never falls by 12, a room sounds on (spoken words through
# made decays: 0.4 s at 0 dB direct over room 25, 0.9 s at 0 dB 15, 1.2 s at -3 dB 11; noise 24 dB under: 36; the rig's
# sung voice, whose notes end softly, 13 to 26 in rooms of 0.5 s and less)
FALL_S: Final = 0.16
WASHED_DB: Final = 12.0
_FALL_SHARE: Final = 98.0


@dataclass(frozen=True)
class TakeVerdict:
    """keep : what to do with the take. why : keys of what decides. spoilt : what to play again. [s]"""

    keep: Keep
    why: tuple[str, ...] = ()
    spoilt: tuple[Span, ...] = ()


def kept(
    findings: Sequence[Finding],
    seconds: float,
    *,
    phrases: Sequence[Span] = (),
    under_db: float | None = None,
    dry: bool = True,
    is_washed: bool = False,
    is_played: bool = True,
) -> TakeVerdict:
    """The verdict. under_db : how far steady noise lies under the performance, A-weighted. dry : whether the brief
    wants it without the room. is_washed : whether the room is heard all through
    it, as `washed` has it. is_played : whether anything but noise was heard.
    """
    if not is_played:
        return TakeVerdict("again", ("not_played",))
    why = []
    if under_db is not None and under_db < TOO_NOISY_DB:
        why.append("noisy")
    if dry and (is_washed or any(f.kind == "roomy" and f.value >= _ROOMY_S for f in findings)):
        why.append("roomy")
    lost = [f for f in findings if KINDS[f.kind].group == "lost" or (f.kind == "pop" and f.value >= _PUFF_DB)]
    spoilt = _lines(lost, phrases, seconds)
    if why:
        return TakeVerdict("again", tuple(why), spoilt)
    if not lost:
        return TakeVerdict("keep")
    length = sum(min(f.end_s, seconds) - max(f.start_s, 0.0) + 0.5 for f in lost)
    all_of_it = length > _SPOILT * seconds or len(lost) > max(seconds / 4, 3)
    return TakeVerdict("again" if all_of_it else "parts", ("lost",), spoilt)


def _lines(lost: Sequence[Finding], phrases: Sequence[Span], seconds: float) -> tuple[Span, ...]:
    """The lines in which something was lost, what lies between them by itself, those that touch as one."""
    spans = []
    for f in lost:
        met = [p for p in phrases if p.start_s < f.end_s and f.start_s < p.end_s]
        start, end = (met[0].start_s, met[-1].end_s) if met else (f.start_s - 0.5, f.end_s + 0.5)
        spans.append((max(start, 0.0), min(end, seconds)))
    joined: list[list[float]] = []
    for start, end in sorted(spans):
        if joined and start <= joined[-1][1] + 0.05:
            joined[-1][1] = max(joined[-1][1], end)
        else:
            joined.append([start, end])
    return tuple(Span(start, end) for start, end in joined)


def sounds_played(samples: FloatArray, sample_rate_hz: float, weighted_db: FloatArray) -> bool:
    """Whether somebody sounds, and not noise alone. samples : (n,). weighted_db : of each tenth of a second.

    Noise alone goes on at one level and has no lines in its spectrum; what is played has the one or the other.
    """
    low, high = np.percentile(weighted_db, (10, 90))
    if high - low > _STEADY_SPREAD_DB:
        return True
    f_hz, density = power_density(samples, sample_rate_hz, segment=int(sample_rate_hz / 4))
    heard = (f_hz >= 60) & (f_hz <= 8000)
    level = 10 * np.log10(np.maximum(density, 1e-20))
    beside = scipy.ndimage.median_filter(level, max(round(_ABOUT_HZ / (f_hz[1] - f_hz[0])), 3))
    return bool(np.max((level - beside)[heard]) > _LINES_DB)


def fall_db(moments: Moments) -> float | None:
    """How far what sounds between 500 and 4000 Hz falls within 0.16 s where it stops soonest, None where it is short.
    [dB]
    """
    level, ahead = moments.level("speech", smooth=2), round(FALL_S / HOP_S)
    if len(level) <= 10 * ahead:
        return None
    loud = np.flatnonzero(level[:-ahead] > np.percentile(level, 95) - 12)
    return float(np.percentile(level[loud] - level[loud + ahead], _FALL_SHARE)) if len(loud) > ahead else None


def washed(fall: float | None, under_db: float | None, findings: Sequence[Finding], seconds: float) -> list[Finding]:
    """A room that is heard all through a voice, where its phrases' ends did not tell it already. fall : as `fall_db`.
    under_db : how far noise lies under it, which hides a fall.
    """
    hidden = under_db is not None and under_db < WASHED_DB + 6
    if fall is None or fall >= WASHED_DB or hidden or any(f.kind == "roomy" for f in findings):
        return []
    return [Finding("roomy", 0.0, seconds, 60 * FALL_S / max(fall, 3.0), "s", 0.7)]

"""All findings of a take: who is asked, in which order, and what is told only once."""

from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType
from typing import Final

import numpy as np

from keenquiet.core.read.quality import clipped_share
from keenquiet.core.take.automatic import automatic
from keenquiet.core.take.beneath import beneath
from keenquiet.core.take.bleed import click_track
from keenquiet.core.take.course import Course
from keenquiet.core.take.esses import sharp_esses
from keenquiet.core.take.file_truth import file_findings
from keenquiet.core.take.finding import KINDS, OF_A_MIX, Finding, in_order
from keenquiet.core.take.hum import hums
from keenquiet.core.take.lost import clicks, dropouts, is_coarse
from keenquiet.core.take.moments import Moments
from keenquiet.core.take.overs import clipped_runs, flat_places
from keenquiet.core.take.pops import Pop, find_pops
from keenquiet.core.take.roominess import roomy
from keenquiet.core.take.soft_over import soft_over
from keenquiet.core.take.stirring import stirring
from keenquiet.core.take.two_channels import channel_findings
from keenquiet.core.take.wander import phrase_tones, wandering
from keenquiet.core.types import FloatArray

WORKERS: Final = 2
OF_THE_COURSE: Final = frozenset({"jump", "creep", "drift", "turned", "roomy"})
_TOO_QUIET_DBFS: Final = -24.0
_DEEP_DB: Final = -4.0  # of a burst, below 62 Hz: a puff has nearly all there
_NEAR_S: Final = 0.03  # of a cut: its edges are no clicks of their own
# what else accounts for something that stirs: told once
_EXPLAINED: Final[Mapping[str, frozenset[str]]] = MappingProxyType(
    {
        "lips": frozenset({"click_track", "click"}),
        "keys": frozenset({"click_track"}),
        "thump": frozenset({"rumble", "gate", "auto_gain", "compressed"}),
    }
)
_MASTERED_DBTP: Final = -1.5
_MASTERED_DBA: Final = -16.0
_LEAST_PAUSES: Final = 2
_LEAST_PHRASES: Final = 4
_TREBLE_RATE_HZ: Final = 22_000.0


@dataclass(frozen=True, eq=False)
class Heard:
    """What is known of a take before its faults are looked for. channels : each (n,). block : samples of those that its
    course counts. codes : of the quality check. mixed : it is a finished mix.
    """

    channels: tuple[FloatArray, ...]
    sample_rate_hz: float
    moments: Moments
    course: Course
    block: int
    true_peak_dbtp: float
    bits: int | None
    codes: tuple[str, ...]
    mixed: bool

    @property
    def seconds(self) -> float:
        """Length. [s]"""
        return len(self.channels[0]) / self.sample_rate_hz

    @property
    def mastered(self) -> bool:
        """Whether it was made loud on purpose: at the very top, and hardly quieter on the average."""
        return self.true_peak_dbtp > _MASTERED_DBTP and self.course.active_dba > _MASTERED_DBA

    @cached_property
    def loudest(self) -> FloatArray:
        """The channel with the most sound, (n,)."""
        return loudest_of(self.channels)


def loudest_of(channels: Sequence[FloatArray]) -> FloatArray:
    """The channel with the most sound, (n,)."""
    return channels[int(np.argmax([float(np.std(channel)) for channel in channels]))]


def findings_of(heard: Heard) -> tuple[Finding, ...]:
    """Everything found, each once, in the order of `KINDS` and then of time."""
    one, rate, seconds, course = heard.loudest, heard.sample_rate_hz, heard.seconds, heard.course
    phrases = course.phrases
    found: list[Finding] = []
    # each looks at the whole take by itself, and most of the time outside of Python
    with ThreadPoolExecutor(WORKERS) as workers:
        lost = workers.submit(dropouts, one, rate, phrases)
        clicked = workers.submit(clicks, one, rate)
        under = workers.submit(beneath, one, rate, heard.moments, phrases, active_dba=course.active_dba)
        past = workers.submit(file_findings, one, rate, bits=heard.bits)
        stirred = workers.submit(stirring, one, rate, heard.moments, phrases)
        found += _plain(heard)
        pops = _pops(heard)
        found += sharp_esses(heard.moments, rate)
        found += channel_findings(heard.channels, rate, seconds)
        whole = course_findings(heard.moments, course, seconds)
        if not any(f.kind == "jump" for f in whole):
            found += automatic(heard.moments, phrases, seconds, of_few_bits=is_coarse(heard.loudest))
        # who shuts a gate in the midst of a word leaves the wave still, too
        found += whole if any(f.kind == "gate" for f in found) else [*whole, *lost.result()]
        cut = [f for f in found if f.kind in ("clipped", "dropout", "flat_top")]
        found += [c for c in clicked.result() if not any(_near(c, f) for f in cut)]
        stirs = stirred.result()
        beat = click_track(heard.moments, phrases, seconds)
        # both are low: a puff of breath lies below 60 Hz, a desk or a stand rings above it
        found += [_pop(p) for p in pops if p.deep_db > _DEEP_DB or not _met(_pop(p), stirs, "thump")]
        stirs = [s for s in stirs if s.kind != "thump" or not _met(s, found, "pop")]
        found += [*past.result(), *beat, *_told_once(under.result(), [*found, *beat], stirs)]
        known = {f.kind for f in found}
        if "bleed" in known:
            # what plays in the pauses has tones, knocks and steps of its own
            found = [f for f in found if f.kind != "hum"]
            stirs = []
        found += [s for s in stirs if not known & _EXPLAINED.get(s.kind, frozenset())]
    if heard.mixed:
        found = [f for f in found if f.kind in OF_A_MIX]
    return in_order(found)


def course_findings(moments: Moments, course: Course, seconds: float) -> list[Finding]:
    """What a whole take tells, from phrase to phrase and by their ends; kinds of OF_THE_COURSE."""
    tones = phrase_tones(moments, course.phrases)
    wander = wandering(tones, seconds, ends=course.ends, phrases=course.phrases)
    return [*wander, *roomy(course.ends, seconds)]


def not_looked_for(heard: Heard) -> Mapping[str, str]:
    """Kinds that this take does not let one look for, with what it lacks."""
    lacks: set[str] = {"reference"}
    if len(heard.course.phrases) < _LEAST_PAUSES + 1:
        lacks.add("pauses")
    if len(heard.course.phrases) < _LEAST_PHRASES:
        lacks.add("phrases")
    if heard.course.ends is None:
        lacks.add("ends")
    if len(heard.channels) < 2:
        lacks.add("two_channels")
    if heard.sample_rate_hz < _TREBLE_RATE_HZ:
        lacks.add("treble")
    if heard.bits is None:
        lacks.add("bits")
    if is_coarse(heard.loudest):
        lacks.add("steps")
    lacking = {key: kind.needs for key, kind in KINDS.items() if kind.needs in lacks}
    # syllables differ by more than a compressor takes: only one that lets go slowly shows, in the pauses
    lacking.setdefault("compressed", "slow")
    if heard.mixed:
        lacking |= {key: "one_microphone" for key in KINDS if key not in OF_A_MIX}
    return MappingProxyType(lacking)


def _plain(heard: Heard) -> list[Finding]:
    """Cut tops, too little level, a channel that is dead or shifted."""
    found: list[Finding] = []
    if any(clipped_share(channel) > 0 for channel in heard.channels):
        found += clipped_runs(heard.channels, heard.sample_rate_hz)
    else:
        found += flat_places(heard.channels, heard.sample_rate_hz, true_peak_db=heard.true_peak_dbtp)
        if not found and not heard.mastered:
            found += soft_over(heard.loudest, heard.sample_rate_hz)
    if heard.true_peak_dbtp < _TOO_QUIET_DBFS:
        found.append(Finding("too_quiet", 0.0, heard.seconds, heard.true_peak_dbtp, "dBFS", 0.9))
    for code in ("dead_channel", "dc_offset"):
        if code in heard.codes:
            found.append(Finding(code.removesuffix("_offset"), 0.0, heard.seconds, 1.0, "", 0.9))
    if heard.course.floor_dbfs is not None:
        found += hums(
            heard.channels,
            heard.sample_rate_hz,
            heard.course.floor_dbfs,
            heard.course.pauses,
            heard.block,
            active_dba=heard.course.active_dba,
        )
    return found


def _pops(heard: Heard) -> list[Pop]:
    """A puff reaches both microphones of a pair: told once, as the stronger."""
    pops: list[Pop] = []
    for channel in heard.channels:
        for pop in find_pops(channel, heard.sample_rate_hz, heard.moments):
            near = [other for other in pops if other.start_s < pop.end_s + 0.05 and pop.start_s < other.end_s + 0.05]
            if all(other.jump_db < pop.jump_db for other in near):
                pops = [other for other in pops if other not in near] + [pop]
    return pops


def _pop(pop: Pop) -> Finding:
    sure = float(np.clip(0.5 + (pop.jump_db - 12) / 24, 0.5, 0.95))
    return Finding("pop", pop.start_s, pop.end_s, pop.jump_db, "dB", sure)


def _told_once(under: list[Finding], found: list[Finding], stirs: list[Finding]) -> list[Finding]:
    """Where the gain was turned the room tone steps with it, and where a gate shuts too; a knock is nothing passing."""
    known = {f.kind for f in found}
    turned = bool(known & {"jump", "gate", "auto_gain", "compressed", "click_track"})
    under = [f for f in under if f.kind != "noise" or not any(_near(f, s) for s in stirs)]
    return [f for f in under if not (turned and f.kind in ("seam", "noise"))]


def _met(one: Finding, others: Sequence[Finding], kind: str) -> bool:
    """Whether something of a kind was found at the same place."""
    return any(_near(one, other) for other in others if other.kind == kind)


def _near(one: Finding, other: Finding) -> bool:
    return one.start_s < other.end_s + _NEAR_S and one.end_s > other.start_s - _NEAR_S

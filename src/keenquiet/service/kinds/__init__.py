"""The kinds of readings: one registry that everybody asks."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

from keenquiet.core.errors import InputError
from keenquiet.core.read.quality import Verdict
from keenquiet.service.answers.readings import CurveKept, CurveResult, ReadingHeadline, verdict_answer
from keenquiet.service.kinds.base import ReadingKind, settles_nothing, unchanged
from keenquiet.service.kinds.responses import RESPONSES
from keenquiet.service.kinds.silences import SILENCES
from keenquiet.service.kinds.takes import TAKES
from keenquiet.store.audiofile import Audio


def _no_curve(verdict: Verdict, audio: Audio) -> CurveResult:
    return CurveResult(verdict=verdict_answer(verdict), curve=CurveKept(f_hz=[], level_db=[]))


def _kept(figures: CurveResult, curves: bool) -> CurveResult:
    return figures


def _no_headline(result: CurveResult) -> ReadingHeadline:
    return ReadingHeadline()


_CURVE: Final = ReadingKind(
    "curve", "curve", None, _kept, _no_curve, unchanged, settles_nothing, _no_headline, shown=False, ways=("import",)
)
_SWEEP, _CLAP, _IR = RESPONSES
# in the order in which the page offers them
KINDS: Final[Mapping[str, ReadingKind]] = MappingProxyType(
    {kind.key: kind for kind in (_SWEEP, _CLAP, *SILENCES, *TAKES, _IR, _CURVE)}
)


def kind_named(key: str, *, heard: bool = False) -> ReadingKind:
    """A kind by its key. heard : only those that are recordings. Raises InputError for an unknown one."""
    kind = KINDS.get(key)
    if kind is None or (heard and kind.read is None):
        known = [k.key for k in KINDS.values() if k.read is not None or not heard]
        raise InputError("kind", f"{key!r} is not a kind of reading.", f"Use one of {', '.join(known)}.")
    return kind


def of_form(form: str) -> frozenset[str]:
    """Keys of the kinds of one form."""
    return frozenset(kind.key for kind in KINDS.values() if kind.form == form)


__all__ = ["KINDS", "ReadingKind", "kind_named", "of_form"]

"""A recording read: sound in, a typed result out, whatever its kind."""

import logging
from dataclasses import dataclass

from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.figures import ResponseFigures
from keenquiet.core.read.quality import refused
from keenquiet.documents.convert import scenario_of
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.rig.faults import FAULTS
from keenquiet.rig.recorder import FULL_SCALE_SPL_DB, Recording, RigSettings, record, sing
from keenquiet.rig.singer import Take
from keenquiet.rig.spoils import SPOILS
from keenquiet.service.answers.marks import Empty
from keenquiet.service.answers.readings import Result, with_reason
from keenquiet.service.kinds import kind_named
from keenquiet.service.kinds.base import Figures, ReadOptions, Settled, Where
from keenquiet.store.audiofile import Audio

_log = logging.getLogger("keenquiet")


@dataclass(frozen=True)
class Heard:
    """What was read: the result in the contract's shape, and the figures behind it where it could be read."""

    kind: str
    result: Result
    figures: Figures | None = None

    @property
    def usable(self) -> bool:
        """Whether the figures stand."""
        return self.result.verdict.usable

    @property
    def response(self) -> ResponseFigures | None:
        """The figures of an impulse response, None for other kinds."""
        return self.figures if isinstance(self.figures, ResponseFigures) else None

    def beside(self, room: RoomDoc, arrangement: ArrangementDoc) -> Result:
        """The result set beside the drawing."""
        if self.figures is None:
            return self.result
        return kind_named(self.kind).beside(self.result, self.figures, _where(self.kind, room, arrangement))

    def settled(self, room: RoomDoc, arrangement: ArrangementDoc) -> Settled:
        """The marks that it settles in a room, and the same as predicted for it."""
        if not self.usable or self.figures is None:
            return Settled()
        where = _where(self.kind, room, arrangement)
        if where.trouble is not None:
            kind = kind_named(self.kind)
            return Settled(empty=tuple(_empty(mark, where.trouble) for mark in kind.settles))
        return kind_named(self.kind).settle(self.result, self.figures, where)


def _empty(mark: str, trouble: str) -> Empty:
    return Empty(mark=mark, why=f"The room as drawn cannot be predicted: {trouble}")


def _where(kind: str, room: RoomDoc, arrangement: ArrangementDoc) -> Where:
    return Where(room, arrangement, by_loudspeaker=kind_named(kind).by_loudspeaker)


def analyse(audio: Audio, kind: str, *, curves: bool = False, options: ReadOptions | None = None) -> Heard:
    """Read a recording. One that cannot be read gives a result with a verdict, not an exception; also when reading it
    fails.

    Raises InputError for an unknown kind.
    """
    known = kind_named(kind, heard=True)
    figures: Figures | None
    try:
        figures = known.heard(audio, options or ReadOptions())
        result = known.answer(figures, curves)
    except InputError:
        raise
    except MeasurementError as exc:
        figures, result = None, known.refused(refused(exc), audio)
    except Exception:
        # a failure of ours must not lose somebody's recording: it is kept, and told
        _log.exception("reading a %s of %.1f s failed", kind, audio.seconds)
        figures, result = None, known.refused(refused(MeasurementError("not_a_recording", "unread")), audio)
    if audio.truncated:
        result.verdict = with_reason(result.verdict, "truncated_file", usable=result.verdict.usable)
    return Heard(kind, result, figures)


def rig_recording(
    room: RoomDoc,
    arrangement: ArrangementDoc,
    kind: str,
    *,
    seed: int,
    gain_db: float = 0.0,
    faults: tuple[str, ...] = (),
    seconds: float | None = None,
) -> Recording:
    """What the practice rig's recorder gets in this room with this arrangement, with the faults it is told to make.

    seconds : of a silence, None the usual.
    """
    kind_named(kind, heard=True)
    if unknown := [fault for fault in faults if fault not in FAULTS]:
        raise InputError("faults", f"{unknown[0]!r} is no fault the rig can make.", f"Use one of {', '.join(FAULTS)}.")
    scenario = scenario_of(room, arrangement)
    settings = RigSettings(seed=seed, gain_db=gain_db, hour=scenario.hour, faults=faults, silence_s=seconds)
    return record(scenario.described, scenario.arrangement, kind, settings)


def rig_take(
    room: RoomDoc, arrangement: ArrangementDoc, *, seed: int, gain_db: float = 0.0, fault: str | None = None
) -> Take:
    """What the simulated performer sings in this room with this arrangement, with a fault or none, and its truth.

    Raises InputError for a fault that cannot be sung.
    """
    if fault is not None and fault not in SPOILS:
        raise InputError("fault", f"{fault!r} cannot be sung.", f"Use one of {', '.join(SPOILS)}.")
    scenario = scenario_of(room, arrangement)
    settings = RigSettings(seed=seed, gain_db=gain_db, hour=scenario.hour)
    return sing(scenario.described, scenario.arrangement, settings, fault=fault)


def calibration_of_rig(gain_db: float) -> float:
    """Level that 0 dBFS corresponds to on the rig: known, since it is simulated. [dB re 20 uPa]"""
    return FULL_SCALE_SPL_DB - gain_db

"""Calibrations: what sound pressure full scale means for one chain (device, channel, gain), each with its
uncertainty.
"""

from pathlib import Path
from typing import Final

from sqlalchemy import select

from keenquiet.core.errors import InputError
from keenquiet.core.read.tone import calibration_from
from keenquiet.service.answers.calibrations import CalibrationAnswer
from keenquiet.service.data import Data, Json, new_id, now
from keenquiet.store.apart import decode_apart
from keenquiet.store.errors import NotFound
from keenquiet.store.models import Calibration

# Standard uncertainty of each way. Calibrator: IEC 60942 class 2 allows 0.4 dB, its fit on the microphone as much
# again. Meter: IEC
# 61672-1 class 2, 1.4 dB at 1 kHz, and two places that are not one. Voice: one person's effort differs by 5 dB from the
# next (ISO 9921).
METHODS: Final = {"calibrator": 0.6, "meter": 2.0, "voice": 6.0}
_PLAUSIBLE_DB: Final = (60.0, 180.0)


def chain_of(settings: Json) -> tuple[str, str, str] | None:
    """Device, channel and gain of a reading, or None where the device or the gain is not known."""
    device, gain = str(settings.get("device") or "").strip(), str(settings.get("gain") or "").strip()
    return (device[:200], str(settings.get("channel") or "1")[:40], gain[:80]) if device and gain else None


def for_chain(data: Data, settings: Json) -> Json:
    """What a reading's settings gain from the newest calibration of its chain; nothing where there is none."""
    chain = chain_of(settings)
    if chain is None:
        return {}
    with data.database.session() as session:
        row = session.scalars(
            select(Calibration)
            .where(
                Calibration.deleted_at.is_(None),
                Calibration.device == chain[0],
                Calibration.channel == chain[1],
                Calibration.gain == chain[2],
            )
            .order_by(Calibration.sequence.desc())
        ).first()
    if row is None:
        return {}
    return {
        "calibration_db": row.full_scale_db,
        "calibration_plus_minus_db": row.plus_minus_db,
        "calibration_method": row.method,
    }


def listed(data: Data) -> list[CalibrationAnswer]:
    """All calibrations that stand, newest first."""
    with data.database.session() as session:
        rows = session.scalars(
            select(Calibration).where(Calibration.deleted_at.is_(None)).order_by(Calibration.sequence.desc())
        ).all()
    return [public(row) for row in rows]


def kept(
    data: Data, chain: tuple[str, str, str], *, method: str, full_scale_db: float, note: str = ""
) -> CalibrationAnswer:
    """Keep a calibration. Raises InputError when the level is none that a microphone could have."""
    if method not in METHODS:
        raise InputError("method", f"{method!r} is no way to calibrate.", f"Use one of {', '.join(METHODS)}.")
    if not _PLAUSIBLE_DB[0] <= full_scale_db <= _PLAUSIBLE_DB[1]:
        raise InputError(
            "level_db",
            f"full scale would be {full_scale_db:.0f} dB, which no microphone has.",
            "Check the level, the recording, and that both belong together.",
        )
    row = Calibration(
        id=new_id(),
        device=chain[0],
        channel=chain[1],
        gain=chain[2],
        method=method,
        full_scale_db=round(full_scale_db, 2),
        plus_minus_db=METHODS[method],
        taken_at=now(),
        note=note[:500],
    )
    with data.database.session() as session:
        session.add(row)
    return public(row)


def from_calibrator(content: bytes | Path, file_name: str, level_db: float) -> float:
    """Level of full scale from a recording of a calibrator. Raises InputError when it is not one steady tone. [dB re 20
    uPa]
    """
    audio = decode_apart(content, file_name)
    loudest = max(audio.channels, key=lambda channel: float(channel.std()))
    full_scale, steady = calibration_from(loudest, audio.sample_rate_hz, level_db=level_db)
    if not steady:
        raise InputError(
            "file",
            f"{file_name} is not one steady tone of a second or more.",
            "Seat the calibrator firmly, wait a second, record ten.",
        )
    return full_scale


def removed(data: Data, calibration_id: str) -> CalibrationAnswer:
    """Put a calibration aside; readings that used it keep their figures."""
    with data.database.session() as session:
        row = session.get(Calibration, calibration_id)
        if row is None or row.deleted_at is not None:
            raise NotFound("There is no such calibration here.")
        row.deleted_at = now()
        return public(row)


def public(row: Calibration) -> CalibrationAnswer:
    """A calibration as an answer."""
    names = [name for name in CalibrationAnswer.model_fields if name not in ("taken_at", "reread")]
    return CalibrationAnswer(taken_at=row.taken_at.isoformat(), **{name: getattr(row, name) for name in names})

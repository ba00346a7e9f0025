"""Calibrations as answers."""

from keenquiet.service.answers.numbers import Answer


class CalibrationAnswer(Answer):
    """full_scale_db : sound pressure level of a signal whose RMS is 1. reread : silences read anew with it."""

    id: str
    device: str
    channel: str
    gain: str
    method: str
    full_scale_db: float
    plus_minus_db: float
    taken_at: str
    note: str
    reread: int | None = None

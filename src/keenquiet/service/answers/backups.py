"""Backups of the data folder and what came of putting one back."""

from datetime import datetime

from keenquiet.service.answers.numbers import Answer


class BackupAnswer(Answer):
    """One of the newest backups. rooms, readings : in it, None where it cannot be read."""

    name: str
    made_at: datetime
    bytes: int
    rooms: int | None = None
    readings: int | None = None


class RestoreAnswer(Answer):
    """What was put back. former_kept_as : the database that stood before, beside the new one. missing : readings whose
    sound is not in the folder.
    """

    backup: str
    former_kept_as: str | None
    rooms: int
    readings: int
    missing: list[str]

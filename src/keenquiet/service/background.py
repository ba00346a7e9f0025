"""What takes long, as jobs: each with the key by which it is found again while nothing it rests on has changed."""

import hashlib
from collections.abc import Sequence

from sqlalchemy import func, select

from keenquiet.service import readings, settle
from keenquiet.service.answers.readings import ReadingAnswer
from keenquiet.service.answers.settled import FitAnswer, PlacesAnswer
from keenquiet.service.data import Data, new_id, room_row
from keenquiet.service.jobs import LEASE_S, Job, Report, job, started
from keenquiet.store.models import LedgerEntry, Room


def fit(data: Data, room_id: str) -> Job[FitAnswer]:
    """A fit to the readings of a room as it stands."""
    with data.database.session() as session:
        revision = room_row(session, room_id).revision
        told = session.scalar(select(func.max(LedgerEntry.id)).where(LedgerEntry.room_id == room_id))
    key = f"fit-{data.folder}-{room_id}-{revision}-{told}"
    return started(
        key, "Fitting the room to its readings", lambda report: settle.fit_room(data, room_id, report=report)
    )


def places(data: Data, project: str | None) -> Job[PlacesAnswer]:
    """All rooms of a project weighed."""
    with data.database.session() as session:
        standing = session.execute(select(Room.id, Room.revision).where(Room.deleted_at.is_(None))).all()
        told = session.scalar(select(func.max(LedgerEntry.id)))
    key = f"places-{data.folder}-{_digest(str(sorted(map(tuple, standing))), str(told), repr(project))}"
    return started(
        key,
        "Weighing the places",
        lambda report: settle.compare_places(data, project=project, report=report),
        lease_s=LEASE_S,
    )


def rig_reading(
    data: Data,
    room_id: str,
    *,
    kind: str,
    arrangement_id: str | None,
    gain_db: float,
    seed: int | None,
    faults: Sequence[str],
    silenced: Sequence[str] = (),
    seconds: float | None = None,
) -> Job[ReadingAnswer]:
    """A reading by the practice rig; each is a new one."""

    def take(report: Report) -> ReadingAnswer:
        report(0.1)  # told to stop before it began: nothing is filed
        return readings.from_rig(
            data,
            room_id,
            kind=kind,
            arrangement_id=arrangement_id,
            gain_db=gain_db,
            seed=seed,
            faults=tuple(faults),
            silenced=tuple(silenced),
            seconds=seconds,
        )

    return started(f"rig-{new_id()}", "The rig is recording", take)


def ended(job_id: str) -> object | None:
    """The result of a job that is done, None of any other."""
    found = job(job_id)
    return found.result if found is not None and found.state == "done" else None


def _digest(*parts: str) -> str:
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:20]

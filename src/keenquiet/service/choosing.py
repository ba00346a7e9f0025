"""Which of two takes is better, as their singer says: openly, or after a blind test with its count. Nothing is deleted;
what was said last of two takes stands.
"""

from sqlalchemy import select

from keenquiet.core.errors import InputError
from keenquiet.service.answers.takes import BetterAnswer, BlindCount
from keenquiet.service.data import Data, note_in_ledger, room_row
from keenquiet.service.takes import take_name, take_row
from keenquiet.store.models import LedgerEntry

_KIND = "better"


def better(data: Data, better_id: str, than_id: str, blind: BlindCount | None = None) -> BetterAnswer:
    """Keep which of two takes is better. blind : how a test of both went, None where names were seen.

    Raises InputError for takes of two rooms, or one with itself.
    """
    one, other = take_row(data, better_id), take_row(data, than_id)
    if one.id == other.id or one.room_id != other.room_id:
        raise InputError("than_id", "is not another take of this room.", "Choose two takes of one room.")
    said = BetterAnswer(better_id=one.id, than_id=other.id, blind=blind)
    how = "" if blind is None else f", after a blind test: {blind.right} of {blind.trials} told apart"
    title = f"{take_name(data, one)} is better than {take_name(data, other)}{how}"
    with data.database.session() as session:
        note_in_ledger(session, one.room_id, _KIND, title, said.model_dump(), reading_id=one.id)
    return said


def preferences(data: Data, room_id: str) -> list[BetterAnswer]:
    """What was said of pairs of takes of a room, the newest of each pair, newest first."""
    with data.database.session() as session:
        room_row(session, room_id)
        rows = session.scalars(
            select(LedgerEntry.detail)
            .where(LedgerEntry.room_id == room_id, LedgerEntry.kind == _KIND)
            .order_by(LedgerEntry.id.desc())
        ).all()
    newest: dict[frozenset[str], BetterAnswer] = {}
    for detail in rows:
        said = BetterAnswer.model_validate(detail)
        newest.setdefault(frozenset((said.better_id, said.than_id)), said)
    return list(newest.values())

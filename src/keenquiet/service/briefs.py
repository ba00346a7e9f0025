"""What a reading says without its plots, kept beside it: a list of thousands opens none of their results."""

import logging
from collections.abc import Collection
from datetime import datetime
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, raiseload

from keenquiet.core.errors import InputError
from keenquiet.service.answers.numbers import plain
from keenquiet.service.answers.readings import (
    CurveResult,
    GlideResult,
    ReadingBrief,
    ResponseResult,
    Result,
    TakeResult,
    ToneResult,
)
from keenquiet.service.answers.sketch import sketch
from keenquiet.service.data import Data, Json, room_row
from keenquiet.service.kinds import kind_named
from keenquiet.store.models import Reading

_log = logging.getLogger("keenquiet")
BRIEF_VERSION: Final = 1  # of what a brief holds: another one is made anew
MOST_LISTED: Final = 200
_FORMS: Final = {
    "response": ResponseResult,
    "tone": ToneResult,
    "glide": GlideResult,
    "take": TakeResult,
    "curve": CurveResult,
}
# what reading a row that is damaged can raise
DAMAGED: Final = (KeyError, TypeError, ValueError, AttributeError, IndexError, InputError)


def form_of(form: str) -> Any:
    """The model of a form's results."""
    return _FORMS[form]


def result_of(row: Reading) -> Result:
    """The typed result that a reading holds; older rows do not say their form."""
    form = kind_named(row.kind).form
    found: Result = form_of(form).model_validate({**row.result, "form": form})
    return found


def brief_of(kind: str, result: Result) -> Json:
    """What a reading's result says in brief, as it is kept."""
    headline = kind_named(kind).headline(result).model_copy(update={"sketch": sketch(result)})
    findings = result.findings if isinstance(result, TakeResult) else []
    brief = ReadingBrief(
        verdict=result.verdict,
        headline=headline,
        t_mid_s=result.t_mid_s if isinstance(result, ResponseResult) else None,
        laeq_db=result.laeq_db if isinstance(result, ToneResult) else None,
        active_dba=result.active_dba if isinstance(result, TakeResult) else None,
        pops_db=[found.value for found in findings if found.kind == "pop"],
    )
    return plain(brief)


def with_briefs(session: Session, room_id: str) -> None:
    """Make those of a room's readings that have none yet: of a former version, or from a bundle."""
    lacking = select(Reading.id).where(Reading.room_id == room_id, Reading.brief_version != BRIEF_VERSION)
    for row_id in session.scalars(lacking).all():
        try:
            row = session.get_one(Reading, row_id)
            row.brief, row.brief_version = brief_of(row.kind, result_of(row)), BRIEF_VERSION
            session.flush()
            session.expunge(row)
        except (*DAMAGED, ValidationError) as exc:  # one that cannot be read settles nothing, and closes no list
            _log.warning("reading %s has nothing to say: it is damaged (%r)", row_id, exc)


def reading_rows(
    data: Data,
    room_id: str,
    *,
    binned: bool = False,
    before: int | None = None,
    most: int | None = None,
    within: tuple[datetime, datetime] | None = None,
    kinds: Collection[str] | None = None,
) -> list[Reading]:
    """Readings of a room without their results, newest first. before : those of a lower sequence; most : of them;
    within : taken from one time to another; kinds : only these.
    """
    chosen = Reading.deleted_at.is_not(None) if binned else Reading.deleted_at.is_(None)
    rows = select(Reading).options(raiseload(Reading.told))
    rows = rows.where(Reading.room_id == room_id, chosen).order_by(Reading.sequence.desc()).limit(most)
    if before is not None:
        rows = rows.where(Reading.sequence < before)
    if within is not None:
        rows = rows.where(Reading.taken_at.between(*within))
    if kinds is not None:
        rows = rows.where(Reading.kind.in_(kinds))
    with data.database.session() as session:
        room_row(session, room_id)
        with_briefs(session, room_id)
        return list(session.scalars(rows))

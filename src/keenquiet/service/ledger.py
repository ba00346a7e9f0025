"""Moves carried out and proved, and the ledger that keeps everything dated."""

from collections.abc import Mapping, Sequence
from typing import Any, Final

import numpy as np
from sqlalchemy import select

from keenquiet.advice.proof import proof_words
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Figure, Forecast
from keenquiet.core.judge.moves import changes
from keenquiet.core.judge.proof import READ_BY, REPEATS, best_reading, proof
from keenquiet.documents.convert import read_arrangement, read_room
from keenquiet.documents.edits import edits_of, folded
from keenquiet.documents.scene import MATTERS, Difference, differences
from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.marks import MARKS, Headline, MeasuredMark, headlines, marks_of, wanted_of
from keenquiet.service.answers.numbers import plain
from keenquiet.service.answers.rooms import RoomAnswer
from keenquiet.service.answers.settled import LedgerAnswer, ProofRow
from keenquiet.service.candidates import with_somebody
from keenquiet.service.data import Data, new_id, note_in_ledger, now, room_row
from keenquiet.service.known import forecast_as_read
from keenquiet.service.rooms import checked_room, room_answer, save_in
from keenquiet.service.standing import Kept, figure_of, kept_readings, measured_now, since_words
from keenquiet.store.errors import RevisionConflict
from keenquiet.store.models import DoneMove, LedgerEntry

TRYING: Final = "what-if"


def mark_done(
    data: Data, room_id: str, *, revision: int, kind: str, title: str, edits: list[dict[str, Any]] | None = None
) -> RoomAnswer:
    """The arrangement being tried becomes the standing one; the move is kept with what was predicted for it.

    One transaction: room, move and ledger change together or not at all. Raises RevisionConflict when another version
    stands by now, InputError when nothing is being tried.
    """
    with data.database.session() as session:
        row = room_row(session, room_id)
        document, stands = row.document, row.revision
    if stands != revision:
        raise RevisionConflict(stands)
    room = with_somebody(read_room(document))
    before = room.arrangement_doc(None)
    tried = next((arrangement for arrangement in room.arrangements if arrangement.id == TRYING), None)
    if tried is None or before.id == TRYING:
        raise InputError("arrangements", "no move is being tried.", "Try a move first, then mark it done.")
    results = {name: forecast_as_read(data, room_id, room, a.id) for name, a in (("before", before), ("after", tried))}
    promised = {
        name: {mark: plain(figure) for mark, figure in headlines(marks_of(result, wanted_of(room), known)).items()}
        for name, (result, known) in results.items()
    }
    effects = _effects(results["before"][0], results["after"][0])
    carried = edits_of(edits or (tried.trying.edits if tried.trying else []))
    measured = {mark: plain(found) for mark, found in measured_now(data, room_id, room, before).by_mark().items()}
    standing = tried.model_copy(update={"id": before.id, "name": before.name or "As it is", "trying": None})
    done, standing = folded(room, standing)
    others = [a for a in done.arrangements if a.id not in (before.id, TRYING)]
    done = checked_room(done.model_copy(update={"arrangements": [standing, *others]}).model_dump(exclude_none=True))
    with data.database.session() as session:
        saved = save_in(session, room_id, done, revision=revision, label=title[:200])
        move = DoneMove(
            id=new_id(),
            room_id=room_id,
            kind=kind[:24],
            title=title[:300],
            done_at=now(),
            before={"marks": promised["before"]},
            after={"marks": promised["after"], "effects": effects},
            arrangement=standing.model_dump(mode="json", exclude_none=True),
            measured_before=measured,
            edits=carried,
        )
        session.add(move)
        session.flush()
        note_in_ledger(session, room_id, "move", title[:300], {"edits": carried}, move_id=move.id)
        return room_answer(saved)


def _effects(before: Forecast, after: Forecast) -> dict[str, dict[str, float]]:
    """What was promised to change, with the uncertainty of the change."""
    alike = before.room.overlays == after.room.overlays and before.arrangement.placed == after.arrangement.placed
    found = changes(before, after, noise_only=alike and before.room.furnishings == after.room.furnishings)
    return {mark: {"change": figure.value, "plus_minus": figure.plus_minus} for mark, figure in found.items()}


def ledger(data: Data, room_id: str) -> list[LedgerAnswer]:
    """Everything that happened in a room, newest first; moves carry their proof as far as readings give one."""
    with data.database.session() as session:
        document = room_row(session, room_id).document
        entries = session.scalars(
            select(LedgerEntry).where(LedgerEntry.room_id == room_id).order_by(LedgerEntry.id.desc())
        ).all()
        moves = session.scalars(select(DoneMove).where(DoneMove.room_id == room_id).order_by(DoneMove.sequence)).all()
    readings = sorted(
        (row for row in kept_readings(data, room_id) if row.counts and row.usable), key=lambda r: r.sequence
    )
    proofs = {move.id: _proof_if_whole(moves, number, readings) for number, move in enumerate(moves)}
    by_id = {move.id: move for move in moves}
    room = with_somebody(read_room(document))
    standing = measured_now(data, room_id, room, room.arrangement_doc(None)).by_mark()
    return [
        LedgerAnswer(
            id=entry.id,
            at=entry.at.isoformat(),
            kind=entry.kind,
            title=entry.title,
            detail=_detail(entry, standing),
            reading_id=entry.reading_id,
            move_id=entry.move_id,
            proof=proofs.get(entry.move_id) if entry.move_id is not None else None,
            prove_with=_prove_with(by_id.get(entry.move_id or ""), proofs.get(entry.move_id or "")),
        )
        for entry in entries
    ]


def _prove_with(move: DoneMove | None, rows: list[ProofRow] | None) -> str | None:
    """The kind of reading that would show a move best, while none has settled the mark that it shows in."""
    if move is None or rows is None:
        return None
    kind = best_reading(_promised_changes(move))
    settled = {READ_BY[row.mark] for row in rows if row.mark in READ_BY and row.measured is not None}
    return None if kind in settled else kind


def _promised_changes(move: DoneMove) -> dict[str, Figure]:
    kept = move.after.get("effects")
    if not isinstance(kept, dict):
        return {}
    return {mark: Figure(float(one["change"]), float(one["plus_minus"])) for mark, one in kept.items()}


def _change(together: Sequence[DoneMove], row: ProofRow, *, alike: bool) -> dict[str, Any]:
    """The change promised and measured, and what the one says of the other. together : moves that share the reading;
    alike : both readings real, or both the rig's.
    """
    promises = [one for move in together if (one := _promised_changes(move).get(row.mark)) is not None]
    if len(promises) < len(together) or row.mark not in REPEATS:
        return {}
    promised = Figure(sum(one.value for one in promises), float(np.sqrt(sum(one.plus_minus**2 for one in promises))))
    found: dict[str, Any] = {"change_predicted": promised.value, "change_plus_minus": promised.plus_minus}
    if row.measured is not None and row.measured_before is not None and alike:
        measured = row.measured - row.measured_before
        outcome = proof(row.mark, promised, measured)
        found |= {"change_measured": measured, "outcome": outcome, "words": proof_words(outcome, len(together))}
    return found


def _detail(entry: LedgerEntry, standing: Mapping[str, MeasuredMark]) -> dict[str, Any]:
    """What an entry tells: the figures that its reading gave, and for a mark that stands on it, what is shown
    everywhere else.
    """
    measured = entry.detail.get("measured")
    if not isinstance(measured, dict):
        return entry.detail
    figures = {mark: plain(figure_of(figure)) for mark, figure in measured.items()}
    for mark, found in standing.items():
        if entry.reading_id in (found.reading_id, found.beside_id):
            figures[mark] = plain(found)
    return {**entry.detail, "measured": figures}


def _proof_if_whole(moves: Sequence[DoneMove], number: int, readings: list[Kept]) -> list[ProofRow]:
    """A move that cannot be read any more has no proof; the rest of the ledger stands."""
    try:
        return [row for mark in MARKS if (row := _proof(moves, number, readings, mark)) is not None]
    except (KeyError, TypeError, ValueError, AttributeError, InputError):
        return []


def _proof(moves: Sequence[DoneMove], number: int, readings: list[Kept], mark: str) -> ProofRow | None:
    """Of one mark: predicted after and measured after, side by side, and both changes where a former reading allows.

    Moves between which nothing settled the mark share its proof: nobody knows which of them did it. None where nothing
    was promised.
    """
    settling = [row for row in readings if mark in row.measured]

    def read_between(after: DoneMove, before: DoneMove | None) -> list[Kept]:
        return [
            row
            for row in settling
            if row.sequence > after.sequence and (before is None or row.sequence < before.sequence)
        ]

    first = last = number
    while first > 0 and not read_between(moves[first - 1], moves[first]):
        first -= 1
    while last + 1 < len(moves) and not read_between(moves[last], moves[last + 1]):
        last += 1
    together = moves[first : last + 1]
    later = read_between(moves[last], moves[last + 1] if last + 1 < len(moves) else None)
    found = next((row for row in later if not row.simulated), later[0] if later else None)
    (after, _), (_, before) = _promised(moves[last], mark), _promised(moves[first], mark)
    if after.value is None:
        return None
    former = moves[first].measured_before.get(mark)
    row = ProofRow(
        mark=mark,
        predicted_before=before.value,
        predicted=after.value,
        plus_minus=after.plus_minus or 0.0,
        measured=None,
        measured_plus_minus=None,
        measured_before=figure_of(former).value if former and former.get("current", True) else None,
        simulated=None,
        reading_id=None,
        within=None,
        shared_with=[move.title for move in together if move is not moves[number]],
    )
    if found is not None:
        figure = figure_of(found.measured[mark])
        spread = 2 * ((after.plus_minus or 0.0) ** 2 + figure.plus_minus**2) ** 0.5
        row = row.model_copy(
            update={
                "measured": figure.value,
                "measured_plus_minus": figure.plus_minus,
                "simulated": found.simulated,
                "reading_id": found.id,
                "within": abs(figure.value - after.value) <= spread,
                "since": since_words(_besides(found, read_arrangement(moves[last].arrangement), mark)),
            }
        )
    alike = former is None or found is None or bool(former.get("simulated")) == found.simulated
    return row.model_copy(update=_change(together, row, alike=alike))


def _promised(move: DoneMove, mark: str) -> tuple[Headline, Headline]:
    """What was predicted after and before, for the performer."""
    none: dict[str, Any] = {"value": None, "plus_minus": None}
    after, before = (side["marks"].get(mark, none) for side in (move.after, move.before))
    return Headline.model_validate(after), Headline.model_validate(before)


def _besides(row: Kept, arranged: ArrangementDoc, mark: str) -> tuple[Difference, ...]:
    """What else differed from what the move was promised for when it was read."""
    if row.scene is None:
        return ()
    promised = row.scene.model_copy(update={"arrangement": arranged})
    return tuple(found for found in differences(promised, row.scene) if found.part in MATTERS[mark])

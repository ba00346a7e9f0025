"""Commands that compute from a room's document."""

import json
from pathlib import Path
from typing import Any

from keenquiet.cli.files import keep, room_at, say
from keenquiet.core.errors import InputError
from keenquiet.service import settle, shapes
from keenquiet.service.answers.readings import ResponseResult
from keenquiet.service.case import Case
from keenquiet.service.questions import QUESTIONS
from keenquiet.service.questions.base import ArrangementAsk
from keenquiet.service.questions.schools import SCHOOLS, SchoolsAsk


def asked(question: str, room: Path, as_json: bool, *, arrangement: str | None = None, **given: Any) -> None:
    """A question of the table. given : what is asked besides, None as if it were left out."""
    say(QUESTIONS[question].at(room_at(room), arrangement, **given), as_json)


def printed(
    question: str, room: Path, as_json: bool, *, out: Path | None, arrangement: str | None, kinds: str = ".pdf"
) -> None:
    """A question of the table whose answer may be kept as a file, too. kinds : of file, in words."""
    case, given = Case(room_at(room), arrangement), ArrangementAsk.of()
    found = QUESTIONS[question]
    if out is not None:
        file = found.files.get(out.suffix.lower().lstrip("."))
        if file is None:
            raise InputError("out", f"{out.name} is no {kinds}.", f"Name it NAME{kinds}.")
        made = file.made(case, given)
        keep(out, made.encode() if isinstance(made, str) else made)
    say(found.compute(case, given), as_json)


def drawn(room: Path, as_json: bool, *, out: Path, view: str, arrangement: str | None) -> None:
    """`draw`."""
    text, _ = shapes.drawing(room_at(room), arrangement, view=view, kind=out.suffix.lstrip(".").lower())
    keep(out, text.encode())
    say({"out": str(out), "bytes": len(text.encode())}, as_json)


def fitted(
    room: Path, readings: list[Path], as_json: bool, *, kind: str, out: Path | None, arrangement: str | None
) -> None:
    """`fit`."""
    from keenquiet.cli.reading import usable_results

    document = room_at(room)
    results = [h.result for h in usable_results(readings, kind) if isinstance(h.result, ResponseResult)]
    found = settle.fit_to(document, document.arrangement_doc(arrangement), results)
    if out is not None:
        kept = document.model_copy(update={"fit": found.fit}).model_dump(mode="json", exclude_none=True)
        keep(out, json.dumps(kept, ensure_ascii=False, indent=2).encode())
    say(found, as_json)


def placed(paths: list[Path], as_json: bool) -> None:
    """`places`."""
    listed = []
    for number, path in enumerate(paths):
        document = room_at(path)
        if not document.arrangements:
            raise InputError("arrangements", f"{path.name} has none.", "Place a performer and a microphone.")
        listed += [settle.Place(f"{number}:{a.id}", document, a.id) for a in document.arrangements]
    say(settle.compare_documents(listed), as_json)


def reached(room: Path, as_json: bool, *, arrangement: str | None, second: str | None) -> None:
    """`reach`."""
    at = None
    if second is not None:
        try:
            x, y, z = (float(part) for part in second.split(","))
        except ValueError as exc:
            raise InputError("second", f"{second!r} is no place.", "Give X,Y,Z in metres, e.g. 1.2,0.9,1.0.") from exc
        at = (x, y, z)
    asked("reach", room, as_json, arrangement=arrangement, second=at)


def schooled(room: Path, as_json: bool, *, arrangement: str | None, beside: list[Path], treatment: bool) -> None:
    """`schools`."""
    case = Case(room_at(room), arrangement, others=[room_at(path) for path in beside])
    say(SCHOOLS.compute(case, SchoolsAsk.of(about="treatment" if treatment else None)), as_json)

"""Commands that compute from a room's document."""

import json
from pathlib import Path
from typing import Any

from keenquiet.cli.files import keep, room_at, say
from keenquiet.core.errors import InputError
from keenquiet.service import marks_sheet, placing, reaching, screening, settle, shapes
from keenquiet.service.answers.forecast import forecast_answer
from keenquiet.service.answers.readings import ResponseResult
from keenquiet.service.planning import plan_for
from keenquiet.service.predict import predict


def predicted(room: Path, as_json: bool, *, arrangement: str | None, to_hz: float) -> None:
    """`predict`."""
    document = room_at(room)
    say(forecast_answer(predict(document, arrangement), document, to_hz=to_hz), as_json)


def planned(
    room: Path, as_json: bool, *, arrangement: str | None, budget: float | None, only: str | None, **rules: Any
) -> None:
    """`plan`. rules : as `service.planning.plan_for` takes them."""
    say(plan_for(room_at(room), arrangement, budget=budget, only=only, **rules), as_json)


def squared(room: Path, as_json: bool) -> None:
    """`square`."""
    say(shapes.squared_answer(room_at(room)), as_json)


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


def far(room: Path, as_json: bool, *, arrangement: str | None, role: str, screen: str) -> None:
    """`distance`."""
    say(placing.distance_answer(room_at(room), arrangement, role=role, screen=screen), as_json)


def mapped(
    room: Path, as_json: bool, *, arrangement: str | None, mark: str, height_m: float | None, step_m: float
) -> None:
    """`map`."""
    say(placing.map_answer(room_at(room), arrangement, mark=mark, height_m=height_m, step_m=step_m), as_json)


def listened(room: Path, as_json: bool, *, arrangement: str | None, search: bool, free: bool) -> None:
    """`listening`."""
    say(placing.listening_answer(room_at(room), arrangement, search=search, free=free), as_json)


def reached(room: Path, as_json: bool, *, arrangement: str | None, second: str | None) -> None:
    """`reach`."""
    at = None
    if second is not None:
        try:
            x, y, z = (float(part) for part in second.split(","))
        except ValueError as exc:
            raise InputError("second", f"{second!r} is no place.", "Give X,Y,Z in metres, e.g. 1.2,0.9,1.0.") from exc
        at = (x, y, z)
    say(reaching.reach_answer(room_at(room), arrangement, second=at), as_json)


def aimed(room: Path, as_json: bool, *, arrangement: str | None) -> None:
    """`aim`."""
    say(placing.aim_answer(room_at(room), arrangement), as_json)


def marked(room: Path, as_json: bool, *, out: Path | None, arrangement: str | None) -> None:
    """`marks`."""
    document = room_at(room)
    if out is not None:
        keep(out, marks_sheet.sheet_pdf(document, arrangement))
    say(marks_sheet.sheet_answer(document, arrangement), as_json)


def schooled(room: Path, as_json: bool, *, arrangement: str | None, beside: list[Path], treatment: bool) -> None:
    """`schools`."""
    document = room_at(room)
    if treatment:
        say(placing.treat_schools_answer(document, arrangement), as_json)
        return
    others = [room_at(path) for path in beside]
    say(placing.schools_answer(document, arrangement, others=others), as_json)


def screened(room: Path, as_json: bool, *, arrangement: str | None) -> None:
    """`screens`."""
    say(screening.screens_answer(room_at(room), arrangement), as_json)

"""Advice and plans for the odd rooms, to be read aloud: `python -m bench.odd_rooms > docs/decisions/odd-rooms.md`."""

from concurrent.futures import ProcessPoolExecutor
from typing import Final

from tests.core.odd_rooms import PLACES, Place

from keenquiet.documents.schema import RoomDoc
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk
from keenquiet.service.questions.moves import moves
from keenquiet.service.questions.plan import PlanAsk, plan

_BUDGETS: Final = (0.0, 50.0, 300.0)


def _told(place: Place) -> str:
    document = RoomDoc.model_validate(place.document)
    lines = [
        f"## {place.name}",
        f"*{document.brief.purpose}, {document.arrangements[0].performer.source}.* {place.why}",
        "",
    ]
    found = moves(Case(document), ArrangementAsk(document=place.document))
    lines += ["Next moves: " + ("; ".join(f"{move.title}" for move in found.moves) or "none") + "."]
    lines += [f"- {text}" for text in found.short]
    for budget in _BUDGETS:
        asked = plan(Case(document), PlanAsk(document=place.document, budget=budget))
        told = "; ".join(f"{one.title}{f' (€{one.cost:.0f})' if one.cost else ''}" for one in asked.moves) or "nothing"
        marks = ", ".join(
            f"{name} {before.value:.{digits}f} to {after.value:.{digits}f} {unit}"
            for name, digits, unit in (("bounce", 1, "dB"), ("boom", 2, "s"), ("hush", 0, "dB"))
            if (before := getattr(asked.before, name).predicted) and (after := getattr(asked.after, name).predicted)
        )
        lines += [f"- **€{budget:.0f}** ({marks}): {told}."]
        lines += [f"  - {text}" for text in asked.short]
    return "\n".join(lines) + "\n"


def main() -> None:
    """Print the page."""
    print("# Twenty-six odd rooms\n")
    print("Made by `python -m bench.odd_rooms` from `tests/core/odd_rooms.py`: what is offered next, and the plans at")
    print("0, 50 and 300. Marks are predicted before and after.\n")
    with ProcessPoolExecutor(2) as pool:
        for text in pool.map(_told, PLACES):
            print(text, flush=True)


if __name__ == "__main__":
    main()

"""Which moves can be done together, and noise moves that are: two that are small alone may win much at once."""

from collections.abc import Iterator
from itertools import combinations
from typing import Final

from keenquiet.core.edits import Hang, Place, PutScreen, SealWay, SetHour, SetState, Switch, TakeDown
from keenquiet.core.judge.candidate import Candidate

MOST_TOGETHER: Final = 4  # noise moves at once
_MOST_ALONE: Final = 6  # of which sets are made: 41 of two to four
_LIVELIER: Final = ("take-down", "undrape", "open-door")
SOFTER: Final = ("soft-behind", "reflection", "trap", "wardrobe")
_ONE_OF: Final = ("duvet", "mattress", "rug", "clothes-rail")


def contradict(one: Candidate, other: Candidate) -> bool:
    """Two that put the same person in two places, or let the room answer and swallow it."""

    def says(candidate: Candidate) -> set[str]:
        said = set()
        if any(isinstance(edit, Place) and edit.who == "performer" for edit in candidate.edits):
            said.add("stand")
        if candidate.kind in _LIVELIER:
            said.add("livelier")
        if candidate.kind in SOFTER:
            said.add("softer")
        return said

    first, second = says(one), says(other)
    return (
        "stand" in first & second
        or ("livelier" in first and "softer" in second)
        or ("softer" in first and "livelier" in second)
    )


def go_together(one: Candidate, other: Candidate) -> bool:
    """Whether two can both be done: not the same thing twice, not in each other's place."""
    if contradict(one, other) or contradict(other, one):
        return False
    first, second = _takes(one), _takes(other)
    if first & second:
        return False
    hung = [[edit.overlay for edit in each.edits if isinstance(edit, Hang)] for each in (one, other)]
    return not any(
        a.face == b.face
        and min(a.rect[1], b.rect[1]) > max(a.rect[0], b.rect[0])
        and min(a.rect[3], b.rect[3]) > max(a.rect[2], b.rect[2])
        for a in hung[0]
        for b in hung[1]
    )


def _takes(candidate: Candidate) -> set[str]:
    """What there is only one of."""
    taken = set()
    for edit in candidate.edits:
        if isinstance(edit, Place):
            taken.add(edit.who)
        elif isinstance(edit, SetHour):
            taken.add("hour")
        elif isinstance(edit, Switch):
            taken.add(f"switch {edit.noise}")
        elif isinstance(edit, SealWay):
            taken.add(f"seal {edit.way}")
        elif isinstance(edit, SetState):
            taken.add(edit.what)
        elif isinstance(edit, TakeDown):
            taken.add("list")  # numbers of what hangs shift
        elif isinstance(edit, PutScreen):
            taken.add(f"behind the {candidate.facts['behind']}")
    if candidate.kind == "microphone":
        taken.add("pattern")
    if candidate.piece in _ONE_OF:
        taken.add(str(candidate.piece))
    uses = candidate.facts.get("uses")
    return taken | ({str(uses)} if uses else set())


def together(alone: list[Candidate]) -> Iterator[Candidate]:
    """Noise moves each alone and up to four of the first at once."""
    yield from alone
    alone = alone[:_MOST_ALONE]
    for count in range(2, min(len(alone), MOST_TOGETHER) + 1):
        for several in combinations(alone, count):
            if all(go_together(a, b) for a, b in combinations(several, 2)):
                edits = tuple(edit for part in several for edit in part.edits)
                hours = [part for part in several if part.kind == "hour"]
                more = dict(hours[0].facts) if hours else {}
                noises = tuple(str(part.facts["noise"]) for part in several if part.kind == "silence")
                yield Candidate("together", edits, None, count, {**more, "noises": noises})

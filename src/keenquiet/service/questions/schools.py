"""What practitioners disagree on, both sides computed in this room."""

from collections.abc import Iterator, Mapping
from typing import Annotated, Final

from pydantic import Field

from keenquiet.advice.schools import school_words
from keenquiet.core.judge.schools import School, closet_or_room, schools
from keenquiet.core.judge.treat_schools import treat_schools
from keenquiet.documents.frame import Frame
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

_CLOSET_SHARE: Final = 0.5  # of a place's volume: two rooms alike are no closet and room


class SchoolsAsk(ArrangementAsk):
    """With `room_id` the other rooms of its project are held against this one. about : `places` or `treatment`."""

    about: Annotated[str, Field(pattern=r"^(places|treatment)$")] = "places"


class SchoolSide(Answer):
    key: str
    name: str
    gives: str
    wins: bool


class SchoolAnswer(Answer):
    """A quarrel among practitioners, both sides computed here. facts : the figures behind the words, by side."""

    key: str
    question: str
    sides: list[SchoolSide]
    verdict: str
    too_close: bool
    facts: dict[str, dict[str, Num]]


class SchoolsAnswer(Answer):
    schools: list[SchoolAnswer]


def settled(case: Case, asked: SchoolsAsk) -> SchoolsAnswer:
    """What practitioners disagree on, both sides computed in this room; about treatment for the same money."""
    if asked.about == "treatment":
        prices = {key: case.prices.price(key) for key in ("panel", "panel-50", "panel-150", "foam-25")}
        found = treat_schools(case.scenario, case.acoustics, case.wanted, prices, budget=case.limits.budget)
        return SchoolsAnswer(schools=[_school(school) for school in found])
    listed = [_school(school) for school in schools(case.scenario, case.acoustics, case.wanted)]
    return SchoolsAnswer(schools=[*_closet(case), *listed])


def _closet(case: Case) -> Iterator[SchoolAnswer]:
    """The smallest place at hand against the largest, where this room is one of both."""
    sizes = [(Frame.of(other).shape.volume_m3, other) for other in case.beside if other.arrangements]
    here = case.space.volume_m3
    smaller = [size for size in sizes if size[0] < _CLOSET_SHARE * here]
    larger = [size for size in sizes if here < _CLOSET_SHARE * size[0]]
    if not smaller and not larger:
        return
    _, other = min(smaller, key=lambda size: size[0]) if smaller else max(larger, key=lambda size: size[0])
    closet, big = sorted((case, Case(other)), key=lambda one: one.space.volume_m3)
    yield _school(closet_or_room(closet.now, big.now, case.wanted), {"closet": closet.room.name, "room": big.room.name})


def _school(school: School, names: Mapping[str, str] | None = None) -> SchoolAnswer:
    words = school_words(school, names)
    return SchoolAnswer(
        key=school.key,
        question=words.question,
        sides=[
            SchoolSide(key=key, name=name, gives=gives, wins=key == school.winner) for key, name, gives in words.sides
        ],
        verdict=words.verdict,
        too_close=school.winner is None,
        facts={side: dict(facts) for side, facts in school.facts.items()},
    )


SCHOOLS = Question("schools", SchoolsAsk, SchoolsAnswer, settled)

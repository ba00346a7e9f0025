"""A move before it is judged, what limits it, and what it costs. Words and prices are none of the core's business."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Protocol

from keenquiet.core.edits import Edit
from keenquiet.core.room.calendar import Calendar

Fact = float | int | str | tuple[str, ...]
_NO_FACTS: Mapping[str, Fact] = MappingProxyType({})


@dataclass(frozen=True)
class Limits:
    """What the performer can do: budget [currency], whether walls may be drilled, whether a duvet is at hand.

    owned : pieces at hand, by their key in the list of prices. patterns : of the microphones at hand. stands : at
    hand, the microphone's among them. allowed : when playing is.
    """

    budget: float = 120.0
    may_drill: bool = False
    has_duvet: bool = True
    owned: frozenset[str] = frozenset()
    patterns: tuple[str, ...] = ()
    stands: int = 1
    allowed: Calendar = field(default_factory=Calendar)


@dataclass(frozen=True)
class Candidate:
    """A move before it is judged.

    kind : a key of `move_kinds.MOVE_KINDS`; `together` are noise moves that are done at once.
    piece, count : what is hung or laid, by its key in the list of prices, and how many. facts : what its words need.
    """

    kind: str
    edits: tuple[Edit, ...]
    piece: str | None = None
    count: int = 1
    facts: Mapping[str, Fact] = field(default_factory=lambda: _NO_FACTS)


@dataclass(frozen=True)
class Cost:
    """price [currency], minutes of work, whether it can be taken back without a trace, keys of the cautions."""

    price: float = 0.0
    minutes: int = 2
    reversible: bool = True
    cautions: tuple[str, ...] = ()


class Costs(Protocol):
    """What a move costs somebody with these limits."""

    def __call__(self, candidate: Candidate, limits: Limits) -> Cost: ...

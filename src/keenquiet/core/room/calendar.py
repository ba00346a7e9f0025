"""When something runs or is allowed: hours of the day, and weekdays that differ."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

Span = tuple[float, float]
WEEKDAYS: Final = 7  # Monday is 0


@dataclass(frozen=True)
class DayHours:
    """Weekdays (Monday 0) whose hours are these instead of the usual ones; no hours: not at all."""

    weekdays: frozenset[int]
    hours: tuple[Span, ...]


@dataclass(frozen=True)
class Calendar:
    """hours : from and to [h, local time], for every day; an end before its start runs over midnight and belongs to
    the day it starts on; empty means always. other_days : weekdays that differ.
    """

    hours: tuple[Span, ...] = ()
    other_days: tuple[DayHours, ...] = ()

    @property
    def always(self) -> bool:
        """Whether it runs round the clock all week."""
        return not self.hours and not self.other_days

    def starting_on(self, weekday: int) -> tuple[Span, ...]:
        """Spans that begin on a weekday; the whole day where the usual hours are empty."""
        for day in self.other_days:
            if weekday % WEEKDAYS in day.weekdays:
                return day.hours
        return self.hours or ((0.0, 24.0),)

    def on(self, weekday: int) -> tuple[Span, ...]:
        """Stretches of one day from midnight to midnight, in order, with what is left of the night before; empty: not
        at all. [h]
        """
        found = [span for start, end in self.starting_on(weekday) for span in _within_day(start, end)]
        found += [(0.0, end) for start, end in self.starting_on(weekday - 1) if _over_midnight(start, end) and end > 0]
        return _merged(found)

    def runs_at(self, hour: float | None, weekday: int | None = None) -> bool:
        """Whether it runs at this hour; with no hour given, always. weekday None : by the usual hours alone."""
        if hour is None:
            return True
        if weekday is not None:
            return any(start <= hour < end for start, end in self.on(weekday))
        if not self.hours:
            return True
        return any(start <= hour < end if start <= end else hour >= start or hour < end for start, end in self.hours)


def _over_midnight(start: float, end: float) -> bool:
    return end < start


def _within_day(start: float, end: float) -> Iterator[Span]:
    yield (start, 24.0) if _over_midnight(start, end) else (start, end)


def _merged(spans: list[Span]) -> tuple[Span, ...]:
    """Overlapping and touching stretches as one."""
    merged: list[Span] = []
    for start, end in sorted(span for span in spans if span[1] > span[0]):
        if merged and start <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
        else:
            merged.append((start, end))
    return tuple(merged)

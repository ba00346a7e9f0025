"""Recordings wait their turn: what takes memory is done one after the other, and who waits can be told how long a row
stands before.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

from keenquiet.service.jobs import TooMany

_MOST_WAITING: Final = 16  # each holds a thread that could answer something light


class Lane:
    """A row in which the first is served and the others wait, in the order they came."""

    def __init__(self) -> None:
        self._row: list[tuple[object, str | None]] = []
        self._moved = threading.Condition()

    @contextmanager
    def turn(self, name: str | None = None) -> Iterator[None]:
        """Wait, then be the one that is served. name : under which `before` is asked. Raises TooMany when the row is
        too long.
        """
        ticket = (object(), name)
        with self._moved:
            if len(self._row) > _MOST_WAITING:
                raise TooMany("Too many recordings wait to be read.")
            self._row.append(ticket)
            self._moved.wait_for(lambda: self._row[0] is ticket)
        try:
            yield
        finally:
            with self._moved:
                self._row.remove(ticket)
                self._moved.notify_all()

    def before(self, name: str) -> int | None:
        """How many stand before the one of this name, 0 for who is served; None for who does not wait here."""
        with self._moved:
            return next((place for place, (_, other) in enumerate(self._row) if other == name), None)


# a clap is not kept waiting by an hour of song, nor whoever plays a sound by either
LONG: Final = Lane()
SHORT: Final = Lane()
PLAYED: Final = Lane()


def before(name: str) -> int | None:
    """How many recordings are read before the one of this name; None when it waits nowhere."""
    return next((place for lane in (LONG, SHORT) if (place := lane.before(name)) is not None), None)

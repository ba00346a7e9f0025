"""A room once moves are carried out: whether they can be, and the forecast then."""

from collections.abc import Sequence

from keenquiet.core.edits import Edit, Hang, applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Acoustics, Forecast, forecast
from keenquiet.core.judge.soft import fits
from keenquiet.core.room.room import Room
from keenquiet.core.scenario import Scenario


def carried_out(
    edits: Sequence[Edit], start: Scenario, acoustics: Acoustics, *, solved: bool
) -> tuple[Scenario, Forecast] | None:
    """The scenario and its forecast after edits; None when something cannot stand or hang so. acoustics : of the start.
    solved : the modes are solved anew, else they follow to first order.
    """
    try:
        after = applied(edits, start)
        if not _stand_as_before(start, after):
            after.room.check_places(after.arrangement)
        after.room.check_treatments(after.arrangement)
        hung = [edit.overlay for edit in edits if isinstance(edit, Hang)]
        if not all(fits(after.room, after.arrangement, overlay) for overlay in hung):
            return None
        room = after.described
    except InputError:
        return None
    changed = surroundings(acoustics, room, solved=solved)
    return after, forecast(changed, after.arrangement, hour=after.hour, uncertainty=False)


def surroundings(acoustics: Acoustics, room: Room, *, solved: bool) -> Acoustics:
    """What is heard of a room that was changed: as it was where only noises changed, else its modes solved anew or to
    first order.
    """
    if room.overlays != acoustics.room.overlays or room.furnishings != acoustics.room.furnishings:
        return Acoustics(room) if solved else acoustics.towards(room)
    return acoustics if room.noises == acoustics.room.noises else acoustics.with_noises_of(room)


def _stand_as_before(before: Scenario, after: Scenario) -> bool:
    """Whether nobody and nothing stands elsewhere: what was clear of walls and furniture still is."""
    return after.room.furnishings == before.room.furnishings and after.arrangement.placed == before.arrangement.placed

"""What was read beside a take: the room tone and the room that go with it, kept to cut, to clean and to compare by."""

from datetime import timedelta
from typing import Final

from keenquiet.advice.takes import BESIDE_NAMES, beside_words
from keenquiet.service.answers.takes import BesideAnswer
from keenquiet.service.briefs import reading_rows
from keenquiet.service.data import Data
from keenquiet.service.kinds import of_form
from keenquiet.service.reading_set import same_scene
from keenquiet.service.takes import take_row
from keenquiet.store.models import Reading

_LONGEST: Final = timedelta(hours=12)
_MOST: Final = 200
_CHAIN: Final = ("device", "channel", "gain")


def beside_take(data: Data, reading_id: str) -> list[BesideAnswer]:
    """The silence and the reading of the room nearest to a take in time, within half a day; those of the room as it
    then was go first. Raises InputError for a reading that is no take.
    """
    take = take_row(data, reading_id)
    found = []
    for form, name in BESIDE_NAMES.items():
        rows = _near(data, take, form)
        if rows:
            nearest = min(rows, key=lambda row: (not same_scene(row, take), abs(row.taken_at - take.taken_at)))
            found.append(_answer(name, nearest, take))
    return found


def nearest_silence(data: Data, reading_id: str) -> BesideAnswer | None:
    """The silence nearest in time whose level can be held against the take's: those of the same chain go first."""
    take = take_row(data, reading_id)
    rows = _near(data, take, "tone")
    if not rows:
        return None
    nearest = min(rows, key=lambda row: (not _same_chain(row, take), abs(row.taken_at - take.taken_at)))
    return _answer(BESIDE_NAMES["tone"], nearest, take)


def _near(data: Data, take: Reading, form: str) -> list[Reading]:
    within = (take.taken_at - _LONGEST, take.taken_at + _LONGEST)
    return [
        row
        for row in reading_rows(data, take.room_id, within=within, kinds=of_form(form), most=_MOST)
        if row.simulated == take.simulated and (row.brief or {}).get("verdict", {}).get("usable")
    ]


def _same_chain(row: Reading, take: Reading) -> bool:
    return all(row.settings.get(part) == take.settings.get(part) for part in _CHAIN)


def _answer(name: str, row: Reading, take: Reading) -> BesideAnswer:
    minutes = (row.taken_at - take.taken_at).total_seconds() / 60
    chain = _same_chain(row, take)
    scene = same_scene(row, take)
    when = beside_words(minutes, same_chain=chain, same_room=scene)
    return BesideAnswer(
        reading_id=row.id,
        name=name,
        minutes_after=minutes,
        same_chain=chain,
        same_room=scene,
        when=when,
        text=f"{name}: {when}.",
    )

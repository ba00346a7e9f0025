"""What readings say of an arrangement, also of one that was changed since: what was measured, and what the models say
has changed. Every figure that is shown of a room that was read starts here.
"""

from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Figure, Forecast
from keenquiet.core.judge.moves import changes
from keenquiet.core.kept import Kept as Keeping
from keenquiet.core.waves.noise_at import THE_HOUSE
from keenquiet.documents.scene import NOISE_ONLY, OF_THE_ROOM
from keenquiet.documents.schema import NoiseDoc, RoomDoc
from keenquiet.service.answers.marks import Known
from keenquiet.service.candidates import with_somebody
from keenquiet.service.data import Data
from keenquiet.service.predict import predict
from keenquiet.service.standing import Kept, Standing

_thens: Final[Keeping[str, Forecast]] = Keeping(most_bytes=100_000_000, most=8)
_LED: Final = ("bounce", "boom", "hush")
_WAITING: Final = ("hush", "touch")  # what no forecast gives without a reading
# standard uncertainty of one reading of the middle decay, as a share. ISO 3382-2, 7: 0.88 sqrt((1 + 1.9/n) / (N B T)),
# n = 10 for an integrated impulse response, one place: 8 % at 500 Hz and 6 % at 1 kHz of 0.4 s, 5 % of their mean
_DECAY_REPEATS: Final = 0.05
_HELD_WITHIN_DB: Final = (-50.0, 30.0)  # further off, a silence speaks of something else than what was noted
# the spectrum of a quiet home's noise, falling by 4 dB an octave (our estimate); its level is the silence's
_HEARD: Final = NoiseDoc(
    name="What your silence heard",
    kind="structure",
    surface="wall-1",
    octaves_db={"63": 44, "125": 40, "250": 36, "500": 32, "1000": 28, "2000": 24, "4000": 20},
)
_LEAST_RING_S: Final = 0.03
_OTHER_ROOM: Final = frozenset({"shape"})


def forecast_as_read(
    data: Data, room_id: str, room: RoomDoc, arrangement_id: str | None = None
) -> tuple[Forecast, Known]:
    """The forecast of an arrangement of a document, which may be ahead of what is saved, and what the readings of the
    kept room say of it.
    """
    standing = Standing.of(data, room_id, room, room.arrangement_doc(arrangement_id))
    heard = as_heard(room, standing)
    result = predict(heard, arrangement_id)
    return result, known_of(standing, heard, result)


def room_as_read(
    data: Data, room_id: str | None, room: RoomDoc, arrangement_id: str | None = None, *, at_all_hours: bool = False
) -> RoomDoc:
    """The document with its noises as a silence of the kept room says; as it is without one. at_all_hours : noises that
    nobody noted are left out, for one silence says nothing of other hours.
    """
    if room_id is None or (at_all_hours and not room.noises):
        return room
    room = with_somebody(room)
    return as_heard(room, Standing.of(data, room_id, room, room.arrangement_doc(arrangement_id)))


def as_heard(room: RoomDoc, standing: Standing) -> RoomDoc:
    """The document with its steady noises that ran during the silence on which Hush rests so much louder or softer than
    noted that together they are what was measured. What rested then, and what passes, stays as it was noted.
    """
    found = standing.marks.hush
    row = None if found is None else next((row for row in standing.rows if row.id == found.reading_id), None)
    if row is None:
        return room
    # who noted nothing has heard something all the same
    described = room if room.noises else room.model_copy(update={"noises": [_HEARD]})
    then = _then(standing, described, row)
    if found is None or then is None:
        return room
    noise, hush = then.noise, then.hush
    house = 10 ** (noise.by_source_dba.get(THE_HOUSE, -np.inf) / 10)
    noted = {name: level for name, level in noise.by_source_dba.items() if name != THE_HOUSE}
    if not noted:
        return room
    left = max(10 ** ((hush.performance_dba - found.value) / 10) - house, 1e-9)
    by_db = 10 * np.log10(left / sum(10 ** (level / 10) for level in noted.values()))
    by_db = float(np.clip(by_db, *_HELD_WITHIN_DB))
    noises = [_shifted(n, by_db) if n.name in noted else n for n in described.noises]
    return room.model_copy(update={"noises": noises})


def _shifted(noise: NoiseDoc, by_db: float) -> NoiseDoc:
    levels = {octave: round(level + by_db, 2) for octave, level in noise.octaves_db.items()}
    return noise.model_copy(update={"octaves_db": levels})


def known_of(standing: Standing, room: RoomDoc, result: Forecast) -> Known:
    """The marks as measured; those that no longer hold led over to what stands now; the decay likewise."""
    measured = standing.marks.by_mark()
    rows = {row.id: row for row in standing.rows}
    led = {}
    for mark in _LED:
        found = measured.get(mark)
        if found is not None and not found.current and (row := rows.get(found.reading_id)) is not None:
            figure = _led(standing, room, row, mark, Figure(found.value, found.plus_minus), result)
            if figure is not None:
                led[mark] = figure
    decay_s, is_read = _decay(standing, room, result)
    lacks = {mark: lack for mark in _WAITING if (lack := standing.lacks(mark)) is not None}
    return Known(measured=measured, led=led, decay_s=decay_s, is_read=is_read, peak=standing.peak(result), lacks=lacks)


def _led(standing: Standing, room: RoomDoc, row: Kept, mark: str, measured: Figure, result: Forecast) -> Figure | None:
    """What was measured plus what has changed since by the models, each with its uncertainty; None where the two rooms
    have little in common.
    """
    then = _then(standing, room, row)
    if then is None:
        return None
    parts = {found.part for found in standing.since(row, mark)}
    change = changes(then, result, noise_only=parts <= NOISE_ONLY)[mark]
    value = measured.value + change.value
    return Figure(
        max(value, _LEAST_RING_S) if mark == "boom" else value, float(np.hypot(measured.plus_minus, change.plus_minus))
    )


def _decay(standing: Standing, room: RoomDoc, result: Forecast) -> tuple[Figure | None, bool]:
    """The middle of the decay as it was read in this room, real before simulated and the newest of those; in a room
    that was changed since, as many times longer or shorter as the models say.
    """
    rows = [row for row in standing.rows if row.t_mid_s is not None]
    row = next((row for row in rows if not row.simulated), rows[0] if rows else None)
    if row is None or row.t_mid_s is None:
        return None, False
    read = Figure(row.t_mid_s, _DECAY_REPEATS * row.t_mid_s)
    if not {found.part for found in standing.differing(row)} & OF_THE_ROOM:
        return read, True
    then = _then(standing, room, row)
    if then is None:
        return None, False
    now_s, then_s = result.bounce.decay_s, then.bounce.decay_s.value
    ratio = now_s.value / then_s
    # what the models got wrong of the whole they get wrong of the change by its share
    spread = abs(ratio - 1) * now_s.plus_minus / now_s.value
    return Figure(read.value * ratio, read.value * ratio * float(np.hypot(_DECAY_REPEATS, spread))), False


def _then(standing: Standing, room: RoomDoc, row: Kept) -> Forecast | None:
    """The forecast of the scene of a reading.

    What a room is made of, its noises and its shape are taken as they are described now: who mends a description has
    not changed the room. None where the reading was taken in a room of another shape.
    """
    if {found.part for found in standing.differing(row)} & _OTHER_ROOM:
        return None
    scene = standing.then(row)
    here = room.model_copy(
        update={
            "furnishings": scene.furnishings if row.scene is not None else room.furnishings,
            "openings": scene.openings if row.scene is not None else room.openings,
            "covers": scene.covers if row.scene is not None else room.covers,
            "arrangements": [scene.arrangement],
        }
    )
    key = here.model_dump_json(exclude={"name", "brief", "tape", "project"})

    try:
        return _thens.find(key, lambda: predict(here, scene.arrangement.id))
    except InputError:
        return None

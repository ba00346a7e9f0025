"""The place map: how good every free spot of the floor is for performer and microphone together, facing its best way.

Bounce with walls averaged over their pieces; ring time and noise as the forecast has them. The best
three get the full forecast.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import (
    DEFICIT_UNIT,
    HEARD_WITHIN_DB,
    MOST_DEFICIT,
    Acoustics,
    Forecast,
    boom_range_hz,
    decay_share,
    deficits,
    forecast,
)
from keenquiet.core.judge.places import are_free, distance_between, faced
from keenquiet.core.judge.reach import mic_cable_m
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.types import BoolArray, FloatArray
from keenquiet.core.waves.noise_at import noise_levels_dba
from keenquiet.core.waves.response import heard_level_db
from keenquiet.core.waves.reverberant import direct_over_room_at_db, mid_band_db

MARKS: Final = ("bounce", "boom", "hush", "all")
TURNS_DEG: Final = tuple(float(turn) for turn in range(0, 360, 45))
_CLOSER_M: Final = (0.30, 0.20, 0.10)  # clear of walls; in a cupboard one stands closer
_MOST_SPOTS: Final = 3000  # a hall is mapped more coarsely
_APART_M: Final = 0.6
_BEST: Final = 3
_SEVERAL: Final = 6  # leaders that get the full forecast before the best three are told


@dataclass(frozen=True)
class Spot:
    """One of the best: the arrangement there with its forecast. lacks : of the mark asked for."""

    arrangement: Arrangement
    result: Forecast
    lacks: float


@dataclass(frozen=True)
class PlaceMap:
    """Values on a grid, NaN where nobody can stand. x_m (nx,), y_m (ny,); the rest (ny, nx).

    value : of the mark asked for; bounce [dB], boom [s], hush [dB], all [sum of deficits, 0 is all that is wanted].
    faces_deg : the best facing there. clear_m : how far everybody stays off the walls, less where else nobody could.
    wired : whether places out of the cable's reach were left out. now, lacks_now : the forecast of what stands, and
    what it lacks; the map's own shorter sum over images is led to it by the difference there, so that one place has
    one figure.
    """

    mark: str
    x_m: FloatArray
    y_m: FloatArray
    value: FloatArray
    faces_deg: FloatArray
    by_mark: dict[str, FloatArray]
    best: tuple[Spot, ...]
    step_m: float
    clear_m: float
    wired: bool
    now: Forecast
    lacks_now: float

    @property
    def here(self) -> float:
        """The same where the performer stands and as they face: what the forecast says, whoever asks."""
        marks = self.now
        return {
            "bounce": marks.bounce.direct_over_room_db.value,
            "boom": marks.boom.ring_s.value,
            "hush": marks.hush.under_performance_db.value,
            "all": self.lacks_now,
        }[self.mark]


def place_map(
    acoustics: Acoustics,
    arrangement: Arrangement,
    wanted: Wanted,
    *,
    mark: str = "all",
    height_m: float | None = None,
    step_m: float = 0.1,
    hour: float | None = None,
) -> PlaceMap:
    """The map for a mark or all together. The microphone keeps its distance and its height against the mouth.

    height_m : of the mouth; seated or standing. Raises InputError for an unknown mark.
    """
    if mark not in MARKS:
        raise InputError("mark", f"{mark!r} cannot be mapped.", f"Use one of {', '.join(MARKS)}.")
    arrangement = lifted(arrangement, height_m)
    room = acoustics.room
    x1, y1, _ = room.shape.bounds_m
    step_m = max(step_m, float(np.sqrt(x1 * y1 / _MOST_SPOTS)))
    # at most so fine that the walls' own distance is kept, and starting half a step in
    x_m, y_m = (np.arange(step_m / 2, end, step_m) for end in (x1, y1))
    grid = np.stack(np.meshgrid(x_m, y_m), axis=-1)
    flat = grid.reshape(-1, 2)
    clear_m = next((m for m in _CLOSER_M if _any_free(room, arrangement, flat, m)), _CLOSER_M[-1])
    may = room.shape.stands_clear(flat, margin_m=clear_m) & ~_in_a_door(room, flat)
    # a cable too short for every spot says nothing about them: told, and left out of account
    wired = any(np.any(cable_reaches(arrangement, _all_facing(arrangement, flat[may], t)[2])) for t in TURNS_DEG)
    now = forecast(acoustics, arrangement, hour=hour, uncertainty=False)
    performer, mic = (np.array([at]) for at in (arrangement.performer.at, arrangement.microphone.at))
    apart_db = now.bounce.direct_over_room_db.value - _values(acoustics, arrangement, performer, mic, hour)["bounce"][0]
    found: dict[str, FloatArray] = {name: np.full(len(flat), np.nan) for name in ("bounce", "boom", "hush", "own")}
    best_facing, least = np.full(len(flat), np.nan), np.full(len(flat), np.inf)
    for turn in TURNS_DEG:
        facing, performers, mics = _all_facing(arrangement, flat[may], turn)
        free = are_free(room, performers, mics, margin_m=clear_m)
        if wired:
            free &= cable_reaches(arrangement, mics)
        if not np.any(free):
            continue
        numbers = np.flatnonzero(may)[free]
        values = _values(acoustics, facing, performers[free], mics[free], hour)
        values["bounce"] = values["bounce"] + apart_db
        lacks = _lacks(acoustics, values, wanted)[mark]
        better = lacks < least[numbers]
        chosen = numbers[better]
        least[chosen], best_facing[chosen] = lacks[better], turn
        for name, value in values.items():
            found[name][chosen] = value[better]
    everything = np.where(np.isfinite(least), least, np.nan)
    shape = grid.shape[:2]
    by_mark = {name: value.reshape(shape) for name, value in found.items()}
    value = everything.reshape(shape) if mark == "all" else by_mark[mark]
    best = _best(acoustics, arrangement, wanted, mark, flat, everything, best_facing, hour)
    lacks_now = lacking(now, wanted, mark)
    faces_deg = best_facing.reshape(shape)
    return PlaceMap(mark, x_m, y_m, value, faces_deg, by_mark, best, step_m, clear_m, wired, now, lacks_now)


def cable_reaches(arrangement: Arrangement, mics: FloatArray) -> BoolArray:
    """Which places of the microphone (n, 3) its cable reaches from the laptop, (n,); all without a laptop."""
    laptop = arrangement.laptop
    if laptop is None:
        return np.ones(len(mics), dtype=bool)
    return np.asarray(mic_cable_m(laptop, mics) <= laptop.mic_cable_m)


def _all_facing(
    arrangement: Arrangement, places: FloatArray, turn: float
) -> tuple[Arrangement, FloatArray, FloatArray]:
    """One arrangement that faces so, and performers and microphones at all places, (n, 3) each."""
    at = np.column_stack([places, np.full(len(places), arrangement.performer.at[2])])
    facing = faced(arrangement, arrangement.performer.at, turn, distance_between(arrangement))
    ahead = np.subtract(facing.microphone.at, facing.performer.at)
    return facing, at, at + ahead


def _any_free(room: Room, arrangement: Arrangement, flat: FloatArray, margin_m: float) -> bool:
    places = flat[room.shape.stands_clear(flat, margin_m=margin_m) & ~_in_a_door(room, flat)]
    return any(
        np.any(are_free(room, performers, mics, margin_m=margin_m))
        for _, performers, mics in (_all_facing(arrangement, places, turn) for turn in TURNS_DEG)
    )


def lifted(arrangement: Arrangement, height_m: float | None) -> Arrangement:
    """The same with the mouth at another height, the microphone with it. [m]"""
    if height_m is None:
        return arrangement
    performer, mic = arrangement.performer, arrangement.microphone
    rise = height_m - performer.at[2]
    return replace(
        arrangement,
        performer=replace(performer, at=(*performer.at[:2], height_m)),
        microphone=replace(mic, at=(*mic.at[:2], mic.at[2] + rise)),
    )


def _in_a_door(room: Room, places: FloatArray) -> BoolArray:
    """Which places lie within a door's swing: its width round the middle of its foot, whichever way it opens."""
    inside = np.zeros(len(places), dtype=bool)
    for overlay in room.overlays:
        if overlay.kind == "door":
            u0, u1, v0, _ = overlay.rect
            foot = room.faces[overlay.face].to_space(np.array([[(u0 + u1) / 2, v0]]))[0, :2]
            inside |= np.hypot(*(places - foot).T) < (u1 - u0)
    return inside


def _values(
    acoustics: Acoustics, facing: Arrangement, performers: FloatArray, mics: FloatArray, hour: float | None
) -> dict[str, FloatArray]:
    """Bounce [dB], the ring time of the longest note heard [s] and how far it is that note's own, and noise under the
    performance [dB] at places that face alike, (n,)."""
    room, modes = acoustics.room, acoustics.modes
    bounce = mid_band_db(direct_over_room_at_db(room, facing, decay=acoustics.decay, sources=performers, mics=mics))
    shapes = modes.shapes
    heard = heard_level_db((modes.rigid.values(performers) @ shapes) * (modes.rigid.values(mics) @ shapes), modes)
    low, high = boom_range_hz(facing, room.shape)
    inside = (modes.f_hz >= low) & (modes.f_hz <= high)
    level = np.where(inside if np.any(inside) else True, heard, -np.inf)
    counts = level >= level.max(axis=1, keepdims=True) - HEARD_WITHIN_DB
    share = decay_share(modes.f_hz, acoustics.decay) * float(np.mean(acoustics.decay.middle_s[3:5]))
    worst = np.argmax(np.where(counts, modes.t60_s - share, -np.inf), axis=1)
    noise = noise_levels_dba(room, facing, mics, decay=acoustics.decay, hour=hour)
    distance = np.linalg.norm(performers - mics, axis=1)
    hush = facing.performer.source.level_dba - 20 * np.log10(distance) - noise
    return {"bounce": bounce, "boom": modes.t60_s[worst], "hush": hush, "own": (modes.t60_s - share)[worst]}


def _lacks(acoustics: Acoustics, values: dict[str, FloatArray], wanted: Wanted) -> dict[str, FloatArray]:
    """What each mark lacks, as `forecast.deficits` has it without single returns and swing, and all of it, (n,)."""

    def saturating(plain: FloatArray) -> FloatArray:
        return plain / (1 + plain / MOST_DEFICIT)

    def outside(value: FloatArray, low: float | None, high: float | None) -> FloatArray:
        below = low - value if low is not None else np.zeros_like(value)
        above = value - high if high is not None else np.zeros_like(value)
        return np.maximum(np.maximum(below, above), 0.0)

    rings = np.minimum(outside(values["boom"], None, wanted.boom_s.high), np.maximum(values["own"], 0.0))
    lacks = {
        "bounce": saturating(
            outside(values["bounce"], wanted.bounce_db.low, wanted.bounce_db.high) / DEFICIT_UNIT["bounce"]
        ),
        "boom": saturating(rings / DEFICIT_UNIT["boom"]),
        "hush": saturating(outside(values["hush"], wanted.hush_db.low, None) / DEFICIT_UNIT["hush"])
        if acoustics.room.noises
        else np.zeros_like(values["hush"]),
    }
    total = lacks["bounce"] + lacks["boom"] + lacks["hush"]
    # where everything is as wanted, further is still better: a thousandth of it decides between equals
    return {**{mark: lack + _further(mark, values) for mark, lack in lacks.items()}, "all": total}


def _further(mark: str, values: dict[str, FloatArray]) -> FloatArray:
    sign = 1e-3 if mark == "boom" else -1e-3
    return sign * np.nan_to_num(values[mark])


def _best(
    acoustics: Acoustics,
    arrangement: Arrangement,
    wanted: Wanted,
    mark: str,
    flat: FloatArray,
    lacks: FloatArray,
    facing: FloatArray,
    hour: float | None,
) -> tuple[Spot, ...]:
    """The best three by the full forecast among the map's leaders, apart from each other."""
    leaders: list[Arrangement] = []
    for i in np.argsort(np.where(np.isfinite(lacks), lacks, np.inf)):
        if not np.isfinite(lacks[i]) or len(leaders) == _SEVERAL:
            break
        x, y = (float(v) for v in flat[i])
        if all(np.hypot(x - o.performer.at[0], y - o.performer.at[1]) >= _APART_M for o in leaders):
            at = (x, y, arrangement.performer.at[2])
            leaders.append(faced(arrangement, at, float(facing[i]), distance_between(arrangement)))
    judged = []
    for leader in leaders:
        result = forecast(acoustics, leader, hour=hour, uncertainty=False)
        judged.append(Spot(leader, result, lacking(result, wanted, mark)))
    # alike by the forecast, they stay in the map's order
    return tuple(sorted(judged, key=lambda spot: spot.lacks)[:_BEST])


def lacking(result: Forecast, wanted: Wanted, mark: str) -> float:
    """What a place lacks of one mark, or of all together. [-]"""
    lacks = deficits(result, wanted)
    return sum(lacks.values()) if mark == "all" else lacks[mark]

"""Two schools of what practitioners disagree on, both computed in this room. `Too close to call` is an answer.

Each side is judged by what it lacks of what is wanted (the sum of `forecast.deficits`), or by the one figure that the
quarrel is about. Facts carry the figures, by name; `advice.schools` has the words.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from keenquiet.core.judge.aim import loud_notes, past_the_mouth
from keenquiet.core.judge.distance_curve import OWN_NOISE_DBA, at_distance, bass_lift_db
from keenquiet.core.judge.forecast import DEFICIT_UNIT, Acoustics, Forecast, deficits, forecast
from keenquiet.core.judge.listening import CHAIR_HZ, listening_place
from keenquiet.core.judge.places import distance_between, faced, stands_free
from keenquiet.core.judge.screen_places import fits, screens_of, sort_named
from keenquiet.core.judge.usual import usual_middle_m
from keenquiet.core.judge.wanted import PURPOSES, Wanted
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.puff import FROM_THE_MOUTH, puff_index
from keenquiet.core.waves.response import smoothed_db
from keenquiet.core.waves.reverberant import place_bounce_db
from keenquiet.core.waves.screens import colour_db
from keenquiet.core.waves.statistics import decay

CLOSE_CALL: Final = 0.08  # of what is lacking: less is within what the models can tell
CLOSE_DB: Final = 1.0
_DYNAMIC_DBA: Final = 30.0  # a moving coil with a common preamplifier, as if so loud a sound were there (our estimate)
_FRIEND_DB: Final = 6.0  # of lift at a hand's width, from which bass muddies (our estimate)
_ROUGH_DB, _SMOOTH_DB = (20.0, 12.0)  # swing that nobody mixes by, and that one learns to hear past (estimates)
_CLOSE_M: Final = 0.1  # of the stand from walls: in a corner it stands closer than is comfortable


@dataclass(frozen=True)
class School:
    """key : which quarrel. winner : the side that does better here, None too close to call.

    facts : figures of each side, by side and name.
    """

    key: str
    sides: tuple[str, ...]
    winner: str | None
    facts: Mapping[str, Mapping[str, float]] = field(default_factory=dict)


def schools(scenario: Scenario, acoustics: Acoustics, wanted: Wanted) -> list[School]:
    """Every quarrel that this arrangement can settle, in the order in which a place is set up."""
    now = forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)
    found: list[School] = []
    for quarrel in _QUARRELS:
        found += quarrel(scenario, acoustics, wanted, now)
    return found


def closet_or_room(closet: Forecast, room: Forecast, wanted: Wanted) -> School:
    """Two places that are both at hand, each as it stands."""
    sides = {"closet": _figures(closet, wanted), "room": _figures(room, wanted)}
    return School("closet", tuple(sides), _least(sides, "lacks", CLOSE_CALL), sides)


def _judged(acoustics: Acoustics, arrangement: Arrangement, scenario: Scenario) -> Forecast:
    return forecast(acoustics, arrangement, hour=scenario.hour, uncertainty=False)


def _figures(result: Forecast, wanted: Wanted) -> dict[str, float]:
    return {
        "bounce_db": result.bounce.direct_over_room_db.value,
        "ring_s": result.boom.ring_s.value,
        "hush_db": result.hush.under_performance_db.value,
        "lacks": sum(deficits(result, wanted).values()),
    }


def _least(sides: Mapping[str, Mapping[str, float]], by: str, close: float, *, more: bool = False) -> str | None:
    """The side with least (or `more`) of a figure, None where the next is closer than `close`."""
    order = sorted(sides, key=lambda side: sides[side][by], reverse=more)
    if len(order) < 2 or abs(sides[order[1]][by] - sides[order[0]][by]) < close:
        return None
    return order[0]


def _dry_or_room(_: Scenario, __: Acoustics, ___: Wanted, now: Forecast) -> Iterator[School]:
    """Which of both purposes this place serves as it stands."""
    sides = {key: _figures(now, PURPOSES[key]) for key in ("dry-voice", "some-room")}
    yield School("dry-or-room", tuple(sides), _least(sides, "lacks", CLOSE_CALL), sides)


def _corner(scenario: Scenario, acoustics: Acoustics, wanted: Wanted, now: Forecast) -> Iterator[School]:
    """Back to the corner, facing it, or the middle of the floor, at the same distance from the microphone."""
    room, arrangement = scenario.room, scenario.arrangement
    corner = room.shape.corners[_plainest_corner(room)]
    middle = np.array(room.shape.polygon.representative_point().coords[0])
    inward = middle - corner
    bearing = float(np.degrees(np.arctan2(inward[1], inward[0])))
    spot = corner + inward / np.linalg.norm(inward) * 0.85
    high, far = arrangement.performer.at[2], distance_between(arrangement)
    sides = {}
    for side, at, turn in (
        ("back-to-it", spot, bearing),
        ("facing-it", spot, bearing + 180),
        ("middle", middle, bearing),
    ):
        place = faced(arrangement, (float(at[0]), float(at[1]), high), turn, far)
        if stands_free(room, place, margin_m=_CLOSE_M):
            sides[side] = _figures(_judged(acoustics, place, scenario), wanted)
    if len(sides) > 1:
        yield School("corner", tuple(sides), _least(sides, "lacks", CLOSE_CALL), sides)


def _plainest_corner(room: Room) -> int:
    """The corner furthest from furniture."""
    corners = room.shape.corners
    pieces = np.array([piece.at for piece in room.furnishings]).reshape(-1, 2)
    if not len(pieces):
        return 0
    away = np.linalg.norm(corners[:, None] - pieces[None], axis=2).min(axis=1)
    return int(np.argmax(away))


def _distance(scenario: Scenario, acoustics: Acoustics, wanted: Wanted, now: Forecast) -> Iterator[School]:
    far = distance_between(scenario.arrangement)
    sides = {
        side: {**_figures(_judged(acoustics, at_distance(scenario.arrangement, d), scenario), wanted), "distance_m": d}
        for side, d in (("closer", max(far / 2, 0.08)), ("further", min(far * 1.6, 1.5)))
        if scenario.room.shape.contains(np.array([at_distance(scenario.arrangement, d).microphone.at]))[0]
    }
    if len(sides) == 2:
        yield School("distance", tuple(sides), _least(sides, "lacks", CLOSE_CALL), sides)


def _capsule(scenario: Scenario, acoustics: Acoustics, wanted: Wanted, __: Forecast) -> Iterator[School]:
    """Condenser or dynamic of the same pattern, each as far off as it is usually used: what the room gives there, and
    the chain's own noise with the room's.
    """
    source = scenario.arrangement.performer.source.key
    sides = {}
    for side, own in (("condenser", OWN_NOISE_DBA), ("dynamic", _DYNAMIC_DBA)):
        far = usual_middle_m(source, dynamic=side == "dynamic")
        placed = at_distance(scenario.arrangement, far)
        if not scenario.room.shape.contains(np.array([placed.microphone.at]))[0]:
            return
        there = _judged(acoustics, placed, scenario)
        level, bounce = there.hush.performance_dba, there.bounce.direct_over_room_db.value
        under = level - 10 * float(np.log10(10 ** (own / 10) + 10 ** (there.hush.noise_dba / 10)))
        sides[side] = {
            "distance_m": far,
            "bounce_db": bounce,
            "own_db": level - own,
            "under_db": under,
            # a low cut takes what closeness lifts: bass is left out of it
            "lacks": wanted.bounce_db.deficit(bounce) / DEFICIT_UNIT["bounce"]
            + wanted.hush_db.deficit(under) / DEFICIT_UNIT["hush"],
        }
    yield School("capsule", tuple(sides), _least(sides, "lacks", CLOSE_CALL), sides)


def _lift(scenario: Scenario, acoustics: Acoustics, __: Wanted, now: Forecast) -> Iterator[School]:
    """Whether closeness thickens this voice or muddies it: the lift at its lowest note."""
    arrangement = scenario.arrangement
    lowest = arrangement.performer.source.lowest_hz
    near = distance_between(arrangement)
    cosine = float(np.cos(np.deg2rad(now.touch.off_axis_deg)))
    speed = acoustics.room.air.speed_m_s
    lift = {
        name: float(
            bass_lift_db(
                arrangement.microphone.a, cosine, distance_m=np.array([d]), f_hz=np.array([lowest]), speed_m_s=speed
            )[0, 0]
        )
        for name, d in (("here_db", near), ("hand_db", 0.10))
    }
    facts = {**lift, "lowest_hz": float(lowest), "ring_s": now.boom.ring_s.value}
    winner = None if lift["hand_db"] < CLOSE_DB else "friend" if lift["hand_db"] < _FRIEND_DB else "enemy"
    yield School("lift", ("friend", "enemy"), winner, {"friend": facts, "enemy": facts})


def _breath(scenario: Scenario, acoustics: Acoustics, __: Wanted, now: Forecast) -> Iterator[School]:
    """Straight on with a pop screen, or past it without one; the screen on the capsule, or off it."""
    arrangement = scenario.arrangement
    if arrangement.performer.source.key not in FROM_THE_MOUTH:
        return
    near = distance_between(arrangement)
    past = past_the_mouth(arrangement, speed_m_s=acoustics.room.air.speed_m_s)[2]
    straight = {"puff": float(puff_index(near, screen="off")), "treble_db": 0.0}
    sides = {"straight": straight, "aside": {"puff": past.puff, "treble_db": past.treble_db}}
    harmless = max(side["puff"] for side in sides.values()) < 0.25
    # with neither popping, what is left to judge is the treble
    winner = _least(sides, "treble_db", 0.75, more=True) if harmless else _least(sides, "puff", 0.1)
    yield School("breath", tuple(sides), winner, sides)
    screens = {
        name: {"puff": float(puff_index(near, screen=name)), "bare": float(puff_index(near))} for name in ("on", "off")
    }
    needed = screens["on"]["bare"] > 0.25
    yield School("screen", tuple(screens), _least(screens, "puff", 0.1) if needed else None, screens)


def _shield(scenario: Scenario, acoustics: Acoustics, __: Wanted, now: Forecast) -> Iterator[School]:
    """A shell of foam behind the microphone, or a duvet on two stands behind the performer."""
    arrangement = scenario.arrangement
    bare = place_bounce_db(acoustics.room, arrangement, decay=acoustics.decay)
    sides = {}
    for side, key in (("shield", "desk-arc"), ("cloth", "duvet-on-t")):
        screens = screens_of(sort_named(key), arrangement)
        if not fits(scenario.room, screens):
            continue
        placed = replace(arrangement, screens=(*arrangement.screens, *screens))
        room = Scenario(scenario.room, placed, scenario.hour).described
        sides[side] = {
            "bounce_db": place_bounce_db(room, placed, decay=decay(room)) - bare,
            "colour_db": max(colour_db(screen, placed) for screen in screens),
        }
    if len(sides) == 2:
        yield School("shield", tuple(sides), _least(sides, "bounce_db", 0.7, more=True), sides)


def _loud(scenario: Scenario, acoustics: Acoustics, __: Wanted, now: Forecast) -> Iterator[School]:
    """Step back, turn, or tilt: what takes most off a loud note for the least change of sound."""
    found = loud_notes(scenario.arrangement, speed_m_s=acoustics.room.air.speed_m_s)
    sides = {
        name: {
            "level_db": one.level_db,
            "bass_db": one.bass_db,
            "treble_db": one.treble_db,
            # how much sound changes for each dB that it takes off
            "price": (abs(one.bass_db) + abs(one.treble_db)) / max(-one.level_db, 0.1),
        }
        for name, one in found.items()
    }
    yield School("loud", tuple(sides), _least(sides, "price", 0.1), sides)


def _monitors(scenario: Scenario, acoustics: Acoustics, __: Wanted, now: Forecast) -> Iterator[School]:
    """Monitors or headphones, big ones or small: by what the chair makes of them."""
    place = listening_place(acoustics, scenario.arrangement)
    if place is None:
        return
    facts = {"swing_db": place.swing_db}
    winner = "headphones" if place.swing_db > _ROUGH_DB else "monitors" if place.swing_db < _SMOOTH_DB else None
    yield School("ears", ("monitors", "headphones"), winner, {"monitors": facts, "headphones": facts})
    smooth = smoothed_db(place.response_db, place.f_hz)
    reach = {"big": 35.0, "small": 60.0}
    sides = {
        size: {"swing_db": float(np.ptp(smooth[(place.f_hz >= low) & (place.f_hz <= CHAIR_HZ[1])])), "low_hz": low}
        for size, low in reach.items()
    }
    yield School("size", tuple(sides), _least(sides, "swing_db", 2.0), sides)


_Quarrel = Callable[[Scenario, Acoustics, Wanted, Forecast], Iterator[School]]
_QUARRELS: Final[tuple[_Quarrel, ...]] = (
    _dry_or_room,
    _corner,
    _distance,
    _capsule,
    _lift,
    _breath,
    _shield,
    _loud,
    _monitors,
)

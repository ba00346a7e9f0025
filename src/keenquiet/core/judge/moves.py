"""Next moves: concrete things that could be done now, each judged by the same models as the marks, ranked.

Free moves compete with bought ones: benefit per effort and money.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.judge.forecast import Acoustics, Figure, Forecast, bounce_draws_db, deficits, forecast
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.judge.words import note_words, side_words, surface_words
from keenquiet.core.room.box import (
    CEILING,
    FLOOR,
    Arrangement,
    Box,
    Microphone,
    Overlay,
    Performer,
    Point,
    direction,
    tangential,
)
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.materials import CATALOGUE, computed_material
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.modes import mode_values
from keenquiet.core.waves.place_map import direct_over_room_map_db
from keenquiet.core.waves.porous import PorousAbsorber

_WALL_CLEARANCE_M: Final = 0.45  # room for a body and a stand
_SEARCH_STEP_M: Final = 0.25
_FACINGS_DEG: Final = tuple(range(0, 360, 30))
_NEAR_M: Final = 0.18  # a hand's width: nearest distance that is advised
_LEAST_CLOTH_M: Final = 1.0
_LEAST_BENEFIT: Final = 0.02
_MOST_OF_A_KIND: Final = {"soft-behind": 2, "reflection": 2, "silence": 2}
_LOOKED_AT_CLOSELY: Final = 5  # spots of the coarse search that get the full forecast
_PANEL: Final = PorousAbsorber(thickness_m=0.10, flow_resistivity=12_000, gap_m=0.05)
_TRAP: Final = PorousAbsorber(thickness_m=0.20, flow_resistivity=6_000, gap_m=0.10)

_WALL_CAUTION: Final = (
    "Before you drill: look for cables and pipes, and in old houses have textured coatings checked for asbestos. "
    "Ask the landlord; follow local codes."
)
_FIBRE_CAUTION: Final = "Cutting mineral wool: gloves, mask, eye protection; close the panel in cloth."
_FIRE_CAUTION: Final = "Keep cloth and foam away from heaters, lamps and candles; leave doors, vents and the way out free."
_OVERHEAD_CAUTION: Final = (
    "Weight over heads: fix into joists with rated hardware and a second safety line, or let a joiner do it."
)
_STAND_CAUTION: Final = "Weigh down the stand's foot and keep cables off the way out."
_MAINS_CAUTION: Final = "Switch it off as its maker says, and put a note where you will see it; wiring is an electrician's work."


@dataclass(frozen=True)
class Limits:
    """What the performer can do: budget [currency], whether walls may be drilled, whether a duvet is at hand, recording hour [h]."""

    budget: float = 120.0
    may_drill: bool = False
    has_duvet: bool = True
    hour: float | None = None
    silenced: tuple[str, ...] = ()


@dataclass(frozen=True)
class Candidate:
    """A move before it is judged."""

    kind: str
    title: str
    why: str
    arrangement: Arrangement
    cost: float = 0.0
    minutes: int = 2
    reversible: bool = True
    cautions: tuple[str, ...] = ()
    hour: float | None = None
    silence: str | None = None


@dataclass(frozen=True)
class Move:
    """A judged move: its effect on each mark with standard uncertainty, and its place in the ranking."""

    candidate: Candidate
    effects: dict[str, Figure]
    after: Forecast
    benefit: float
    score: float
    added: tuple[Overlay, ...] = field(default=())


def next_moves(room: Box, arrangement: Arrangement, *, wanted: Wanted, limits: Limits, most: int = 8) -> list[Move]:
    """Ranked moves for this room, best first; one or two of a kind, only those that help and can be afforded.

    room : without the arrangement's treatments and with silenced noises already left out.
    """
    acoustics = Acoustics(room.with_overlays(arrangement.treatments))
    now = forecast(acoustics, arrangement, hour=limits.hour)
    judged = [
        _judged(candidate, room, acoustics, now, wanted, limits)
        for candidate in _candidates(room, arrangement, acoustics, now, wanted, limits)
        if candidate.cost <= limits.budget
    ]
    ranked = sorted((move for move in judged if move.benefit > _LEAST_BENEFIT), key=lambda move: -move.score)
    kept: list[Move] = []
    for move in ranked:
        if sum(other.candidate.kind == move.candidate.kind for other in kept) < _MOST_OF_A_KIND.get(move.candidate.kind, 1):
            kept.append(move)
    return kept[:most]


def _candidates(
    room: Box, arrangement: Arrangement, acoustics: Acoustics, now: Forecast, wanted: Wanted, limits: Limits
) -> Iterator[Candidate]:
    yield from _places(room, arrangement, acoustics, wanted, limits)
    yield from _distances(arrangement)
    yield from _soft_behind(room, arrangement, limits)
    yield from _wardrobes(room, arrangement)
    yield from _reflection_panels(room, arrangement, now, limits)
    yield from _traps(room, arrangement, now, limits)
    yield from _quiet(room, arrangement, limits)


def _judged(candidate: Candidate, room: Box, acoustics: Acoustics, now: Forecast, wanted: Wanted, limits: Limits) -> Move:
    same_surfaces = candidate.arrangement.treatments == now.arrangement.treatments
    quieter = room if candidate.silence is None else without_noises(room, (candidate.silence,))
    after_acoustics = acoustics
    if not same_surfaces:
        after_acoustics = Acoustics(quieter.with_overlays(candidate.arrangement.treatments))
    elif quieter is not room:
        after_acoustics = Acoustics(replace(acoustics.room, noises=quieter.noises))
        after_acoustics.__dict__["modes"] = acoustics.modes  # silencing changes no wall
    hour = candidate.hour if candidate.hour is not None else limits.hour
    after = forecast(after_acoustics, candidate.arrangement, hour=hour)
    before_draws = bounce_draws_db(now.room, now.arrangement)
    after_draws = bounce_draws_db(after.room, after.arrangement)
    bounce = after.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
    effects = {
        "bounce": Figure(bounce, max(float(np.std(after_draws - before_draws)), 0.3)),
        # wall data shift both alike: what remains is about half of the single uncertainty
        "boom": Figure(after.boom.ring_s.value - now.boom.ring_s.value, 0.5 * after.boom.ring_s.plus_minus),
        "hush": Figure(
            after.hush.under_performance_db.value - now.hush.under_performance_db.value,
            0.5 if candidate.silence is None and candidate.hour is None else 3.0,
        ),
        "touch": Figure(after.touch.proximity_db - now.touch.proximity_db, 0.5),
    }
    gaps_now, gaps_after = deficits(now, wanted), deficits(after, wanted)
    benefit = sum(gaps_now[mark] - gaps_after[mark] for mark in gaps_now)
    # a free two-minute move counts nearly in full; an hour and a hundred count for about a third
    score = benefit / (1 + candidate.minutes / 60 + candidate.cost / 100)
    added = candidate.arrangement.treatments[len(now.arrangement.treatments) :]
    return Move(candidate, effects, after, benefit, score, added)


def without_noises(room: Box, names: tuple[str, ...]) -> Box:
    """The room with some noises switched off."""
    return replace(room, noises=tuple(noise for noise in room.noises if noise.name not in names)) if names else room


# Places and aims


def _faced(arrangement: Arrangement, at: Point, faces_deg: float, distance_m: float) -> Arrangement:
    """Performer at a place, microphone in front at `distance_m`, aimed back at the performer."""
    ahead = direction(faces_deg)
    performer, mic = arrangement.performer, arrangement.microphone
    rise = mic.at[2] - performer.at[2]
    level = float(np.sqrt(max(distance_m**2 - rise**2, 0.01)))
    x, y = at[0] + level * float(ahead[0]), at[1] + level * float(ahead[1])
    return replace(
        arrangement,
        performer=Performer(at, faces_deg % 360, performer.source),
        microphone=Microphone((x, y, mic.at[2]), (faces_deg + 180) % 360, mic.tilt_deg, mic.pattern),
    )


def _distance(arrangement: Arrangement) -> float:
    return float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))


def _best_of(spots: list[Arrangement], merit: FloatArray, acoustics: Acoustics, wanted: Wanted, limits: Limits) -> Arrangement:
    """The best of the coarse search's leaders by the full forecast; leaders lie at least half a metre or 60 degrees apart."""
    leaders: list[Arrangement] = []
    for i in np.argsort(-merit):
        spot = spots[int(i)].performer
        if all(
            np.hypot(spot.at[0] - o.performer.at[0], spot.at[1] - o.performer.at[1]) > 0.5
            or abs((spot.faces_deg - o.performer.faces_deg + 180) % 360 - 180) >= 60
            for o in leaders
        ):
            leaders.append(spots[int(i)])
        if len(leaders) == _LOOKED_AT_CLOSELY:
            break
    return min(leaders, key=lambda a: sum(deficits(forecast(acoustics, a, hour=limits.hour, uncertainty=False), wanted).values()))


def _places(room: Box, arrangement: Arrangement, acoustics: Acoustics, wanted: Wanted, limits: Limits) -> Iterator[Candidate]:
    """The best facing on the spot, and the best other place, from a coarse search of the whole floor."""
    distance = _distance(arrangement)
    here = arrangement.performer.at
    on_the_spot = [a for turn in _FACINGS_DEG if _stands_free(room, a := _faced(arrangement, here, turn, distance))]
    if on_the_spot:
        best = _best_of(on_the_spot, np.concatenate([_mapped(acoustics, [a]) for a in on_the_spot]), acoustics, wanted, limits)
        yield Candidate(
            "turn", f"Turn to face {_facing_words(room, best)}, microphone in front of you",
            "Where you send your voice, and what lies behind you in the microphone's view, changes what comes back.",
            best, minutes=2, cautions=(_STAND_CAUTION,),
        )  # fmt: skip
    spots, bounce = _searched(room, arrangement, acoustics)
    if not spots:
        return
    ring = _quick_swell(acoustics, spots)
    merit = -np.maximum((wanted.bounce_db.low or 0) - bounce, 0) / 10 - ring
    best = _best_of(spots, merit, acoustics, wanted, limits)
    x, y, _ = best.performer.at
    face, away = min(((0, x), (1, room.size_m[0] - x), (2, y), (3, room.size_m[1] - y)), key=lambda pair: pair[1])
    yield Candidate(
        "place", f"Move: {away:.2f} m from {surface_words(room, face, best)}, facing {_facing_words(room, best)}",
        "Another spot has softer things around it and sits away from the strongest swells.",
        best, minutes=5, cautions=(_STAND_CAUTION,),
    )  # fmt: skip


def _facing_words(room: Box, arrangement: Arrangement) -> str:
    """What the performer would look at."""
    ahead = direction(arrangement.performer.faces_deg)[:2]
    at = np.array(arrangement.performer.at[:2])
    for furnishing in room.furnishings:
        towards = np.array(furnishing.at) - at
        length = float(np.linalg.norm(towards))
        if length > 0.3 and float(ahead @ towards) / length > 0.94:
            return f"the {furnishing.kind.name}"
    with np.errstate(divide="ignore"):
        reach = np.where(ahead > 0, (np.array(room.size_m[:2]) - at) / ahead, np.where(ahead < 0, -at / ahead, np.inf))
    axis = int(np.argmin(reach))
    face = 2 * axis + int(ahead[axis] > 0)
    corner = abs(float(reach[0] - reach[1])) * float(min(abs(ahead))) < 0.35
    words = surface_words(room, face, arrangement)
    return f"the corner by {words}" if corner else words.replace(f"wall {side_words(face, arrangement)}", "far wall")


def _stands_free(room: Box, arrangement: Arrangement) -> bool:
    mic, performer = arrangement.microphone.at, arrangement.performer.at
    lx, ly, _ = room.size_m
    inside = 0.3 <= mic[0] <= lx - 0.3 and 0.3 <= mic[1] <= ly - 0.3
    return inside and not any(_covers(piece, p) for piece in room.furnishings for p in (mic[:2], performer[:2]))


def _covers(piece: Furnishing, at: tuple[float, float], margin: float = 0.15) -> bool:
    turn = np.deg2rad(piece.turn_deg)
    dx, dy = at[0] - piece.at[0], at[1] - piece.at[1]
    along, across = dx * np.cos(turn) + dy * np.sin(turn), -dx * np.sin(turn) + dy * np.cos(turn)
    return bool(abs(along) < piece.size_m[0] / 2 + margin and abs(across) < piece.size_m[1] / 2 + margin)


def _searched(room: Box, arrangement: Arrangement, acoustics: Acoustics) -> tuple[list[Arrangement], FloatArray]:
    """All free places on the floor, every facing, with their direct over room. [dB]"""
    here, distance = arrangement.performer.at, _distance(arrangement)
    grid = [
        (float(x), float(y), here[2])
        for x in np.arange(_WALL_CLEARANCE_M, room.size_m[0] - _WALL_CLEARANCE_M + 1e-9, _SEARCH_STEP_M)
        for y in np.arange(_WALL_CLEARANCE_M, room.size_m[1] - _WALL_CLEARANCE_M + 1e-9, _SEARCH_STEP_M)
        if np.hypot(x - here[0], y - here[1]) > 0.4
    ]
    spots: list[Arrangement] = []
    bounce: list[FloatArray] = [np.zeros(0)]
    for turn in _FACINGS_DEG:
        facing = [a for at in grid if _stands_free(room, a := _faced(arrangement, at, turn, distance))]
        if facing:
            spots += facing
            bounce.append(_mapped(acoustics, facing))
    return spots, np.concatenate(bounce)


def _mapped(acoustics: Acoustics, facing: list[Arrangement]) -> FloatArray:
    """Direct over room at places that all face alike, mean of 500 to 2000 Hz, (n,). [dB]"""
    sources, mics = (np.array([getattr(a, who).at for a in facing]) for who in ("performer", "microphone"))
    by_octave = direct_over_room_map_db(acoustics.room, facing[0], sources=sources, mics=mics)
    return by_octave[:, MID_OCTAVES].mean(axis=1)


def _quick_swell(acoustics: Acoustics, spots: list[Arrangement]) -> FloatArray:
    """How strongly the first dozen modes are driven and heard at each spot, (n,). [-]"""
    modes = acoustics.modes
    low = modes.rigid[:24]
    size = acoustics.room.size_m
    source = mode_values(low, np.array([a.performer.at for a in spots]), size_m=size)
    mic = mode_values(low, np.array([a.microphone.at for a in spots]), size_m=size)
    swell: FloatArray = np.max(np.abs(source * mic), axis=1) / 8
    return swell


def _distances(arrangement: Arrangement) -> Iterator[Candidate]:
    now = _distance(arrangement)
    for factor in (0.5, 0.7):
        nearer = max(now * factor, _NEAR_M)
        if nearer < now - 0.04:
            mic, performer = np.array(arrangement.microphone.at), np.array(arrangement.performer.at)
            x, y, z = performer + (mic - performer) * nearer / now
            yield Candidate(
                "distance", f"Bring the microphone to {nearer * 100:.0f} cm from your mouth",
                "Half the distance doubles your own sound and leaves the room as it was. "
                "Closer also lifts the bass and makes swaying louder.",
                replace(arrangement, microphone=replace(arrangement.microphone, at=(float(x), float(y), float(z)))),
                minutes=1, cautions=("A pop screen keeps breath off the capsule at this distance.",) if nearer < 0.25 else (),
            )  # fmt: skip


# Soft things


def _face_behind(room: Box, arrangement: Arrangement) -> tuple[int, FloatArray]:
    """Wall that the microphone sees past the performer, and where its axis meets it."""
    mic, performer = np.array(arrangement.microphone.at), np.array(arrangement.performer.at)
    ray = performer - mic
    ray[2] = 0.0
    if float(np.linalg.norm(ray)) < 1e-6:
        ray = -direction(arrangement.performer.faces_deg)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = np.array(room.size_m)
        reach = np.where(ray > 1e-9, (size - performer) / ray, np.where(ray < -1e-9, -performer / ray, np.inf))
    axis = int(np.argmin(reach[:2]))
    return 2 * axis + int(ray[axis] > 0), performer + ray * reach[axis]


def _centred(room: Box, face: int, centre: FloatArray, width: float, height: float, *, lowest: float = 0.0) -> tuple[float, ...]:
    """Rectangle on a face around a point, pushed inside its edges."""
    a, b = tangential(face)
    ea, eb = room.face_extent_m(face)
    width, height = min(width, ea), min(height, eb - lowest)
    a0 = float(np.clip(centre[a] - width / 2, 0, ea - width))
    b0 = float(np.clip(centre[b] - height / 2, lowest, eb - height))
    return a0, a0 + width, b0, b0 + height


def _clear_of_furniture(room: Box, face: int, rect: tuple[float, ...]) -> tuple[float, ...] | None:
    """The widest part of a rectangle on a wall that no tall furniture stands in front of, None when under 1 m is left."""
    along = 1 - face // 2
    spans = [(rect[0], rect[1])]
    for piece in room.furnishings:
        turn = np.deg2rad(piece.turn_deg)
        across_m = [
            abs(piece.size_m[0] * np.cos(turn)) + abs(piece.size_m[1] * np.sin(turn)),
            abs(piece.size_m[0] * np.sin(turn)) + abs(piece.size_m[1] * np.cos(turn)),
        ]
        gap = abs(piece.at[face // 2] - (room.size_m[face // 2] if face % 2 else 0.0)) - across_m[face // 2] / 2
        if gap > 0.3 or piece.size_m[2] < rect[2] + 0.3:
            continue
        low, high = piece.at[along] - across_m[along] / 2, piece.at[along] + across_m[along] / 2
        spans = [part for a, b in spans for part in ((a, min(b, low)), (max(a, high), b)) if part[1] > part[0]]
    widest = max(spans, key=lambda span: span[1] - span[0], default=(0.0, 0.0))
    return (*widest, rect[2], rect[3]) if widest[1] - widest[0] >= _LEAST_CLOTH_M else None


def _with(arrangement: Arrangement, *overlays: Overlay) -> Arrangement:
    return replace(arrangement, treatments=(*arrangement.treatments, *overlays))


def _overlay(room: Box, kind: str, face: int, rect: tuple[float, ...], material_key: str | PorousAbsorber, name: str) -> Overlay:
    material = (
        CATALOGUE[material_key] if isinstance(material_key, str) else computed_material(material_key, name=name, air=room.air)
    )
    return Overlay(name, face, (rect[0], rect[1], rect[2], rect[3]), material, True, kind)


def _soft_behind(room: Box, arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    face, centre = _face_behind(room, arrangement)
    where = surface_words(room, face, arrangement)
    why = "The microphone looks past you at that wall: softness there counts most, more than foam behind the microphone."
    if not _taken(arrangement, face, ("duvet", "curtain", "open-wardrobe")):
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.0, 1.8, lowest=0.4))
        if limits.has_duvet and rect is not None:
            yield Candidate(
                "soft-behind", f"Hang the duvet in front of {where}, two hands' width off it", why,
                _with(arrangement, _overlay(room, "duvet", face, rect, "duvet-hung", "Duvet")),
                minutes=10, cautions=(_FIRE_CAUTION, _STAND_CAUTION),
            )  # fmt: skip
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.2, 2.2))
        if rect is None:
            return
        yield Candidate(
            "soft-behind", f"A heavy curtain in folds across {where}, a hand's width off it", why,
            _with(arrangement, _overlay(room, "curtain", face, rect, "curtain-cotton", "Curtain")),
            cost=70.0, minutes=45, cautions=(_FIRE_CAUTION, *([_WALL_CAUTION] if limits.may_drill else [])),
        )  # fmt: skip


def _wardrobes(room: Box, arrangement: Arrangement) -> Iterator[Candidate]:
    for piece in room.furnishings:
        if piece.kind.key == "wardrobe" and not _taken(arrangement, None, ("open-wardrobe",)):
            yield from _open_wardrobe(room, arrangement, piece)


def _open_wardrobe(room: Box, arrangement: Arrangement, piece: Furnishing) -> Iterator[Candidate]:
    """Stand with the back to the open wardrobe: its clothes become the wall behind the performer."""
    x, y = piece.at
    gaps = {0: x, 1: room.size_m[0] - x, 2: y, 3: room.size_m[1] - y}
    turn = np.deg2rad(piece.turn_deg)
    front = np.array([-np.sin(turn), np.cos(turn)])
    face = max(range(4), key=lambda f: (-1 if f % 2 == 0 else 1) * -front[f // 2] - 0.01 * gaps[f])
    width = min(piece.size_m[0], room.face_extent_m(face)[0])
    rect = _centred(room, face, np.array([x, y, piece.size_m[2] / 2]), width, piece.size_m[2])
    open_ = _overlay(room, "open-wardrobe", face, rect, "wardrobe-open", "Open wardrobe")
    inward = np.zeros(2)
    inward[face // 2] = 1.0 if face % 2 == 0 else -1.0
    stand = np.array([x, y]) + inward * (piece.size_m[1] / 2 + 0.45)
    faces_deg = float(np.degrees(np.arctan2(inward[1], inward[0])))
    placed = _faced(
        arrangement, (float(stand[0]), float(stand[1]), arrangement.performer.at[2]), faces_deg, _distance(arrangement)
    )
    if _stands_free(replace(room, furnishings=tuple(f for f in room.furnishings if f is not piece)), placed):
        yield Candidate(
            "wardrobe", "Open the wardrobe and stand with your back to it",
            "Hanging clothes half a metre deep swallow what goes past you, down into the bass.",
            _with(placed, open_), minutes=4, cautions=("Check that open doors cannot swing against the stand.",),
        )  # fmt: skip


def _taken(arrangement: Arrangement, face: int | None, kinds: tuple[str, ...]) -> bool:
    return any(o.kind in kinds and (face is None or o.face == face) for o in arrangement.treatments)


def _free_rect(room: Box, arrangement: Arrangement, face: int, rect: tuple[float, ...]) -> bool:
    """Whether a panel there would cover neither window, door nor another treatment."""
    return not any(
        o.face == face and min(rect[1], o.rect[1]) > max(rect[0], o.rect[0]) and min(rect[3], o.rect[3]) > max(rect[2], o.rect[2])
        for o in (*room.overlays, *arrangement.treatments)
    )


def _reflection_panels(room: Box, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """A panel where the strongest single reflections hit: walls and ceiling; a rug where it is the floor."""
    single = np.flatnonzero(now.paths.faces[:, 1] < 0)
    for path in single[np.argsort(-now.paths.level_db[single])][:3]:
        face, hit = int(now.paths.faces[path, 0]), now.paths.points[path, 0]
        delay, level = now.paths.delay_s[path] * 1000, now.paths.level_db[path]
        where = surface_words(room, face, arrangement)
        why = f"The strongest single return comes from there: {delay:.1f} ms after you, {level:.0f} dB."
        if face == FLOOR:
            rect = _centred(room, face, hit, 1.4, 2.0)
            if not _taken(arrangement, FLOOR, ("rug",)):
                yield Candidate(
                    "reflection", "Lay a thick rug between you and the microphone", why,
                    _with(arrangement, _overlay(room, "rug", face, rect, "carpet-cotton", "Rug")),
                    cost=60.0, minutes=5, cautions=("Lay it flat, with a non-slip mat: rugs trip people.",),
                )  # fmt: skip
            continue
        wide, high = (1.2, 0.6) if face == CEILING else (0.6, 1.2)
        rect = _centred(room, face, hit, wide, high)
        if not _free_rect(room, arrangement, face, rect):
            continue
        mounted = "screwed" if limits.may_drill else "leaned on a shelf or stand"
        cautions = [_FIBRE_CAUTION, _FIRE_CAUTION]
        if face == CEILING:
            if not limits.may_drill:
                continue  # nothing heavy overhead without proper fixings
            cautions.insert(0, _OVERHEAD_CAUTION)
        cautions.append(_WALL_CAUTION if limits.may_drill else _STAND_CAUTION)
        yield Candidate(
            "reflection", f"A 60 x 120 cm panel, 10 cm thick, on {where}, {mounted}", why,
            _with(arrangement, _overlay(room, "panel", face, rect, _PANEL, "Panel")),
            cost=45.0, minutes=60 if limits.may_drill else 30, cautions=tuple(cautions),
        )  # fmt: skip


def _traps(room: Box, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """Two thick panels where the worst note presses hardest: the walls its pressure loads, in a corner."""
    orders = now.modes.orders[now.boom.worst_mode]
    lx, ly, lz = room.size_m
    options = []
    for face in range(4):
        axis = face // 2
        along = 1 - axis
        extent = (lx, ly)[along]
        for corner in (0.0, extent - 0.6):
            rect = (corner, corner + 0.6, 0.0, min(1.2, lz))
            stacked = (corner, corner + 0.6, rect[3], min(2.4, lz))
            if _free_rect(room, arrangement, face, rect) and _free_rect(room, arrangement, face, stacked):
                options.append((int(orders[axis] > 0), face, rect, stacked))
    if not options:
        return
    _, face, rect, stacked = max(options, key=lambda option: option[0])
    traps = tuple(_overlay(room, "panel", face, r, _TRAP, "Bass trap") for r in (rect, stacked) if r[3] - r[2] > 0.2)
    yield Candidate(
        "trap", f"Two 60 x 120 cm panels, 20 cm thick, stacked in the corner on {surface_words(room, face, arrangement)}",
        f"The note near {note_words(now.boom.note_hz)} presses hardest in the corners; only thick panels reach that low.",
        _with(arrangement, *traps), cost=110.0, minutes=90,
        cautions=(_FIBRE_CAUTION, _FIRE_CAUTION, "Strap the stack to the wall so that it cannot tip."),
    )  # fmt: skip


# Quiet


def _quiet(room: Box, arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    for noise in room.noises:
        if noise.kind == "inside" and noise.runs_at(limits.hour):
            yield Candidate(
                "silence", f"Keep {_the(noise.name)} out of it: off, or in the next room",
                "It is the noise you have in your own hands.", arrangement, minutes=3, cautions=(_MAINS_CAUTION,), silence=noise.name,
            )  # fmt: skip
    if limits.hour is not None:
        here = [noise for noise in room.noises if noise.hours and noise.runs_at(limits.hour)]
        if here:
            quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not any(n.runs_at(float(h)) for n in here)]
            if not quiet_hours:
                loudest = max(here, key=lambda n: float(n.level_db.max()))
                here = [loudest]
                quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not loudest.runs_at(float(h))]
            if quiet_hours:
                hour = float(quiet_hours[0])
                yield Candidate(
                    "hour", f"Record after {int(hour):02d}:{int(hour % 1 * 60):02d}",
                    f"{' and '.join(n.name for n in here)} will have stopped by then.", arrangement, minutes=1, hour=hour,
                )  # fmt: skip


def _the(name: str) -> str:
    return f"the {name[0].lower()}{name[1:]}"

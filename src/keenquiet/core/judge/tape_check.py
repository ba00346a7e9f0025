"""Do the returns that were heard agree with the tape? Each first return's delay against the drawing, and what is off if
they do not.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.read.early import Reflection, early_reflections
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.paths import Paths

_FAINTEST_DB: Final = -30.0  # returns predicted fainter than this are not asked for
_WITHIN_MS: Final = 14.0  # later, returns come too thick to be told apart
_LEVEL_SLACK_DB: Final = 10.0
_SAME_MS: Final = 0.15  # 5 cm of way: tape, marks and the envelope's own width
HEARD_WHERE_DRAWN_M: Final = 0.06  # of way: as far off as still counts as where it is drawn
_STEP_M: Final = 0.01
_REACH_M: Final = 0.40
_LEAST_OFF_M: Final = 0.04
_SURE: Final = 0.8  # share of returns that agree from which nothing else is tried
_AGREES: Final = 0.65
_BETTER: Final = 0.12  # share that an explanation must gain over the drawing before it is said
_PER_M: Final = 0.4  # of two that explain as much, the smaller: share given up for each metre moved


@dataclass(frozen=True, slots=True)
class ReturnCheck:
    """One surface's first return: face number, drawn delay, heard delay or None, how far the way is off [m]."""

    face: int
    drawn_ms: float
    heard_ms: float | None
    off_m: float | None


@dataclass(frozen=True)
class TapeCheck:
    """returns : one for each surface that should be heard. agrees : True, False, or None when too few were heard to
    say.

    suspect : what would explain the difference: ("face", number) or ("microphone", axis), and by how far [m]; else
    None.
    """

    returns: tuple[ReturnCheck, ...]
    agrees: bool | None
    suspect: tuple[str, int] | None
    off_m: float | None


def tape_check(
    room: Room, arrangement: Arrangement, paths: Paths, impulse: FloatArray, sample_rate_hz: float
) -> TapeCheck:
    """Set heard arrivals against the returns of the drawing, once and twice reflected.

    impulse : (n,) measured response. The delays of what follows the direct sound do not depend on when the recorder
    started, so they can
    be checked against lengths; the direct sound's own travel time cannot, and is not pretended. If too few agree, one
    wall at a
    time and the microphone along each axis are moved by up to 0.4 m, and what brings back clearly more returns is
    named.
    """
    heard = early_reflections(impulse, sample_rate_hz, most=30, reach_ms=_WITHIN_MS + 1, prominence_db=1.0)
    real = (paths.faces[:, 0] < len(room.faces)) & (paths.faces[:, 1] < len(room.faces)) & ~paths.blocked
    asked = np.flatnonzero(real & (paths.level_db > _FAINTEST_DB) & (paths.delay_s * 1000 < _WITHIN_MS))
    if len(asked) < 3 or len(heard) < 3:
        return TapeCheck((), None, None, None)
    faces, level = paths.faces[asked], paths.level_db[asked]
    weight = 10 ** ((level - level.max()) / 40)  # a return 12 dB fainter weighs half
    source, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    still = np.zeros((1, len(room.faces)))
    c = room.air.speed_m_s
    drawn = _delays_ms(room, faces, source, mic[None], still, c)
    others = np.flatnonzero((paths.level_db > _FAINTEST_DB - 8) & ~paths.blocked)
    known_ms = (
        paths.delay_s[np.setdiff1d(others, asked)] * 1000
    )  # from furniture or faint: they explain, but are not asked for
    share = float(_shares(drawn, level, weight, known_ms, heard)[0])
    checks = tuple(
        _checked(int(f[0]), float(d), float(v), heard, c)
        for f, d, v in zip(faces, drawn[0], level, strict=True)
        if f[1] < 0
    )
    if share >= _SURE:
        return TapeCheck(checks, True, None, None)
    best: tuple[float, tuple[str, int] | None, float] = (share + _BETTER, None, 0.0)
    steps = np.arange(-_REACH_M, _REACH_M + _STEP_M / 2, _STEP_M)
    steps = steps[np.abs(steps) >= _LEAST_OFF_M]
    for what, moved_mic, moved_faces in _hypotheses(
        sorted(set(faces[faces >= 0].tolist())), mic, len(room.faces), steps
    ):
        found = _shares(_delays_ms(room, faces, source, moved_mic, moved_faces, c), level, weight, known_ms, heard)
        found -= _PER_M * np.abs(steps)
        top = int(np.argmax(found))
        if found[top] > best[0]:
            best = (float(found[top]), what, float(steps[top]))
    if best[1] is None or best[0] < _AGREES:
        return TapeCheck(checks, True if share >= _AGREES else None, None, None)
    return TapeCheck(checks, False, best[1], best[2])


def _checked(face: int, drawn_ms: float, level_db: float, heard: list[Reflection], speed_m_s: float) -> ReturnCheck:
    near = [r for r in heard if abs(r.delay_ms - drawn_ms) < 0.6 and abs(r.level_db - level_db) < _LEVEL_SLACK_DB]
    if not near:
        return ReturnCheck(face, drawn_ms, None, None)
    best = min(near, key=lambda r: abs(r.delay_ms - drawn_ms))
    return ReturnCheck(face, drawn_ms, best.delay_ms, speed_m_s * (best.delay_ms - drawn_ms) / 1000)


def _delays_ms(
    room: Room, faces: IntArray, source: FloatArray, mic: FloatArray, outwards_m: FloatArray, speed_m_s: float
) -> FloatArray:
    """Delay after the direct sound of each path by its images, (n_steps, n). faces : (n, 2), -1 where there is no
    second.

    mic : (n_steps or 1, 3). outwards_m : (n_steps or 1, n_faces), by how far each plane lies further out than drawn.
    """
    normal = np.array([face.normal for face in room.faces])
    origin = np.array([face.origin for face in room.faces])
    image = np.broadcast_to(source, (len(outwards_m), len(faces), 3))
    for turn in (0, 1):
        which = faces[:, turn]
        gap = np.einsum("...ij,ij->...i", image - origin[which], normal[which]) + outwards_m[:, which]
        image = image - np.where(which >= 0, 2 * gap, 0.0)[..., None] * normal[which]
    direct = np.linalg.norm(source - mic, axis=-1)[:, None]
    delays: FloatArray = (np.linalg.norm(image - mic[:, None], axis=-1) - direct) / speed_m_s * 1000
    return delays


def _hypotheses(
    faces: list[int], mic: FloatArray, n_faces: int, steps: FloatArray
) -> Iterator[tuple[tuple[str, int], FloatArray, FloatArray]]:
    """What could be misread, with the microphone's places (n_steps, 3) and the planes' shifts (n_steps, n_faces) for
    each step.
    """
    still = np.zeros((len(steps), n_faces))
    for face in faces:
        moved = still.copy()
        moved[:, face] = steps
        yield ("face", face), np.tile(mic, (len(steps), 1)), moved
    for axis in range(3):
        places = np.tile(mic, (len(steps), 1))
        places[:, axis] += steps
        yield ("microphone", axis), places, still


def _shares(
    delays_ms: FloatArray, level_db: FloatArray, weight: FloatArray, known_ms: FloatArray, heard: list[Reflection]
) -> FloatArray:
    """Mean of two shares for each step: of the drawn returns that are heard, and of the heard ones that are drawn,
    (n_steps,).

    The second keeps a wall that is drawn too far from passing because something else happens to arrive there.
    """
    when = np.array([arrival.delay_ms for arrival in heard])
    loud = np.array([arrival.level_db for arrival in heard])
    like = np.abs(loud - level_db[:, None]) < _LEVEL_SLACK_DB
    closeness = np.exp(-(((delays_ms[..., None] - when) / _SAME_MS) ** 2)) * like
    found = closeness.max(axis=-1) @ weight / weight.sum()
    told = 10 ** ((loud - loud.max()) / 20) * (when < delays_ms.max(axis=-1, keepdims=True) + 0.3)
    by_known = (
        np.exp(-(((known_ms[:, None] - when) / _SAME_MS) ** 2)).max(axis=0) if len(known_ms) else np.zeros(len(when))
    )
    drawn = np.maximum(closeness.max(axis=-2), by_known)
    shares: FloatArray = 0.5 * (found + (drawn * told).sum(axis=-1) / told.sum(axis=-1))
    return shares

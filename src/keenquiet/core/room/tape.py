"""Tape readings made to agree: the plan that fits walls and diagonals best, and the reading that fits worst."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

TAPE_SPREAD_M: Final = 0.005  # a steel tape, one person, skirting boards in the way
_ANGLE_SPREAD: Final = 0.02  # how far a corner that is meant to be square is off: about 1 degree
_KEEP_SPREAD_M: Final = 1.0  # where nothing was measured the drawn corner stays
_SUSPECT_M: Final = 0.02


@dataclass(frozen=True, slots=True)
class Reading:
    """A length between two corners, 0-based. [m]"""

    start: int
    end: int
    length_m: float


@dataclass(frozen=True)
class Squared:
    """plan : (n, 2) the corners that fit best. [m]   residual_m : (n_readings,) fitted less read. [m]
    rms_m : root mean square of them. [m]   suspect : number of the reading without which all others agree, or None.
    angles_deg : (n,) inner angles. [deg]
    """

    plan: FloatArray
    residual_m: FloatArray
    rms_m: float
    suspect: int | None
    angles_deg: FloatArray


def squared_up(plan: FloatArray, readings: list[Reading]) -> Squared:
    """Least squares of all readings, with corners drawn within 12 degrees of square held softly to 90.

    plan : (n, 2) as drawn. [m]  The first corner stays, and the first wall keeps its direction.
    A reading is suspect when leaving it out lets the rest agree much better and it is off by 2 cm or more; four walls
    and one
    diagonal alone cannot tell, the square corners do. Raises InputError for readings that name no two corners.
    """
    plan = np.asarray(plan, dtype=float)
    for number, reading in enumerate(readings):
        if not (0 <= reading.start < len(plan) and 0 <= reading.end < len(plan) and reading.start != reading.end):
            raise InputError(
                f"readings.{number}", "does not run between two corners of the plan.", "Choose two corners."
            )
        if not 0.02 <= reading.length_m <= 60:
            raise InputError(
                f"readings.{number}", f"{reading.length_m:g} m is no wall or diagonal.", "Check the tape and its unit."
            )
    fitted, cost = _fitted(plan, readings)
    residual = np.array([np.linalg.norm(fitted[r.end] - fitted[r.start]) - r.length_m for r in readings])
    suspect = None
    if len(readings) > 1:
        without = [_fitted(plan, readings[:i] + readings[i + 1 :]) for i in range(len(readings))]
        best = int(np.argmin([left for _, left in without]))
        corners = without[best][0]
        off = abs(
            float(np.linalg.norm(corners[readings[best].end] - corners[readings[best].start])) - readings[best].length_m
        )
        others = sorted(left for i, (_, left) in enumerate(without) if i != best)
        if off > _SUSPECT_M and without[best][1] < 0.35 * cost and without[best][1] < 0.6 * others[0]:
            suspect = best
    rms = float(np.sqrt(np.mean(residual**2))) if len(readings) else 0.0
    return Squared(fitted, residual, rms, suspect, inner_angles_deg(fitted))


def inner_angles_deg(plan: FloatArray) -> FloatArray:
    """Inner angle at each corner of an anticlockwise plan, (n,). [deg]"""
    before, after = plan - np.roll(plan, 1, axis=0), np.roll(plan, -1, axis=0) - plan
    turn = np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], np.sum(before * after, axis=1))
    angles: FloatArray = 180 - np.degrees(turn)
    return angles


def _fitted(plan: FloatArray, readings: list[Reading]) -> tuple[FloatArray, float]:
    angles = inner_angles_deg(plan)
    square = np.abs(np.abs(angles - 180) - 90) < 12
    first = plan[1] - plan[0]
    direction = first / np.linalg.norm(first)

    def corners(free: FloatArray) -> FloatArray:
        return np.vstack([plan[0], plan[0] + free[0] * direction, free[1:].reshape(-1, 2)])

    def misfit(free: FloatArray) -> FloatArray:
        at = corners(free)
        lengths = [(np.linalg.norm(at[r.end] - at[r.start]) - r.length_m) / TAPE_SPREAD_M for r in readings]
        before, after = at - np.roll(at, 1, axis=0), np.roll(at, -1, axis=0) - at
        cosine = np.sum(before * after, axis=1) / (np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1))
        return np.concatenate([lengths, cosine[square] / _ANGLE_SPREAD, (at - plan).ravel() / _KEEP_SPREAD_M])

    start = np.concatenate([[np.linalg.norm(first)], plan[2:].ravel()])
    solved = scipy.optimize.least_squares(misfit, start, method="lm" if len(start) < 60 else "trf")
    return corners(solved.x), float(solved.cost)

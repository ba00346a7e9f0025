"""Cutting lengths from stock with least waste: the one-dimensional cutting stock problem.

Column generation (P. Gilmore, R. Gomory, A linear programming approach to the cutting-stock problem, Operations
Research 9, 1961): patterns are added while one would lower the linear programme, then whole numbers of the patterns are
chosen. The linear programme is solved by HiGHS (scipy), the whole numbers and the knapsacks by CP-SAT (OR-Tools).
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy import optimize

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray, IntArray

KERF_MM: Final = 3.0  # a hand saw or a circular saw's thin blade
MOST_PIECES: Final = 2000
_MOST_LENGTHS: Final = 200
_ROUNDS: Final = 200
_SEED: Final = 7
_VARIED: Final = 30
_TIGHT: Final = 0.04  # of a bar: what is left over in a way to cut that is worth keeping
_WORK: Final = 2.0  # of CP-SAT, in its own measure
_SCALE: Final = 1_000_000  # costs as whole numbers


@dataclass(frozen=True)
class Stock:
    """length_mm : of one bar. count : how many there are, None as many as needed. price : of one; 0 counts length."""

    length_mm: float
    count: int | None = None
    price: float = 0.0


@dataclass(frozen=True)
class Bar:
    """One bar and what is cut from it, longest first. [mm]"""

    stock_mm: float
    cuts_mm: tuple[float, ...]


@dataclass(frozen=True)
class Cutting:
    """bars : longest cuts first. waste_share : of all stock, saw cuts included. lower_bound_bars : no fewer will do."""

    bars: tuple[Bar, ...]
    waste_share: float
    lower_bound_bars: int


def cut(pieces_mm: Sequence[float], stock: Sequence[Stock], *, kerf_mm: float = KERF_MM) -> Cutting:
    """The bars to cut. Raises InputError for lengths that are none, and for stock that does not suffice."""
    _check(pieces_mm, stock, kerf_mm)
    if not pieces_mm:
        return Cutting((), 0.0, 0)
    demand = Counter(round(float(length), 1) for length in pieces_mm)
    lengths = np.array(sorted(demand, reverse=True))
    wanted = np.array([demand[length] for length in lengths])
    rooms = [int(i) for i in np.argsort([-one.length_mm for one in stock])]
    cost = np.array([one.price if one.price > 0 else one.length_mm / 1000 for one in stock])
    patterns = _Patterns(lengths, wanted, stock, kerf_mm)
    for room in rooms:
        patterns.start(room)
    least_cost = _grown(patterns, cost)
    least = least_cost / cost[0]
    if len(set(cost)) > 1:
        counting = _Patterns(lengths, wanted, stock, kerf_mm)
        for room in rooms:
            counting.start(room)
        least = _grown(counting, np.ones(len(stock)))
    for room in rooms:
        patterns.vary(room)
    bars = _whole(patterns, cost, least=int(np.ceil(least - 1e-6)))
    used = sum(bar.stock_mm for bar in bars)
    return Cutting(
        tuple(sorted(bars, key=lambda bar: (-bar.stock_mm, tuple(-length for length in bar.cuts_mm)))),
        float(1 - sum(pieces_mm) / used),
        int(np.ceil(least - 1e-6)),
    )


def _check(pieces_mm: Sequence[float], stock: Sequence[Stock], kerf_mm: float) -> None:
    if not stock:
        raise InputError("stock", "there is none.", "Name at least one length that can be bought.")
    if len(pieces_mm) > MOST_PIECES or len(set(pieces_mm)) > _MOST_LENGTHS:
        raise InputError("pieces", f"{len(pieces_mm)} are too many at once.", f"Cut {MOST_PIECES} at most in one go.")
    if not np.isfinite(kerf_mm) or not 0 <= kerf_mm <= 20:
        raise InputError("kerf_mm", f"a cut of {kerf_mm} mm is none.", "Between 0 and 20 mm.")
    for field, lengths in (("pieces", pieces_mm), ("stock", [one.length_mm for one in stock])):
        wrong = next((length for length in lengths if not np.isfinite(length) or length <= 0), None)
        if wrong is not None:
            raise InputError(field, f"{wrong} mm is no length.", "Give millimetres above 0.")
    if any(one.price < 0 or (one.count is not None and one.count < 0) for one in stock):
        raise InputError("stock", "a price or a count is negative.", "Give 0 or more.")
    longest = max(one.length_mm for one in stock if one.count != 0) if any(one.count != 0 for one in stock) else 0.0
    if pieces_mm and max(pieces_mm) > longest:
        raise InputError(
            "pieces",
            f"one of {max(pieces_mm):g} mm is longer than any stock ({longest:g} mm).",
            "Buy longer stock, or join it from two.",
        )


class _Patterns:
    """Ways to cut a bar: how often each length, and from which stock."""

    def __init__(self, lengths: FloatArray, wanted: IntArray, stock: Sequence[Stock], kerf_mm: float) -> None:
        self.lengths, self.wanted, self.stock, self.kerf_mm = lengths, wanted, stock, kerf_mm
        self.cuts: list[IntArray] = []
        self.of: list[int] = []

    def add(self, room: int, cuts: IntArray) -> bool:
        if not np.any(cuts) or any(
            o == room and np.array_equal(c, cuts) for o, c in zip(self.of, self.cuts, strict=True)
        ):
            return False
        self.cuts.append(cuts)
        self.of.append(room)
        return True

    def holds(self, room: int) -> float:
        """A last piece needs no cut behind it. [mm]"""
        return self.stock[room].length_mm + self.kerf_mm

    def start(self, room: int) -> None:
        """Each length alone as often as it fits, and all by first fit, longest first."""
        for number, length in enumerate(self.lengths):
            fit = min(int(self.holds(room) // (length + self.kerf_mm)), int(self.wanted[number]))
            if fit:
                self.add(room, np.eye(len(self.lengths), dtype=np.int64)[number] * fit)
        left = self.wanted.copy()
        while np.any(left):
            cuts, space = np.zeros_like(left), self.holds(room)
            for number, length in enumerate(self.lengths):
                fit = min(int((space + 1e-9) // (length + self.kerf_mm)), int(left[number]))
                cuts[number], space = fit, space - fit * (length + self.kerf_mm)
            if not np.any(cuts):
                break
            left = left - cuts
            self.add(room, cuts)

    def vary(self, room: int) -> None:
        """Bars filled in other orders: whole numbers need more ways than the linear programme does."""
        rng = np.random.default_rng(_SEED)
        for _ in range(_VARIED):
            left = self.wanted.copy()
            while np.any(left):
                cuts, space = np.zeros_like(left), self.holds(room)
                for number in rng.permutation(np.repeat(np.arange(len(left)), left)):
                    if self.lengths[number] + self.kerf_mm <= space + 1e-9:
                        cuts[number] += 1
                        space -= self.lengths[number] + self.kerf_mm
                if not np.any(cuts):
                    break
                left = left - cuts
                if space < _TIGHT * self.holds(room):
                    self.add(room, cuts)

    def matrix(self) -> FloatArray:
        return np.array(self.cuts, dtype=float).T

    def limits(self) -> tuple[FloatArray, FloatArray]:
        """Rows and bounds for stock of which there is only so much."""
        rows = [[float(o == room) for o in self.of] for room, one in enumerate(self.stock) if one.count is not None]
        return np.array(rows).reshape(-1, len(self.of)), np.array(
            [float(one.count) for one in self.stock if one.count is not None]
        )


def _grown(patterns: _Patterns, cost: FloatArray) -> float:
    """Adds patterns until none lowers the linear programme; returns what it then costs."""
    value = float("inf")
    for _ in range(_ROUNDS):
        rows, most = patterns.limits()
        found = optimize.linprog(
            cost[patterns.of],
            A_ub=np.vstack([-patterns.matrix(), rows]),
            b_ub=np.concatenate([-patterns.wanted, most]),
            method="highs",
        )
        if found.status != 0:
            raise InputError("stock", "there is not enough of it for all pieces.", "Raise a count, or drop a piece.")
        value = float(found.fun or 0.0)
        duals = -found.ineqlin.marginals
        worth, scarce = duals[: len(patterns.wanted)], duals[len(patterns.wanted) :]
        limited = [room for room, one in enumerate(patterns.stock) if one.count is not None]
        added = False
        for room in range(len(patterns.stock)):
            price = cost[room] + (scarce[limited.index(room)] if room in limited else 0.0)
            cuts = _dearest(patterns, room, worth)
            if float(worth @ cuts) > price + 1e-7:
                added |= patterns.add(room, cuts)
        if not added:
            break
    return value


def _dearest(patterns: _Patterns, room: int, worth: FloatArray) -> IntArray:
    """The pattern that is worth most: a bounded knapsack."""
    most = np.minimum(patterns.wanted, patterns.holds(room) // (patterns.lengths + patterns.kerf_mm)).astype(int)
    lengths = _tenths(patterns.lengths + patterns.kerf_mm)
    found = _whole_numbers([int(m) for m in most], [(lengths, _tenths([patterns.holds(room)])[0], "most")], -worth)
    return np.zeros(len(lengths), dtype=np.int64) if found is None else found


def _whole(patterns: _Patterns, cost: FloatArray, *, least: int) -> list[Bar]:
    """Whole numbers of the patterns; what is cut too often is left out."""
    matrix = np.array(patterns.cuts).T
    rows, most = patterns.limits()
    limits = [
        ([int(n) for n in row], int(wanted), "least") for row, wanted in zip(matrix, patterns.wanted, strict=True)
    ]
    limits += [([int(n) for n in row], int(bound), "most") for row, bound in zip(rows, most, strict=True)]
    limits.append(([1] * len(patterns.of), least, "least"))  # known: it need not be proved again
    found = _whole_numbers([int(patterns.wanted.sum())] * len(patterns.of), limits, cost[patterns.of])
    if found is None:
        raise InputError("stock", "there is not enough of it for all pieces.", "Raise a count, or drop a piece.")
    left = patterns.wanted.copy()
    bars = []
    for number, times in enumerate(found):
        for _ in range(int(times)):
            cuts = np.minimum(patterns.cuts[number], left)
            left = left - cuts
            if np.any(cuts):
                lengths = tuple(float(length) for length in np.repeat(patterns.lengths, cuts))
                bars.append(Bar(patterns.stock[patterns.of[number]].length_mm, lengths))
    return bars


def _tenths(lengths: Sequence[float] | FloatArray) -> list[int]:
    """Lengths in whole tenths of a millimetre."""
    return [round(10 * float(length)) for length in lengths]


def _whole_numbers(
    most: Sequence[int], limits: Sequence[tuple[Sequence[int], int, str]], cost: FloatArray
) -> IntArray | None:
    """Whole numbers from 0 to `most` that cost least under limits (weights, bound, `most` or `least`); None without."""
    from ortools.sat.python import cp_model  # heavy: half a second and 50 MB, only when something is cut

    model = cp_model.CpModel()
    numbers = [model.new_int_var(0, bound, "") for bound in most]
    for weights, bound, side in limits:
        total = cp_model.LinearExpr.weighted_sum(numbers, list(weights))
        model.add(total <= bound if side == "most" else total >= bound)
    model.minimize(cp_model.LinearExpr.weighted_sum(numbers, [round(float(c) * _SCALE) for c in cost]))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = _WORK  # the same answer on a fast and on a slow machine
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    return np.array([solver.value(number) for number in numbers], dtype=np.int64)

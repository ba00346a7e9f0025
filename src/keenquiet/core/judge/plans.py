"""Plans: sets of moves searched together within a budget, each told in the order in which its moves help most.

Places first: staying, and the best other stands, are branches. In each branch a lazy greedy search over everything
that could be hung, put up, switched off or waited for (by gain, and by gain per effort and money), then exchange: each
choice against every other until none improves. The modes follow to first order; what is told is solved fully, one
move after the other, so that each move's gain is what it adds to those above it.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import islice
from typing import Final

import numpy as np

from keenquiet.core.edits import Edit, Hang, Place, PutScreen, SealWay, SetHour, SetState, Switch, TakeDown, applied
from keenquiet.core.judge.candidate import Candidate, Cost, Costs, Limits
from keenquiet.core.judge.carried_out import carried_out, surroundings
from keenquiet.core.judge.forecast import Acoustics, Forecast, deficits, forecast
from keenquiet.core.judge.going_together import go_together
from keenquiet.core.judge.move_kinds import MOVE_KINDS, Offer, candidates
from keenquiet.core.judge.moves import Judged, Move, Report, is_sure, told
from keenquiet.core.judge.soft import variants
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.scenario import Scenario

MOST_STEPS: Final = 12
LEAST_GAIN: Final = 0.02
DULL_BELOW: Final = 0.62  # decay at 4 kHz over that at 500 Hz, below which a room sounds robbed of its top
_DULL_UNIT: Final = 0.3  # so much less counts as plainly bad
_EFFORT: Final = 0.01  # of what is lacking, for each hour or hundred: among equals the smaller set
_EXCHANGED: Final = 6  # singles that are tried in each one's place
_KNOWN: Final = 4
_CONTENDERS: Final = 9  # sets that are solved for each budget
_TOLD: Final = 3  # of which so many are told at most
_RIVALS: Final = 3
_BRANCHES: Final = 2  # stands that are searched to the end
_STAND: Final = 0.1  # what another stand must win by itself: moving is a nuisance
_LITTLE: Final = 0.15  # of what money buys in all: from there on it buys little
_LED: Final = 8  # panels that are looked at more closely
_QUICK: Final = {"reflection": 10, "trap": 3}  # pieces that a first answer looks at
_STANDS: Final = frozenset({"turn", "place"})  # each a branch of its own
_AT_A_STAND: Final = frozenset(key for key, kind in MOVE_KINDS.items() if not kind.hush_only) - _STANDS
_ORDER: Final = (TakeDown, SetState, Place, Hang, PutScreen, SealWay, Switch, SetHour)


@dataclass(frozen=True)
class Rules:
    """What a plan must keep to.

    weights : of the marks, 1 for each that is not named. keep_free : faces on which nothing is hung.
    reversible : nothing that leaves a trace. only : kinds of moves, None all.
    """

    weights: Mapping[str, float] = field(default_factory=dict)
    keep_free: frozenset[int] = frozenset()
    reversible: bool = False
    only: frozenset[str] | None = None


@dataclass(frozen=True)
class Plan:
    """Moves in the order in which to do them. lacks : before, and after each. knee : how many of them before money buys
    little, None where it always buys. dull : by how much the top fades too fast in the end, 0 where it does not.
    alone : what the best single candidate of each kind wins, to first order. dearer : whether something that helps
    costs more than the budget.
    """

    budget: float
    moves: tuple[Move, ...]
    before: Forecast
    lacks: tuple[float, ...]
    knee: int | None
    dull: float
    alone: Mapping[str, float] = field(default_factory=dict)
    dearer: bool = False

    @property
    def spent(self) -> float:
        """[currency]"""
        return sum(move.cost.price for move in self.moves)

    @property
    def after(self) -> Forecast:
        """The forecast with all of it done."""
        return self.moves[-1].after if self.moves else self.before


def lacking(result: Forecast, wanted: Wanted, rules: Rules = Rules()) -> float:
    """What a plan lowers: what the marks lack, weighted, and the top that is taken more than the rest. [-]"""
    short = deficits(result, wanted)
    return sum(rules.weights.get(mark, 1.0) * lack for mark, lack in short.items()) + dulled(result)


def dulled(result: Forecast) -> float:
    """How far 4 kHz fades too fast against 500 Hz, 1 plainly bad. [-]"""
    middle = result.decay.middle_s
    return max(DULL_BELOW - float(middle[6] / middle[3]), 0.0) / _DULL_UNIT


def plans(
    scenario: Scenario,
    *,
    wanted: Wanted,
    limits: Limits,
    costs: Costs,
    budgets: Sequence[float],
    rules: Rules = Rules(),
    report: Report | None = None,
    quick: bool = False,
) -> list[Plan]:
    """The best plan for each budget. quick : a first answer from few pieces, its modes to first order.

    report : told the share that is done; may raise to stop.
    """
    tell = report or (lambda _: None)
    tell(0.0)
    search = _Search(scenario, wanted, limits, costs, rules)
    branches = search.branches(most=1 if quick else _BRANCHES)
    sets: dict[float, list[_Set]] = {budget: [] for budget in budgets}
    for number, branch in enumerate(branches):
        branch.fill(quick=quick)
        tell((number + 0.5) / len(branches) * 0.5)
        for budget in budgets:
            sets[budget] += [_Set(branch, chosen) for chosen in branch.searched(budget)]
        tell((number + 1) / len(branches) * 0.5)
    answers: list[Plan] = []
    cheaper: list[_Set] = []  # a set found for less money may stand for more
    for number, budget in enumerate(sorted(budgets)):
        known = sorted(dict.fromkeys((*sets[budget], *cheaper)), key=lambda one: -one.worth)
        if not quick:
            longer = [_Set(one.branch, one.branch.extended(one.chosen, budget)) for one in cheaper[-1:]]
            known = list(dict.fromkeys((*search.contenders(known, budget), *cheaper, *longer)))
            tell(0.5 + 0.5 * (number + 0.3) / len(budgets))
            known.sort(key=lambda one: -search.solved_worth(one))
        cheaper.append(known[0])
        # what is not sure is left out of a set when it is told: then another may be worth more, or one for less money
        tried: list[Plan] = []
        for one in known[:_TOLD]:
            tried.append(search.plan(budget, one.branch, one.branch.ordered(one.chosen), solved=not quick))
            if len(tried[-1].moves) == len(one.chosen) + (one.branch.stand is not None):
                break
        tried += [replace(less, budget=budget, dearer=tried[0].dearer) for less in answers[-1:]]
        answers.append(min(tried, key=lambda plan: plan.lacks[-1]))
        tell(0.5 + 0.5 * (number + 1) / len(budgets))
    return answers


class _Search:
    """One question: what it starts from, and what is kept between branches and budgets."""

    def __init__(self, scenario: Scenario, wanted: Wanted, limits: Limits, costs: Costs, rules: Rules) -> None:
        self.scenario, self.wanted, self.limits, self.costs, self.rules = scenario, wanted, limits, costs, rules
        self.acoustics = Acoustics(scenario.described)
        self.now = forecast(self.acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)
        self.lacks = lacking(self.now, wanted, rules)
        self._solved: dict[tuple[Edit, ...], Forecast] = {}

    def contenders(self, known: "list[_Set]", budget: float) -> "list[_Set]":
        """The few sets that are solved: the best as it is, exchanged, and with each bought piece left to its rivals."""
        best = known[0]
        better = _Set(best.branch, best.branch.exchanged(best.chosen, budget))
        rivals = [_Set(best.branch, chosen) for chosen in best.branch.rivals(better.chosen, budget)]
        return list(dict.fromkeys((better, *known[:_KNOWN], *rivals)))[:_CONTENDERS]

    def solved_worth(self, one: "_Set") -> float:
        """What a set wins with its modes solved, less its work and money."""
        stand = one.branch.stand.edits if one.branch.stand is not None else ()
        edits = in_order((*stand, *(edit for i in sorted(one.chosen) for edit in one.branch.pool[i].edits)))
        after = self._after(edits, applied(edits, self.scenario), solved=True)
        return self.lacks - lacking(after, self.wanted, self.rules) - one.branch.effort(one.chosen)

    def branches(self, *, most: int) -> list["_Branch"]:
        """Staying, and the best of the other stands with the best distance there."""
        found = [_Branch(self, None, self.scenario)]
        if most > 1:
            others = []
            offer = Offer(self.scenario, self.acoustics, self.wanted, self.limits)
            for candidate in self.allowed(candidates(offer, _STANDS)):
                after = carried_out(candidate.edits, self.scenario, self.acoustics, solved=False)
                if after is not None:
                    others.append((lacking(after[1], self.wanted, self.rules), candidate, *after))
            others.sort(key=lambda one: one[0])
            better = (
                _Branch(self, candidate, there)
                for lack, candidate, there, after in others
                if lack < self.lacks - _STAND and self._is_sure(candidate, there, after, self.now, self.lacks - lack)
            )
            found += islice(better, most - 1)
        return found

    def allowed(self, offered: Iterable[Candidate]) -> Iterator[Candidate]:
        """What the rules let through."""
        for candidate in offered:
            hung = [edit.overlay for edit in candidate.edits if isinstance(edit, Hang)]
            if self.rules.only is not None and candidate.kind not in self.rules.only:
                continue
            if any(overlay.face in self.rules.keep_free for overlay in hung):
                continue
            if self.rules.reversible and not self.costs(candidate, self.limits).reversible:
                continue
            yield candidate

    def plan(self, budget: float, branch: "_Branch", order: Sequence[Candidate], *, solved: bool) -> Plan:
        """The moves one after the other, each with what it adds to those above it; what adds nothing is left out."""
        stand = [branch.stand] if branch.stand is not None else []
        moves: list[Move] = []
        done: tuple[Edit, ...] = ()
        before, lacks = self.now, [self.lacks]
        for candidate in (*stand, *order):
            edits = in_order((*done, *candidate.edits))
            scenario = applied(edits, self.scenario)
            after = self._after(edits, scenario, solved=solved)
            left, cost = lacking(after, self.wanted, self.rules), self.costs(candidate, self.limits)
            gain = lacks[-1] - left
            if cost.price > 0:  # money is for what the marks lack: evening out the top alone is not worth it
                marks = sum(deficits(before, self.wanted).values()) - sum(deficits(after, self.wanted).values())
                gain = min(gain, marks)
            move = told(Judged(candidate, cost, scenario, after, lacks[-1] - left), before)
            # what comes after another stand rests on it: that it is sure was asked before
            little = gain < LEAST_GAIN / 2 or not is_sure(move, before, self.wanted)
            if little and candidate is not branch.stand:
                continue
            moves.append(move)
            done, before = edits, after
            lacks.append(left)
        knee, dull = _knee(moves), dulled(before)
        return Plan(budget, tuple(moves), self.now, tuple(lacks), knee, dull, branch.alone(), branch.dearer(budget))

    def _is_sure(self, candidate: Candidate, there: Scenario, after: Forecast, before: Forecast, gain: float) -> bool:
        judged = Judged(candidate, self.costs(candidate, self.limits), there, after, gain)
        return is_sure(told(judged, before), before, self.wanted)

    def _after(self, edits: tuple[Edit, ...], scenario: Scenario, *, solved: bool) -> Forecast:
        if edits not in self._solved:
            changed = surroundings(self.acoustics, scenario.described, solved=solved)
            self._solved[edits] = forecast(changed, scenario.arrangement, hour=scenario.hour, uncertainty=False)
        return self._solved[edits]


class _Branch:
    """Everything that could be done with performer and microphone at one stand."""

    def __init__(self, search: _Search, stand: Candidate | None, scenario: Scenario) -> None:
        self.search, self.stand, self.scenario = search, stand, scenario
        self.acoustics = (
            search.acoustics if stand is None else surroundings(search.acoustics, scenario.described, solved=False)
        )
        self.pool: list[Candidate] = []
        self.costs: list[Cost] = []
        self._lacks: dict[frozenset[int], float] = {}
        self.single: list[float] = []
        self._pairs: dict[tuple[int, int], bool] = {}

    def fill(self, *, quick: bool) -> None:
        """All candidates that can stand here, with what each gains alone."""
        search = self.search
        now = forecast(self.acoustics, self.scenario.arrangement, hour=self.scenario.hour, uncertainty=False)
        self._lacks[frozenset()] = lacking(now, search.wanted, search.rules)
        offered = list(search.allowed(self._offered(quick=quick)))
        # panels along a wall at mouth height first; the best few are then tried higher, lower, and of other makes
        later = [one for one in offered if one.facts.get("rise_m", 0.0)]
        self._add(one for one in offered if not one.facts.get("rise_m", 0.0))
        if quick:
            return
        leaders = [self.pool[i] for i in self._leaders("reflection", _LED)]
        beside = {(one.facts["face"], one.facts.get("start_m")) for one in leaders}
        self._add(one for one in later if (one.facts["face"], one.facts["start_m"]) in beside)
        self._add(search.allowed(variants([one for one in leaders if one.piece == "panel"][:3], self.scenario)))

    def _offered(self, *, quick: bool) -> Iterator[Candidate]:
        """What could be done at this stand; for a first answer, few of the pieces, all over the room."""
        search = self.search
        offer = Offer(self.scenario, self.acoustics, search.wanted, search.limits)
        found: dict[str, list[Candidate]] = {}
        for one in candidates(offer, _AT_A_STAND):
            if one.facts.get("stand", "here") == "here":
                found.setdefault(one.kind, []).append(one)
        for kind, listed in found.items():
            most = _QUICK.get(kind) if quick else None
            yield from listed if most is None else listed[:: max(len(listed) // most, 1)]

    def _add(self, offered: Iterable[Candidate]) -> None:
        for candidate in offered:
            cost = self.search.costs(candidate, self.search.limits)
            self.pool.append(candidate)
            self.costs.append(cost)
            number = len(self.pool) - 1
            self.single.append(self._lacks[frozenset()] - self.lacks((number,)))

    def _leaders(self, kind: str, most: int) -> list[int]:
        numbers = [i for i, candidate in enumerate(self.pool) if candidate.kind == kind and self.single[i] > 0]
        return sorted(numbers, key=lambda i: -self.single[i])[:most]

    def lacks(self, chosen: Iterable[int]) -> float:
        """What is lacking with these done; infinite where they cannot be done together."""
        key = frozenset(chosen)
        if key not in self._lacks:
            edits = in_order(edit for i in sorted(key) for edit in self.pool[i].edits)
            after = carried_out(edits, self.scenario, self.acoustics, solved=False)
            self._lacks[key] = np.inf if after is None else lacking(after[1], self.search.wanted, self.search.rules)
        return self._lacks[key]

    def worth(self, chosen: Sequence[int]) -> float:
        """What a set wins against now, a little less for its work and money."""
        return self.search.lacks - self.lacks(chosen) - self.effort(chosen)

    def effort(self, chosen: Iterable[int]) -> float:
        """What its work and money count."""
        return _EFFORT * sum(self.costs[i].minutes / 60 + self.costs[i].price / 100 for i in chosen)

    def searched(self, budget: float) -> list[tuple[int, ...]]:
        """Good sets within a budget: by gain per effort and money, by gain, without thick traps (first order misjudges
        them), and as the rule of thumb has it: panels at the strongest returns.
        """
        pool = self._useful(budget)
        thin = [i for i in pool if self.pool[i].kind != "trap"]
        found = [self._greedy(pool, budget, by_effort=by_effort) for by_effort in (True, False)]
        start = tuple(i for i in found[0] if self.costs[i].price == 0)
        return [*found, self._greedy(thin, budget, by_effort=False), self._by_rule(thin, budget, start)]

    def _by_rule(self, pool: Sequence[int], budget: float, start: tuple[int, ...]) -> tuple[int, ...]:
        """Panels where the strongest returns strike, after what is free."""
        chosen = start
        returns = [i for i in pool if self.pool[i].kind == "reflection" and self.pool[i].piece == "panel"]
        for i in sorted(returns, key=lambda i: -float(str(self.pool[i].facts["level_db"]))):
            if len(chosen) < MOST_STEPS and self._goes(i, chosen) and self._spent((*chosen, i)) <= budget:
                chosen = (*chosen, i)
        return chosen

    def rivals(self, chosen: tuple[int, ...], budget: float) -> list[tuple[int, ...]]:
        """The set with each bought piece in turn left out, or replaced by the best of another make or place."""
        found: list[tuple[int, ...]] = []
        leaders = sorted(self._useful(budget), key=lambda i: -self.single[i])
        for bought in (i for i in chosen if self.costs[i].price > 0):
            kept = tuple(i for i in chosen if i != bought)
            makes: set[tuple[str, str | None]] = {(self.pool[bought].kind, self.pool[bought].piece)}
            for i in leaders:
                make = (self.pool[i].kind, self.pool[i].piece)
                if (
                    make not in makes
                    and i not in chosen
                    and self.costs[i].price > 0
                    and self._goes(i, kept)
                    and self._spent(kept) + self.costs[i].price <= budget
                ):
                    makes.add(make)
                    found.append((*kept, i))
                if len(makes) > _RIVALS:
                    break
            found.append(kept)
        return found

    def alone(self) -> dict[str, float]:
        """What the best of each kind wins by itself."""
        found: dict[str, float] = {}
        for candidate, gain in zip(self.pool, self.single, strict=True):
            if np.isfinite(gain):
                found[candidate.kind] = max(gain, found.get(candidate.kind, -np.inf))
        return found

    def dearer(self, budget: float) -> bool:
        """Whether something that cannot be afforded would help."""
        return any(
            cost.price > budget and np.isfinite(gain) and gain > LEAST_GAIN
            for cost, gain in zip(self.costs, self.single, strict=True)
        )

    def _useful(self, budget: float) -> list[int]:
        return [i for i in range(len(self.pool)) if self.costs[i].price <= budget and np.isfinite(self.single[i])]

    def extended(self, chosen: tuple[int, ...], budget: float) -> tuple[int, ...]:
        """A set with more money."""
        return self._greedy(self._useful(budget), budget, by_effort=True, start=chosen)

    def _greedy(
        self, pool: Sequence[int], budget: float, *, by_effort: bool, start: tuple[int, ...] = ()
    ) -> tuple[int, ...]:
        """One after the other, always the best of those that still go with the rest; gains seen before are upper
        guesses, asked again only at the head of the queue.
        """
        guess = {i: self.single[i] for i in pool if i not in start}
        chosen = start
        while len(chosen) < MOST_STEPS:
            lacks, spent = self.lacks(chosen), self._spent(chosen)
            fresh: set[int] = set()
            taken = None
            open_ = [i for i in guess if spent + self.costs[i].price <= budget and self._goes(i, chosen)]
            while open_:
                head = max(open_, key=lambda i: self._score(i, guess[i], by_effort=by_effort))
                if guess[head] < LEAST_GAIN:
                    break
                if head in fresh:
                    taken = head
                    break
                guess[head] = lacks - self.lacks((*chosen, head))
                fresh.add(head)
            if taken is None:
                break
            chosen = (*chosen, taken)
            guess.pop(taken)
        return chosen

    def exchanged(self, chosen: tuple[int, ...], budget: float) -> tuple[int, ...]:
        """One left out, put in or put in another's place, as long as that wins."""
        leaders = sorted(self._useful(budget), key=lambda i: -self.single[i])
        worth = self.worth(chosen)
        improved = True
        while improved:
            improved = False
            for kept in (*((tuple(j for j in chosen if j != i)) for i in chosen), chosen):
                tried = [kept] if len(kept) < len(chosen) else []
                others = [i for i in leaders if i not in chosen and self._goes(i, kept)]
                alike = {self.pool[i].kind for i in chosen if i not in kept}
                near = [i for i in others if self.pool[i].kind in alike][:_EXCHANGED]
                for i in dict.fromkeys((*others[:_EXCHANGED], *near)):
                    if self._spent(kept) + self.costs[i].price <= budget and len(kept) < MOST_STEPS:
                        tried.append((*kept, i))
                better = max(tried, key=self.worth, default=chosen)
                if self.worth(better) > worth + 1e-4:
                    chosen, worth, improved = better, self.worth(better), True
                    break
        return chosen

    def ordered(self, chosen: Sequence[int]) -> list[Candidate]:
        """A set in the order in which its moves help most for their effort."""
        left: list[int] = list(chosen)
        done: list[int] = []
        while left:
            lacks = self.lacks(done)
            best = max(left, key=lambda i: self._score(i, lacks - self.lacks((*done, i)), by_effort=True))
            left.remove(best)
            done.append(best)
        return [self.pool[i] for i in done]

    def _score(self, number: int, gain: float, *, by_effort: bool) -> float:
        cost = self.costs[number]
        return gain / (1 + cost.minutes / 60 + cost.price / 100) if by_effort else gain

    def _spent(self, chosen: Iterable[int]) -> float:
        return sum(self.costs[i].price for i in chosen)

    def _goes(self, number: int, chosen: Iterable[int]) -> bool:
        for i in chosen:
            pair = (min(i, number), max(i, number))
            if pair not in self._pairs:
                self._pairs[pair] = go_together(self.pool[number], self.pool[i])
            if not self._pairs[pair]:
                return False
        return True


@dataclass(frozen=True)
class _Set:
    """Some of a branch's candidates, by their numbers."""

    branch: _Branch
    chosen: tuple[int, ...]

    @property
    def worth(self) -> float:
        """To first order."""
        return self.branch.worth(self.chosen)


def in_order(edits: Iterable[Edit]) -> tuple[Edit, ...]:
    """Edits of several moves in the order in which they do not disturb each other."""
    listed = list(edits)
    rank = {kind: number for number, kind in enumerate(_ORDER)}
    return tuple(sorted(listed, key=lambda edit: rank.get(type(edit), len(_ORDER))))


def _knee(moves: Sequence[Move]) -> int | None:
    """After how many moves money buys little: all that follow together win a small part of what money wins in all."""
    paid = [move.benefit if move.cost.price > 0 else 0.0 for move in moves]
    total = sum(paid)
    if total <= 0:
        return None
    for number in range(1, len(moves)):
        if any(paid[number:]) and sum(paid[number:]) < _LITTLE * total and any(paid[:number]):
            return number
    return None

"""Sets of moves against noise, judged by Hush alone: alone, and up to four together with powers added.

Two that win little alone may win much together: while one noise goes on, taking the other away is hardly heard.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Final

import numpy as np

from keenquiet.core.edits import SetHour, applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.candidate import Candidate, Cost, Costs, Limits
from keenquiet.core.judge.forecast import NOISE_LEVEL_SPREAD_DB, Acoustics, noise_spread_db, performance_dba
from keenquiet.core.judge.going_together import MOST_TOGETHER, go_together
from keenquiet.core.judge.move_kinds import MOVE_KINDS, Offer, candidates
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.noise_at import NoiseAt, noise_at_microphone

_LEAST_DB: Final = 0.1
# sets of several are made here
_OFFERED: Final = {key for key, kind in MOVE_KINDS.items() if kind.sort == "quiet"} - {"together"} | {"distance"}
_MOST_ALONE: Final = 10  # 385 sets of up to four
_TELLS_DB: Final = 1.5  # a set that wins so much more than its parts is pointed out


@dataclass(frozen=True)
class QuietSet:
    """Moves done together. gain_db : of noise under the performance, plus_minus_db its standard uncertainty.

    alone_db : what each of them wins by itself. surprising : together they win more than their parts.
    """

    parts: tuple[Candidate, ...]
    cost: Cost
    gain_db: float
    plus_minus_db: float
    alone_db: tuple[float, ...]

    @property
    def surprising(self) -> bool:
        """Whether it is worth saying that only the set helps."""
        return len(self.parts) > 1 and self.gain_db > sum(max(db, 0.0) for db in self.alone_db) + _TELLS_DB


def quiet_sets(
    scenario: Scenario, acoustics: Acoustics, *, wanted: Wanted, limits: Limits, costs: Costs
) -> tuple[QuietSet, ...]:
    """Single moves, best first, then for two, three and four the set that wins most for its effort."""
    before = _under_db(scenario, acoustics)
    singles = []
    for candidate in candidates(Offer(scenario, acoustics, wanted, limits), _OFFERED):
        if candidate.kind == "distance" and not candidate.facts["nearer"]:
            continue
        found = _judged((candidate,), scenario, acoustics, before, costs, limits, {})
        if found is not None and found.cost.price <= limits.budget and found.gain_db > -0.5:
            singles.append(found)
    singles.sort(key=lambda found: -found.gain_db)
    alone = {id(found.parts[0]): found.gain_db for found in singles}
    pool = [found.parts[0] for found in singles[:_MOST_ALONE]]
    sets: list[QuietSet] = []
    best = max(alone.values(), default=0.0)
    for count in range(2, min(len(pool), MOST_TOGETHER) + 1):
        made = [
            found
            for parts in combinations(pool, count)
            if all(go_together(a, b) for a, b in combinations(parts, 2))
            and (found := _judged(parts, scenario, acoustics, before, costs, limits, alone)) is not None
            and found.cost.price <= limits.budget
        ]
        if made:
            leader = max(made, key=lambda found: found.gain_db - 0.02 * found.cost.minutes - 0.01 * found.cost.price)
            if leader.gain_db > best + _LEAST_DB * 5:
                sets.append(leader)
                best = leader.gain_db
    return (*(found for found in singles if found.gain_db > _LEAST_DB), *sets)


def _judged(
    parts: Sequence[Candidate],
    scenario: Scenario,
    acoustics: Acoustics,
    before: tuple[float, NoiseAt],
    costs: Costs,
    limits: Limits,
    alone: dict[int, float],
) -> QuietSet | None:
    try:
        after_scenario = applied((edit for part in _hour_last(parts) for edit in part.edits), scenario)
    except InputError:
        return None
    after = _under_db(after_scenario, acoustics)
    gain = after[0] - before[0]
    each = [costs(part, limits) for part in parts]
    cost = Cost(
        sum(one.price for one in each),
        sum(one.minutes for one in each),
        all(one.reversible for one in each),
        tuple(dict.fromkeys(caution for one in each for caution in one.cautions)),
    )
    share = 1 - 10 ** (-abs(gain) / 10)
    spread = share * float(np.hypot(NOISE_LEVEL_SPREAD_DB, noise_spread_db(after[1])))
    return QuietSet(tuple(parts), cost, gain, max(spread, 0.3), tuple(alone.get(id(part), gain) for part in parts))


def _hour_last(parts: Sequence[Candidate]) -> list[Candidate]:
    return sorted(parts, key=lambda part: any(isinstance(edit, SetHour) for edit in part.edits))


def _under_db(scenario: Scenario, acoustics: Acoustics) -> tuple[float, NoiseAt]:
    """Noise under the performance [dB], and the noise. Nothing on the walls changes, so the decay stays."""
    noise = noise_at_microphone(scenario.described, scenario.arrangement, decay=acoustics.decay, hour=scenario.hour)
    return performance_dba(scenario.arrangement) - noise.level_dba, noise

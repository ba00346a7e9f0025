"""Predicted against rig-measured changes of a whole plan in twenty random furnished rooms whose truth differs from the
catalogue: direct over room and mid decay. Prints the table of docs/physics.md: `python -m bench.planned_rooms`.
"""

import numpy as np
from bench.moved_places import drawn

from keenquiet.advice.costs import PriceList
from keenquiet.core.edits import applied
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import Acoustics, forecast
from keenquiet.core.judge.plans import Rules, in_order, plans
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.read.decay import band_decays
from keenquiet.core.read.early import direct_over_room_db
from keenquiet.core.scenario import Scenario
from keenquiet.rig.impulse import rig_impulse
from keenquiet.rig.truth import true_room

_RATE_HZ = 48_000
_PIECES = Rules(only=frozenset({"soft-behind", "reflection", "trap", "distance", "wardrobe"}))


def measured(scenario: Scenario, seed: int) -> tuple[float, float]:
    """Direct over room [dB] and mid decay [s] on the rig."""
    truth = Scenario(true_room(scenario.room), scenario.arrangement)
    impulse = rig_impulse(truth.described, scenario.arrangement, seed=seed).impulse
    mid = [band.t20_s for band in band_decays(impulse, _RATE_HZ) if 400 < band.centre_hz < 1500]
    return float(direct_over_room_db(impulse, _RATE_HZ) or np.nan), float(np.mean([t for t in mid if t]))


def told(scenario: Scenario) -> tuple[float, float]:
    """The same as predicted."""
    result = forecast(Acoustics(scenario.described), scenario.arrangement, uncertainty=False)
    return result.bounce.direct_over_room_db.value, float(np.mean(result.decay.middle_s[3:5]))


def main(rooms: int = 20) -> None:
    print("| room | pieces | change predicted, dB | rig | decay then, predicted, s | rig |\n|---|---|---|---|---|---|")
    apart, shares = [], []
    for seed in range(rooms):
        room, arrangement, _ = drawn(np.random.default_rng(100 + seed))
        before = Scenario(room, arrangement)
        plan = plans(
            before,
            wanted=PURPOSES["dry-voice"],
            limits=Limits(180.0),
            costs=PriceList(),
            budgets=(180.0,),
            rules=_PIECES,
        )[0]
        after = applied(in_order(edit for move in plan.moves for edit in move.candidate.edits), before)
        (was, _), (now, fades) = told(before), told(after)
        (rig_was, _), (rig_now, rig_fades) = measured(before, seed), measured(after, seed)
        change, rig_change = now - was, rig_now - rig_was
        apart.append(change - rig_change)
        shares.append(fades / rig_fades - 1)
        print(
            f"| {seed} | {len(plan.moves)} | {change:+.1f} | {rig_change:+.1f} | {fades:.2f} | {rig_fades:.2f} |",
            flush=True,
        )
    print(
        f"change: rms {np.sqrt(np.mean(np.square(apart))):.2f} dB apart, within 2 dB in "
        f"{int(np.sum(np.abs(apart) <= 2))} of {rooms}; decay within 15 % in {int(np.sum(np.abs(shares) <= 0.15))}"
    )


if __name__ == "__main__":
    main()

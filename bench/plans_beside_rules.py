"""Plans beside panels at the first returns and by chance, in random rooms: `python -m bench.plans_beside_rules`.

The same money (three panels), panels, traps and a curtain allowed, places as they are; what is lacking afterwards, all
modes solved.
"""

import sys

import numpy as np

from keenquiet.advice.costs import PriceList
from keenquiet.core.edits import applied
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, forecast
from keenquiet.core.judge.going_together import go_together
from keenquiet.core.judge.plans import Rules, in_order, lacking, plans
from keenquiet.core.judge.soft import reflection_panels
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.room import Arrangement, Microphone, Performer, box_room
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import own_material
from keenquiet.core.things.sources import SOURCES

MONEY = 135.0
DRY = PURPOSES["dry-voice"]


def plan_rule_and_chance(seed: int, rng: np.random.Generator) -> dict[str, float]:
    """What is lacking in a random box after a plan, after three panels by rule, and after three by chance."""
    own = np.random.default_rng(seed)
    size = own.uniform((2.6, 2.3, 2.3), (4.6, 3.8, 2.7))
    alpha = own.uniform(0.05, 0.2)
    table = {str(f): float(alpha) for f in (125, 250, 500, 1000, 2000, 4000)}
    material = own_material("plain", table, field="walls")
    room = box_room(f"random {seed}", (float(size[0]), float(size[1]), float(size[2])), (material,) * 6)
    x, y = float(size[0]) * own.uniform(0.3, 0.6), float(size[1]) * own.uniform(0.35, 0.65)
    arrangement = Arrangement(
        Performer((x, y, 1.5), 0.0, SOURCES["voice-sung"]), Microphone((x + 0.6, y, 1.45), 180.0, 0.0, "cardioid")
    )
    scenario, limits = Scenario(room, arrangement), Limits(MONEY, has_duvet=False)
    rules = Rules(only=frozenset({"reflection", "trap", "soft-behind"}))
    plan = plans(scenario, wanted=DRY, limits=limits, costs=PriceList(), budgets=(MONEY,), rules=rules)[0]
    now = forecast(Acoustics(scenario.described), arrangement, uncertainty=False)
    panels = [one for one in reflection_panels(scenario, now, limits) if one.piece == "panel"]
    return {
        "plan": plan.lacks[-1],
        "rule": _after(scenario, panels),
        "chance": _after(scenario, [panels[i] for i in rng.permutation(len(panels))]),
        "before": plan.lacks[0],
    }


def _after(scenario: Scenario, panels: list[Candidate]) -> float:
    """With the first three of a list that go together."""
    chosen: list[Candidate] = []
    for panel in panels:
        if len(chosen) < 3 and all(go_together(panel, other) for other in chosen):
            chosen.append(panel)
    done = applied(in_order(edit for one in chosen for edit in one.edits), scenario)
    return lacking(forecast(Acoustics(done.described), done.arrangement, uncertainty=False), DRY)


def main(rooms: int = 50) -> None:
    rng = np.random.default_rng(0)
    found = [plan_rule_and_chance(seed, rng) for seed in range(rooms)]
    for name in ("before", "plan", "rule", "chance"):
        print(f"{name}: {np.mean([one[name] for one in found]):.3f} lacking in the mean of {rooms}")
    for other in ("rule", "chance"):
        better = np.mean([one["plan"] < one[other] + 1e-9 for one in found])
        print(f"plan not worse than {other} in {better:.0%}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 50)

"""What a finding in a take is, what kinds there are, and what they mean for keeping it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Final, Literal

Group = Literal["lost", "mendable", "taste"]
Needs = Literal[
    "", "pauses", "ends", "phrases", "two_channels", "treble", "reference", "bits", "steps", "one_microphone", "slow"
]


@dataclass(frozen=True, slots=True)
class Finding:
    """Something found in a take: when, how large, how sure. f_hz : of a tone. Its cure is in `advice.findings`."""

    kind: str
    start_s: float
    end_s: float
    value: float
    unit: str
    confidence: float
    f_hz: float | None = None


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of finding. group : what no mixing brings back, what it does with care, what is a matter of taste.

    thread : what it is drawn with. needs : without which it cannot be looked for.
    """

    group: Group
    thread: str
    needs: Needs = ""


# in the order in which they are told: the worst first
KINDS: Final[Mapping[str, Kind]] = MappingProxyType(
    {
        "dead_channel": Kind("lost", "wire", "two_channels"),
        "clipped": Kind("lost", "tops"),
        "flat_top": Kind("lost", "tops"),
        "soft_over": Kind("lost", "tops"),
        "dropout": Kind("lost", "moments", "steps"),
        "wrong_side": Kind("lost", "distance", "reference"),
        "gate": Kind("lost", "automatic", "pauses"),
        "auto_gain": Kind("lost", "automatic", "pauses"),
        "compressed": Kind("lost", "automatic", "pauses"),
        "noise": Kind("lost", "passing", "pauses"),
        "bleed": Kind("lost", "bleed", "pauses"),
        "click_track": Kind("lost", "bleed", "pauses"),
        "polarity": Kind("mendable", "wire", "two_channels"),
        "delay": Kind("mendable", "wire", "two_channels"),
        "mono_loss": Kind("mendable", "wire", "two_channels"),
        "jump": Kind("mendable", "distance", "phrases"),
        "seam": Kind("mendable", "cuts", "pauses"),
        "pop": Kind("mendable", "puffs"),
        "thump": Kind("mendable", "handling", "pauses"),
        "cloth": Kind("mendable", "handling", "pauses"),
        "chair": Kind("mendable", "handling", "pauses"),
        "keys": Kind("mendable", "handling", "pauses"),
        "click": Kind("mendable", "moments"),
        "hum": Kind("mendable", "under", "pauses"),
        "tone": Kind("mendable", "under", "pauses"),
        "hiss": Kind("mendable", "under", "pauses"),
        "rumble": Kind("mendable", "under", "pauses"),
        "floor": Kind("mendable", "under", "pauses"),
        "too_quiet": Kind("mendable", "distance"),
        "dc": Kind("mendable", "wire"),
        "lossy": Kind("mendable", "file", "treble"),
        "low_rate": Kind("mendable", "file"),
        "true_bits": Kind("mendable", "file", "bits"),
        "twin": Kind("mendable", "file", "two_channels"),
        "tuning": Kind("mendable", "tuning", "reference"),
        "roomy": Kind("taste", "room", "ends"),
        "creep": Kind("taste", "distance", "phrases"),
        "drift": Kind("taste", "distance", "ends"),
        "turned": Kind("taste", "distance", "phrases"),
        "nearer": Kind("taste", "distance", "reference"),
        "further": Kind("taste", "distance", "reference"),
        "boomy": Kind("taste", "distance", "reference"),
        "thin": Kind("taste", "distance", "reference"),
        "ess": Kind("taste", "puffs", "treble"),
        "breath": Kind("taste", "mouth", "pauses"),
        "lips": Kind("taste", "mouth", "pauses"),
    }
)
# what a finished mix is asked for still: the rest tells of one microphone before one performer
OF_A_MIX: Final = frozenset(
    ("dead_channel", "clipped", "dropout", "polarity", "too_quiet", "dc", "lossy", "low_rate", "true_bits", "twin")
)


def in_order(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order of `KINDS` and then of time."""
    order = list(KINDS)
    return tuple(sorted(found, key=lambda f: (order.index(f.kind), f.start_s)))

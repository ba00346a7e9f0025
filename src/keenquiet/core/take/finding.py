"""What a finding in a take is."""

from dataclasses import dataclass
from typing import Final


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


# what no mixing brings back; what it does with care; what is a matter of taste
NOT_MENDABLE: Final = frozenset({"clipped", "flat_top", "dropout", "dead_channel", "noise", "roomy", "bleed"})
TASTE: Final = frozenset({"drift", "creep", "roomy", "ess"})
_SPOILT: Final = 0.5  # share of a take from which it is done again


def verdict_of(findings: tuple[Finding, ...], seconds: float) -> str:
    """`keep`, `parts` or `again`: by how much of the take what cannot be mended covers."""
    lost = [f for f in findings if f.kind in NOT_MENDABLE and f.kind not in TASTE]
    spoiled = sum(min(f.end_s, seconds) - max(f.start_s, 0.0) + 0.5 for f in lost)
    if not lost:
        return "keep"
    return "again" if spoiled > _SPOILT * seconds or len(lost) > max(seconds / 4, 3) else "parts"

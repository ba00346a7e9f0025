"""What is wanted of each mark, by purpose, with where the figure comes from. Editable later; these are the defaults."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Span:
    """A wanted range, either end may be open, with the key of its source in `advice.wanted`."""

    low: float | None
    high: float | None
    source: str

    def deficit(self, value: float) -> float:
        """How far a value lies outside, 0 inside; in the value's own unit."""
        below = self.low - value if self.low is not None else 0.0
        above = value - self.high if self.high is not None else 0.0
        return max(below, above, 0.0)


@dataclass(frozen=True, slots=True)
class Wanted:
    """Wanted values for one purpose.

    bounce_db : direct over room at the microphone. boom_s : ring time of the worst note. decay_s : mid-band decay.
    early_db : strongest early reflection. hush_db : noise under the performance. peak_dbfs, average_dbfs : recorded
    level.
    """

    key: str
    name: str
    bounce_db: Span
    boom_s: Span
    decay_s: Span
    early_db: Span
    hush_db: Span
    peak_dbfs: Span
    average_dbfs: Span


def _wanted(
    key: str,
    name: str,
    bounce: tuple[float, float | None],
    ring_s: float,
    decay: tuple[float, float],
    early_db: float,
    hush_db: float,
) -> Wanted:
    return Wanted(
        key,
        name,
        bounce_db=Span(*bounce, "practice-direct"),
        boom_s=Span(None, ring_s, "ringing"),
        decay_s=Span(*decay, "practice-decay"),
        early_db=Span(None, early_db, "practice-early"),
        hush_db=Span(hush_db, None, "practice-noise"),
        peak_dbfs=Span(-12.0, -6.0, "practice-levels"),
        average_dbfs=Span(-21.0, -15.0, "practice-levels"),
    )


PURPOSES: Final = {
    wanted.key: wanted
    for wanted in (
        _wanted("dry-voice", "Dry close voice", (15.0, None), 0.30, (0.1, 0.2), -20.0, 50.0),
        _wanted("spoken", "Spoken word", (15.0, None), 0.30, (0.1, 0.2), -20.0, 50.0),
        _wanted("some-room", "Close, with a little room", (10.0, 18.0), 0.40, (0.2, 0.35), -15.0, 45.0),
        _wanted("lively", "Lively: brass or ensemble", (5.0, 12.0), 0.50, (0.3, 0.5), -10.0, 40.0),
    )
}

"""What came of a run: how often each answer was given, what was wrong, how much memory and time it took."""

import os
import time
from collections import Counter
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

HANGS_S = 10.0


@dataclass
class Outcome:
    answers: Counter = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    slowest_s: float = 0.0
    slowest: str = ""
    most_mb: float = 0.0

    @contextmanager
    def timed(self, what: str):
        began = time.monotonic()
        yield
        took = time.monotonic() - began
        if took > self.slowest_s:
            self.slowest_s, self.slowest = took, what[:100]
        if took > HANGS_S:
            self.wrong.append(f"{took:.0f} s: {what[:200]}")

    def answered(self, status: int, what: str):
        self.answers[status] += 1
        if status >= 500 and status not in (503, 507):
            self.wrong.append(f"{status}: {what[:300]}")

    def expect(self, holds: bool, otherwise: str):
        if not holds:
            self.wrong.append(otherwise)

    def weighed(self, process: int | None = None):
        self.most_mb = max(self.most_mb, resident_mb(process or os.getpid()))

    def __str__(self):
        said = ", ".join(f"{count} x {status}" for status, count in sorted(self.answers.items(), key=str))
        return (
            f"{said}; slowest {self.slowest_s:.2f} s ({self.slowest}); at most {self.most_mb:.0f} MB; "
            f"{len(self.wrong)} wrong" + "".join(f"\n    {line}" for line in self.wrong[:12])
        )


def resident_mb(process: int) -> float:
    """Memory that a process holds. [MB]"""
    try:
        status = Path(f"/proc/{process}/status").read_text()
    except OSError:
        return 0.0
    return next((int(line.split()[1]) / 1024 for line in status.splitlines() if line.startswith("VmRSS")), 0.0)

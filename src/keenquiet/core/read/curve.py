"""Curves measured elsewhere, brought in as text: two columns, frequency and level."""

import csv
import io

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

_MOST_ROWS = 20_000
_MOST_DB = 400.0


def read_curve(text: str, *, field: str = "file") -> tuple[FloatArray, FloatArray]:
    """Frequencies rising and levels, each (n,), of a CSV or tab-separated text; lines that begin with no number are
    passed over.

    Decimal commas are read where columns are parted by semicolons, tabs or blanks. Raises InputError when fewer than
    four rows hold two
    numbers, a frequency lies outside 1 Hz to 100 kHz, or a level beyond 400 dB.
    """
    rows: list[tuple[float, float]] = []
    for line in io.StringIO(text):
        numbers = _numbers(line)
        if numbers is not None:
            rows.append(numbers)
        if len(rows) > _MOST_ROWS:
            raise InputError(field, f"holds more than {_MOST_ROWS} rows.", "Export fewer points.")
    if len(rows) < 4:
        raise InputError(
            field,
            "holds no curve: two columns of numbers are needed.",
            "Give frequency in Hz and level in dB, one pair a line.",
        )
    pairs = np.array(sorted(rows))
    f_hz, level = pairs[:, 0], pairs[:, 1]
    if not np.all(np.abs(level) <= _MOST_DB):  # asked this way round, NaN is refused too
        raise InputError(
            field,
            f"its second column reaches {float(np.max(np.abs(level))):g}: no level is.",
            "Put the level in dB into the second column.",
        )
    if not (f_hz[0] >= 1 and f_hz[-1] <= 100_000):
        raise InputError(
            field,
            f"its first column runs from {f_hz[0]:g} to {f_hz[-1]:g}.",
            "Put the frequency in Hz into the first column.",
        )
    keep = np.concatenate([[True], np.diff(f_hz) > 0])
    return f_hz[keep], level[keep]


def _numbers(line: str) -> tuple[float, float] | None:
    stripped = line.strip().lstrip("\ufeff")
    for mark in (";", "\t"):
        if mark in stripped:
            cells = [cell.strip().replace(",", ".") for cell in stripped.split(mark)]
            break
    else:
        cells = [c.strip() for c in next(csv.reader([stripped]), [])] if "," in stripped else stripped.split()
    try:
        return float(cells[0]), float(cells[1])
    except (ValueError, IndexError):
        return None

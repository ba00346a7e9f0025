"""What the process takes of the machine. How many threads the linear algebra uses: one, here and nowhere else, for the
product, its tests and its bench.

The matrices are small (200 x 200): one thread each is faster than two that wait for one another, and requests run side
by side anyway (measured: docs/decisions/engineering.md). A number in OPENBLAS_NUM_THREADS is left as it is.
"""

import ctypes
import os
import sys
from typing import Final

_VARIABLE: Final = "OPENBLAS_NUM_THREADS"


def settle_threads() -> None:
    """Set the number for libraries still to be loaded, and for those that are loaded already."""
    threads = int(os.environ.setdefault(_VARIABLE, "1"))
    if "numpy" in sys.modules:  # too late for the variable: they have read it
        from threadpoolctl import threadpool_limits

        threadpool_limits(limits=threads, user_api="blas")


def give_back() -> None:
    """Return what was freed to the system: the C library keeps what large arrays left behind, up to gigabytes."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None) if sys.platform == "linux" else None
    if trim is not None:
        trim(0)

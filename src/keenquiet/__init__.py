"""Keen Quiet: what a small room does to a recording, what to do next, and whether it worked."""

import os

# The matrices here are small (200 x 200): one BLAS thread each is faster than two that wait for one another, and
# requests run side by side anyway. Must be said before numpy is first imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

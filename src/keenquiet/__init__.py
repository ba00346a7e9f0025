"""Keen Quiet: what a small room does to a recording, what to do next, and whether it worked."""

from keenquiet.threads import settle_threads

settle_threads()

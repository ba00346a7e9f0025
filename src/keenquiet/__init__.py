"""Keen Quiet: what a small room does to a recording, what to do next, and whether it worked."""

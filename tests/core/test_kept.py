"""What is kept for the next question weighs no more than allowed, whatever is asked in any order."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from keenquiet.core.kept import Kept, weight_of

MEGABYTE = 1_000_000


def numbers(megabytes: float):
    return np.zeros(int(megabytes * MEGABYTE / 8))


@dataclass
class Lazy:
    shared: object = None
    parts: dict = field(default_factory=dict)

    @cached_property
    def heavy(self):
        return numbers(3)


def test_weights_count_arrays_once_through_views_dataclasses_slots_and_containers():
    whole = numbers(2)
    assert abs(weight_of([whole, whole[:10], {"a": (whole.reshape(2, -1),)}]) - 2 * MEGABYTE) < 1000

    class Slotted:
        __slots__ = ("inside",)

        def __init__(self, inside):
            self.inside = inside

    assert abs(weight_of(Lazy(Slotted(whole), {1: Lazy(whole)})) - 2 * MEGABYTE) < 2000
    loop: list = [whole]
    loop.append(loop)
    assert abs(weight_of(loop) - 2 * MEGABYTE) < 1000


def test_what_grew_after_it_was_kept_is_weighed_anew():
    kept = Kept(most_bytes=8 * MEGABYTE)
    for key in range(6):
        kept.find(key, Lazy).heavy  # noqa: B018 - computed late, as modes of a room are
    assert kept.bytes <= 8 * MEGABYTE + 3 * MEGABYTE  # the one that grew last is weighed at the next addition
    kept.find("next", Lazy)
    assert kept.bytes <= 8 * MEGABYTE
    assert "next" in kept


def test_what_many_share_is_not_counted_against_each_of_them():
    rigid, kept = numbers(5), Kept(most_bytes=8 * MEGABYTE)
    for key in range(20):
        kept.find(key, lambda: Lazy(rigid))
    assert len(kept) == 20


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 8), st.floats(0.01, 3)), max_size=40), st.integers(1, 6))
def test_law_never_heavier_than_allowed_but_for_the_newest_alone_and_never_a_wrong_value(asked, allowed):
    kept = Kept(most_bytes=allowed * MEGABYTE, most=5)
    for key, size in asked:
        value = kept.find(key, lambda key=key, size=size: (key, numbers(size)))
        assert value[0] == key
        assert key in kept
        assert len(kept) <= 5
        assert kept.bytes <= allowed * MEGABYTE or len(kept) == 1

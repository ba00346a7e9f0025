"""Cut lists and bills: nothing beyond its stock, close to what no cutting could beat, weights and fixings by hand."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keenquiet.core.errors import InputError
from keenquiet.core.make.cutting import Stock, cut
from keenquiet.core.make.frames import Frame, bill, cloth_m, fixing


@settings(max_examples=12, deadline=None)
@given(
    pieces=st.lists(st.integers(200, 1500), min_size=1, max_size=18),
    lengths=st.lists(st.sampled_from([1800, 2400, 3000]), min_size=1, max_size=2, unique=True),
    kerf=st.sampled_from([0.0, 3.0]),
)
def test_every_piece_is_cut_once_and_no_bar_is_too_short(pieces, lengths, kerf):
    found = cut([float(p) for p in pieces], [Stock(float(n)) for n in lengths], kerf_mm=kerf)
    assert sorted(c for bar in found.bars for c in bar.cuts_mm) == sorted(map(float, pieces))
    for bar in found.bars:
        assert sum(bar.cuts_mm) + kerf * (len(bar.cuts_mm) - 1) <= bar.stock_mm + 1e-6
        assert bar.stock_mm in lengths
    assert len(found.bars) >= found.lower_bound_bars >= np.ceil(sum(pieces) / max(lengths) - 1e-9)
    assert found.waste_share == pytest.approx(1 - sum(pieces) / sum(bar.stock_mm for bar in found.bars))


@pytest.mark.parametrize("seed", range(5))
def test_a_random_order_takes_at_most_a_twentieth_more_bars_than_no_cutting_could_beat(seed):
    rng = np.random.default_rng(seed)
    found = cut([float(x) for x in rng.integers(250, 1400, 24)], [Stock(2400.0)])
    assert len(found.bars) <= found.lower_bound_bars * 1.05 + 1e-9


def test_by_hand_three_boards_where_first_fit_takes_four():
    # longest first puts 1100 + 1100 together and wastes; 1100 + 800 + 500 fits three times
    pieces = [1100.0, 1100, 1100, 800, 800, 800, 500, 500, 500]
    found = cut(pieces, [Stock(2400.0)], kerf_mm=0.0)
    assert len(found.bars) == found.lower_bound_bars == 3
    assert found.waste_share == pytest.approx(0.0)


def test_a_dear_length_is_bought_only_where_it_must_be():
    found = cut([1000.0] * 4 + [2600.0], [Stock(2400.0, price=5), Stock(3000.0, price=20)])
    assert sorted(bar.stock_mm for bar in found.bars) == [2400.0, 2400.0, 3000.0]
    limited = cut([1000.0] * 4, [Stock(2400.0, count=1), Stock(3000.0)])
    assert sorted(bar.stock_mm for bar in limited.bars)[-1] == 3000.0


@pytest.mark.parametrize(
    ("pieces", "stock", "field"),
    [
        ([3100.0], [Stock(3000.0)], "pieces"),
        ([-5.0], [Stock(3000.0)], "pieces"),
        ([100.0], [], "stock"),
        ([1000.0] * 5, [Stock(1000.0, count=2)], "stock"),
        ([100.0], [Stock(1000.0, price=-1)], "stock"),
        ([float("nan")], [Stock(1000.0)], "pieces"),
    ],
)
def test_what_cannot_be_cut_is_said(pieces, stock, field):
    with pytest.raises(InputError) as refused:
        cut(pieces, stock)
    assert refused.value.field == field


PANEL = Frame("Panel", 0.6, 1.2, 0.1, 12_000)


def test_a_frame_by_hand():
    assert PANEL.timber_mm == (1200.0, 1200.0, 564.0, 564.0)
    wool = 0.6 * 1.2 * 0.1 * 40
    timber = (2 * 1.2 + 2 * 0.564) * 0.018 * 0.1 * 500
    assert PANEL.kg == pytest.approx(wool + timber + 2 * 0.72 * 0.25)
    found = bill([PANEL] * 3, fixed=True)
    assert len(found.batts.bars) == 6  # two layers of 5 cm each
    assert found.wool_m2 == pytest.approx(6 * 0.72)
    assert set(found.timber) == {0.1}
    # boards as deep as their wool: two depths are not cut from one another
    assert set(bill([PANEL, Frame("Trap", 0.6, 1.2, 0.2, 6000)], fixed=False).timber) == {0.1, 0.2}
    assert bill([PANEL], fixed=False).fixings == ()


def test_a_wall_that_nobody_knows_is_taken_as_the_weaker_and_overhead_hangs_on_four():
    unknown, solid = fixing(PANEL), fixing(Frame("Panel", 0.6, 1.2, 0.1, 12_000, wall="solid"))
    assert unknown.assumed
    assert unknown.count >= solid.count
    assert unknown.count * unknown.holds_kg >= 2 * PANEL.kg
    above = fixing(Frame("Cloud", 1.2, 0.6, 0.1, 12_000, overhead=True))
    assert above.count >= 4
    assert above.load_kg == pytest.approx(PANEL.kg / above.count)


def test_cloth_is_laid_beside_each_other_while_it_fits():
    assert cloth_m([(0.7, 1.6), (0.7, 1.6)]) == pytest.approx(1.6)
    assert cloth_m([(0.9, 1.6), (0.9, 1.6)]) == pytest.approx(3.2)
    assert cloth_m([(0.9, 1.4)]) == pytest.approx(0.9)  # turned across the roll
    assert cloth_m([(1.8, 2.0)]) == pytest.approx(4.0)  # sewn from two widths
    assert cloth_m([]) == 0.0

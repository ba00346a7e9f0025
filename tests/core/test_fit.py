"""A fit finds what was changed, leaves alone what was right, and says what no absorption explains."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.judge.fit import PLAUSIBLE, fitted, scaled_room
from keenquiet.core.read.ringing import Note
from keenquiet.core.waves.modes import damped_modes
from keenquiet.core.waves.statistics import decay

from ..conftest import plain_box

ROOM = plain_box((4.2, 3.1, 2.5), alpha=0.15)


def test_readings_of_the_room_as_described_move_nothing():
    found = fitted(ROOM, decay_s=decay(ROOM).middle_s, notes=())
    assert_allclose(found.factor, 1.0, rtol=0.03)
    assert found.unexplained == ()
    assert found.spread < 0.2  # the catalogue's; a fit is tighter


@pytest.mark.parametrize("true", [0.75, 1.3])
def test_a_known_change_is_found(true):
    """The prior of 25 % pulls a figure that is read to 5 % back by a twenty-fifth."""
    changed = scaled_room(ROOM, np.full(8, true))
    found = fitted(ROOM, decay_s=decay(changed).middle_s, notes=())
    trusted = np.isfinite(found.measured_s)
    assert trusted.sum() >= 5
    assert_allclose(found.factor[trusted], true, rtol=0.05)
    assert_allclose(found.after_s[trusted], found.measured_s[trusted], rtol=0.04)


def test_one_octave_alone_moves_that_octave():
    factor = np.ones(8)
    factor[5] = 1.5
    found = fitted(ROOM, decay_s=decay(scaled_room(ROOM, factor)).middle_s, notes=())
    assert found.factor[5] == pytest.approx(1.5, rel=0.07)
    assert_allclose(found.factor[[4, 6]], 1.0, rtol=0.05)


def test_ringing_notes_fit_where_decay_does_not_hold():
    changed = scaled_room(ROOM, np.full(8, 1.4))
    modes = damped_modes(changed, f_max_hz=300)
    low = np.flatnonzero(modes.f_hz < 95)[:4]
    notes = tuple(Note(float(modes.f_hz[i]), float(modes.t60_s[i]), 0.0) for i in low)
    found = fitted(ROOM, decay_s=np.full(8, np.nan), notes=notes)
    assert len(found.notes) == len(low)
    assert found.factor[0] == pytest.approx(1.4, rel=0.12)
    for note in found.notes:
        assert abs(np.log(note.after_s / note.t60_s)) < abs(np.log(note.before_s / note.t60_s))


def test_more_than_materials_can_differ_is_said_not_swallowed():
    found = fitted(ROOM, decay_s=decay(scaled_room(ROOM, np.full(8, 3.0))).middle_s, notes=())
    assert any("swallows" in u.what and "door" in u.look_for for u in found.unexplained)
    assert np.max(found.factor) > PLAUSIBLE[1]


def test_a_note_where_no_mode_lies_points_at_the_length_that_was_misread():
    # a note 8 % above the first mode along x: the room is shorter than was written down
    f = ROOM.air.speed_m_s / (2 * 4.2) * 1.08
    found = fitted(ROOM, decay_s=decay(ROOM).middle_s, notes=(Note(f, 1.0, 0.0),))
    words = " ".join(u.look_for for u in found.unexplained)
    assert "length along x" in words
    assert f"{4.2 / 1.08:.2f} m would fit" in words

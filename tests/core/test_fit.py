"""A fit finds what was changed, leaves alone what was right, and says what no absorption explains."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.advice.fit import unexplained_words
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
    """The prior of 25 % pulls back by an eighth what is read to 5 % and predicted to 8 %: (0.094 / 0.25)^2."""
    changed = scaled_room(ROOM, np.full(8, true))
    found = fitted(ROOM, decay_s=decay(changed).middle_s, notes=())
    trusted = np.isfinite(found.measured_s)
    assert trusted.sum() >= 5
    assert_allclose(found.factor[trusted], true, rtol=0.07)
    assert_allclose(found.after_s[trusted], found.measured_s[trusted], rtol=0.06)


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


def test_a_mode_that_loses_more_than_its_octave_is_damped_alone():
    modes = damped_modes(ROOM, f_max_hz=300)
    notes = tuple(Note(float(modes.f_hz[i]), float(modes.t60_s[i]) * (0.6 if i == 1 else 1.0), 0.0) for i in range(4))
    found = fitted(ROOM, decay_s=np.full(8, np.nan), notes=notes)
    fitted_room = replace(scaled_room(ROOM, found.factor), mode_losses=found.mode_losses)
    after = damped_modes(fitted_room, f_max_hz=300)
    rings = {n.f_hz: float(after.t60_s[np.argmin(np.abs(after.f_hz - n.mode_hz))]) for n in found.notes}
    for note in found.notes:
        assert rings[note.f_hz] == pytest.approx(note.after_s, rel=0.03)  # what is told is what the fitted room does
    low = min(found.notes, key=lambda n: n.t60_s / n.before_s)
    assert rings[low.f_hz] == pytest.approx(0.6 * low.before_s, rel=0.2)
    others = [n for n in found.notes if n is not low]
    assert all(abs(np.log(rings[n.f_hz] / n.before_s)) < 0.12 for n in others)


def test_more_than_materials_can_differ_is_said_not_swallowed():
    found = fitted(ROOM, decay_s=decay(scaled_room(ROOM, np.full(8, 3.0))).middle_s, notes=())
    assert any(
        "swallows" in what and "door" in look_for for what, look_for in map(unexplained_words, found.unexplained)
    )
    assert np.max(found.factor) > PLAUSIBLE[1]


def test_a_note_where_no_mode_lies_points_at_the_length_that_was_misread():
    # a note 8 % above the first mode along x: the room is shorter than was written down
    f = ROOM.air.speed_m_s / (2 * 4.2) * 1.08
    found = fitted(ROOM, decay_s=decay(ROOM).middle_s, notes=(Note(f, 1.0, 0.0),))
    words = " ".join(unexplained_words(u)[1] for u in found.unexplained)
    assert "length along x" in words
    assert f"{4.2 / 1.08:.2f} m would fit" in words

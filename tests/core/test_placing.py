"""Where to stand, how far, how to aim, where to listen: closed forms, hand calculations, and the full forecast."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import integrate, signal

from keenquiet.advice.schools import school_words
from keenquiet.core.judge.aim import gathered_from_front, loud_notes, null_deg, null_towards_noise, past_the_mouth
from keenquiet.core.judge.distance_curve import at_distance, bass_lift_db, distance_curve, sounds_at_m
from keenquiet.core.judge.forecast import Acoustics, forecast
from keenquiet.core.judge.listening import best_listening, cancellations, candidates, listening_place
from keenquiet.core.judge.places import distance_between, faced
from keenquiet.core.judge.put_back import Trace, line_back, put_back
from keenquiet.core.judge.schools import schools
from keenquiet.core.judge.screen_worth import screen_worths
from keenquiet.core.judge.spots import place_map
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.room import Facing, Microphone, NoiseSource, Screen
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.room.taping import place_from, taped
from keenquiet.core.scenario import Scenario
from keenquiet.core.take.levels import take_levels
from keenquiet.core.take.sides import which_side
from keenquiet.core.things.microphone import PATTERNS
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.bleed import bleed_under_db
from keenquiet.core.waves.capsule import diaphragm_gain
from keenquiet.core.waves.comb import ripple_db
from keenquiet.core.waves.pair import pair_of
from keenquiet.core.waves.puff import puff_index
from keenquiet.core.waves.screens import colour_db, screened
from keenquiet.core.waves.stands import STANDS, check_stand
from keenquiet.core.waves.stereo import recording_angle_deg

from ..conftest import plain_box, standing

DRY = PURPOSES["dry-voice"]
C = 343.2
HUM = NoiseSource("Fridge", np.array([40.0, 42, 45, 40, 36, 32, 28, 24]), (0.4, 2.6, 0.4), kind="inside")


@pytest.mark.parametrize(("pattern", "db"), [("cardioid", 6.3), ("figure-8", 11.5), ("omni", 0.0)])
def test_lift_at_15_cm_and_100_hz_is_the_gradient_s_closed_form(pattern, db):
    lift = bass_lift_db(PATTERNS[pattern], 1.0, distance_m=np.array([0.15]), f_hz=np.array([100.0]), speed_m_s=343.0)
    assert lift[0, 0] == pytest.approx(db, abs=0.06)


@pytest.mark.parametrize(
    ("pattern", "deg"), [("cardioid", 180), ("supercardioid", 126), ("hypercardioid", 109.5), ("figure-8", 90)]
)
def test_nulls_lie_where_the_pattern_is_nothing(pattern, deg):
    assert null_deg(PATTERNS[pattern]) == pytest.approx(deg, abs=0.5)


@pytest.mark.parametrize("a", PATTERNS.values())
def test_what_is_gathered_from_the_front_is_the_integral_over_the_half_sphere(a):
    def power(x):
        return (a + (1 - a) * x) ** 2

    front = integrate.quad(power, 0, 1)[0]
    assert gathered_from_front(a) == pytest.approx(front / integrate.quad(power, -1, 1)[0], abs=1e-9)
    assert gathered_from_front(0.5) == pytest.approx(7 / 8)


def test_a_puff_falls_with_the_square_of_the_way_and_beside_its_line():
    assert puff_index(0.10) == pytest.approx(1.0)
    assert puff_index(0.30) == pytest.approx(1 / 9)
    # a round jet has half of its speed at a tenth of the way beside its axis: a quarter of its push
    assert puff_index(0.10, np.degrees(np.arctan(0.1))) == pytest.approx(0.25)
    assert puff_index(0.10, screen="off") < puff_index(0.10, screen="on") < puff_index(0.10)


def test_a_diaphragm_averages_a_slanted_wave_over_its_face():
    # the mean of exp(j k x sin) over a disc, on a fine grid of points, for tones through the 8 kHz octave
    radius, angle = 0.0127, np.deg2rad(60)
    x, y = np.meshgrid(*[np.linspace(-radius, radius, 301)] * 2)
    face = x[np.hypot(x, y) <= radius]
    tones = 7943 * 2 ** np.linspace(-0.5, 0.5, 33)
    by_hand = np.sqrt(np.mean([abs(np.mean(np.exp(2j * np.pi * f / C * face * np.sin(angle)))) ** 2 for f in tones]))
    assert diaphragm_gain(60.0, radius_m=radius, speed_m_s=C)[7] == pytest.approx(by_hand, abs=0.01)
    assert diaphragm_gain(0.0, radius_m=radius, speed_m_s=C) == pytest.approx(np.ones(8))


def test_sounding_far_is_where_a_neutral_room_is_as_strong():
    # Q of an even source is 1: the critical distance of 50 m3 and 0.4 s is 0.057 sqrt(125)
    far = sounds_at_m(np.array([0.0, 20.0]), SOURCES["omni"])
    assert far == pytest.approx([0.6373, 0.06373], rel=1e-3)


def test_the_curve_at_the_distance_that_stands_says_what_the_forecast_says():
    room = replace(plain_box(alpha=0.2), noises=(HUM,))
    acoustics = Acoustics(room)
    arrangement = standing(
        (1.0, 1.4, 1.5), (1.42, 1.4, 1.45), pattern="cardioid", source="voice-sung", faces=0, aims=180
    )
    curve, marks = distance_curve(acoustics, arrangement, DRY), forecast(acoustics, arrangement, uncertainty=False)
    here = int(np.argmin(np.abs(curve.distance_m - distance_between(arrangement))))
    assert curve.bounce_db[here] == pytest.approx(marks.bounce.direct_over_room_db.value, abs=1e-6)
    assert curve.room_noise_db[here] == pytest.approx(marks.hush.under_performance_db.value, abs=1e-6)
    assert curve.sway_db[here] == pytest.approx(marks.touch.sway_db)
    # 6 dB for each doubling while the room stays: the direct sound's own law, at the near end
    steps = np.diff(curve.bounce_db[:6]) / np.diff(np.log2(curve.distance_m[:6]))
    assert steps == pytest.approx(-6.02 * np.ones(5), abs=0.35)


def test_the_span_ends_where_a_mark_leaves_what_is_wanted():
    acoustics = Acoustics(plain_box(alpha=0.45))
    arrangement = standing((1.0, 1.4, 1.5), (1.4, 1.4, 1.5), pattern="cardioid", source="voice-sung", faces=0, aims=180)
    some_room = PURPOSES["some-room"]
    span = distance_curve(acoustics, arrangement, some_room).span
    assert span.meets
    far = forecast(acoustics, at_distance(arrangement, span.to_m), uncertainty=False)
    last = {limit.end: limit for limit in span.limits}["far"]
    assert last.mark == "bounce"
    assert far.bounce.direct_over_room_db.value == pytest.approx(some_room.bounce_db.low, abs=0.4)
    # a part that sits deeper may stand further away
    deeper = distance_curve(acoustics, arrangement, some_room, role="section").span
    assert deeper.to_m > span.to_m


def test_pins_beside_the_mouth_lose_breath_first_then_treble():
    arrangement = standing((1.0, 1.4, 1.5), (1.1, 1.4, 1.5), pattern="cardioid", source="voice-sung", faces=0, aims=180)
    past = past_the_mouth(arrangement, speed_m_s=C)
    assert past[0].level_db == pytest.approx(0, abs=1e-9)
    assert past[0].puff == pytest.approx(1)
    assert past[2].puff < 0.01
    assert past[2].treble_db > -1.0
    assert past[-1].treble_db < -3
    loud = loud_notes(arrangement, speed_m_s=C)
    assert loud["step-back"].level_db == pytest.approx(-6.0)
    # by hand: a cardioid's lift at 100 Hz from 10 to 19.95 cm
    kr = 2 * np.pi * 100 / C * np.array([0.1, 0.1 * 10 ** (6 / 20)])
    lift = 20 * np.log10(np.abs(0.5 + 0.5 * (1 + 1 / (1j * kr))))
    assert loud["step-back"].bass_db == pytest.approx(lift[1] - lift[0], abs=1e-6)


def test_a_null_turned_to_a_noise_in_a_dead_room_takes_it_away_and_in_a_live_one_hardly():
    arrangement = standing((2.0, 1.5, 1.2), (2.4, 1.5, 1.2), pattern="supercardioid", faces=0, aims=180)
    beside = NoiseSource("Computer", np.full(8, 60.0), (2.4, 2.1, 1.2), kind="inside")
    won = []
    for alpha in (0.9, 0.03):
        acoustics = Acoustics(replace(plain_box(alpha=alpha), noises=(beside,)))
        null = null_towards_noise(acoustics, arrangement)
        assert null.left_deg <= 2.0
        won.append(null.under_db)
    assert won[0] > 3.0 > 1.0 > won[1]


def test_the_map_is_the_forecast_point_by_point():
    room = replace(plain_box(alpha=0.15), noises=(HUM,))
    acoustics = Acoustics(room)
    arrangement = standing(
        (1.0, 1.4, 1.5), (1.35, 1.4, 1.45), pattern="cardioid", source="voice-sung", faces=0, aims=180
    )
    found = place_map(acoustics, arrangement, DRY, step_m=0.25)
    rows = np.argwhere(np.isfinite(found.value))
    assert len(rows) > 40
    apart = []
    for row, column in rows[:: len(rows) // 12]:
        at = (float(found.x_m[column]), float(found.y_m[row]), 1.5)
        there = faced(arrangement, at, float(found.faces_deg[row, column]), distance_between(arrangement))
        marks = forecast(acoustics, there, uncertainty=False)
        assert found.by_mark["boom"][row, column] == pytest.approx(marks.boom.ring_s.value, abs=1e-6)
        assert found.by_mark["hush"][row, column] == pytest.approx(marks.hush.under_performance_db.value, abs=1e-6)
        apart.append(found.by_mark["bounce"][row, column] - marks.bounce.direct_over_room_db.value)
    assert np.sqrt(np.mean(np.square(apart))) < 0.5  # images to second order, then a diffuse tail, against 14 m of them
    assert all(spot.lacks <= found.best[-1].lacks for spot in found.best)


def test_cancellations_lie_at_half_a_wavelength_more():
    # monitor and ear 1 m apart at 1.2 m over the floor of a large box: the way by the floor is twice the hypotenuse
    room = plain_box(size=(6.0, 5.0, 3.0), alpha=0.1)
    arrangement = replace(
        standing((1, 1, 1), (2, 2, 1)), monitors=(Facing((2.5, 2.5, 1.2), 0.0),), chair=Facing((3.5, 2.5, 1.2), 180.0)
    )
    found = {room.faces[notch.face].name: notch.f_hz for notch in cancellations(room, arrangement)}
    assert found["floor"] == pytest.approx(room.air.speed_m_s / 2 / (2 * np.hypot(0.5, 1.2) - 1.0), rel=1e-6)
    behind = next(name for name, f in found.items() if f == pytest.approx(room.air.speed_m_s / (4 * 2.5), rel=1e-6))
    assert behind.startswith("wall")


def test_the_search_for_a_listening_place_is_the_best_of_all_that_are_free():
    room = plain_box(size=(3.6, 2.9, 2.4), alpha=0.2)
    acoustics = Acoustics(room)
    best = best_listening(acoustics)[0]
    bare = standing((1, 1, 1), (2, 2, 1))
    placed = listening_place(acoustics, replace(bare, monitors=best.monitors, chair=best.chair))
    assert placed.swing_db == pytest.approx(best.swing_db, abs=0.05)
    rng = np.random.default_rng(3)
    for wall in range(4):
        sources, ears, _ = candidates(room, wall, 1.2)
        for i in rng.choice(len(ears), min(12, len(ears)), replace=False):
            ahead = [np.degrees(np.arctan2(*(ears[i] - at)[1::-1])) for at in sources[i]]
            monitors = tuple(Facing(tuple(at), turn) for at, turn in zip(sources[i], ahead, strict=True))
            other = listening_place(acoustics, replace(bare, monitors=monitors, chair=Facing(tuple(ears[i]), 0.0)))
            assert placed.objective_db <= other.objective_db + 0.2


def _screen(at, faces_deg, width=1.2, height=1.2, alpha=1.0):
    return Screen("duvet", at, faces_deg, width, height, (alpha,) * 8)


def test_a_screen_swallows_its_solid_angle():
    # a square seen from its axis: Omega = 4 asin(a^2 / (a^2 + d^2)) with a half its side
    even = standing((2.0, 1.5, 1.2), (3.0, 1.5, 1.2))
    seen = replace(even, screens=(_screen((1.4, 1.5, 0.6), 0.0),))
    omega = 4 * np.arcsin(0.6**2 / (0.6**2 + 0.6**2))
    left = screened(seen)
    high = (2 * np.pi * 8000 / 343 * 0.6) ** 2
    assert 1 - left.fed[7] == pytest.approx(omega / (4 * np.pi) * high / (1 + high), rel=0.02)
    assert 1 - left.fed[0] < 0.4 * (1 - left.fed[7])  # 5 m waves pass round it


def test_a_shield_behind_a_cardioid_wins_little_and_cloth_behind_the_singer_more():
    singer = standing((2.0, 1.5, 1.5), (2.3, 1.5, 1.5), pattern="cardioid", source="voice-sung", faces=0, aims=180)
    room = plain_box(alpha=0.1)

    def worth(screen):
        scenario = Scenario(room, replace(singer, screens=(screen,)))
        told = forecast(Acoustics(scenario.described), scenario.arrangement, uncertainty=False)
        bounce = told.bounce.direct_over_room_db.value
        return screen_worths(scenario.described, scenario.arrangement, bounce_db=bounce)[0]

    shield = worth(_screen((2.55, 1.5, 1.3), 180.0, 0.5, 0.4, 0.9))
    cloth = worth(_screen((1.5, 1.5, 0.6), 0.0, 1.5, 1.8, 0.9))
    # a cardioid gathers one eighth from behind it: nobody can take more than 10 log(8/7) from there
    assert -10 * np.log10(8 / 7) - 0.01 <= shield.gathered_db < 0
    assert cloth.gathered_db < shield.gathered_db - 0.5
    assert cloth.bounce_db > shield.gathered_db + 1.0


def test_a_plate_behind_the_microphone_combs_as_its_mirror_image_does():
    # mouth 0.3 m before an omni, a hard plate 0.2 m behind it: the image is 0.7 m away, 0.3/0.7 as strong
    even = standing((2.0, 1.5, 1.2), (2.3, 1.5, 1.2))
    plate = _screen((2.5, 1.5, 0.2), 180.0, 2.0, 2.0, 0.0)
    share = 0.3 / 0.7
    assert colour_db(plate, even) == pytest.approx(20 * np.log10((1 + share) / (1 - share)), abs=0.15)
    assert colour_db(_screen((2.5, 1.5, 0.2), 180.0, 2.0, 2.0, 0.99), even) < 1.0


@settings(max_examples=40, deadline=None)
@given(*(st.floats(*ends) for ends in ((1.6, 6.0), (1.6, 5.0), (0.35, 0.65), (-40, 40), (0.1, 0.9), (0.1, 0.9))))
def test_a_mark_taped_from_two_walls_is_found_again_to_a_centimetre(long, wide, cut, lean, u, v):
    # an L with one slanting wall; the tape reads whole centimetres
    slant = long + np.sin(np.deg2rad(lean)) * 0.3
    step = (long * cut, wide * 0.6)
    plan = ((0, 0), (long, 0), (slant, wide), (step[0], wide), step, (0, step[1]))
    shape = Shape(tuple((float(x), float(y)) for x, y in plan), Ceiling.flat(2.4))
    at = np.array([u * long, v * wide])
    if not shape.stands_clear(at, margin_m=0.05):
        return
    mark = taped(shape, at)
    read = replace(mark, away_m=tuple(round(away, 2) for away in mark.away_m))
    assert np.linalg.norm(place_from(shape, mark) - at) < 1e-9
    # half a centimetre on each tape, and walls that cross at 30 degrees at worst
    assert np.linalg.norm(place_from(shape, read) - at) < 0.01 / np.sin(np.deg2rad(30)) + 1e-9
    assert all(away > 0 for away in mark.away_m)


def test_three_to_one_leaves_6_db_and_notches_lie_at_half_waves():
    assert ripple_db(1 / 3) == pytest.approx(6.02, abs=0.01)
    room = plain_box(size=(5, 4, 3))
    one = standing((1.0, 2.0, 1.5), (1.3, 2.0, 1.5))
    pair = pair_of(room, replace(one, second_microphone=Microphone((1.0, 2.9, 1.5), 0.0, 0.0, "omni")))
    assert pair.ratio == pytest.approx(3.0)
    assert pair.ripple_db == pytest.approx(6.02, abs=0.01)
    assert pair.notches_hz[:2] == pytest.approx([room.air.speed_m_s / 1.2, 3 * room.air.speed_m_s / 1.2])
    assert (pair.kind, pair.recording_angle_deg) == ("apart", None)


def test_crossed_cardioids_at_90_degrees_record_the_half_plane():
    # by hand: at 90 degrees off the middle 0.854 against 0.146 is 15.3 dB, all the way to one side
    assert recording_angle_deg(a=0.5, between_deg=90, spacing_m=0.0, speed_m_s=C) == pytest.approx(180, abs=4)
    # apart they need less: figure-eights at 90 degrees, 15 dB at arctan of (10^.75 - 1) / (10^.75 + 1)
    blumlein = 2 * np.degrees(np.arctan((10**0.75 - 1) / (10**0.75 + 1)))
    assert recording_angle_deg(a=0.0, between_deg=90, spacing_m=0.0, speed_m_s=C) == pytest.approx(blumlein, abs=1)


# published recording angles of near-coincident cardioids (M. Williams, AES preprint 2466)
@pytest.mark.parametrize(
    ("between_deg", "spacing_m", "angle_deg"), [(110, 0.17, 96), (90, 0.30, 81), (90, 0.20, 101), (100, 0.21, 93)]
)
def test_near_coincident_cardioids_record_the_published_angles(between_deg, spacing_m, angle_deg):
    found = recording_angle_deg(a=0.5, between_deg=between_deg, spacing_m=spacing_m, speed_m_s=C)
    assert found == pytest.approx(angle_deg, abs=2)


def crossed(at, other_at, *, between_deg=90.0, pattern="figure-8", source=(1.0, 2.0, 1.5)):
    """Two of a kind that cross around the direction along the first wall, the performer where `source` is."""
    one = standing(source, at)
    first, second = (
        Microphone(place, turn, 0.0, pattern) for place, turn in ((at, between_deg / 2), (other_at, -between_deg / 2))
    )
    return pair_of(plain_box(size=(5, 4, 3)), replace(one, microphone=first, second_microphone=second))


def test_lobes_have_signs_in_the_sum_of_two():
    at = (2.5, 1.0, 1.5)
    # from the side one hears by its front lobe, the other as much by its back lobe: nothing is left
    side = crossed(at, at, source=(2.5, 3.0, 1.5))
    assert np.all(side.mono_loss_db == -60.0)
    # from the front both alike: twice the pressure, 3 dB over both powers; no delay, no comb
    front = crossed(at, at, source=(4.5, 1.0, 1.5))
    assert front.mono_loss_db == pytest.approx(np.full(8, 3.01), abs=0.01)
    assert (front.delay_s, front.notches_hz, front.ripple_db) == (0.0, (), 0.0)


def test_one_above_the_other_hears_at_the_same_time():
    at = (2.5, 1.0, 1.5)
    stacked, together = crossed(at, (2.5, 1.0, 1.6), pattern="cardioid"), crossed(at, at, pattern="cardioid")
    assert (stacked.kind, stacked.recording_angle_deg) == ("coincident", together.recording_angle_deg)
    # nor does what lies along the middle line; what lies across it does
    along, across = (crossed(at, b, pattern="cardioid").recording_angle_deg for b in ((2.7, 1.0, 1.5), (2.5, 1.2, 1.5)))
    assert along == together.recording_angle_deg > across + 40


def test_an_open_cup_leaks_more_and_a_nearer_mouth_hides_it():
    singer = standing((1.0, 1.4, 1.5), (1.4, 1.4, 1.5), source="voice-sung")
    far = np.array([0.1, 0.4])
    closed, open_ = (bleed_under_db(singer, far, cups=cups) for cups in ("closed", "open"))
    assert np.all(closed > open_ + 8)
    # by hand: the voice loses 12.04 dB over the way, the leak 7.49 dB from hypot(0.1, 0.15) to hypot(0.4, 0.15)
    assert closed[0] - closed[1] == pytest.approx(12.04 - 7.49, abs=0.02)
    louder = bleed_under_db(singer, far, cups="closed", level_dba=86.0)
    assert closed - louder == pytest.approx([6.0, 6.0])


def _spoken(level_db, noise_db=-70.0, seconds=6.0):
    """Bursts with a voice's spectrum and pauses, over a floor."""
    rng = np.random.default_rng(4)
    n = int(48_000 * seconds)
    voice = signal.lfilter(*signal.butter(1, [200, 2000], "band", fs=48_000), rng.standard_normal(n))
    bursts = (np.sin(2 * np.pi * 0.9 * np.arange(n) / 48_000) > -0.2).astype(float)
    voice = voice / voice.std() * 10 ** (level_db / 20) * bursts
    return take_levels(voice + 10 ** (noise_db / 20) * rng.standard_normal(n), 48_000.0)


def test_a_line_into_both_sides_tells_front_pattern_and_power():
    loud, soft = _spoken(-24.0), _spoken(-38.0)
    assert which_side(loud, soft, "cardioid").outcome == "proved"
    assert which_side(loud, soft, "cardioid").difference_db == pytest.approx(14.0, abs=0.3)
    assert which_side(soft, loud, "cardioid").outcome == "wrong_side"
    assert which_side(loud, loud, "cardioid").outcome == "both_alike"
    assert which_side(loud, loud, "omni").outcome == "proved"
    assert which_side(loud, soft, "figure-8").outcome == "not_even"
    assert which_side(loud, _spoken(-30.0), "cardioid").outcome == "weak"
    assert which_side(_spoken(-90.0, -40.0), _spoken(-90.0, -40.0), "cardioid").outcome == "not_powered"


def test_both_schools_are_the_forecasts_of_both_and_may_be_too_close_to_call():
    room = plain_box(size=(4.0, 3.2, 2.4), alpha=0.12)
    acoustics = Acoustics(room)
    singer = standing((1.6, 1.5, 1.5), (2.0, 1.5, 1.5), pattern="cardioid", source="voice-sung", faces=0, aims=180)
    found = {school.key: school for school in schools(Scenario(room, singer), acoustics, DRY)}
    assert {"dry-or-room", "corner", "distance", "capsule", "lift", "breath", "screen", "shield", "loud"} == set(found)
    half = forecast(acoustics, at_distance(singer, 0.2), uncertainty=False).bounce.direct_over_room_db.value
    assert found["distance"].facts["closer"]["bounce_db"] == pytest.approx(half)
    assert found["distance"].winner == "closer"
    assert found["shield"].winner == "cloth"
    assert found["screen"].winner is None  # at 40 cm a p does not reach: too close to call
    # each microphone where it is used: the near one hears less of the room by the way between them
    usual = found["capsule"].facts
    assert usual["dynamic"]["distance_m"] < usual["condenser"]["distance_m"] / 3
    for far in usual.values():
        there = forecast(acoustics, at_distance(singer, far["distance_m"]), uncertainty=False)
        assert far["bounce_db"] == pytest.approx(there.bounce.direct_over_room_db.value)
    assert found["capsule"].winner == "dynamic"
    near = {school.key: school for school in schools(Scenario(room, at_distance(singer, 0.06)), acoustics, DRY)}
    assert near["screen"].winner == "off"
    for school in found.values():
        assert school_words(school).verdict.startswith("Too close" if school.winner is None else "Here: ")


def test_a_stand_reaches_fits_and_tips_by_its_moments():
    room = plain_box(size=(3.0, 2.5, 2.4))
    reaches = check_stand(room, STANDS["round"], (1.5, 1.2, 1.4))
    assert (reaches.short_m, reaches.fits, reaches.tips) == (0.0, True, False)
    assert check_stand(room, STANDS["round"], (1.5, 1.2, 1.77)).short_m == pytest.approx(0.20)
    assert not check_stand(room, STANDS["tripod"], (0.1, 1.2, 1.4)).fits
    # moments by hand: a light stand without its counterweight goes over
    light = replace(STANDS["tripod"], weight_kg=0.4, counter_kg=0.0)
    moment = 0.6 * (0.8 * np.cos(np.pi / 6) - 0.17) + 0.45 * (0.4 * np.cos(np.pi / 6) - 0.17) - 0.4 * 0.17
    assert check_stand(room, light, (1.5, 1.2, 1.4), boom_m=0.8).moment_nm == pytest.approx(9.81 * moment)


TRACE = Trace(6.0, ((3.1, -12.0), (5.2, -15.0), (7.7, -17.0), (9.0, -19.0)), 0.40)


def _later(by_ms, bounce_db=6.0, mid_s=0.40):
    return Trace(bounce_db, tuple((delay + by_ms, level) for delay, level in TRACE.early), mid_s)


@pytest.mark.parametrize(
    ("now", "moved"),
    [
        (_later(0.0), ()),
        (_later(0.08, bounce_db=6.7, mid_s=0.42), ()),  # a tape's centimetre, and a twentieth of decay
        (_later(0.15), ("elsewhere",)),  # 5 cm of way
        (_later(0.6), ("elsewhere",)),  # 20 cm of way
        (_later(0.0, bounce_db=9.5), ("nearer",)),
        (_later(0.0, bounce_db=2.5), ("further",)),
        (_later(0.0, bounce_db=4.0, mid_s=0.60), ("livelier",)),  # half as long again is 1.8 dB more of room
        (_later(0.0, bounce_db=7.5, mid_s=0.30), ("drier",)),
    ],
)
def test_what_is_not_back_is_named(now, moved):
    found = put_back(TRACE, now)
    assert found.moved == moved
    assert found.proved == (not moved)


def test_without_first_returns_nothing_is_proved():
    assert not put_back(Trace(6.0, (), 0.4), Trace(6.0, (), 0.4)).proved


@pytest.mark.parametrize(
    ("louder", "bass", "treble", "moved"),
    [
        (0.4, 0.2, 0.5, ()),
        (3.5, 1.6, 0.0, ("nearer",)),
        (-3.0, -1.2, 0.0, ("further",)),
        (3.0, 0.0, 0.0, ("louder",)),
        (-0.3, 0.0, -4.0, ("turned",)),
    ],
)
def test_a_line_that_is_louder_with_bass_came_from_nearer(louder, bass, treble, moved):
    centres = 1000 * 10 ** (np.arange(-11, 10) / 10)
    apart = np.where(centres < 250, bass, np.where(centres > 3500, treble, 0.0))
    found = line_back(louder, centres, apart)
    assert found.moved == moved
    assert found.proved == (not moved)

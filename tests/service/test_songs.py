"""A song recorded by hand: sent in blocks, kept through a kill, filed whole."""

import numpy as np
import pytest
import soundfile

from keenquiet.core.errors import InputError
from keenquiet.service import songs
from keenquiet.service.data import Data
from keenquiet.service.readings import audio_of
from keenquiet.store.errors import NotFound

from ..conftest import stored_room
from ..core.made_otherwise import made, spoilt

RATE = 48_000
BLOCK = RATE


def begun(data, channels=1):
    settings = {"device": "Blue interface", "gain": "dial at 2"}
    room_id = stored_room(data)
    return room_id, songs.begun(
        data, room_id, rate_hz=RATE, channels=channels, arrangement_id=None, settings=settings
    ).id


def sent(data, song_id, samples, first=0):
    """Blocks of a second as the page sends them; what was said to each."""
    frames = np.atleast_2d(samples).T.astype("<f4")
    return [
        songs.heard(data, song_id, from_frame=at, block=frames[at : at + BLOCK].tobytes())
        for at in range(first, len(frames), BLOCK)
    ]


def test_what_was_sung_is_filed_sample_for_sample_and_judged(data):
    room_id, song_id = begun(data, channels=2)
    sung = np.stack([made(3).samples, 0.5 * made(3).samples])
    told = sent(data, song_id, sung)
    assert told[-1].frames == sung.shape[1]
    assert told[0].peak_dbfs == pytest.approx(20 * np.log10(np.max(np.abs(sung[:, :BLOCK]))), abs=0.01)
    filed = songs.ended(data, song_id)
    assert (filed.kind, filed.way, filed.settings.device) == ("take", "browser", "Blue interface")
    kept, rate = soundfile.read(audio_of(data, filed.id), always_2d=True)
    assert rate == RATE
    np.testing.assert_allclose(kept.T, sung, atol=2 / 2**23)
    assert songs.waiting(data, room_id) == []
    with pytest.raises(NotFound):
        songs.ended(data, song_id)


def test_blocks_may_come_twice_and_never_after_a_gap(data):
    _, song_id = begun(data)
    sung = made(4).samples[: 5 * RATE]
    sent(data, song_id, sung[: 3 * RATE])
    # the answer to the third block was lost: it comes again, and the next with a part that is known
    again = songs.heard(data, song_id, from_frame=2 * RATE, block=sung[2 * RATE : 3 * RATE].astype("<f4").tobytes())
    assert again.frames == 3 * RATE
    more = songs.heard(data, song_id, from_frame=RATE * 5 // 2, block=sung[RATE * 5 // 2 :].astype("<f4").tobytes())
    assert more.frames == 5 * RATE
    with pytest.raises(InputError, match="gap"):
        songs.heard(data, song_id, from_frame=6 * RATE, block=np.zeros(RATE, "<f4").tobytes())
    with pytest.raises(InputError, match="no number"):
        songs.heard(data, song_id, from_frame=5 * RATE, block=np.full(RATE, np.nan, "<f4").tobytes())
    kept, _ = soundfile.read(audio_of(data, songs.ended(data, song_id).id))
    np.testing.assert_allclose(kept, sung, atol=2 / 2**23)


def test_a_song_outlives_the_server_and_half_a_block(data):
    room_id, song_id = begun(data)
    sung = made(5).samples[: 6 * RATE]
    sent(data, song_id, sung[: 4 * RATE])
    with (data.folder / "songs" / f"{song_id}.f32").open("ab") as file:
        file.write(b"\x00\x01\x02")  # a kill in the middle of a sample
    later = Data(data.folder)
    (left,) = songs.waiting(later, room_id)
    assert (left.id, left.seconds) == (song_id, 4.0)
    sent(later, song_id, sung, first=4 * RATE)
    kept, _ = soundfile.read(audio_of(later, songs.ended(later, song_id).id))
    np.testing.assert_allclose(kept, sung, atol=2 / 2**23)
    later.close()


def test_lamps_light_where_it_is_cut_off_and_where_a_puff_comes_once_each(data):
    _, song_id = begun(data)
    popped = spoilt("pop", 2)
    told = sent(data, song_id, popped.samples)
    puffs = [at for one in told for at in one.puffs_s]
    assert len(puffs) == 1
    assert puffs[0] == pytest.approx(popped.truth[1], abs=0.15)
    _, other = begun(data)
    clipped = spoilt("clipped", 2)
    at = [s for one in sent(data, other, clipped.samples) for s in one.clipped_s]
    assert min(abs(s - clipped.truth[1]) for s in at) < 0.6
    _, clean = begun(data)
    assert not [s for one in sent(data, clean, made(6).samples) for s in (*one.clipped_s, *one.puffs_s)]


@pytest.mark.parametrize("name", ["../../etc/passwd", "no-such-song", ""])
def test_a_name_that_is_none_reaches_no_file(data, name):
    with pytest.raises(NotFound):
        songs.dropped(data, name)
    with pytest.raises(NotFound):
        songs.ended(data, name)

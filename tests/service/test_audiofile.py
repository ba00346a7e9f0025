"""Recordings in every ordinary format come in as the samples that went out."""

import io

import av
import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import MOST_NUMBER
from keenquiet.service.data import Data
from keenquiet.store.apart import decode_apart
from keenquiet.store.audiofile import read_audio, wav_bytes
from keenquiet.store.bundle import opened_bundle, written_bundle
from keenquiet.store.errors import NotFound

TONE = 0.4 * np.sin(2 * np.pi * 440 * np.arange(24_000) / 48_000)


@pytest.mark.parametrize(
    ("form", "subtype", "suffix", "bits", "tolerance"),
    [
        ("WAV", "PCM_U8", ".wav", 8, 8e-3),
        ("WAV", "PCM_16", ".wav", 16, 4e-5),
        ("WAV", "PCM_24", ".wav", 24, 2e-7),
        ("WAV", "PCM_32", ".wav", 32, 1e-9),
        ("WAV", "FLOAT", ".wav", None, 1e-7),
        ("FLAC", "PCM_24", ".flac", 24, 2e-7),
        ("AIFF", "PCM_16", ".aiff", 16, 4e-5),
        ("OGG", "VORBIS", ".ogg", None, 0.05),
    ],
)
def test_each_format_is_read_apart_and_here_alike(tmp_path, form, subtype, suffix, bits, tolerance):
    buffer = io.BytesIO()
    soundfile.write(buffer, np.stack([TONE, -TONE], axis=1), 48_000, format=form, subtype=subtype)
    path = tmp_path / f"any{suffix}"
    path.write_bytes(buffer.getvalue())
    here, apart = read_audio(path), decode_apart(buffer.getvalue(), "any")
    for audio in (here, apart):
        assert (audio.sample_rate_hz, audio.suffix, audio.bits, audio.truncated) == (48_000, suffix, bits, False)
        assert audio.channels.shape == (2, 24_000)
        assert_allclose(audio.channels[0], TONE, atol=tolerance)
    assert here.seconds == 0.5


def test_a_refusal_names_the_file_as_the_person_knows_it():
    with pytest.raises(InputError) as caught:
        decode_apart(b"x" * 500, "choir night.mp3")
    assert caught.value.field == "file"
    assert "choir night.mp3" in caught.value.reason


def test_a_cut_off_file_says_so_and_is_read_as_far_as_it_goes(tmp_path):
    whole = wav_bytes(TONE, 48_000, subtype="PCM_16")
    path = tmp_path / "cut.wav"
    path.write_bytes(whole[: len(whole) // 2])
    audio = read_audio(path)
    assert audio.truncated
    assert 0.2 < audio.seconds < 0.3


@settings(max_examples=25, deadline=None)
@given(st.lists(st.floats(-1, 1 - 2**-22), min_size=1, max_size=200))
def test_samples_survive_24_bits(values):
    samples, rate = soundfile.read(io.BytesIO(wav_bytes(np.array(values), 44_100)), dtype="float64")
    assert rate == 44_100
    assert_allclose(samples, values, atol=2**-23)


@settings(max_examples=25, deadline=None)
@given(
    st.dictionaries(
        st.text(st.characters(categories=("L", "N", "P")), min_size=1, max_size=8),
        st.one_of(
            st.integers(-(10**15), 10**15),
            st.text(st.characters(categories=("L", "N", "P", "S")), max_size=20),
            st.floats(-MOST_NUMBER, MOST_NUMBER),
        ),
        max_size=6,
    ),
    st.binary(max_size=300),
)
def test_any_bundle_comes_back_the_same(tmp_path_factory, room, sound):
    reading = {"id": "0" * 8 + "-0000-0000-0000-" + "0" * 12, "kind": "tone"}
    path = tmp_path_factory.mktemp("sound") / f"{'a' * 64}.wav"
    path.write_bytes(sound)
    file = io.BytesIO()
    with written_bundle(file) as out:
        out.json("room.json", room)
        out.json(f"readings/{reading['id']}.json", reading)
        out.rows("moves", [{"title": "ä"}])
        out.sound(path)
    with opened_bundle(file) as bundle:
        assert bundle.json("room.json") == room
        assert [item for _, item in bundle.each("readings")] == [reading]
        assert [item for _, item in bundle.rows("moves")] == [{"title": "ä"}]
        assert {name: b"".join(bundle.blocks(name)) for name in bundle.sounds} == {path.name: sound}


def test_sound_is_kept_once_under_its_own_name(tmp_path):
    data = Data(tmp_path)
    one, two = (data.audio.keep(b"the same", ".wav") for _ in range(2))
    assert one == two
    assert [path.name for path in data.audio.folder.iterdir()] == [f"{one}.wav"]
    with pytest.raises(NotFound):
        data.audio.path("0" * 64, ".wav")
    data.close()


@pytest.mark.parametrize(("suffix", "container", "codec"), [(".m4a", "ipod", "aac"), (".webm", "webm", "libopus")])
def test_recordings_as_phones_make_them_are_read(tmp_path, suffix, container, codec):
    rate = 48_000
    tone = (0.25 * np.sin(2 * np.pi * 440 * np.arange(3 * rate) / rate)).astype(np.float32)
    path = tmp_path / f"phone{suffix}"
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream(codec, rate=rate)
        stream.layout = "mono"
        packer = av.AudioResampler(stream.format, "mono", rate, frame_size=stream.codec_context.frame_size or 960)
        frame = av.AudioFrame.from_ndarray(tone[None], format="flt", layout="mono")
        frame.sample_rate = rate
        for part in [*packer.resample(frame), *packer.resample(None)]:
            out.mux(stream.encode(part))
        out.mux(stream.encode(None))
    audio = read_audio(path)
    middle = audio.channels[0][rate : 2 * rate]
    assert audio.sample_rate_hz == rate
    assert np.sqrt(np.mean(middle**2)) == pytest.approx(0.25 / np.sqrt(2), rel=0.05)
    assert np.argmax(np.abs(np.fft.rfft(middle))) == 440  # a second of it: a hertz a bin

"""Taking readings at the measuring place: recorded here, brought as files, by the rig; and what many of them give
together.
"""

import csv
import io
import json
import re
import urllib.request
import wave

import numpy as np
import pytest
from playwright.sync_api import expect

from keenquiet.core.read.decay import band_decays
from keenquiet.documents.convert import read_room
from keenquiet.service.reading import rig_recording
from keenquiet.store.audiofile import wav_bytes

from ..core.made_otherwise import spoilt
from .conftest import CHROMIUM, FLAGS, by_rig, provoke
from .test_journey import new_room, server_room

RATE = 48_000


def with_hush(samples, before_s, after_s=3.0):
    """A recording with more of its own noise before and after it."""
    noise = samples[-RATE // 2 :]
    loops = [np.tile(noise, int(np.ceil(s * RATE / len(noise)))) for s in (before_s, after_s)]
    return np.concatenate([loops[0], samples, loops[1]])


def with_microphone(playwright, source):
    """A browser whose microphone is a WAV file, played from when the microphone is opened."""
    return playwright.chromium.launch(
        executable_path=CHROMIUM,
        args=[
            *FLAGS,
            "--use-fake-device-for-media-stream",
            "--use-fake-ui-for-media-stream",
            f"--use-file-for-fake-audio-capture={source}",
        ],
    )


def readings_of(demo, room_id):
    with urllib.request.urlopen(f"{demo.url}/api/rooms/{room_id}/readings") as answer:
        return json.load(answer)


def recorded_sweep(playwright, demo, source):
    """A sweep recorded in the page, raw; what it says of it."""
    browser = with_microphone(playwright, source)
    try:
        page = browser.new_context(viewport={"width": 1280, "height": 800}, permissions=["microphone"]).new_page()
        page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
        before = len(json.load(urllib.request.urlopen(f"{demo.url}/api/rooms/{demo.room_id}/readings")))
        page.evaluate("""() => {
            const get = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices)
            navigator.mediaDevices.getUserMedia = (asked) => { window.asked = asked; return get(asked) }
        }""")
        page.get_by_role("button", name="Read: Sweep").click()
        page.get_by_role("button", name="Open the microphone").click()
        expect(page.get_by_text("Raw sound: no echo cancellation")).to_be_visible()
        page.get_by_label("Play the sweep from this computer meanwhile").uncheck()
        page.get_by_label("How the gain is set").fill("dial at 2")
        page.get_by_role("button", name="Start in 3 seconds").click()
        expect(page.get_by_test_id("cue")).to_have_text("Keep still", timeout=10_000)
        verdict = page.get_by_test_id("big-verdict")
        expect(verdict).to_contain_text(re.compile("Good|Usable|lost a moment"), timeout=40_000)
        said = verdict.inner_text()
        page.get_by_role("button", name="See what it says").click()
        expect(page.get_by_role("button", name=re.compile("^Put this"))).to_have_count(before + 1, timeout=20_000)
        assert page.evaluate("window.asked.audio") == {
            "echoCancellation": False,
            "noiseSuppression": False,
            "autoGainControl": False,
            "channelCount": {"ideal": 2},
        }
        return said
    finally:
        browser.close()


@pytest.mark.in_real_time
def test_recording_through_the_browser_recovers_the_rigs_decay(playwright, demo, tmp_path):
    """The true microphone path: Chromium's fake device plays a WAV from the rig into the page's recorder."""
    room = read_room(server_room(demo.url, demo.room_id)["document"])
    recording = rig_recording(room, room.arrangements[0], "sweep", seed=21)
    source = tmp_path / "rig.wav"
    # the device plays from when the microphone opens: some seconds pass before the recorder listens
    source.write_bytes(wav_bytes(with_hush(recording.samples, 5.0), 48_000, subtype="PCM_16"))
    for _ in range(3):
        if "lost a moment" not in recorded_sweep(playwright, demo, source):
            break  # else what the page advises: record again
    newest = json.load(urllib.request.urlopen(f"{demo.url}/api/rooms/{demo.room_id}/readings"))[0]
    assert (newest["way"], newest["simulated"]) == ("browser", False)
    reading = json.load(urllib.request.urlopen(f"{demo.url}/api/readings/{newest['id']}"))
    with urllib.request.urlopen(f"{demo.url}/api/readings/{newest['id']}/audio") as sound:
        assert sound.read(4) == b"RIFF"
    truth = band_decays(recording.response.impulse, 48_000)
    compared = 0
    for got, want in zip(reading["result"]["bands"], truth, strict=True):
        if got["t20_s"] and want.t20_s and got["centre_hz"] >= 500:
            assert got["t20_s"] == pytest.approx(want.t20_s, rel=0.05)
            compared += 1
    assert compared >= 3


@pytest.mark.in_real_time
def test_a_clap_starts_its_own_recording_and_a_lost_connection_loses_nothing(playwright, demo, tmp_path):
    """On a phone: hands-free by clap; the server is gone when it is sent; the page is opened anew; it is filed then."""
    room = read_room(server_room(demo.url, demo.room_id)["document"])
    recording = rig_recording(room, room.arrangements[0], "clap", seed=3)
    source = tmp_path / "clap.wav"
    source.write_bytes(wav_bytes(with_hush(recording.samples, 5.0), RATE, subtype="PCM_16"))
    browser = with_microphone(playwright, source)
    try:
        context = browser.new_context(viewport={"width": 390, "height": 844}, permissions=["microphone"])
        page = context.new_page()
        page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
        page.get_by_role("button", name="Read: Clap").click()
        page.get_by_role("button", name="Open the microphone").click()
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        page.route("**/readings", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
        page.get_by_role("button", name="Wait for my clap").click()
        expect(page.get_by_test_id("cue")).to_have_text("Clap now")
        expect(page.get_by_role("alert")).to_contain_text("not answering", timeout=30_000)
        before = len(readings_of(demo, demo.room_id))
        page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
        page.unroute("**/readings")
        expect(page.get_by_text("A recording was not filed.")).to_be_visible()
        page.get_by_role("button", name="File it now").click()
        expect(page.get_by_text("A recording was not filed.")).to_be_hidden(timeout=20_000)
    finally:
        browser.close()
    filed = readings_of(demo, demo.room_id)
    assert len(filed) == before + 1
    assert (filed[0]["kind"], filed[0]["way"], filed[0]["verdict"]["usable"]) == ("clap", "browser", True)


def test_a_file_is_brought_in_and_a_wrong_one_is_refused(page, demo, tmp_path):
    provoke(page, 422, "/readings")
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.get_by_role("button", name="Read: Silence").click()
    page.get_by_role("radio", name="Bring files").click()
    bad = tmp_path / "song.wav"
    bad.write_bytes(b"this is no sound")
    page.get_by_label("Recording of the tone").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("song.wav is not a recording")
    good = tmp_path / "hush.wav"
    good.write_bytes(wav_bytes(0.01 * np.random.default_rng(1).standard_normal(12 * 48_000), 48_000))
    page.get_by_label("Recording of the tone").set_input_files(good)
    expect(page.get_by_test_id("big-verdict")).to_contain_text("Good", timeout=15_000)
    page.get_by_role("button", name="See what it says").click()
    expect(page.get_by_text("A good reading", exact=True)).to_be_visible()
    expect(page.get_by_test_id("plot-noise-spectrum")).to_contain_text("No hum or tone stands out")
    with page.expect_download() as sweep:
        page.get_by_role("button", name="Read: Sweep").click()
        page.get_by_role("radio", name="Bring files").click()
        page.get_by_role("link", name="Download the sweep (WAV)").click()
    with wave.open(str(sweep.value.path())) as wav:
        assert wav.getframerate() == 48_000


def test_many_files_are_read_at_once_and_each_says_what_it_is(page, demo, tmp_path):
    provoke(page, 422, "/readings")
    room_id = new_room(page, demo.url, "Many files", ("4", "3", "2.5"))
    rng = np.random.default_rng(4)
    files = {"quiet.flac": rng.standard_normal(12 * RATE) * 1e-3, "short.wav": rng.standard_normal(RATE) * 1e-3}
    for name, samples in files.items():
        (tmp_path / name).write_bytes(wav_bytes(samples, RATE))
    (tmp_path / "notes.txt").write_text("no sound")
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    page.get_by_role("button", name="Read: Silence").click()
    page.get_by_role("radio", name="Bring files").click()
    page.get_by_label("Recording of the tone").set_input_files([tmp_path / name for name in (*files, "notes.txt")])
    place = page.get_by_test_id("measuring-place")
    expect(place).to_contain_text(re.compile(r"good · −6\d dBFS when nobody plays"), timeout=20_000)
    expect(place).to_contain_text("not usable")
    expect(place.get_by_role("alert")).to_contain_text("notes.txt is not a recording")
    assert len(readings_of(demo, room_id)) == 2


def test_a_microphone_that_is_refused_is_said_plainly(browser, demo):
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.evaluate("""() => { navigator.mediaDevices.getUserMedia = () =>
        Promise.reject(new DOMException('no', 'NotAllowedError')) }""")
    page.get_by_role("button", name="Read: Sweep").click()
    page.get_by_role("button", name="Open the microphone").click()
    expect(page.get_by_role("alert")).to_contain_text("not allowed to use the microphone")
    expect(page.get_by_role("button", name="Try again")).to_be_visible()
    page.context.close()


def test_a_browser_that_alters_the_sound_is_warned_of(browser, demo):
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.evaluate("""() => {
        const context = new AudioContext(), out = context.createMediaStreamDestination(), hiss =
        context.createOscillator()
        hiss.connect(out); hiss.start()
        out.stream.getAudioTracks()[0].getSettings = () => ({ autoGainControl: true, noiseSuppression: true })
        navigator.mediaDevices.getUserMedia = () => Promise.resolve(out.stream)
    }""")
    page.get_by_role("button", name="Read: Silence").click()
    page.get_by_role("button", name="Open the microphone").click()
    expect(page.get_by_text("still applies noise suppression and automatic gain")).to_be_visible(timeout=10_000)
    page.get_by_role("button", name="Start in 3 seconds").click()
    page.get_by_role("button", name="Stop, keep nothing").click()
    expect(page.get_by_role("button", name="Start in 3 seconds")).to_be_visible()
    page.context.close()


def test_a_microphone_unplugged_midway_leaves_what_it_gave(page, demo):
    room_id = new_room(page, demo.url, "Unplugged", ("4", "3", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    expect(page.get_by_test_id("mark-bounce")).to_be_visible(
        timeout=20_000
    )  # the room stands before anything is pressed
    page.evaluate("""() => {
        const context = new AudioContext(), out = context.createMediaStreamDestination(), rush =
        context.createBufferSource()
        rush.buffer = context.createBuffer(1, context.sampleRate, context.sampleRate)
        rush.buffer.getChannelData(0).forEach((_, i, all) => { all[i] = (Math.random() - 0.5) * 0.01 })
        rush.loop = true; rush.connect(out); rush.start()
        window.track = out.stream.getAudioTracks()[0]
        navigator.mediaDevices.getUserMedia = () => Promise.resolve(out.stream)
    }""")
    page.get_by_role("button", name="Read: Silence").click()
    page.get_by_role("button", name="Open the microphone").click()
    page.get_by_role("button", name="Start in 3 seconds").click()
    expect(page.get_by_text(re.compile(r"Listening: \d s left"))).to_be_visible(
        timeout=15_000
    )  # at least three seconds are there
    page.evaluate("window.track.dispatchEvent(new Event('ended'))")
    expect(page.get_by_test_id("big-verdict")).to_contain_text("unplugged midway", timeout=20_000)
    (kept,) = readings_of(demo, room_id)
    assert kept["settings"]["unplugged"] is True
    assert 2 < kept["seconds"] < 12


def test_the_sweep_is_not_played_before_its_level_was_found(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.evaluate("""() => {
        const context = new AudioContext(), out = context.createMediaStreamDestination(), tone =
        context.createOscillator()
        tone.connect(out); tone.start()
        navigator.mediaDevices.getUserMedia = () => Promise.resolve(out.stream)
    }""")
    page.get_by_role("button", name="Read: Sweep").click()
    page.get_by_role("button", name="Open the microphone").click()
    expect(page.get_by_role("button", name="Start in 3 seconds")).to_be_hidden()
    page.get_by_role("button", name="Find a safe level first").click()
    expect(page.get_by_test_id("safe-level")).to_contain_text(
        "Was that comfortable?", timeout=15_000
    )  # the oscillator is heard at once
    page.get_by_role("button", name="Too loud: 6 dB less").click()
    expect(page.get_by_role("button", name="Start in 3 seconds")).to_be_visible()
    assert page.evaluate("sessionStorage.getItem('kq-play-db')") == "-42"


def test_a_hum_and_a_clap_are_taken_read_and_answered(page, demo):
    room_id = new_room(page, demo.url, "Hummed", ("4", "3", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    for kind, question in (
        ("Hum glide", "On which notes does the room swell?"),
        ("Clap", "How long does the room hang on?"),
    ):
        by_rig(page, kind)
        expect(page.get_by_role("button", name=re.compile(f"^Put this {kind}"))).to_be_visible(timeout=30_000)
        expect(page.get_by_role("heading", name=question)).to_be_visible()
    page.get_by_role("button", name=re.compile("^Hum glide")).click()
    expect(page.get_by_test_id("plot-hum-glide")).to_contain_text(re.compile(r"by \d+ dB|None stands out"))


@pytest.mark.parametrize(
    ("kind", "fault", "says"),
    [
        ("Sweep", "Moving during the recording", "moved while the sweep ran"),
        ("Silence", "A door slams", "Something passed at"),
        ("Spoken line", "Left channel not plugged in", "One channel is silent"),
    ],
)
def test_the_rig_makes_a_fault_and_the_verdict_names_it(page, demo, kind, fault, says):
    room_id = new_room(page, demo.url, "Lesson", ("4", "3", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    assert says in by_rig(page, kind, fault)


def test_pops_are_counted_marked_and_told_under_touch(page, demo):
    room_id = new_room(page, demo.url, "Pops", ("4", "3", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    assert "pop" in by_rig(page, "Pop words").lower()
    by_rig(page, "Loudest passage")
    touch = page.get_by_test_id("mark-touch")
    touch.get_by_role("button", name="Why?").click()
    expect(touch).to_contain_text("Pops in the pop words")


def test_readings_are_compared_averaged_noted_and_saved(page, demo):
    room_id = new_room(page, demo.url, "Together", ("4", "3", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    for _ in range(2):
        by_rig(page, "Sweep")
        by_rig(page, "Spoken line")
    page.get_by_role("button", name="Table and compare").click()
    sheet = page.get_by_test_id("readings-sheet")
    expect(sheet).to_contain_text("2 decays from 1 place")
    for tick in sheet.get_by_role("checkbox", name=re.compile("^Compare Sweep")).all():
        tick.check()
    sheet.get_by_role("button", name="Average the sweeps").click()
    expect(sheet.get_by_role("button", name=re.compile("^Average \\w+ \\d"))).to_be_visible(timeout=20_000)
    for tick in sheet.get_by_role("checkbox", name=re.compile("^Compare S")).all():
        tick.check()
    sheet.get_by_role("button", name=re.compile("^Edit Sweep")).first.click()
    sheet.get_by_label("Note").fill("door ajar")
    sheet.get_by_label("Tags, parted by commas").fill("before, corner A")
    sheet.get_by_role("button", name="Keep these words").click()
    expect(sheet.get_by_role("button", name="corner A")).to_be_visible()
    sheet.get_by_role("button", name="Compare these 4").click()
    compare = page.get_by_test_id("compare")
    expect(compare.get_by_test_id("plot-compare-decay")).to_be_visible(timeout=20_000)
    compare.get_by_role("radio", name="Differences").click()
    expect(compare.get_by_test_id("plot-compare-decay")).to_contain_text("hardly a difference")
    compare.get_by_role("button", name="All readings").click()
    for tick in sheet.get_by_role("checkbox", name=re.compile("^Compare Sweep")).all():
        tick.uncheck()
    sheet.get_by_role("button", name="Compare these 2").click()
    expect(page.get_by_test_id("same-words")).to_contain_text("equally loud", timeout=20_000)
    with urllib.request.urlopen(f"{demo.url}/api/rooms/{room_id}/readings.csv") as answer:
        rows = list(csv.DictReader(io.StringIO(answer.read().decode())))
    assert len(rows) == 5
    assert {row["Note"] for row in rows} == {"", "door ajar"}
    average = next(r for r in readings_of(demo, room_id) if r["kind"] == "ir")
    with urllib.request.urlopen(f"{demo.url}/api/readings/{average['id']}/impulse.wav") as answer:
        assert answer.read(4) == b"RIFF"


def test_a_silence_is_calibrated_by_a_meter_and_the_next_one_knows(page, demo, tmp_path):
    room_id = new_room(page, demo.url, "Meter", ("4", "3", "2.5"))
    hush = tmp_path / "hush.wav"
    hush.write_bytes(wav_bytes(1e-3 * np.random.default_rng(1).standard_normal(12 * RATE), RATE))
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    for number in (1, 2):
        page.get_by_role("button", name="Read: Silence").click()
        page.get_by_role("radio", name="Bring files").click()
        page.get_by_label("Recorded with").fill("Field recorder")
        page.get_by_label("Gain set to").fill("low")
        page.get_by_label("Recording of the tone").set_input_files(hush)
        page.get_by_test_id("big-verdict").wait_for(timeout=20_000)
        page.get_by_role("button", name="See what it says").click()
        if number == 1:
            page.get_by_role("button", name="Calibrate", exact=True).click()
            page.get_by_label("The meter showed, A-weighted (dB(A))").fill("31")
            page.get_by_role("button", name="Calibrate by it").click()
            expect(page.get_by_test_id("calibrate")).to_contain_text("1 silence was read anew", timeout=20_000)
            page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Calibrated ±2.0 dB")).to_be_visible()
    levels = [r["headline"]["laeq_db"] for r in readings_of(demo, room_id)]
    assert levels == pytest.approx([31.0, 31.0], abs=0.01)


@pytest.mark.in_real_time
def test_a_song_is_recorded_by_hand_goes_on_through_a_lost_connection_and_outlives_its_page(playwright, demo, tmp_path):
    """Begun by button or space, stopped by space; what the page could not file is filed from what the server kept."""
    source = tmp_path / "song.wav"
    sung = spoilt("pop", 2)
    # the device plays it again and again: a puff comes whenever the recorder begins
    source.write_bytes(wav_bytes(sung.samples, RATE, subtype="PCM_16"))
    browser = with_microphone(playwright, source)
    try:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, permissions=["microphone"])
        page = context.new_page()
        page.goto(f"{demo.url}/rooms/{demo.room_id}/take")
        page.get_by_role("button", name="Take a reading").click()
        page.get_by_role("button", name="Read: Test take").click()
        page.get_by_role("button", name="Open the microphone").click()
        page.get_by_role("button", name="Record until I stop (space)").click()
        rolling = page.get_by_test_id("rolling")
        expect(rolling).to_contain_text("0:02")
        page.route("**/sound", lambda route: route.abort())
        expect(rolling.get_by_role("alert")).to_contain_text("sent again")
        page.unroute("**/sound")
        expect(rolling.get_by_role("alert")).to_be_hidden()
        expect(rolling).to_contain_text("Puff at", timeout=40_000)  # longer than the take: it is heard once at least
        before = len(readings_of(demo, demo.room_id))
        page.keyboard.press(" ")
        expect(page.get_by_test_id("big-verdict")).to_be_visible(timeout=60_000)
        newest = readings_of(demo, demo.room_id)
        assert len(newest) == before + 1
        with urllib.request.urlopen(f"{demo.url}/api/readings/{newest[0]['id']}") as answer:
            read = json.load(answer)
        assert "pop" in {found["kind"] for found in read["result"]["findings"]}
        # another one, whose page is closed while it rolls
        page.get_by_role("button", name=re.compile("Take it again|Try again")).click()
        expect(page.get_by_role("button", name="Record until I stop (space)")).to_be_enabled()
        page.keyboard.press(" ")
        expect(page.get_by_test_id("rolling")).to_contain_text("0:03")
        page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
        expect(page.get_by_text("A song was not filed.")).to_be_visible()
        page.get_by_role("button", name="File it now").click()
        expect(page.get_by_text("A song was not filed.")).to_be_hidden(timeout=40_000)
        assert len(readings_of(demo, demo.room_id)) == before + 2
    finally:
        browser.close()

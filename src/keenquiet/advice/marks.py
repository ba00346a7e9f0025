"""The marks in a musician's words: one plain sentence each, with its reason."""

from dataclasses import dataclass
from typing import Final

from keenquiet.advice.surfaces import lower_first, note_words, surface_words, upper_first
from keenquiet.core.judge.forecast import Forecast, is_hall, low_end_top_hz
from keenquiet.core.judge.wanted import Wanted


@dataclass(frozen=True)
class Lack:
    """The reading that a mark waits for. kind : of reading. words : what is needed. button : what starts it.

    sentence : of the mark meanwhile.
    """

    kind: str
    words: str
    button: str
    sentence: str


TOUCH_LACK: Final = Lack("take", "needs a test take", "Sing a line", "")
NO_SILENCE: Final = Lack(
    "tone",
    "needs a noise noted, or a silence",
    "Record a silence",
    "Not known yet: note what makes noise here, or record ten seconds of silence.",
)
_SAME_MS: Final = 0.05  # two returns nearer than that come at once
_LINE: Final = Lack(
    "take",
    "needs a line at the silence's gain",
    "Sing a line",
    "Your silence is kept. One line at the same gain, from where you stand, tells how far it lies under you.",
)
_SAME_GAIN: Final = Lack(
    "take",
    "needs silence and line at one gain",
    "Sing a line",
    "Your silence and your takes do not belong together: other gain, device or place. Sing one line as the silence was "
    "taken, or tell the level of the silence.",
)


_LEVEL: Final = Lack(
    "tone",
    "needs the level of your silence",
    "Record a silence",
    "Your silence came as a file, and nothing is known of its gain: tell its level beside it under Listen, or record "
    "one here.",
)


def hush_lack(*, has_silence: bool, has_file: bool, has_take: bool) -> Lack:
    """What Hush waits for where nothing measures it. has_file : a silence that came as a file."""
    if not has_silence:
        return _LEVEL if has_file else NO_SILENCE
    return _SAME_GAIN if has_take else _LINE


def bounce_sentence(result: Forecast, wanted: Wanted) -> str:
    """What the room does around the performer, and from where most of it comes."""
    bounce = result.bounce
    way = [int(face) for face in result.paths.faces[bounce.strongest_path] if face >= 0]
    where = " and then ".join(surface_words(result.room, face, result.arrangement) for face in way)
    sound = "voice" if result.arrangement.performer.source.key.startswith("voice") else "sound"
    if wanted.bounce_db.deficit(bounce.direct_over_room_db.value) == 0:
        return (
            f"Your {sound} stands clear of the room."
            if wanted.bounce_db.high is None
            else "As much room as you asked for."
        )
    if wanted.bounce_db.high is not None and bounce.direct_over_room_db.value > wanted.bounce_db.high:
        return "Drier than you asked for: step back, or let the room answer."
    if bounce.strongest_early_db > wanted.early_db.high if wanted.early_db.high is not None else False:
        sooner = result.paths.delay_s[~result.paths.blocked].min() * 1000 < bounce.strongest_early_ms - _SAME_MS
        how = "comes back loudest" if sooner else "comes back first and loudest"
        return f"{upper_first(where)} {how}, {bounce.strongest_early_ms:.1f} ms after you."
    return f"The room hangs in the air for {bounce.decay_s.value:.2f} s: a little of everything, no single wall."


def boom_sentence(result: Forecast, wanted: Wanted) -> str:
    """Which note hangs on, or that none does."""
    note = note_words(result.boom.note_hz)
    good = wanted.boom_s.deficit(result.boom.ring_s.value) == 0
    said = f"No note hangs on; the longest is {note}" if good else f"A note near {note} swells and hangs on"
    if not is_hall(result.room.shape):
        return f"{said}."
    return f"{said}; above {low_end_top_hz(result.room.shape):.0f} Hz notes blur together in a room this large."


def hush_sentence(result: Forecast, wanted: Wanted, *, measured: bool = False, lack: Lack = NO_SILENCE) -> str:
    """What is heard when nobody plays. measured : by a silence or a take here; else nothing is called quiet, and what
    is lacking is named.
    """
    if not result.hush.known or (not measured and lack is not NO_SILENCE):
        return lack.sentence
    leading = result.hush.leading
    if not measured:
        return f"Not known yet. By what is noted, {lower_first(leading)} leads: ten seconds of silence will tell."
    if wanted.hush_db.deficit(result.hush.under_performance_db.value) == 0:
        return f"Quiet enough; what is left is {lower_first(leading)}."
    return f"{upper_first(leading)} sits under the quiet phrases."


def touch_sentence(result: Forecast) -> str:
    """How the microphone is used: distance first, then what it brings."""
    touch = result.touch
    distance = f"{touch.distance_m * 100:.0f} cm away"
    if touch.proximity_db > 6:
        return f"{distance}: the bass is lifted by {touch.proximity_db:.0f} dB."
    if touch.sway_db > 3:
        return f"{distance}: leaning in 5 cm makes you {touch.sway_db:.0f} dB louder."
    if touch.off_axis_deg > 60:
        return f"{distance}, and the microphone looks past you by {touch.off_axis_deg:.0f}°."
    return f"{distance}: swaying 5 cm changes the level by {touch.sway_db:.1f} dB."

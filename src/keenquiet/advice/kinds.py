"""What each kind of reading is called, what it tells and how it is taken, in a musician's words."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from keenquiet.core.take.sections import WANTED_DBFS

_SOUND: Final = (-30.0, -4.0)


@dataclass(frozen=True)
class KindWords:
    """name; tells : what it tells, after its name; short : the same in a few words; seconds : length of the recording,
    enough for the sound, its decay and a late start; cue : what to do while it records, legible from across the room;
    good_dbfs : where the live peak should lie.
    """

    name: str
    tells: str
    short: str
    seconds: float
    cue: str
    steps: tuple[str, str, str]
    good_dbfs: tuple[float, float] = _SOUND
    caution: str = ""


KIND_WORDS: Final[Mapping[str, KindWords]] = {
    "sweep": KindWords(
        "Sweep",
        "how long the room hangs on, what comes back, which notes ring",
        "how the room hangs on",
        11,
        "Keep still",
        (
            "Put a loudspeaker where your mouth is on the drawing, facing as you would.",
            "Put the microphone on its mark. Step back and keep still.",
            "Play the sweep clear but comfortable, from start to end.",
        ),
        (-24.0, -4.0),
        "Take headphones off. Start low and turn up; never play it at an ear.",
    ),
    "clap": KindWords(
        "Clap",
        "the same without a loudspeaker, and flutter",
        "no loudspeaker needed",
        4,
        "One clap",
        (
            "Stand on your mark, the microphone on its own.",
            "One sharp clap, two wooden blocks or a burst balloon.",
            "Then two seconds of nothing.",
        ),
        caution="Hold a balloon or blocks at arm’s length, away from faces and ears.",
    ),
    "glide": KindWords(
        "Hum glide",
        "the notes on which the room swells",
        "which notes swell",
        18,
        "Up… and down",
        (
            "Stand on your mark and hum softly, mouth closed.",
            "Glide from your lowest note up an octave or more in eight seconds, and down again.",
            "Keep your loudness steady: what swells is the room.",
        ),
    ),
    "tone": KindWords(
        "Silence",
        "what is there when nobody plays",
        "what is there anyway",
        14,
        "Nothing",
        (
            "Microphone on its mark, gain as for a take.",
            "Leave everything on that is on when you record.",
            "Keep still, or leave the room, for fourteen seconds: the first and last two do not count.",
        ),
        (-80.0, -24.0),
    ),
    "spoken": KindWords(
        "Spoken line",
        "your level, the noise in the gaps; again after a change, to compare",
        "the same words, twice",
        12,
        "Speak",
        (
            "Stand on your mark, gain as for a take.",
            "Speak any two sentences as you would to one listener; the same ones each time.",
            "Leave a breath of silence between them.",
        ),
    ),
    "pops": KindWords(
        "Pop words",
        "whether breath thumps the microphone",
        "does breath thump?",
        12,
        "Pa, pe, po",
        (
            "Stand on your mark, at the distance you sing from.",
            "Say: paper boats, puppets, bread and butter, people. As you would sing them.",
            "Pause a second between the words.",
        ),
    ),
    "loudest": KindWords(
        "Loudest passage",
        "whether the gain leaves room",
        "does the gain fit?",
        12,
        "Loud",
        (
            "Stand on your mark with the instrument.",
            "Play or sing the loudest passage of the piece, as loud as it will get.",
            "Do it twice: the second is usually louder.",
        ),
        WANTED_DBFS,
        "Closed headphones down before a loud passage; never "
        "monitor it through loudspeakers with this microphone open.",
    ),
    "take": KindWords(
        "Test take",
        "level, noise and plain faults at once",
        "all of it at once",
        15,
        "Play",
        (
            "Stand on your mark with the instrument, gain as you would set it.",
            "Play or sing your quietest and your loudest phrase.",
            "Leave a breath of silence between phrases.",
        ),
        WANTED_DBFS,
    ),
    "ir": KindWords(
        "Impulse response",
        "one measured elsewhere",
        "an impulse response",
        4,
        "",
        (
            "Bring an impulse response made elsewhere, one bang with its decay.",
            "WAV, FLAC, AIFF or OGG, the direct sound first.",
            "It is read as it is: nothing is known of the loudspeaker behind it.",
        ),
    ),
    "curve": KindWords(
        "Curve",
        "a response as a table, to lay beside others",
        "a curve",
        0,
        "",
        (
            "Bring a text file with two columns: frequency in Hz, level in dB.",
            "Comma, semicolon, tab or blanks between them; a header is passed over.",
            "It is kept as it is and can be compared with the low end of a sweep.",
        ),
    ),
}

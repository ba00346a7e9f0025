"""What a verdict says: for each code, and for its variants, what was found and what to do.

`{name}` is filled with the figures that the core gives; codes are the words of the command-line contract.
"""

from collections.abc import Mapping
from typing import Final

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.quality import Reason

_GAIN_CURE: Final = "Switch automatic gain off in the browser, the system and the recorder, then record again."

WORDS: Final[Mapping[str, tuple[str, str]]] = {
    "clipped": (
        "The recording is clipped: its peaks hit digital full scale.",
        "Turn the input gain down by 6 dB and record again.",
    ),
    "flat_topped": (
        "The tops of the wave are cut flat below full scale: something before the recorder was overdriven.",
        "Turn the preamplifier or the loudspeaker down and record again.",
    ),
    "damaged_row": (
        "What was kept of this reading is damaged; it cannot be shown.",
        "Put it into the bin. The sound, if it is whole, can be saved and brought in again.",
    ),
    "not_a_recording/unread": (
        "Keen Quiet failed at reading this one. The recording is kept.",
        "Take another, and tell us about it.",
    ),
    "mixed": (
        "This is not one microphone: low, middle and high go ways of their own, as in a finished mix or a whole band.",
        "Bring what one microphone recorded. Of a mix only peaks, lost moments and the file itself are told.",
    ),
    "incomplete": ("The recording ends too early.", "Let it run two seconds longer."),
    "disturbed": ("Something else was heard during the recording.", "Wait for quiet and record again."),
    "too_quiet": ("The recording is very quiet.", "Turn the gain up or play louder, and record again."),
    "low_range": (
        "The decay sinks into noise too early to read it fully.",
        "Play the sweep louder, record when it is quieter, or average several.",
    ),
    "bent_decay": (
        "The decay bends: two spaces or an uneven room.",
        "Trust the early figures; check for an open door.",
    ),
    "silent": ("The recording is digital silence.", "Check that the right input is chosen and the microphone is on."),
    "silent/last_bit": (
        "The recording holds only the last bit of the converter: the room lies below it, nobody can tell how far.",
        "Turn the gain up until the noise shows, record at 24 bits, and take the silence again.",
    ),
    "gated": (
        "Stretches of exact silence: noise suppression or a gate was at work.",
        "Switch off noise suppression and automatic gain, then record again.",
    ),
    "not_a_recording": ("This does not sound like a reading of this kind.", "Check that it is the right file."),
    "narrow_band": (
        "Nothing above 4 kHz was recorded: a phone-call setting or a low sample rate.",
        "Record at 44.1 or 48 kHz.",
    ),
    "low_resolution": (
        "The recording has 8-bit resolution; its noise hides quiet decays.",
        "Record with 16 or 24 bits.",
    ),
    "dead_channel": ("One channel is silent.", "The other one was used. Check the cable if you meant both."),
    "not_a_number": ("Samples that are no numbers were found and set to zero.", "Export the recording again."),
    "over_full_scale": (
        "Samples above full scale (floating point).",
        "Fine if nothing was converted in between; check for clipping.",
    ),
    "hot": (
        "Its loudest peak reaches {peak_dbfs:.1f} dBFS: one louder note and it is cut.",
        "Turn the gain down until the loudest passage peaks between −12 and −6 dBFS.",
    ),
    "dc_offset": ("The wave is shifted off the middle.", "It was corrected here; check the interface."),
    "truncated_file": (
        "The file is shorter than its header says: it was cut off.",
        "Export it again; the part that is there was read.",
    ),
    "not_a_steady_tone": (
        "The calibrator's recording is not one steady tone.",
        "Record the calibrator again, seated firmly.",
    ),
    "no_sweep": (
        "The sweep was not found in this recording.",
        "Check that it is the recording of the sweep file from "
        "here, with the same length and range, and play it louder.",
    ),
    "no_sweep/wrong_rate": (
        "The sweep is there, but runs {speed:.3g} times as fast: the file says {said:.0f} Hz and was recorded at "
        "{true:.0f} Hz.",
        "Export it again at the rate it was recorded with.",
    ),
    "incomplete/sweep_cut": (
        "The sweep's {what} is cut off by {missing_s:.2f} s.",
        "Start recording before the sweep and let it run two seconds longer.",
    ),
    "incomplete/lost_moment": (
        "About {lost_ms:.0f} ms are missing near {at_s:.1f} s: the computer lost a moment.",
        "Close other programs and record again.",
    ),
    "incomplete/bang_short": ("Only {length_s:.2f} s long.", "Record at least one second."),
    "incomplete/bang_cut": ("The recording ends right after the bang.", "Let it run one second longer."),
    "incomplete/room_tone_short": ("Room tone needs twenty seconds or more.", "Record twenty to thirty seconds."),
    "not_a_recording/gain_small": (
        "{gain_db:.0f} dB between the two gains is too little to tell.",
        "Set the second silence 10 dB higher.",
    ),
    "not_a_recording/gain_otherwise": (
        "The second silence is {rise_db:.1f} dB louder; with {gain_db:.0f} dB more gain it should lie between.",
        "Change only the gain, by what the dial says, and take both again.",
    ),
    "incomplete/silence_short": ("A silence needs two seconds or more.", "Record ten seconds of nothing."),
    "incomplete/hum_narrow": (
        "The hum covers {semitones:.0f} semitones only.",
        "Glide slowly over an octave or more, up and down again.",
    ),
    "incomplete/take_short": ("The take is shorter than one second.", "Record a whole phrase."),
    "gated/gain_sweep": ("The hiss sank while the sweep played: automatic gain was at work.", _GAIN_CURE),
    "gated/gain_clap": ("The hiss sank after the clap: automatic gain was at work.", _GAIN_CURE),
    "gated/gain_hum": ("The hiss sank after the hum: automatic gain flattened the swells.", _GAIN_CURE),
    "gated/suppressed": (
        "The quiet before and after the sweep was turned down: noise suppression was at work.",
        "Switch noise suppression off in the browser, the system and the recorder, then record again.",
    ),
    "disturbed/moved": (
        "The microphone or the loudspeaker moved while the sweep ran: the direct sound wandered.",
        "Put both on stands, step back, keep still, and record again.",
    ),
    "disturbed/bursts": ("Something else was heard {when} into the recording.", "Wait for quiet and record again."),
    "disturbed/passed": (
        "Something passed at {when}; the figures hold it too.",
        "Play it below; record again if it was yours.",
    ),
    "disturbed/speech": (
        "Somebody speaks at {when}: that is no silence.",
        "Step back, say nothing, and record again; what you want to say fits before or after.",
    ),
    "disturbed/gain_changed": (
        "The gain changed at {when}, by {db:.0f} dB: before and after cannot be one silence.",
        "Leave the dial alone, switch automatic gain off, and record again.",
    ),
    "disturbed/breath": ("Breathing is heard at {when}.", "Stand two metres away, or leave the room while it records."),
    "disturbed/rustle": (
        "Something rustles at {when}: cloth, paper, a chair.",
        "Put everything down, stand still or leave the room, and record again.",
    ),
    "disturbed/repeats_differ": (
        "The repeats differ from each other: microphone or loudspeaker stood elsewhere.",
        "Average only readings taken one after the other, with nothing moved.",
    ),
    "low_range/silence_brief": (
        "Only {seconds:.0f} s of silence: what comes and goes may have been missed.",
        "Record ten seconds or more.",
    ),
    "low_range/bang": (
        "The decay sinks into noise too early to read it fully.",
        "Clap harder, burst a balloon at arm's length, or wait for a quieter hour; a sweep reaches deeper.",
    ),
    "not_a_recording/no_bang": (
        "No single bang with a decay after it was found.",
        "Check that it is an impulse response or a clap.",
    ),
    "not_a_recording/no_decay": ("No decay rises above the noise.", "Check the file; clap or play louder."),
    "not_a_recording/no_silence": (
        "This is no silence: for a good part of it something {swing_db:.0f} dB louder sounds.",
        "Check the file; record twelve seconds in which nobody plays or speaks.",
    ),
    "not_a_recording/no_hum": (
        "No hum with a clear pitch was found.",
        "Hum one steady tone, close enough to be clearly heard.",
    ),
    "not_a_recording/no_voice": (
        "No voice stands out of the noise.",
        "Check the file and the input, come nearer, and speak again.",
    ),
    "too_quiet/to_compare": ("One of the recordings is too quiet to be compared.", "Record it again, louder."),
}


def words(code: str, variant: str = "", figures: Mapping[str, float | str] | None = None) -> tuple[str, str]:
    """What was found and what to do about it. Raises KeyError for a code that has no words."""
    text, cure = WORDS[f"{code}/{variant}" if variant else code]
    return text.format(**(figures or {})), cure


def reason_words(reason: Reason) -> tuple[str, str]:
    """The words of one reason of a verdict."""
    return words(reason.code, reason.variant, reason.figures)


def error_words(error: MeasurementError) -> tuple[str, str]:
    """The words for a recording that could not be read."""
    return words(error.code, error.variant, error.figures)

"""What helps against a finding in a take, and against a noise in a silence: in the room or at the microphone first."""

from collections.abc import Mapping, Sequence
from typing import Final

from keenquiet.advice.clock import minutes
from keenquiet.advice.differences import listed
from keenquiet.advice.reasons import WORDS
from keenquiet.core.read.noises import Noise
from keenquiet.core.take.finding import Finding

FINDING_CURES: Final[Mapping[str, str]] = {
    "clipped": "Turn the gain down, or step back for the loud notes; a cut peak cannot be mended.",
    "flat_top": "Something before the recorder is overdriven: turn the preamplifier down, use its pad.",
    "too_quiet": "Turn the gain up until loud notes peak between -12 and -6 dBFS.",
    "dead_channel": WORDS["dead_channel"][1],
    "dc": WORDS["dc_offset"][1],
    "pop": "Aim past the mouth or a hand's width off its line, move back a little, or set a pop screen between.",
    "hum": "A hum at {f_hz:.0f} Hz: switch off what hums, turn the microphone's back to it.",
    "dropout": "The computer lost {value:.0f} ms: close other programs, use a larger buffer, play that line again.",
    "click": "A click: check cables and plugs, and a second device's clock; a single one can be drawn out later.",
    "ess": "Aim past the mouth or lower; later, tame it by about {value:.0f} dB: more than 8 dB makes a lisp.",
    "tone": "A tone at {f_hz:.0f} Hz: a charger, a screen or a lamp; switch them off one by one.",
    "hiss": "Come nearer: you grow louder and it does not; what stays is the recorder's own.",
    "floor": "Noise lies {value:.0f} dB under you. Come nearer, switch off what runs, or wait for a quieter hour.",
    "rumble": "Stand the stand on something soft, use the low cut, wait for a quieter hour.",
    "noise": "Something passed, {value:.0f} dB over the room's own: play that line again, or wait for a quieter hour.",
    "roomy": "The room fades in {value:.1f} s behind you: come nearer, or hang something soft behind you.",
    "creep": "{value:+.0f} dB over the take: you {louder}. Mark your feet, watch the level.",
    "drift": "{value:+.0f} dB, and the room did not follow: you {nearer}. Mark your feet, and keep a hand's width.",
    "jump": "{value:+.0f} dB from one line to the next: the gain was turned, or you stepped.{once}",
    "seam": "The room tone steps by {value:.0f} dB: a cut. Record room tone with each take, and crossfade.",
    "polarity": "One channel is turned over: {value:.0f} dB are lost in mono. Turn its polarity round.",
    "delay": "The second channel comes {value:.1f} ms later: move its microphone, or shift it back.",
    "soft_over": "Loud places are pressed by about {value:.0f} dB before the recorder: turn the preamplifier down "
    "and sing "
    "them again, or step back for them.",
    "gate": "Pauses are shut by {value:.0f} dB: switch noise suppression or the gate off, in the browser, the system "
    "and "
    "the interface, and sing it again; the ends of words are lost.",
    "auto_gain": "The room tone rises by {value:.0f} dB in each pause: something sets the gain by itself. Switch it "
    "off, "
    "set the gain by hand, and sing it again.",
    "compressed": "The room tone comes up by {value:.0f} dB after each phrase: a compressor works on the way in. "
    "Take it "
    "out, it can be added later.",
    "wrong_side": "{value:.0f} dB under your line, and dull: sing into the other side of the microphone, or set its "
    "pattern.",
    "nearer": "{value:+.0f} dB against your line, with more bass and less room: {distance}. Mark your feet.",
    "further": "{value:+.0f} dB against your line, with more room: {distance}. Mark your feet.",
    "turned": "{value:+.0f} dB of treble: you sing past the microphone. Turn back to it, or turn it to you.",
    "boomy": "{value:+.0f} dB below 300 Hz against your line: {distance}, or away from the wall and the corner.",
    "thin": "{value:+.0f} dB below 300 Hz against your line: {distance}; look for a table or a stand's shade.",
    "tuning": "{value:+.0f} cents against the first take: tune, and let the room's temperature settle. An air column "
    "rises "
    "3 cents for each degree; strings go the other way.",
    "bleed": "The backing lies {under:.0f} dB under you: closed cups, turn them down, one cup off only on the far "
    "side.",
    "click_track": "A click track is heard, {under:.0f} dB under you at {f_hz:.1f} beats a second: closed cups, a "
    "duller "
    "click, turned down.",
    "mono_loss": "{value:.0f} dB are lost when both channels are summed: take one of them, or place the pair anew.",
    "twin": "Both channels are the same: one microphone recorded twice. Keep one of them.",
    "lossy": "Nothing lies above {value:.1f} kHz: a lossy copy, or a filter. Use the recording itself.",
    "low_rate": "Nothing lies above {value:.1f} kHz: recorded at a lower rate, by a headset or over the air. Set 48 "
    "kHz "
    "and a wired microphone.",
    "true_bits": "Only {value:.0f} bits are used: set the recorder to 24 bits; leave 12 dB of room then.",
    "thump": "A thump, {value:.0f} dB against you: stand, desk or floor. Something soft under the stand, cables off "
    "the "
    "floor, low cut on.",
    "breath": "A breath, {value:.0f} dB against you: turn the head for it, or fade it down later; do not cut it out.",
    "lips": "A tick of the lips: drink water, an apple helps; it can be drawn out later.",
    "cloth": "Cloth or paper moves, {value:.0f} dB against you: sleeves up, soft paper pinned, sit still in pauses.",
    "chair": "Something creaks: another chair, or stand; wait for the room to fade before you move.",
    "keys": "Ticks in a row: keys, buttons or a pen. Hands off until the last note has gone.",
}
# what each is told by, as a half sentence
FINDING_MEASURES: Final[Mapping[str, str]] = {
    "dead_channel": "one channel holds next to nothing of what the other does",
    "clipped": "samples in a row at full scale",
    "flat_top": "tops at one height, cut below full scale",
    "soft_over": "loud tops stand less far out than softer ones of the same note, or pile up under a ceiling",
    "dropout": "the wave stands still for a millisecond and more inside a line",
    "wrong_side": "level and treble against your line",
    "gate": "the room tone falls 10 dB within 40 ms in three of five pauses, or to nothing at all three times",
    "auto_gain": "the room tone rises alike in all pauses, over half a second and more",
    "compressed": "the room tone rises alike in all pauses, within half a second",
    "noise": "a pause stands over the other pauses",
    "bleed": "what is in the pauses follows the backing, or moves as music and talk do",
    "click_track": "ticks on one beat, none missing",
    "polarity": "both channels added lose what each of them has",
    "delay": "the shift at which both channels are most alike",
    "mono_loss": "both channels added against their powers",
    "jump": "the level from one line to the next, and the room tone with it",
    "seam": "the room tone before and after, third by third",
    "pop": "a burst below 150 Hz, most of it below 62 Hz, that jumps 12 dB",
    "thump": "a burst that rings above 60 Hz, in a pause or under a line",
    "cloth": "a rush in a pause over the room's own fading",
    "chair": "lines that slide in a pause",
    "keys": "ticks in a row in a pause",
    "click": "a bend of the wave as sharp as one sample, with nothing after it",
    "hum": "lines at the mains' frequency and its multiples that hold",
    "tone": "a line that holds all through the pauses",
    "hiss": "the treble of the pauses under your level",
    "rumble": "the low end of the pauses under your level",
    "floor": "the A-weighted level of the pauses under your own",
    "too_quiet": "the true peak of the take",
    "dc": "the mean of all samples",
    "lossy": "where the spectrum of the quietest moments ends as with a knife",
    "low_rate": "where the spectrum of the quietest moments ends, or the rate of the file",
    "true_bits": "the lowest bit that is ever set",
    "twin": "both channels are the same, sample by sample",
    "tuning": "the shift in pitch at which both long spectra agree",
    "roomy": "how what follows the ends of lines fades",
    "creep": "the level from line to line, bass and room together",
    "drift": "the level from line to line against the room's",
    "turned": "the treble from line to line against the level",
    "nearer": "level, bass and room against your line",
    "further": "level, bass and room against your line",
    "boomy": "what lies below 300 Hz against your line",
    "thin": "what lies below 300 Hz against your line",
    "ess": "5 to 10 kHz against the body of the voice",
    "breath": "a rush in a pause that ends where a line begins",
    "lips": "one tick in a pause",
}
FINDING_NAMES: Final[Mapping[str, str]] = {
    "clipped": "Cut at full scale",
    "flat_top": "Tops cut flat",
    "too_quiet": "Too quiet",
    "dead_channel": "One channel dead",
    "dc": "Shifted wave",
    "pop": "Pop",
    "hum": "Hum",
    "dropout": "A lost moment",
    "click": "Click",
    "ess": "Sharp ess",
    "tone": "A steady tone",
    "hiss": "Hiss",
    "floor": "Noise close under you",
    "rumble": "Rumble",
    "noise": "Something passes",
    "roomy": "The room is heard",
    "creep": "The level creeps",
    "drift": "You moved",
    "jump": "The level jumps",
    "seam": "A cut is heard",
    "polarity": "One channel turned over",
    "delay": "One channel late",
    "soft_over": "Softly overdriven",
    "gate": "A gate shuts",
    "auto_gain": "Automatic gain",
    "compressed": "Compressed on the way in",
    "wrong_side": "The wrong side",
    "nearer": "Nearer than your line",
    "further": "Further than your line",
    "turned": "Turned aside",
    "boomy": "Boomier than your line",
    "thin": "Thinner than your line",
    "tuning": "Tuned otherwise",
    "bleed": "The backing is heard",
    "click_track": "The click is heard",
    "mono_loss": "Lost in mono",
    "twin": "One channel twice",
    "lossy": "A lossy copy",
    "low_rate": "Recorded at a lower rate",
    "true_bits": "Fewer bits than it says",
    "thump": "Thump",
    "breath": "Breath",
    "lips": "Lips",
    "cloth": "Cloth moves",
    "chair": "Something creaks",
    "keys": "Keys",
}
# what a take is drawn with, in this order: what is looked for, one thread each
THREAD_NAMES: Final[Mapping[str, str]] = {
    "puffs": "puffs and esses",
    "mouth": "breaths and lips",
    "tops": "tops cut or pressed",
    "moments": "lost moments, clicks",
    "handling": "stand, desk, cloth, chair, keys",
    "distance": "level and distance",
    "automatic": "a chain that sets itself",
    "under": "underneath: hum, tone, hiss, rumble",
    "passing": "what passes",
    "bleed": "out of the headphones",
    "room": "the room behind",
    "tuning": "tuning",
    "cuts": "cuts",
    "wire": "the wire",
    "file": "the file itself",
}
# why something could not be looked for
NEEDS_WORDS: Final[Mapping[str, str]] = {
    "pauses": "there are no pauses to hear it in",
    "ends": "too few phrases end in quiet",
    "phrases": "there are fewer than four phrases",
    "two_channels": "one channel only",
    "treble": "the sample rate holds no treble",
    "reference": "no line of yours to hold it against yet",
    "bits": "the file does not say its bits",
    "steps": "eight bits stand still by themselves",
    "slow": "one that lets go within a tenth of a second leaves no trace that can be told",
    "one_microphone": "this is a mix, not one microphone",
}
VERDICTS: Final[Mapping[str, str]] = {
    "keep": "Keep it.",
    "parts": "Keep parts of it: play again {lines}.",
    "again": "Play it again: {why}.",
    "mixed": "A finished mix, it seems.",
}
_WHY: Final[Mapping[str, str]] = {
    "not_played": "there is noise in it and nobody plays",
    "noisy": "noise lies too close under you",
    "roomy": "the room is in all of it, and you want it dry",
    "lost": "too much of it cannot be mended",
}


def keep_words(keep: str, why: Sequence[str], spoilt: Sequence[tuple[float, float]]) -> str:
    """What to do with a take, and why. spoilt : the lines to play again. [s]"""
    lines = [f"{minutes(start)} to {minutes(end)}" for start, end in spoilt[:3]]
    more = [f"{len(spoilt) - 3} more"] if len(spoilt) > 3 else []
    return VERDICTS[keep].format(why=" and ".join(_WHY[key] for key in why), lines=listed([*lines, *more], most=4))


NOISE_CURES: Final[Mapping[str, str]] = {
    "hum": "Find what hums: switch off one thing after another. Wiring and a hum that stays with the cable out are an "
    "electrician's business; never lift a safety earth.",
    "fan": "Switch the fan off while recording, or set it on something soft and turn the microphone's back to it.",
    "whine": "A screen, a charger or a lamp: switch them off one by one.",
    "rumble": "It comes through the house: stand the microphone on something soft, use its low cut, wait for a quieter "
    "hour.",
    "hiss": "Mostly the recorder's own: come nearer.",
}


def finding_cure(finding: Finding, *, distance: str, one_gain: bool = True) -> str:
    """What to do about a finding. distance : in words, where it tells of one. one_gain : one holds the whole take."""
    rose = finding.value > 0
    return FINDING_CURES[finding.kind].format(
        f_hz=finding.f_hz or 0.0,
        value=finding.value,
        under=abs(finding.value),
        distance=distance,
        once=" Use one gain." if one_gain else "",
        louder="grew louder or came nearer" if rose else "grew softer or went back",
        nearer="came nearer" if rose else "went back",
    )


def moved_words(level_db: float, from_m: float | None) -> str:
    """By how much somebody moved, by the level of the middle: 6 dB are half the way."""
    share = 10 ** (-level_db / 20)
    if from_m is None:
        return f"at {share:.1f} of the distance"
    return f"about {100 * share * from_m:.0f} cm where the line was at {100 * from_m:.0f} cm"


def noise_cure(noise: Noise) -> str:
    """What to do about a noise."""
    return NOISE_CURES[noise.kind]

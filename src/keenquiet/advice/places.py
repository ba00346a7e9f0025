"""Which place? In words: what each is like, which to use, what would turn the order."""

from collections.abc import Mapping
from typing import Final, cast

from keenquiet.advice.surfaces import note_words
from keenquiet.core.judge.which_place import CLOSE_CALL, Trait, Verdict

_TRAITS: Final[Mapping[str, str]] = {
    "dead": "Dead: it fades in {mid_s:.2f} s.",
    "live": "Live: it takes {mid_s:.2f} s to fade.",
    "treble_robbed": "Robs the treble: 4 kHz fades in {share:.0%} of the time of 500 Hz, so it sounds dull, not dry.",
    "small": "Small: its first swell lies at {first}, among the notes you perform, not below them.",
    "boxy": "Boxy: {note} rings {ring_s:.2f} s, {times:.1f} times as long as the middle.",
    "flutter": "A clap can flutter between bare walls {spacing_m:.2f} m apart, {rate_hz:.0f} times a second.",
    "noise": "{leading} is the loudest thing when you are silent: {noise_dba:.0f} dB(A) at the microphone.",
    "wins_in_quiet": "It would win while {leading} rests.",
    "draws_level": "It would draw level with {amount} better {name}.",
    "not_level": "Even a perfect {name} would not bring it level.",
}


def trait_words(trait: Trait) -> str:
    """One trait as a sentence."""
    figures = dict(trait.figures)
    for hz, name in (("first_hz", "first"), ("note_hz", "note")):
        if hz in figures:
            figures[name] = note_words(float(figures[hz]))
    if "mark" in figures:
        figures["name"] = str(figures["mark"]).capitalize()
    if "better" in figures:
        better = cast(float, figures["better"])
        figures["amount"] = f"{better:.2f} s" if figures["mark"] == "boom" else f"{better:.0f} dB"
    said = _TRAITS[trait.key].format(**figures).replace("%", " %")
    return said[:1].upper() + said[1:]


def recommendation(verdicts: list[Verdict], names: dict[str, str]) -> str:
    """One sentence: the place to use, or that two are level."""
    if not verdicts:
        return "No place yet: add one with its three sizes."
    best = verdicts[0]
    if len(verdicts) == 1:
        return f"{names[best.key]} is the only place so far. Add another to compare."
    second = verdicts[1]
    if second.total - best.total < CLOSE_CALL:
        return (
            f"{names[best.key]} and {names[second.key]} are level within what can be predicted: take the quieter, or "
            "read both."
        )
    gains = {mark: second.deficits[mark] - best.deficits[mark] for mark in best.deficits}
    mark = max(gains, key=lambda m: gains[m])
    return f"{names[best.key]}: mostly for its {mark.capitalize()}, against {names[second.key]}."

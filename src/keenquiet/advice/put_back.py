"""Put back, in words."""

from collections.abc import Mapping
from typing import Final

from keenquiet.core.judge.put_back import PutBack

_MOVED: Final[Mapping[str, str]] = {
    "nearer": "Mouth and microphone are nearer than they were: measure them again.",
    "further": "Mouth and microphone are further apart than they were: measure them again.",
    "elsewhere": "The first returns come at other times: somebody stands elsewhere, higher or lower.",
    "livelier": "The room hangs on longer: a curtain, a door or a duvet is not as it was.",
    "louder": "The line is louder without more bass: it was said louder, or the gain is up.",
    "softer": "The line is softer without less bass: it was said softer, or the gain is down.",
    "turned": "The treble is another: the microphone or the head is turned or tilted.",
    "drier": "The room fades faster: something soft is there that was not.",
}


def put_back_words(found: PutBack) -> tuple[str, list[str]]:
    """What was proved, and what is not as it was."""
    if found.level_db is not None:
        level = f"The line is {abs(found.level_db):.1f} dB {'louder' if found.level_db > 0 else 'softer'} than it was"
        return f"{level}{': put back.' if found.proved else '.'}", [_MOVED[key] for key in found.moved]
    if found.proved:
        return f"Put back: {found.shared} of {found.of} first returns come at the same time.", []
    if not found.of:
        return "No first return could be told: take the sweep again, a little louder.", []
    return f"Not as it was: {found.shared} of {found.of} first returns come at the same time.", [
        _MOVED[key] for key in found.moved
    ]

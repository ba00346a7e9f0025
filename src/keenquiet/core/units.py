"""Lengths as people type them, and back again.

Metres inside, always. Feet and inches follow the tape measure: `11' 10 1/2"`.
"""

import math
import re
from fractions import Fraction
from typing import Final

from keenquiet.core.errors import InputError

METRES_PER_INCH: Final = 0.0254  # exact, international inch (1959)
METRES_PER_FOOT: Final = 0.3048  # exact

_METRIC_M: Final = {"mm": 0.001, "cm": 0.01, "m": 1.0, "": 1.0}
_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_METRIC = re.compile(rf"^({_NUMBER})\s*(mm|cm|m)?$")
_FEET = r"(?:ft|feet|foot|')"
_INCH = r"(?:in|inch|inches|\"|'')"
_INCHES = rf"(?:(?P<whole>{_NUMBER})(?:[\s-]+(?P<fraction>\d+\s*/\s*\d+))?|(?P<only>\d+\s*/\s*\d+))"
_IMPERIAL = re.compile(rf"^(?:(?P<feet>{_NUMBER})\s*{_FEET})?\s*(?:{_INCHES}\s*(?P<mark>{_INCH})?)?$")
_FEET_INCHES = re.compile(r"^(\d+)\s+(\d+(?:\s+\d+\s*/\s*\d+)?)$")
_CURE = """Type metres or feet and inches, e.g. 3.62, 362 cm or 11' 10 1/2"."""
_LOOKALIKES = str.maketrans({"’": "'", "′": "'", "‘": "'", "“": '"', "”": '"', "″": '"', "\u00a0": " "})
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}


def _value(text: str | None) -> float:
    return float(text.replace(",", ".")) if text else 0.0


def parse_length_m(text: str, *, field: str = "length", imperial: bool = False) -> float:
    """A length as typed, in metres.

    text : `3.62`, `3,62 m`, `362cm`, `3620 mm`, `11' 10 1/2"`, `11 ft 10`, `142.5 in`. A bare number is metres; by who
    thinks in feet (imperial) it is asked about, and `7 10` is feet and inches. [-]
    Returns the length. [m]
    Raises InputError when the text is no length, is negative, or is not finite.
    """
    cleaned = text.strip().lower().translate(_LOOKALIKES)
    for sign, plain in _VULGAR.items():
        cleaned = cleaned.replace(sign, f" {plain}")
    cleaned = cleaned.strip()
    if imperial and (both := _FEET_INCHES.match(cleaned)):
        cleaned = f"{both[1]}' {both[2]}"
    if imperial and re.fullmatch(_NUMBER, cleaned):
        raise InputError(
            field,
            f"{text.strip()} may be feet, inches or metres.",
            f"Say which: {text.strip()} ft, {text.strip()} in or {text.strip()} m.",
        )
    if metric := _METRIC.match(cleaned):
        return _finite(_value(metric[1]) * _METRIC_M[metric[2] or ""], field)
    found = _IMPERIAL.match(cleaned)
    if not cleaned or found is None or not (found["feet"] or found["mark"]):
        raise InputError(field, f"{text!r} is not a length that can be read.", _CURE)
    inches = _value(found["whole"])
    if fraction := found["fraction"] or found["only"]:
        try:
            inches += float(Fraction(fraction.replace(" ", "")))
        except ZeroDivisionError as exc:
            raise InputError(field, f"{text!r} has a fraction over 0.", _CURE) from exc
    return _finite(_value(found["feet"]) * METRES_PER_FOOT + inches * METRES_PER_INCH, field)


def _finite(metres: float, field: str) -> float:
    if not math.isfinite(metres):
        raise InputError(field, "the number is too large.", _CURE)
    return metres


def format_feet_inches(metres: float, *, sixteenths: int = 8) -> str:
    """A length on an imperial tape, to the nearest 1/`sixteenths` inch, e.g. `11' 10 1/2"`."""
    total = Fraction(round(metres / METRES_PER_INCH * sixteenths), sixteenths)
    feet, inches = divmod(total, 12)
    whole, part = divmod(inches, 1)
    text = f"{whole} {part}" if part and whole else f"{part or whole}"
    return f"{feet}' {text}\"" if feet else f'{text}"'

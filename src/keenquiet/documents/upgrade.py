"""Documents of former versions brought up to date, once, when they are read."""

from math import hypot
from typing import Any


def upgraded(data: Any) -> Any:
    """The same data in today's form; what is no room document at all is given back for the schema to refuse."""
    if not isinstance(data, dict) or not isinstance(data.get("arrangements"), list):
        return data
    return {**data, "arrangements": [_without_open_wardrobe(a, data) for a in data["arrangements"]]}


def _without_open_wardrobe(arrangement: Any, room: dict[str, Any]) -> Any:
    """An open wardrobe used to be a treatment on the wall behind it: it is the wardrobe itself, opened."""
    hung = arrangement.get("treatments") if isinstance(arrangement, dict) else None
    if not isinstance(hung, list) or not any(isinstance(t, dict) and t.get("kind") == "open-wardrobe" for t in hung):
        return arrangement
    wardrobes = [
        (number, piece)
        for number, piece in enumerate(room.get("furnishings") or [])
        if isinstance(piece, dict) and piece.get("kind") == "wardrobe"
    ]
    if not wardrobes:
        return arrangement  # its clothes stay as what they are: soft things on a wall
    try:
        at = arrangement["performer"]["at"]
        nearest, _ = min(wardrobes, key=lambda w: hypot(w[1]["at"][0] - at[0], w[1]["at"][1] - at[1]))
    except (KeyError, TypeError, IndexError):
        return arrangement  # the schema names what is wrong
    return {
        **arrangement,
        "treatments": [t for t in hung if not (isinstance(t, dict) and t.get("kind") == "open-wardrobe")],
        "opened": [*(arrangement.get("opened") or []), {"what": f"furnishings.{nearest}", "state": "open"}],
    }

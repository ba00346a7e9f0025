"""The made-up duo's three places, as documents: the spare room over the bakery, the cupboard under its stairs, the
attic.
"""

import json
from importlib import resources
from typing import Any

PROJECT = "Hurdy-gurdy and alto"


def demo_rooms() -> list[dict[str, Any]]:
    """All places of the scenario, the spare room first."""
    return [bakery_room(), cupboard(), attic()]


def bakery_room() -> dict[str, Any]:
    """The duo's spare room: 3.62 x 2.84 x 2.41 m with an alcove, a sash window on the tram street, a door to the
    stairs.
    """
    return _kept("over-the-bakery")


def cupboard() -> dict[str, Any]:
    """The cupboard under the stairs: 0.95 x 1.70 m, the ceiling falling from 2.15 to 1.05 m, full of coats."""
    return _kept("cupboard")


def attic() -> dict[str, Any]:
    """The attic used for listening: 4.40 x 3.30 m under two slopes with a flat strip at the top."""
    return _kept("attic")


def _kept(name: str) -> dict[str, Any]:
    document: dict[str, Any] = json.loads(resources.files(__package__).joinpath(f"{name}.json").read_text("utf-8"))
    return document

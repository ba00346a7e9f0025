"""Voices and instruments of the simulated performer that must draw no finding."""

VOICES: tuple[dict[str, float | str], ...] = (
    {},
    {"lowest_hz": 82.0},
    {"lowest_hz": 392.0},
    {"breathy": 0.95},
    {"floor_db": -75.0},
    {"instrument": "plucked", "lowest_hz": 82.0},
    {"instrument": "bowed"},
    {"instrument": "blown", "lowest_hz": 262.0},
)

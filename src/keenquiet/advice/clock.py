"""Hours as a clock shows them."""


def clock(hour: float) -> str:
    """An hour as a clock shows it."""
    minutes = round(hour * 60)
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}" if minutes < 1440 else "24:00"


def minutes(seconds: float) -> str:
    """A moment of a recording: `1:04`."""
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"

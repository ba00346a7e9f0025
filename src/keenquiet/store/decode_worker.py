"""Child process that decodes one file: `python -m keenquiet.store.decode_worker SOURCE TARGET NAME FIELD`."""

import sys
from pathlib import Path

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.store.audiofile import read_audio


def main() -> int:
    """Exit 0 with TARGET written, or 2 with field, reason and cure on stdout."""
    source, target, name, field = sys.argv[1:5]
    try:
        audio = read_audio(Path(source), field=field)
    except InputError as exc:
        print("\x1f".join(part.replace("upload", name) for part in (exc.field, exc.reason, exc.cure)), end="")
        return 2
    np.savez(
        target,
        channels=audio.channels,
        rate=audio.sample_rate_hz,
        bits=audio.bits or 0,
        suffix=audio.suffix,
        truncated=audio.truncated,
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())

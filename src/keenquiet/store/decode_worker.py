"""Child process that decodes one file: `python -m keenquiet.store.decode_worker`, then SOURCE TARGET NAME FIELD ASKED,
the last of them JSON.
"""

import errno
import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any, Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.store.audiofile import patience_s, read_audio, read_envelope

try:
    import resource
except ImportError:  # systems without these limits have the time limit alone
    resource = None  # type: ignore[assignment]

_MOST_MEMORY_BYTES: Final = 2_500_000_000  # address space, libraries included; twice 460 MB of samples at most


def main() -> int:
    """Exit 0 with TARGET written, 2 with field, reason and cure on stdout, or 3 when the disk is full."""
    source, target, name, field, asked = sys.argv[1:6]
    _bounded(Path(source).stat().st_size)
    try:
        made = _made(Path(source), **json.loads(asked))
    except InputError as exc:
        print("\x1f".join(part.replace("upload", name) for part in (exc.field, exc.reason, exc.cure)), end="")
        return 2
    except MemoryError:
        print("\x1f".join((field, f"{name} holds more sound than can be read at once.", "Cut it shorter.")), end="")
        return 2
    try:
        np.savez(target, **made)  # type: ignore[arg-type]
    except OSError as exc:
        return 3 if exc.errno in (errno.ENOSPC, errno.EDQUOT) else 1
    return 0


def _made(
    path: Path,
    *,
    read: dict[str, Any] | None = None,
    envelope: dict[str, Any] | None = None,
    unpacked: dict[str, Any] | None = None,
) -> dict[str, object]:
    """What is handed back, by name."""
    if unpacked is not None:
        from keenquiet.store.packed import unpack  # the decoders of all the world's formats: only where one is met

        unpack(path, Path(unpacked.pop("to")), **unpacked)
        return {}
    if envelope is not None:
        return asdict(read_envelope(path, **envelope))
    audio = read_audio(path, **(read or {}))
    return {
        "channels": audio.channels,
        "rate": audio.sample_rate_hz,
        "bits": audio.bits or 0,
        "suffix": audio.suffix,
        "truncated": audio.truncated,
        "from_s": -1.0 if audio.from_s is None else audio.from_s,
        "whole_s": audio.whole_s or 0.0,
    }


def _bounded(size_bytes: int) -> None:
    """A file that claims little and unpacks to much ends here, not the server."""
    if resource is not None:
        resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
        cpu_s = int(patience_s(size_bytes))
        resource.setrlimit(resource.RLIMIT_CPU, (cpu_s, cpu_s))


if __name__ == "__main__":
    sys.exit(main())

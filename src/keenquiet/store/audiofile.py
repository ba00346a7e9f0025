"""Reading recordings of any ordinary format, with limits, in a process that can be killed."""

import io
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

MOST_BYTES = 250_000_000
MOST_SECONDS = 600.0
MOST_CHANNELS = 16
_RATES_HZ = (8_000, 192_000)
_DECODE_TIMEOUT_S = 60.0
SUFFIXES = {"WAV": ".wav", "WAVEX": ".wav", "RF64": ".wav", "FLAC": ".flac", "AIFF": ".aiff", "OGG": ".ogg"}
_BITS = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}


@dataclass(frozen=True)
class Audio:
    """channels (n_channels, n), full scale 1; sample rate [Hz]; bits when integer; suffix; whether the file was cut
    short.
    """

    channels: FloatArray
    sample_rate_hz: float
    bits: int | None
    suffix: str
    truncated: bool = False

    @property
    def seconds(self) -> float:
        """Length. [s]"""
        return self.channels.shape[1] / self.sample_rate_hz


def read_audio(path: Path, *, field: str = "file") -> Audio:
    """Decode a recording in this process. Raises InputError naming what is wrong with the file."""
    try:
        size = path.stat().st_size
    except OSError as exc:
        raise InputError(field, f"{path.name} cannot be read: {exc.strerror}.", "Check the file's name.") from exc
    if size == 0:
        raise InputError(field, f"{path.name} is empty (0 bytes).", "Export or record it again.")
    if size > MOST_BYTES:
        raise InputError(
            field,
            f"{path.name} has {size / 1e6:.0f} MB, at most {MOST_BYTES / 1e6:.0f} MB are read.",
            "Cut it shorter.",
        )
    try:
        with soundfile.SoundFile(str(path)) as file:
            _check_header(file, path.name, field)
            rate, bits, suffix = file.samplerate, _BITS.get(file.subtype), SUFFIXES.get(file.format, ".wav")
            claimed = _claimed_data_bytes(path)
            samples = file.read(dtype="float64", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError) as exc:
        raise InputError(
            field,
            f"{path.name} is not a recording that can be read.",
            "Use WAV, FLAC, AIFF or OGG; a renamed file keeps its old format.",
        ) from exc
    if len(samples) == 0:
        raise InputError(field, f"{path.name} holds no samples.", "Export or record it again.")
    return Audio(np.ascontiguousarray(samples.T), float(rate), bits, suffix, truncated=claimed > size)


def _check_header(file: soundfile.SoundFile, name: str, field: str) -> None:
    if not _RATES_HZ[0] <= file.samplerate <= _RATES_HZ[1]:
        raise InputError(
            field, f"{name} has a sample rate of {file.samplerate} Hz.", "Use 8 to 192 kHz; 48 kHz is best."
        )
    if file.channels > MOST_CHANNELS:
        raise InputError(field, f"{name} has {file.channels} channels.", f"Use at most {MOST_CHANNELS}.")
    if file.frames / file.samplerate > MOST_SECONDS:
        minutes = file.frames / file.samplerate / 60
        raise InputError(
            field, f"{name} is {minutes:.0f} minutes long.", f"Cut it to {MOST_SECONDS / 60:.0f} minutes or less."
        )


def _claimed_data_bytes(path: Path) -> int:
    """Size that a RIFF header claims for its data, 0 for other formats or a streaming header."""
    with path.open("rb") as file:
        head = file.read(4096)
    if head[:4] != b"RIFF":
        return 0
    at = head.find(b"data", 12)
    if at < 0 or at + 8 > len(head):
        return 0
    claimed = int.from_bytes(head[at + 4 : at + 8], "little")
    return 0 if claimed >= 0xFFFFFFFF - 64 and int.from_bytes(head[4:8], "little") == 0 else claimed + at + 8


def decode_apart(data: bytes, name: str, *, field: str = "file") -> Audio:
    """Decode uploaded bytes in a child process with a time limit. Raises InputError as `read_audio` does."""
    if len(data) > MOST_BYTES:
        raise InputError(field, f"{name} is too large.", f"At most {MOST_BYTES / 1e6:.0f} MB are read.")
    with tempfile.TemporaryDirectory(prefix="keenquiet-") as folder:
        source, target = Path(folder) / "upload", Path(folder) / "decoded.npz"
        source.write_bytes(data)
        try:
            done = subprocess.run(
                [
                    sys.executable,
                    "-m",
                    "keenquiet.store.decode_worker",
                    str(source),
                    str(target),
                    name[:120] or "The file",
                    field,
                ],
                capture_output=True,
                timeout=_DECODE_TIMEOUT_S,
                check=False,
            )
        except subprocess.TimeoutExpired as exc:
            raise InputError(field, f"{name} took too long to decode.", "Convert it to WAV and try again.") from exc
        if done.returncode == 2:
            where, why, cure = done.stdout.decode().split("\x1f")
            raise InputError(where, why, cure)
        if done.returncode != 0 or not target.exists():
            raise InputError(field, f"{name} could not be decoded.", "Convert it to WAV and try again.")
        with np.load(target) as found:
            bits = int(found["bits"])
            return Audio(
                found["channels"],
                float(found["rate"]),
                bits or None,
                str(found["suffix"]),
                truncated=bool(found["truncated"]),
            )


def wav_bytes(samples: FloatArray, sample_rate_hz: float, *, subtype: str = "PCM_24") -> bytes:
    """Samples (n,) or (n_channels, n) as a WAV file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, np.asarray(samples).T, int(sample_rate_hz), format="WAV", subtype=subtype)
    return buffer.getvalue()

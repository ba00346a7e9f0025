"""Reading recordings of any ordinary format, with limits."""

import io
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Final

import numpy as np
import soundfile

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray
from keenquiet.store.container import HEAD, is_packed
from keenquiet.store.container import SUFFIXES as PACKED_SUFFIXES

MOST_BYTES = 4_400_000_000  # two hours of two channels, 24 bits at 96 kHz
_PATIENCE_S: Final = 60.0
_BYTES_A_SECOND: Final = 15e6  # that a busy machine reads at least
MOST_SECONDS = 600.0
HOURS_S: Final = 7500.0  # of a file that is read in parts
MOST_CHANNELS = 16
_BLOCK_FRAMES: Final = 1 << 18
_USUAL_RATE_HZ: Final = 48_000
_LONG_FRAMES: Final = 4_000_000
_RATES_HZ = (8_000, 192_000)
SUFFIXES = {
    "WAV": ".wav",
    "WAVEX": ".wav",
    "RF64": ".wav",
    "FLAC": ".flac",
    "AIFF": ".aiff",
    "OGG": ".ogg",
    "MP3": ".mp3",
}
# of files that can be read as they are or unpacked, as their names end
SOUND_SUFFIXES: Final = tuple(dict.fromkeys((*SUFFIXES.values(), ".aif", ".opus", *PACKED_SUFFIXES)))
_BITS = {"PCM_U8": 8, "PCM_S8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32}


def patience_s(size_bytes: int) -> float:
    """How long a file of a size may take to be decoded before it is given up. [s]"""
    return _PATIENCE_S + size_bytes / _BYTES_A_SECOND


@dataclass(frozen=True)
class Audio:
    """channels (n_channels, n), full scale 1; sample rate [Hz]; bits when integer; suffix; whether the file was cut
    short.

    from_s : where the part that was read begins when the file is longer than that. whole_s : length of the file. at :
    reads another part of it, from one time to another. [s]
    """

    channels: FloatArray
    sample_rate_hz: float
    bits: int | None
    suffix: str
    truncated: bool = False
    from_s: float | None = None
    whole_s: float | None = None
    at: "Callable[[float, float], Audio] | None" = None

    @property
    def seconds(self) -> float:
        """Length of what was read. [s]"""
        return self.channels.shape[1] / self.sample_rate_hz


def read_audio(
    path: Path,
    *,
    field: str = "file",
    most_seconds: float = MOST_SECONDS,
    loudest_part: bool = False,
    in_parts: bool = False,
    span_s: tuple[float, float] | None = None,
) -> Audio:
    """Decode a recording in this process, in blocks. Raises InputError naming what is wrong with the file.

    One that is longer than `most_seconds` is refused. loudest_part : its loudest part is read instead; in_parts : its
    first second, for who reads on by `at`. span_s : only from one time to another is read, at most `most_seconds`. [s]

    Of more than two channels the loudest and the quietest are kept: what is read, and whether one is dead.
    """
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
    with path.open("rb") as head:
        packed = is_packed(head.read(HEAD))
    if packed:
        asked = {"loudest_part": loudest_part, "in_parts": in_parts, "span_s": span_s}
        return _unpacked(path, field, most_seconds=most_seconds, **asked)
    try:
        with soundfile.SoundFile(str(path)) as file:
            _check_header(file, path.name, field, HOURS_S if loudest_part or in_parts or span_s else most_seconds)
            rate, bits, suffix = file.samplerate, _BITS.get(file.subtype), SUFFIXES.get(file.format, ".wav")
            claimed, whole_s = _claimed_data_bytes(path), file.frames / rate
            if span_s is not None:
                most = int(min(most_seconds, max(span_s[1] - span_s[0], 0.0)) * rate)
                start: int | None = file.seek(min(max(round(span_s[0] * rate), 0), file.frames))
            else:
                most, start = _most_frames(rate, most_seconds), None
                if loudest_part:
                    start = _loudest_from(file, most)
                elif in_parts and file.frames > most:
                    most, start = rate, 0
            channels = _decoded(file, path.name, field, most, stop=start is not None)
    except (soundfile.LibsndfileError, RuntimeError) as exc:
        raise InputError(
            field,
            f"{path.name} is not a recording that can be read.",
            "Use WAV, FLAC, AIFF, OGG, MP3 or M4A; a renamed file keeps its old format.",
        ) from exc
    if channels.shape[1] == 0:
        raise InputError(field, f"{path.name} holds no samples.", "Export or record it again.")
    if start is None:
        return Audio(channels, float(rate), bits, suffix, truncated=claimed > size)
    return Audio(
        channels,
        float(rate),
        bits,
        suffix,
        truncated=claimed > size,
        from_s=start / rate,
        whole_s=whole_s,
        at=lambda from_s, to_s: read_audio(path, field=field, span_s=(from_s, to_s)),
    )


def _unpacked(path: Path, field: str, **asked: Any) -> Audio:
    """A recording as phones make them."""
    from keenquiet.store.packed import unpack  # the decoders of all the world's formats: only where one is met

    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / f"{path.stem}.flac"
        unpack(path, made, name=path.name, field=field, most_seconds=HOURS_S)
        found = read_audio(made, field=field, **asked)
    if found.at is None:
        return found
    return replace(found, at=lambda from_s, to_s: read_audio(path, field=field, span_s=(from_s, to_s)))


def _loudest_from(file: soundfile.SoundFile, most: int) -> int | None:
    """First frame of the loudest part of so many frames that holds the highest peak, with the file set there; None when
    all of it is read.
    """
    if file.frames <= most:
        return None
    energy, peaks = [], []
    while len(block := file.read(_BLOCK_FRAMES, dtype="float32", always_2d=True)):
        if not np.isfinite(squared := float(np.vdot(block, block))):
            block = np.nan_to_num(block)
            squared = float(np.vdot(block, block))
        energy.append(squared)
        peaks.append(float(max(block.max(), -block.min())))
    span = max(most // _BLOCK_FRAMES, 1)
    top = int(np.argmax(peaks))
    total = np.concatenate([[0.0], np.cumsum(energy)])
    starts = np.arange(max(top - span + 1, 0), max(min(top, len(peaks) - span), 0) + 1)
    start = int(starts[np.argmax(total[np.minimum(starts + span, len(energy))] - total[starts])]) * _BLOCK_FRAMES
    file.seek(start)
    return start


def _decoded(file: soundfile.SoundFile, name: str, field: str, most: int, *, stop: bool) -> FloatArray:
    """Samples (n_channels, n), at most two channels. What a header claims is not believed: it is counted again.

    most : frames that are read. stop : there, instead of refusing what is longer.
    """
    kept = _two_of(file) if file.channels > 2 else list(range(file.channels))
    # minutes of sound are held to 24 bits, as they came: half the memory
    expected = min(max(file.frames - file.tell(), 0), most)
    precision = np.float32 if expected > _LONG_FRAMES else np.float64
    samples = np.zeros((len(kept), expected), dtype=precision)
    frames = 0
    while len(block := file.read(_BLOCK_FRAMES, dtype=np.dtype(precision).name, always_2d=True)):
        part = block[: samples.shape[1] - frames, kept].T
        samples[:, frames : frames + part.shape[1]] = part
        frames += len(block)
        if frames > most and stop:
            break
        if frames > most:
            raise _too_long(name, field, frames / file.samplerate, most / file.samplerate)
    return samples[:, : min(frames, expected)]


def _two_of(file: soundfile.SoundFile) -> list[int]:
    """Numbers of the loudest and the quietest channel, in their order."""
    power, start = np.zeros(file.channels), file.tell()
    most = _most_frames(file.samplerate, MOST_SECONDS)
    while len(block := file.read(_BLOCK_FRAMES, dtype="float64", always_2d=True)) and most > 0:
        power += np.sum(np.nan_to_num(block - block.mean(axis=0)) ** 2, axis=0)
        most -= len(block)
    file.seek(start)
    return sorted({int(np.argmax(power)), int(np.argmin(power))})


def _most_frames(rate_hz: int, most_seconds: float) -> int:
    """At high sample rates less time is read: what is bounded is the work."""
    return int(most_seconds * min(rate_hz, _USUAL_RATE_HZ))


def _too_long(name: str, field: str, seconds: float, most_s: float) -> InputError:
    def told(length_s: float) -> str:
        return f"{length_s / 60:.0f} minutes" if length_s >= 120 else f"{length_s:.0f} seconds"

    return InputError(field, f"{name} is {told(seconds)} long or more.", f"Cut it to {told(most_s)} or less.")


def _check_header(file: soundfile.SoundFile, name: str, field: str, most_seconds: float) -> None:
    if not _RATES_HZ[0] <= file.samplerate <= _RATES_HZ[1]:
        raise InputError(
            field, f"{name} has a sample rate of {file.samplerate} Hz.", "Use 8 to 192 kHz; 48 kHz is best."
        )
    if file.channels > MOST_CHANNELS:
        raise InputError(field, f"{name} has {file.channels} channels.", f"Use at most {MOST_CHANNELS}.")
    most = (
        int(most_seconds * file.samplerate) if most_seconds == HOURS_S else _most_frames(file.samplerate, most_seconds)
    )
    if file.frames > most:
        raise _too_long(name, field, file.frames / file.samplerate, most / file.samplerate)


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


@dataclass(frozen=True)
class Envelope:
    """Lowest and highest sample of each of even stretches from one time to another [s], each (n,), full scale 1."""

    from_s: float
    to_s: float
    low: FloatArray
    high: FloatArray


def read_envelope(path: Path, *, from_s: float, to_s: float, points: int) -> Envelope:
    """The loudest channel's envelope, block by block: memory stays that of a block, whatever the length. Raises
    InputError when there is nothing between these times.
    """
    with soundfile.SoundFile(str(path)) as file:
        rate = file.samplerate
        first, last = max(round(from_s * rate), 0), min(round(to_s * rate), file.frames)
        if last - first < 2:
            raise InputError("from_s", f"{from_s:g} to {to_s:g} s is no part of it.", "Choose a part inside.")
        count = min(points, last - first)
        edges = np.linspace(first, last, count + 1).astype(int)
        low, high = np.full((file.channels, count), np.inf), np.full((file.channels, count), -np.inf)
        power, at = np.zeros(file.channels), file.seek(first)
        while at < last and len(block := file.read(min(_BLOCK_FRAMES, last - at), dtype="float32", always_2d=True)):
            one, end = np.searchsorted(edges, at, "right") - 1, np.searchsorted(edges, at + len(block), "left")
            starts = np.maximum(edges[one:end], at) - at
            block = np.nan_to_num(block)
            low[:, one:end] = np.minimum(low[:, one:end], np.minimum.reduceat(block, starts).T)
            high[:, one:end] = np.maximum(high[:, one:end], np.maximum.reduceat(block, starts).T)
            power += np.sum(block.astype(float) ** 2, axis=0)
            at += len(block)
    best = int(np.argmax(power))
    seen = np.isfinite(low[best])
    return Envelope(first / rate, last / rate, np.where(seen, low[best], 0.0), np.where(seen, high[best], 0.0))


def wav_bytes(samples: FloatArray, sample_rate_hz: float, *, subtype: str = "PCM_24") -> bytes:
    """Samples (n,) or (n_channels, n) as a WAV file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, np.asarray(samples).T, int(sample_rate_hz), format="WAV", subtype=subtype)
    return buffer.getvalue()

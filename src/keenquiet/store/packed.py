"""Recordings as phones make them, in containers that the sound library does not read: M4A, AAC, WebM, AMR and others
are unpacked once, to FLAC of 24 bits, when they come in.

What a lossy coder brings above full scale is cut there: it was never in the recording.
"""

from pathlib import Path

import av
import numpy as np
import soundfile

from keenquiet.core.errors import InputError


def unpack(source: Path, target: Path, *, name: str, field: str, most_seconds: float) -> None:
    """Write the first sound of a file as FLAC. Raises InputError where there is none, or it cannot be read."""
    refused = InputError(field, f"{name} is not a recording that can be read.", "Export it as WAV or FLAC.")
    try:
        with av.open(str(source)) as container:
            if not container.streams.audio:
                raise InputError(field, f"{name} holds no sound.", "Choose the recording itself.")
            stream = container.streams.audio[0]
            rate, channels = stream.rate, stream.channels
            if rate is None or not 1 <= channels <= 16:
                raise refused
            packed = av.AudioResampler(format="flt", layout=stream.layout, rate=rate)
            frames = 0
            with soundfile.SoundFile(str(target), "w", rate, channels, "PCM_24", format="FLAC") as out:
                for frame in container.decode(stream):
                    for part in packed.resample(frame):
                        samples = part.to_ndarray().reshape(-1, channels)
                        frames += len(samples)
                        if frames > most_seconds * rate:
                            raise InputError(field, f"{name} is too long.", f"At most {most_seconds / 60:.0f} minutes.")
                        out.write(np.clip(samples, -1.0, 1.0))
    except (av.FFmpegError, ValueError) as exc:
        raise refused from exc

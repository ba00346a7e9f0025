"""Damaged files: bytes flipped, cut, repeated and swapped; archives and recordings that lie about themselves."""

import io
import json
import zipfile

import numpy as np
import soundfile

from .outcome import Outcome


def broken(content: bytes, rng: np.random.Generator) -> bytes:
    """One to four injuries anywhere in some bytes."""
    data = bytearray(content)
    for _ in range(int(rng.integers(1, 5))):
        if not data:
            break
        at = int(rng.integers(len(data)))
        match int(rng.integers(6)):
            case 0:
                data[at] ^= 1 << int(rng.integers(8))
            case 1:
                data[at:] = b""
            case 2:
                data[at : at + int(rng.integers(1, 64))] = rng.bytes(int(rng.integers(1, 64)))
            case 3:
                del data[at : at + int(rng.integers(1, 400))]
            case 4:
                data[at:at] = data[: int(rng.integers(1, 300))]
            case _:
                data[at : at + 4] = b"\xff\xff\xff\xff"
    return bytes(data)


def strange_value(rng: np.random.Generator):
    """A JSON value that no field expects."""
    values = [
        None, True, -1, 0, 2**40, 10**30, 1e308, -1e308, "", "x" * 5000, "\ud800", "\x00", "=1+1", "工作室", "\u202e",
        [], {}, [[]], {"a": {"b": [1] * 50}}, "2026-13-45T99:99", "2026-05-04T10:00:00", "../../etc/passwd", "NaN",
    ]  # fmt: skip
    return values[int(rng.integers(len(values)))]


def changed(value, rng: np.random.Generator):
    """A document with one value somewhere replaced, dropped or doubled."""
    value = json.loads(json.dumps(value))
    at = value
    for _ in range(int(rng.integers(1, 8))):
        if not isinstance(at, dict | list) or not at:
            break
        key = list(at)[int(rng.integers(len(at)))] if isinstance(at, dict) else int(rng.integers(len(at)))
        if rng.random() < 0.35 or not isinstance(at[key], dict | list) or not at[key]:
            match int(rng.integers(4)):
                case 0:
                    del at[key]
                case 1 if isinstance(at, list):
                    at.extend([at[key]] * int(rng.integers(1, 200)))
                case 2 if isinstance(at[key], int | float) and not isinstance(at[key], bool):
                    at[key] = at[key] * float(rng.choice([-1, 0, 0.001, 3, 50, 1e6]))
                case _:
                    at[key] = strange_value(rng)
            break
        at = at[key]
    return value


def bundles(client, bundle: bytes, count: int, seed: int = 1) -> Outcome:
    """Damaged bundles brought in: each is refused, or comes in whole and opens."""
    rng, outcome = np.random.default_rng(seed), Outcome()
    with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    for number in range(count):
        if number % 2:
            content = broken(bundle, rng)
        else:
            content = _repacked(entries, rng)
        before = len(client.get("/api/rooms").json())
        with outcome.timed(f"bundle {number}"):
            answer = client.post("/api/bundles", files={"file": ("a.kq.zip", content)})
        outcome.answered(answer.status_code, f"bundle {number}: {answer.text}")
        rooms = client.get("/api/rooms").json()
        if answer.status_code == 201:
            came = answer.json()["id"]
            for part in ("", "/readings", "/marks", "/ledger", "/bundle"):
                opened = client.get(f"/api/rooms/{came}{part}")
                if opened.status_code != 200:
                    outcome.wrong.append(f"bundle {number} came in, but {part} answers {opened.status_code}")
            client.delete(f"/api/rooms/{came}")
        elif len(rooms) != before:
            outcome.wrong.append(f"bundle {number} was refused and left something")
    outcome.weighed()
    return outcome


def _repacked(entries: dict[str, bytes], rng: np.random.Generator) -> bytes:
    """The archive with one entry changed, left out, renamed or added."""
    entries = dict(entries)
    name = list(entries)[int(rng.integers(len(entries)))]
    match int(rng.integers(5)):
        case 0 if name.endswith(".json"):
            entries[name] = json.dumps(changed(json.loads(entries[name]), rng)).encode("utf-8", "surrogatepass")
        case 1:
            del entries[name]
        case 2:
            entries[f"{name}\n"] = entries.pop(name)
        case 3:
            entries[str(rng.choice(["../up.json", "audio/" + "0" * 64 + ".wav", "readings/x.json", "C:\\a"]))] = b"{}"
        case _:
            entries[name] = broken(entries[name], rng)
    buffer = io.BytesIO()
    method = int(rng.choice([zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA]))
    with zipfile.ZipFile(buffer, "w", method) as archive:
        for entry, content in entries.items():
            archive.writestr(entry, content)
    return buffer.getvalue()


def sounds(client, room_id: str, count: int, seed: int = 2) -> Outcome:
    """Damaged recordings of every kind brought in: read, refused or told, never a failure."""
    rng, outcome = np.random.default_rng(seed), Outcome()
    kinds = ("sweep", "clap", "glide", "tone", "take", "spoken", "pops", "loudest", "ir", "curve")
    for number in range(count):
        kind = kinds[number % len(kinds)]
        content = broken(_sound(rng), rng) if number % 3 else _sound(rng)
        with outcome.timed(f"{kind} {number}"):
            answer = client.post(
                f"/api/rooms/{room_id}/readings", files={"file": ("a.wav", content)}, data={"kind": kind}
            )
        outcome.answered(answer.status_code, f"{kind} {number}: {answer.text[:200]}")
        if "failed at reading" in answer.text:
            outcome.wrong.append(f"{kind} {number} could not be read")
        outcome.weighed()
    return outcome


def _sound(rng: np.random.Generator) -> bytes:
    rate = int(rng.choice([8000, 16_000, 44_100, 48_000, 96_000]))
    n = int(rate * rng.choice([0.0, 0.01, 0.5, 2.0, 4.0]))
    shapes = (
        lambda: rng.standard_normal(n) * 0.1,
        lambda: np.zeros(n),
        lambda: np.full(n, 0.5),
        lambda: np.sign(np.sin(np.arange(n) * 0.02)),
        lambda: np.where(np.arange(n) == n // 3, 1.0, 0.0),
        lambda: np.full(n, np.nan),
        lambda: np.full(n, 1e30),
        lambda: np.exp(-np.arange(n) / (0.05 * rate)) * rng.standard_normal(n),
    )
    samples = shapes[int(rng.integers(len(shapes)))]()
    channels = int(rng.choice([1, 1, 2, 5]))
    form, subtype = [("WAV", "PCM_16"), ("WAV", "FLOAT"), ("WAV", "DOUBLE"), ("FLAC", "PCM_16"), ("AIFF", "PCM_24")][
        int(rng.integers(5))
    ]
    buffer = io.BytesIO()
    many = np.stack([samples * (1 if i == 0 else rng.random()) for i in range(channels)], axis=1)
    if subtype.startswith("PCM"):
        many = np.nan_to_num(np.clip(many, -1, 1))
    soundfile.write(buffer, many, rate, format=form, subtype=subtype)
    return buffer.getvalue()

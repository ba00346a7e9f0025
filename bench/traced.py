"""Twenty random box rooms with furniture and panels as the tests' own tracer hears them (`tests/core/traced.py`):
decay, direct over room, and what panels do to both, beside what is predicted. Prints the table of
docs/decisions/true-again.md: `python -m bench.traced`.
"""

import numpy as np
from tests.core.traced_rooms import by_rays, predicted, traced_room

LIMITS = {"decay": 0.15, "direct over room": 1.0, "decay with panels": 0.15, "what panels do to it": 1.0}


def main(count: int = 20) -> None:
    """Print the table: traced, predicted."""
    print(
        "| room | decay | direct over room | decay with panels | what panels do to it |",
        "|---|---|---|---|---|",
        sep="\n",
    )
    off = []
    for number in range(count):
        room, after, source, mic = traced_room(number)
        (t, d), (t2, d2) = (by_rays(built, source, mic, number) for built in (room, after))
        (pt, pd), (pt2, pd2) = (predicted(built, source, mic) for built in (room, after))
        hung = room.faces[after.overlays[0].face].kind
        off.append((pt / t - 1, pd - d, pt2 / t2 - 1, (pd2 - pd) - (d2 - d)))
        print(
            f"| {room.volume_m3:.0f} m3, {len(room.furnishings)} pieces, {len(after.overlays)} panels ({hung}) "
            f"| {t:.2f}, {pt:.2f} | {d:.1f}, {pd:.1f} | {t2:.2f}, {pt2:.2f} | {d2 - d:+.1f}, {pd2 - pd:+.1f} |",
            flush=True,
        )
    for (name, most), column in zip(LIMITS.items(), np.array(off).T, strict=True):
        rms, within = np.sqrt(np.mean(column**2)), np.sum(np.abs(column) <= most)
        print(f"{name}: rms {rms:.2f}, mean {column.mean():+.2f}, within {most:g} in {within} of {count}")


if __name__ == "__main__":
    main()

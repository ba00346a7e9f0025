"""How far two readings of an unchanged room differ, by the rig: `python -m bench.repeats`."""

import numpy as np

from keenquiet.demo.scenario import bakery_room
from keenquiet.documents.convert import read_room
from keenquiet.service.answers.readings import ToneResult
from keenquiet.service.reading import analyse, rig_recording
from keenquiet.store.audiofile import Audio


def main() -> None:
    room = read_room(bakery_room())
    arrangement = room.arrangement_doc(None)
    found: dict[str, list[float]] = {}
    for seed in range(8):
        for kind in ("sweep", "tone"):
            got = rig_recording(room, arrangement, kind, seed=100 + seed)
            audio = Audio(got.samples[None], float(got.sample_rate_hz), 24, ".wav")
            heard = analyse(audio, kind)
            for mark, figure in heard.settled(room, arrangement).measured.items():
                found.setdefault(mark, []).append(figure.value)
            if isinstance(heard.result, ToneResult) and heard.result.laeq_db is not None:
                found.setdefault("hush", []).append(heard.result.laeq_db)
    for mark, values in found.items():
        print(f"{mark}: {np.mean(values):.3f}, standard deviation {np.std(values, ddof=1):.3f} of {len(values)}")


if __name__ == "__main__":
    main()

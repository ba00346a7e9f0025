"""`make soak`: the long form of what `tests/api/test_hard.py` and `tests/service/test_durable.py` try in short."""

import sys
import tempfile
from pathlib import Path

from fastapi.testclient import TestClient

from keenquiet.api.app import make_app
from keenquiet.demo.load import load_demo
from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.service import bundles as bundled
from keenquiet.threads import settle_threads

from . import clocks, damaged, disks, kills, requests


def main(share: float) -> int:
    """share : of the full numbers."""
    settle_threads()
    wrong = 0

    def told(name, outcome):
        nonlocal wrong
        wrong += len(outcome.wrong)
        print(f"{name}: {outcome}", flush=True)

    def many(count):
        return max(int(count * share), 1)

    with tempfile.TemporaryDirectory(prefix="keenquiet-soak-") as place:
        folder = Path(place)
        told(f"{many(200)} kills at random", kills.killed(folder / "random", many(200)))
        told(f"{many(40)} kills aimed at moves", kills.killed(folder / "aimed", many(40), aimed=True))
        told("disks full and only to be read", disks.told(folder / "disks"))
        told("a clock set back", clocks.set_back(folder / "clock"))
        told("a laptop asleep", clocks.asleep(folder / "asleep", max(180 * share, 5)))
        app = make_app(folder / "data")
        with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
            room_id = load_demo(app.state.data)
            bundle, _ = bundled.exported(app.state.data, room_id)
            told(f"{many(2000)} damaged bundles", damaged.bundles(client, bundle, many(2000)))
            told(f"{many(2000)} damaged sounds", damaged.sounds(client, room_id, many(2000)))
            documents = [bakery_room(), cupboard(), attic()]
            told(f"{many(100_000)} requests", requests.asked(client, documents, [room_id], many(100_000)))
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0))

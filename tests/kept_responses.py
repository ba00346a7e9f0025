"""Responses of the rig kept on disk between runs and shared by workers: a place takes seconds to work out, and the same
places are asked for in a hundred tests. Named by all that they rest on; any change of the code they come from makes
them anew.
"""

import hashlib
import os
import shutil
import time
from pathlib import Path

import numpy as np

from keenquiet import core, rig
from keenquiet.rig import impulse

FOLDER = Path(os.environ.get("XDG_CACHE_HOME", Path.home() / ".cache")) / "keenquiet-tests"
_OLD_S = 3 * 24 * 3600


def kept_on_disk() -> None:
    """From now on in this process."""
    folder = FOLDER / _source_hash()
    for other in FOLDER.glob("*") if FOLDER.exists() else ():
        # another tree may be tested beside this one: only what nobody has used for long goes
        if other != folder and time.time() - other.stat().st_mtime > _OLD_S:
            shutil.rmtree(other, ignore_errors=True)
    folder.mkdir(parents=True, exist_ok=True)
    made = impulse._made

    def found(room, arrangement, seed):
        rests_on = repr((impulse._fingerprint(room), arrangement.performer, arrangement.microphone, seed))
        path = folder / f"{hashlib.sha256(rests_on.encode()).hexdigest()}.npz"
        if path.exists():
            with np.load(path) as kept:
                return impulse.RigResponse(kept["impulse"], kept["t60_s"])
        new = made(room, arrangement, seed)
        partly = path.with_suffix(f".{os.getpid()}.npz")
        np.savez(partly, impulse=new.impulse, t60_s=new.t60_s)
        partly.replace(path)
        return new

    impulse._made = found


def _source_hash() -> str:
    """Of every file that a response could come from."""
    folders = [Path(package.__file__).parent for package in (core, rig)]
    together = hashlib.sha256(np.__version__.encode())
    for path in sorted(path for folder in folders for path in folder.rglob("*") if path.suffix in (".py", ".csv")):
        together.update(path.read_bytes())
    return together.hexdigest()[:16]

"""Speed, each row beside a plain reference: `make bench`. Medians of several runs on this machine, not tests."""

import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pyloudnorm
import pyroomacoustics as pra
import skfem
from scipy import signal
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import eigsh
from skfem.models.poisson import laplace, mass

from keenquiet.advice.costs import PriceList
from keenquiet.core.figures import read_sweep, read_take
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import SOLID_TOP_HZ, SUPPORT, Acoustics, forecast
from keenquiet.core.judge.moves import next_moves
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.read.sweep import SweepSpec, exponential_sweep
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.waves import rigid
from keenquiet.core.waves.box_modes import box_mode_hz, mode_values, orders_below
from keenquiet.core.waves.modes import damped_modes
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.reverberant import direct_over_room_at_db
from keenquiet.core.waves.solid_modes import SolidModes, column_mesh
from keenquiet.core.waves.statistics import decay
from keenquiet.demo.scenario import bakery_room
from keenquiet.documents.convert import arrangement_of, read_room, room_of, scenario_of
from keenquiet.rig.recorder import RigSettings, record
from keenquiet.rig.singer import sung_take
from keenquiet.service.answers.forecast import forecast_answer
from keenquiet.service.candidates import box_document
from keenquiet.service.predict import predict
from keenquiet.threads import settle_threads

ROOM = read_room(bakery_room())  # with its alcove: what is dragged about in the demo
ALCOVE = room_of(ROOM)
PLAIN = read_room(
    box_document(name="Box", length="3.62", width="2.84", height="2.41", softness="soft")
)  # three cloths on its walls
BOX = room_of(PLAIN)
ARRANGEMENT = arrangement_of(ROOM, ROOM.arrangements[0], ALCOVE)
FADES = decay(ALCOVE)
# neither box nor prism: an L under one slope, as large as the demo's attic
SLOPED = Shape(((0, 0), (4.4, 0), (4.4, 1.7), (2.2, 1.7), (2.2, 3.3), (0, 3.3)), Ceiling(((0, 2.6), (4.4, 1.4)), "x"))
C = BOX.air.speed_m_s


def timed(work: Callable[[], object], runs: int = 7) -> list[float]:
    """Seconds of each run, after one to warm up."""
    work()
    taken = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return taken


def row(name: str, wanted: str, ours: float, reference: str, theirs: float) -> None:
    """One line of the table, milliseconds."""
    print(f"{name:<52} {wanted:>12} {ours * 1000:>9.1f} ms   {theirs * 1000:>9.1f} ms  {reference}")


def plain_sweep(recording: np.ndarray) -> None:
    """Division, eight band filters, eight integrals, one line each: no clock, no noise, no notes, no flutter."""
    reference = exponential_sweep(SweepSpec(), 48_000)
    n = len(recording) + len(reference)
    impulse = np.fft.irfft(np.fft.rfft(recording, n) / (np.fft.rfft(reference, n) + 1e-6), n)[: 2 * 48_000]
    for centre in 1000 * 2.0 ** np.arange(-4, 4):
        sos = signal.butter(3, [centre / 2**0.5, centre * 2**0.5], "bandpass", fs=48_000, output="sos")
        band = signal.sosfilt(sos, impulse)
        np.polyfit(np.arange(48_000), 10 * np.log10(np.cumsum(band[::-1] ** 2)[::-1][:48_000] + 1e-30), 1)


def drag_step() -> Callable[[], object]:
    """A microphone dragged along: every step another place, as the server answers it."""
    steps = iter(np.linspace(1.6, 2.3, 2000))

    def step() -> object:
        ROOM.arrangements[0].microphone.at = (float(next(steps)), 1.28, 1.48)
        return forecast_answer(predict(ROOM), ROOM, to_hz=300)

    return step


def panel_step() -> Callable[[], object]:
    """A panel dragged along a wall: surfaces change, so the modes are solved anew each time."""
    steps = iter(np.linspace(0.2, 2.0, 2000))
    document = read_room(bakery_room())

    def step() -> object:
        changed = document.model_copy(deep=True)
        panel = {
            "kind": "panel",
            "surface": "wall-6",
            "x_m": float(next(steps)),
            "z_m": 0.6,
            "width_m": 0.6,
            "height_m": 1.2,
            "absorber": {"thickness_m": 0.1, "flow_resistivity": 12000, "gap_m": 0.05},
        }
        changed.arrangements[0] = type(changed.arrangements[0]).model_validate(
            {**changed.arrangements[0].model_dump(), "treatments": [panel]}
        )
        return forecast_answer(predict(changed), changed, to_hz=300)

    return step


def plain_images() -> None:
    """The same order of images in the reference engine."""
    room = pra.ShoeBox(BOX.shape.bounds_m, fs=48_000, max_order=2, materials=pra.Material(0.1))
    room.add_source(ARRANGEMENT.performer.at)
    room.add_microphone(ARRANGEMENT.microphone.at)
    room.image_source_model()


def plain_modes() -> None:
    """First-order damping on a grid of points over each wall, one mode at a time."""
    orders = orders_below(300, size_m=BOX.shape.bounds_m, speed_m_s=343.2)
    box_mode_hz(orders, size_m=BOX.shape.bounds_m, speed_m_s=343.2)
    for mode in orders:
        for face in range(6):
            axis, side = divmod(face, 2)
            grid = np.stack(
                np.meshgrid(*(np.linspace(0, s, 24) for s in np.delete(BOX.shape.bounds_m, axis))), -1
            ).reshape(-1, 2)
            points = np.insert(grid, axis, side * BOX.shape.bounds_m[axis], axis=1)
            np.mean(mode_values(mode[None], points, size_m=BOX.shape.bounds_m) ** 2)


def prism_modes() -> None:
    """The alcove's modes from nothing, section and patches included."""
    rigid._kept.clear()
    damped_modes(ALCOVE, f_max_hz=SUPPORT * 300, f_coupled_hz=300)


def plain_prism() -> None:
    """The same section on an even mesh of quadratic triangles with the library's defaults, no patches, no cosines."""
    mesh = skfem.MeshTri.init_tensor(np.linspace(0, 3.62, 40), np.linspace(0, 2.84, 32))
    basis = skfem.Basis(mesh, skfem.ElementTriP2())
    eigsh(laplace.assemble(basis), k=60, M=mass.assemble(basis), sigma=-1.0)


def plain_solid() -> None:
    """The same mesh and elements with the installed ARPACK."""
    top = SUPPORT * SOLID_TOP_HZ
    mesh = column_mesh(SLOPED, step_m=0.24 * C / top)
    basis = skfem.Basis(mesh, skfem.ElementTetP2())
    k2 = (2 * np.pi * top / C) ** 2
    eigsh(csc_matrix(laplace.assemble(basis)), k=90, M=csc_matrix(mass.assemble(basis)), sigma=-0.03 * k2)


def mapped(sources: np.ndarray, mics: np.ndarray) -> np.ndarray:
    """Every place at once."""
    return direct_over_room_at_db(ALCOVE, ARRANGEMENT, decay=FADES, sources=sources, mics=mics)


def plain_map(sources: np.ndarray, mics: np.ndarray) -> None:
    """One place after the other through the same second-order images."""
    for source, mic in zip(sources, mics, strict=True):
        direct_over_room_at_db(ALCOVE, ARRANGEMENT, decay=FADES, sources=source[None], mics=mic[None])


def command(*words: str) -> None:
    """A command from its start to its end."""
    subprocess.run([Path(sys.executable).parent / "keenquiet", *words], check=True, capture_output=True)


def main() -> None:
    """Print the table."""
    settle_threads()
    print(f"{'work':<52} {'wanted':>12} {'ours':>12}   {'reference':>12}")
    recording = record(ALCOVE, ARRANGEMENT, "sweep", RigSettings(seed=1)).samples
    row(
        "6 s sweep -> response, bands, notes, flutter",
        "< 500 ms",
        np.median(timed(lambda: read_sweep(recording[None], 48_000))),
        "plain numpy: division, filters, integrals only",
        np.median(timed(lambda: plain_sweep(recording))),
    )
    sung = np.concatenate([sung_take(seed=seed, phrases=12).samples for seed in range(14)])[: 300 * 48_000]
    song = sung.astype(np.float32)[None]  # as it comes out of a file
    row(
        "five minutes of a take, all findings",
        "< 3 s",
        np.median(timed(lambda: read_take(song, 48_000), 3)),
        "pyloudnorm: loudness alone",
        np.median(timed(lambda: pyloudnorm.Meter(48_000).integrated_loudness(sung), 3)),
    )
    row(
        "drag a mark: all four marks, p95",
        "< 60 ms",
        float(np.percentile(timed(drag_step(), 60), 95)),
        "pyroomacoustics: 24 images, no marks",
        np.median(timed(plain_images)),
    )
    row(
        "drag a panel: all four marks, p95",
        "< 60 ms",
        float(np.percentile(timed(panel_step(), 40), 95)),
        "paths of one arrangement alone, ours",
        np.median(timed(lambda: reflected_paths(ALCOVE, ARRANGEMENT))),
    )
    rng = np.random.default_rng(1)
    sources = np.column_stack([rng.uniform(0.4, 3.2, 2000), rng.uniform(0.4, 2.4, 2000), np.full(2000, 1.5)])
    mics = sources + np.array([0.35, 0.2, -0.05])
    row(
        "place map, 2000 positions x 8 octaves",
        "< 500 ms",
        np.median(timed(lambda: mapped(sources, mics), 3)),
        "the same, one place at a time",
        np.median(timed(lambda: plain_map(sources, mics), 1)),
    )
    row(
        "box modes to 300 Hz with patch damping",
        "< 50 ms",
        np.median(timed(lambda: damped_modes(BOX, f_max_hz=300))),
        "plain numpy: first order, point grid, even walls",
        np.median(timed(plain_modes, 3)),
    )
    row(
        "prism (alcove) modes to 300 Hz with patch damping",
        "< 1000 ms",
        np.median(timed(prism_modes, 3)),
        "scipy on an even mesh: section only, no patches",
        np.median(timed(plain_prism, 3)),
    )
    row(
        "pitched L, elements in space to 220 Hz",
        "< 3000 ms",
        np.median(timed(lambda: SolidModes.of(SLOPED, f_max_hz=SUPPORT * SOLID_TOP_HZ, speed_m_s=C), 2)),
        "the same mesh with ARPACK",
        np.median(timed(plain_solid, 1)),
    )
    scenario = scenario_of(ROOM, ROOM.arrangements[0])
    limits = Limits(budget=500, may_drill=True)
    told: list[float] = []
    wanted = PURPOSES[ROOM.brief.purpose]

    def search(**more: Any) -> object:
        return next_moves(scenario, wanted=wanted, limits=limits, costs=PriceList(), report=told.append, **more)

    search()
    row(
        f"search of the demo's next moves, {sum(0.3 <= share < 0.7 for share in told)} candidates",
        "< 3000 ms",
        np.median(timed(search, 3)),
        "every candidate solved fully",
        np.median(timed(lambda: search(all_solved=True), 1)),
    )
    row(
        "keenquiet --help",
        "< 700 ms",
        np.median(timed(lambda: command("--help"), 3)),
        "python -c pass",
        np.median(timed(lambda: subprocess.run([sys.executable, "-c", "pass"], check=True), 3)),
    )
    acoustics = Acoustics(ALCOVE)
    row(
        "one forecast with its uncertainty",
        "",
        np.median(timed(lambda: forecast(acoustics, ARRANGEMENT))),
        "without the draws",
        np.median(timed(lambda: forecast(acoustics, ARRANGEMENT, uncertainty=False))),
    )


if __name__ == "__main__":
    main()

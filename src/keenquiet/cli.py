"""The same use cases from a terminal. `--json` prints one document; exit 2 with an error document when input is
refused.
"""

import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, NoReturn, TypeVar

import numpy as np
import typer
from pydantic import ValidationError

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError, KeenQuietError
from keenquiet.core.read.sweep import SweepSpec
from keenquiet.core.read.tone import calibration_from
from keenquiet.core.room.materials import CATALOGUE
from keenquiet.demo.load import load_demo
from keenquiet.documents import AbsorberDoc, RoomDoc, input_error, read_room
from keenquiet.service import bundles, rooms, settle, shapes
from keenquiet.service.answers import forecast_json, rounded
from keenquiet.service.data import Data, checked
from keenquiet.service.predict import predict as predict_room
from keenquiet.service.reading import analyse, rig_recording
from keenquiet.service.reading_set import loudest_channel, mean_response, response_wav, words_answer
from keenquiet.service.readings import with_room
from keenquiet.store.audiofile import Audio, read_audio, wav_bytes

app = typer.Typer(
    no_args_is_help=True, add_completion=False, help="What your room does to a recording, and what to do next."
)
analyse_app = typer.Typer(no_args_is_help=True, help="Read a recording.")
app.add_typer(analyse_app, name="analyse")

T = TypeVar("T")
AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]
DataDir = Annotated[Path, typer.Option("--data", help="Data folder.", envvar="KEENQUIET_DATA")]
_DEFAULT_DATA = Path.home() / ".local/share/keenquiet"


def main() -> None:
    """Entry point: our errors and wrong usage become exit code 2 with a document that says what to do."""
    try:
        sys.exit(app(standalone_mode=False) or 0)
    except InputError as exc:
        _refuse(exc.field, exc.reason, exc.cure)
    except KeenQuietError as exc:
        _refuse("data", str(exc), "Check the data folder.")
    except Exception as exc:
        said = getattr(exc, "format_message", None)  # what every usage error of the command-line library has
        if said is None:
            raise
        _refuse(str(getattr(exc, "param_hint", None) or "arguments"), said(), "See --help.")


def _refuse(field: str, why: str, cure: str) -> NoReturn:
    print(json.dumps({"error": {"field": field, "reason": why, "cure": cure}}, ensure_ascii=False))
    sys.exit(2)


def _say(answer: Any, as_json: bool) -> None:
    print(json.dumps(answer, ensure_ascii=False) if as_json else json.dumps(answer, ensure_ascii=False, indent=2))


def _room(path: Path) -> RoomDoc:
    return read_room(_json_file(path, "ROOM.json"))


def _json_file(path: Path, field: str) -> Any:
    try:
        return json.loads(path.read_text(encoding="utf-8"))
    except OSError as exc:
        raise InputError(field, f"{path.name} cannot be read: {exc.strerror}.", "Check the file's name.") from exc
    except (UnicodeDecodeError, ValueError, RecursionError) as exc:
        raise InputError(
            field, f"{path.name} is not valid JSON.", "Check the file; `keenquiet schema` shows the format."
        ) from exc


def _read(path: Path, kind: str, as_json: bool, **options: Any) -> None:
    _say(analyse(read_audio(path), kind, **options).result, as_json)


@analyse_app.command("ir")
def analyse_ir(file: Path, thirds: Annotated[bool, typer.Option("--thirds")] = False, as_json: AsJson = False) -> None:
    """Figures of an impulse response."""
    _read(file, "ir", as_json, fraction=3 if thirds else 1)


@analyse_app.command("clap")
def analyse_clap(
    file: Path, thirds: Annotated[bool, typer.Option("--thirds")] = False, as_json: AsJson = False
) -> None:
    """Figures of a clap, a burst balloon or wooden blocks."""
    _read(file, "clap", as_json, fraction=3 if thirds else 1)


@analyse_app.command("glide")
def analyse_glide(file: Path, as_json: AsJson = False) -> None:
    """Notes that swell in a hum gliding slowly up and down."""
    _read(file, "glide", as_json)


@analyse_app.command("sweep")
def analyse_sweep(
    recording: Path,
    low: float = 20.0,
    high: float = 20_000.0,
    seconds: float = 6.0,
    out: Path | None = None,
    thirds: Annotated[bool, typer.Option("--thirds")] = False,
    room: Annotated[Path | None, typer.Option(help="Name returns by this room's surfaces and check its tape.")] = None,
    arrangement: Annotated[str | None, typer.Option("--arrangement")] = None,
    as_json: AsJson = False,
) -> None:
    """Figures of a recording of the sweep; --out keeps the impulse response, --room sets it beside a drawing."""
    if not (5 <= low < high <= 96_000 and 0.5 <= seconds <= 60):
        raise InputError(
            "low, high, seconds",
            f"{low:g} to {high:g} Hz in {seconds:g} s is no sweep.",
            "Give 5 <= low < high, 0.5 to 60 s.",
        )
    answer = analyse(read_audio(recording), "sweep", spec=SweepSpec(low, high, seconds), fraction=3 if thirds else 1)
    if out is not None and answer.response is not None:
        _keep(out, response_wav(answer.response.impulse, answer.response.sample_rate_hz))
    result = answer.result
    if room is not None and answer.response is not None:
        document = _room(room)
        beside = with_room(answer, "sweep", document, document.arrangement_doc(arrangement))
        result = {**result, **{key: beside[key] for key in ("ringing", "early", "flutter", "tape") if key in beside}}
    _say(result, as_json)


@analyse_app.command("tone")
def analyse_tone(
    file: Path,
    calibrator: Path | None = None,
    calibrator_db: float = 94.0,
    meter_db: Annotated[float | None, typer.Option(help="What a sound level meter showed meanwhile, dB(A).")] = None,
    as_json: AsJson = False,
) -> None:
    """Noise figures of a recorded silence; calibrated when a calibrator's recording or a meter's reading is given."""
    calibration, steady = None, True
    if meter_db is not None:
        bare = analyse(read_audio(file), "tone").result["laeq_db"]
        calibration = None if bare is None else meter_db - bare
    if calibrator is not None:
        sound = read_audio(calibrator, field="calibrator")
        calibration, steady = calibration_from(loudest_channel(sound), sound.sample_rate_hz, level_db=calibrator_db)
    answer = analyse(read_audio(file), "tone", **({} if calibration is None else {"calibration_db": calibration}))
    result = answer.result
    if not steady:
        doubt = {
            "code": "not_a_steady_tone",
            "text": "The calibrator's recording is not one steady tone.",
            "cure": "Record the calibrator again, seated firmly.",
        }
        result["verdict"] = {
            **result["verdict"],
            "usable": False,
            "word": "not usable",
            "reasons": [*result["verdict"]["reasons"], doubt],
        }
    _say(result, as_json)


@analyse_app.command("take")
def analyse_take(file: Path, as_json: AsJson = False) -> None:
    """Levels and plain faults of a take."""
    _read(file, "take", as_json)


@analyse_app.command("spoken")
def analyse_spoken(file: Path, as_json: AsJson = False) -> None:
    """Levels of a spoken line and the noise in its pauses."""
    _read(file, "spoken", as_json)


@analyse_app.command("pops")
def analyse_pops(file: Path, as_json: AsJson = False) -> None:
    """Pops in words full of p and b: findings of kind `pop` with their jump in dB."""
    _read(file, "pops", as_json)


@analyse_app.command("loudest")
def analyse_loudest(file: Path, as_json: AsJson = False) -> None:
    """Peaks of the loudest passage, and where the gain should go."""
    _read(file, "loudest", as_json)


@analyse_app.command("compare")
def analyse_compare(first: Path, second: Path, as_json: AsJson = False) -> None:
    """The same words twice, level-matched: gain between them and how they differ by third octave."""
    _say(words_answer(read_audio(first), read_audio(second)), as_json)


@analyse_app.command("average")
def analyse_average(
    recordings: list[Path],
    out: Annotated[Path | None, typer.Option(help="Keep the averaged response.")] = None,
    as_json: AsJson = False,
) -> None:
    """Average repeats of a sweep: figures of the mean response, whose noise is lower."""
    answers = [analyse(read_audio(file), "sweep") for file in recordings]
    for file, answer in zip(recordings, answers, strict=True):
        if answer.response is None or not answer.usable:
            raise InputError("recordings", f"{file.name} is not usable.", "See what `analyse sweep` says about it.")
    responses = [answer.response for answer in answers if answer.response is not None]
    mean, rate, _ = mean_response(
        [(response.impulse, response.sample_rate_hz) for response in responses], field="recordings"
    )
    if out is not None:
        _keep(out, response_wav(mean.impulse, rate))
    _say(
        {**analyse(Audio(mean.impulse[None], rate, None, ".wav"), "ir").result, "likeness": round(mean.likeness, 3)},
        as_json,
    )


def _keep(out: Path, content: bytes) -> None:
    try:
        out.write_bytes(content)
    except OSError as exc:
        raise InputError("out", f"{out} cannot be written: {exc.strerror}.", "Choose another place.") from exc


@app.command()
def predict(
    room: Path,
    arrangement: Annotated[str | None, typer.Option("--arrangement")] = None,
    to_hz: Annotated[float, typer.Option("--to-hz", min=40, max=300)] = 200.0,
    as_json: AsJson = False,
) -> None:
    """What a room does: modes, decay, paths, response and the four marks."""
    document = _room(room)
    _say(forecast_json(predict_room(document, arrangement), document, to_hz=to_hz, arrangement_id=arrangement), as_json)


@app.command()
def absorber(
    thickness: float = 0.0,
    flow_resistivity: float = 8000.0,
    gap: float = 0.0,
    kind: str = "porous",
    facing_resistance: float = 0.0,
    facing_mass: float = 0.0,
    mass: float = 5.0,
    open_share: float = 0.05,
    opening: float = 0.006,
    board: float = 0.012,
    fullness: float = 2.0,
    resistance: float = 400.0,
    as_json: AsJson = False,
) -> None:
    """Absorption by octave of a porous layer, or with --kind of a membrane, a perforated or slotted board, or a
    cloth.
    """
    spec = {
        "kind": kind,
        "thickness_m": thickness,
        "flow_resistivity": flow_resistivity,
        "gap_m": gap,
        "facing_resistance": facing_resistance,
        "facing_mass": facing_mass,
        "mass_kg_m2": mass,
        "open_share": open_share,
        "opening_m": opening,
        "board_m": board,
        "fullness": fullness,
        "resistance": resistance,
    }
    try:
        described = AbsorberDoc.model_validate(spec)
    except ValidationError as exc:
        raise input_error(exc) from exc
    answer = shapes.absorber_answer(described)
    _say({"octaves": answer["octaves"], "resonance_hz": answer["resonance_hz"]}, as_json)


@app.command()
def square(room: Path, as_json: AsJson = False) -> None:
    """Make the tape's readings in `tape` agree: the plan that fits best, how far each reading is off, which is
    suspect.
    """
    _say(shapes.squared_answer(_room(room)), as_json)


@app.command()
def draw(
    room: Path,
    out: Annotated[Path, typer.Option(help="NAME.svg or NAME.dxf")],
    view: Annotated[str, typer.Option(help="plan, walls, section-x, section-y or model")] = "plan",
    arrangement: Annotated[str | None, typer.Option("--arrangement")] = None,
    as_json: AsJson = False,
) -> None:
    """Draw a room: plan, unfolded walls, section or model, as SVG (1:25) or DXF (metres, named layers)."""
    text, _ = shapes.drawing(_room(room), arrangement, view=view, kind=out.suffix.lstrip(".").lower())
    _keep(out, text.encode())
    _say({"out": str(out), "bytes": len(text.encode())}, as_json)


@app.command()
def fit(
    room: Path,
    readings: Annotated[list[Path], typer.Argument(help="Impulse responses taken in this room.")],
    sweep: Annotated[bool, typer.Option("--sweep", help="The files are recordings of the sweep.")] = False,
    out: Annotated[Path | None, typer.Option(help="Keep the fitted room as a new room.json.")] = None,
    arrangement: Annotated[str | None, typer.Option("--arrangement")] = None,
    as_json: AsJson = False,
) -> None:
    """Adjust absorption by octave to readings, held towards the catalogue; says what no plausible absorption
    explains.
    """
    document = _room(room)
    answers = [analyse(read_audio(file), "sweep" if sweep else "ir") for file in readings]
    for file, answer in zip(readings, answers, strict=True):
        if not answer.usable:
            raise InputError("readings", f"{file.name} is not usable.", "See what `analyse` says about it.")
    found = settle.fit_to(document, document.arrangement_doc(arrangement), [answer.result for answer in answers])
    if out is not None:
        kept = document.model_dump(mode="json", exclude_none=True) | {"fit": found["fit"]}
        _keep(out, json.dumps(kept, ensure_ascii=False, indent=2).encode())
    _say(found, as_json)


@app.command()
def places(rooms_: Annotated[list[Path], typer.Argument(metavar="ROOM.json...")], as_json: AsJson = False) -> None:
    """Which place? Rooms (and their arrangements) side by side on the four marks, best first, with reasons."""
    listed = []
    for number, path in enumerate(rooms_):
        document = _room(path)
        listed += [(f"{number}:{a.id}", document, a.id, {}) for a in document.arrangements]
    _say(settle.compare_documents(listed), as_json)


@app.command()
def materials(search: str = "", as_json: AsJson = False) -> None:
    """The catalogue of materials, or those with a word in their name, group or mounting."""
    found = [m for m in CATALOGUE.values() if search.lower() in f"{m.key} {m.name} {m.group} {m.mounting}".lower()]
    rows = [
        {
            "key": m.key,
            "name": m.name,
            "group": m.group,
            "mounting": m.mounting,
            "source": m.source,
            "confidence": m.confidence,
            "absorption": dict(zip((str(f) for f in OCTAVES_HZ), rounded(m.absorption), strict=True)),
        }
        for m in found
    ]
    _say({"materials": rows}, as_json)


@app.command()
def simulate(
    room: Path,
    reading: Annotated[str, typer.Option(help="sweep, clap, glide, tone, take, spoken, pops or loudest")],
    out: Annotated[Path, typer.Option()],
    seed: int = 1,
    arrangement: Annotated[str | None, typer.Option("--arrangement")] = None,
    gain: float = 0.0,
    fault: Annotated[
        list[str] | None, typer.Option(help="What goes wrong, e.g. door-slam; may be given again.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """What a recorder would have got in this room, from the practice rig."""
    document = _room(room)
    if seed < 0:
        raise InputError("seed", f"{seed} is negative.", "Use 0 or more.")
    recording = rig_recording(
        document, document.arrangement_doc(arrangement), reading, seed=seed, gain_db=gain, faults=tuple(fault or ())
    )
    _keep(out, wav_bytes(recording.samples, recording.sample_rate_hz))
    truth = {
        "delay_ms": recording.delay_s * 1000,
        "clock_ppm": recording.clock_ppm,
        "t60_s": dict(zip((str(f) for f in OCTAVES_HZ), recording.response.t60_s, strict=True)),
    }
    _say(
        rounded(
            {
                "out": str(out),
                "simulated": True,
                "seconds": np.shape(recording.samples)[-1] / recording.sample_rate_hz,
                "faults": fault or [],
                "set": truth,
            }
        ),
        as_json,
    )


@app.command()
def schema() -> None:
    """JSON Schema of room.json."""
    print(json.dumps(RoomDoc.model_json_schema(), indent=2))


@app.command()
def serve(
    data: DataDir = _DEFAULT_DATA,
    host: str = "127.0.0.1",
    port: int = 8765,
    passcode: Annotated[str | None, typer.Option()] = None,
) -> None:
    """Serve the application. Addresses other than this machine's own need a passcode."""
    if host not in ("127.0.0.1", "localhost", "::1") and not passcode:
        raise InputError("host", f"{host} can be reached by others.", "Give a --passcode, or keep 127.0.0.1.")
    _serve(data, host, port, passcode)


@app.command()
def demo(
    data: DataDir = Path(".demo-data"),
    port: int = 8765,
    only_load: Annotated[bool, typer.Option("--only-load")] = False,
) -> None:
    """Load the made-up demo into its own data folder and serve it."""
    _with_data(data, lambda opened: load_demo(opened))
    if not only_load:
        _serve(data, "127.0.0.1", port, None)


def _serve(data: Path, host: str, port: int, passcode: str | None) -> None:
    import uvicorn

    from keenquiet.api.app import make_app

    print(f"Keen Quiet is ready: http://{host}:{port}  (data in {data}; stop with Ctrl-C)", flush=True)
    uvicorn.run(
        make_app(data, passcode=passcode), host=host, port=port, log_level=os.environ.get("KEENQUIET_LOG", "warning")
    )


def _with_data(folder: Path, use: Callable[[Data], T]) -> T:
    data = Data(folder)
    try:
        return use(data)
    finally:
        data.close()


@app.command("export")
def export_room(
    room: str, out: Annotated[Path, typer.Option()], data: DataDir = _DEFAULT_DATA, as_json: AsJson = False
) -> None:
    """Export a room (by id or name) as NAME.kq.zip."""

    def export(opened: Data) -> None:
        chosen = next((r for r in rooms.list_rooms(opened) if room in (r["id"], r["name"])), None)
        if chosen is None:
            raise InputError(
                "room", f"{room!r} is not in this data folder.", "Give its name or id; --data chooses the folder."
            )
        content, _ = bundles.exported(opened, chosen["id"])
        out.write_bytes(content)
        _say({"out": str(out), "bytes": len(content), "room": chosen["name"]}, as_json)

    _with_data(data, export)


@app.command("import")
def import_room(bundle: Path, data: DataDir = _DEFAULT_DATA, as_json: AsJson = False) -> None:
    """Import NAME.kq.zip, or a room.json, as a new room."""

    def take(opened: Data) -> Any:
        if bundle.suffix == ".json":
            made = rooms.create(opened, _json_file(bundle, "BUNDLE"))
            return {"id": made["id"], "name": made["name"], "readings": 0}
        try:
            content = bundle.read_bytes()
        except OSError as exc:
            raise InputError(
                "file", f"{bundle.name} cannot be read: {exc.strerror}.", "Check the file's name."
            ) from exc
        return bundles.imported(opened, content)

    _say(_with_data(data, take), as_json)


@app.command()
def backup(data: DataDir = _DEFAULT_DATA, as_json: AsJson = False) -> None:
    """Copy the database into the data folder's backups."""
    _say({"backup": _with_data(data, lambda opened: str(opened.database.backup("by-hand")))}, as_json)


@app.command()
def check(data: DataDir = _DEFAULT_DATA, as_json: AsJson = False) -> None:
    """Verify a data folder: the database's integrity, and that every recording is there and unchanged."""
    found = _with_data(data, checked)
    _say(found, as_json)
    if not found["sound"]:
        sys.exit(1)


if __name__ == "__main__":
    main()

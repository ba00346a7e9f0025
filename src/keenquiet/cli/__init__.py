"""The same use cases from a terminal. `--json` prints one document; exit 2 with an error document when input is
refused.

This module holds names and options only: what a command needs is imported when it runs, so that a light one starts at
once.
"""

import json
import sys
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from keenquiet.cli import quiet, takes
from keenquiet.core.errors import InputError, KeenQuietError

app = typer.Typer(
    no_args_is_help=True, add_completion=False, help="What your room does to a recording, and what to do next."
)
analyse_app = typer.Typer(no_args_is_help=True, help="Read a recording.")
app.add_typer(analyse_app, name="analyse")
quiet.register(app, analyse_app)
takes.register(app, analyse_app)

AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]
Thirds = Annotated[bool, typer.Option("--thirds", help="Third octaves.")]
WhichArrangement = Annotated[str | None, typer.Option("--arrangement")]
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


@analyse_app.command("ir")
def analyse_ir(file: Path, thirds: Thirds = False, as_json: AsJson = False) -> None:
    """Figures of an impulse response."""
    from keenquiet.cli import reading

    reading.read(file, "ir", as_json, thirds=thirds)


@analyse_app.command("clap")
def analyse_clap(file: Path, thirds: Thirds = False, as_json: AsJson = False) -> None:
    """Figures of a clap, a burst balloon or wooden blocks."""
    from keenquiet.cli import reading

    reading.read(file, "clap", as_json, thirds=thirds)


@analyse_app.command("glide")
def analyse_glide(file: Path, as_json: AsJson = False) -> None:
    """Notes that swell in a hum gliding slowly up and down."""
    from keenquiet.cli import reading

    reading.read(file, "glide", as_json)


@analyse_app.command("sweep")
def analyse_sweep(
    recording: Path,
    low: float = 20.0,
    high: float = 20_000.0,
    seconds: float = 6.0,
    out: Path | None = None,
    thirds: Thirds = False,
    room: Annotated[Path | None, typer.Option(help="Name returns by this room's surfaces and check its tape.")] = None,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Figures of a recording of the sweep; --out keeps the impulse response, --room sets it beside a drawing."""
    from keenquiet.cli import reading

    reading.read_sweep(
        recording,
        as_json,
        low_hz=low,
        high_hz=high,
        seconds=seconds,
        out=out,
        thirds=thirds,
        room=room,
        arrangement=arrangement,
    )


@analyse_app.command("tone")
def analyse_tone(
    file: Path,
    calibrator: Path | None = None,
    calibrator_db: float = 94.0,
    meter_db: Annotated[float | None, typer.Option(help="What a sound level meter showed meanwhile, dB(A).")] = None,
    as_json: AsJson = False,
) -> None:
    """Noise figures of a recorded silence; calibrated when a calibrator's recording or a meter's reading is given."""
    from keenquiet.cli import reading

    reading.read_tone(file, as_json, calibrator=calibrator, calibrator_db=calibrator_db, meter_db=meter_db)


@analyse_app.command("spoken")
def analyse_spoken(file: Path, as_json: AsJson = False) -> None:
    """Levels of a spoken line and the noise in its pauses."""
    from keenquiet.cli import reading

    reading.read(file, "spoken", as_json)


@analyse_app.command("pops")
def analyse_pops(file: Path, as_json: AsJson = False) -> None:
    """Pops in words full of p and b: findings of kind `pop` with their jump in dB."""
    from keenquiet.cli import reading

    reading.read(file, "pops", as_json)


@analyse_app.command("loudest")
def analyse_loudest(file: Path, as_json: AsJson = False) -> None:
    """Peaks of the loudest passage, and where the gain should go."""
    from keenquiet.cli import reading

    reading.read(file, "loudest", as_json)


@analyse_app.command("compare")
def analyse_compare(first: Path, second: Path, as_json: AsJson = False) -> None:
    """The same words twice, level-matched: gain between them and how they differ by third octave."""
    from keenquiet.cli import reading

    reading.compare(first, second, as_json)


@analyse_app.command("sides")
def analyse_sides(
    front: Path,
    back: Path,
    pattern: Annotated[str, typer.Option(help="The pattern that the microphone should have.")] = "cardioid",
    as_json: AsJson = False,
) -> None:
    """A line spoken into both sides of a microphone: which is its front, is the pattern on, has it power."""
    from keenquiet.cli import reading

    reading.sides(front, back, as_json, pattern=pattern)


@analyse_app.command("put-back")
def analyse_put_back(
    then: Path,
    now: Path,
    kind: Annotated[str, typer.Option(help="sweep, ir or spoken: what both files are.")] = "sweep",
    as_json: AsJson = False,
) -> None:
    """Whether everybody stands where they stood: two sweeps of one place, or one spoken line twice."""
    from keenquiet.cli import reading

    reading.replaced(then, now, as_json, kind=kind)


@analyse_app.command("splice")
def analyse_splice(first: Path, second: Path, as_json: AsJson = False) -> None:
    """Would a cut between these two room tones be heard, and how long a crossfade hides it."""
    from keenquiet.cli import reading

    reading.spliced(first, second, as_json)


@analyse_app.command("shares")
def analyse_shares(
    every: Annotated[Path, typer.Option("--all", help="A silence with everything on.")],
    without: Annotated[list[str], typer.Option(help="NAME=FILE: a silence with NAME off; again for each.")],
    again: Annotated[Path | None, typer.Option(help="Everything on once more, at the end.")] = None,
    as_json: AsJson = False,
) -> None:
    """A house round: what each source makes of the noise, and how sure that is."""
    from keenquiet.cli import reading

    reading.shared(every, without, again, as_json)


@analyse_app.command("average")
def analyse_average(
    recordings: list[Path],
    out: Annotated[Path | None, typer.Option(help="Keep the averaged response.")] = None,
    as_json: AsJson = False,
) -> None:
    """Average repeats of a sweep: figures of the mean response, whose noise is lower."""
    from keenquiet.cli import reading

    reading.average(recordings, as_json, out=out)


@app.command()
def predict(
    room: Path,
    arrangement: WhichArrangement = None,
    to_hz: Annotated[float, typer.Option("--to-hz", min=40, max=300)] = 200.0,
    as_json: AsJson = False,
) -> None:
    """What a room does: modes, decay, paths, response and the four marks."""
    from keenquiet.cli import rooms

    rooms.asked("forecast", room, as_json, arrangement=arrangement, to_hz=to_hz, screens=True)


@app.command()
def plan(
    room: Path,
    budget: Annotated[float | None, typer.Option(help="What may be spent; the room's own brief when left out.")] = None,
    only: Annotated[str | None, typer.Option(help="Moves of one sort: places, panels, screens, quiet.")] = None,
    keep_free: Annotated[list[str] | None, typer.Option(help="A surface to hang nothing on; may be repeated.")] = None,
    reversible: Annotated[bool, typer.Option("--reversible", help="Nothing that leaves a trace.")] = False,
    marks: Annotated[str, typer.Option(help="The marks that matter, e.g. bounce,hush; all when left out.")] = "",
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Plans within a budget: pieces, places, screens and noises searched together, each move with what it adds."""
    from keenquiet.cli import rooms

    named = [mark for mark in marks.split(",") if mark]
    rules = {"keep_free": keep_free, "reversible": reversible, "marks": named}
    rooms.asked("plan", room, as_json, arrangement=arrangement, budget=budget, only=only, **rules)


@app.command()
def distance(
    room: Path,
    arrangement: WhichArrangement = None,
    role: Annotated[str, typer.Option(help="lead, backing, soloist or section")] = "lead",
    screen: Annotated[str, typer.Option(help="Pop screen: none, on the capsule, or off it.")] = "none",
    as_json: AsJson = False,
) -> None:
    """What every distance from 3 cm to 1.5 m gives here, the span that gives what is wanted, and what ends it."""
    from keenquiet.cli import rooms

    rooms.asked("distance", room, as_json, arrangement=arrangement, role=role, screen=screen)


@app.command("map")
def map_(
    room: Path,
    mark: Annotated[str, typer.Option(help="bounce, boom, hush or all")] = "all",
    height: Annotated[float | None, typer.Option(help="Of the mouth, in metres; as it stands when left out.")] = None,
    step: Annotated[float, typer.Option(min=0.05, max=1.0, help="Of the grid, in metres.")] = 0.1,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """How good every free spot of the floor is for performer and microphone, and the best three."""
    from keenquiet.cli import rooms

    rooms.asked("map", room, as_json, arrangement=arrangement, mark=mark, height_m=height, step_m=step)


@app.command()
def listening(
    room: Path,
    search: Annotated[bool, typer.Option("--search", help="Look for the best places along each wall.")] = False,
    free: Annotated[bool, typer.Option("--free", help="Off the walls' middle lines, too.")] = False,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """What the chair hears of the monitors: swing, cancellations, first returns; and the best places for both."""
    from keenquiet.cli import rooms

    rooms.asked("listening", room, as_json, arrangement=arrangement, search=search, free=free)


@app.command()
def aim(room: Path, arrangement: WhichArrangement = None, as_json: AsJson = False) -> None:
    """What turning the microphone or the head trades: level, bass, treble, breath, and the worst noise in the null."""
    from keenquiet.cli import rooms

    rooms.asked("aim", room, as_json, arrangement=arrangement)


@app.command()
def screens(room: Path, arrangement: WhichArrangement = None, as_json: AsJson = False) -> None:
    """Screens that could stand here, round the microphone or behind the performer, best first, with both effects."""
    from keenquiet.cli import rooms

    rooms.asked("screens", room, as_json, arrangement=arrangement)


@app.command()
def schools(
    room: Path,
    beside: Annotated[list[Path] | None, typer.Option(help="Another place at hand; may be given again.")] = None,
    treatment: Annotated[bool, typer.Option("--treatment", help="Those about what to hang.")] = False,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """What practitioners disagree on, both sides computed in this room."""
    from keenquiet.cli import rooms

    rooms.schooled(room, as_json, arrangement=arrangement, beside=beside or [], treatment=treatment)


@app.command()
def reach(
    room: Path,
    second: Annotated[str | None, typer.Option(help="Where another source is: X,Y,Z in metres.")] = None,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Stands, cables, meter and keys in reach; how loud open monitors may be; a second source in the null."""
    from keenquiet.cli import rooms

    rooms.reached(room, as_json, arrangement=arrangement, second=second)


@app.command()
def make(
    room: Path,
    out: Annotated[Path | None, typer.Option(help="NAME.pdf to print, or NAME.csv.")] = None,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Make what hangs in an arrangement: what to buy and cut, what holds it, in which steps."""
    from keenquiet.cli import rooms

    rooms.printed("make", room, as_json, out=out, arrangement=arrangement, kinds=".pdf or .csv")


@app.command()
def hear(
    room: Path,
    dry: Annotated[Path, typer.Option(help="A line recorded close and dry.")],
    out: Annotated[Path, typer.Option(help="NAME.wav")],
    arrangement: Annotated[str | None, typer.Option(help="Its id, or `outdoors`.")] = None,
    as_json: AsJson = False,
) -> None:
    """Play a dry line in a room, as the microphone would hear it there."""
    from keenquiet.cli import reading

    reading.heard(room, as_json, dry=dry, out=out, arrangement=arrangement)


@app.command()
def cut(
    pieces: Annotated[Path, typer.Argument(metavar="PIECES.json")],
    stock: Annotated[Path, typer.Option(help="STOCK.json: the lengths that can be had.")],
    as_json: AsJson = False,
) -> None:
    """Cut lengths from stock with least waste."""
    from keenquiet.cli import made_of

    made_of.cut(pieces, stock, as_json)


@app.command()
def marks(
    room: Path,
    out: Annotated[Path | None, typer.Option(help="NAME.pdf: one page to print.")] = None,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """The marks sheet: everybody's place by two lengths of tape and a height, and what else has to be as it was."""
    from keenquiet.cli import rooms

    rooms.printed("marks-sheet", room, as_json, out=out, arrangement=arrangement)


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
    note: Annotated[float | None, typer.Option(help="Hz: a membrane's mass for this note, on its box.")] = None,
    as_json: AsJson = False,
) -> None:
    """Absorption by octave of a porous layer, or with --kind of a membrane, a perforated or slotted board, or a
    cloth. With --note a membrane tuned to it.
    """
    from keenquiet.cli import made_of

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
    made_of.absorbed(spec, as_json, note_hz=note)


@app.command()
def square(room: Path, as_json: AsJson = False) -> None:
    """Make the tape's readings in `tape` agree: the best plan, how far each reading is off, which is suspect."""
    from keenquiet.cli import rooms

    rooms.asked("square", room, as_json)


@app.command()
def draw(
    room: Path,
    out: Annotated[Path, typer.Option(help="NAME.svg or NAME.dxf")],
    view: Annotated[str, typer.Option(help="plan, walls, section-x, section-y or model")] = "plan",
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Draw a room: plan, unfolded walls, section or model, as SVG (1:25) or DXF (metres, named layers)."""
    from keenquiet.cli import rooms

    rooms.drawn(room, as_json, out=out, view=view, arrangement=arrangement)


@app.command()
def fit(
    room: Path,
    readings: Annotated[list[Path], typer.Argument(help="Impulse responses taken in this room.")],
    sweep: Annotated[bool, typer.Option("--sweep", help="The files are recordings of the sweep.")] = False,
    out: Annotated[Path | None, typer.Option(help="Keep the fitted room as a new room.json.")] = None,
    arrangement: WhichArrangement = None,
    as_json: AsJson = False,
) -> None:
    """Adjust absorption by octave to readings, held towards the catalogue; says what none explains."""
    from keenquiet.cli import rooms

    rooms.fitted(room, readings, as_json, kind="sweep" if sweep else "ir", out=out, arrangement=arrangement)


@app.command()
def places(rooms_: Annotated[list[Path], typer.Argument(metavar="ROOM.json...")], as_json: AsJson = False) -> None:
    """Which place? Rooms (and their arrangements) side by side on the four marks, best first, with reasons."""
    from keenquiet.cli import rooms

    rooms.placed(rooms_, as_json)


@app.command()
def materials(search: str = "", as_json: AsJson = False) -> None:
    """The catalogue of materials, or those with a word in their name, group or mounting."""
    from keenquiet.cli import made_of

    made_of.materials(search, as_json)


@app.command()
def simulate(
    room: Path,
    reading: Annotated[str, typer.Option(help="sweep, clap, glide, tone, take, spoken, pops or loudest")],
    out: Annotated[Path, typer.Option()],
    seed: int = 1,
    arrangement: WhichArrangement = None,
    gain: float = 0.0,
    fault: Annotated[
        list[str] | None, typer.Option(help="What goes wrong, e.g. door-slam; may be given again.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """What a recorder would have got in this room, from the practice rig."""
    from keenquiet.cli import reading as reading_commands

    reading_commands.simulated(
        room, reading, as_json, out=out, seed=seed, arrangement=arrangement, gain_db=gain, faults=tuple(fault or ())
    )


@app.command()
def schema() -> None:
    """JSON Schema of room.json."""
    from keenquiet.documents.schema import RoomDoc

    print(json.dumps(RoomDoc.model_json_schema(), indent=2))


@app.command()
def serve(
    data: DataDir = _DEFAULT_DATA,
    host: str = "127.0.0.1",
    port: int = 8765,
    passcode: Annotated[str | None, typer.Option(help="What other machines must give; at least 8 characters.")] = None,
    tls: Annotated[bool, typer.Option("--tls", help="Serve https, so that a phone may record.")] = False,
    phone: Annotated[
        bool, typer.Option("--phone", help="For a phone in your own network: https, and a passcode made up.")
    ] = False,
    called: Annotated[list[str] | None, typer.Option(help="Another name that this machine has.")] = None,
) -> None:
    """Serve the application. Addresses other than this machine's own need a passcode."""
    from keenquiet.cli import folders

    folders.served(data, host=host, port=port, passcode=passcode, tls=tls, phone=phone, called=called or [])


@app.command()
def demo(
    data: DataDir = Path(".demo-data"),
    port: int = 8765,
    only_load: Annotated[bool, typer.Option("--only-load")] = False,
) -> None:
    """Load the made-up demo into its own data folder and serve it."""
    from keenquiet.cli import folders

    folders.demonstrated(data, port=port, only_load=only_load)


@app.command("export")
def export_room(
    room: str, out: Annotated[Path, typer.Option()], data: DataDir = _DEFAULT_DATA, as_json: AsJson = False
) -> None:
    """Export a room (by id or name) as NAME.kq.zip."""
    from keenquiet.cli import folders

    folders.exported(data, room, as_json, out=out)


@app.command("import")
def import_room(bundle: Path, data: DataDir = _DEFAULT_DATA, as_json: AsJson = False) -> None:
    """Import NAME.kq.zip, or a room.json, as a new room."""
    from keenquiet.cli import folders

    folders.imported(data, bundle, as_json)


@app.command()
def backup(data: DataDir = _DEFAULT_DATA, as_json: AsJson = False) -> None:
    """Copy the database into the data folder's backups."""
    from keenquiet.cli import folders

    folders.backed_up(data, as_json)


@app.command()
def restore(
    backup: Annotated[str | None, typer.Argument(help="Name of a backup; the newest without one.")] = None,
    only_list: Annotated[bool, typer.Option("--list", help="Say which there are, and change nothing.")] = False,
    data: DataDir = _DEFAULT_DATA,
    as_json: AsJson = False,
) -> None:
    """Put a backup back; what stood before is kept beside it."""
    from keenquiet.cli import folders

    folders.restored(data, as_json, backup=backup, only_list=only_list)


@app.command()
def check(
    data: DataDir = _DEFAULT_DATA,
    repair: Annotated[bool, typer.Option("--repair", help="Save what a damaged database still holds.")] = False,
    as_json: AsJson = False,
) -> None:
    """Verify a data folder: the database's integrity, and that every recording is there and unchanged."""
    from keenquiet.cli import folders

    folders.checked(data, as_json, repair=repair)


if __name__ == "__main__":
    main()

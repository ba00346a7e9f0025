"""Commands about takes: a file or a folder, one's own line, backing, line by line, latency, trials, a singer."""

from pathlib import Path
from typing import Annotated

import typer

from keenquiet.cli.quiet import AsJson
from keenquiet.core.errors import InputError
from keenquiet.store.audiofile import SOUND_SUFFIXES


def take(
    files: Annotated[list[Path], typer.Argument(help="A take, several, or a folder of them.")],
    line: Annotated[Path | None, typer.Option(help="Your own line, recorded before at the same gain.")] = None,
    backing: Annotated[Path | None, typer.Option(help="The song that was in the headphones.")] = None,
    room: Annotated[Path | None, typer.Option(help="The room document: judged by its brief.")] = None,
    silence: Annotated[Path | None, typer.Option(help="The room's silence, recorded at the same gain.")] = None,
    as_json: AsJson = False,
) -> None:
    """Is a take good enough to keep: levels, what spoiled it and where, what helps."""
    from keenquiet.cli.files import room_at, say
    from keenquiet.service.kinds import kind_named
    from keenquiet.service.reading import analyse
    from keenquiet.service.takes import against_answer, bleed_answer
    from keenquiet.service.underneath import underneath_answer
    from keenquiet.store.audiofile import read_audio

    known = kind_named("take")
    described = None if room is None else room_at(room)
    found = []
    chosen = _in(files)
    for path in chosen:
        audio = read_audio(path, most_seconds=known.most_seconds, loudest_part=known.in_parts)
        heard = analyse(audio, "take")
        result = heard.result if described is None else heard.beside(described, described.arrangement_doc(None))
        told = result.model_dump(mode="json", exclude_none=False)
        if line is not None:
            told["against"] = against_answer(audio, read_audio(line, field="line"), from_m=None).model_dump(mode="json")
            told["findings"] += told["against"]["findings"]
        if backing is not None:
            told["bleed"] = bleed_answer(audio, read_audio(backing, field="backing")).model_dump(mode="json")
            told["findings"] += told["bleed"]["findings"]
        if silence is not None:
            under = underneath_answer(audio, read_audio(silence, field="silence"))
            told["underneath"] = under.model_dump(mode="json")
        found.append((path, told))
    if len(found) == 1 and not files[0].is_dir():
        say(found[0][1], as_json)
    else:
        say({"takes": [{"file": path.name, **told} for path, told in found]}, as_json)


def _in(files: list[Path]) -> list[Path]:
    """Files, and those of folders in order of their names. Raises InputError where there is none."""
    found = [
        path
        for each in files
        for path in (
            sorted(p for p in each.iterdir() if p.suffix.lower() in SOUND_SUFFIXES) if each.is_dir() else [each]
        )
    ]
    if not found:
        raise InputError("files", "hold no recording.", f"Use {', '.join(SOUND_SUFFIXES)}.")
    return found


def lines(first: Path, second: Path, as_json: AsJson = False) -> None:
    """Two takes of one song line by line: the cleaner one of each, and whether the cuts would be heard."""
    from keenquiet.cli.files import say
    from keenquiet.service.takes import lines_answer
    from keenquiet.store.audiofile import read_audio

    say(lines_answer(read_audio(first, field="first"), read_audio(second, field="second")), as_json)


def latency(played: Path, recorded: Path, as_json: AsJson = False) -> None:
    """How late a recording of a sound comes after it, and the comb that both ways heard at once make."""
    from keenquiet.cli.files import say
    from keenquiet.service.takes import latency_answer
    from keenquiet.store.audiofile import read_audio

    say(latency_answer(read_audio(played, field="played"), read_audio(recorded, field="recorded")), as_json)


def trials(
    room: Path,
    series: Annotated[str, typer.Argument(help="distance, angle, round, behind, blankets, gains or phones")],
    arrangement: str | None = None,
    as_json: AsJson = False,
) -> None:
    """A guided series: what each step would change, predicted in this room."""
    from keenquiet.cli.files import room_at, say
    from keenquiet.service.trials import trials_answer

    document = room_at(room)
    say(trials_answer(document, document.arrangement_doc(arrangement), series), as_json)


def threshold(
    what: Annotated[str, typer.Argument(help="louder, brighter or noise")],
    answers: Annotated[str, typer.Argument(help="r and w: right and wrong answers so far")] = "",
    as_json: AsJson = False,
) -> None:
    """The smallest difference that you hear: the next pair of a staircase, or where it has settled."""
    from keenquiet.cli.files import say
    from keenquiet.service.takes import threshold_answer

    say(threshold_answer(what, answers), as_json)


def sing(
    out: Path,
    fault: Annotated[str | None, typer.Option(help="What spoils it, a kind of finding; nothing when left out.")] = None,
    room: Annotated[
        Path | None, typer.Option(help="Sung in this room; in a small one of its own when left out.")
    ] = None,
    arrangement: str | None = None,
    seed: int = 1,
    as_json: AsJson = False,
) -> None:
    """A simulated take with its truth: where each phrase is, and what spoils it."""
    from keenquiet.cli.files import keep, room_at, say
    from keenquiet.rig.singer import sung_take
    from keenquiet.rig.spoils import SPOILS, flawed_take
    from keenquiet.rig.voice import RATE_HZ
    from keenquiet.service.reading import rig_take
    from keenquiet.store.audiofile import wav_bytes

    if fault is not None and fault not in SPOILS:
        raise InputError("fault", f"{fault!r} cannot be sung.", f"Use one of {', '.join(SPOILS)}.")
    if room is not None:
        document = room_at(room)
        made = rig_take(document, document.arrangement_doc(arrangement), seed=seed, fault=fault)
    else:
        made = sung_take(seed=seed) if fault is None else flawed_take(fault, seed=seed)
    keep(out, wav_bytes(made.samples, RATE_HZ))
    told = {"out": str(out), "simulated": True, "seconds": made.seconds, "phrases": made.phrases}
    for name, samples in (("line", made.reference), ("backing", made.backing)):
        if samples is not None:
            beside = out.with_name(f"{out.stem}-{name}{out.suffix}")
            keep(beside, wav_bytes(samples, RATE_HZ))
            told[name] = str(beside)
    flaws = [{"kind": f.kind, "start_s": f.start_s, "end_s": f.end_s, "size": f.size} for f in made.flaws]
    say({**told, "flaws": flaws}, as_json)


def register(app: typer.Typer, analyse: typer.Typer) -> None:
    """Add these to the program."""
    app.command("sing")(sing)
    app.command("trials")(trials)
    app.command("threshold")(threshold)
    analyse.command("take")(take)
    analyse.command("lines")(lines)
    analyse.command("latency")(latency)

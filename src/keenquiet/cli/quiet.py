"""Commands about noise: what it means for a recording, when it rests, what silences say when held together.

What a command needs is imported when it runs, as in `keenquiet.cli`.
"""

from datetime import date
from pathlib import Path
from typing import Annotated

import typer

from keenquiet.core.errors import InputError

AsJson = Annotated[bool, typer.Option("--json", help="One JSON document on stdout.")]
Arrangement = Annotated[str | None, typer.Option("--arrangement", help="Which one; the first when left out.")]


def hush(room: Path, arrangement: Arrangement = None, as_json: AsJson = False) -> None:
    """What is there when nobody plays: which noises spoil takes, under what they are heard, ways in, moves in sets."""
    from keenquiet.cli.rooms import asked

    asked("hush", room, as_json, arrangement=arrangement)


def hours(
    room: Path,
    minutes: Annotated[float | None, typer.Option(help="Length of the take; as the brief says when left out.")] = None,
    log: Annotated[Path | None, typer.Option(help="CSV of times and levels.")] = None,
    utc_offset_min: Annotated[float, typer.Option(help="Minutes ahead of UTC, for times without a zone.")] = 0.0,
    too_loud_db: Annotated[float | None, typer.Option(help="Level of the log from which a take is disturbed.")] = None,
    out: Annotated[Path | None, typer.Option(help="The best windows as .ics, or the week as .csv.")] = None,
    arrangement: Arrangement = None,
    as_json: AsJson = False,
) -> None:
    """When a take of so many minutes stays undisturbed, hour by hour, and the best windows of the week."""
    from keenquiet.cli.files import keep, room_at, say
    from keenquiet.service.case import Case
    from keenquiet.service.questions.hours import HoursAsk, as_csv, as_ics, hours_by
    from keenquiet.service.sound_logs import read_log

    document = room_at(room)
    heard = None
    if log is not None:
        try:
            with log.open("rb") as content:
                heard = read_log(content, offset_min=utc_offset_min)
        except OSError as exc:
            raise InputError("log", f"{log.name} cannot be read.", "Check the path.") from exc
    found = hours_by(Case(document, arrangement), HoursAsk.of(minutes=minutes), heard, too_loud_db=too_loud_db)
    if out is not None:
        as_calendar = out.suffix.lower() == ".ics"
        keep(out, as_ics(document, found, from_day=date.today()) if as_calendar else as_csv(found))
    say(found, as_json)


def gains(
    low: Path,
    high: Path,
    gain_db: Annotated[float, typer.Option(help="By how much the second gain is higher.")] = 10.0,
    as_json: AsJson = False,
) -> None:
    """Two silences at two gains: room against the chain's own noise, and whether turning it would help."""
    from keenquiet.cli.files import say
    from keenquiet.service.tones import gains_answer
    from keenquiet.store.audiofile import read_audio

    say(gains_answer(read_audio(low, field="low"), read_audio(high, field="high"), gain_db), as_json)


def room_tone(
    file: Path,
    out: Annotated[Path | None, typer.Option(help="Keep the best ten seconds as WAV.")] = None,
    as_json: AsJson = False,
) -> None:
    """The evenest ten seconds of twenty or more, to cut with."""
    from keenquiet.cli.files import keep, say
    from keenquiet.service.tones import room_tone_answer
    from keenquiet.store.audiofile import read_audio, wav_bytes

    audio = read_audio(file, field="file")
    found = room_tone_answer(audio)
    if out is not None:
        first, last = (round(t * audio.sample_rate_hz) for t in (found.start_s, found.end_s))
        keep(out, wav_bytes(audio.channels[:, first:last], audio.sample_rate_hz))
    say(found, as_json)


def hum(before: Path, after: Path, as_json: AsJson = False) -> None:
    """Which hums went with what was changed between two silences."""
    from keenquiet.cli.files import say
    from keenquiet.service.tones import hum_answer
    from keenquiet.store.audiofile import read_audio

    say(hum_answer(read_audio(before, field="before"), read_audio(after, field="after")), as_json)


def register(app: typer.Typer, analyse: typer.Typer) -> None:
    """Add these to the program."""
    app.command("hush")(hush)
    app.command("hours")(hours)
    analyse.command("gains")(gains)
    analyse.command("room-tone")(room_tone)
    analyse.command("hum")(hum)

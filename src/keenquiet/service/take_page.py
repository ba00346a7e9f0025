"""One page about a take, to keep with it."""

from keenquiet.advice.findings import FINDING_NAMES
from keenquiet.core.errors import InputError
from keenquiet.export.take_page import PagePart, take_page
from keenquiet.service.answers.readings import TakeResult
from keenquiet.service.beside_take import beside_take
from keenquiet.service.briefs import result_of
from keenquiet.service.data import Data
from keenquiet.service.readings import room_of_row
from keenquiet.service.takes import take_name, take_row


def take_pdf(data: Data, reading_id: str) -> tuple[bytes, str]:
    """The page, and the take's name. Raises InputError for a reading that is no take or could not be read."""
    row = take_row(data, reading_id)
    result = result_of(row)
    if not isinstance(result, TakeResult) or result.true_peak_dbtp is None:
        raise InputError("reading", "could not be read; there is nothing to print.", "See its verdict.")
    room, _ = room_of_row(data, row.room_id)
    name = take_name(data, row)
    simulated = ", simulated" if row.simulated else ""
    figures = [
        ("Loudest peak", _told(result.true_peak_dbtp, "dBFS", 1)),
        ("Average while sounding", _told(result.average_dbfs, "dBFS", 1)),
        ("Noise under the performance", _told(result.snr_db, "dB", 0)),
        ("Direct over room", _told(result.direct_over_room_db, "dB", 0)),
        ("Ends of phrases fade in", _told(result.fades_s, "s", 2)),
        ("Loudness", _told(result.loudness_lufs, "LUFS", 1)),
    ]
    figures += [(kept.name, kept.when) for kept in beside_take(data, reading_id)]
    found = [PagePart(f.start_s, f.end_s, FINDING_NAMES.get(f.kind, f.kind), f.cure) for f in result.findings]
    content = take_page(
        title=name,
        under=f"{room.name}, {row.taken_at:%d %B %Y, %H:%M}{simulated}; {row.seconds:.0f} s",
        verdict=f"{result.keep_words} {result.gain_words}",
        figures=figures,
        blocks_db=result.blocks_db or [],
        lines=result.phrases,
        found=found,
        later="" if result.later is None else result.later.words,
    )
    return content, name


def _told(value: float | None, unit: str, digits: int) -> str:
    return "cannot be told" if value is None else f"{value:.{digits}f} {unit}".replace("-", "\N{MINUS SIGN}")

"""What lies under a take against the room's silence by the same chain at the same gain."""

from keenquiet.advice.takes import underneath_words
from keenquiet.core.take.underneath import underneath
from keenquiet.service.answers.takes import UnderneathAnswer
from keenquiet.service.beside_take import nearest_silence
from keenquiet.service.data import Data
from keenquiet.service.reading_set import sound_of
from keenquiet.service.readings import row_of
from keenquiet.service.takes import levels_of, take_row
from keenquiet.service.tones import tone_of
from keenquiet.store.audiofile import Audio


def underneath_take(data: Data, reading_id: str) -> UnderneathAnswer | None:
    """The nearest silence of the same chain and gain within half a day; None where there is none."""
    take = take_row(data, reading_id)
    beside = nearest_silence(data, reading_id)
    if beside is None or not beside.same_chain:
        return None
    silence = row_of(data, beside.reading_id)
    found: UnderneathAnswer = data.worked.find(
        ("underneath", take.audio_sha256, silence.audio_sha256),
        lambda: underneath_answer(sound_of(data, take), sound_of(data, silence)),
    )
    return found.model_copy(update={"silence_id": beside.reading_id, "when": beside.when})


def underneath_answer(take: Audio, silence: Audio) -> UnderneathAnswer:
    """Contract of `analyse take --silence`. Raises InputError for a silence that cannot be read."""
    found = underneath(levels_of(take), tone_of(silence, "silence"))
    return UnderneathAnswer(
        silence_id=None,
        when="",
        more_db=None if found is None else found.more_db,
        worst_hz=None if found is None else found.worst_hz,
        worst_db=None if found is None else found.worst_db,
        new_hz=[] if found is None else list(found.new_hz),
        told=None if found is None else found.told,
        text=underneath_words(found),
    )

"""A song that is being recorded, as answers."""

from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


class SongAnswer(Answer):
    """A song that is not filed yet. frames : samples of each channel that are kept."""

    id: str
    room_id: str
    arrangement_id: str | None
    began_at: str
    frames: int
    seconds: Num


class SongHeard(Answer):
    """What the server heard in the newest block: how many frames it keeps now; peak of the block, null in digital
    silence [dBFS]; when it was cut off and when a puff came, from the beginning [s].
    """

    frames: int
    peak_dbfs: NumOrNone
    clipped_s: list[Num]
    puffs_s: list[Num]

"""Everything Keen Quiet raises on purpose.

KeenQuietError
  InputError         the caller can put it right: names the field, says why and what to do
    OutsideRoom      a microphone, panel or source lies beyond the walls
  MeasurementError   the recording cannot answer the question
"""


class KeenQuietError(Exception):
    """Root of all errors raised on purpose."""


class InputError(KeenQuietError):
    """Input that the caller can put right.

    field : dotted name of the offending input, e.g. ``shape.ceiling.height_m``
    reason : what is wrong, with the value and the limit
    cure : what to do about it
    """

    def __init__(self, field: str, reason: str, cure: str) -> None:
        super().__init__(f"{field}: {reason} {cure}")
        self.field = field
        self.reason = reason
        self.cure = cure


class OutsideRoom(InputError):
    """Something was placed beyond the walls, floor or ceiling."""


class MeasurementError(KeenQuietError):
    """The recording cannot answer the question.

    code : a word from the command-line contract. variant : which of its wordings fits. figures : what the words need;
    the words themselves are in ``advice.reasons``.
    noticed : codes of faults that were seen before it gave up; they often say why it had to.
    """

    def __init__(self, code: str, variant: str = "", **figures: float | str) -> None:
        super().__init__(" ".join([code, variant, *(f"{name}={value}" for name, value in figures.items())]).strip())
        self.code = code
        self.variant = variant
        self.figures = figures
        self.noticed: tuple[str, ...] = ()

"""What readings settle beyond the marks: a fit, places side by side, a ledger with proof. As answers."""

from typing import Any, Literal

from keenquiet.documents.schema import FitDoc
from keenquiet.service.answers.marks import Marks
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


class FitOctave(Answer):
    centre_hz: float
    measured_s: NumOrNone
    before_s: Num
    after_s: Num
    factor: Num


class FitNote(Answer):
    f_hz: Num
    measured_s: Num
    mode_hz: Num
    before_s: Num
    after_s: Num


class UnexplainedAnswer(Answer):
    what: str
    look_for: str


class FitMarks(Answer):
    before: Marks
    after: Marks


class FitAnswer(Answer):
    """Before and after, what moved, what is left unexplained, the `fit` to keep in the document, and the readings used.

    left_out : readings that were not used because the room has changed since, and how.
    """

    fit: FitDoc
    octaves: list[FitOctave]
    notes: list[FitNote]
    moved: list[str]
    unexplained: list[UnexplainedAnswer]
    marks: FitMarks
    readings: list[str] = []
    left_out: list[str] = []
    simulated: bool = False


class PlaceAnswer(Answer):
    """One place. measured : marks that a reading settles, as it stands; changed : what is no longer as it was read."""

    key: str
    name: str
    arrangement_id: str
    marks: Marks
    measured: list[str]
    changed: list[str]
    simulated: bool
    guessed: bool
    volume_m3: Num
    first_mode_hz: Num
    deficits: dict[str, Num]
    total: Num
    reasons: list[str]
    would_change: str | None


class LeftOut(Answer):
    """A place that could not be weighed, and why."""

    key: str
    name: str
    why: str


class PlacesAnswer(Answer):
    recommendation: str
    purpose: str | None = None
    places: list[PlaceAnswer]
    left_out: list[LeftOut] = []


class ProofRow(Answer):
    """One mark of a move: promised and measured, before and after. since : what else changed before it was read.

    change_... : after less before, with the uncertainty of the change itself; outcome : what the measured change says;
    shared_with : titles of other moves that were done before the same reading, all of which the change speaks of.
    """

    mark: str
    predicted_before: NumOrNone
    predicted: Num
    plus_minus: Num
    measured: NumOrNone
    measured_plus_minus: NumOrNone
    measured_before: NumOrNone
    simulated: bool | None
    reading_id: str | None
    within: bool | None
    since: str | None = None
    change_predicted: NumOrNone = None
    change_plus_minus: NumOrNone = None
    change_measured: NumOrNone = None
    outcome: Literal["proved", "partly", "not_proved", "too_small"] | None = None
    words: str = ""
    shared_with: list[str] = []


class LedgerAnswer(Answer):
    id: int
    at: str
    kind: str
    title: str
    detail: dict[str, Any]
    reading_id: str | None
    move_id: str | None
    proof: list[ProofRow] | None
    prove_with: str | None = None

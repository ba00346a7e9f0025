"""Edits as JSON, and what they do to a document's arrangement: the same list as `core.edits`, in the document's
coordinates.

A room's own furniture, doors and curtains are left as they are: what an arrangement changes of them stands in its
`opened` and `moved`, until it is carried out (`folded`).
"""

from typing import Annotated, Any, Final, Literal, cast

from pydantic import Field, TypeAdapter, ValidationError

from keenquiet.core import edits as core
from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Screen
from keenquiet.documents.convert import screen_of
from keenquiet.documents.errors import input_error
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import (
    ArrangementDoc,
    At2,
    At3,
    Document,
    FacingDoc,
    Finite,
    LaptopDoc,
    MicrophoneDoc,
    OpenedDoc,
    RoomDoc,
    ScreenDoc,
    SealDoc,
    StandsDoc,
    TreatmentDoc,
    Weekday,
)
from keenquiet.documents.surfaces import treatment_doc, treatment_overlay

Who = Annotated[str, Field(pattern=r"^(performer|microphone|second-microphone|chair|laptop|monitor-[1-9])$")]
Number = Annotated[int, Field(ge=0, le=999)]


class PlaceDoc(Document):
    """Somebody or something to a place, facing `turn_deg`; put in where it was not there yet."""

    do: Literal["place"] = "place"
    who: Who
    at: At3
    turn_deg: Finite
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        if self.who == "performer":
            moved = to.performer.model_copy(update={"at": self.at, "faces_deg": self.turn_deg})
            return to.model_copy(update={"performer": moved})
        if self.who in ("microphone", "second-microphone"):
            key = self.who.replace("-", "_")
            now = cast(MicrophoneDoc, getattr(to, key) or to.microphone)
            part = {"at": self.at, "aims_deg": self.turn_deg, "tilt_deg": self.tilt_deg}
            return to.model_copy(update={key: now.model_copy(update=part)})
        stands = FacingDoc(at=self.at, faces_deg=self.turn_deg)
        if self.who == "chair":
            return to.model_copy(update={"listener": stands})
        if self.who == "laptop":
            there = to.laptop or LaptopDoc(at=self.at)
            return to.model_copy(
                update={"laptop": there.model_copy(update={"at": self.at, "faces_deg": self.turn_deg})}
            )
        number = int(self.who.removeprefix("monitor-"))
        return to.model_copy(update={"monitors": [*to.monitors[: number - 1], stands, *to.monitors[number:]]})

    def core(self, frame: Frame) -> core.Edit:
        return core.Place(self.who, frame.local(self.at), self.turn_deg, self.tilt_deg)


class TakeOutDoc(Document):
    """The second microphone, the chair, the laptop or the last monitor away."""

    do: Literal["take-out"] = "take-out"
    who: Who

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        if self.who == "second-microphone":
            return to.model_copy(update={"second_microphone": None})
        if self.who == "chair":
            return to.model_copy(update={"listener": None})
        if self.who == "laptop":
            return to.model_copy(update={"laptop": None})
        return to.model_copy(update={"monitors": to.monitors[:-1]})

    def core(self, frame: Frame) -> core.Edit:
        return core.TakeOut(self.who)


class HangDoc(Document):
    """Something hung or laid; `number` says where in the list, null last."""

    do: Literal["hang"] = "hang"
    treatment: TreatmentDoc
    number: Number | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        at = len(to.treatments) if self.number is None else self.number
        return to.model_copy(update={"treatments": [*to.treatments[:at], self.treatment, *to.treatments[at:]]})

    def core(self, frame: Frame) -> core.Edit:
        return core.Hang(treatment_overlay(frame, self.treatment, field="treatment"), self.number)


class TakeDownDoc(Document):
    """A treatment away, by its number in the list."""

    do: Literal["take-down"] = "take-down"
    number: Number

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        hung = to.treatments
        return to.model_copy(update={"treatments": [*hung[: self.number], *hung[self.number + 1 :]]})

    def core(self, frame: Frame) -> core.Edit:
        return core.TakeDown(self.number)


class SetStateDoc(OpenedDoc):
    """A wardrobe, door, window or curtain opened, shut, drawn."""

    do: Literal["set-state"] = "set-state"

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        others = [opened for opened in to.opened if opened.what != self.what]
        if own_state(room, self.what) != self.state:
            others.append(OpenedDoc(what=self.what, state=self.state))
        return to.model_copy(update={"opened": others})

    def core(self, frame: Frame) -> core.Edit:
        return core.SetState(self.what, self.state)


class MoveFurnitureDoc(Document):
    """A piece of furniture moved and turned."""

    do: Literal["move-furniture"] = "move-furniture"
    number: Number
    at: At2
    turn_deg: Finite = 0.0

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        others = [moved for moved in to.moved if moved.number != self.number]
        own = room.furnishings[self.number]
        if (own.at, own.turn_deg) != (self.at, self.turn_deg):
            others.append(StandsDoc(number=self.number, at=self.at, turn_deg=self.turn_deg))
        return to.model_copy(update={"moved": others})

    def core(self, frame: Frame) -> core.Edit:
        return core.MoveFurniture(
            self.number, (self.at[0] - frame.offset[0], self.at[1] - frame.offset[1]), self.turn_deg
        )


class PutScreenDoc(Document):
    """A screen set up; `number` says where in the list, null last."""

    do: Literal["put-screen"] = "put-screen"
    screen: ScreenDoc
    number: Number | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        at = len(to.screens) if self.number is None else self.number
        return to.model_copy(update={"screens": [*to.screens[:at], self.screen, *to.screens[at:]]})

    def core(self, frame: Frame) -> core.Edit:
        return core.PutScreen(screen_of(frame, self.screen, field="screen"), self.number)


class TakeScreenDoc(Document):
    """A screen away, by its number in the list."""

    do: Literal["take-screen"] = "take-screen"
    number: Number

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        return to.model_copy(update={"screens": [*to.screens[: self.number], *to.screens[self.number + 1 :]]})

    def core(self, frame: Frame) -> core.Edit:
        return core.TakeScreen(self.number)


class SetHourDoc(Document):
    """Another recording time, null any."""

    do: Literal["set-hour"] = "set-hour"
    hour: Annotated[float, Field(ge=0, le=24)] | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        return to.model_copy(update={"hour": self.hour})

    def core(self, frame: Frame) -> core.Edit:
        return core.SetHour(self.hour)


class SetWeekdayDoc(Document):
    """Another day to record on, Monday 0, null any."""

    do: Literal["set-weekday"] = "set-weekday"
    weekday: Weekday | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        return to.model_copy(update={"weekday": self.weekday})

    def core(self, frame: Frame) -> core.Edit:
        return core.SetWeekday(self.weekday)


class SealWayDoc(Document):
    """A way in closed with something, or opened again (means null)."""

    do: Literal["seal-way"] = "seal-way"
    way: Annotated[str, Field(max_length=40)]
    means: Annotated[str, Field(max_length=24)] | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        rest = [seal for seal in to.sealed if seal.way != self.way]
        more = [] if self.means is None else [SealDoc(way=self.way, means=self.means)]
        return to.model_copy(update={"sealed": [*rest, *more]})

    def core(self, frame: Frame) -> core.Edit:
        return core.SealWay(self.way, self.means)


class SwitchDoc(Document):
    """A noise switched off, or on again; `number` says where among what is off, null last."""

    do: Literal["switch"] = "switch"
    noise: Annotated[str, Field(max_length=80)]
    on_again: bool = False
    number: Number | None = None

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        rest = [name for name in to.silenced if name != self.noise]
        if not self.on_again:
            rest.insert(len(rest) if self.number is None else self.number, self.noise)
        return to.model_copy(update={"silenced": rest})

    def core(self, frame: Frame) -> core.Edit:
        return core.Switch(self.noise, self.on_again, self.number)


class SetGainDoc(Document):
    """The recorder's gain against the usual. [dB]"""

    do: Literal["set-gain"] = "set-gain"
    gain_db: Annotated[float, Field(ge=-60, le=60)]

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        return to.model_copy(update={"gain_db": self.gain_db})

    def core(self, frame: Frame) -> core.Edit:
        return core.SetGain(self.gain_db)


class ChoosePatternDoc(Document):
    """Another pattern of a microphone."""

    do: Literal["choose-pattern"] = "choose-pattern"
    pattern: Annotated[str, Field(max_length=40)]
    who: Literal["microphone", "second-microphone"] = "microphone"

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        key = self.who.replace("-", "_")
        now = cast(MicrophoneDoc | None, getattr(to, key))
        if now is None:
            raise InputError("who", f"there is no {self.who}.", "Place it first.")
        return to.model_copy(update={key: now.model_copy(update={"pattern": self.pattern})})

    def core(self, frame: Frame) -> core.Edit:
        return core.ChoosePattern(self.pattern, self.who)


class ChooseSourceDoc(Document):
    """Somebody or something else performs."""

    do: Literal["choose-source"] = "choose-source"
    source: Annotated[str, Field(max_length=40)]

    def on(self, to: ArrangementDoc, room: RoomDoc) -> ArrangementDoc:
        return to.model_copy(
            update={"performer": to.performer.model_copy(update={"source": self.source, "lowest_hz": None})}
        )

    def core(self, frame: Frame) -> core.Edit:
        return core.ChooseSource(self.source)


EditDoc = Annotated[
    PlaceDoc
    | TakeOutDoc
    | HangDoc
    | TakeDownDoc
    | SetStateDoc
    | MoveFurnitureDoc
    | PutScreenDoc
    | TakeScreenDoc
    | SetHourDoc
    | SetWeekdayDoc
    | SealWayDoc
    | SwitchDoc
    | SetGainDoc
    | ChoosePatternDoc
    | ChooseSourceDoc,
    Field(discriminator="do"),
]


_EDITS: Final = TypeAdapter(list[EditDoc])


def edits_of(edits: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Edits as they were sent, checked, without what is not set. Raises InputError when one is none."""
    try:
        return [edit.model_dump(mode="json", exclude_none=True) for edit in _EDITS.validate_python(edits)]
    except ValidationError as exc:
        raise input_error(exc) from exc


def edit_doc(edit: core.Edit, frame: Frame) -> EditDoc:
    """An edit of the core as JSON. Raises TypeError for one that has no form."""
    match edit:
        case core.Place(who, at, turn_deg, tilt_deg):
            return PlaceDoc(who=who, at=frame.document(at), turn_deg=round(turn_deg, 1), tilt_deg=tilt_deg)
        case core.TakeOut(who):
            return TakeOutDoc(who=who)
        case core.Hang(overlay, number):
            return HangDoc(treatment=treatment_doc(frame, overlay), number=number)
        case core.TakeDown(number):
            return TakeDownDoc(number=number)
        case core.SetState(what, state):
            return SetStateDoc.model_validate({"what": what, "state": state})
        case core.MoveFurniture(number, at, turn_deg):
            x, y, _ = frame.document((*at, 0.0))
            return MoveFurnitureDoc(number=number, at=(x, y), turn_deg=turn_deg)
        case core.PutScreen(screen, number):
            return PutScreenDoc(screen=_screen_doc(screen, frame), number=number)
        case core.TakeScreen(number):
            return TakeScreenDoc(number=number)
        case core.SetHour(hour):
            return SetHourDoc(hour=hour)
        case core.SetWeekday(weekday):
            return SetWeekdayDoc(weekday=weekday)
        case core.SealWay(way, means):
            return SealWayDoc(way=way, means=means)
        case core.Switch(noise, on, number):
            return SwitchDoc(noise=noise, on_again=on, number=number)
        case core.SetGain(gain_db):
            return SetGainDoc(gain_db=gain_db)
        case core.ChoosePattern(pattern, who):
            return ChoosePatternDoc.model_validate({"pattern": pattern, "who": who})
        case core.ChooseSource(source):
            return ChooseSourceDoc(source=source)
    raise TypeError(f"{edit!r} has no form as JSON")


def _screen_doc(screen: Screen, frame: Frame) -> ScreenDoc:
    return ScreenDoc(
        kind=screen.kind,
        at=frame.document(screen.at),
        faces_deg=screen.faces_deg,
        width_m=screen.width_m,
        height_m=screen.height_m,
    )


def edited(room: RoomDoc, arrangement: ArrangementDoc, edits: list[EditDoc]) -> ArrangementDoc:
    """An arrangement after edits. Raises InputError when one changes what is not there."""
    for edit in edits:
        arrangement = edit.on(arrangement, room)
    return arrangement


def own_state(room: RoomDoc, what: str) -> str:
    """The state that a room has something in, whatever an arrangement makes of it. Raises InputError for nothing."""
    kind, _, number = what.partition(".")
    try:
        if kind == "furnishings":
            return "open" if room.furnishings[int(number)].open else "shut"
        if kind == "openings":
            return room.openings[int(number)].state
        return "drawn" if room.covers[int(number)].drawn else "undrawn"
    except (IndexError, ValueError) as exc:
        raise InputError("what", f"{what!r} is nothing of this room.", "Look at what is there.") from exc


def folded(room: RoomDoc, arrangement: ArrangementDoc) -> tuple[RoomDoc, ArrangementDoc]:
    """The room with what an arrangement opened and moved made its own, and the arrangement without that: it was
    done.
    """
    room = room.model_copy(deep=True)
    for opened in arrangement.opened:
        kind, _, number = opened.what.partition(".")
        if kind == "furnishings":
            room.furnishings[int(number)].open = opened.state == "open"
        elif kind == "openings":
            room.openings[int(number)].state = cast(Literal["shut", "ajar", "open"], opened.state)
        else:
            room.covers[int(number)].drawn = opened.state == "drawn"
    for moved in arrangement.moved:
        room.furnishings[moved.number].at = moved.at
        room.furnishings[moved.number].turn_deg = moved.turn_deg
    return room, arrangement.model_copy(update={"opened": [], "moved": []})

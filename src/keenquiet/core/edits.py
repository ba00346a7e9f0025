"""Edits: the single steps that moves are made of. Each changes a scenario; undo is by snapshots.

An edit is plain data; what it costs, how long it takes and what to beware of belong to the move that it is part of
(`core.judge.candidate`), its words to `advice`.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Protocol

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Facing, Laptop, Microphone, Overlay, Performer, Point, Screen
from keenquiet.core.room.ways import Seal, closed
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.sources import source_named


class Edit(Protocol):
    """One step. `apply` raises InputError when there is nothing to change."""

    def apply(self, to: Scenario) -> Scenario: ...


def applied(edits: Iterable[Edit], to: Scenario) -> Scenario:
    """The scenario after all edits, in turn."""
    for edit in edits:
        to = edit.apply(to)
    return to


@dataclass(frozen=True)
class Place:
    """Performer, microphone, second-microphone, chair, laptop or monitor-N to a place, facing `turn_deg` on the plan.

    What is not there yet is put in. tilt_deg : of microphones, upwards.
    """

    who: str
    at: Point
    turn_deg: float
    tilt_deg: float = 0.0

    def apply(self, to: Scenario) -> Scenario:
        now = to.arrangement
        if self.who == "performer":
            return _with(to, performer=Performer(self.at, self.turn_deg, now.performer.source))
        if self.who == "microphone":
            return _with(to, microphone=Microphone(self.at, self.turn_deg, self.tilt_deg, now.microphone.pattern))
        if self.who == "second-microphone":
            pattern = (now.second_microphone or now.microphone).pattern
            return _with(to, second_microphone=Microphone(self.at, self.turn_deg, self.tilt_deg, pattern))
        if self.who == "chair":
            return _with(to, chair=Facing(self.at, self.turn_deg))
        if self.who == "laptop":
            there = now.laptop or Laptop(self.at, self.turn_deg)
            return _with(to, laptop=replace(there, at=self.at, faces_deg=self.turn_deg))
        number = _monitor_number(self.who)
        if number > len(now.monitors) + 1:
            raise InputError("who", f"there is no monitor {number - 1} yet.", "Place them in turn.")
        moved = Facing(self.at, self.turn_deg)
        return _with(to, monitors=(*now.monitors[: number - 1], moved, *now.monitors[number:]))


@dataclass(frozen=True)
class TakeOut:
    """The second microphone, the chair, the laptop or the last monitor away."""

    who: str

    def apply(self, to: Scenario) -> Scenario:
        if _standing(to, self.who) is None:
            raise InputError("who", f"there is no {self.who} to take out.", "Look at what stands there.")
        if self.who == "second-microphone":
            return _with(to, second_microphone=None)
        if self.who == "chair":
            return _with(to, chair=None)
        if self.who == "laptop":
            return _with(to, laptop=None)
        if self.who in ("performer", "microphone") or _monitor_number(self.who) != len(to.arrangement.monitors):
            raise InputError("who", f"the {self.who} cannot be taken out.", "Take out the last monitor first.")
        return _with(to, monitors=to.arrangement.monitors[:-1])


@dataclass(frozen=True)
class Hang:
    """A treatment hung or laid; `number` says where in the list, None last."""

    overlay: Overlay
    number: int | None = None

    def apply(self, to: Scenario) -> Scenario:
        hung = to.arrangement.treatments
        at = len(hung) if self.number is None else self.number
        return _with(to, treatments=(*hung[:at], self.overlay, *hung[at:]))


@dataclass(frozen=True)
class TakeDown:
    """A treatment away, by its number in the list."""

    number: int

    def apply(self, to: Scenario) -> Scenario:
        hung = to.arrangement.treatments
        if not 0 <= self.number < len(hung):
            raise InputError("number", f"nothing with number {self.number} hangs here.", "Look at what hangs here.")
        return _with(to, treatments=(*hung[: self.number], *hung[self.number + 1 :]))


@dataclass(frozen=True)
class SetState:
    """A wardrobe, door, window or curtain opened or shut. what : `furnishings.0`, `openings.1`, `covers.0`.

    state : `open` or `shut` for furniture; `shut`, `ajar`, `open` for openings; `drawn`, `undrawn` for cloth.
    """

    what: str
    state: str

    def apply(self, to: Scenario) -> Scenario:
        kind, number = _numbered(self.what)
        room = to.room
        if kind == "furnishings":
            if number >= len(room.furnishings) or self.state not in ("open", "shut"):
                raise InputError("what", f"{self.what} cannot be made {self.state}.", "Furniture is open or shut.")
            pieces = list(room.furnishings)
            pieces[number] = replace(pieces[number], is_open=self.state == "open")
            return replace(to, room=replace(room, furnishings=tuple(pieces)))
        try:
            return replace(to, room=room.with_state(self.what, self.state))
        except (KeyError, StopIteration) as exc:
            raise InputError("what", f"{self.what} cannot be made {self.state}.", "Look at what is there.") from exc


@dataclass(frozen=True)
class MoveFurniture:
    """A piece of furniture moved and turned."""

    number: int
    at: tuple[float, float]
    turn_deg: float

    def apply(self, to: Scenario) -> Scenario:
        pieces = list(to.room.furnishings)
        if not 0 <= self.number < len(pieces):
            raise InputError("number", f"there is no piece of furniture {self.number}.", "Look at what stands here.")
        pieces[self.number] = replace(pieces[self.number], at=self.at, turn_deg=self.turn_deg)
        return replace(to, room=replace(to.room, furnishings=tuple(pieces)))


@dataclass(frozen=True)
class PutScreen:
    """A screen set up; `number` says where in the list, None last."""

    screen: Screen
    number: int | None = None

    def apply(self, to: Scenario) -> Scenario:
        there = to.arrangement.screens
        at = len(there) if self.number is None else self.number
        return _with(to, screens=(*there[:at], self.screen, *there[at:]))


@dataclass(frozen=True)
class TakeScreen:
    """A screen away, by its number in the list."""

    number: int

    def apply(self, to: Scenario) -> Scenario:
        there = to.arrangement.screens
        if not 0 <= self.number < len(there):
            raise InputError("number", f"there is no screen {self.number}.", "Look at what stands here.")
        return _with(to, screens=(*there[: self.number], *there[self.number + 1 :]))


@dataclass(frozen=True)
class SetHour:
    """Another recording time, None any. [h]"""

    hour: float | None

    def apply(self, to: Scenario) -> Scenario:
        return replace(to, hour=self.hour)


@dataclass(frozen=True)
class SetWeekday:
    """Another day to record on, Monday 0, None any."""

    weekday: int | None

    def apply(self, to: Scenario) -> Scenario:
        return replace(to, weekday=self.weekday)


@dataclass(frozen=True)
class SealWay:
    """A way in closed with something; means None: opened again."""

    way: str
    means: str | None

    def apply(self, to: Scenario) -> Scenario:
        rest = tuple(seal for seal in to.sealed if seal.way != self.way)
        sealed = rest if self.means is None else (*rest, Seal(self.way, self.means))
        closed(to.room.ways, sealed)
        return replace(to, sealed=sealed)


@dataclass(frozen=True)
class Switch:
    """A noise switched off, or on again, by its name. `number` : where among what is off, None last."""

    noise: str
    on: bool = False
    number: int | None = None

    def apply(self, to: Scenario) -> Scenario:
        rest = tuple(name for name in to.silenced if name != self.noise)
        if self.on:
            return replace(to, silenced=rest)
        if self.noise not in {noise.name for noise in to.room.noises}:
            raise InputError("noise", f"{self.noise!r} is no noise of this room.", "Name one that is noted.")
        at = len(rest) if self.number is None else self.number
        return replace(to, silenced=(*rest[:at], self.noise, *rest[at:]))


@dataclass(frozen=True)
class SetGain:
    """The recorder's gain against the usual. [dB]"""

    gain_db: float

    def apply(self, to: Scenario) -> Scenario:
        return replace(to, gain_db=self.gain_db)


@dataclass(frozen=True)
class ChoosePattern:
    """Another pattern of a microphone."""

    pattern: str
    who: str = "microphone"

    def apply(self, to: Scenario) -> Scenario:
        mic = _standing(to, self.who)
        if not isinstance(mic, Microphone):
            raise InputError("who", f"there is no {self.who}.", "Place it first.")
        changed = replace(mic, pattern=self.pattern)
        _ = changed.a  # an unknown pattern is refused here
        if self.who == "microphone":
            return _with(to, microphone=changed)
        return _with(to, second_microphone=changed)


@dataclass(frozen=True)
class ChooseSource:
    """Somebody or something else performs."""

    source: str

    def apply(self, to: Scenario) -> Scenario:
        return _with(to, performer=replace(to.arrangement.performer, source=source_named(self.source)))


_Standing = Performer | Microphone | Facing | Laptop


def _with(to: Scenario, **parts: object) -> Scenario:
    return replace(to, arrangement=replace(to.arrangement, **parts))  # type: ignore[arg-type]


def _standing(scenario: Scenario, who: str) -> _Standing | None:
    now = scenario.arrangement
    named: dict[str, _Standing | None] = {
        "performer": now.performer,
        "microphone": now.microphone,
        "second-microphone": now.second_microphone,
        "chair": now.chair,
        "laptop": now.laptop,
    }
    if who in named:
        return named[who]
    number = _monitor_number(who)
    return now.monitors[number - 1] if number <= len(now.monitors) else None


def _monitor_number(who: str) -> int:
    kind, _, number = who.rpartition("-")
    if kind != "monitor" or not number.isdigit() or int(number) < 1:
        raise InputError("who", f"{who!r} is nobody here.", "Name performer, microphone, chair or monitor-1.")
    return int(number)


def _numbered(what: str) -> tuple[str, int]:
    kind, _, number = what.partition(".")
    if kind not in ("furnishings", "openings", "covers") or not number.isdigit():
        raise InputError("what", f"{what!r} is nothing that opens.", "Name furnishings.0, openings.0 or covers.0.")
    return kind, int(number)

"""The marks as last measured, each with whether its reading still speaks of the room as it stands.

One place decides which reading settles a mark: real ones before simulated ones, the newest of those first. Whoever
shows a mark asks here: the steps, the places, the ledger, the fit.
"""

import json
import logging
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property, lru_cache
from typing import Any, Final, cast

import numpy as np
from pydantic import ValidationError
from sqlalchemy import Text, func, select, type_coerce

from keenquiet.advice.differences import difference_words, listed
from keenquiet.advice.marks import TOUCH_LACK, Lack, hush_lack
from keenquiet.core.judge.forecast import SOURCE_LEVEL_SPREAD_DB, Forecast
from keenquiet.core.things.sources import source_named
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.scene import MATTERS, Difference, Scene, differences, scene_of
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.marks import MARKS, FigureAnswer, MeasuredFigure, MeasuredMark, MeasuredMarks
from keenquiet.service.briefs import DAMAGED, with_briefs
from keenquiet.service.data import Data, Json
from keenquiet.service.kinds import of_form
from keenquiet.store.models import LedgerEntry, Reading

_log = logging.getLogger("keenquiet")
_PEAK_SPREAD_DB: Final = 2.0  # how alike somebody sings twice
_LOOKED: Final = 200  # readings of a kind, newest first, among which one that still holds is looked for
_LOOKED_PAIRS: Final = 20
_CALIBRATED_PM_DB: Final = 3.0  # of a level whose uncertainty nobody wrote down
_CHAIN: Final = ("device", "channel", "gain", "gain_db")


@dataclass(frozen=True)
class Placed:
    """Where everybody stood for a reading, and what else mattered then, None where that was not kept."""

    arrangement: ArrangementDoc
    scene: Scene | None

    @staticmethod
    def of(arrangement: Json, scene: Json | None) -> "Placed":
        """From what was kept. Readings of one evening share it: read once."""
        return _placed(json.dumps(arrangement), None if scene is None else json.dumps(scene))


@lru_cache(maxsize=256)
def _placed(arrangement: str, scene: str | None) -> Placed:
    return Placed(
        read_arrangement(json.loads(arrangement)), None if scene is None else Scene.model_validate(json.loads(scene))
    )


@dataclass(frozen=True)
class Kept:
    """What a reading says of marks, without its plots. pops_db : jumps of its pops. place : reads where everybody
    stood.
    """

    id: str
    kind: str
    way: str
    simulated: bool
    taken_at: datetime
    sequence: int
    counts: bool
    usable: bool
    measured: Json
    settings: Json
    t_mid_s: float | None
    laeq_db: float | None
    active_dba: float | None
    pops_db: tuple[float, ...]
    place: Callable[[str], Placed]

    @cached_property
    def placed(self) -> Placed:
        """Where everybody stood, read when it is asked for. Raises as a damaged row does."""
        return self.place(self.id)

    @cached_property
    def is_whole(self) -> bool:
        """Whether that can be read; one that cannot settles nothing, and breaks nothing for the others."""
        try:
            return self.placed is not None
        except (*DAMAGED, ValidationError) as exc:
            _log.warning("reading %s settles nothing: it is damaged (%r)", self.id, exc)
            return False

    @property
    def arrangement(self) -> ArrangementDoc:
        """Where everybody stood."""
        return self.placed.arrangement

    @property
    def scene(self) -> Scene | None:
        """What else mattered, None where it was not kept."""
        return self.placed.scene


def kept_readings(data: Data, room_id: str) -> tuple[Kept, ...]:
    """Readings of a room, newest first. Asked for at every step of a drag: read anew only when the ledger has grown."""
    with data.database.session() as session:
        version = session.scalar(select(func.max(LedgerEntry.id)).where(LedgerEntry.room_id == room_id))
    return cast(tuple[Kept, ...], data.kept.find((room_id, version), lambda: _read(data, room_id)))


def usable_readings(data: Data, room_id: str) -> tuple[Kept, ...]:
    """Those that count and could be read, newest first."""
    return tuple(row for row in kept_readings(data, room_id) if row.counts and row.usable)


def _read(data: Data, room_id: str) -> tuple[Kept, ...]:
    brief = Reading.brief

    def place(row_id: str) -> Placed:
        with data.database.session() as session:
            chosen = select(Reading.arrangement, Reading.scene).where(Reading.id == row_id)
            return Placed.of(*session.execute(chosen).one())

    with data.database.session() as session:
        with_briefs(session, room_id)
        rows = session.execute(
            select(
                Reading.id,
                Reading.kind,
                Reading.way,
                Reading.simulated,
                Reading.taken_at,
                Reading.sequence,
                Reading.counts,
                brief["verdict"]["usable"].as_boolean().label("usable"),
                type_coerce(Reading.measured, Text).label("measured"),
                type_coerce(Reading.settings, Text).label("settings"),
                *(brief[name].as_float().label(name) for name in ("t_mid_s", "laeq_db", "active_dba")),
                brief["pops_db"].label("pops_db"),
            )
            .where(Reading.room_id == room_id, Reading.deleted_at.is_(None), brief.is_not(None))
            .order_by(Reading.sequence.desc())
        ).all()
    kept = []
    for row in rows:
        told = row._asdict()
        try:
            told |= {name: json.loads(told[name]) for name in ("measured", "settings")}
        except ValueError as exc:
            _log.warning("reading %s settles nothing: it is damaged (%r)", row.id, exc)
            continue
        kept.append(Kept(**told | {"pops_db": tuple(row.pops_db or ())}, place=place))
    return tuple(kept)


@dataclass(frozen=True)
class Standing:
    """Usable readings of one room that count, newest first, and the scene that they are held against."""

    rows: tuple[Kept, ...]
    now: Scene

    @staticmethod
    def of(data: Data, room_id: str, room: RoomDoc, arrangement: ArrangementDoc) -> "Standing":
        """What readings say of an arrangement of a room."""
        return Standing(usable_readings(data, room_id), scene_of(room, arrangement))

    @cached_property
    def marks(self) -> MeasuredMarks:
        """The marks as last measured."""
        found: dict[str, MeasuredMark] = {}
        for mark in MARKS:
            row = self._chosen([row for row in self.rows if mark in row.measured], mark)
            if row is not None:
                found[mark] = self._mark(row, mark, figure_of(row.measured[mark]))
        self._hush_from_silence(found)
        self._pops_into_touch(found)
        return MeasuredMarks(**found)

    def differing(self, row: Kept | Placed) -> tuple[Difference, ...]:
        """What of the room and the arrangement has changed since a reading."""
        placed = row.placed if isinstance(row, Kept) else row
        if id(placed) not in self._differing:
            self._differing[id(placed)] = (placed, differences(self.then(placed), self.now))
        return self._differing[id(placed)][1]

    @cached_property
    def _differing(self) -> dict[int, tuple[Placed, tuple[Difference, ...]]]:
        return {}

    def then(self, row: Kept | Placed) -> Scene:
        """The scene in which a reading was taken; where the room was not kept, it is taken to be as it is."""
        if row.scene is not None:
            return row.scene
        return self.now.model_copy(update={"arrangement": row.arrangement})

    def since(self, row: Kept, mark: str) -> tuple[Difference, ...]:
        """What of it matters for a mark."""
        return tuple(found for found in self.differing(row) if found.part in MATTERS[mark])

    def _chosen(self, settling: list[Kept], mark: str) -> Kept | None:
        """Real readings before simulated ones; among those the newest that still holds, else the newest."""
        real = [row for row in settling if not row.simulated] or settling
        newest = None
        for row in real[:_LOOKED]:
            if row.is_whole and not self.since(row, mark):
                return row
            newest = newest or (row if row.is_whole else None)
        return newest

    def _mark(self, row: Kept, mark: str, figure: MeasuredFigure) -> MeasuredMark:
        changed = self.since(row, mark)
        return MeasuredMark(
            **figure.model_dump(),
            reading_id=row.id,
            taken_at=row.taken_at.isoformat(),
            simulated=row.simulated,
            current=not changed,
            since=since_words(changed),
        )

    def _hush_from_silence(self, found: dict[str, MeasuredMark]) -> None:
        """A recorded silence and a take give Hush better than a take's pauses, when nothing changed between them.

        Both must come through the same chain at the same gain, with everybody in the same place. Imported files never
        count: nothing is known of their gain. Real pairs come before simulated ones, and those never over a real
        figure.
        """
        takes = [row for row in self.rows if row.kind == "take"][:_LOOKED]
        for tone in self.silences[:_LOOKED_PAIRS]:
            if tone.simulated and "hush" in found and not found["hush"].simulated:
                return
            if not tone.is_whole:
                continue
            for take in (row for row in takes if self._same_chain(row, tone)):
                if tone.laeq_db is None or take.active_dba is None:
                    continue
                noise = tone.laeq_db - (tone.settings.get("calibration_db") or 0.0)
                value = round(take.active_dba - noise, 2)
                figure = MeasuredFigure(value=value, plus_minus=1.5, by="a silence and a take")
                pair = self._mark(tone, "hush", figure).model_copy(update={"beside_id": take.id})
                if not pair.current and "hush" in found and found["hush"].current:
                    return  # a pair from before a change never hides what still holds
                found["hush"] = pair
                return
        self._hush_from_level(found)

    def _hush_from_level(self, found: dict[str, MeasuredMark]) -> None:
        """A silence whose level is known gives Hush by how loud such performers usually are: less surely than a take,
        and only where nothing else does. The rig's level is known by itself, and proves nothing.
        """
        if "hush" in found:
            return
        for tone in (row for row in self.rows if row.kind in of_form("tone")):
            full_scale = tone.settings.get("calibration_db")
            if tone.laeq_db is None or full_scale is None or tone.simulated or not tone.is_whole:
                continue
            then = self.then(tone).arrangement
            away = float(np.linalg.norm(np.subtract(then.performer.at, then.microphone.at)))
            level = source_named(then.performer.source).level_dba - 20 * float(np.log10(away))
            spread = np.hypot(SOURCE_LEVEL_SPREAD_DB, tone.settings.get("calibration_plus_minus_db", _CALIBRATED_PM_DB))
            figure = MeasuredFigure(
                value=round(level - tone.laeq_db, 2), plus_minus=round(float(spread), 2), by="a silence of known level"
            )
            found["hush"] = self._mark(tone, "hush", figure)
            return

    @cached_property
    def silences(self) -> list[Kept]:
        """Silences through a chain that stands here, real ones first. Nothing is known of an imported file's gain."""
        rows = [row for row in self.rows if row.kind in of_form("tone") and row.way != "import"]
        return sorted(rows, key=lambda row: row.simulated)

    def lacks(self, mark: str) -> Lack | None:
        """The reading that a mark waits for, None where it is measured."""
        if mark in self.marks.by_mark():
            return None
        if mark == "hush":
            return hush_lack(
                has_silence=bool(self.silences),
                has_file=any(row.kind in of_form("tone") for row in self.rows),
                has_take=any(row.kind == "take" for row in self.rows),
            )
        return TOUCH_LACK if mark == "touch" else None

    def _pops_into_touch(self, found: dict[str, MeasuredMark]) -> None:
        """The newest reading of pop words adds its pops to Touch, real before simulated, never a simulated one to a
        real figure.
        """
        said = [row for row in self.rows if row.kind == "pops"]
        chosen = next((row for row in said if not row.simulated), said[0] if said else None)
        if chosen is None or "touch" not in found or (chosen.simulated and not found["touch"].simulated):
            return
        pops = {"pops": len(chosen.pops_db), "pop_db": max(chosen.pops_db, default=None)}
        found["touch"] = found["touch"].model_copy(update=pops)

    def _same_chain(self, one: Kept, other: Kept) -> bool:
        """Whether two readings came the same way through the same chain, taken in the same scene as far as it is
        heard.
        """
        if one.way != other.way or any(one.settings.get(key) != other.settings.get(key) for key in _CHAIN):
            return False
        if not other.is_whole or not one.is_whole:
            return False
        changed = {found.part for found in differences(self.then(one), self.then(other))}
        return not changed & MATTERS["bounce"] and "silenced" not in changed

    def peak(self, result: Forecast) -> FigureAnswer | None:
        """The loudest peak that the last take lets expect with an arrangement: by the distance and the gain.

        None without a take of this performer and pattern.
        """
        takes = [row for row in self.rows if "touch" in row.measured]
        whole = (row for row in [row for row in takes if not row.simulated] or takes if row.is_whole)
        row = next(whole, None)
        if row is None or {"source", "pattern"} & {found.part for found in self.differing(row)}:
            return None
        then = self.then(row).arrangement
        distance = float(np.linalg.norm(np.subtract(then.performer.at, then.microphone.at)))
        nearer_db = 20 * float(np.log10(distance / result.touch.distance_m))
        gained_db = self.now.arrangement.gain_db - then.gain_db
        return FigureAnswer(value=row.measured["touch"]["value"] + nearer_db + gained_db, plus_minus=_PEAK_SPREAD_DB)


def since_words(changed: tuple[Difference, ...]) -> str | None:
    """What has changed since a reading, as a phrase."""
    return listed([difference_words(found.part, found.what) for found in changed]) if changed else None


def figure_of(kept: dict[str, Any]) -> MeasuredFigure:
    """A figure as it was kept; older ones hold the loudspeaker's value and what leads over to the performer."""
    lead = kept.get("performer_correction_db")
    if lead is not None and "raw_value" not in kept:
        kept = {**kept, "value": round(kept["value"] + lead, 4), "raw_value": kept["value"]}
    if "from" in kept:
        kept = {**kept, "by": kept["from"]}
    return MeasuredFigure.model_validate(kept)


def measured_now(data: Data, room_id: str, room: RoomDoc, arrangement: ArrangementDoc) -> MeasuredMarks:
    """The marks as last measured, held against an arrangement."""
    return Standing.of(data, room_id, room, arrangement).marks

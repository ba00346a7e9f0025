"""One arrangement of one document, with all that an answer about it rests on, worked out once for a request."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from keenquiet.advice.costs import PriceList
from keenquiet.core.edits import Edit
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import Acoustics, Forecast, forecast
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.scenario import Scenario
from keenquiet.documents.edits import EditDoc, edit_doc
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.marks import wanted_of
from keenquiet.service.data import Data
from keenquiet.service.predict import acoustics_of, limits_of, prices_of
from keenquiet.service.rooms import rooms_beside
from keenquiet.service.standing import Kept, usable_readings


@dataclass(frozen=True)
class Case:
    """room : its noises as they are to count. data, room_id : where its readings are kept, None of a bare document.
    others : places that are at hand besides, of a bare document. report : takes progress from 0 to 1, and stops the
    work by raising.
    """

    room: RoomDoc
    arrangement_id: str | None = None
    data: Data | None = None
    room_id: str | None = None
    others: Sequence[RoomDoc] = ()
    report: Callable[[float], None] | None = None

    @cached_property
    def doc(self) -> ArrangementDoc:
        """The arrangement as described. Raises InputError where there is none of that id."""
        return self.room.arrangement_doc(self.arrangement_id)

    @cached_property
    def frame(self) -> Frame:
        """How the document's coordinates lie in the room."""
        return Frame.of(self.room)

    @cached_property
    def _weighed(self) -> tuple[Scenario, Acoustics]:
        return acoustics_of(self.room, self.doc)

    @property
    def scenario(self) -> Scenario:
        """The arrangement with what is open, off and closed, and its hour."""
        return self._weighed[0]

    @property
    def acoustics(self) -> Acoustics:
        """What is computed of the room's surfaces."""
        return self._weighed[1]

    @property
    def space(self) -> Room:
        """The room with all that stands in it."""
        return self.acoustics.room

    @property
    def stand(self) -> Arrangement:
        """Who and what stands where."""
        return self.scenario.arrangement

    @cached_property
    def now(self) -> Forecast:
        """The forecast of it as it stands, without draws."""
        return forecast(self.acoustics, self.stand, hour=self.scenario.hour, uncertainty=False)

    @cached_property
    def wanted(self) -> Wanted:
        """What the brief wants."""
        return wanted_of(self.room)

    @cached_property
    def limits(self) -> Limits:
        """What the brief allows."""
        return limits_of(self.room)

    @cached_property
    def prices(self) -> PriceList:
        """What things cost here."""
        return prices_of(self.room)

    @cached_property
    def rows(self) -> tuple[Kept, ...]:
        """Usable readings of the kept room."""
        return () if self.data is None or self.room_id is None else usable_readings(self.data, self.room_id)

    @cached_property
    def beside(self) -> Sequence[RoomDoc]:
        """Other places of the same project."""
        if self.data is None or self.room_id is None:
            return self.others
        return rooms_beside(self.data, self.room_id, project=self.room.project)

    def steps(self, edits: Iterable[Edit]) -> list[EditDoc]:
        """Edits as a document has them."""
        return [edit_doc(edit, self.frame) for edit in edits]

    def flags(self, **said: Any) -> list[str]:
        """Those that hold, and `noise_unknown` where nobody noted a noise."""
        return [*([] if self.space.noises else ["noise_unknown"]), *(name for name, holds in said.items() if holds)]

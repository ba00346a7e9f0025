"""The table of questions: whatever is asked of a document, by the page, by the API and in the terminal."""

from collections.abc import Mapping
from typing import Any, Final

from keenquiet.service.questions.aim import AIM
from keenquiet.service.questions.base import Question
from keenquiet.service.questions.distance import DISTANCE
from keenquiet.service.questions.forecast import FORECAST
from keenquiet.service.questions.hours import HOURS
from keenquiet.service.questions.hush import HUSH
from keenquiet.service.questions.listening import LISTENING
from keenquiet.service.questions.make import MAKE
from keenquiet.service.questions.marks_sheet import MARKS_SHEET
from keenquiet.service.questions.moves import MOVES
from keenquiet.service.questions.place_map import MAP
from keenquiet.service.questions.plan import PLAN
from keenquiet.service.questions.reach import REACH
from keenquiet.service.questions.schools import SCHOOLS
from keenquiet.service.questions.screens import SCREENS
from keenquiet.service.questions.shape import SHAPE, SQUARE
from keenquiet.service.questions.swell import SWELL

_ALL: Final = (
    FORECAST, MOVES, PLAN, DISTANCE, MAP, AIM, LISTENING, REACH, SCREENS, SCHOOLS, MARKS_SHEET, MAKE, HUSH, HOURS,
    SHAPE, SQUARE, SWELL,
)  # fmt: skip
QUESTIONS: Final[Mapping[str, Question[Any, Any]]] = {one.key: one for one in _ALL}

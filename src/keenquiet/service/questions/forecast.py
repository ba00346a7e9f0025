"""The forecast of an arrangement: marks, paths, modes, decay, response; beside what a kept room's readings say."""

from typing import Annotated

from pydantic import Field

from keenquiet.service.answers.forecast import ForecastAnswer, forecast_answer
from keenquiet.service.case import Case
from keenquiet.service.known import forecast_as_read
from keenquiet.service.predict import predict
from keenquiet.service.questions.base import ArrangementAsk, Question


class ForecastAsk(ArrangementAsk):
    """screens : what each is worth, too."""

    to_hz: Annotated[float, Field(ge=40, le=300)] = 300.0
    screens: bool | None = None


def forecast_of(case: Case, asked: ForecastAsk) -> ForecastAnswer:
    """Marks, paths, modes, decay and response for one arrangement of a document.

    The document may be ahead of what is saved: readings are held against it as it is asked for.
    """
    room, which, screens = case.room, case.arrangement_id, bool(asked.screens)
    if case.data is None or case.room_id is None:
        return forecast_answer(predict(room, which), room, to_hz=asked.to_hz, screens=screens)
    result, known = forecast_as_read(case.data, case.room_id, room, which)
    return forecast_answer(result, room, to_hz=asked.to_hz, known=known, screens=screens)


FORECAST = Question("forecast", ForecastAsk, ForecastAnswer, forecast_of, heard="not here")

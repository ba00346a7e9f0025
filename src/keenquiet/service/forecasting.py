"""A forecast as a room's own page sees it: set beside what its readings say of the arrangement asked for."""

from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.forecast import ForecastAnswer, forecast_answer
from keenquiet.service.data import Data
from keenquiet.service.known import forecast_as_read
from keenquiet.service.predict import predict


def forecast_in(
    data: Data, room_id: str | None, room: RoomDoc, arrangement_id: str | None, *, to_hz: float, screens: bool = False
) -> ForecastAnswer:
    """The forecast of a document's arrangement; with a room's id, measured marks where its readings still hold.

    The document may be ahead of what is saved: readings are held against it as it is asked for.
    """
    if room_id is None:
        return forecast_answer(predict(room, arrangement_id), room, to_hz=to_hz, screens=screens)
    result, known = forecast_as_read(data, room_id, room, arrangement_id)
    return forecast_answer(result, room, to_hz=to_hz, known=known, screens=screens)

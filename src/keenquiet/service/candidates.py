"""Places to choose between: a box by three sizes, read or guessed, with what is soft in it; another corner of a
room.
"""

from typing import Any, Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.units import parse_length_m
from keenquiet.documents.convert import arrangement_of, check_document, read_room, room_of
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import ArrangementDoc, MicrophoneDoc, PerformerDoc, RoomDoc

Json = dict[str, Any]

SOFTNESS: Final = ("bare", "some", "soft", "packed")
_FLOOR: Final = {"bare": "floor-linoleum", "some": "floor-boards", "soft": "carpet-on-felt", "packed": "carpet-on-felt"}
_HUNG_SHARE: Final = {
    "bare": (),
    "some": (0.35,),
    "soft": (0.45, 0.45),
    "packed": (0.9, 0.9, 0.9),
}  # of a wall's length, wall by wall
_SHORTEST_M, _LONGEST_M = 0.5, 25.0


def box_document(
    *,
    name: str,
    length: str,
    width: str,
    height: str,
    softness: str = "",
    guessed: bool = False,
    project: str = "",
    units: str = "metric",
    currency: str | None = None,
) -> Json:
    """A new box room from three dimensions as typed, with a performer and a microphone placed sensibly.

    softness : one of SOFTNESS hangs and lays about as much cloth as the word says; "" leaves the room bare boards and
    plaster. units : in which a bare number is read. currency : sign of the money, the usual one when None.
    Raises InputError naming the dimension that cannot be.
    """
    typed = (("length", length), ("width", width), ("height", height))
    lx, ly, lz = (parse_length_m(text, field=field, imperial=units == "imperial") for field, text in typed)
    for field, value in (("length", lx), ("width", ly), ("height", lz)):
        if not _SHORTEST_M <= value <= _LONGEST_M:
            raise InputError(
                field, f"{value:.2f} m; a room here is 0.5 to 25 m.", "Check the tape reading and its unit."
            )
    if softness and softness not in SOFTNESS:
        raise InputError("softness", f"{softness!r} is not known.", f"Say one of {', '.join(SOFTNESS)}.")
    x, y = lx * 0.58, ly * 0.55
    reach = min(0.4, 0.25 * min(lx, ly))
    return {
        "format": "keen-quiet/room",
        "version": 1,
        "name": name.strip() or "My room",
        "guessed": guessed,
        "project": project.strip(),
        "brief": {} if currency is None else {"currency": currency},
        "shape": {
            "plan": [[0, 0], [round(lx, 4), 0], [round(lx, 4), round(ly, 4)], [0, round(ly, 4)]],
            "ceiling": {"kind": "flat", "height_m": round(lz, 4)},
        },
        "surfaces": {
            "floor": {"material": _FLOOR.get(softness, "floor-boards")},
            "ceiling": {"material": "plasterboard-ceiling"},
            **{f"wall-{i}": {"material": "plaster-on-brick"} for i in range(1, 5)},
        },
        "covers": [
            {
                "kind": "blanket",
                "surface": f"wall-{wall}",
                "x_m": round(0.04 * long, 3),
                "z_m": round(0.2 * lz, 3),
                "width_m": round(share * long, 3),
                "height_m": round(0.6 * lz, 3),
                "weight_kg_m2": 0.6,
                "fullness": 1.8,
                "gap_m": 0.08,
            }
            for (wall, long), share in zip(((1, lx), (2, ly), (3, lx)), _HUNG_SHARE.get(softness, ()), strict=False)
        ],
        "arrangements": [
            {
                "id": "as-is",
                "name": "As it is",
                "performer": {
                    "at": [round(x, 3), round(y, 3), round(min(1.5, lz * 0.62), 3)],
                    "faces_deg": 180,
                    "source": "voice-sung",
                },
                "microphone": {
                    "at": [round(x - reach, 3), round(y, 3), round(min(1.48, lz * 0.61), 3)],
                    "aims_deg": 0,
                    "pattern": "cardioid",
                },
            }
        ],
    }


def with_somebody(room: RoomDoc) -> RoomDoc:
    """The same room with a performer and a microphone in it, placed where there is space, when nobody was.

    Raises InputError when nobody can stand anywhere.
    """
    if room.arrangements:
        return room
    value = room_of(room)
    frame = Frame.of(room)
    x1, y1, _ = value.shape.bounds_m
    steps = np.stack(np.meshgrid(np.linspace(0.1, 0.9, 17) * x1, np.linspace(0.1, 0.9, 17) * y1), -1).reshape(-1, 2)
    # from where a room of one's own is begun: a little behind the middle
    by_wish = steps[np.argsort(np.hypot(steps[:, 0] - 0.58 * x1, steps[:, 1] - 0.55 * y1))]
    reach = min(0.4, 0.25 * min(x1, y1))
    for x, y in by_wish:
        height = float(value.shape.height_at(np.array(x), np.array(y)))
        if not np.isfinite(height):
            continue
        mouth = frame.document((float(x), float(y), min(1.5, height * 0.62)))
        mic = frame.document((float(x) - reach, float(y), min(1.48, height * 0.61)))
        somebody = ArrangementDoc(
            id="as-is",
            name="As it is",
            performer=PerformerDoc(at=mouth, faces_deg=180),
            microphone=MicrophoneDoc(at=mic, aims_deg=0),
        )
        try:
            arrangement_of(room, somebody, value)
        except InputError:
            continue
        return room.model_copy(update={"arrangements": [somebody]})
    raise InputError(
        "arrangements", "there is nowhere to stand in this room.", "Check its size, or take something out."
    )


def another_corner(document: Json) -> Json:
    """The same room with performer and microphone across it: through the middle, or mirrored along one side.

    Raises InputError when they would stand in the way of something wherever they are put.
    """
    plan = document["shape"]["plan"]
    middle = [(min(p[axis] for p in plan) + max(p[axis] for p in plan)) / 2 for axis in (0, 1)]
    for across in ((True, True), (True, False), (False, True)):
        candidate = _mirrored(document, middle, across)
        try:
            check_document(read_room(candidate))
        except InputError:
            continue
        return candidate
    raise InputError(
        "arrangements", "there is no free spot across this room.", "Move the marks on its drawing instead."
    )


def _mirrored(document: Json, middle: list[float], across: tuple[bool, bool]) -> Json:
    def spot(mark: Json, key: str) -> Json:
        at = [2 * middle[i] - mark["at"][i] if across[i] else mark["at"][i] for i in (0, 1)]
        turned = mark.get(key, 0.0)
        if across[0]:
            turned = 180.0 - turned
        if across[1]:
            turned = -turned
        return {**mark, "at": [round(at[0], 3), round(at[1], 3), mark["at"][2]], key: round(turned % 360.0, 2)}

    first: dict[str, Any] = document["arrangements"][0]
    here = {
        **first,
        "performer": spot(first["performer"], "faces_deg"),
        "microphone": spot(first["microphone"], "aims_deg"),
        "treatments": [],
        "opened": [],
        "moved": [],
        "screens": [],
    }
    return {**document, "name": f"{document['name']}, other corner", "arrangements": [here], "fit": None}

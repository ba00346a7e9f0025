"""The spare room over the bakery, as documents. Everything here is made up."""

from typing import Any


def bakery_room() -> dict[str, Any]:
    """The duo's spare room: 3.62 x 2.84 x 2.41 m, a sash window on the tram street, a door to the stairs."""
    return {
        "format": "keen-quiet/room", "version": 1, "name": "Over the bakery",
        "air": {"temperature_c": 20, "humidity_pct": 50},
        "brief": {"purpose": "dry-voice", "budget": 120, "currency": "€", "may_drill": False, "has_duvet": True},
        "shape": {"plan": [[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]], "ceiling": {"kind": "flat", "height_m": 2.41}},
        "surfaces": {
            "floor": {"material": "floor-boards"}, "ceiling": {"material": "plaster-on-lath"},
            "wall-1": {"material": "plasterboard-on-studs"}, "wall-2": {"material": "brick-rendered"},
            "wall-3": {"material": "brick-rendered"}, "wall-4": {"material": "plaster-on-brick"},
        },
        "openings": [
            {"kind": "window", "surface": "wall-3", "x_m": 1.45, "z_m": 0.85, "width_m": 0.98, "height_m": 1.25,
             "material": "glass-single"},
            {"kind": "door", "surface": "wall-1", "x_m": 2.55, "z_m": 0.0, "width_m": 0.78, "height_m": 2.0,
             "material": "door-wood", "hinge": "left"},
        ],
        "furnishings": [
            {"kind": "day-bed", "at": [0.45, 1.72], "size_m": [1.9, 0.8, 0.45], "turn_deg": 90},
            {"kind": "wardrobe", "at": [3.06, 2.5], "size_m": [0.85, 0.56, 1.95], "turn_deg": 180},
            {"kind": "bookcase", "at": [1.6, 0.15], "size_m": [1.1, 0.25, 1.8], "turn_deg": 0},
        ],
        "noises": [
            {"name": "Bakery extractor", "kind": "outside", "surface": "wall-2",
             "octaves_db": {"63": 50, "125": 45, "250": 38, "500": 32, "1000": 26, "2000": 20, "4000": 14},
             "hum_hz": 146.0, "hours": [[3.5, 10.5]]},
            {"name": "Trams", "kind": "outside", "surface": "wall-3",
             "octaves_db": {"63": 44, "125": 40, "250": 35, "500": 31, "1000": 28, "2000": 22, "4000": 14},
             "hours": [[5.0, 0.67]]},
            {"name": "Shop fridge below", "kind": "outside", "surface": "floor",
             "octaves_db": {"63": 36, "125": 33, "250": 24, "500": 18, "1000": 12, "2000": 8, "4000": 4},
             "hum_hz": 100.0},
            {"name": "Laptop fan", "kind": "inside", "at": [2.1, 0.55, 0.9],
             "octaves_db": {"125": 18, "250": 24, "500": 28, "1000": 29, "2000": 26, "4000": 20, "8000": 12}},
        ],
        "arrangements": [
            {"id": "as-is", "name": "As it is", "hour": 9.5,
             "performer": {"at": [2.66, 1.55, 1.52], "faces_deg": 218, "source": "voice-sung"},
             "microphone": {"at": [2.32, 1.28, 1.48], "aims_deg": 38, "tilt_deg": 3, "pattern": "cardioid"},
             "monitors": [], "listener": None, "treatments": []},
        ],
    }  # fmt: skip

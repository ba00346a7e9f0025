"""The made-up duo's three places, as documents: the spare room over the bakery, the cupboard under its stairs, the attic."""

from typing import Any

PROJECT = "Hurdy-gurdy and alto"


def demo_rooms() -> list[dict[str, Any]]:
    """All places of the scenario, the spare room first."""
    return [bakery_room(), cupboard(), attic()]


def bakery_room() -> dict[str, Any]:
    """The duo's spare room: 3.62 x 2.84 x 2.41 m with an alcove, a sash window on the tram street, a door to the stairs."""
    return {
        "format": "keen-quiet/room", "version": 1, "name": "Over the bakery", "project": PROJECT,
        "air": {"temperature_c": 20, "humidity_pct": 50},
        "brief": {"purpose": "dry-voice", "budget": 120, "currency": "€", "may_drill": False, "has_duvet": True},
        "shape": {
            "plan": [[0, 0], [0.95, 0], [0.95, -0.3], [2.15, -0.3], [2.15, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]],
            "ceiling": {"kind": "flat", "height_m": 2.41},
        },
        "surfaces": {
            "floor": {"material": "floor-boards"}, "ceiling": {"material": "plaster-on-lath"},
            "wall-1": {"material": "plaster-on-brick"}, "wall-2": {"material": "plaster-on-brick"},
            "wall-3": {"material": "plaster-on-brick"}, "wall-4": {"material": "plaster-on-brick"},
            "wall-5": {"material": "plasterboard-on-studs"}, "wall-6": {"material": "brick-rendered"},
            "wall-7": {"material": "brick-rendered"}, "wall-8": {"material": "plaster-on-brick"},
        },
        "openings": [
            {"kind": "window", "surface": "wall-7", "x_m": 1.45, "z_m": 0.85, "width_m": 0.98, "height_m": 1.25,
             "material": "glass-single"},
            {"kind": "door", "surface": "wall-5", "x_m": 0.40, "z_m": 0.0, "width_m": 0.78, "height_m": 2.0,
             "material": "door-wood", "hinge": "left", "behind": "stairs"},
        ],
        "covers": [
            {"kind": "curtain", "surface": "wall-7", "x_m": 1.3, "z_m": 0.45, "width_m": 1.28, "height_m": 1.8, "drawn": False,
             "weight_kg_m2": 0.35, "fullness": 2.0, "gap_m": 0.1},
        ],
        "furnishings": [
            {"kind": "day-bed", "at": [0.45, 1.72], "size_m": [1.9, 0.8, 0.45], "turn_deg": 90},
            {"kind": "wardrobe", "at": [3.06, 2.5], "size_m": [0.85, 0.56, 1.95], "turn_deg": 180},
            {"kind": "bookcase", "at": [1.55, -0.15], "size_m": [1.1, 0.26, 1.8], "turn_deg": 0},
        ],
        "noises": [
            {"name": "Bakery extractor", "kind": "outside", "surface": "wall-6",
             "octaves_db": {"63": 50, "125": 45, "250": 38, "500": 32, "1000": 26, "2000": 20, "4000": 14},
             "hum_hz": 146.0, "hours": [[3.5, 10.5]]},
            {"name": "Trams", "kind": "outside", "surface": "wall-7",
             "octaves_db": {"63": 44, "125": 40, "250": 35, "500": 31, "1000": 28, "2000": 22, "4000": 14},
             "hours": [[5.0, 0.67]]},
            {"name": "Shop fridge below", "kind": "outside", "surface": "floor",
             "octaves_db": {"63": 36, "125": 33, "250": 24, "500": 18, "1000": 12, "2000": 8, "4000": 4},
             "hum_hz": 100.0},
            {"name": "Laptop fan", "kind": "inside", "at": [2.1, 0.55, 0.9],
             "octaves_db": {"125": 18, "250": 24, "500": 28, "1000": 29, "2000": 26, "4000": 20, "8000": 12}},
        ],
        "tape": [
            {"start": 1, "end": 8, "length_m": 2.84}, {"start": 7, "end": 8, "length_m": 3.62}, {"start": 6, "end": 7, "length_m": 2.84},
            {"start": 1, "end": 7, "length_m": 4.60}, {"start": 6, "end": 8, "length_m": 4.605},
        ],
        "arrangements": [
            {"id": "as-is", "name": "As it is", "hour": 9.5,
             "performer": {"at": [2.66, 1.55, 1.52], "faces_deg": 218, "source": "voice-sung"},
             "microphone": {"at": [2.32, 1.28, 1.48], "aims_deg": 38, "tilt_deg": 3, "pattern": "cardioid"},
             "monitors": [], "listener": None, "treatments": []},
        ],
    }  # fmt: skip


def cupboard() -> dict[str, Any]:
    """The cupboard under the stairs: 0.95 x 1.70 m, the ceiling falling from 2.15 to 1.05 m, full of coats."""
    return {
        "format": "keen-quiet/room", "version": 1, "name": "Cupboard under the stairs", "project": PROJECT,
        "air": {"temperature_c": 19, "humidity_pct": 50},
        "brief": {"purpose": "dry-voice", "budget": 120, "currency": "€", "may_drill": False, "has_duvet": True},
        "shape": {
            "plan": [[0, 0], [1.7, 0], [1.7, 0.95], [0, 0.95]],
            "ceiling": {"kind": "pitched", "along": "x", "profile": [[0, 2.15], [1.7, 1.05]]},
        },
        "surfaces": {
            "floor": {"material": "floor-linoleum"}, "ceiling": {"material": "wood-boards"},
            "wall-1": {"material": "plaster-on-lath"}, "wall-2": {"material": "plaster-on-lath"},
            "wall-3": {"material": "plaster-on-lath"}, "wall-4": {"material": "plaster-on-lath"},
        },
        "openings": [
            {"kind": "door", "surface": "wall-4", "x_m": 0.12, "z_m": 0.0, "width_m": 0.7, "height_m": 1.9,
             "material": "door-wood", "hinge": "left", "behind": "stairs"},
        ],
        "covers": [
            {"kind": "blanket", "surface": "wall-1", "x_m": 0.1, "z_m": 0.45, "width_m": 1.1, "height_m": 0.85, "weight_kg_m2": 0.6,
             "fullness": 1.2, "gap_m": 0.03},
        ],
        "furnishings": [
            {"kind": "clothes-rail", "at": [1.0, 0.71], "size_m": [0.7, 0.44, 1.2], "turn_deg": 0},
            {"kind": "boxes", "at": [1.45, 0.2], "size_m": [0.4, 0.35, 0.6], "turn_deg": 0},
        ],
        "noises": [
            {"name": "Steps on the stairs", "kind": "outside", "surface": "ceiling",
             "octaves_db": {"63": 40, "125": 36, "250": 30, "500": 22, "1000": 16, "2000": 10, "4000": 6}, "hours": [[6.5, 22.5]]},
            {"name": "Bakery extractor", "kind": "outside", "surface": "floor",
             "octaves_db": {"63": 42, "125": 36, "250": 28, "500": 20, "1000": 14, "2000": 8, "4000": 4},
             "hum_hz": 146.0, "hours": [[3.5, 10.5]]},
        ],
        "arrangements": [
            {"id": "as-is", "name": "As it is", "hour": 9.5,
             "performer": {"at": [0.35, 0.45, 1.52], "faces_deg": 0, "source": "voice-sung"},
             "microphone": {"at": [0.72, 0.47, 1.42], "aims_deg": 180, "tilt_deg": 8, "pattern": "cardioid"},
             "monitors": [], "listener": None, "treatments": []},
        ],
    }  # fmt: skip


def attic() -> dict[str, Any]:
    """The attic used for listening: 4.40 x 3.30 m under two slopes with a flat strip at the top."""
    return {
        "format": "keen-quiet/room", "version": 1, "name": "Attic", "project": PROJECT,
        "air": {"temperature_c": 21, "humidity_pct": 45},
        "brief": {"purpose": "some-room", "budget": 120, "currency": "€", "may_drill": True, "has_duvet": True},
        "shape": {
            "plan": [[0, 0], [4.4, 0], [4.4, 3.3], [0, 3.3]],
            "ceiling": {"kind": "pitched", "along": "y", "profile": [[0, 0.95], [1.35, 2.3], [1.95, 2.3], [3.3, 0.95]]},
        },
        "surfaces": {
            "floor": {"material": "carpet-on-felt"}, "ceiling": {"material": "plasterboard-ceiling"},
            "wall-1": {"material": "plasterboard-on-studs"}, "wall-2": {"material": "brick-rendered"},
            "wall-3": {"material": "plasterboard-on-studs"}, "wall-4": {"material": "plaster-on-brick"},
        },
        "openings": [
            {"kind": "window", "surface": "wall-2", "x_m": 1.2, "z_m": 0.9, "width_m": 0.9, "height_m": 0.9, "material": "glass-double"},
            {"kind": "door", "surface": "wall-4", "x_m": 1.25, "z_m": 0.0, "width_m": 0.75, "height_m": 1.95, "material": "door-wood"},
        ],
        "furnishings": [
            {"kind": "sofa", "at": [0.75, 0.75], "size_m": [1.3, 0.8, 0.75], "turn_deg": 0},
            {"kind": "desk", "at": [4.05, 1.65], "size_m": [1.3, 0.6, 0.74], "turn_deg": 90},
        ],
        "noises": [
            {"name": "Rain on the roof", "kind": "outside", "surface": "ceiling",
             "octaves_db": {"63": 22, "125": 24, "250": 26, "500": 26, "1000": 25, "2000": 23, "4000": 20}, "hours": [[0.0, 1.0]]},
            {"name": "Trams", "kind": "outside", "surface": "wall-2",
             "octaves_db": {"63": 38, "125": 33, "250": 28, "500": 24, "1000": 20, "2000": 14, "4000": 8}, "hours": [[5.0, 0.67]]},
        ],
        "arrangements": [
            {"id": "as-is", "name": "As it is", "hour": 9.5,
             "performer": {"at": [1.9, 1.65, 1.5], "faces_deg": 0, "source": "voice-sung"},
             "microphone": {"at": [2.3, 1.65, 1.46], "aims_deg": 180, "tilt_deg": 3, "pattern": "cardioid"},
             "monitors": [{"at": [3.9, 1.05, 1.1], "faces_deg": 160}, {"at": [3.9, 2.25, 1.1], "faces_deg": 200}],
             "listener": {"at": [2.6, 1.65, 1.15], "faces_deg": 0}, "treatments": []},
        ],
    }  # fmt: skip

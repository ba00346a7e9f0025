"""Twenty-six places from closet to hall as people have them, with who records there: for judging advice as an engineer
would. Each with what must be offered, what must not, and why.
"""

from dataclasses import dataclass, field
from typing import Any

STREET = {"63": 68, "125": 66, "250": 62, "500": 60, "1000": 58, "2000": 52, "4000": 44}
FAN = {"63": 52, "125": 56, "250": 58, "500": 58, "1000": 55, "2000": 50, "4000": 42}
FRIDGE = {"63": 44, "125": 46, "250": 38, "500": 34, "1000": 30, "2000": 24, "4000": 18}
QUIET = {"63": 20, "125": 16, "250": 10, "500": 6, "1000": 4, "2000": 2, "4000": 0}


@dataclass(frozen=True)
class Place:
    """must, must_not : parts of titles, one of each tuple. first : what leads the list."""

    name: str
    document: dict[str, Any]
    first: tuple[str, ...] = ()
    must: tuple[tuple[str, ...], ...] = ()
    must_not: tuple[str, ...] = ()
    short: str = ""
    why: str = ""


@dataclass
class Building:
    size: tuple[float, float, float]
    walls: str = "plaster-on-brick"
    floor: str = "floor-boards"
    ceiling: str = "plasterboard-ceiling"
    purpose: str = "dry-voice"
    source: str = "voice-sung"
    pattern: str = "cardioid"
    performer: tuple[float, float, float] = (1.2, 1.1, 1.5)
    facing: float = 0.0
    distance: float = 0.4
    budget: float = 100.0  # no two deep panels: solving them all takes most of the time
    duvet: bool = True
    furnishings: list[dict[str, Any]] = field(default_factory=list)
    noises: list[dict[str, Any]] = field(default_factory=list)
    treatments: list[dict[str, Any]] = field(default_factory=list)
    faces: dict[str, str] = field(default_factory=dict)
    plan: list[list[float]] | None = None
    slope: list[list[float]] | None = None  # a ceiling along y: how far, how high

    def document(self, name: str) -> dict[str, Any]:
        x, y, z = self.size
        at = self.performer
        ahead = {0.0: (1, 0), 90.0: (0, 1), 180.0: (-1, 0), 270.0: (0, -1)}[self.facing]
        mic = [at[0] + self.distance * ahead[0], at[1] + self.distance * ahead[1], at[2] - 0.03]
        plan = self.plan or [[0, 0], [x, 0], [x, y], [0, y]]
        ceiling = {"kind": "pitched", "along": "y", "profile": self.slope} if self.slope else None
        surfaces = {f"wall-{n}": {"material": self.walls} for n in range(1, len(plan) + 1)}
        surfaces |= {"floor": {"material": self.floor}, "ceiling": {"material": self.ceiling}}
        surfaces |= {face: {"material": material} for face, material in self.faces.items()}
        return {
            "format": "keen-quiet/room",
            "version": 1,
            "name": name,
            "brief": {"purpose": self.purpose, "budget": self.budget, "may_drill": False, "has_duvet": self.duvet},
            "shape": {"plan": plan, "ceiling": ceiling or {"kind": "flat", "height_m": z}},
            "surfaces": surfaces,
            "furnishings": self.furnishings,
            "noises": self.noises,
            "arrangements": [
                {
                    "id": "as-is",
                    "name": "As it is",
                    "performer": {"at": list(at), "faces_deg": self.facing, "source": self.source},
                    "microphone": {
                        "at": mic,
                        "aims_deg": (self.facing + 180) % 360,
                        "tilt_deg": 0,
                        "pattern": self.pattern,
                    },
                    "treatments": self.treatments,
                    "hour": 14.0,
                }
            ],
        }


def _noise(name: str, octaves: dict[str, float], kind: str = "inside", **more: Any) -> dict[str, Any]:
    place = {"surface": "wall-1"} if kind == "outside" else {"at": [0.4, 0.4, 0.4]}
    return {"name": name, "kind": kind, "octaves_db": octaves, **place, **more}


def _place(name: str, building: Building, **said: Any) -> Place:
    return Place(name, building.document(name), **said)


_DUVET = {"kind": "duvet", "material": "duvet-hung"}
_SOFT = {f"wall-{n}": "mineral-wool-50" for n in range(1, 5)} | {"ceiling": "mineral-wool-50", "floor": "carpet-heavy"}

PLACES = (
    _place(
        "Closet of coats, voice",
        Building(
            (1.6, 0.95, 2.3),
            performer=(0.5, 0.47, 1.5),
            distance=0.3,
            budget=250,
            faces={"wall-1": "wardrobe-open", "floor": "carpet-heavy"},
            noises=[_noise("House", QUIET)],
        ),
        must_not=("duvet", "20 cm thick", "curtain"),
        why="nothing that deep fits where one can hardly turn",
    ),
    _place(
        "Bare box room, voice",
        Building((2.6, 2.1, 2.4), budget=250, noises=[_noise("House", QUIET)]),
        must=(("duvet",), ("microphone to",)),
        why="free and owned softness, and nearer",
    ),
    _place(
        "Bedroom with a fan, voice",
        Building(
            (3.8, 3.1, 2.4),
            floor="carpet-heavy",
            performer=(1.6, 1.5, 1.5),
            distance=0.5,
            furnishings=[{"kind": "bed", "at": [2.8, 2.3], "size_m": [2.0, 1.4, 0.5], "turn_deg": 0}],
            noises=[_noise("Fan", FAN)],
        ),
        first=("Keep the fan out",),
        why="a free switch-off worth 30 dB comes before a curtain",
    ),
    _place(
        "Living room on a loud street, voice",
        Building(
            (4.4, 3.5, 2.5),
            performer=(2.0, 1.6, 1.5),
            distance=0.8,
            furnishings=[{"kind": "sofa", "at": [3.2, 2.9], "size_m": [1.9, 0.9, 0.8], "turn_deg": 0}],
            noises=[_noise("Street", STREET, "outside")],
        ),
        first=("microphone to",),
        short="hush",
        why="nothing hung up here makes a street quiet: nearer first, and it is said how much stays missing",
    ),
    _place(
        "Dead booth, trumpet",
        Building(
            (2.4, 2.0, 2.2),
            walls="mineral-wool-50",
            ceiling="mineral-wool-50",
            floor="carpet-heavy",
            purpose="lively",
            source="trumpet",
            distance=0.6,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("duvet", "curtain", "panel", "panels", "rug", "Bring"),
        must=(("Take the microphone to",),),
        why="it is too dry for lively brass already",
    ),
    _place(
        "Booth with panels up, trumpet",
        Building(
            (3.0, 2.4, 2.4),
            walls="mineral-wool-50",
            floor="carpet-heavy",
            purpose="lively",
            source="trumpet",
            distance=0.5,
            noises=[_noise("House", QUIET)],
            treatments=[{**_DUVET, "surface": "wall-4", "x_m": 0.2, "z_m": 0.4, "width_m": 1.8, "height_m": 1.7}],
        ),
        must=(("down from", "Take the microphone to"),),
        must_not=("panel", "Bring", "curtain"),
    ),
    _place(
        "Bare garage, guitar",
        Building(
            (5.0, 2.9, 2.4),
            walls="block-painted",
            floor="floor-concrete",
            ceiling="plasterboard-ceiling",
            source="guitar",
            purpose="some-room",
            performer=(2.0, 1.5, 1.0),
            distance=0.8,
            noises=[_noise("House", QUIET)],
        ),
        must=(("duvet", "curtain", "microphone to"),),
        must_not=("softer things", "mouth"),
    ),
    _place(
        "Living room, cello",
        Building(
            (4.4, 3.6, 2.5),
            source="cello",
            purpose="some-room",
            performer=(2.0, 2.0, 0.8),
            distance=1.0,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("mouth", "voice"),
    ),
    _place(
        "Kitchen with a fridge, voice",
        Building(
            (3.6, 2.8, 2.4),
            walls="tiles-ceramic",
            floor="tiles-ceramic",
            performer=(1.4, 1.4, 1.5),
            distance=0.6,
            noises=[_noise("Fridge", FRIDGE)],
        ),
        must=(("Keep the fridge out",), ("microphone to",)),
    ),
    _place(
        "Bedroom without a noise noted, voice",
        Building((3.6, 3.0, 2.4), floor="carpet-heavy", performer=(1.5, 1.4, 1.5), distance=0.5),
        must_not=("Keep the", "Record after"),
        why="what nobody has read is not known",
    ),
    _place(
        "Carpeted bedroom, spoken word",
        Building(
            (4.2, 3.4, 2.4),
            floor="carpet-heavy",
            purpose="spoken",
            source="voice-spoken",
            performer=(1.6, 1.6, 1.25),
            distance=0.35,
            noises=[_noise("House", QUIET)],
        ),
        must=(("duvet", "curtain", "microphone to"),),
    ),
    _place(
        "Bathroom, flute",
        Building(
            (2.4, 1.9, 2.4),
            walls="tiles-ceramic",
            floor="tiles-ceramic",
            source="flute",
            purpose="some-room",
            performer=(0.9, 0.95, 1.45),
            distance=0.5,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("your mouth", "your voice"),
        must=(("microphone to", "duvet", "curtain"),),
    ),
    _place(
        "Duvet already behind, voice",
        Building(
            (3.0, 2.6, 2.4),
            distance=0.35,
            noises=[_noise("House", QUIET)],
            treatments=[{**_DUVET, "surface": "wall-4", "x_m": 0.3, "z_m": 0.4, "width_m": 1.9, "height_m": 1.8}],
        ),
        must_not=("Hang the duvet",),
    ),
    _place(
        "Omni in a box room, voice",
        Building((2.8, 2.3, 2.4), pattern="omni", noises=[_noise("House", QUIET)]),
        must_not=("looks past you",),
        why="an omni sees no wall more than another",
    ),
    _place(
        "No money, brick cellar, voice",
        Building(
            (4.0, 3.2, 2.2),
            walls="brick-rough",
            floor="floor-concrete",
            ceiling="concrete-rough",
            budget=0,
            performer=(1.6, 1.5, 1.5),
            distance=0.6,
            noises=[_noise("House", QUIET)],
        ),
        must=(("duvet",), ("microphone to",)),
        must_not=("panel", "curtain", "rug"),
    ),
    _place(
        "Large living room, lively strings",
        Building(
            (4.8, 4.2, 2.6),
            source="strings-bowed",
            purpose="lively",
            performer=(2.2, 2.0, 1.4),
            distance=0.6,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("mouth", "Bring the microphone to 18"),
    ),
    _place(
        "Corridor, spoken word",
        Building(
            (5.2, 1.2, 2.5),
            purpose="spoken",
            source="voice-spoken",
            performer=(1.2, 0.6, 1.5),
            noises=[_noise("House", QUIET)],
        ),
        must=(("microphone to", "duvet"),),
    ),
    _place(
        "Cube, voice",
        Building((2.5, 2.5, 2.5), performer=(1.0, 1.0, 1.5), noises=[_noise("House", QUIET)]),
        must=(("duvet", "microphone to"),),
    ),
    _place(
        "Low basement, trumpet",
        Building(
            (4.6, 3.4, 1.95),
            walls="concrete-rough",
            floor="floor-concrete",
            purpose="lively",
            source="trumpet",
            performer=(1.8, 1.6, 1.3),
            distance=0.8,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("mouth",),
    ),
    _place(
        "Glass room, flute",
        Building(
            (3.4, 2.8, 2.5),
            walls="glass-double",
            floor="tiles-ceramic",
            source="flute",
            purpose="some-room",
            performer=(1.4, 1.3, 1.45),
            distance=0.6,
            noises=[_noise("House", QUIET)],
        ),
        must=(("microphone to", "duvet", "curtain"),),
        must_not=("your mouth",),
    ),
    _place(
        "Stairwell, voice",
        Building(
            (2.4, 2.2, 5.6),
            walls="plaster-on-brick",
            floor="floor-concrete",
            distance=0.5,
            noises=[_noise("House", QUIET)],
        ),
        must=(("microphone to", "duvet"),),
    ),
    _place(
        "Hall, cello",
        Building(
            (9.0, 6.5, 4.2),
            source="cello",
            purpose="lively",
            performer=(4.0, 3.0, 0.8),
            distance=1.2,
            noises=[_noise("House", QUIET)],
        ),
        must_not=("mouth", "wardrobe"),
    ),
    _place(
        "Office with a fan, spoken word",
        Building(
            (3.6, 3.0, 2.6),
            floor="carpet-heavy",
            purpose="spoken",
            source="voice-spoken",
            performer=(1.6, 1.4, 1.2),
            furnishings=[{"kind": "desk", "at": [2.6, 1.4], "size_m": [1.6, 0.8, 0.74], "turn_deg": 90}],
            noises=[_noise("Fan", FAN)],
        ),
        first=("Keep the fan out",),
    ),
    _place(
        "Room full of clothes, brass",
        Building(
            (3.0, 2.4, 2.4),
            purpose="lively",
            source="trumpet",
            performer=(1.2, 1.1, 1.5),
            distance=0.5,
            floor="carpet-heavy",
            faces={"wall-1": "wardrobe-open", "wall-3": "wardrobe-open"},
            noises=[_noise("House", QUIET)],
        ),
        must_not=("duvet", "panel", "curtain", "foam", "rug"),
    ),
    _place(
        "Attic under the slope, voice",
        Building(
            (4.2, 3.4, 2.5),
            slope=[[0.0, 1.1], [2.2, 2.5], [3.4, 2.5]],
            walls="plasterboard-on-studs",
            performer=(1.6, 2.2, 1.5),
            distance=0.5,
            furnishings=[{"kind": "mattress", "at": [3.4, 3.25], "size_m": [1.4, 0.2, 0.9], "turn_deg": 0}],
            noises=[_noise("House", QUIET)],
        ),
        must=(("duvet",), ("microphone to",)),
        why="owned softness behind, and nearer; nothing is hung where the slope comes down to the knee",
    ),
    _place(
        "L-shaped bedsit, violin",
        Building(
            (4.8, 3.8, 2.5),
            plan=[[0, 0], [4.8, 0], [4.8, 2.0], [2.6, 2.0], [2.6, 3.8], [0, 3.8]],
            purpose="lively",
            source="violin",
            performer=(1.2, 1.4, 1.6),
            distance=0.9,
            furnishings=[{"kind": "bed", "at": [1.0, 3.0], "size_m": [2.0, 1.4, 0.5], "turn_deg": 0}],
            noises=[_noise("House", QUIET)],
        ),
        must_not=("20 cm thick",),
        why="a lively purpose in a lively room: nothing deep against notes that a violin does not have",
    ),
)

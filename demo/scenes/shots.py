"""The commission, picture by picture: where the camera stood, through which lens, and the edges that are true in the scene.

World coordinates are metres: x right, y up, z away from the camera. A pose is the
corrective rotation (roll, lean, swing) in degrees as docs/how-it-works.md defines it.
"""

from dataclasses import dataclass, field

Spot = tuple[float, float, float]


@dataclass(frozen=True)
class Edge:
    """A straight edge of the scene that is level or plumb, from one end to the other."""

    name: str
    kind: str
    range: str
    ends: tuple[Spot, Spot]


def level(name: str, range: str, x: tuple[float, float], y: float, z: float) -> Edge:
    """An edge along x."""
    return Edge(name, "level", range, ((x[0], y, z), (x[1], y, z)))


def plumb(name: str, range: str, x: float, y: tuple[float, float], z: float) -> Edge:
    """An edge along y."""
    return Edge(name, "plumb", range, ((x, y[0], z), (x, y[1], z)))


@dataclass(frozen=True)
class Look:
    """How the imitated camera saw the light: exposure, contrast, warmth, saturation, grain."""

    exposure: float = 1.0
    contrast: float = 1.15
    warmth: float = 0.0
    saturation: float = 1.1
    noise: float = 0.008
    vignette: float = 0.12


@dataclass(frozen=True)
class Shot:
    """One picture. ``render_width`` is the width at which the scene is traced before it is brought to full size."""

    name: str
    set: str
    scene: str
    size: tuple[int, int]
    focal35_mm: float
    at: Spot
    edges: tuple[Edge, ...]
    roll_deg: float = 0.0
    lean_deg: float = 0.0
    swing_deg: float = 0.0
    k1: float = 0.0
    k2: float = 0.0
    declare: dict[str, str] = field(default_factory=dict)
    look: Look = Look()
    render_width: int = 2000
    finish: str = "jpeg"
    summary: str = ""


WATERWAYS = "Ouldmere waterways"
BUILDINGS = "Pump, lock and lantern"
ODD_JOBS = "Odd jobs"

_SUNNY = {
    "Sun_Elevation": "30",
    "Sun_Azimuth": "-128",
    "Sun_Colour": "<1.5,1.34,1.1>*1.5",
    "Cover": "0.5",
    "Haze": "2600",
    "Haze_Colour": "rgb <0.72,0.78,0.86>",
    "Overcast": "0",
    "Rail": "0",
    "Grass_X": "0",
}
_MILL = (
    level("far dike", "far", (88.0, 150.0), 5.5, 420.0),
    level("quay, middle", "near", (-8.0, -1.0), 0.9, 27.5),
    level("quay, right", "near", (1.0, 9.0), 0.9, 27.5),
    level("engine house, foot of the eaves board", "far", (0.0, 7.6), 4.0, 37.12),
    plumb("engine house, left corner", "far", 0.2, (1.6, 3.9), 37.5),
    plumb("engine house, right corner", "far", 7.4, (1.6, 3.9), 37.5),
    plumb("gauge post, left side", "near", 11.9, (1.4, 4.0), 28.4),
    plumb("gauge post, right side", "near", 12.14, (1.4, 4.0), 28.4),
    plumb("gauge board, left side", "near", 11.5, (4.3, 6.5), 28.3),
    plumb("gauge board, right side", "near", 12.54, (4.3, 6.5), 28.3),
)

SHOTS = (
    Shot(
        name="mill-at-sixmile.jpg",
        set=WATERWAYS,
        scene="mill",
        size=(4272, 2848),
        focal35_mm=28,
        at=(0.0, 2.6, -1.0),
        roll_deg=-6.0,
        edges=_MILL,
        declare=_SUNNY,
        look=Look(exposure=0.72, contrast=1.3, saturation=1.05),
        summary="A far, flat horizon rolled a lot, by six degrees; 12 megapixels.",
    ),
    Shot(
        name="gauge-post-morning.jpg",
        set=WATERWAYS,
        scene="mill",
        size=(3000, 2000),
        focal35_mm=40,
        at=(9.0, 2.6, 2.0),
        roll_deg=0.4,
        edges=_MILL[:1] + _MILL[3:] + (level("quay, far right", "near", (12.6, 17.0), 0.9, 27.5),),
        declare={
            **_SUNNY,
            "Overcast": "1",
            "Sun_Colour": "<0.4,0.4,0.42>",
            "Haze": "900",
            "Haze_Colour": "rgb <0.70,0.73,0.77>",
            "Grass_X": "9",
        },
        look=Look(exposure=0.95, contrast=1.2, warmth=-0.02, saturation=0.95),
        summary="A far, flat horizon rolled a little, by four tenths of a degree, on a grey morning.",
    ),
    Shot(
        name="rail-by-the-cut.jpg",
        set=WATERWAYS,
        scene="mill",
        size=(3000, 2000),
        focal35_mm=35,
        at=(2.0, 2.6, 0.0),
        roll_deg=-1.33,
        edges=_MILL + (Edge("near rail, top", "level", "near", ((-1.0, 1.42, 6.633), (6.4, 1.42, 12.418))),),
        declare={
            **_SUNNY,
            "Sun_Elevation": "14",
            "Sun_Azimuth": "-105",
            "Sun_Colour": "<1.6,1.2,0.8>*1.5",
            "Cover": "0.6",
            "Rail": "1",
            "Haze": "1800",
            "Haze_Colour": "rgb <0.80,0.76,0.74>",
            "Grass_X": "2",
        },
        look=Look(exposure=0.85, contrast=1.25, warmth=0.03),
        summary="A near rail that runs away from the camera reads several degrees more than the far dike.",
    ),
)

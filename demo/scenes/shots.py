"""The commission, picture by picture: where the camera stood, through which lens, and the edges
that are true in the scene.

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
    """One picture.

    ``render_width`` is the width at which the scene is traced before it is brought to full
    size. ``untrue`` are edges that look level or plumb and are not; ``subject`` are two
    opposite corners of what a frame must not cut.
    """

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
    render_width: int = 3000
    finish: str = "jpeg"
    untrue: tuple[Edge, ...] = ()
    subject: tuple[Spot, Spot] | None = None
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
    level("engine house, foot of the eaves board", "far", (0.0, 7.6), 4.0, 37.12),
    level("gauge board, lowest band", "near", (11.63, 12.41), 4.52, 28.28),
    level("gauge board, highest band", "near", (11.63, 12.41), 6.42, 28.28),
    plumb("engine house, right corner", "far", 7.4, (2.75, 3.9), 37.5),
    plumb("engine house, right window frame", "far", 6.5, (2.2, 3.0), 37.39),
    plumb("gauge post, left side", "near", 11.9, (1.4, 4.0), 28.64),
    plumb("gauge post, right side", "near", 12.14, (1.4, 4.0), 28.4),
    plumb("gauge board, left side", "near", 11.5, (4.3, 6.5), 28.38),
    plumb("gauge board, right side", "near", 12.54, (4.3, 6.5), 28.3),
)

_PUMP = (
    level("lower string course, left", "near", (-7.9, -2.2), 5.75, -0.12),
    level("lower string course, right", "near", (2.2, 7.9), 5.75, -0.12),
    level("cornice", "far", (-7.0, 8.9), 16.75, -0.4),
    plumb("right corner", "near", 9.0, (8.2, 10.2), 0.0),
    plumb("window surround, right", "near", 7.57, (6.6, 10.0), -0.06),
    plumb("door surround, right", "near", 1.6, (1.2, 4.5), -0.14),
    plumb("stack, right side", "far", 14.7, (6.0, 24.0), 7.5),
)
# A scanner looks straight down: coordinates on the glass in pixels, seen from one focal length
# away.
_SCAN_Z = 50 / 43.266615305567875 * (3000**2 + 2200**2) ** 0.5

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
        edges=(*_MILL[:4], *_MILL[6:]),
        declare={
            **_SUNNY,
            "Overcast": "1",
            "Sun_Colour": "<0.4,0.4,0.42>",
            "Haze": "900",
            "Haze_Colour": "rgb <0.70,0.73,0.77>",
            "Grass_X": "9",
        },
        look=Look(exposure=0.95, contrast=1.2, warmth=-0.02, saturation=0.95),
        summary="A far, flat horizon rolled a little, by four tenths of a degree, "
        "on a grey morning.",
    ),
    Shot(
        name="rail-by-the-cut.jpg",
        set=WATERWAYS,
        scene="mill",
        size=(3000, 2000),
        focal35_mm=35,
        at=(2.0, 2.8, 0.0),
        roll_deg=1.33,
        edges=(
            *_MILL[:4],
            *_MILL[6:8],
            level("quay, back edge", "near", (2.0, 9.0), 0.9, 27.95),
            plumb("engine house, door", "far", 2.3, (1.2, 2.8), 37.47),
            Edge(
                "near rail, top", "level", "near", ((-0.9883, 1.62, 7.786), (6.0117, 1.62, 10.2601))
            ),
        ),
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
        summary="A near rail that runs away from the camera reads several degrees more "
        "than the far dike.",
    ),
    Shot(
        name="posts-in-haze.jpg",
        set=WATERWAYS,
        scene="jetty",
        size=(3000, 2000),
        focal35_mm=35,
        at=(0.0, 1.9, 0.0),
        roll_deg=2.2,
        edges=(
            plumb("post 1", "near", -3.73, (1.55, 2.5), 9.37),
            plumb("post 2", "far", -1.33, (0.6, 2.8), 14.37),
            plumb("post 3", "near", 2.73, (0.6, 2.4), 10.87),
            plumb("post 4", "far", 5.03, (0.6, 3.0), 16.87),
            plumb("jetty post, left", "near", -3.0, (0.85, 1.4), 7.22),
            plumb("jetty post, right", "near", -0.4, (0.85, 1.4), 7.22),
            level("jetty beam, left", "near", (-2.7, -1.6), 0.5, 7.25),
            level("jetty beam, right", "near", (-1.5, -0.45), 0.5, 7.25),
        ),
        look=Look(exposure=0.86, contrast=1.5, saturation=0.9, noise=0.010),
        summary="Haze without a horizon, but with upright posts.",
    ),
    Shot(
        name="swing-bridge-keeper.jpg",
        set=WATERWAYS,
        scene="bridge",
        size=(3000, 2000),
        focal35_mm=35,
        at=(0.0, 2.5, 0.0),
        roll_deg=-2.0,
        edges=(
            level("upper chord, left", "far", (-9.0, -2.0), 4.85, 22.0),
            level("upper chord, right", "far", (2.0, 9.0), 4.85, 22.0),
            level("lower chord, left", "far", (-9.0, -6.0), 1.6, 22.0),
            level("upper chord, middle", "far", (-1.8, 1.8), 4.85, 22.0),
            level("near quay", "near", (-5.2, 3.0), 0.9, 12.5),
            plumb("truss upright 1", "far", -7.1, (2.5, 4.3), 22.02),
            plumb("truss upright 2", "far", -2.5, (3.4, 4.3), 22.02),
            plumb("truss upright 3", "far", 2.5, (2.5, 4.3), 22.02),
            plumb("truss upright 4", "far", 7.1, (2.5, 4.3), 22.02),
        ),
        subject=((4.85, 0.9, 11.6), (5.6, 2.75, 11.6)),
        declare={
            "Sun_Elevation": "24",
            "Sun_Azimuth": "-140",
            "Sun_Colour": "<1.5,1.3,1.05>*1.3",
            "Keeper_X": "5.22",
        },
        look=Look(exposure=0.8, contrast=1.25),
        summary="A keeper near the right edge whom the frame must not cut.",
    ),
    Shot(
        name="aqueduct-at-low-water.jpg",
        set=WATERWAYS,
        scene="aqueduct",
        size=(3000, 2000),
        focal35_mm=32,
        at=(-2.0, 2.2, 0.0),
        roll_deg=0.8,
        lean_deg=3.0,
        k1=0.03,
        edges=(
            level("coping, left", "far", (-17.0, -8.0), 15.5, 39.6),
            level("coping, middle", "far", (-7.0, 3.0), 15.5, 39.6),
            level("coping, right", "far", (4.0, 14.0), 15.5, 39.6),
            level("string course, left", "far", (-16.0, -8.0), 13.2, 39.3),
            level("string course, middle", "far", (-4.5, 4.5), 13.2, 39.3),
            level("string course, right", "far", (8.0, 15.0), 13.2, 39.3),
            plumb("opening, left", "far", -7.6, (1.5, 6.0), 40.0),
            plumb("opening, right", "far", 7.6, (1.5, 6.0), 40.0),
            plumb("far opening, left", "far", -19.6, (4.0, 6.2), 40.0),
            plumb("far opening, right", "far", 19.6, (2.0, 6.0), 40.0),
        ),
        declare={"Sun_Elevation": "22", "Sun_Azimuth": "-118", "Sun_Colour": "<1.5,1.25,0.95>*1.5"},
        look=Look(exposure=0.85, contrast=1.22, warmth=0.02),
        finish="wide gamut",
        summary="A mild pincushion bow; in the wide Display P3 profile.",
    ),
    Shot(
        name="pumping-station.jpg",
        set=BUILDINGS,
        scene="pump",
        size=(4272, 2848),
        focal35_mm=24,
        at=(0.0, 1.7, -24.0),
        roll_deg=1.1,
        lean_deg=16.0,
        edges=_PUMP
        + (
            plumb("left corner", "near", -9.0, (6.2, 10.2), 0.0),
            plumb("window surround, left", "near", -7.57, (6.6, 10.0), -0.06),
        ),
        declare={
            "Sun_Elevation": "34",
            "Sun_Azimuth": "-145",
            "Sun_Colour": "<1.5,1.36,1.14>*1.5",
            "Cover": "0.52",
        },
        look=Look(exposure=0.78, contrast=1.25),
        summary="A tall front, the camera pointed up by 16 degrees and rolled.",
    ),
    Shot(
        name="pumping-station-from-the-left.jpg",
        set=BUILDINGS,
        scene="pump",
        size=(3000, 2000),
        focal35_mm=26,
        at=(-15.0, 1.7, -20.0),
        roll_deg=-0.9,
        lean_deg=12.0,
        swing_deg=28.0,
        edges=_PUMP[:-1]
        + (
            plumb("left corner", "near", -9.0, (6.2, 10.2), 0.0),
            plumb("left window surround, right", "near", -5.63, (6.6, 10.0), -0.06),
        ),
        declare={
            "Sun_Elevation": "42",
            "Sun_Azimuth": "152",
            "Sun_Colour": "<1.5,1.4,1.2>*1.4",
            "Cover": "0.62",
        },
        look=Look(exposure=0.82, contrast=1.25),
        summary="Lean and swing together, with roll.",
    ),
    Shot(
        name="lock-keepers-row.jpg",
        set=BUILDINGS,
        scene="cottages",
        size=(6000, 4000),
        focal35_mm=26,
        at=(-9.0, 1.65, -16.5),
        roll_deg=1.8,
        swing_deg=22.0,
        edges=(
            level("ridge, left", "far", (-9.3, -4.3), 8.0, 3.0),
            level("lock coping, front", "near", (-10.0, -6.0), 0.16, -9.6),
            level("lock coping, back", "near", (-10.0, -2.0), 0.16, -8.9),
            level("brick cottage, door head", "near", (-3.9, -2.8), 2.34, -0.05),
            plumb("first party line", "near", -6.8, (1.0, 4.2), 0.0),
            plumb("second party line", "near", 0.0, (1.0, 4.2), 0.0),
            plumb("third party line", "far", 6.8, (1.0, 4.2), 0.0),
            plumb("brick cottage, window", "near", -5.88, (1.1, 2.3), 0.08),
            plumb("white cottage, left window", "near", 0.92, (1.1, 2.3), 0.08),
            plumb("white cottage, right window", "far", 4.82, (1.1, 2.3), 0.08),
            plumb("white cottage, door leaf", "near", 2.95, (0.5, 2.0), -0.05),
            plumb("third chimney, right side", "far", 3.95, (8.3, 9.3), 2.6),
        ),
        declare={
            "Sun_Elevation": "36",
            "Sun_Azimuth": "-155",
            "Sun_Colour": "<1.5,1.36,1.14>*1.45",
            "Cover": "0.52",
            "Crooked": "0",
            "Overcast": "0",
        },
        look=Look(exposure=0.78, contrast=1.22),
        render_width=3400,
        summary="A row of cottages taken from the side, with roll; 24 megapixels.",
    ),
    Shot(
        name="the-old-house.tif",
        set=BUILDINGS,
        scene="cottages",
        size=(2700, 1800),
        focal35_mm=28,
        at=(5.0, 1.7, -17.0),
        roll_deg=-1.5,
        lean_deg=5.0,
        edges=(
            level("ridge of the row, left", "far", (-2.5, 2.5), 8.0, 3.0),
            level("ridge of the row, right", "far", (4.3, 6.4), 8.0, 3.0),
            level("lock coping, back", "near", (2.0, 6.2), 0.16, -8.9),
            level("door head", "near", (3.0, 3.9), 2.34, -0.05),
            plumb("row, right end", "near", 6.8, (1.0, 4.2), 0.0),
            plumb("door leaf", "near", 3.95, (0.4, 2.0), -0.05),
            plumb("lower window", "near", 1.98, (1.1, 2.3), 0.08),
            plumb("upper window", "near", 1.88, (3.2, 4.2), 0.08),
            plumb("chimney, left side", "far", 2.85, (8.2, 9.3), 2.6),
            plumb("far chimney, left side", "far", -3.95, (8.2, 9.3), 2.6),
            plumb("far chimney, right side", "far", -2.85, (8.2, 9.3), 2.6),
        ),
        untrue=(
            Edge(
                "old house, first post",
                "plumb",
                "near",
                ((8.954, 1.55, -0.36), (9.106, 4.25, -0.36)),
            ),
            Edge(
                "old house, last post",
                "plumb",
                "near",
                ((14.604, 1.55, -0.36), (14.755, 4.25, -0.36)),
            ),
        ),
        declare={
            "Sun_Elevation": "30",
            "Sun_Azimuth": "-150",
            "Sun_Colour": "<0.7,0.68,0.66>",
            "Cover": "0.5",
            "Crooked": "1",
            "Overcast": "1",
        },
        look=Look(exposure=0.92, contrast=1.25, saturation=1.05, noise=0.004),
        finish="16 bit",
        summary="An old house that really is crooked beside a true one, "
        "so that readings disagree; 16 bits.",
    ),
    Shot(
        name="glasshouse.jpg",
        set=BUILDINGS,
        scene="glasshouse",
        size=(4272, 2848),
        focal35_mm=20,
        at=(0.1, 1.65, 0.0),
        roll_deg=0.9,
        k1=-0.13,
        k2=0.015,
        edges=(
            level("first tie beam", "near", (-3.0, 3.0), 3.42, 3.95),
            level("second tie beam", "near", (-3.0, 3.0), 3.42, 6.35),
            level("third tie beam", "far", (-3.0, 3.0), 3.42, 8.75),
            level("far door, head", "far", (-0.95, 0.95), 2.5, 16.2),
            plumb("first column, left", "near", -3.26, (1.7, 3.2), 3.95),
            plumb("first column, right", "near", 3.26, (1.7, 3.2), 3.95),
            plumb("far door, left side", "far", -1.02, (1.0, 2.4), 16.2),
            plumb("far door, right side", "far", 1.02, (1.0, 2.4), 16.2),
        ),
        look=Look(exposure=0.85, contrast=1.2),
        summary="A wide-angle interior with a strong barrel bow.",
    ),
    Shot(
        name="observatory.jpg",
        set=BUILDINGS,
        scene="observatory",
        size=(2828, 4272),
        focal35_mm=36,
        at=(1.0, 1.7, -24.0),
        roll_deg=-1.2,
        lean_deg=12.0,
        edges=(
            plumb("first window", "near", 0.53, (5.4, 7.2), 0.21),
            plumb("second window", "near", 0.53, (9.0, 10.8), 0.21),
            plumb("third window", "far", 0.53, (12.6, 14.4), 0.21),
            plumb("first window, reveal", "near", 0.6, (5.3, 7.3), -0.07),
            plumb("door, reveal", "near", -0.75, (1.2, 2.8), -0.1),
            plumb("right corner", "far", 3.05, (5.6, 15.0), -0.05),
            plumb("left corner", "far", -3.05, (8.5, 15.0), -0.05),
            level("door, head", "near", (-0.7, 0.7), 2.9, -0.1),
            level("band", "near", (-2.9, 2.9), 4.1, -0.1),
            level("first window, head", "near", (-0.5, 0.5), 7.4, -0.07),
            level("second window, head", "near", (-0.5, 0.5), 11.0, -0.07),
            level("cornice", "far", (-3.2, 3.2), 16.0, -0.4),
            level("parapet", "far", (-2.6, 2.6), 17.3, -0.2),
        ),
        declare={"Sun_Elevation": "36", "Sun_Azimuth": "-130", "Sun_Colour": "<1.5,1.34,1.1>*1.5"},
        look=Look(exposure=0.78, contrast=1.25),
        render_width=2100,
        finish="orientation 8",
        summary="A portrait-format tower, stored lying down with orientation 8; 12 megapixels.",
    ),
    Shot(
        name="ridge-hut.jpg",
        set=ODD_JOBS,
        scene="ridge",
        size=(3000, 2000),
        focal35_mm=32,
        at=(0.0, 2.4, 0.0),
        roll_deg=-2.7,
        edges=(
            plumb("hut, left corner", "near", -4.2, (1.9, 4.0), 17.0),
            plumb("hut, right corner", "near", 2.8, (1.9, 4.0), 17.0),
            plumb("pole, left side", "near", 5.15, (4.0, 8.0), 15.0),
            plumb("pole, right side", "near", 5.3, (4.0, 8.0), 15.0),
            plumb("door frame, left", "near", -1.32, (1.9, 3.7), 16.9),
            plumb("door frame, right", "near", 0.02, (1.9, 3.7), 16.9),
            level("eaves board", "near", (-4.5, 3.1), 4.05, 16.32),
            level("ridge of the roof", "near", (-4.4, 0.7), 6.7, 19.5),
            level("door head", "near", (-1.25, -0.05), 3.87, 16.9),
        ),
        declare={"Sun_Elevation": "32", "Sun_Azimuth": "-125", "Sun_Colour": "<1.5,1.34,1.1>*1.5"},
        look=Look(exposure=0.8, contrast=1.22),
        summary="Hills on every side and no level line but a hut's.",
    ),
    Shot(
        name="old-print-on-the-scanner.jpg",
        set=ODD_JOBS,
        scene="mill",
        size=(3000, 2200),
        focal35_mm=50,
        at=(0.0, 0.0, 0.0),
        roll_deg=2.1,
        edges=(
            level("paper, upper edge", "near", (-1050.0, 1050.0), 750.0, _SCAN_Z),
            level("paper, lower edge", "near", (-1050.0, 1050.0), -750.0, _SCAN_Z),
            plumb("paper, left edge", "near", -1150.0, (-650.0, 650.0), _SCAN_Z),
            plumb("paper, right edge", "near", 1150.0, (-650.0, 650.0), _SCAN_Z),
            level("print, upper edge", "near", (-950.0, 950.0), 680.0, _SCAN_Z),
            level("print, lower edge", "near", (-950.0, 950.0), -640.0, _SCAN_Z),
            plumb("print, left edge", "near", -1070.0, (-600.0, 600.0), _SCAN_Z),
            plumb("print, right edge", "near", 1070.0, (-600.0, 600.0), _SCAN_Z),
        ),
        declare={**_SUNNY, "Cover": "0.58", "Grass_X": "-4"},
        look=Look(exposure=0.8, contrast=1.3, noise=0.02),
        finish="print on a scanner",
        summary="A scan of an old print that lay askew on a dark scanner bed.",
    ),
)

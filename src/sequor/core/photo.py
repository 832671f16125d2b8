"""What is known of a photograph before anything is decided about it."""

from typing import Annotated, Literal

from pydantic import Field

from sequor.core.value import Value

FileFocal = Literal["file", "sensor", "camera"]
MAX_COEFFICIENT = 4.0
"""Of the polynomial; the strongest lens of the database has 0.8."""
Coefficient = Annotated[float, Field(allow_inf_nan=False, ge=-MAX_COEFFICIENT, le=MAX_COEFFICIENT)]
Polynomial = tuple[Coefficient, Coefficient, Coefficient, Coefficient]
Coefficients = tuple[Coefficient, Coefficient, Coefficient, Coefficient, Coefficient, Coefficient]


MAX_FILE_TANGENTIAL, MAX_OFF_CENTRE = 0.05, 0.25
"""Of a bow that a file states; lenses have some thousandths and hundredths."""
Tangential = Annotated[
    float, Field(allow_inf_nan=False, ge=-MAX_FILE_TANGENTIAL, le=MAX_FILE_TANGENTIAL)
]
OffCentre = Annotated[float, Field(allow_inf_nan=False, ge=-MAX_OFF_CENTRE, le=MAX_OFF_CENTRE)]


class FileBow(Value):
    """The distortion of the lens as a file states it, as its maker measured it.

    The coefficients of `lens.distortion`, and how far the lens's centre is off the middle of the
    upright picture, all in units of half the diagonal.
    """

    polynomial: Coefficients
    tangential: tuple[Tangential, Tangential] = (0.0, 0.0)
    off_centre: tuple[OffCentre, OffCentre] = (0.0, 0.0)

    def upright(self, orientation: int) -> "FileBow":
        """The same for the upright picture, of a stored one with an orientation (Exif, CIPA
        DC-008).
        """
        p1, p2 = self.tangential
        # The aslant part is ``q r^2 + 2 (q . x) x`` with q = (p2, p1), so q turns as places do.
        across, down = _turned((p2, p1), orientation)
        return FileBow(
            polynomial=self.polynomial,
            tangential=(down, across),
            off_centre=_turned(self.off_centre, orientation),
        )


def _turned(way: tuple[float, float], orientation: int) -> tuple[float, float]:
    """A way in the stored picture as it goes in the upright one."""
    x, y = way[::-1] if orientation >= 5 else way
    across = -1 if orientation in (2, 3, 6, 7) else 1
    down = -1 if orientation in (3, 4, 7, 8) else 1
    return x * across, y * down


PoseSource = Literal["exif", "xmp", "maker", "gimbal"]
MOST_POSE_DEG = 89.0


class CameraPose(Value):
    """How the camera says that it was held, in degrees by the conventions of `camera.Stance`: a
    positive roll is one that is taken out by turning the picture clockwise, a positive lean means
    that it pointed up.

    None where it does not say one. ``source`` is where the file says so: in Exif, in XMP of
    panoramas, in the notes of the camera's maker, in what a drone's gimbal wrote.
    """

    roll_deg: float | None = Field(default=None, ge=-45, le=45)
    lean_deg: float | None = Field(default=None, ge=-MOST_POSE_DEG, le=MOST_POSE_DEG)
    source: PoseSource


MOST_SIGMA_DEG = 20.0


class CameraLevel(CameraPose):
    """A pose that is taken as a reading, with its standard deviation."""

    roll_deg: float = Field(ge=-45, le=45)
    sigma_deg: float = Field(gt=0, le=MOST_SIGMA_DEG)


class PhotoFacts(Value):
    """What the solution needs to know about a photo: its upright size and its lens.

    ``width`` and ``height`` are source pixels with the orientation tag applied;
    ``focal35_mm`` is the focal length in 35-mm terms, ``focal_source`` where it comes from: the
    ``file`` says so, or says the size of its ``sensor`` or the name of its ``camera``; ``bow`` is
    the distortion that the file itself states, ``pose`` how it says that the camera was held;
    ``raw`` tells a file that is developed here.
    """

    width: int = Field(ge=1)
    height: int = Field(ge=1)
    focal35_mm: float | None = Field(default=None, gt=0)
    focal_source: FileFocal = "file"
    bow: FileBow | None = None
    pose: CameraPose | None = None
    raw: bool = False

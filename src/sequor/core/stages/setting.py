"""What is given: the camera with its focal length, the lens, and the readings freed of its bow."""

from dataclasses import dataclass

from sequor.core.account.readings import Undistorted
from sequor.core.camera import Matrix, focal_of, intrinsics
from sequor.core.lens.chosen import distortion_of
from sequor.core.lens.distortion import Distortion
from sequor.core.lens.plumb_line import Traced
from sequor.core.photo import PhotoFacts
from sequor.core.readings.by_camera import points_of
from sequor.core.readings.reading import undistorted_reading
from sequor.core.recipe import FocalSource, Reading, Recipe
from sequor.core.warp.map import border_of


@dataclass(frozen=True, eq=False)
class Camera:
    """The focal length that is used, the photo with it, and the calibration matrix ``k``."""

    source: FocalSource
    focal35_mm: float
    photo: PhotoFacts
    k: Matrix

    @property
    def known(self) -> bool:
        """Whether the focal length is more than an assumption."""
        return self.source != "assumed"


def camera_of(photo: PhotoFacts, recipe: Recipe) -> Camera:
    """The camera by the recipe, the file, or an assumption."""
    source, focal35_mm = focal_of(photo, recipe)
    camera = photo.model_copy(update={"focal35_mm": focal35_mm})
    return Camera(source, focal35_mm, camera, intrinsics(camera))


@dataclass(frozen=True, eq=False)
class FoundLens:
    """The distortion that is taken out, what traces say of it, and the border of the picture
    without it, shape (N, 2), also at more places (``dense_border``).
    """

    photo: PhotoFacts
    distortion: Distortion
    traced: Traced | None
    border: Matrix

    @property
    def dense_border(self) -> Matrix:
        """The border at many places, for what bends."""
        return border_of(self.photo, self.distortion, dense=True)


def lens_of(photo: PhotoFacts, recipe: Recipe) -> FoundLens:
    """The lens as the recipe wants it found."""
    distortion, traced = distortion_of(photo, recipe)
    return FoundLens(photo, distortion, traced, border_of(photo, distortion))


@dataclass(frozen=True, eq=False)
class Readings:
    """All readings, and those of them that steer, in order."""

    every: tuple[Undistorted, ...]
    steering: tuple[Undistorted, ...]

    @property
    def lines(self) -> tuple[Reading, ...]:
        """What steers, in the undistorted picture."""
        return tuple(one.line for one in self.steering)


def _straight(reading: Reading, camera: Camera, lens: FoundLens) -> Reading:
    """A reading in the undistorted picture; one that the camera tells lies there by the focal
    length that counts now.
    """
    if reading.camera:
        return reading.model_copy(update={"points": points_of(reading.camera, camera.photo)})
    return undistorted_reading(reading, lens.distortion)


def readings_of(recipe: Recipe, camera: Camera, lens: FoundLens) -> Readings:
    """The readings freed of the distortion."""
    every = tuple(
        Undistorted(number, reading, _straight(reading, camera, lens))
        for number, reading in enumerate(recipe.readings, 1)
    )
    return Readings(every, tuple(one for one in every if one.line.steers))

"""One map from the picture as shot to the corrected one: the lens, a homography, a bending."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from sequor.core.camera import Matrix, apply_homography, inverse
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.warp.bending import Bending

_PER_SIDE = 96
"""Points along each side of a border that radial distortion bends: chords between them stay within
0.02 px of the curve on 24 megapixels at k1 = -0.1 (computed; the sagitta falls with the square of
their number)."""


@dataclass(frozen=True)
class Warp:
    """Source pixels -> undistorted pixels (``distortion``) -> pixels of the turned picture
    (``homography``) -> corrected pixels (``bending``; None where nothing bends).
    """

    homography: Matrix
    distortion: Distortion
    bending: Bending | None = None

    @property
    def straight(self) -> bool:
        """Whether straight lines of the picture as shot stay straight."""
        return self.distortion.straight and self.bending is None

    @cached_property
    def back(self) -> Matrix:
        """The inverse of the homography, 3x3."""
        return inverse(self.homography)

    def to_corrected(self, points: Matrix) -> Matrix:
        """Where points of the picture as shot, shape (N, 2), lie in the corrected one."""
        return self.from_undistorted(self.distortion.undistorted(points))

    def from_undistorted(self, points: Matrix) -> Matrix:
        """Where points of the undistorted picture, shape (N, 2), lie in the corrected one."""
        turned = apply_homography(self.homography, points)
        return self.bending.bent(turned) if self.bending else turned

    def to_source(self, points: Matrix) -> Matrix:
        """Where points of the corrected picture, shape (N, 2), lie in the picture as shot."""
        turned = self.bending.unbent(points) if self.bending else points
        return self.distortion.distorted(apply_homography(self.back, turned))


def border_of(photo: PhotoFacts, distortion: Distortion, dense: bool = False) -> Matrix:
    """The border of a photo, shape (N, 2), undistorted: its vertices, or many points along it where
    it is bent or that is asked for.
    """
    width, height = photo.width, photo.height
    vertices = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float)
    few = distortion.straight and not dense
    return distortion.undistorted(vertices if few else densely(vertices))


def densely(vertices: Matrix) -> Matrix:
    """Many points along the sides of a quadrilateral, shape (4 n, 2)."""
    share = (np.arange(_PER_SIDE) / _PER_SIDE)[None, :, None]
    after = np.roll(vertices, -1, axis=0)
    dense: Matrix = vertices[:, None] * (1 - share) + after[:, None] * share
    return dense.reshape(-1, 2)


def laid_out(
    turn: Matrix, proportion: float, photo: PhotoFacts, border: Matrix
) -> tuple[Matrix, Matrix]:
    """A homography moved so that the picture's box begins at the origin, and the outline then.

    Parameters
    ----------
    turn : ndarray, shape (3, 3)
        The homography of the turn alone.
    proportion : float
        Height against width; the area stays.
    photo : PhotoFacts
        About whose middle the proportion changes.
    border : ndarray, shape (N, 2)
        The undistorted border of the picture.
    """
    h = _with_proportion(turn, proportion, photo)
    outline = apply_homography(h, border)
    low = outline.min(axis=0)
    return np.array([[1, 0, -low[0]], [0, 1, -low[1]], [0, 0, 1]]) @ h, outline - low


def _with_proportion(h: Matrix, proportion: float, photo: PhotoFacts) -> Matrix:
    across, down = proportion**-0.5, proportion**0.5
    cx, cy = photo.width / 2, photo.height / 2
    stretch = np.array([[across, 0, cx - across * cx], [0, down, cy - down * cy], [0, 0, 1]])
    stretched: Matrix = stretch @ h
    return stretched

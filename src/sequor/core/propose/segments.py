"""Straight segments in a small picture, with sub-pixel ends.

Detected by OpenCV's implementation of LSD (von Gioi et al., "LSD: a line segment detector", IPOL
2012).
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.small import Small

MOST_SEGMENTS = 400
"""The longest ones are enough; more are texture."""
_LEAST_SHARE = 0.016
"""Of the small picture's longer side: shorter segments are texture (tried on the demo pictures)."""
END_PX = 0.45
"""Deviation of an end of a segment across it, in pixels of the small picture: the scatter of
segments of generated fronts about the truth."""
_LONG_SHARE = 0.06
"""Of the picture's longer side: a segment as long as that counts whole."""
_ABOUT_RAD = math.radians(5.0)
"""Segments run about alike within this."""
_ANYWHERE = 0.3
"""Share of what has no direction at all."""


@dataclass(frozen=True)
class Segments:
    """Segments about the principal point, in source pixels of the undistorted picture.

    Attributes
    ----------
    ends : ndarray, shape (N, 2, 2)
        Both ends.
    seen : ndarray, shape (N, 2, 2)
        The same in the picture as shot, from its corner.
    middle, along : ndarray, shape (N, 2)
        Middles, and unit vectors along.
    length : ndarray, shape (N,)
        In source pixels.
    sigma_rad : ndarray, shape (N,)
        Standard deviations of their directions.
    usual : ndarray, shape (N,)
        How many of the others run about as each does, as a density over half a turn: in grass one
        upright line more tells nothing.
    counts : ndarray, shape (N,)
        How much each counts as evidence, up to 1: short ones are often texture, and many of them
        are of one thing.
    """

    ends: Matrix
    seen: Matrix
    middle: Matrix
    along: Matrix
    length: Matrix
    sigma_rad: Matrix
    usual: Matrix
    counts: Matrix

    @property
    def count(self) -> int:
        """How many there are."""
        return len(self.length)

    def taken(self, which: NDArray[np.bool_]) -> "Segments":
        """Some of them."""
        return Segments(*(getattr(self, name)[which] for name in self.__dataclass_fields__))


def segments_of(small: Small, photo: PhotoFacts, distortion: Distortion) -> Segments:
    """The longest segments of a picture, the longest first."""
    found = detected(small.grey)
    long_enough = _LEAST_SHARE * max(small.grey.shape)
    length = np.hypot(*(found[:, 1] - found[:, 0]).T)
    order = np.argsort(-length, kind="stable")[:MOST_SEGMENTS]
    found = found[order[length[order] >= long_enough]] * small.times
    return about_centre(found, photo, distortion, END_PX * small.times)


def about_centre(
    seen: Matrix, photo: PhotoFacts, distortion: Distortion, end_px: float
) -> Segments:
    """Segments of the picture as shot, shape (N, 2, 2), as they lie in the undistorted one."""
    straight = distortion.undistorted(seen.reshape(-1, 2)).reshape(seen.shape)
    straight = straight - [photo.width / 2, photo.height / 2]
    across = straight[:, 1] - straight[:, 0]
    length = np.hypot(across[:, 0], across[:, 1])
    angle = np.arctan2(across[:, 1], across[:, 0])
    apart = angle[:, None] - angle[None, :]
    apart -= np.pi * np.round(apart / np.pi)
    near = np.exp(-0.5 * (apart / _ABOUT_RAD) ** 2) / (math.sqrt(2 * math.pi) * _ABOUT_RAD)
    np.fill_diagonal(near, 0.0)
    others = near.sum(axis=1) / max(1, len(angle) - 1)
    return Segments(
        ends=straight,
        seen=seen,
        middle=straight.mean(axis=1),
        along=across / length[:, None],
        length=length,
        sigma_rad=math.sqrt(2) * end_px / length,
        counts=np.minimum(1.0, length / (_LONG_SHARE * max(photo.width, photo.height))) ** 2,
        usual=_ANYWHERE / math.pi + (1 - _ANYWHERE) * others,
    )


def detected(grey: Pixels) -> Matrix:
    """Segments of a grey picture, shape (N, 2, 2), in its pixels from its corner."""
    lines = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(grey)[0]
    if lines is None:
        return np.zeros((0, 2, 2))
    # The detector counts from the middle of the first pixel.
    found: Matrix = lines.reshape(-1, 2, 2).astype(float) + 0.5
    return found

"""Where a bending stretches too much or folds, and how much of it may be done.

That is looked at at places all over the mesh, and closely where it comes near.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numba as nb
import numpy as np

from sequor.core.bend.system import Mesh
from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.pixels import Mask
from sequor.core.warp.bending import Bending, stretch_of

CHECKED = 4
"""Places along each side of a cell at which stretch and folding are checked."""
_LEAST_AREA = 0.05
"""Where the picture does not reach the map may squeeze more, but never fold: it can be gone back
there, too."""
_ALONG_RIM = 8
"""Places along each side of a cell on the rim of the mesh, where derivatives are largest: with
four it still folded by 0.06 between two of them."""
_SQUEEZED, _CLOSE = 0.4, 13
"""Cells whose areas come out smaller than that are looked at by so many places a side: between
quarters of a cell it still folded."""
_NEARLY, _CLOSE_IN = 0.85, 7
"""Cells of the picture that stretch more than that share of the limit are looked at by so many
places a side: between quarters of a cell it went beyond the limit by two per cent."""
_SHARE_STEPS = 12
"""Halvings of how much is done: to a four-thousandth."""
SEEN_STRETCH, SEEN_TURN_RAD = 1.05, math.radians(1.0)
"""More than that counts as bent: five per cent, or a degree."""


@dataclass(frozen=True)
class Bent:
    """A bending, how much of what was asked is done, and how it distorts where there is picture.

    ``max_stretch`` and ``max_turn_rad`` are the largest anywhere, ``min_jacobian`` and
    ``max_jacobian`` the least and the largest enlargement of areas, ``bent_share`` the share of the
    picture that is stretched or turned so that it can be seen (`SEEN_STRETCH`, `SEEN_TURN_RAD`).
    """

    bending: Bending
    share: float
    bent_share: float
    max_stretch: float
    max_turn_rad: float
    min_jacobian: float
    max_jacobian: float


@dataclass(frozen=True, eq=False)
class MeshedPicture:
    """What bends: a mesh, and the outline of the picture in it, shape (N, 2)."""

    mesh: Mesh
    outline: Matrix

    @cached_property
    def places(self) -> Matrix:
        """The places that are checked, row by row, shape (N, 2)."""
        return self.mesh.places(CHECKED)

    @cached_property
    def inside(self) -> Mask:
        """Which of them the picture covers, shape (N,)."""
        found: Mask = _in_polygon(self.places, self.mesh.columns * CHECKED, self.outline)
        return found

    @property
    def covered(self) -> Matrix:
        """How much of each cell the picture covers, shape (rows, columns)."""
        share: Matrix = self.by_cell(self.inside.astype(float)).mean(axis=2)
        return share

    def by_cell(self, values: Matrix) -> Matrix:
        """Values at the places that are checked, by cell, shape (rows, columns, places)."""
        mesh = self.mesh
        parts = values.reshape(mesh.rows, CHECKED, mesh.columns, CHECKED)
        return parts.transpose(0, 2, 1, 3).reshape(mesh.rows, mesh.columns, -1)


@dataclass(frozen=True, eq=False)
class Looked:
    """A bending, looked at for what it does to the picture."""

    found: Bending
    picture: MeshedPicture

    @cached_property
    def _at_places(self) -> Matrix:
        return self.found.jacobian(self.picture.places)

    @cached_property
    def _worst(self) -> Matrix:
        """The most that each cell of the picture is strained, shape (rows, columns)."""
        strain = np.where(self.picture.inside, _strain(self._at_places), 1.0)
        worst: Matrix = self.picture.by_cell(strain).max(axis=2)
        return worst

    @cached_property
    def _doubtful(self) -> tuple[Matrix, Matrix]:
        """Places where it might fold, and its derivatives there: the joints of the mesh, and places
        close together in the cells that are squeezed.
        """
        mesh = self.picture.mesh
        joints = mesh.joints(_ALONG_RIM)
        at_joints = self.found.jacobian(joints)
        inner = self.picture.by_cell(stretch_of(self._at_places)[2]).min(axis=2)
        squeezed = joints[stretch_of(at_joints)[2] < _SQUEEZED]
        close = mesh.within((inner < _SQUEEZED) | (mesh.touched((squeezed,)) > 0), _CLOSE)
        return (
            np.concatenate([joints, close]),
            np.concatenate([at_joints, self.found.jacobian(close)]),
        )

    def over(self, limit: float) -> Mask:
        """Which cells of the picture stretch more than a limit, shape (rows, columns)."""
        outline = self.picture.outline
        beyond = outline[_strain(self.found.jacobian(outline)) > limit]
        over: Mask = (self._worst > limit) | (self.picture.mesh.touched((beyond,)) > 0)
        return over

    def folding(self) -> Mask:
        """Which cells fold, or nearly, where no picture is as well, shape (rows, columns)."""
        places, derivatives = self._doubtful
        folding = places[stretch_of(derivatives)[2] < _LEAST_AREA]
        folds: Mask = self.picture.mesh.touched((folding,)) > 0
        return folds

    def limited(self, limit: float, rigid: Matrix | None) -> Bent:
        """As much of it as neither folds nor stretches more than a limit, on the border of the
        picture as well.

        With ``rigid``, 1 for cells that must not bend, shape (rows, columns), these are not seen to
        turn either, and it is looked at closely between the places that are checked.
        """
        further, held = self.picture.outline, np.zeros(0, np.bool_)
        if rigid is not None:
            further = np.concatenate([further, self._near(limit)])
            each = np.repeat(np.repeat(rigid > 0, CHECKED, axis=0), CHECKED, axis=1).ravel()
            held = each & self.picture.inside
        inside = self.picture.inside
        full = np.concatenate([self._at_places, self.found.jacobian(further)]) - np.eye(2)
        covered = np.concatenate([inside, np.ones(len(further), np.bool_)])
        doubtful = self._doubtful[1] - np.eye(2)

        def safe(share: float) -> bool:
            jacobian = np.eye(2) + share * full
            elsewhere = np.eye(2) + share * doubtful
            least = min(stretch_of(some)[2].min() for some in (jacobian, elsewhere))
            turned = np.abs(stretch_of(jacobian[: len(held)][held])[1]).max(initial=0.0)
            return bool(
                _strain(jacobian)[covered].max() <= limit
                and least >= _LEAST_AREA
                and turned <= SEEN_TURN_RAD
            )

        share = 1.0 if safe(1.0) else greatest(safe, 0.0, 1.0, _SHARE_STEPS)
        stretch, turn, area = stretch_of(np.eye(2) + share * full[covered])
        seen = (stretch > SEEN_STRETCH) | (np.abs(turn) > SEEN_TURN_RAD)
        return Bent(
            bending=self.found if share == 1.0 else self.found.eased(share),
            share=share,
            bent_share=float(seen[: np.count_nonzero(inside)].mean()),
            max_stretch=float(stretch.max()),
            max_turn_rad=float(np.abs(turn).max()),
            min_jacobian=float(area.min()),
            max_jacobian=float(area.max()),
        )

    def _near(self, limit: float) -> Matrix:
        """Places of the picture close together in the cells that stretch nearly as much as a limit,
        shape (N, 2).
        """
        places = self.picture.mesh.within(self._worst > limit * _NEARLY, _CLOSE_IN)
        near: Matrix = places[_in_polygon(places, _CLOSE_IN, self.picture.outline)]
        return near


def _strain(jacobian: Matrix) -> Matrix:
    """By how much lengths or areas change at most, up or down, shape (N,)."""
    stretch, _, area = stretch_of(jacobian)
    held = np.maximum(area, 1e-12)
    strain: Matrix = np.maximum(stretch, np.maximum(held, 1 / held))
    return strain


@nb.njit(cache=True, error_model="numpy")
def _in_polygon(places: Any, columns: int, outline: Any) -> Any:
    """Which places of a grid, row by row, lie in a polygon, by the even-odd rule."""
    inside = np.zeros(len(places), np.bool_)
    crossings = np.empty(len(outline))
    for first in range(0, len(places), columns):
        y, count = places[first, 1], 0
        for k in range(len(outline)):
            ax, ay, bx, by = outline[k - 1, 0], outline[k - 1, 1], outline[k, 0], outline[k, 1]
            if (ay > y) != (by > y):
                crossings[count] = ax + (y - ay) / (by - ay) * (bx - ax)
                count += 1
        for place in range(first, first + columns):
            for k in range(count):
                if places[place, 0] < crossings[k]:
                    inside[place] = not inside[place]
    return inside

"""How much lean and swing a picture can bear."""

import numpy as np

from sequor.core.bisection import greatest
from sequor.core.camera import Matrix, Stance, inverse, rotation, stance_of

SAFE_STRETCH = 3.0
"""No corner of the picture is magnified more than this many times as much as its centre: by then
nine source pixels' worth of detail is asked of one."""


def safe_turn(turn: Matrix, k: Matrix, border: Matrix) -> tuple[Matrix, bool]:
    """A rotation with as much of its lean and swing as the picture can bear.

    The horizon of the projection, where the third row of ``K R K^-1`` is zero, is kept so far from
    the picture that no corner is magnified more than `SAFE_STRETCH` times as much as its centre.

    Parameters
    ----------
    turn, k : ndarray, shape (3, 3)
        The rotation that is wanted, and the camera matrix.
    border : ndarray, shape (N, 2)
        The undistorted border of the picture.

    Returns
    -------
    (ndarray, bool)
        The rotation, and whether any lean or swing was given up.
    """
    rays = np.column_stack([border, np.ones(len(border))]) @ inverse(k).T
    stance = stance_of(turn)

    def at(share: float) -> Matrix:
        return rotation(Stance(stance.roll_rad, stance.lean_rad * share, stance.swing_rad * share))

    def safe(trial: Matrix) -> bool:
        centre = float(trial[2, 2])
        return centre > 0 and float((rays @ trial[2]).min()) >= centre / SAFE_STRETCH

    if safe(turn):
        return turn, False
    return at(greatest(lambda share: safe(at(share)), 0.0, 1.0)), True

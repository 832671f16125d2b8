"""What the plumb-line method asks for hundreds of times a solution: how points move with the
coefficients of a lens, and how far they lie from straight lines. Loops over points and traces,
compiled: in arrays each small step would cost more than its sums.
"""

from typing import Any

import numba as nb
import numpy as np

from sequor.core.lens.distortion import LEAST_SLOPE

_P1, _ACROSS = 3, 5
"""Places among the coefficients: k1 to k3 come before p1 and p2, the two of the centre last."""


@nb.njit(cache=True, error_model="numpy")
def movements(away: Any, polynomial: Any, tangential: Any, asked: Any) -> Any:
    """How undistorted points move with each coefficient where the points as shot stay.

    ``d F = 0`` for the model F of `distortion`: ``du = - (dF/du)^-1 dF/dc``, and with the centre
    the points move themselves.

    Parameters
    ----------
    away : Matrix
        The points about the lens's centre, shape (N, 2), in units of half the diagonal.
    polynomial, tangential : Matrix
        Of the distortion, shapes (6,) and (2,).
    asked : Matrix
        Which coefficients, by their places among k1, k2, k3, p1, p2 and the centre's x and y;
        shape (C,).

    Returns
    -------
    Matrix
        Shape (N, 2, C), in units of half the diagonal.
    """
    p1, p2 = tangential
    moved = np.empty((len(away), 2, len(asked)))
    for n in range(len(away)):
        x, y = away[n]
        square = x * x + y * y
        radius = np.sqrt(square)
        stretch, slope, power = 1.0, 1.0, 1.0
        for c in range(6):
            power *= radius
            stretch += polynomial[c] * power
            slope += (c + 2) * polynomial[c] * power
        slope = max(abs(slope), LEAST_SLOPE)
        ux, uy = (x / radius, y / radius) if radius > 0 else (0.0, 0.0)
        more = slope - stretch
        cross = 2 * (p1 * x + p2 * y) + more * ux * uy
        across = stretch + more * ux * ux + 2 * p1 * y + 6 * p2 * x
        down = stretch + more * uy * uy + 6 * p1 * y + 2 * p2 * x
        whole = across * down - cross * cross
        xx, xy, yy = down / whole, -cross / whole, across / whole  # of the inverse
        for k in range(len(asked)):
            name = asked[k]
            if name >= _ACROSS:
                moved[n, 0, k] = (1 - xx) if name == _ACROSS else -xy
                moved[n, 1, k] = -xy if name == _ACROSS else 1 - yy
                continue
            if name < _P1:
                grown = square ** (name + 1)
                fx, fy = x * grown, y * grown
            elif name == _P1:
                fx, fy = 2 * x * y, square + 2 * y * y
            else:
                fx, fy = square + 2 * x * x, 2 * x * y
            moved[n, 0, k] = -(xx * fx + xy * fy)
            moved[n, 1, k] = -(xy * fx + yy * fy)
    return moved


@nb.njit(cache=True, error_model="numpy")
def off_lines(straight: Any, moved: Any, weights: Any, first: Any) -> Any:
    """How far points lie from the lines of total least squares through their traces.

    The line lies along the larger eigenvector of the scatter of a trace. That turns with the
    points: the eigenvector ``a`` moves along the normal ``n`` by ``n' dC a / (l1 - l2)`` (a
    perturbation of a symmetric matrix).

    Parameters
    ----------
    straight : Matrix
        The undistorted points of all traces, shape (N, 2).
    moved : Matrix
        How they move with each coefficient, shape (N, 2, C), in the same unit.
    weights : Matrix
        Of the points, shape (N,).
    first : Matrix
        Where each trace begins, and N; shape (T + 1,).

    Returns
    -------
    (Matrix, Matrix)
        The signed distances, shape (N,), and their growth with each coefficient, shape (N, C).
    """
    count = moved.shape[2]
    over, grown = np.empty(len(straight)), np.empty((len(straight), count))
    for trace in range(len(first) - 1):
        begin, end = first[trace], first[trace + 1]
        total = mx = my = 0.0
        for n in range(begin, end):
            total += weights[n]
            mx += weights[n] * straight[n, 0]
            my += weights[n] * straight[n, 1]
        mx, my = mx / total, my / total
        xx = xy = yy = 0.0
        for n in range(begin, end):
            x, y = straight[n, 0] - mx, straight[n, 1] - my
            xx += weights[n] * x * x
            xy += weights[n] * x * y
            yy += weights[n] * y * y
        turned = 0.5 * np.arctan2(2 * xy, xx - yy)
        ax, ay = np.cos(turned), np.sin(turned)
        spread = max(np.hypot(xx - yy, 2 * xy), np.finfo(np.float64).tiny)
        for n in range(begin, end):
            over[n] = (straight[n, 1] - my) * ax - (straight[n, 0] - mx) * ay
        for k in range(count):
            dx = dy = 0.0
            for n in range(begin, end):
                dx += weights[n] * moved[n, 0, k]
                dy += weights[n] * moved[n, 1, k]
            dx, dy = dx / total, dy / total
            turn = 0.0
            for n in range(begin, end):
                x, y = moved[n, 0, k] - dx, moved[n, 1, k] - dy
                off, along = y * ax - x * ay, x * ax + y * ay
                beside = (straight[n, 0] - mx) * ax + (straight[n, 1] - my) * ay
                turn += weights[n] * (off * beside + over[n] * along)
                grown[n, k] = off
            turn /= spread
            for n in range(begin, end):
                beside = (straight[n, 0] - mx) * ax + (straight[n, 1] - my) * ay
                grown[n, k] -= turn * beside
    return over, grown

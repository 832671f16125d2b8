"""Angles of undirected lines."""

import math

from sequor.core.recipe import Direction


def wrap_axial(angle_rad: float) -> float:
    """Bring the angle of an undirected line into (-pi/2, pi/2]."""
    wrapped = math.remainder(angle_rad, math.pi)
    return math.pi / 2 if wrapped == -math.pi / 2 else wrapped


def tilt_of(dx: float, dy: float, direction: Direction) -> float:
    """Tilt from true of an undirected line that runs along (dx, dy), in radians, positive clockwise
    on the screen, in (-pi/2, pi/2].
    """
    return wrap_axial(math.atan2(dy, dx) if direction == "level" else math.atan2(-dx, dy))

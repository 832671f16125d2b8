"""Angles of undirected lines."""

import math


def wrap_axial(angle_rad: float) -> float:
    """Bring the angle of an undirected line into (-pi/2, pi/2]."""
    wrapped = math.remainder(angle_rad, math.pi)
    return math.pi / 2 if wrapped == -math.pi / 2 else wrapped

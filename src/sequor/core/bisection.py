"""Bisection: the greatest value at which something still holds."""

from collections.abc import Callable

STEPS = 40
"""Halvings: the last one is a 10^12th of where the search began.

Below rounding of what is sought.
"""


def greatest(holds: Callable[[float], bool], low: float, high: float, steps: int = STEPS) -> float:
    """The greatest value from ``low`` to ``high`` at which ``holds``.

    It is taken to hold at ``low``, and to stop holding once on the way up.
    """
    for _ in range(steps):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low

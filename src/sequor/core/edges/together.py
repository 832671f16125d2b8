"""Readings fitted to the edges under them: one alone, or the sides of a rectangle together."""

from sequor.core.edges.fitting import Expected, fitted
from sequor.core.lens.distortion import Distortion
from sequor.core.pixels import Pixels
from sequor.core.readings.rectangle import SIDES, joined
from sequor.core.recipe import Reading


def fit_all(
    readings: tuple[Reading, ...],
    pixels: Pixels,
    distortion: Distortion,
    expected: Expected | None = None,
) -> tuple[Reading, ...]:
    """Readings fitted to the edges under them, as they were drawn where there is none.

    The four sides of one rectangle keep common corners. ``expected`` is what others say of a single
    one.
    """
    found = tuple(fitted(reading, pixels, distortion, expected) or reading for reading in readings)
    groups = {reading.group for reading in found}
    linked = len(found) == len(SIDES) and len(groups) == 1 and None not in groups
    if linked and any(reading.fitted for reading in found):
        return joined(found, distortion)
    return found

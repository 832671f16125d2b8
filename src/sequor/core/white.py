"""The light of a raw picture that is to look neutral, as a chromaticity.

A chromaticity (x, y) (CIE 15:2004) belongs to the light and not to the camera: how strongly a
sensor's colours are amplified for it follows from the camera's matrix, so that what was chosen for
one picture means the same for one of another camera.
"""

from typing import Annotated, Literal, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

Chromaticity = tuple[float, float]
Illuminant = Literal["daylight", "cloud", "shade", "lamp"]
ILLUMINANTS: dict[Illuminant, Chromaticity] = {
    "daylight": (0.33243, 0.34744),
    "cloud": (0.31272, 0.32903),
    "shade": (0.29903, 0.31488),
    "lamp": (0.44758, 0.40745),
}
"""CIE 15:2004, table T.3, two-degree observer: D55, D65, D75 and A. Which light is called what is
common practice, no published source."""
CHROMATICITY_PLACES = 5
"""As many as the standard's tables have; finer is not seen."""
MIN_X, MAX_X, MIN_Y, MAX_Y = 0.2, 0.6, 0.2, 0.5
"""What any light that pictures are taken by lies within."""
LightX = Annotated[float, Field(ge=MIN_X, le=MAX_X)]
LightY = Annotated[float, Field(ge=MIN_Y, le=MAX_Y)]
_MOST_ASIDE = 0.05
"""Farther from what glows a light has no correlated colour temperature (CIE 15:2004, 9.5)."""
_REDDEST_K, _BLUEST_K = 1700.0, 40_000.0
"""Of what glows: redder than a candle, bluer than any sky."""
_MOST_GAIN = 16.0
"""A colour that would have to be amplified more is noise."""
assert tuple(ILLUMINANTS) == get_args(Illuminant)


class NoWhite(ValueError):
    """No light in reach has this colour, or this camera cannot see it."""


def gains_for(white: Chromaticity, to_camera: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much each colour of a sensor is amplified so that a light looks neutral.

    Parameters
    ----------
    white : tuple of float
        The light's chromaticity.
    to_camera : ndarray, shape (3, 3)
        From CIE XYZ to the colours of the camera (DNG 1.7, ColorMatrix).

    Returns
    -------
    ndarray, shape (3,)
        The least of them 1.

    Raises
    ------
    NoWhite
        When the camera would not see such a light in every colour.
    """
    x, y = white
    seen = to_camera @ np.array([x / y, 1.0, (1 - x - y) / y])
    if not np.isfinite(seen).all() or seen.min() <= 0 or seen.max() > _MOST_GAIN * seen.min():
        raise NoWhite
    gains: NDArray[np.float64] = seen.max() / seen
    return gains


def chromaticity_of(seen: NDArray[np.float64], to_camera: NDArray[np.float64]) -> Chromaticity:
    """The light under which something grey is seen by a sensor as it is: `gains_for` turned round
    (DNG 1.7, chapter 6, from a camera's neutral to a white point).

    Parameters
    ----------
    seen : ndarray, shape (3,)
        The numbers of the sensor, without its black.
    to_camera : ndarray, shape (3, 3)
        See `gains_for`.

    Raises
    ------
    NoWhite
        When no light in reach has this colour: it is no grey thing.
    """
    try:
        whole = np.linalg.solve(to_camera, seen)
    except np.linalg.LinAlgError as problem:
        raise NoWhite from problem
    x, y, _ = (float(part) for part in whole / whole.sum())
    if not in_reach((x, y)) or _aside((x, y)) > _MOST_ASIDE:
        raise NoWhite
    return x, y


def in_reach(white: Chromaticity) -> bool:
    """Whether pictures are taken by such a light at all."""
    x, y = white
    return MIN_X <= x <= MAX_X and MIN_Y <= y <= MAX_Y


def _aside(white: Chromaticity) -> float:
    """How far a light is from what glows, in the CIE 1960 diagram.

    Where what glows at T kelvins lies: Krystek, "An algorithm to calculate correlated colour
    temperature", Color Research & Application 10, 1985.
    """
    t = 1 / np.linspace(1 / _BLUEST_K, 1 / _REDDEST_K, 200)
    u = 0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t**2
    u /= 1 + 8.42420235e-4 * t + 7.08145163e-7 * t**2
    v = 0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t**2
    v /= 1 - 2.89741816e-5 * t + 1.61456053e-7 * t**2
    x, y = white
    whole = -2 * x + 12 * y + 3
    return float(np.hypot(u - 4 * x / whole, v - 6 * y / whole).min())


def colour_temperature(white: Chromaticity) -> float:
    """The correlated colour temperature of a light, in kelvins, good to about 2 K between 2,856 and
    6,504 (McCamy, "Correlated color temperature as an explicit function of chromaticity
    coordinates", Color Research & Application 17, 1992).
    """
    x, y = white
    n = (x - 0.3320) / (0.1858 - y)
    return 449 * n**3 + 3525 * n**2 + 6823.3 * n + 5520.33

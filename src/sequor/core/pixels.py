"""Pixels and masks, as the arrays they are everywhere in the core."""

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8] | NDArray[np.uint16]
"""Shape (height, width, channels): grey or RGB, each with or without alpha as the last channel."""
Mask = NDArray[np.bool_]
"""Shape (height, width)."""

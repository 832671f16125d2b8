"""Pictures of inks (CMYK), as inks: for files that are to stay what their original is.

What is shown, read and filled is a version in colours (`decode`); here the inks themselves are
read again, and colours become inks by the original's own profile (LittleCMS).
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyvips

from sequor.core.pixels import Pixels
from sequor.pictures.decode import as_pixels
from sequor.pictures.inspect import FileFacts
from sequor.pictures.orientation import upright
from sequor.pictures.profiles import WIDE_FILE

COLOURED = 3
"""Inks that have a colour: cyan, magenta, yellow; then comes black."""
_PROFILE, _USUAL = "icc-profile-data", "cmyk"
"""Where libvips keeps a profile, and the one that it brings for inks without."""


@dataclass(frozen=True)
class InkPicture:
    """Inks of shape (height, width, 4), uint8 or uint16, 0 for bare paper, upright; ``profile``
    says what they look like, None where the file does not.
    """

    values: Pixels
    profile: bytes | None

    def of_colours(self, colours: Pixels) -> Pixels:
        """The inks of colours of the wide profile, shape (n, 3), uint16, in as many bits as these
        have.
        """
        row = np.ascontiguousarray(colours[None])
        image = pyvips.Image.new_from_memory(row, row.shape[1], 1, row.shape[2], "ushort")
        image = image.copy(interpretation="rgb16")
        image = image.icc_import(input_profile=str(WIDE_FILE), intent="relative")
        how = {"intent": "relative", "depth": 8 * self.values.dtype.itemsize}
        if self.profile is None:
            how["output_profile"] = _USUAL
        else:
            image = image.copy()
            image.set_type(pyvips.GValue.blob_type, _PROFILE, self.profile)
        made: Pixels = as_pixels(image.icc_export(**how))[0]
        return made


def read_inks(path: Path, facts: FileFacts) -> InkPicture:
    """The inks of a file that was decoded before."""
    image = pyvips.Image.new_from_file(str(path), access="sequential", fail_on="none")
    profile = image.get(_PROFILE) if image.get_typeof(_PROFILE) else None
    return InkPicture(upright(as_pixels(image)[..., : COLOURED + 1], facts.orientation), profile)

"""A raw twin of a finished picture: what its camera's sensor saw, before anything was developed.

The picture is taken back to light, seen through a lens with a bow that the file states
(WarpRectilinear, DNG 1.7, chapter 7), through a mosaic of colours, with noise. Its camera says how
it was held, off by half a degree, as levels in cameras are. Run as a module from the root of the
repository it writes the demo's raw picture anew.
"""

import subprocess
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from tests.pictures.raws import Camera, warp_rectilinear, write_dng

from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.pictures.profiles import srgb_light
from sequor.pictures.raw import bow_of

PICTURES = Path(__file__).parents[1] / "pictures"
TWIN, RAW = "ridge-hut.jpg", "ridge-hut-undeveloped.dng"
SIZE = (2400, 1600)
RADIAL = (1.0, -0.045, 0.008, 0.0)
NARROWER = 0.952
"""A longer lens, so that its bow shows nothing beyond the finished picture."""
FOCAL35_MM = 32 / NARROWER
ROLL_DEG, LEAN_DEG = -2.2, 0.4
"""What the camera says; it was rolled by -2.7 degrees and did not lean."""


def main() -> None:
    """Write the raw twin."""
    width, height = SIZE
    finished = Image.open(PICTURES / TWIN).convert("RGB").resize(SIZE, Image.Resampling.LANCZOS)
    light = srgb_light(np.asarray(finished) / 255.0).astype(np.float32)
    tag, opcodes = warp_rectilinear(RADIAL)
    bow = bow_of(bytes(opcodes), SIZE)
    assert bow is not None
    lens = Distortion.of(PhotoFacts(width=width, height=height), bow.polynomial)
    places = np.stack(np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5), axis=-1)
    straight = lens.undistorted(places.reshape(-1, 2)).reshape(places.shape)
    middle = np.array(SIZE) / 2
    straight = middle + (straight - middle) * NARROWER - 0.5
    across, down = (straight[..., axis].astype(np.float32) for axis in (0, 1))
    seen = cv2.remap(light, across, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    camera = Camera(noise=5.0, bits=12, tags=((tag, opcodes),))
    path = write_dng(PICTURES / RAW, np.clip(seen, 0, 1), camera)
    subprocess.run(
        [
            "exiftool",
            "-q",
            "-overwrite_original",
            f"-ExifIFD:FocalLengthIn35mmFormat={FOCAL35_MM:.0f}",
        ]
        + ["-DateTimeOriginal=2026:05:09 07:41:10", f"-XMP-GPano:PoseRollDegrees={ROLL_DEG}"]
        + [f"-XMP-GPano:PosePitchDegrees={LEAN_DEG}", str(path)],
        check=True,
    )


if __name__ == "__main__":
    main()

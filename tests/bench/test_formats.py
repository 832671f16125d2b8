"""Every format that is read: seconds and memory for 24 megapixels, as docs/files.md has them.

The memory is that of reading a file and making its proxy, in what it decodes to; it is what
`pictures.formats.READ` asks for before a file is taken in, and no less.
"""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pillow_heif
import pytest
import tifffile
from PIL import Image

from sequor.pictures.decode import claimed_bytes, decode
from sequor.pictures.formats import READ
from sequor.pictures.inspect import inspect
from tests.bench.conftest import median_seconds
from tests.bench.targets import Measured, tell
from tests.conftest import ROOT
from tests.pictures.raws import write_dng


def deep(pixels: np.ndarray) -> np.ndarray:
    return pixels.astype(np.uint16) * 257


def write_heic(path: Path, pixels: np.ndarray) -> None:
    made = pillow_heif.from_bytes("RGB", (pixels.shape[1], pixels.shape[0]), pixels.tobytes())
    made.save(path, quality=80, enc_params={"preset": "ultrafast"})


def write_exr(path: Path, pixels: np.ndarray) -> None:
    planes = {name: np.ascontiguousarray(pixels[:, :, n]) for n, name in enumerate("RGB")}
    halves = {name: plane.astype(np.float16) / 255 for name, plane in planes.items()}
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, halves) as file:
        file.write(str(path))


WRITERS: dict[str, Callable[[Path, np.ndarray], object]] = {
    "a.jpg": lambda path, pixels: Image.fromarray(pixels).save(path, quality=95),
    "a.png": lambda path, pixels: Image.fromarray(pixels).save(path, compress_level=1),
    "a.tif": lambda path, pixels: tifffile.imwrite(path, deep(pixels), photometric="rgb"),
    "float.tif": lambda path, pixels: tifffile.imwrite(
        path, pixels.astype(np.float32) / 255, photometric="rgb"
    ),
    "a.webp": lambda path, pixels: Image.fromarray(pixels).save(path, method=0),
    "a.heic": write_heic,
    "a.avif": lambda path, pixels: Image.fromarray(pixels).save(path, speed=10),
    "a.jxl": lambda path, pixels: path.write_bytes(imagecodecs.jpegxl_encode(pixels, effort=1)),
    "a.jp2": lambda path, pixels: path.write_bytes(
        imagecodecs.jpeg2k_encode(pixels, level=40, codecformat="jp2")
    ),
    "a.bmp": lambda path, pixels: Image.fromarray(pixels).save(path),
    "a.gif": lambda path, pixels: Image.fromarray(pixels).save(path),
    "a.exr": write_exr,
    "a.dng": lambda path, pixels: write_dng(path, pixels / 255.0),
}

PEAK = """
import re, sys
from pathlib import Path
from sequor.pictures.decode import first_look
from sequor.pictures.proxy import make_proxy

def kilobytes(name):
    return int(re.search(name + r":\\s+(\\d+)", Path("/proc/self/status").read_text())[1])

idle = kilobytes("VmRSS")
Path("/proc/self/clear_refs").write_text("5")
path = Path(sys.argv[1])
make_proxy(first_look(path, path.name, 300, 2560))
print(kilobytes("VmHWM") - idle)
"""


@pytest.mark.parametrize("name", WRITERS)
def test_reading_24_megapixels(
    large_jpeg: Path, tmp_path: Path, reference_seconds: float, name: str
) -> None:
    pixels = decode(large_jpeg).pixels
    path = tmp_path / name
    WRITERS[name](path, pixels)
    facts = inspect(path)
    claimed = claimed_bytes(path, facts, name)
    seconds = median_seconds(lambda: decode(path))
    command = [sys.executable, "-c", PEAK, str(path)]
    said = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout
    needed = (int(said) * 1024 - path.stat().st_size) / claimed
    size_mb, claimed_mb = path.stat().st_size / 2**20, claimed / 2**20
    print(f"\n{name}: {facts.format}, {size_mb:.0f} MB, claims {claimed_mb:.0f} MB")
    tell(Measured(f"decoding {name}", seconds / reference_seconds, 2.0, "R"))
    tell(Measured(f"memory of taking in {name}", needed, READ[facts.format].needs, "of its claim"))

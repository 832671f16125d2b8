"""How files are written: formats, depth, profile, resolution tags, metadata and names, read back
by other libraries.
"""

import re
import subprocess
import sys
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import DecodedPicture, decode
from sequor.pictures.encode import SUFFIXES, FileChoice, Format, encode
from sequor.pictures.metadata import FILL_NAMESPACE, Filled
from sequor.pictures.naming import Named, check_pattern, distinct, file_name
from tests.conftest import ROOT
from tests.pictures.test_writing_files import GPS_IFD, PROFILE, tagged_original

SOFTWARE = 0x0131
FILL = Filled(0.0412, "patches")


@pytest.fixture
def original(tmp_path: Path) -> tuple[Path, DecodedPicture]:
    path = tagged_original(tmp_path)
    return path, decode(path)


def written(
    original: tuple[Path, DecodedPicture],
    folder: Path,
    choice: FileChoice,
    filled: Filled | None = None,
) -> Path:
    source, picture = original
    target = folder / f"out{SUFFIXES[choice.format]}"
    encode(picture.pixels, picture, source, target, choice, filled)
    return target


def packet_of(out: Image.Image) -> str:
    xmp = (
        out.info.get("xmp")
        or out.info.get("XML:com.adobe.xmp")
        or getattr(out, "tag_v2", {}).get(700)
        or b""
    )
    return xmp if isinstance(xmp, str) else xmp.decode()


@pytest.mark.parametrize("format", ["webp", "avif"])
def test_webp_and_avif_keep_profile_and_metadata(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format
) -> None:
    with Image.open(written(original, tmp_path, FileChoice(format))) as out:
        out.load()
        assert out.format == format.upper()
        assert out.info["icc_profile"] == PROFILE
        assert (out.getexif()[0x010F], out.getexif()[0x0112]) == ("Fenlight", 1)
        assert "Mill" in packet_of(out)


@pytest.mark.parametrize("format", ["webp", "avif"])
@pytest.mark.parametrize("channels", [1, 2, 3, 4])
def test_webp_and_avif_hold_every_kind_of_picture(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format, channels: int
) -> None:
    source, picture = original
    ramp = (
        np.linspace(20, 230, 64 * 48).reshape(48, 64, 1).astype(np.uint8).repeat(channels, axis=2)
    )
    target = tmp_path / f"ramp{SUFFIXES[format]}"
    encode(ramp.astype(np.uint16) * 257, picture, source, target, FileChoice(format, 95))
    with Image.open(target) as out:
        back = np.asarray(out.convert("RGBA" if channels in (2, 4) else "RGB")).astype(int)
    assert back.shape == (48, 64, 4 if channels in (2, 4) else 3)
    assert np.abs(back[:, :, :3] - ramp[:, :, :1]).mean() < 3


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff", "webp", "avif"])
def test_the_resolution_is_written(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format
) -> None:
    path = written(original, tmp_path, FileChoice(format, ppi=240))
    with Image.open(path) as out:
        exif = out.getexif()
        assert (float(exif[0x011A]), float(exif[0x011B]), exif[0x0128]) == pytest.approx(
            (240, 240, 2)
        )
        if format in ("jpeg", "png", "tiff"):
            assert out.info["dpi"] == pytest.approx((240, 240), abs=0.01)
    if format == "tiff":
        with tifffile.TiffFile(path) as file:
            tags = file.pages[0].tags
            x = tags["XResolution"].value
            assert x[0] / x[1] == pytest.approx(240, abs=1e-3)
            assert int(tags["ResolutionUnit"].value) == 2


@pytest.mark.parametrize("format", ["png", "tiff"])
@pytest.mark.parametrize(("bits", "kind"), [(8, np.uint8), (16, np.uint16), (None, np.uint8)])
def test_the_depth_is_chosen(
    original: tuple[Path, DecodedPicture],
    tmp_path: Path,
    format: Format,
    bits: int | None,
    kind: type,
) -> None:
    back = decode(written(original, tmp_path, FileChoice(format, bits=bits))).pixels  # type: ignore[arg-type]
    assert back.dtype == kind
    np.testing.assert_array_equal(back // (257 if kind == np.uint16 else 1), original[1].pixels)


def test_conversion_to_srgb_agrees_with_littlecms(tmp_path: Path) -> None:
    import pyvips

    base = (
        (pyvips.Image.black(60, 40, bands=3) + [200, 30, 30])
        .cast("uchar")
        .copy(interpretation="srgb")
    )
    base.icc_transform("p3", input_profile="srgb").pngsave(str(tmp_path / "wide.png"))
    picture = decode(tmp_path / "wide.png")
    encode(
        picture.pixels,
        picture,
        tmp_path / "wide.png",
        tmp_path / "out.png",
        FileChoice("png", srgb=True),
    )
    with Image.open(tmp_path / "out.png") as out, Image.open(tmp_path / "wide.png") as wide:
        # Pillow's own binding of LittleCMS, from the file's profile to its sRGB (IEC 61966-2-1).
        wide_profile = ImageCms.ImageCmsProfile(__import__("io").BytesIO(wide.info["icc_profile"]))
        theirs = ImageCms.profileToProfile(
            wide.convert("RGB"), wide_profile, ImageCms.createProfile("sRGB")
        )
        assert np.abs(np.asarray(out).astype(int) - np.asarray(theirs).astype(int)).max() <= 2
        assert "sRGB" in ImageCms.getProfileDescription(
            ImageCms.ImageCmsProfile(__import__("io").BytesIO(out.info["icc_profile"]))
        )


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff", "webp", "avif"])
def test_metadata_without_the_place_and_without_anything(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format
) -> None:
    with Image.open(written(original, tmp_path, FileChoice(format, metadata="no_place"))) as out:
        assert out.getexif()[0x010F] == "Fenlight"
        assert not out.getexif().get_ifd(GPS_IFD)
    with Image.open(written(original, tmp_path, FileChoice(format, metadata="none"))) as out:
        exif = out.getexif()
        assert 0x010F not in exif
        assert 0x8298 not in exif
        assert not exif.get_ifd(GPS_IFD)
        assert "Mill" not in packet_of(out)


@pytest.mark.parametrize("metadata", ["all", "none"])
@pytest.mark.parametrize("format", ["jpeg", "png", "tiff", "webp", "avif"])
def test_the_metadata_say_what_share_was_filled(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format, metadata: str
) -> None:
    with Image.open(
        written(original, tmp_path, FileChoice(format, metadata=metadata), FILL)
    ) as out:  # type: ignore[arg-type]
        text = packet_of(out) if metadata == "none" else ""
        assert re.match(r"Sequor: 4\.12 % of the pixels, .* synthesised", out.getexif()[SOFTWARE])
    if metadata == "none":
        assert re.search(rf"xmlns:sequor=.{FILL_NAMESPACE}.", text)
        assert re.search(r'sequor:FilledShare(="|>)0\.041200', text)
        assert re.search(r'sequor:FillMethod(="|>)patches', text)


def test_a_webp_that_would_be_too_wide_is_refused(
    original: tuple[Path, DecodedPicture], tmp_path: Path
) -> None:
    source, picture = original
    with pytest.raises(UnusableInput, match="16383"):
        encode(
            np.zeros((1, 16384, 3), np.uint8),
            picture,
            source,
            tmp_path / "w.webp",
            FileChoice("webp"),
        )


FULL_DISK = """
import resource, signal, sys
from pathlib import Path
import numpy as np
from sequor.core.errors import UnusableInput
from sequor.pictures.decode import decode
from sequor.pictures.encode import FileChoice, encode

signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
source, target = Path(sys.argv[1]), Path(sys.argv[2])
picture = decode(source)
noise = np.random.default_rng(1).integers(0, 255, (900, 1200, 3), np.uint8)
# what a full disk does, with a write that fails half-way
resource.setrlimit(resource.RLIMIT_FSIZE, (200_000, 200_000))
try:
    encode(noise, picture, source, target, FileChoice(sys.argv[3]))
except UnusableInput as problem:
    print(problem)
"""


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff", "webp", "avif"])
def test_a_disk_that_is_full_leaves_nothing_half_written(
    original: tuple[Path, DecodedPicture], tmp_path: Path, format: Format
) -> None:
    folder = tmp_path / "out"
    folder.mkdir()
    command = [
        sys.executable,
        "-c",
        FULL_DISK,
        str(original[0]),
        str(folder / f"a{SUFFIXES[format]}"),
        format,
    ]
    said = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout
    assert "could not be written" in said
    assert "No file was left behind" in said
    assert list(folder.iterdir()) == []


def test_file_names_from_patterns() -> None:
    named = Named("the mill.jpg", "Ouldmere / waterways", 7, datetime(2026, 3, 9, 7, 5, 9))
    size = (3000, 2000)
    assert file_name("{name}-levelled", named, size, ".jpg") == "the mill-levelled.jpg"
    assert (
        file_name("{set}_{number}_{width}x{height}_{date}", named, size, ".tif")
        == "Ouldmere - waterways_007_3000x2000_2026-03-09.tif"
    )
    assert file_name("{date}_{time}", named, size, ".jpg") == "2026-03-09_070509.jpg"
    assert file_name("../../{name}", named, size, ".png") == "the mill.png"
    assert file_name("???", named, size, ".png") == "picture.png"
    assert distinct(["a.jpg", "A.jpg", "a.jpg", "b.jpg"]) == [
        "a.jpg",
        "A-2.jpg",
        "a-3.jpg",
        "b.jpg",
    ]
    for wrong in ("{camera}", "{name", "  "):
        with pytest.raises(UnusableInput, match=r"braces|empty"):
            check_pattern(wrong)

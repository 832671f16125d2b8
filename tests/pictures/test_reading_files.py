"""Pictures in: what is recognised, what is refused, and that nothing of a picture is lost on the
way to its pixels.
"""

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms, ImageOps

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import decode
from sequor.pictures.focal_length import FoundFocal
from sequor.pictures.inspect import inspect
from sequor.pictures.orientation import upright
from tests.conftest import OPEN_PICTURES


@pytest.fixture
def noise() -> np.ndarray:
    return np.random.default_rng(5).integers(0, 256, (40, 60, 3), dtype=np.uint8)


def save(folder: Path, name: str, pixels: np.ndarray, **how: object) -> Path:
    path = folder / name
    Image.fromarray(pixels).save(path, **how)
    return path


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("suffix", [".png", ".jpg", ".tif", ".webp"])
def test_the_eight_orientations(
    tmp_path: Path, noise: np.ndarray, orientation: int, suffix: str
) -> None:
    # Orientation values: Exif 2.3x, CIPA DC-008, tag 0x0112. Pillow applies them independently.
    exif = Image.Exif()
    exif[0x0112] = orientation
    lossless = {".webp": {"lossless": True}, ".tif": {"compression": "tiff_lzw"}}.get(suffix, {})
    path = save(tmp_path, "a" + suffix, noise, exif=exif, **lossless)
    picture = decode(path)
    with Image.open(path) as reference:
        expected = np.asarray(ImageOps.exif_transpose(reference).convert("RGB"))
    assert picture.pixels.shape == expected.shape
    assert (picture.facts.height, picture.facts.width) == expected.shape[:2]
    # JPEG decoders may round differently by a little; the others are exact.
    assert np.abs(picture.pixels.astype(int) - expected).max() <= (3 if suffix == ".jpg" else 0)


def test_orientations_by_their_definition() -> None:
    # CIPA DC-008: 6 means that the 0th row is the visual right side and the 0th column the visual
    # top.
    stored = np.arange(6, dtype=np.uint8).reshape(2, 3, 1)
    assert upright(stored, 6)[:, :, 0].tolist() == [[3, 0], [4, 1], [5, 2]]
    assert upright(stored, 8)[:, :, 0].tolist() == [[2, 5], [1, 4], [0, 3]]


@pytest.mark.parametrize("suffix", [".png", ".tif"])
def test_sixteen_bits_are_kept(tmp_path: Path, suffix: str) -> None:
    deep = np.random.default_rng(2).integers(0, 65536, (30, 50, 3), dtype=np.uint16)
    path = tmp_path / f"deep{suffix}"
    if suffix == ".png":
        cv2.imwrite(str(path), deep[:, :, ::-1])
    else:
        tifffile.imwrite(path, deep, photometric="rgb")
    picture = decode(path)
    assert picture.bits == 16
    np.testing.assert_array_equal(picture.pixels, deep)


@pytest.mark.parametrize(
    ("mode", "channels"), [("L", 1), ("LA", 2), ("RGB", 3), ("RGBA", 4), ("P", 3), ("1", 1)]
)
def test_kinds_of_pixels(tmp_path: Path, noise: np.ndarray, mode: str, channels: int) -> None:
    path = tmp_path / "kind.png"
    Image.fromarray(noise).convert(mode).save(path)
    assert decode(path).pixels.shape == (40, 60, channels)


def test_profile_and_focal_length_are_read(tmp_path: Path, noise: np.ndarray) -> None:
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0xA405] = 28  # FocalLengthIn35mmFilm, CIPA DC-008
    picture = decode(save(tmp_path, "a.jpg", noise, icc_profile=profile, exif=exif))
    assert picture.profile == profile
    assert "sRGB" in (picture.facts.profile or "")
    assert picture.facts.focal == FoundFocal(28, "file")


def test_an_open_photograph(photograph: np.ndarray) -> None:
    picture = decode(OPEN_PICTURES / "building.jpg")
    assert np.abs(picture.pixels.astype(int) - photograph).max() <= 3


def jpeg(pixels: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG")
    return file.getvalue()


def bad_files(noise: np.ndarray) -> dict[str, tuple[str, bytes, str]]:
    """Every kind of file that must be refused: name, content, what the refusal says."""
    good = jpeg(np.tile(noise, (8, 8, 1)))
    frames = io.BytesIO()
    Image.fromarray(noise).save(
        frames, "TIFF", save_all=True, append_images=[Image.fromarray(noise[::-1])]
    )
    plain = io.BytesIO()
    Image.fromarray(noise).save(plain, "PPM")
    broken = b"II*\0" + (8).to_bytes(4, "little") + bytes(40)
    # A PNG header (PNG specification, section 11.2.2) that claims 100 000 x 100 000 pixels, with
    # almost nothing behind it.
    claim = (
        b"\x89PNG\r\n\x1a\n"
        + b"\0\0\0\rIHDR"
        + (100_000).to_bytes(4, "big") * 2
        + b"\x08\x02\0\0\0"
    )
    import zlib

    claim += (
        zlib.crc32(claim[12:]).to_bytes(4, "big")
        + b"\0\0\0\0IDAT"
        + zlib.crc32(b"IDAT").to_bytes(4, "big")
    )
    return {
        "empty": ("a.jpg", b"", "empty"),
        "text": ("a.jpg", b"hello, this is no picture at all", "not a picture"),
        "truncated": ("a.jpg", good[: len(good) // 2], "truncated"),
        "truncated png": ("a.png", as_png(noise)[:-900], "truncated"),
        "hidden type": ("a.jpg", as_png(noise), "really is a PNG"),
        "no extension": ("a", good, "extension"),
        "unread type": ("a.ppm", plain.getvalue(), "PPM"),
        "several": ("a.tif", frames.getvalue(), "say which page"),
        "broken header": ("a.tif", broken, "damaged"),
        "absurd size": ("a.png", claim, "10,000 megapixels"),
    }


def as_png(pixels: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "PNG")
    return file.getvalue()


BAD = bad_files(np.random.default_rng(5).integers(0, 256, (40, 60, 3), dtype=np.uint8))


@pytest.mark.parametrize("kind", BAD)
def test_bad_files_are_refused_in_one_sentence(tmp_path: Path, kind: str) -> None:
    name, content, says = BAD[kind]
    path = tmp_path / "received"
    path.write_bytes(content)
    with pytest.raises(UnusableInput, match=says) as refused:
        decode(path, name)
    assert str(refused.value).startswith(name)
    assert str(refused.value).endswith((".", "."))


def test_the_size_limit_is_checked_before_decoding(tmp_path: Path, noise: np.ndarray) -> None:
    path = save(tmp_path, "a.png", noise)
    assert inspect(path, max_megapixels=0.0024).width == 60
    with pytest.raises(UnusableInput, match="limit"):
        inspect(path, max_megapixels=0.0023)


def test_a_missing_file_is_refused(tmp_path: Path) -> None:
    with pytest.raises(UnusableInput, match="cannot be read"):
        inspect(tmp_path / "nothing.jpg")

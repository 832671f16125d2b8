"""Every format that is read, against what was put into it and against other readers of it."""

import io
from collections.abc import Callable
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pillow_heif
import pytest
import pyvips
import tifffile
from PIL import Image, ImageCms
from skimage.color import rgb2lab

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import decode
from sequor.pictures.encode import as_image
from sequor.pictures.formats import READ
from sequor.pictures.inspect import inspect
from sequor.pictures.profiles import WIDE
from sequor.pictures.proxy import for_screen
from tests.pictures.icc import wide_profile


@pytest.fixture(scope="module")
def soft() -> np.ndarray:
    """A picture that lossy formats hardly change, 61 x 40."""
    y, x = np.mgrid[0:40, 0:61] / 60
    colours = np.stack([0.2 + 0.6 * x, 0.3 + 0.5 * y, 0.5 + 0.3 * np.sin(4 * x * y)], axis=-1)
    return colours


def eight(colours: np.ndarray) -> np.ndarray:
    return np.round(colours * 255).astype(np.uint8)


def deep(colours: np.ndarray) -> np.ndarray:
    return np.round(colours * 65535).astype(np.uint16)


def heic(pixels: np.ndarray) -> bytes:
    mode = "RGB;16" if pixels.dtype == np.uint16 else "RGB"
    made = pillow_heif.from_bytes(mode, (pixels.shape[1], pixels.shape[0]), pixels.tobytes())
    file = io.BytesIO()
    made.save(file, quality=-1)
    return file.getvalue()


def by_pillow(kind: str, **how: object) -> Callable[[np.ndarray], bytes]:
    def write(pixels: np.ndarray) -> bytes:
        file = io.BytesIO()
        Image.fromarray(pixels).save(file, kind, **how)
        return file.getvalue()

    return write


def jxl(pixels: np.ndarray) -> bytes:
    return bytes(imagecodecs.jpegxl_encode(pixels, lossless=True))


def jp2(pixels: np.ndarray) -> bytes:
    return bytes(imagecodecs.jpeg2k_encode(pixels, reversible=True, codecformat="jp2"))


def avif12(pixels: np.ndarray) -> bytes:
    return bytes(imagecodecs.avif_encode(pixels >> 4, bitspersample=12, level=100))


@pytest.mark.parametrize(
    ("name", "write", "bits", "worst"),
    [
        ("a.heic", heic, 8, 8 / 255),
        ("a.heif", heic, 16, 24 / 1023),
        ("a.avif", by_pillow("AVIF", quality=100), 8, 8 / 255),
        ("a.avif", avif12, 16, 8 / 4095),
        ("a.jxl", jxl, 8, 0),
        ("a.jxl", jxl, 16, 0),
        ("a.jp2", jp2, 8, 0),
        ("a.jp2", jp2, 16, 0),
        ("a.bmp", by_pillow("BMP"), 8, 0),
    ],
)
def test_pixels_are_what_was_written(
    tmp_path: Path, soft: np.ndarray, name: str, write: Callable, bits: int, worst: float
) -> None:
    pixels = eight(soft) if bits == 8 else deep(soft)
    path = tmp_path / name
    path.write_bytes(write(pixels))
    picture = decode(path)
    assert (picture.bits, picture.pixels.shape) == (bits, pixels.shape)
    off = picture.pixels.astype(float) - pixels
    assert np.abs(off).max() / (2**bits - 1) <= worst
    # Values that were shifted and not stretched to 16 bits would all be too dark.
    assert abs(off.mean()) / (2**bits - 1) <= worst / 4
    # What is stored has no name any more.
    stored = tmp_path / "0f"
    stored.write_bytes(path.read_bytes())
    np.testing.assert_array_equal(decode(stored, stored=True).pixels, picture.pixels)


@pytest.mark.parametrize(("name", "write"), [("a.heic", heic), ("a.avif", avif12), ("a.jp2", jp2)])
def test_white_of_fewer_bits_is_white(tmp_path: Path, name: str, write: Callable) -> None:
    # Ten or twelve bits that are only shifted to sixteen would end at 65,472 or 65,520.
    path = tmp_path / name
    path.write_bytes(write(np.full((32, 32, 3), 65535, np.uint16)))
    assert decode(path).pixels.max() == 65535


def test_the_first_picture_of_a_moving_one(tmp_path: Path, soft: np.ndarray) -> None:
    frames = [Image.fromarray(eight(soft)).quantize(64), Image.fromarray(eight(soft)[::-1])]
    path = tmp_path / "a.gif"
    frames[0].save(path, save_all=True, append_images=frames[1:])
    picture = decode(path)
    with Image.open(path) as reference:
        expected = np.asarray(reference.convert("RGB"))
    np.testing.assert_array_equal(picture.pixels[:, :, :3], expected)
    assert "first_of_several" in picture.facts.remarks


@pytest.mark.parametrize("orientation", [1, 3, 6, 8])
@pytest.mark.parametrize("kind", ["heic", "avif"])
def test_pictures_of_telephones_stand_upright(
    tmp_path: Path, soft: np.ndarray, orientation: int, kind: str
) -> None:
    # By Exif's orientation these formats turn their pixels themselves (HEIF, ISO/IEC 23008-12,
    # irot and imir): whoever follows both turns twice.
    exif = Image.Exif()
    exif[0x0112] = orientation
    path = tmp_path / f"a.{kind}"
    Image.fromarray(eight(soft)).save(path, exif=exif.tobytes(), quality=95)
    turned = {1: 0, 3: 2, 6: 3, 8: 1}[orientation]
    expected = np.rot90(eight(soft), turned)
    picture = decode(path)
    assert picture.pixels.shape == expected.shape
    assert (picture.facts.height, picture.facts.width) == expected.shape[:2]
    assert np.abs(picture.pixels.astype(int) - expected).mean() < 3


# Sides that the size header of a codestream (ISO/IEC 18181-1, annex D) writes in different ways.
@pytest.mark.parametrize("size", [(8, 8), (256, 256), (64, 96), (61, 40), (1, 513), (640, 480)])
@pytest.mark.parametrize("container", [False, True])
def test_the_size_of_a_jpeg_xl_is_told_from_its_header(
    tmp_path: Path, size: tuple[int, int], container: bool
) -> None:
    width, height = size
    path = tmp_path / "a.jxl"
    blank = np.zeros((height, width, 3), np.uint8)
    path.write_bytes(imagecodecs.jpegxl_encode(blank, usecontainer=container))
    facts = inspect(path)
    assert (facts.width, facts.height) == size
    with pytest.raises(UnusableInput, match="the limit is"):
        inspect(path, max_megapixels=width * height / 1e6 / 2)


@pytest.mark.parametrize("kind", ["exr", "half", "tif", "jxl"])
def test_numbers_are_kept(tmp_path: Path, kind: str) -> None:
    numbers = np.random.default_rng(3).gamma(1.0, 0.6, (30, 44, 3)).astype(np.float32)
    path = tmp_path / f"a.{'exr' if kind == 'half' else kind}"
    if kind in ("exr", "half"):
        numbers = numbers.astype(np.float16) if kind == "half" else numbers
        planes = {name: np.ascontiguousarray(numbers[:, :, n]) for n, name in enumerate("RGB")}
        with OpenEXR.File({"type": OpenEXR.scanlineimage}, planes) as file:
            file.write(str(path))
    elif kind == "tif":
        tifffile.imwrite(path, numbers, photometric="rgb", compression="deflate")
    else:
        numbers = np.minimum(numbers, 1)
        path.write_bytes(imagecodecs.jpegxl_encode(numbers, lossless=True))
    picture = decode(path)
    assert picture.bits == 32
    np.testing.assert_array_equal(picture.floats.numbers, numbers.astype(np.float32))
    # What is shown tells the numbers again: brighter is brighter, and the way back is close.
    assert picture.pixels.dtype == np.uint16
    back = picture.floats.numbers_of(picture.pixels)
    below = numbers < (picture.floats.white or 1)
    assert np.abs(back - numbers)[below].max() < 2e-3 * max(1, numbers.max())


def test_the_curve_of_numbers_is_the_published_one(tmp_path: Path) -> None:
    # Up to white the curve of sRGB (IEC 61966-2-1): light of 0.2140 is the number 127.5 of 255;
    # Reinhard et al. 2002, equation 4: L (1 + L / Lw^2) / (1 + L), which is 1 where L is Lw.
    plain = np.full((4, 4, 3), 0.2140, np.float32)
    tifffile.imwrite(tmp_path / "a.tif", plain, photometric="rgb")
    assert decode(tmp_path / "a.tif").pixels[0, 0, 0] / 257 == pytest.approx(127.5, abs=0.1)
    bright = plain * 2
    bright[:2] = 8.0
    tifffile.imwrite(tmp_path / "b.tif", bright, photometric="rgb")
    picture = decode(tmp_path / "b.tif")
    assert picture.pixels[0, 0, 0] == 65535
    light = 0.428 * (1 + 0.428 / 64) / 1.428
    encoded = 1.055 * light ** (1 / 2.4) - 0.055
    assert picture.pixels[3, 0, 0] / 65535 == pytest.approx(encoded, abs=1e-4)


def test_the_wide_profile_is_what_the_standards_make_it() -> None:
    assert wide_profile() == WIDE
    found = ImageCms.ImageCmsProfile(io.BytesIO(WIDE)).profile
    # Chromaticities of ITU-R BT.2020, as LittleCMS works them back from what it reads.
    adapted = np.array(found.chromatic_adaptation[0])
    for colorant, expected in (
        (found.red_colorant, (0.708, 0.292)),
        (found.green_colorant, (0.170, 0.797)),
        (found.blue_colorant, (0.131, 0.046)),
    ):
        x, y, z = np.linalg.solve(adapted, np.array(colorant[0]))
        assert (x / (x + y + z), y / (x + y + z)) == pytest.approx(expected, abs=2e-4)


def seen(path: Path) -> np.ndarray:
    """A picture as the screen shows it, in sRGB."""
    picture = decode(path)
    shown = for_screen(as_image(picture.pixels), picture.profile).astype(float)
    return shown / (257 if shown.max() > 255 else 1)


SRGB = ImageCms.createProfile("sRGB")


def by_littlecms(picture: Image.Image, profile: object) -> np.ndarray:
    """The same in sRGB by Pillow's own LittleCMS, relative to the white."""
    intent = ImageCms.Intent.RELATIVE_COLORIMETRIC
    way = ImageCms.buildTransform(profile, SRGB, picture.mode, "RGB", intent)
    return np.asarray(ImageCms.applyTransform(picture, way)).astype(float)


def test_lab_is_read_as_littlecms_does(tmp_path: Path, soft: np.ndarray) -> None:
    lab = rgb2lab(soft, illuminant="D50") * [1, 0.5, 0.5]  # within what sRGB holds
    coded = np.round(lab * [2.55, 1, 1]).astype(np.int16).astype(np.uint8)  # TIFF 6.0, section 23
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, coded, photometric="cielab")
    assert "lab" in decode(path).facts.remarks
    with Image.open(path) as picture:
        expected = by_littlecms(picture, ImageCms.createProfile("LAB"))
    assert np.ptp(expected, axis=(0, 1)).min() > 20  # there are colours of all kinds
    np.testing.assert_allclose(seen(path), expected, atol=2)


@pytest.mark.parametrize("kind", ["jpg", "tif"])
def test_inks_become_colours_as_littlecms_makes_them(tmp_path: Path, kind: str) -> None:
    grey = pyvips.Image.black(8, 8, bands=3).copy(interpretation="srgb")
    profile = grey.icc_transform("cmyk", input_profile="srgb").get("icc-profile-data")
    inks = np.random.default_rng(4).integers(0, 120, (5, 7, 4), dtype=np.uint8)
    inks = np.repeat(np.repeat(inks, 8, axis=0), 8, axis=1)
    how = {"quality": 100, "subsampling": 0} if kind == "jpg" else {}
    path = tmp_path / f"a.{kind}"
    Image.fromarray(inks, "CMYK").save(path, icc_profile=profile, **how)
    picture = decode(path)
    assert "inks" in picture.facts.remarks
    assert picture.profile == WIDE
    with Image.open(path) as reference:
        expected = by_littlecms(reference, ImageCms.ImageCmsProfile(io.BytesIO(profile)))
    # Two ways through profiles in 8 and 16 bits; a step is a step of the screen.
    assert np.abs(seen(path) - expected).mean() < 1
    np.testing.assert_allclose(seen(path), expected, atol=4)
    # Without a profile no ink is white all the same.
    white = tmp_path / f"w.{kind}"
    Image.fromarray(np.zeros((16, 16, 4), np.uint8), "CMYK").save(white, **how)
    assert seen(white).min() >= 250


@pytest.mark.parametrize("kind", ["jpg", "tif"])
def test_damaged_inks_are_refused(tmp_path: Path, kind: str) -> None:
    inks = np.random.default_rng(4).integers(0, 200, (40, 56, 4), dtype=np.uint8)
    path = tmp_path / f"a.{kind}"
    Image.fromarray(inks, "CMYK").save(path)
    content = path.read_bytes()
    spoilt = [content[:-200]]
    if kind == "jpg":
        # Markers that restart nothing (ITU-T T.81, B.1.1.3) in the middle of its only scan.
        middle = len(content) * 2 // 3
        spoilt.append(content[:middle] + b"\xff\xd3\xff\xd5" + content[middle + 4 :])
    for bad in spoilt:
        path.write_bytes(bad)
        with pytest.raises(UnusableInput, match="damaged"):
            decode(path)


def test_a_gain_map_is_not_passed_over_in_silence(tmp_path: Path, soft: np.ndarray) -> None:
    # ISO 21496-1, annex C: an APP2 segment of this name says that the file has a gain map.
    file = io.BytesIO()
    Image.fromarray(eight(soft)).save(file, "JPEG")
    name = b"urn:iso:std:iso:ts:21496:-1\0" + bytes(4)
    segment = b"\xff\xe2" + (len(name) + 2).to_bytes(2, "big") + name
    content = file.getvalue()
    path = tmp_path / "a.jpg"
    path.write_bytes(content[:2] + segment + content[2:])
    assert inspect(path).remarks == ("gain_map",)
    path.write_bytes(content)
    assert inspect(path).remarks == ()


FILES: dict[str, Callable[[np.ndarray], bytes]] = {
    "heic": heic,
    "avif": by_pillow("AVIF"),
    "jxl": jxl,
    "jp2": jp2,
    "bmp": by_pillow("BMP"),
    "gif": by_pillow("GIF"),
}


@pytest.mark.parametrize("ending", FILES)
def test_a_cut_file_is_damaged(tmp_path: Path, ending: str) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (120, 160, 3), dtype=np.uint8)
    content = FILES[ending](noise)
    path = tmp_path / f"a.{ending}"
    path.write_bytes(content[: len(content) * 2 // 3])
    with pytest.raises(UnusableInput, match=r"damaged|is not a picture"):
        decode(path)


@pytest.mark.parametrize("ending", FILES)
def test_spoilt_files_are_read_or_refused(tmp_path: Path, ending: str) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (24, 32, 3), dtype=np.uint8)
    good = np.frombuffer(FILES[ending](noise), np.uint8)
    path = tmp_path / f"a.{ending}"
    draw = np.random.default_rng(11)
    for _ in range(40):
        bad = good.copy()
        places = draw.integers(0, len(bad), draw.integers(1, 12))
        bad[places] = draw.integers(0, 256, len(places))
        path.write_bytes(bad.tobytes())
        try:
            picture = decode(path, max_megapixels=1)
        except UnusableInput:
            continue
        assert picture.pixels.size <= 4e6


def test_a_file_keeps_its_formats_endings(tmp_path: Path, soft: np.ndarray) -> None:
    for ending, write in FILES.items():
        path = tmp_path / "a.jpg"
        path.write_bytes(write(eight(soft)))
        with pytest.raises(UnusableInput, match="really is a"):
            inspect(path)
        assert any(f".{ending}" in about.endings for about in READ.values())


def test_what_cannot_be_read_is_said_to_be_damaged_or_unknown(tmp_path: Path) -> None:
    path = tmp_path / "a.exr"
    path.write_bytes((20000630).to_bytes(4, "little") + b"\2\0\0\0" + bytes(40))
    with pytest.raises(UnusableInput, match="damaged"):
        inspect(path)
    path = tmp_path / "a.ppm"
    path.write_bytes(b"P6 2 2 255\n" + bytes(12))
    with pytest.raises(UnusableInput, match="is a PPM file"):
        inspect(path)
    planes = {"Z": np.zeros((4, 4), np.float32)}
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, planes) as file:
        file.write(str(tmp_path / "z.exr"))
    with pytest.raises(UnusableInput, match="neither R, G, B nor Y"):
        inspect(tmp_path / "z.exr")

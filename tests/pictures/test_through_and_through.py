"""From file to file: what changes nothing, numbers, light that is mixed, depth that is lost."""

import subprocess
from pathlib import Path

import cv2
import imagecodecs
import numpy as np
import OpenEXR
import pytest
import pyvips
import tifffile
from PIL import Image, ImageCms, JpegImagePlugin

from sequor.core.recipe import FillChoice, Recipe, Trim
from sequor.core.render.light import Light
from sequor.core.render.sharpen import sharpened
from sequor.core.render.size import OutputSize
from sequor.making.pipeline import FileOrder, make_file
from sequor.pictures.decode import decode
from sequor.pictures.encode import SUFFIXES, FileChoice, as_image, dithered
from sequor.pictures.profiles import light_of
from sequor.pictures.proxy import for_screen
from tests.pictures.raws import write_dng

AS_SHOT = Recipe()
TURNED = Recipe(trim=Trim(roll_deg=5), fill=FillChoice(allowance=1.0, method="mirror"))


FULL = OutputSize()


def made(
    source: Path, choice: FileChoice, recipe: Recipe = AS_SHOT, size: OutputSize = FULL
) -> Path:
    """The file that a recipe makes of another one."""
    target = source.with_name(f"out-{source.stem}{SUFFIXES[choice.format]}")
    make_file(decode(source), recipe, FileOrder(source, target, size, choice))
    return target


def noise(kind: type, channels: int = 3) -> np.ndarray:
    draw = np.random.default_rng(8)
    if kind is np.float32:
        return draw.gamma(1.0, 0.6, (41, 63, channels)).astype(np.float32)
    return draw.integers(0, np.iinfo(kind).max + 1, (41, 63, channels), dtype=kind)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16, np.float32])
@pytest.mark.parametrize("packing", ["deflate", "lzw", "none"])
def test_a_recipe_that_changes_nothing_changes_nothing(
    tmp_path: Path, kind: type, packing: str
) -> None:
    pixels = noise(kind)
    source = tmp_path / "a.tif"
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    tags = [(34675, "B", len(profile), profile, True), (33432, "s", 0, "nobody", True)]
    tifffile.imwrite(source, pixels, photometric="rgb", extratags=tags)
    out = made(source, FileChoice("tiff", packing=packing))
    np.testing.assert_array_equal(tifffile.imread(out), pixels)
    with tifffile.TiffFile(out) as file:
        named = file.pages[0].tags
        assert named[33432].value == "nobody"
        assert bytes(named[34675].value) == profile
        assert named[259].value == {"deflate": 8, "lzw": 5, "none": 1}[packing]


def inks(path: Path, values: np.ndarray) -> Path:
    """A TIFF of inks with a profile that says what they look like: the one that libvips brings."""
    grey = pyvips.Image.black(8, 8, bands=3).copy(interpretation="srgb")
    profile = grey.icc_transform("cmyk", input_profile="srgb").get("icc-profile-data")
    tags = [(34675, "B", len(profile), profile, True)]
    tifffile.imwrite(path, values, photometric="separated", extratags=tags)
    return path


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_inks_stay_inks_where_that_is_asked_for(tmp_path: Path, kind: type) -> None:
    source = inks(tmp_path / "a.tif", noise(kind, 4))
    choice = FileChoice("tiff", inks=True)
    with tifffile.TiffFile(made(source, choice)) as file, tifffile.TiffFile(source) as original:
        page, before = file.pages[0], original.pages[0]
        assert page.photometric == tifffile.PHOTOMETRIC.SEPARATED
        np.testing.assert_array_equal(page.asarray(), before.asarray())
        assert bytes(page.tags[34675].value) == bytes(before.tags[34675].value)
    # Unless it is asked for, and in other formats, they are colours.
    assert tifffile.imread(made(source, FileChoice("tiff"))).shape == (41, 63, 3)
    assert Image.open(made(source, FileChoice("png", bits=8, inks=True))).mode == "RGB"


def test_inks_are_turned_as_inks_and_filled_by_their_profile(tmp_path: Path) -> None:
    # Pure black ink on the left, which has no other ink beside it, and a soft mixture on the right.
    values = np.zeros((200, 300, 4), np.uint8)
    values[:, :150, 3], values[:, 150:] = 230, (90, 40, 20, 10)
    source = inks(tmp_path / "a.tif", values)
    out = tifffile.imread(made(source, FileChoice("tiff", inks=True), TURNED))
    height, width, _ = out.shape
    middle = out[height // 2 - 40 : height // 2 + 40]
    assert (middle[:, 40 : width // 2 - 40] == (0, 0, 0, 230)).all()
    assert (middle[:, width // 2 + 40 : -40] == (90, 40, 20, 10)).all()
    # What is filled looks like what was there: seen through the profile, by LittleCMS.
    again = decode(made(source, FileChoice("tiff", inks=True), TURNED))
    shown = np.asarray(for_screen(as_image(again.pixels), again.profile), float)
    expected = decode(made(source, FileChoice("png"), TURNED))
    wanted = np.asarray(for_screen(as_image(expected.pixels), expected.profile), float)
    assert shown.shape == wanted.shape
    corner = np.s_[:12, -12:]
    np.testing.assert_allclose(shown[corner], wanted[corner], atol=4)
    # Where corners stay transparent, the paper is bare.
    bare = TURNED.changed(fill=FillChoice(allowance=1.0, method="transparent"))
    out = tifffile.imread(made(source, FileChoice("tiff", inks=True), bare))
    assert (out[0, -1] == 0).all()
    assert out.shape[2] == 4


def test_nor_in_the_other_formats_that_lose_nothing(tmp_path: Path) -> None:
    deep, shallow, numbers = noise(np.uint16), noise(np.uint8, 4), noise(np.float32)
    Image.fromarray(shallow).save(tmp_path / "a.png")
    np.testing.assert_array_equal(
        np.asarray(Image.open(made(tmp_path / "a.png", FileChoice("png")))), shallow
    )
    cv2.imwrite(str(tmp_path / "b.png"), deep[:, :, ::-1])
    out = made(tmp_path / "b.png", FileChoice("png"))
    np.testing.assert_array_equal(cv2.imread(str(out), cv2.IMREAD_UNCHANGED)[:, :, ::-1], deep)
    (tmp_path / "c.jxl").write_bytes(imagecodecs.jpegxl_encode(shallow, lossless=True))
    out = made(tmp_path / "c.jxl", FileChoice("jxl", quality=100))
    np.testing.assert_array_equal(imagecodecs.jpegxl_decode(out.read_bytes()), shallow)
    planes = {name: np.ascontiguousarray(numbers[:, :, n]) for n, name in enumerate("RGB")}
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, planes) as file:
        file.write(str(tmp_path / "d.exr"))
    with OpenEXR.File(str(made(tmp_path / "d.exr", FileChoice("exr")))) as file:
        np.testing.assert_array_equal(file.channels()["RGB"].pixels, numbers)


def test_numbers_are_turned_as_the_picture_is(tmp_path: Path) -> None:
    """Numbers beyond white are there after a turn, and what is filled fits them."""
    y, x = np.mgrid[0:240, 0:360]
    light = (0.2 + 0.1 * np.sin(x / 9) * np.cos(y / 11))[..., None].repeat(3, axis=2)
    light[100:140, 160:200] = 40.0
    source = tmp_path / "a.tif"
    tifffile.imwrite(source, light.astype(np.float32), photometric="rgb")
    out = tifffile.imread(made(source, FileChoice("tiff"), TURNED))
    assert out.dtype == np.float32
    height, width = out.shape[:2]
    # The same turn by another library, of what lies well inside.
    turn = cv2.getRotationMatrix2D(((360 - 1) / 2, (240 - 1) / 2), -5, 1.0)
    turn[:, 2] += [(width - 360) / 2, (height - 240) / 2]
    reference = cv2.warpAffine(
        light.astype(np.float32), turn, (width, height), flags=cv2.INTER_LANCZOS4
    )
    inside = np.s_[height // 2 - 60 : height // 2 + 60, width // 2 - 100 : width // 2 + 100]
    # Kernels differ in how they ring beside an edge, within their eight taps.
    bright = (reference[inside][..., 0] > 1).astype(np.uint8)
    flat = cv2.dilate(bright, np.ones((19, 19))) == 0
    assert np.abs(out[inside] - reference[inside])[flat].max() < 0.01
    assert out.max() > 39
    # What is filled is mirrored picture, and no darker than that.
    corner = out[:12, :12]
    assert corner.min() > 0.05
    assert corner.max() < 0.5
    # The same in OpenEXR, which says in words what was filled.
    done = made(source, FileChoice("exr"), TURNED)
    with OpenEXR.File(str(done)) as file:
        np.testing.assert_array_equal(file.channels()["RGB"].pixels, out)
        assert "filled by mirroring" in file.header()["comments"]


def test_transparent_corners_of_numbers(tmp_path: Path) -> None:
    source = tmp_path / "a.tif"
    tifffile.imwrite(source, noise(np.float32), photometric="rgb")
    recipe = Recipe(trim=Trim(roll_deg=5), fill=FillChoice(allowance=1.0, method="transparent"))
    with OpenEXR.File(str(made(source, FileChoice("exr"), recipe))) as file:
        alpha = file.channels()["RGBA"].pixels[..., 3]
    assert alpha[0, 0] == 0
    assert alpha[len(alpha) // 2, alpha.shape[1] // 2] == 1


def board(size: int) -> np.ndarray:
    """A checkerboard of single pixels."""
    pattern = np.indices((size, size)).sum(axis=0) % 2
    return np.repeat((pattern * 255).astype(np.uint8)[:, :, None], 3, axis=2)


def test_what_gets_smaller_is_mixed_as_light(tmp_path: Path) -> None:
    # Half of the light is the number 187.5 by the curve of sRGB (IEC 61966-2-1); the mean of the
    # numbers is 127.5.
    source = tmp_path / "a.png"
    Image.fromarray(board(128)).save(source)
    small = OutputSize(kind="long_edge", pixels=32)
    inside = np.s_[6:-6, 6:-6]
    by_light = np.asarray(Image.open(made(source, FileChoice("png"), size=small)))[inside]
    assert by_light.mean() == pytest.approx(187.5, abs=1)
    plain = FileChoice("png", linear=False)
    by_numbers = np.asarray(Image.open(made(source, plain, size=small)))[inside]
    assert by_numbers.mean() == pytest.approx(127.5, abs=1)


def test_smaller_pictures_agree_with_area_averages_of_light(tmp_path: Path) -> None:
    """A zone plate at a quarter of its size, against OpenCV's means over areas, in light."""
    side = 512
    y, x = (np.indices((side, side)) - side / 2) / side
    light = 0.5 + 0.45 * np.cos(600 * (x**2 + y**2))
    curve = light_of(None, 3)
    numbers = np.interp(light, curve, np.linspace(0, 1, len(curve)))
    source = tmp_path / "a.png"
    cv2.imwrite(str(source), np.round(numbers * 65535).astype(np.uint16))
    small = OutputSize(kind="long_edge", pixels=side // 4)
    out = cv2.imread(str(made(source, FileChoice("png"), size=small)), cv2.IMREAD_UNCHANGED)
    found = np.interp(out / 65535, np.linspace(0, 1, len(curve)), curve)
    areas = cv2.resize(light, (side // 4, side // 4), interpolation=cv2.INTER_AREA)
    # Where the plate is finer than the output can hold, both are its mean; where it is coarse
    # both follow it.
    fine = np.hypot(*(np.indices(areas.shape) - side / 8)) > side / 8 * 0.9
    assert np.abs(found - 0.5)[fine].mean() < 0.02
    assert np.abs(found - areas)[56:72, 56:72].max() < 0.02


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("power", [1.8, 2.2, None])
def test_light_and_back_is_what_it_was(kind: type, power: float | None) -> None:
    steps = np.linspace(0, 1, 4096)
    light = Light(light_of(None, 3) if power is None else steps**power)
    every = np.arange(np.iinfo(kind).max + 1, dtype=kind)[:, None, None].repeat(4, axis=2)
    np.testing.assert_array_equal(light.encoded(light.of(every), every.dtype), every)


def test_profiles_tell_their_curve() -> None:
    # LittleCMS's own profile of sRGB, made from its parameters, against the standard's numbers.
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    found = light_of(profile, 3)
    for number, light in ((0.02, 0.02 / 12.92), (0.5, 0.21404), (0.8, 0.60383)):
        assert np.interp(number, np.linspace(0, 1, len(found)), found) == pytest.approx(
            light, abs=2e-4
        )
    # One that cannot be read is taken for sRGB.
    np.testing.assert_array_equal(light_of(b"no profile", 3), light_of(None, 3))


def test_sixteen_bits_become_eight_without_bands() -> None:
    ramp = np.linspace(20_000, 21_000, 4000).astype(np.uint16)
    soft = np.repeat(ramp[None, :, None], 64, axis=0)
    made_8 = dithered(soft).astype(float)
    # Means are kept to a fortieth of a step; those of rounded numbers are off by up to half.
    means = made_8.reshape(64, 40, 100, 1).mean(axis=(0, 2, 3))
    wanted = soft.reshape(64, 40, 100, 1).mean(axis=(0, 2, 3)) / 257
    assert np.abs(means - wanted).max() < 0.025
    exact = (np.arange(256, dtype=np.uint16) * 257)[:, None, None]
    np.testing.assert_array_equal(dithered(exact)[:, 0, 0], np.arange(256))


def test_sharpening_is_of_brightness_alone_and_has_no_halo() -> None:
    soft = cv2.GaussianBlur(np.where(np.indices((60, 80))[1] < 40, 60.0, 190.0), (0, 0), 1.2)
    colours = np.stack([soft, soft * 0.8, soft * 0.6], axis=-1).round().astype(np.uint8)
    found = sharpened(colours, 1.0).astype(int)
    steeper = np.abs(np.diff(found[30, :, 1])).max()
    assert steeper > np.abs(np.diff(colours[30, :, 1].astype(int))).max() * 1.1
    assert found.min() >= colours.min() - 1
    assert found.max() <= colours.max() + 1
    change = found - colours
    assert np.abs(change - change[..., :1]).max() <= 1
    np.testing.assert_array_equal(sharpened(colours, 0.0), colours)


@pytest.mark.parametrize("choice", ["auto", "full", "half"])
def test_jpegs_are_written_as_they_are_chosen(tmp_path: Path, choice: str) -> None:
    source = tmp_path / "a.png"
    Image.fromarray(noise(np.uint8)).save(source)
    out = made(source, FileChoice("jpeg", quality=80, chroma=choice, progressive=True))
    with JpegImagePlugin.JpegImageFile(out) as picture:
        assert picture.info.get("progressive") == 1
        # Sampling factors of the first component (ITU-R T.81, B.2.2).
        across = picture.layer[0][1]
    assert across == {"auto": 2, "full": 1, "half": 2}[choice]


@pytest.mark.parametrize("format", ["jpeg", "tiff", "png", "jxl"])
def test_a_raw_picture_becomes_a_plain_file(tmp_path: Path, format: str) -> None:
    light = np.full((120, 180, 3), 0.18)
    source = write_dng(tmp_path / "a.dng", light)
    out = made(source, FileChoice(format, quality=95))
    said = subprocess.run(
        ["exiftool", "-s", "-G1", "-FileType", "-DNGVersion", "-ColorMatrix1", "-Make", str(out)],
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    # It must not be taken for what a sensor saw, and the camera's name goes along.
    assert "DNGVersion" not in said
    assert "ColorMatrix1" not in said
    assert "DNG" not in said.splitlines()[0]
    assert "Sixmile" in said
    picture = decode(out)
    assert picture.bits == (8 if format in ("jpeg", "jxl") else 16)
    if format in ("tiff", "png"):
        assert picture.facts.profile.startswith("Sequor wide")
    else:
        # 18 % of the light is the number 117.6 of sRGB.
        top = 255 if picture.bits == 8 else 65535
        assert picture.pixels.mean() / top * 255 == pytest.approx(117.6, abs=1.5)

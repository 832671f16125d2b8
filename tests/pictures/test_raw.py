"""Raw files: colours, exposure, cut, turn and bow are what was put into them."""

import struct
from pathlib import Path

import numpy as np
import pytest
from pidng.core import Tag
from PIL import Image

from sequor.core.advance import advance
from sequor.core.edits import DrawReading
from sequor.core.errors import UnusableInput
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import tilt_rad
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.pictures.decode import decode, first_look
from sequor.pictures.encode import as_image
from sequor.pictures.inspect import inspect
from sequor.pictures.profiles import srgb_encoded
from sequor.pictures.proxy import for_screen
from sequor.pictures.raw import bow_of, check_light, grey_at
from tests.edited import OfPixels
from tests.pictures.raws import TO_SRGB, Camera, warp_rectilinear, write_dng

PATCHES = ((0.18, 0.18, 0.18), (0.9, 0.1, 0.1), (0.05, 0.3, 0.8), (0.02, 0.02, 0.02), (1.6, 1.2, 2))


def patches() -> np.ndarray:
    """Five broad stripes of linear light, 300 x 200; the last is brighter than white."""
    return np.repeat(np.repeat(np.array([PATCHES]), 60, axis=1), 200, axis=0)


def screen(path: Path) -> np.ndarray:
    """What the screen shows of a raw file, in sRGB from 0 to 1."""
    picture = decode(path)
    shown = for_screen(as_image(picture.pixels), picture.profile).astype(float)
    return shown / (255 if shown.max() < 256 else 65535)


def test_colours_are_those_of_the_scene(tmp_path: Path) -> None:
    path = write_dng(tmp_path / "a.dng", patches())
    shown = screen(path)
    for place, colour in enumerate(PATCHES[:4]):
        middle = shown[100, 60 * place + 30]
        # The screen's numbers by the curve of sRGB (IEC 61966-2-1), to one step of 8 bits.
        assert middle == pytest.approx(srgb_encoded(np.array(colour)), abs=0.006)
    # No highlight has a cast: what is beyond the sensor is white.
    np.testing.assert_allclose(shown[100, 270], 1.0)
    picture = decode(path)
    assert (picture.bits, picture.facts.format, picture.facts.remarks) == (
        16,
        "DNG",
        ("developed",),
    )


# Chromaticities of D65 and A (CIE 15:2004).
DAY, LAMP = (0.31272, 0.32903), (0.44758, 0.40745)


def grey_under(white: tuple[float, float], level: float = 0.18) -> np.ndarray:
    """Linear sRGB of something grey under a light."""
    x, y = white
    return level * TO_SRGB @ np.array([x / y, 1, (1 - x - y) / y])


def lit(level: float = 0.18) -> np.ndarray:
    """A picture of 300 x 200, grey in daylight on the left, under a lamp in its right third, with a
    burnt-out spot between.
    """
    light = np.empty((200, 300, 3))
    light[:, :200], light[:, 200:] = grey_under(DAY, level), grey_under(LAMP, level)
    light[80:120, 80:120] = 4.0
    return light


def test_a_grey_spot_tells_its_light(tmp_path: Path) -> None:
    path = write_dng(tmp_path / "a.dng", lit(), Camera(noise=4.0))
    assert grey_at(path, (40, 100)) == pytest.approx(DAY, abs=5e-4)
    found = grey_at(path, (250, 100))
    assert found == pytest.approx(LAMP, abs=2e-3)
    shown = decode(path, white=found).pixels.astype(float)
    spread = np.ptp(shown[20:180, 220:280].mean(axis=(0, 1))) / 65535
    assert spread < 2e-3
    # What is grey in daylight is blue then.
    day = shown[20:60, 20:60].mean(axis=(0, 1))
    assert day[2] > 1.3 * day[0]
    # No highlight has a cast, whatever light is chosen.
    assert (shown[90:110, 90:110] == 65535).all()


def test_the_light_that_the_camera_chose_is_the_same_picture(tmp_path: Path) -> None:
    path = write_dng(tmp_path / "a.dng", patches())
    plain, chosen = decode(path), decode(path, white=DAY)
    # The matrix of the test's camera is rounded to four places.
    assert np.abs(plain.pixels.astype(int) - chosen.pixels).max() < 65535 * 1e-3
    half = first_look(path, "a.dng", 300, edge=100, white=LAMP).pixels.astype(float)
    whole = decode(path, white=LAMP).pixels[::2, ::2].astype(float)
    assert np.abs(half - whole)[:, 10:20].max() < 300


@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_spot_lies_where_it_is_seen(tmp_path: Path, orientation: int) -> None:
    light = np.full((200, 300, 3), 0.2) * [0.4, 1, 0.4]
    light[30:60, 220:260] = grey_under(LAMP)
    cut = ((Tag.DefaultCropOrigin, [10, 8]), (Tag.DefaultCropSize, [280, 180]))
    path = write_dng(tmp_path / "a.dng", light, Camera(orientation, tags=cut))
    picture = decode(path, white=LAMP).pixels.astype(float)
    # Grey is where the three are alike; everything else is green.
    y, x = np.argwhere(np.ptp(picture, axis=2) < 2000).mean(axis=0)
    assert grey_at(path, (x, y)) == pytest.approx(LAMP, abs=1e-3)


@pytest.mark.parametrize(
    ("light", "point", "why"),
    [
        (lit(), (100, 100), "too bright"),
        (lit(0.001), (40, 40), "too dark"),
        (np.full((200, 300, 3), 0.3) * [1.5, 0.1, 0.1], (40, 40), "No light makes that place grey"),
        (lit(), (4000, 100), "beyond the picture"),
    ],
    ids=["bright", "dark", "red", "outside"],
)
def test_a_spot_that_tells_nothing_says_why(
    tmp_path: Path, light: np.ndarray, point: tuple[float, float], why: str
) -> None:
    with pytest.raises(UnusableInput, match=why):
        grey_at(write_dng(tmp_path / "a.dng", light), point)


def test_a_light_that_a_camera_cannot_see_is_refused_before_it_is_chosen(tmp_path: Path) -> None:
    """A camera that sees hardly any blue, and one that says nothing of its colours."""
    blind = np.diag((0.5, 1.0, 0.001)) @ TO_SRGB
    matrix = ((Tag.ColorMatrix1, [[round(float(v) * 10000), 10000] for v in blind.ravel()]),)
    path = write_dng(tmp_path / "a.dng", patches(), Camera(tags=matrix))
    with pytest.raises(UnusableInput, match="cannot see such a light"):
        check_light(path, LAMP)
    check_light(known := write_dng(tmp_path / "b.dng", patches()), LAMP)
    # Another tag where its matrix was (DNG 1.7: ColorMatrix1, nine signed rationals).
    head, entry = known.read_bytes(), struct.pack("<HHI", 50721, 10, 9)
    assert head.count(entry) == 1
    known.write_bytes(head.replace(entry, struct.pack("<HHI", 50720 + 9000, 10, 9)))
    for told in (check_light, grey_at):
        with pytest.raises(UnusableInput, match="How this camera sees colours is not known"):
            told(known, (40, 100) if told is grey_at else LAMP)


def test_exposure_is_what_the_file_says(tmp_path: Path) -> None:
    # BaselineExposure (DNG 1.7): a stop doubles all light.
    one = ((Tag.BaselineExposure, [[100, 100]]),)
    light = patches() / 4
    shown = screen(write_dng(tmp_path / "a.dng", light, Camera(tags=one)))
    assert shown[100, 30] == pytest.approx(srgb_encoded(np.full(3, 0.09)), abs=0.006)


@pytest.mark.parametrize("orientation", [1, 3, 6, 8])
def test_cut_and_turn(tmp_path: Path, orientation: int) -> None:
    light = np.full((200, 300, 3), 0.1)
    light[20:40, 30:50] = 0.8
    cut = ((Tag.DefaultCropOrigin, [10, 8]), (Tag.DefaultCropSize, [280, 180]))
    path = write_dng(tmp_path / "a.dng", light, Camera(orientation, tags=cut))
    picture = decode(path)
    plain = light[8:188, 10:290, 1]
    expected = np.rot90(plain, {1: 0, 3: 2, 6: 3, 8: 1}[orientation])
    assert picture.pixels.shape[:2] == expected.shape
    assert (picture.facts.height, picture.facts.width) == expected.shape
    bright = picture.pixels[:, :, 1] > 40000
    assert np.abs(bright.astype(int) - (expected > 0.5)).mean() < 0.002
    # Cameras write the area that light falls on (DNG 1.7, ActiveArea): nothing around it is seen.
    area = ((Tag.ActiveArea, [4, 6, 196, 294]),)
    path = write_dng(tmp_path / "b.dng", light, Camera(tags=area))
    assert decode(path).pixels.shape[:2] == (192, 288)


def test_the_first_look_is_the_same_picture_at_half_its_size(tmp_path: Path) -> None:
    path = write_dng(tmp_path / "a.dng", patches())
    whole, half = decode(path), first_look(path, "a.dng", 300, edge=100)
    assert half.facts == whole.facts
    assert half.pixels.shape == (100, 150, 3)
    small = whole.pixels[::2, ::2].astype(float)
    assert np.abs(half.pixels - small)[:, 10:20].max() < 300
    # Where half of it would be too small for the screen it is developed whole.
    assert first_look(path, "a.dng", 300, edge=200).pixels.shape == (200, 300, 3)


def corrected_to_shot(points: np.ndarray, size: tuple[int, int], warp: tuple) -> np.ndarray:
    """WarpRectilinear by the words of DNG 1.7, chapter 7, written out on its own."""
    (kr0, kr1, kr2, kr3), (kt0, kt1), (cx, cy) = warp
    width, height = size
    centre = np.array([cx * width, cy * height])
    reach = max(np.hypot(*(centre - [x, y])) for x in (0, width) for y in (0, height))
    dx, dy = ((points - centre) / reach).T
    r2 = dx**2 + dy**2
    f = kr0 + kr1 * r2 + kr2 * r2**2 + kr3 * r2**3
    aslant_x = kt0 * 2 * dx * dy + kt1 * (r2 + 2 * dx**2)
    aslant_y = kt1 * 2 * dx * dy + kt0 * (r2 + 2 * dy**2)
    return centre + reach * np.stack([f * dx + aslant_x, f * dy + aslant_y], axis=-1)


WARP = ((1.03, -0.06, 0.012, -0.003), (0.0012, -0.0008), (0.51, 0.485))


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_bow_is_the_one_that_the_file_states(tmp_path: Path, orientation: int) -> None:
    path = write_dng(
        tmp_path / "a.dng", patches(), Camera(orientation, tags=(warp_rectilinear(*WARP),))
    )
    facts = inspect(path)
    photo = facts.photo
    assert facts.bow is not None
    lens = Distortion.of(photo, facts.bow.polynomial, facts.bow.tangential, facts.bow.off_centre)
    # Places of the corrected picture, as stored and upright; theirs is enlarged by kr0.
    stored = np.random.default_rng(2).uniform([20, 20], [280, 180], (50, 2))
    shot = corrected_to_shot(stored, (300, 200), WARP)
    centre = np.array([WARP[2][0] * 300, WARP[2][1] * 200])
    ours = centre + (stored - centre) * WARP[0][0]
    np.testing.assert_allclose(
        lens.distorted(upright_places(ours, orientation)),
        upright_places(shot, orientation),
        atol=1e-6,
    )


def upright_places(places: np.ndarray, orientation: int) -> np.ndarray:
    """Places of a stored picture of 300 x 200 in the upright one, by Exif's table (CIPA DC-008)."""
    x, y = places.T
    width, height = 300, 200
    return np.column_stack(
        {
            1: (x, y),
            2: (width - x, y),
            3: (width - x, height - y),
            4: (x, height - y),
            5: (y, x),
            6: (height - y, x),
            7: (height - y, width - x),
            8: (y, width - x),
        }[orientation]
    )


def test_it_is_taken_out_unless_somebody_says_otherwise(tmp_path: Path) -> None:
    path = write_dng(tmp_path / "a.dng", patches(), Camera(tags=(warp_rectilinear(*WARP),)))
    photo = inspect(path).photo
    lens = solve(photo, Recipe()).lens
    assert lens.source == "file"
    assert lens.corner_shift > 0.02
    none = Recipe(lens=Recipe().lens.changed(source="none"))
    assert solve(photo, none).lens.source == "none"
    assert solve(PhotoFacts(width=300, height=200), Recipe()).lens.source == "none"


@pytest.mark.parametrize(
    "opcodes",
    [b"", b"\0\0\0\1", b"\0\0\0\1" + b"\0\0\0\1" * 4, b"\0\0\0\2" + bytes(400), b"\xff" * 300],
)
def test_opcodes_that_are_broken_say_nothing(opcodes: bytes) -> None:
    assert bow_of(opcodes, (300, 200)) is None


def test_noise_and_darkness_are_no_colour(tmp_path: Path) -> None:
    dark = np.full((200, 300, 3), 0.004)
    picture = decode(write_dng(tmp_path / "a.dng", dark, Camera(noise=12.0)))
    means = picture.pixels.reshape(-1, 3).mean(axis=0)
    assert np.ptp(means) / means.mean() < 0.1


def test_damaged_ones_are_refused(tmp_path: Path) -> None:
    whole = write_dng(tmp_path / "a.dng", patches()).read_bytes()
    path = tmp_path / "b.dng"
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(UnusableInput, match="damaged"):
        decode(path)
    path.write_bytes(b"FUJIFILMCCD-RAW " + bytes(300))
    with pytest.raises(UnusableInput, match=r"LibRaw [\d.]+ does not read"):
        inspect(path)
    draw = np.random.default_rng(5)
    head = np.frombuffer(whole, np.uint8)
    for _ in range(30):
        bad = head.copy()
        places = draw.integers(0, 700, 6)
        bad[places] = draw.integers(0, 256, 6)
        path.write_bytes(bad.tobytes())
        try:
            found = decode(path, max_megapixels=1)
        except UnusableInput:
            continue
        assert found.pixels.size <= 4e6


def test_the_same_reading_from_the_raw_and_its_jpeg(tmp_path: Path) -> None:
    """A wall's edge that is tilted by 1.7 degrees, seen through a mosaic with noise and as the
    picture that a camera makes: both are read alike to 0.005 degrees.
    """
    fine = 4
    y, x = np.mgrid[0 : 400 * fine, 0 : 600 * fine] / fine
    wall = y - 200 > np.tan(np.radians(1.7)) * (x - 300)
    light = np.where(wall[..., None], [0.5, 0.42, 0.3], [0.12, 0.18, 0.3])
    light = light.reshape(400, fine, 600, fine, 3).mean(axis=(1, 3))
    raw = write_dng(tmp_path / "a.dng", light, Camera(noise=8.0))
    jpeg = tmp_path / "a.jpg"
    Image.fromarray(np.round(srgb_encoded(light) * 255).astype(np.uint8)).save(jpeg, quality=98)
    angles = []
    for path in (raw, jpeg):
        picture = decode(path)
        photo = picture.facts.photo
        drawn = DrawReading(id="a", kind="level", points=((60, 193), (540, 207)), zoom=1, fit=True)
        made = advance(photo, Recipe(), (drawn,), OfPixels(photo, picture.pixels)).recipe
        (reading,) = made.readings
        assert reading.fitted is not None
        angles.append(np.degrees(tilt_rad(reading)))
    assert angles[0] == pytest.approx(angles[1], abs=0.005)
    assert angles[1] == pytest.approx(1.7, abs=0.01)
    assert inspect(raw).photo == inspect(jpeg).photo.changed(raw=True)

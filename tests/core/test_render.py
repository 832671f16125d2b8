"""Pixels, against NumPy, SciPy, scikit-image and OpenCV on an open photograph."""

import math

import cv2
import numpy as np
import pytest
import scipy.ndimage
import skimage.metrics
import skimage.transform

from sequor.core.errors import Cancelled
from sequor.core.frame.rectangle import Rectangle
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FrameChoice, Recipe, Trim
from sequor.core.render.kernel import TAPS, WEIGHTS
from sequor.core.render.places import PHASES
from sequor.core.render.rendering import Way, render, render_box, render_coarse, render_small
from sequor.core.solution import Solution
from sequor.core.solve import solve
from tests.conftest import horizon_picture, measured_tilt_deg

STRAIGHT = Distortion.of(PhotoFacts(width=2, height=2))


def turned(pixels: np.ndarray, deg: float, ratio: str = "original") -> Solution:
    height, width = pixels.shape[:2]
    return solve(
        PhotoFacts(width=width, height=height),
        Recipe(trim=Trim(roll_deg=deg), frame=FrameChoice(ratio=ratio)),
    )


def same_size_turn(pixels: np.ndarray, deg: float) -> np.ndarray:
    """The picture turned clockwise about its centre, at its own size."""
    height, width = pixels.shape[:2]
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    to_middle = np.array([[1, 0, -width / 2], [0, 1, -height / 2], [0, 0, 1]])
    turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
    forward = np.linalg.inv(to_middle) @ turn @ to_middle
    way = Way(np.linalg.inv(forward), STRAIGHT)
    return render_box(pixels, way, Rectangle(0, 0, width, height)).pixels


def middle(pixels: np.ndarray, share: float = 0.55) -> np.ndarray:
    height, width = pixels.shape[:2]
    dy, dx = round(height * (1 - share) / 2), round(width * (1 - share) / 2)
    return pixels[dy:-dy, dx:-dx]


def sixteen_bit(photograph: np.ndarray) -> np.ndarray:
    return photograph.astype(np.uint16) * 257


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_turning_by_nothing_returns_the_picture_bit_for_bit(kind: type, channels: int) -> None:
    pixels = np.random.default_rng(1).integers(
        0, np.iinfo(kind).max, (97, 131, channels), kind, endpoint=True
    )
    rendered = render(pixels, turned(pixels, 0))
    assert rendered.pixels.dtype == kind
    np.testing.assert_array_equal(rendered.pixels, pixels)
    assert rendered.empty_pixels == 0


@pytest.mark.parametrize(("deg", "quarter_turns"), [(90, -1), (-90, 1), (180, 2)])
def test_quarter_turns_equal_rot90(photograph: np.ndarray, deg: float, quarter_turns: int) -> None:
    expected = np.rot90(photograph, quarter_turns)
    height, width = expected.shape[:2]
    solution = turned(photograph, deg, f"{width}:{height}")
    assert (solution.frame.width, solution.frame.height) == (width, height)
    np.testing.assert_array_equal(render(photograph, solution).pixels, expected)


@pytest.mark.parametrize("deg", [1.33, -4.03, 17.0])
def test_a_turn_agrees_with_three_libraries(photograph: np.ndarray, deg: float) -> None:
    height, width = photograph.shape[:2]
    ours = middle(same_size_turn(photograph, deg))
    # Positive angles are anticlockwise there; all three turn about the centre of the pixel grid, as
    # we do.
    spline = scipy.ndimage.rotate(
        photograph.astype(float), -deg, order=5, reshape=False, mode="nearest"
    ).clip(0, 255)
    cubic = skimage.transform.rotate(photograph, -deg, order=3, mode="edge", preserve_range=True)
    matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), -deg, 1)
    lanczos = cv2.warpAffine(photograph, matrix, (width, height), flags=cv2.INTER_LANCZOS4)
    noise_floor_db = {"spline": 40.0, "cubic": 32.0, "lanczos": 40.0}
    for name, theirs in (("spline", spline), ("cubic", cubic), ("lanczos", lanczos)):
        psnr = skimage.metrics.peak_signal_noise_ratio(
            middle(theirs), ours.astype(float), data_range=255
        )
        assert psnr > noise_floor_db[name], name
        # Shifted by a tenth of a pixel, every one of them would agree less.
        moved = scipy.ndimage.shift(theirs.astype(float), (0.1, 0.1, 0), order=1)
        assert (
            skimage.metrics.peak_signal_noise_ratio(
                middle(moved), ours.astype(float), data_range=255
            )
            < psnr
        )


def test_eight_bits_and_sixteen_bits_agree(photograph: np.ndarray) -> None:
    eight = render(photograph, turned(photograph, 2.5)).pixels.astype(int)
    sixteen = render(sixteen_bit(photograph), turned(photograph, 2.5)).pixels.astype(float) / 257
    assert np.abs(eight - sixteen).max() <= 0.51


def unseen_green_beside_red(kind: type) -> np.ndarray:
    """Opaque red on the left, half-way to the right a green that is wholly transparent."""
    picture = np.zeros((80, 120, 4), kind)
    top = np.iinfo(kind).max
    picture[:, :60] = [top, 0, 0, top]
    picture[:, 60:] = [0, top, 0, 0]
    return picture


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_what_is_transparent_does_not_bleed_into_what_is_seen(kind: type) -> None:
    picture, top = unseen_green_beside_red(kind), np.iinfo(kind).max
    made = render(picture, turned(picture, 3.0)).pixels
    partly = (made[:, :, 3] > 0) & (made[:, :, 3] < top)
    assert partly.sum() > 60
    assert made[made[:, :, 3] > 0][:, 1].max() == 0
    assert made[made[:, :, 3] > top // 50][:, 0].min() >= top * 0.99
    # Porter & Duff (1984): laid on black before it is resampled it is the same as after.
    on_black = picture[:, :, :3] * (picture[:, :, 3:] > 0)
    expected = render(on_black, turned(picture, 3.0)).pixels.astype(float)
    laid = made[:, :, :3] * (made[:, :, 3:] / top)
    assert np.abs(laid - expected).max() <= 1.5


def test_the_kernel_keeps_flat_areas_flat_and_stays_in_range() -> None:
    assert WEIGHTS.shape == (PHASES + 1, TAPS)
    assert WEIGHTS.sum(axis=1) == pytest.approx(1, abs=1e-6)
    for value in (0, 1, 254, 255):
        flat = np.full((64, 96, 3), value, np.uint8)
        assert (render(flat, turned(flat, 3.3)).pixels == value).all()
    checks = (
        np.kron(np.indices((8, 12)).sum(axis=0) % 2, np.ones((8, 8))).astype(np.uint8)[:, :, None]
        * 255
    )
    assert set(np.unique(render(checks, turned(checks, 90, "2:3")).pixels)) == {0, 255}


@pytest.mark.parametrize("tilt_deg", [0.4, -1.33, 4.03, 6.0])
def test_a_tilted_horizon_comes_out_level(tilt_deg: float) -> None:
    picture = horizon_picture(tilt_deg)
    assert measured_tilt_deg(picture) == pytest.approx(tilt_deg, abs=0.005)
    assert measured_tilt_deg(render(picture, turned(picture, -tilt_deg)).pixels) == pytest.approx(
        0, abs=0.01
    )


@pytest.mark.parametrize("ratio", ["original", "free", "1:1", "16:9", "2:3"])
@pytest.mark.parametrize("deg", [0.01, 0.4, -1.33, 6.0, -30.0, 44.0, 90.0, 135.0])
def test_no_pixel_of_the_frame_is_empty(photograph: np.ndarray, deg: float, ratio: str) -> None:
    assert render(photograph, turned(photograph, deg, ratio)).empty_pixels == 0


def test_empty_pixels_are_counted_when_there_are_some() -> None:
    flat = np.full((40, 60, 3), 200, np.uint8)
    rendered = render_box(flat, Way(np.eye(3), STRAIGHT), Rectangle(-10, -5, 80, 50))
    assert rendered.empty_pixels == 80 * 50 - 60 * 40
    assert (rendered.pixels.any(axis=2)).sum() == 60 * 40


def test_the_small_rendering_shows_the_same_frame(photograph: np.ndarray) -> None:
    solution = turned(photograph, -3)
    full = render(photograph, solution).pixels
    half = cv2.resize(photograph, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    small = render_small(half, solution, 0.5).pixels
    expected = cv2.resize(full, small.shape[1::-1], interpolation=cv2.INTER_AREA)
    assert skimage.metrics.peak_signal_noise_ratio(middle(expected), middle(small)) > 28


@pytest.mark.parametrize(("kind", "unit"), [(np.uint8, 1), (np.uint16, 257)])
@pytest.mark.parametrize("channels", [1, 3])
@pytest.mark.parametrize("edge", [480, 130, 41])
def test_a_coarse_rendering_shows_what_all_pixels_do(
    photograph: np.ndarray, kind: type, unit: int, channels: int, edge: int
) -> None:
    noise = np.random.default_rng(1).integers(-25, 26, (photograph.shape))
    noisy = (np.clip(photograph.astype(int) + noise, 0, 255) * unit).astype(kind)[..., :channels]
    solution = turned(noisy, 4)
    size = edge, round(edge * solution.frame.height / solution.frame.width)
    coarse = render_coarse(noisy, solution, size)
    apart = (coarse.astype(float) - render(noisy, solution, size=size).pixels) / unit
    assert coarse.dtype == noisy.dtype
    assert np.abs(apart).mean() < 1.2
    assert abs(apart.mean()) < 0.2


def test_a_coarse_rendering_mixes_nothing_transparent_in(photograph: np.ndarray) -> None:
    alpha = np.full((*photograph.shape[:2], 1), 255, np.uint8)
    alpha[:, ::3] = 0
    clear = np.concatenate([photograph, alpha], axis=2)
    solution = turned(clear, 4)
    assert (
        render_coarse(clear, solution, (90, 60)) == render(clear, solution, size=(90, 60)).pixels
    ).all()


def test_progress_rises_to_one_and_cancel_stops(photograph: np.ndarray) -> None:
    told: list[float] = []
    render(photograph, turned(photograph, 1), progress=told.append)
    assert told == sorted(told)
    assert told[-1] == 1
    with pytest.raises(Cancelled):
        render(photograph, turned(photograph, 1), cancelled=lambda: True)


@pytest.mark.parametrize(("kind", "unit"), [(np.uint8, 1), (np.uint16, 257), (np.float32, 1 / 255)])
@pytest.mark.parametrize("deg", [3.0, 20.0, 41.0])
def test_an_edge_has_no_halo(kind: type, unit: float, deg: float) -> None:
    # The Lanczos-windowed sinc swings by 13 % beside an edge: 30 | 225 would come out 5 to 250.
    edge = np.where(np.indices((200, 200))[1] < 100, 30, 225)[..., None] * unit
    out = same_size_turn(np.repeat(edge, 3, axis=2).astype(kind), deg)[30:-30, 30:-30] / unit
    room = 0.02 * (225 - 30) + 0.02 * 255 + 1
    assert out.min() >= 30 - room
    assert out.max() <= 225 + room
    # It is as steep as it was.
    assert np.abs(np.diff(out[:, :, 0], axis=1)).max() > 60


def test_nothing_fine_is_lost_to_that() -> None:
    """A zone plate up to 0.45 of the sampling rate, turned: the truth is its own formula."""
    size, middle_px = 512, 256.0
    y, x = np.indices((size, size)) - middle_px

    def plate(across: np.ndarray, down: np.ndarray) -> np.ndarray:
        return 127.5 + 110 * np.cos(np.pi * 0.45 / (size / 2) * (across**2 + down**2))

    drawn = np.round(plate(x, y)).astype(np.uint8)[..., None]
    turned_plate = same_size_turn(drawn, 7.3)[..., 0]
    c, s = math.cos(math.radians(7.3)), math.sin(math.radians(7.3))
    # Centres of pixels lie half a pixel beside their indices, and the turn is about the middle.
    across, down = x + 0.5, y + 0.5
    truth = plate(c * across + s * down - 0.5, -s * across + c * down - 0.5)
    inside = np.hypot(across, down) < size / 2 - 12
    error = np.sqrt(np.mean((turned_plate - truth)[inside] ** 2))
    assert 20 * math.log10(255 / error) > 36.0


def test_twelve_turns_of_thirty_degrees(photograph: np.ndarray) -> None:
    height, width = photograph.shape[:2]
    matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), -30, 1)
    ours, bicubic, lanczos = photograph, photograph, photograph
    for _ in range(12):
        ours = same_size_turn(ours, 30)
        bicubic = cv2.warpAffine(
            bicubic, matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
        )
        lanczos = cv2.warpAffine(
            lanczos,
            matrix,
            (width, height),
            flags=cv2.INTER_LANCZOS4,
            borderMode=cv2.BORDER_REPLICATE,
        )
    scores = [
        skimage.metrics.peak_signal_noise_ratio(middle(photograph, 0.4), middle(p, 0.4))
        for p in (ours, bicubic, lanczos)
    ]
    assert scores[0] >= scores[2] - 0.5
    assert scores[0] >= scores[1] + 5

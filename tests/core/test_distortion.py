"""The bow of the lens, against OpenCV's model of the same form.

Known lenses and real photographs of straight things.
"""

import math

import cv2
import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from sequor.core.camera import apply_homography
from sequor.core.edges.fitting import fit_edge, fitted
from sequor.core.edges.trace import follow_edge
from sequor.core.errors import UnusableInput
from sequor.core.frame.curved import largest_in_curve
from sequor.core.frame.rectangle import Rectangle, border_centres
from sequor.core.lens.chosen import distortion_of
from sequor.core.lens.distortion import Distortion, limit_k1, radial, sag_px
from sequor.core.lens.plumb_line import from_traces
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FrameChoice, Reading, Recipe, Trim
from sequor.core.render.rendering import render, render_straight
from sequor.core.solve import solve
from tests.conftest import notes_of
from tests.core.test_chessboard import COLUMNS, OPEN_PICTURES, ROWS, corners_of
from tests.edited import apply

PHOTO = PhotoFacts(width=3000, height=2000)
UNIT = math.hypot(3000, 2000) / 2
BOWS = [(-0.13, 0.015), (0.03, 0.0), (-0.05, 0.04), (0.2, -0.05), (-0.14, 0.0)]


def lens(k1: float, k2: float, photo: PhotoFacts = PHOTO) -> Distortion:
    return Distortion.of(photo, radial(k1, k2))


def field(step: int = 100) -> np.ndarray:
    x, y = np.meshgrid(np.arange(0, 3001, step), np.arange(0, 2001, step))
    return np.column_stack([x.ravel(), y.ravel()]).astype(float)


def cv_lens(k1: float, k2: float) -> tuple[np.ndarray, np.ndarray]:
    """OpenCV's camera matrix and coefficients for the same lens: its unit is the focal length,
    so that is set to half the diagonal.
    """
    # OpenCV's coordinates have their origin in the middle of the first pixel.
    return np.array([[UNIT, 0, 1499.5], [0, UNIT, 999.5], [0, 0, 1]]), np.array([k1, k2, 0, 0])


@pytest.mark.parametrize(("k1", "k2"), BOWS)
def test_forward_and_inverse_agree(k1: float, k2: float) -> None:
    distortion = lens(k1, k2)
    assert np.abs(distortion.distorted(distortion.undistorted(field())) - field()).max() < 1e-6
    near = field()[np.hypot(*(field() - [1500, 1000]).T) < 0.8 * UNIT]
    assert np.abs(distortion.undistorted(distortion.distorted(near)) - near).max() < 1e-6


@given(st.tuples(*[st.floats(-0.03, 0.03)] * 4))
def test_odd_powers_too(polynomial: tuple[float, float, float, float]) -> None:
    distortion = Distortion.of(PHOTO, polynomial)
    assume(distortion.corner_slope() > 0.05)  # others are refused
    assert (
        np.abs(distortion.distorted(distortion.undistorted(field(500))) - field(500)).max() < 1e-6
    )


@pytest.mark.parametrize(("k1", "k2"), BOWS)
def test_against_opencv(k1: float, k2: float) -> None:
    k, coefficients = cv_lens(k1, k2)
    inner = field()[np.hypot(*(field() - [1500, 1000]).T) < 0.9 * UNIT]
    ours = lens(k1, k2).undistorted(inner) - 0.5
    exact = (cv2.TERM_CRITERIA_COUNT + cv2.TERM_CRITERIA_EPS, 500, 1e-14)
    theirs = cv2.undistortPoints(
        (inner - 0.5).reshape(-1, 1, 2), k, coefficients, None, None, k, exact
    ).reshape(-1, 2)
    assert np.abs(ours - theirs).max() < 1e-3
    across, down = cv2.initUndistortRectifyMap(k, coefficients, None, k, (3000, 2000), cv2.CV_32FC1)
    rows, columns = (
        axis.ravel()
        for axis in np.meshgrid(np.arange(0, 2000, 50), np.arange(0, 3000, 50), indexing="ij")
    )
    mapped = lens(k1, k2).distorted(np.column_stack([columns, rows]) + 0.5) - 0.5
    expected = np.column_stack([across[rows, columns], down[rows, columns]])
    known = np.isfinite(mapped).all(axis=1)
    assert np.abs(mapped - expected)[known].max() < 2e-3  # OpenCV's map is in single precision


def test_the_centre_is_neither_shrunk_nor_enlarged() -> None:
    for polynomial in (radial(-0.13, 0.015), (0.05, -0.1, 0.04, 0.0)):
        distortion = Distortion.of(PHOTO, polynomial)
        apart = distortion.undistorted(np.array([[1500.0, 1000.0], [1500.1, 1000.0]]))
        assert apart[1, 0] - apart[0, 0] == pytest.approx(0.1, rel=1e-4)


def straight_lines(
    distortion: Distortion,
    ends: list[tuple[float, float, float, float]],
    noise: float,
    random: np.random.Generator,
) -> tuple[Reading, ...]:
    """Traces of lines that are straight in reality, as a lens bends them."""
    found = []
    for i, (x0, y0, x1, y1) in enumerate(ends):
        line = np.linspace(0, 1, 12)[:, None] * [x1 - x0, y1 - y0] + [x0, y0]
        points = distortion.distorted(line) + random.normal(0, noise, (12, 2))
        points = np.clip(points, 0, [3000, 2000])
        found.append(
            Reading(
                id=f"{i}",
                kind="trace",
                points=tuple(map(tuple, points.tolist())),
                sigma_px=noise or 0.1,
            )
        )
    return tuple(found)


NEAR_BORDERS = [
    (150, 200, 2850, 240),
    (150, 1850, 2850, 1800),
    (200, 150, 230, 1850),
    (2800, 150, 2780, 1850),
]


@pytest.mark.parametrize(("k1", "k2"), BOWS[:3])
def test_traces_give_the_bow_within_the_stated_deviation(k1: float, k2: float) -> None:
    random = np.random.default_rng(1)
    exact = from_traces(PHOTO, straight_lines(lens(k1, k2), NEAR_BORDERS, 0.0, random))
    assert (exact.k1, exact.k2) == (pytest.approx(k1, abs=1e-3), pytest.approx(k2, abs=1e-3))
    inside = []
    for _ in range(60):
        traced = from_traces(PHOTO, straight_lines(lens(k1, k2), NEAR_BORDERS, 0.6, random))
        assert traced.sigma["k1"] is not None
        assert traced.sigma["k2"] is not None
        inside.append(
            (
                abs(traced.k1 - k1) < 1.96 * traced.sigma["k1"],
                abs(traced.k2 - k2) < 1.96 * traced.sigma["k2"],
            )
        )
    assert np.mean(inside, axis=0) == pytest.approx([0.95, 0.95], abs=0.06)


def test_a_trace_through_the_centre_says_little() -> None:
    random = np.random.default_rng(2)
    traces = straight_lines(lens(-0.1, 0), [(1500, 100, 1500, 1900)], 1.0, random)
    recipe = Recipe(readings=traces)
    assert solve(PHOTO, recipe).lens.source == "none"
    (note,) = notes_of(PHOTO, recipe, "through the middle")
    assert note.readings == ("0",)


def test_traces_that_contradict_each_other_are_named() -> None:
    random = np.random.default_rng(3)
    good = straight_lines(lens(-0.1, 0), NEAR_BORDERS, 0.5, random)
    bent = straight_lines(lens(0.15, 0), [(200, 400, 2800, 420)], 0.5, random)[0].model_copy(
        update={"id": "odd"}
    )
    recipe = Recipe(readings=(*good, bent))
    notes = notes_of(PHOTO, recipe, "contradicts")
    assert "odd" in {note.readings[0] for note in notes}
    odd = next(note for note in notes if note.readings == ("odd",))
    without = apply(odd.offers[0].edit, recipe, PHOTO)
    assert not notes_of(PHOTO, without)
    assert solve(PHOTO, without).lens.polynomial[1] == pytest.approx(-0.1, abs=0.01)


def test_sag() -> None:
    assert sag_px(np.array([[0.0, 0.0], [50.0, 3.0], [100.0, 0.0]])) == pytest.approx(3)
    # A circle's sagitta s = r - sqrt(r^2 - (c/2)^2) (elementary geometry).
    angle = np.linspace(-0.1, 0.1, 101)
    assert sag_px(1000 * np.column_stack([np.sin(angle), np.cos(angle)])) == pytest.approx(
        1000 - 1000 * math.cos(0.1)
    )


@pytest.mark.parametrize("k1", [-0.3, -0.2, -1.5])
def test_a_bow_that_folds_the_picture_is_refused_with_its_limit(k1: float) -> None:
    with pytest.raises(UnusableInput, match="folds the picture over") as refused:
        solve(PHOTO, Recipe(lens=LensChoice(source="hand", k1=k1)))
    # r (1 + k1 r^2) has its peak 2/3 sqrt(-1 / (3 k1)); at the corners, r_d = 1, that needs k1 >
    # -4/27.
    assert limit_k1(0.0) == pytest.approx(-4 / 27, abs=1e-3)
    assert f"{limit_k1(0.0):.3f}" in str(refused.value)
    assert solve(PHOTO, Recipe(lens=LensChoice(source="hand", k1=-0.147))).lens.source == "hand"


def test_a_trace_of_two_points_is_refused() -> None:
    with pytest.raises(ValueError, match="at least three points"):
        Reading(id="a", kind="trace", points=((0, 0), (100, 3)))
    with pytest.raises(ValueError, match="has two ends"):
        Reading(id="a", kind="level", points=((0, 0), (100, 3), (200, 0)))


def test_a_trace_can_serve_as_level() -> None:
    random = np.random.default_rng(4)
    turned = [(150, 200, 2850, 200 + 2700 * math.tan(math.radians(1.2)))]
    (trace,) = straight_lines(lens(-0.08, 0), turned, 0.2, random)
    plain = solve(PHOTO, Recipe(readings=(trace,)))
    assert plain.stance.roll_deg == 0
    level = solve(PHOTO, Recipe(readings=(trace.model_copy(update={"serves_as": "level"}),)))
    assert level.stance.roll_deg == pytest.approx(-1.2, abs=0.03)
    assert level.readings[0].sag_before_px > 15
    assert level.readings[0].sag_px < 1


def test_readings_stay_on_their_points_and_their_angles_are_recomputed() -> None:
    distortion = lens(-0.1, 0.0)
    ends = distortion.distorted(
        np.array([[300.0, 250.0], [1400.0, 250.0]])
    )  # level in reality, in the upper left
    reading = Reading(id="a", kind="level", points=tuple(map(tuple, ends.tolist())))
    before = solve(PHOTO, Recipe(readings=(reading,)))
    after = solve(PHOTO, Recipe(readings=(reading,), lens=LensChoice(source="hand", k1=-0.1)))
    assert abs(before.stance.roll_deg) > 0.3
    assert after.stance.roll_deg == pytest.approx(0, abs=1e-9)


def bowed_edge(distortion: Distortion, y: float, noise: float = 0.0) -> np.ndarray:
    """Dark below, bright above a line that is level in the straight picture, as the lens bends
    it.
    """
    fine = 4
    x, rows = np.meshgrid(np.arange(1500) + 0.5, (np.arange(1000 * fine) + 0.5) / fine)
    points = distortion.undistorted(np.column_stack([x.ravel(), rows.ravel()]))
    below = (points[:, 1] > y).reshape(1000, fine, 1500).mean(axis=1)
    grey = 200 - 140 * below + np.random.default_rng(0).normal(0, noise, below.shape)
    return np.repeat(np.clip(grey, 0, 255).astype(np.uint8)[..., None], 3, axis=2)


SMALL = PhotoFacts(width=1500, height=1000)


def test_edges_are_fitted_along_the_bow_and_followed_without_it() -> None:
    distortion = Distortion.of(SMALL, radial(-0.1, 0.01))
    picture = bowed_edge(distortion, 120, noise=3)
    ends = distortion.distorted(np.array([[100.0, 123.0], [1400.0, 118.0]]))
    drawn = tuple(map(tuple, ends.tolist()))
    fit = fit_edge(picture, drawn, distortion)
    assert fit is not None
    found = distortion.undistorted(np.array([*fit.points, fit.middle]))
    assert found[:, 1] == pytest.approx([120] * 3, abs=0.1)
    clicked = distortion.distorted(np.array([[100.0, 122.0], [700.0, 119.0], [1400.0, 121.0]]))
    followed = follow_edge(picture, tuple(map(tuple, clicked.tolist())))
    assert followed is not None
    points, sigma, stations = followed
    assert distortion.undistorted(np.array(points))[:, 1] == pytest.approx(
        np.full(len(points), 120.0), abs=0.15
    )
    assert sigma < 0.5
    assert stations > 400
    trace = fitted(
        Reading(id="t", kind="trace", points=tuple(map(tuple, clicked.tolist()))), picture
    )
    assert trace is not None
    traced = from_traces(SMALL, (trace,))
    assert traced.k1 == pytest.approx(-0.1, abs=3 * traced.sigma["k1"])
    assert follow_edge(picture, ((100, 700), (700, 704), (1400, 700))) is None


@pytest.mark.parametrize(("k1", "k2"), BOWS)
@pytest.mark.parametrize(
    "trim", [Trim(), Trim(roll_deg=3), Trim(roll_deg=-2, lean_deg=8, swing_deg=-6)]
)
def test_the_frame_in_a_curved_outline(k1: float, k2: float, trim: Trim) -> None:
    photo = PhotoFacts(width=600, height=400)
    pixels = np.full((400, 600, 1), 99, np.uint8)
    for ratio in ("original", "1:1", "16:9"):
        solution = solve(
            photo,
            Recipe(
                lens=LensChoice(source="hand", k1=k1, k2=k2),
                trim=trim,
                frame=FrameChoice(ratio=ratio),
            ),
        )
        assert render(pixels, solution).empty_pixels == 0
        frame, outline = solution.frame, Polygon(solution.outline)
        # Against a brute-force search: no rectangle of that ratio is clearly larger.
        aspect = frame.width / frame.height
        x0, y0, x1, y1 = outline.bounds
        best = 0.0
        for cx in np.linspace(x0, x1, 31):
            for cy in np.linspace(y0, y1, 31):
                height = best + 1
                while outline.contains(
                    Polygon(
                        [
                            (cx + sx * height * aspect / 2, cy + sy * height / 2)
                            for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1))
                        ]
                    )
                ):
                    best, height = height, height + 1
        assert frame.height >= best * 0.995 - 2


def test_the_frame_of_a_straight_outline_is_the_same_by_both_ways() -> None:
    # Closed form (elementary geometry): a w x h picture turned by t keeps the linear scale 1 / (cos
    # t + (w/h) sin t).
    t = math.radians(5)
    corners = np.array([[-300.0, -200], [300, -200], [300, 200], [-300, 200]]) @ np.array(
        [[math.cos(t), math.sin(t)], [-math.sin(t), math.cos(t)]]
    )
    dense = np.concatenate(
        [np.linspace(corners[i], corners[(i + 1) % 4], 200, endpoint=False) for i in range(4)]
    )
    found = largest_in_curve(dense, 1.5, (0.0, 0.0))
    assert found.height / 400 == pytest.approx(1 / (math.cos(t) + 1.5 * math.sin(t)), rel=0.003)


def test_border_centres_are_the_outermost_pixels() -> None:
    solution = solve(PhotoFacts(width=30, height=20), Recipe())
    centres = border_centres(Rectangle(0, 0, solution.frame.width, solution.frame.height))
    assert set(map(tuple, centres)) == {
        (x + 0.5, y + 0.5) for x in range(30) for y in range(20) if x in (0, 29) or y in (0, 19)
    }


def test_rendering_straightens_in_one_resampling_as_opencv_does(photograph: np.ndarray) -> None:
    height, width = photograph.shape[:2]
    photo = PhotoFacts(width=width, height=height)
    distortion = Distortion.of(photo, radial(-0.08, 0.01))
    ours = render_straight(photograph, distortion, Rectangle(0, 0, width, height), 1.0).pixels
    unit = math.hypot(width, height) / 2
    k = np.array([[unit, 0, (width - 1) / 2], [0, unit, (height - 1) / 2], [0, 0, 1]])
    across, down = cv2.initUndistortRectifyMap(
        k, np.array([-0.08, 0.01, 0, 0]), None, k, (width, height), cv2.CV_32FC1
    )
    theirs = cv2.remap(
        photograph, across, down, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE
    )
    inner = (slice(60, -60), slice(60, -60))
    assert cv2.PSNR(ours[inner], theirs[inner]) > 45
    solution = solve(
        photo, Recipe(lens=LensChoice(source="hand", k1=-0.08, k2=0.01), trim=Trim(roll_deg=2))
    )
    rendered = render(photograph, solution)
    assert rendered.empty_pixels == 0
    assert rendered.pixels.shape[:2] == (solution.frame.height, solution.frame.width)


@pytest.fixture(scope="module")
def calibrated() -> tuple[list[np.ndarray], np.ndarray, np.ndarray, PhotoFacts]:
    """Corners of the strongly bowed boards left01 to left14 of Debian's opencv-doc, and OpenCV's
    calibration of their camera.

    That camera's axis meets the picture 22 pixels beside its middle; the coordinates are those of
    the pictures cropped so that it meets the middle, as in the model of the project.
    """
    pictures = [
        cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
        for path in sorted(OPEN_PICTURES.glob("left[0-9][0-9].jpg"))
    ]
    corners = [found for picture in pictures if (found := corners_of(picture)) is not None]
    board = np.zeros((ROWS * COLUMNS, 3), np.float32)
    board[:, :2] = np.mgrid[0:COLUMNS, 0:ROWS].T.reshape(-1, 2)
    height, width = pictures[0].shape
    points = [(found.reshape(-1, 1, 2) - 0.5).astype(np.float32) for found in corners]
    _, k, coefficients, _, _ = cv2.calibrateCamera(
        [board] * len(points), points, (width, height), None, None
    )
    middle = k[:2, 2] + 0.5
    photo = PhotoFacts(
        width=int(2 * min(middle[0], width - middle[0])),
        height=int(2 * min(middle[1], height - middle[1])),
    )
    shift = middle - [photo.width / 2, photo.height / 2]
    return [found - shift for found in corners], k, coefficients.ravel(), photo


def board_traces(corners: np.ndarray) -> tuple[Reading, ...]:
    lines = [*corners, *corners.transpose(1, 0, 2)]
    return tuple(
        Reading(id=str(i), kind="trace", points=tuple(map(tuple, line.tolist())), sigma_px=0.15)
        for i, line in enumerate(lines)
    )


def parabola_sag_px(points: np.ndarray) -> float:
    """How far a parabola through points bends from its chord.

    Single corners are found to some tenths of a pixel only.
    """
    chord = points[-1] - points[0]
    along = (points - points[0]) @ chord / (chord @ chord)
    across = (points - points[0]) @ np.array([-chord[1], chord[0]]) / np.hypot(*chord)
    return float(abs(np.polyfit(along, across, 2)[0]) / 4)


def test_one_board_straightens_the_rows_of_the_others(calibrated) -> None:
    corners, k, coefficients, photo = calibrated
    # The board that says most of both coefficients, by the stated deviations.
    traced = [from_traces(photo, board_traces(found)) for found in corners]
    first = min(
        range(len(corners)),
        key=lambda i: (traced[i].sigma.get("k2", 1.0), traced[i].sigma.get("k1", 1.0)),
    )
    distortion = Distortion.of(photo, radial(traced[first].k1, traced[first].k2))
    rows = [row for index, found in enumerate(corners) if index != first for row in found]
    assert max(sag_px(row) for row in rows) > 4.5
    bends = [parabola_sag_px(distortion.undistorted(row)) for row in rows]
    assert np.quantile(bends, 0.98) < 0.5
    # One row in 72 bends by half a pixel and a little, and so it does after OpenCV's own
    # calibration from all the boards.
    shift = k[:2, 2] + 0.5 - [photo.width / 2, photo.height / 2]
    seen = [(row + shift - 0.5).reshape(-1, 1, 2) for row in rows]
    theirs = [
        parabola_sag_px(cv2.undistortPoints(row, k, coefficients, None, None, k).reshape(-1, 2))
        for row in seen
    ]
    assert max(bends) < max(theirs) + 0.01
    assert (
        np.quantile([sag_px(distortion.undistorted(row)) for row in rows], 0.9) < 0.5
    )  # each corner with its own error


def test_the_boards_agree_with_opencvs_calibration(calibrated) -> None:
    corners, k, coefficients, photo = calibrated
    everything = tuple(
        trace.model_copy(update={"id": f"{i}-{trace.id}"})
        for i, found in enumerate(corners)
        for trace in board_traces(found)
    )
    traced = from_traces(photo, everything)
    unit = math.hypot(photo.width, photo.height) / 2
    reach = (
        max(
            np.hypot(*(found.reshape(-1, 2) - [photo.width / 2, photo.height / 2]).T).max()
            for found in corners
        )
        / unit
    )
    radii = np.linspace(0.05, reach, 30)  # as far as there were corners
    ours = radii * (1 + traced.k1 * radii**2 + traced.k2 * radii**4)
    scaled = radii * unit / k[0, 0]
    theirs = radii * (
        1 + coefficients[0] * scaled**2 + coefficients[1] * scaled**4 + coefficients[4] * scaled**6
    )
    # A change of scale is no bow, so the curves may differ by one.
    scale = (ours @ theirs) / (theirs @ theirs)
    assert np.abs(ours - scale * theirs).max() * unit < 0.5
    assert np.abs(theirs - radii).max() * unit > 15


def test_the_homography_acts_on_the_straight_picture() -> None:
    recipe = Recipe(lens=LensChoice(source="hand", k1=-0.1), trim=Trim(roll_deg=4, lean_deg=5))
    solution = solve(PHOTO, recipe)
    distortion, _ = distortion_of(PHOTO, recipe)
    line = np.column_stack([np.linspace(200, 2800, 40), np.full(40, 150.0)])
    seen = distortion.distorted(line)  # a straight thing as the lens shows it
    assert sag_px(seen) > 10
    assert (
        sag_px(
            apply_homography(solution.warp.homography, solution.warp.distortion.undistorted(seen))
        )
        < 1e-6
    )


def bent_by_opencv(
    line: np.ndarray, k: tuple[float, float], p: tuple[float, float], centre: np.ndarray
) -> np.ndarray:
    """Where a decentred lens puts points, by OpenCV's projectPoints with half the diagonal as focal
    length.
    """
    camera = np.array([[UNIT, 0, centre[0]], [0, UNIT, centre[1]], [0, 0, 1.0]])
    rays = np.column_stack([(line - centre) / UNIT, np.ones(len(line))])
    return cv2.projectPoints(rays, np.zeros(3), np.zeros(3), camera, np.array([*k, *p, 0.0]))[
        0
    ].reshape(-1, 2)


def test_a_lens_that_is_not_centred_is_found_from_traces_along_three_borders() -> None:
    random = np.random.default_rng(0)
    for _ in range(6):
        angle = random.uniform(0, 2 * math.pi)
        off = random.uniform(20, 40) * np.array([math.cos(angle), math.sin(angle)])
        centre = np.array([1500.0, 1000.0]) + off
        p = tuple(random.uniform(-0.002, 0.002, 2))
        k = (float(random.choice([-0.12, -0.06, 0.05])), float(random.uniform(0, 0.02)))
        traces = []
        for i, (x0, y0, x1, y1) in enumerate(NEAR_BORDERS[:3]):
            straight = np.linspace(0, 1, 16)[:, None] * [x1 - x0, y1 - y0] + [x0, y0]
            points = bent_by_opencv(straight, k, p, centre)
            traces.append(
                Reading(
                    id=str(i),
                    kind="trace",
                    points=tuple(map(tuple, points.tolist())),
                    sigma_px=0.05,
                )
            )
        found = from_traces(PHOTO, tuple(traces))
        assert {"p1", "p2", "centre_x", "centre_y"} <= found.sigma.keys()
        distortion = found.distortion(PHOTO)
        for _ in range(20):
            middle = random.uniform([700, 600], [2300, 1400])
            turn = random.uniform(0, math.pi)
            along = np.linspace(-750, 750, 31)[:, None] * [math.cos(turn), math.sin(turn)]
            bent = bent_by_opencv(middle + along, k, p, centre)
            assert sag_px(distortion.undistorted(bent)) < 0.3


def test_the_tangential_part_and_the_centre_against_opencv() -> None:
    centre, p = np.array([1540.0, 985.0]), (0.0015, -0.002)
    distortion = Distortion.of(
        PHOTO, radial(-0.1, 0.02, 0.004), p, tuple((centre - [1500, 1000]) / UNIT)
    )
    inner = field()[np.hypot(*(field() - centre).T) < 0.8 * UNIT]
    camera = np.array([[UNIT, 0, centre[0]], [0, UNIT, centre[1]], [0, 0, 1.0]])
    rays = np.column_stack([(inner - centre) / UNIT, np.ones(len(inner))])
    theirs = cv2.projectPoints(
        rays, np.zeros(3), np.zeros(3), camera, np.array([-0.1, 0.02, *p, 0.004])
    )[0].reshape(-1, 2)
    assert np.abs(distortion.distorted(inner) - theirs).max() < 1e-6
    assert np.abs(distortion.undistorted(theirs) - inner).max() < 1e-6


def test_a_real_moderate_barrel_is_never_refused() -> None:
    # The outer corner rows and columns of every board, roughly placed, without any fitting.
    for path in sorted(OPEN_PICTURES.glob("left[0-9][0-9].jpg")):
        grey = cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
        corners = corners_of(grey)
        if corners is None:
            continue
        photo = PhotoFacts(width=grey.shape[1], height=grey.shape[0])
        lines = [corners[0], corners[-1], corners[:, 0], corners[:, -1]]
        traces = tuple(
            Reading(id=str(i), kind="trace", points=tuple(map(tuple, row.tolist())))
            for i, row in enumerate(lines)
        )
        solution = solve(photo, Recipe(readings=traces))
        assert solution.lens.source == "traces"
        assert solution.lens.polynomial[1] < -0.05

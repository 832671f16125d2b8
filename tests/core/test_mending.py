"""Places made anew under a brush: where its strokes lie, by elementary geometry; what is made there
against the truth and against OpenCV's inpainting; that nothing else changes.
"""

import math

import cv2
import numpy as np
import pytest
from pydantic import ValidationError

import sequor.core.edits as e
from sequor.core.advance import advance
from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import fill_roughly, render_filled
from sequor.core.fill.judging import judge_fill
from sequor.core.frame.strokes import marked, stroked
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import (
    MAX_MENDS,
    FillCandidate,
    FillChoice,
    FillMethod,
    Mend,
    Recipe,
    Trim,
)
from sequor.core.render.rendering import render
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.core.solved import MarkedStroke, SolvedFrame
from tests.core.test_fill import likeness, photograph_of

SPOT = Mend(points=((300, 210),), reach=22)


def grass(height: int = 400, width: int = 600) -> np.ndarray:
    """Fine texture on a slope of light, as no inpainting continues it smoothly."""
    random = np.random.default_rng(7)
    noise = cv2.GaussianBlur(random.normal(0, 60, (height, width)), (0, 0), 1.2)
    light = np.linspace(90, 150, height)[:, None]
    green = np.clip(noise + light, 0, 255)
    return np.stack([green * 0.7, green, green * 0.5], axis=-1).astype(np.uint8)


def spotted(picture: np.ndarray, at: tuple[int, int] = (300, 210), radius: int = 15) -> np.ndarray:
    made = picture.copy()
    cv2.circle(made, at, radius, (250, 20, 20), -1)
    return made


def facts(picture: np.ndarray) -> PhotoFacts:
    return PhotoFacts(width=picture.shape[1], height=picture.shape[0])


def solved(picture: np.ndarray, recipe: Recipe) -> Solution:
    return solve(facts(picture), recipe)


def made_of(picture: Pixels, recipe: Recipe, size: tuple[int, int] | None = None) -> Pixels:
    return render_filled(picture, solved(picture, recipe), recipe, size=size).pixels


def red(pixels: Pixels) -> int:
    """How many pixels are as red as the spot is, and nothing else."""
    values = pixels.astype(int) * 255 // np.iinfo(pixels.dtype).max
    return int((values[..., 0] > values[..., 1] + 60).sum())


@pytest.mark.parametrize("points", [[(120, 80)], [(60, 50), (200, 110)], [(40, 90), (41, 90)]])
def test_what_is_under_a_stroke_has_the_area_of_a_stadium(
    points: list[tuple[float, float]],
) -> None:
    # 2 r l + pi r^2, elementary geometry.
    reach = 24.5
    (under,) = stroked(
        [MarkedStroke(points=tuple(points), reach=reach)],
        SolvedFrame(x=0, y=0, width=300, height=180),
        (600, 360),
    )
    length = math.dist(points[0], points[-1])
    expected = 4 * (2 * reach * length + math.pi * reach**2)
    assert under.sum() == pytest.approx(expected, rel=0.004)


def test_a_stroke_is_where_the_picture_under_it_goes() -> None:
    picture = spotted(grass())
    recipe = Recipe(trim=Trim(roll_deg=9), mends=(SPOT,))
    solution = solved(picture, recipe)
    stroke = marked(SPOT, solution.warp)
    assert stroke.points[0] == pytest.approx(solution.warp.to_corrected(np.array([[300, 210]]))[0])
    assert stroke.reach == pytest.approx(22, rel=1e-6)  # a turn changes no length
    assert solution.mended_fraction == pytest.approx(
        math.pi * 22**2 / (solution.frame.width * solution.frame.height), rel=0.02
    )
    unmended = render(picture, solution).pixels
    assert red(unmended) > 600
    assert red(made_of(picture, recipe)) == 0


def test_only_what_is_under_the_stroke_changes() -> None:
    picture = spotted(grass())
    recipe = Recipe(trim=Trim(roll_deg=3), mends=(SPOT,))
    solution = solved(picture, recipe)
    rendered = render_filled(picture, solution, recipe)
    assert rendered.mended is not None
    before = render(picture, solution).pixels
    assert (rendered.pixels == before)[~rendered.mended].all()
    assert rendered.empty_pixels == 0
    assert rendered.filled_share == pytest.approx(rendered.mended.mean())
    assert rendered.filled_share == pytest.approx(solution.mended_fraction, rel=0.05)


@pytest.mark.parametrize("size", [(150, 100), (600, 400), (1200, 800)])
def test_a_mend_holds_at_every_size(size: tuple[int, int]) -> None:
    assert red(made_of(spotted(grass()), Recipe(mends=(SPOT,)), size)) == 0


@pytest.mark.parametrize("kind", ["16 bit", "grey", "alpha", "grey with alpha"])
def test_a_mend_in_other_pixels(kind: str) -> None:
    plain, spot = grass(), spotted(grass())
    if kind == "16 bit":
        pixels = spot.astype(np.uint16) * 257
        assert red(made_of(pixels, Recipe(mends=(SPOT,)))) == 0
        return
    channels = spot if kind == "alpha" else spot[..., 1:2]
    if "alpha" in kind:
        channels = np.dstack([channels, np.full(spot.shape[:2], 200, np.uint8)])
    made = made_of(np.ascontiguousarray(channels), Recipe(mends=(SPOT,)))
    inside = np.hypot(*(np.mgrid[0:400, 0:600] - np.array([210, 300])[:, None, None])) < 15
    assert made.shape == channels.shape
    # The spot has a green of 20; the grass around it one of 90 to 150.
    green = made[..., 1 if kind == "alpha" else 0]
    assert green[inside].mean() == pytest.approx(plain[..., 1][inside].mean(), abs=12)
    if "alpha" in kind:
        assert (made[..., -1] == 200).all()


@pytest.mark.parametrize("name", ["fruits.jpg", "aloeL.jpg", "home.jpg", "butterfly.jpg"])
def test_a_mend_keeps_the_texture_that_inpainting_smears(name: str) -> None:
    """Spots over photographs of Debian's opencv-doc, whose truth is known; Telea by OpenCV."""
    truth = photograph_of(name)
    height, width = truth.shape[:2]
    places = [(int(width * x), int(height * y)) for x, y in ((0.2, 0.3), (0.5, 0.6), (0.8, 0.75))]
    mends = tuple(Mend(points=(place,), reach=14) for place in places)
    spots = truth.copy()
    for place in places:
        cv2.circle(spots, place, 12, (255, 0, 255), -1)
    recipe = Recipe(mends=mends)
    solution = solved(spots, recipe)
    rendered = render_filled(spots, solution, recipe)
    hole = rendered.mended
    assert hole is not None
    telea = cv2.inpaint(spots, hole.astype(np.uint8), 5, cv2.INPAINT_TELEA)

    def strength(pixels: np.ndarray) -> float:
        fine = pixels.astype(float) - cv2.GaussianBlur(pixels.astype(float), (0, 0), 2)
        return float(fine[hole].std())

    assert strength(rendered.pixels) > 2 * strength(telea)
    assert 0.8 < strength(rendered.pixels) / strength(truth) < 1.2
    # Mean SSIM by scikit-image: behind on fruits.jpg alone (docs/fills.md).
    ours, _ = likeness(truth, rendered.pixels, hole)
    smeared, _ = likeness(truth, telea, hole)
    assert ours > smeared - (0.07 if name == "fruits.jpg" else 0)


@pytest.mark.parametrize(("end", "goes_on"), [(600, True), (290, False)])
def test_an_edge_goes_through_a_mend_only_where_it_goes_on_behind_it(
    end: int, goes_on: bool
) -> None:
    picture = np.full((400, 600, 3), 120, np.uint8)
    picture += np.random.default_rng(3).integers(0, 7, picture.shape, np.uint8)
    picture[194:206, :end] = 225
    made = made_of(picture, Recipe(mends=(Mend(points=((300, 200),), reach=30),)))
    # Far from where the bar comes in; what is made there is bar, or is not.
    light = made[198:202, 312:322].mean()
    assert light == pytest.approx(225 if goes_on else 123, abs=12)


def test_another_suggestion_is_another_one_and_each_is_the_same_again() -> None:
    picture = spotted(grass())

    def made(**candidate: object) -> np.ndarray:
        mend = SPOT.changed(candidate=FillCandidate.model_validate(candidate))
        return made_of(picture, Recipe(mends=(mend,)))

    assert (made(style="sharp") == made(style="sharp")).all()
    assert (made(style="sharp") != made(style="sharp", draw=2)).any()
    assert (made(style="sharp") != made(style="calm")).any()


def test_a_copy_is_what_is_there_in_the_light_of_here() -> None:
    picture = spotted(grass())
    mend = SPOT.changed(copied_from=(90.0, 120.0))
    made = made_of(picture, Recipe(mends=(mend,)))
    here, there = np.s_[200:221, 290:311], np.s_[320:341, 380:401]

    def fine(part: np.ndarray) -> np.ndarray:
        return part[..., 1].astype(float) - part[..., 1].mean()

    agreement = np.corrcoef(fine(made[here]).ravel(), fine(picture[there]).ravel())[0, 1]
    assert agreement > 0.97
    # It lies 18 levels lighter there, on the slope of light.
    assert made[here][..., 1].mean() == pytest.approx(grass()[here][..., 1].mean(), abs=6)
    assert picture[there][..., 1].mean() > grass()[here][..., 1].mean() + 12


def test_what_cannot_be_copied_is_made_anew() -> None:
    picture = spotted(grass())
    beyond = SPOT.changed(copied_from=(295.0, 0.0))
    assert red(made_of(picture, Recipe(mends=(beyond,)))) == 0
    onto_itself = SPOT.changed(copied_from=(10.0, 0.0))
    assert red(made_of(picture, Recipe(mends=(onto_itself,)))) == 0


def test_a_mend_in_a_filled_corner_leaves_the_rest_of_the_fill() -> None:
    picture = grass()
    fill = FillChoice(allowance=1)
    plain = Recipe(trim=Trim(roll_deg=6), fill=fill)
    over = Mend(points=((-10.0, 4.0), (4.0, -10.0)), reach=9)
    mended = plain.model_copy(update={"mends": (over,)})
    solution = solved(picture, mended)
    before = render_filled(picture, solved(picture, plain), plain).pixels
    rendered = render_filled(picture, solution, mended)
    assert rendered.mended is not None
    assert rendered.empty_pixels == 0
    changed = (rendered.pixels != before).any(axis=2)
    assert changed[rendered.mended].mean() > 0.5
    assert changed[~rendered.mended].mean() < 0.001  # grain is measured over all that is filled


@pytest.mark.parametrize("method", ["mirror", "colour", "transparent"])
def test_a_mend_beside_corners_that_are_dealt_with_otherwise(method: FillMethod) -> None:
    picture = spotted(grass())
    fill = FillChoice(allowance=1, method=method, colour="#0000ff")
    plain = Recipe(trim=Trim(roll_deg=4), fill=fill)
    mended = plain.model_copy(update={"mends": (SPOT,)})
    before = render_filled(picture, solved(picture, plain), plain)
    after = render_filled(picture, solved(picture, mended), mended)
    assert after.mended is not None
    assert (after.pixels == before.pixels)[~after.mended].all()
    assert red(after.pixels[..., :3]) == 0
    assert after.empty_pixels == before.empty_pixels
    assert after.filled_share == pytest.approx(before.filled_share + after.mended.mean())


def test_a_speck_in_a_large_picture_is_mended() -> None:
    """Thinner than a pixel of the plan, and of what the share is counted on."""
    picture = np.tile(grass(), (6, 6, 1))
    picture[1101:1104, 1401:1404] = (250, 20, 20)
    recipe = Recipe(mends=(Mend(points=((1402.5, 1102.5),), reach=2.2),))
    solution = solved(picture, recipe)
    assert solution.made_up
    rendered = render_filled(picture, solution, recipe)
    assert red(rendered.pixels) == 0
    assert 0 < rendered.filled_share < 2e-5


def test_a_mend_beyond_the_frame_makes_nothing_up() -> None:
    picture = grass()
    recipe = Recipe(trim=Trim(roll_deg=5), mends=(Mend(points=((1.0, 1.0),), reach=2),))
    solution = solved(picture, recipe)
    assert not solution.made_up
    assert judge_fill(picture, solution, recipe) is None
    assert (made_of(picture, recipe) == render(picture, solution).pixels).all()


def test_a_mend_is_judged_like_any_fill() -> None:
    picture = grass()
    # A dark patch copied into the grass is foreign to it.
    cv2.rectangle(picture, (420, 60), (560, 160), (20, 20, 24), -1)
    mend = Mend(points=((200, 250),), reach=30, copied_from=(290.0, -140.0))
    recipe = Recipe(mends=(mend,))
    judged = judge_fill(picture, solved(picture, recipe), recipe)
    assert judged is not None
    assert any(math.dist((flaw.x, flaw.y), (200 / 600, 250 / 400)) < 0.1 for flaw in judged.flaws)


def test_where_nothing_is_left_to_copy_from_it_is_said() -> None:
    picture = grass(60, 90)
    recipe = Recipe(mends=(Mend(points=((45, 30),), reach=200),))
    with pytest.raises(UnusableInput, match="Nothing is left to copy from"):
        made_of(picture, recipe)


def test_a_picture_of_twenty_pixels() -> None:
    picture = spotted(grass(20, 20), at=(5, 5), radius=1)
    assert red(picture) > 0
    made = made_of(picture, Recipe(mends=(Mend(points=((5, 5),), reach=2.5),)))
    assert made.shape == (20, 20, 3)
    assert red(made) == 0


def test_a_thumbnail_shows_no_spot() -> None:
    picture = spotted(grass())
    recipe = Recipe(mends=(SPOT,))
    solution = solved(picture, recipe)
    small = cv2.resize(picture, (150, 100), interpolation=cv2.INTER_AREA)
    assert red(small) > 20
    assert red(fill_roughly(small, solution, recipe, (600, 400))) == 0


def done(recipe: Recipe, *edits: e.Edit) -> Recipe:
    return advance(PhotoFacts(width=600, height=400), recipe, edits).recipe


def test_edits_of_mends() -> None:
    recipe = done(
        Recipe(trim=Trim(roll_deg=4)),
        e.MendPlace(points=((80, 60), (90, 64)), reach=5, seen="corrected"),
        e.MendPlace(points=((300, 200),), reach=10),
        e.MendOtherwise(number=1, candidate=FillCandidate(style="calm", draw=3)),
        e.MendFrom(place=(350, 220)),
    )
    first, second = recipe.mends
    assert first.candidate == FillCandidate(style="calm", draw=3)
    assert second.copied_from == pytest.approx((50, 20))
    # What a hand draws on the screen lies there.
    solution = solve(PhotoFacts(width=600, height=400), recipe)
    assert np.array(solution.marks.mends[0].points) == pytest.approx(np.array([[80, 60], [90, 64]]))
    assert solution.marks.mends[0].reach == pytest.approx(5)
    copied = solution.marks.mends[1].copied
    assert copied is not None
    assert math.dist(*copied) == pytest.approx(math.hypot(50, 20))
    again = done(recipe, e.MendOtherwise(number=2))
    assert again.mends[1] == second.changed(copied_from=None)
    # Sharp and calm in turn, each draw of them.
    suggested = []
    for _ in range(3):
        again = done(again, e.MendOtherwise(number=2))
        suggested.append((again.mends[1].candidate.style, again.mends[1].candidate.draw))
    assert suggested == [("calm", 1), ("sharp", 2), ("calm", 2)]
    assert done(recipe, e.RemoveMend(number=1)).mends == (second,)
    assert done(recipe, e.RemoveMend()).mends == ()


def test_a_stroke_in_a_corner_stays_beyond_the_picture() -> None:
    recipe = Recipe(trim=Trim(roll_deg=6), fill=FillChoice(allowance=1))
    (mend,) = done(recipe, e.MendPlace(points=((2, 2),), reach=4, seen="corrected")).mends
    assert min(mend.points[0]) < 0


def test_too_many_mends_and_one_that_is_gone() -> None:
    full = Recipe(mends=(SPOT,) * MAX_MENDS)
    with pytest.raises(UnusableInput, match=f"{MAX_MENDS} mends already"):
        done(full, e.MendPlace(points=((5, 5),), reach=3))
    for edit in (
        e.MendOtherwise(number=2, candidate=FillCandidate()),
        e.MendFrom(number=2, place=(5, 5)),
        e.RemoveMend(number=2),
    ):
        with pytest.raises(UnusableInput, match="no mend 2 any more"):
            done(Recipe(mends=(SPOT,)), edit)


@pytest.mark.parametrize(
    "bad",
    [
        {"points": [], "reach": 4},
        {"points": [[1, 1]], "reach": 0},
        {"points": [[1, math.nan]], "reach": 4},
        {"points": [[1, 1]] * 201, "reach": 4},
        {"points": [[1, 1]], "reach": math.inf},
    ],
)
def test_what_is_no_stroke_is_refused(bad: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        Recipe.model_validate({"mends": [bad]})


def test_an_older_recipe_has_no_mends() -> None:
    assert Recipe.model_validate({"version": 7}).mends == ()

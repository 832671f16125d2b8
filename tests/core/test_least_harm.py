"""The mixture of crop, bend and fill that does the least harm.

What a hundredth lost, bent or made up is worth beside the others is a figure of ours (no published
source); what follows from it is not.
"""

from collections.abc import Callable, Hashable

import numpy as np
import pytest
import skimage.data

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.fill.judge import Judgement, expected_doubt, judge
from sequor.core.least_harm import HarmWeights, LeastHarm, halvings_enough, least_harm
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import BendChoice, FillChoice, FrameChoice, Reading, Recipe, Trim
from sequor.core.report.harm_words import harm_words
from sequor.core.solve import solve
from tests.core.test_fill import SHARP, filled, wedges

ROLL_DEG = 3.0


def sky() -> np.ndarray:
    """Light that falls off evenly, 540 x 360."""
    picture = np.empty((360, 540, 3), np.uint8)
    picture[:] = np.linspace(190, 120, 360).astype(np.uint8)[:, None, None]
    return picture


def shingle() -> np.ndarray:
    """The same size full of stones, none like another."""
    noise = np.random.default_rng(4).normal(0, 1, (90, 135, 3)).repeat(4, 0).repeat(4, 1)
    return np.clip(120 + 45 * noise, 0, 255).astype(np.uint8)


def recipe_of(*readings: Reading, **fill: object) -> Recipe:
    return Recipe(
        readings=readings,
        trim=Trim(roll_deg=ROLL_DEG),
        fill=FillChoice(**fill),
        bend=BendChoice(edges=()),
    )


KEPT: dict[Hashable, Judgement] = {}
"""Judgements of the tests' pictures, which hang on no weights."""


def weighed(
    picture: np.ndarray, recipe: Recipe | None = None, **weights: object
) -> tuple[LeastHarm, PhotoFacts]:
    photo = PhotoFacts(width=picture.shape[1], height=picture.shape[0], focal35_mm=28)
    chosen, content = HarmWeights(**weights), picture.tobytes()

    def keep(key: Hashable, judge: Callable[[], Judgement]) -> Judgement:
        if (content, key) not in KEPT:
            KEPT[content, key] = judge()
        return KEPT[content, key]

    found = least_harm(picture, 0, photo, recipe or recipe_of(), chosen, keep=keep)
    return found, photo


def test_what_was_judged_once_serves_other_weights() -> None:
    """The next search of the same corners judges nothing anew, and finds what it would have."""
    picture = skimage.data.coffee()[:360, :540]
    alone, photo = weighed(picture, made_up="much")
    kept = len(KEPT)

    def unkept(key: Hashable, judge: Callable[[], Judgement]) -> Judgement:
        return judge()

    again, _ = weighed(picture, made_up="much")
    assert len(KEPT) == kept
    anew = least_harm(picture, 0, photo, recipe_of(), HarmWeights(made_up="much"), keep=unkept)
    assert alone == again == anew


def test_a_margin_is_filled_whatever_becomes_of_the_corners() -> None:
    """It was asked for, so that also who never lets anything be made up there may have one."""
    wrapped = recipe_of().changed(frame=FrameChoice(margin=0.1))
    assert weighed(sky(), wrapped, made_up="never")[0] == weighed(sky(), made_up="never")[0]


def test_it_does_less_harm_than_each_plain_way_and_says_why() -> None:
    found, _ = weighed(skimage.data.coffee()[:360, :540])
    plain = dict(found.plain)
    assert plain.keys() == {"crop", "bend", "fill"}
    assert all(found.best.harm.total <= one.harm.total + 1e-9 for one in plain.values())
    assert found.best.harm.total < 0.6 * min(one.harm.total for one in plain.values())
    assert found.sure
    words = harm_words(found)
    assert words.beside.startswith("Of 33 mixtures the least, ")
    doubtful = found.model_copy(update={"sure": False})
    assert "probably the least" in harm_words(doubtful).beside
    assert words.harm.startswith(f"Harm {found.best.harm.total:.1f}: ")
    assert f"cropping all {plain['crop'].harm.total:.1f}" in words.beside


def test_what_cropping_costs_is_what_it_loses() -> None:
    found, _ = weighed(sky(), made_up="never", bent="never")
    height, width = sky().shape[:2]
    # The largest upright rectangle of the picture's own shape in a turned one, by trigonometry.
    c, s = np.cos(np.radians(ROLL_DEG)), np.sin(np.radians(ROLL_DEG))
    share = min(1 / (c + s * height / width), 1 / (c + s * width / height))
    assert found.best.edit.bend == found.best.edit.fill == 0
    assert found.best.harm.lost == pytest.approx(100 * (1 - share**2), abs=0.4)
    assert found.best.harm.bent == found.best.harm.made_up == 0


def test_what_is_plain_is_made_up_sooner_than_what_nobody_can_know() -> None:
    plain, rough = (weighed(picture, bent="never")[0].best for picture in (sky(), shingle()))
    assert plain.judged
    assert plain.doubt < 0.05
    assert rough.doubt > plain.doubt + 0.3 or rough.fill_fraction == 0
    assert plain.fill_fraction > 1.5 * rough.fill_fraction


@pytest.mark.parametrize("never", ["lost", "bent", "made_up"])
def test_what_is_never_to_be_is_not(never: str) -> None:
    best = weighed(sky(), **{never: "never"})[0].best
    done = {
        "lost": 1 - best.kept_fraction,
        "bent": best.max_stretch - 1,
        "made_up": best.fill_fraction,
    }
    assert done[never] <= 1e-3


def test_what_counts_more_is_done_less() -> None:
    usual, much = (weighed(shingle(), lost=weight)[0].best for weight in ("little", "much"))
    assert much.kept_fraction > usual.kept_fraction + 0.01


def test_where_nothing_may_be_done_that_is_said() -> None:
    with pytest.raises(UnusableInput, match="Nothing is left that may be done"):
        weighed(sky(), lost="never", bent="never", made_up="never")


def test_the_foot_of_an_upright_is_kept_where_that_is_asked() -> None:
    post = Reading(id="post", kind="plumb", points=((270, 200), (270, 359)))
    plain = recipe_of(post, method="colour")
    # Else the frame contains all that was measured anyway, where that costs little.
    recipe = plain.changed(frame=plain.frame.changed(keep_measured=False))

    def foot_below(foot: bool) -> float:
        found, photo = weighed(sky(), recipe, bent="never", made_up="much", keep_foot=foot)
        solution = solve(photo, recipe.changed(fill=FillChoice(allowance=found.best.edit.fill)))
        low = solution.warp.to_corrected(np.array([post.points[1]]))[0, 1]
        return float(low - solution.frame.y - solution.frame.height)

    assert foot_below(True) <= 0 < foot_below(False)


def test_a_colour_is_no_picture_and_counts_as_such() -> None:
    found, _ = weighed(sky(), recipe_of(method="colour"), bent="never")
    assert found.best.edit.fill == 0 or found.best.doubt == 1
    assert dict(found.plain)["fill"].doubt == 1


@pytest.mark.parametrize("picture", [skimage.data.coffee, skimage.data.rocket, shingle])
def test_what_is_expected_of_a_fill_is_no_more_than_what_is_found(picture: object) -> None:
    truth = picture()[:400, :600]  # type: ignore[operator]
    hole = wedges(*truth.shape[:2], 2.0)
    made = filled(truth, hole, SHARP).astype(np.float32)
    known = np.where(hole[..., None], 0, truth).astype(np.float32)
    expected, found = expected_doubt(known, hole), judge(made, hole).doubt
    assert expected <= found + 1e-6
    assert expected > 0.6 * found


def test_it_can_be_given_up() -> None:
    photo = PhotoFacts(width=540, height=360)
    with pytest.raises(Cancelled):
        least_harm(sky(), 0, photo, recipe_of(), HarmWeights(), lambda: True)


@pytest.mark.parametrize(("side", "times"), [(20, 0), (959, 0), (960, 1), (6000, 3)])
def test_a_picture_is_halved_as_often_as_it_stays_large_enough(side: int, times: int) -> None:
    assert halvings_enough(PhotoFacts(width=side, height=side // 2)) == times

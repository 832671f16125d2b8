"""The mixture of cropping, bending and filling that does the least harm to a picture.

Harm is counted in points: one is as bad as a hundredth of the picture lost. What that is worth
beside a hundredth bent or made up is a matter of taste, so a person says what counts more; the
figures here are ours, set by hand (no published source). What a fill is worth is told by the judge
of fills (`fill.judge`): before it is made by the doubt that is to be expected of it, which is never
more than what the made one has, so that only mixtures that may be the best are made at all.
"""

import math
from collections.abc import Callable, Hashable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from sequor.core.advance import advance
from sequor.core.corner_ways import WAYS, Way
from sequor.core.edits import GiveMargin, ShareCorners
from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.fill.judge import Judgement, expected_doubt
from sequor.core.fill.judging import JUDGED, judge_fill
from sequor.core.fill.membrane import Colours
from sequor.core.fill.plan import QUICK_EDGE_PX, as_colours, fills_corners, plan_size, small_hole
from sequor.core.fill.planning import plan_corners_of
from sequor.core.frame.rectangle import Rectangle
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import Recipe
from sequor.core.render.rendering import render_view
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.core.value import Value

Keep = Callable[[Hashable, Callable[[], Judgement]], Judgement]
"""What judges a fill, or finds the judgement where that was kept by the key."""
Weight = Literal["little", "usual", "much", "never"]
_FACTORS: dict[Weight, float] = {"little": 0.4, "usual": 1.0, "much": 2.5, "never": 1.0}
"""What is never done does no harm where it is nothing."""
_SHARES = (0.0, 0.25, 0.5, 0.75, 1.0)
"""Of the corners' bending, and of what is then filled, that are tried, all with all."""
_BETWEEN = 0.125
"""So far beside the best of them others are tried."""
_BENT_POINTS = 30.0
"""What it costs to stretch all of the picture by half."""
_PLAIN_POINTS, _DOUBT_POINTS = 25.0, 125.0
"""What it costs to make all of a frame up: of what nobody can get wrong, as a clear sky, and as
much more where the fill is as unlike the truth as it can be."""
_FLAW_POINTS = 0.5
"""What each place of a fill that stands out costs at least; one that does so more costs more."""
_NOTHING = 1e-3
"""A share of the picture, or a stretch, below which nothing is lost, bent or made up."""
_JUDGED_EDGE_PX = QUICK_EDGE_PX
"""The longer side at which fills are made to be compared."""
_MOST_MADE = 3
"""Fills that are made for one comparison."""


class HarmWeights(Value):
    """How much it counts that something is lost, bent or made up; what ``never`` may be is not
    considered. With ``keep_foot`` no foot of an upright that was measured is cut off.
    """

    lost: Weight = "usual"
    bent: Weight = "usual"
    made_up: Weight = "usual"
    keep_foot: bool = False

    @property
    def of_shares(self) -> tuple[Weight, Weight, Weight]:
        """Of what is lost, bent and made up."""
        return self.lost, self.bent, self.made_up


class Harm(Value):
    """Points of harm, by what is lost, bent and made up."""

    lost: float
    bent: float
    made_up: float

    @property
    def total(self) -> float:
        """All of it."""
        return self.lost + self.bent + self.made_up


class Mixture(Value):
    """A mixture, and the harm that it does: what is lost of the picture, how much of the frame is
    made up and with what doubt, how many places of that stand out, and whether it was made to be
    judged.
    """

    edit: ShareCorners
    harm: Harm
    kept_fraction: float
    fill_fraction: float
    bent_share: float
    max_stretch: float
    doubt: float
    flaws: int = 0
    judged: bool = False


class LeastHarm(Value):
    """The best mixture, those of the plain ways that can be gone, how many were compared, and
    whether it is sure to be the best of them: where many fills turn out worse than expected not all
    of them are made.
    """

    best: Mixture
    plain: tuple[tuple[Way, Mixture], ...]
    compared: int
    sure: bool


@dataclass(frozen=True)
class _Trial:
    """A mixture with the recipe and the solution that it leads to."""

    mixture: Mixture
    recipe: Recipe
    solution: Solution


@dataclass(frozen=True)
class _Scales:
    """A picture whose mixtures are weighed, and what counts how much."""

    pixels: Pixels
    share: float
    photo: PhotoFacts
    recipe: Recipe
    weights: HarmWeights
    cancelled: Callable[[], bool]
    keep: Keep

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the picture."""
        return self.photo.width, self.photo.height

    def trial(self, bend: float, fill: float) -> _Trial | None:
        """A mixture; None where it cannot be done, or does what must never be done."""
        if self.cancelled():
            raise Cancelled
        edit = ShareCorners(bend=bend, fill=fill)
        recipe = advance(self.photo, self.recipe, (edit,)).recipe
        try:
            solution = solve(self.photo, recipe)
        except UnusableInput:
            return None
        shares = _shares(solution)
        if any(
            weight == "never" and share > _NOTHING
            for weight, share in zip(self.weights.of_shares, shares, strict=True)
        ):
            return None
        expected = self.keep(("expected", recipe), lambda: self._expected(solution, recipe))
        return _Trial(self._weighed(edit, solution, expected), recipe, solution)

    def judged(self, trial: _Trial) -> _Trial:
        """The same with its fill made and judged, where that is made from its surroundings."""
        recipe, solution = trial.recipe, trial.solution
        if not fills_corners(solution, recipe):
            return trial

        def judge() -> Judgement:
            small = self._small(solution)
            plan = plan_corners_of(small, solution, recipe, self.size, cancelled=self.cancelled)
            found = judge_fill(self.pixels, solution, recipe, plan, self.cancelled)
            assert found is not None
            return found

        found = self.keep(("made", recipe), judge)
        mixture = self._weighed(trial.mixture.edit, solution, found)
        return _Trial(mixture.model_copy(update={"judged": True}), recipe, solution)

    def keeps_foot(self, trial: _Trial) -> bool:
        """Whether no foot of an upright that was measured is cut off."""
        feet = [
            max(one.ends, key=lambda end: end[1])
            for one in self.recipe.readings
            if one.steers and one.direction == "plumb"
        ]
        frame = trial.solution.frame
        bottom = frame.y + frame.height
        low = trial.solution.warp.to_corrected(np.array(feet, float).reshape(-1, 2))
        beyond = (low < (frame.x, -math.inf)) | (low > (frame.x + frame.width, bottom))
        return not beyond.any()

    def _expected(self, solution: Solution, recipe: Recipe) -> Judgement:
        """The doubt that is to be expected of a fill that is not made yet; all of it where a fill
        does not pretend to be the picture.
        """
        if solution.cost.fill_fraction <= 0:
            return Judgement(0.0, ())
        if recipe.fill.method not in JUDGED:
            return Judgement(1.0, ())
        small = self._small(solution)
        hole = small_hole(solution, self.size, small.shape[1::-1])
        return Judgement(expected_doubt(small, hole), ())

    def _small(self, solution: Solution) -> Colours:
        """The frame at the size that fills are compared at."""
        frame = solution.frame
        box = Rectangle(frame.x, frame.y, frame.width, frame.height)
        scale = plan_size(solution, _JUDGED_EDGE_PX)[0] / frame.width
        view = render_view(self.pixels, self.share, solution, box, scale, self.cancelled)
        return as_colours(view.pixels)

    def _weighed(self, edit: ShareCorners, solution: Solution, fill: Judgement) -> Mixture:
        lost, stretched, filled = _shares(solution)
        bent = solution.bend.bent_share if solution.bend else 0.0
        standing_out = sum(_FLAW_POINTS * max(1.0, flaw.strength) for flaw in fill.flaws)
        made_up = filled * (_PLAIN_POINTS + _DOUBT_POINTS * fill.doubt) + standing_out
        weights = self.weights
        return Mixture(
            edit=edit,
            harm=Harm(
                lost=_FACTORS[weights.lost] * 100 * lost,
                bent=_FACTORS[weights.bent] * _BENT_POINTS * bent * 2 * stretched,
                made_up=_FACTORS[weights.made_up] * made_up,
            ),
            kept_fraction=solution.kept_fraction,
            fill_fraction=filled,
            bent_share=bent,
            max_stretch=1 + stretched,
            doubt=fill.doubt,
            flaws=len(fill.flaws),
        )


def _shares(solution: Solution) -> tuple[float, float, float]:
    """How much is lost of the picture, stretched at most, and made up of the frame."""
    stretched = solution.bend.max_stretch - 1 if solution.bend else 0.0
    return 1 - solution.kept_fraction, stretched, solution.cost.fill_fraction


def halvings_enough(photo: PhotoFacts) -> int:
    """How often a picture may be halved and still be large enough to be weighed."""
    return max(0, int(math.log2(max(photo.width, photo.height) / _JUDGED_EDGE_PX)))


def least_harm(
    pixels: Pixels,
    halvings: int,
    photo: PhotoFacts,
    recipe: Recipe,
    weights: HarmWeights,
    cancelled: Callable[[], bool] = lambda: False,
    keep: Keep = lambda key, judge: judge(),
) -> LeastHarm:
    """The mixture that does the least harm, of some that are tried.

    A margin is not weighed: it was asked for, and is filled whatever becomes of the corners.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original, halved so many times; `halvings_enough` will do.
    recipe : Recipe
        Its edges are known (`bend.edges`), as they are after the edit of the plain way ``bend``
        (`corner_ways.WAYS`): what bends keeps them straight.
    weights : HarmWeights
        What counts how much.
    keep : callable, optional
        Keeps judgements of this picture: they hang on no weights, so that the next search of the
        same corners has them.

    Raises
    ------
    Cancelled
        When ``cancelled`` said so.
    UnusableInput
        When nothing is left that may be done.
    """
    corners = advance(photo, recipe.unmended, (GiveMargin(margin=0),)).recipe
    scales = _Scales(pixels, 0.5**halvings, photo, corners, weights, cancelled, keep)
    trials = {(b, f): scales.trial(b, f) for b in _SHARES for f in _SHARES}
    possible = _possible(scales, trials.values())
    if not possible:
        raise UnusableInput(
            tr(
                "Nothing is left that may be done with these corners: allow some of it to be lost, "
                "bent or made up."
            )
        )
    best = min(possible, key=_total).mixture.edit
    for shares in _beside(best):
        if shares not in trials:
            trials[shares] = scales.trial(*shares)
    chosen, sure = _best_made(scales, _possible(scales, trials.values()))
    plain = []
    for way, edit in WAYS.items():
        trial = trials[edit.bend, edit.fill]
        if trial is not None:
            plain.append((way, chosen if chosen.edit == edit else trial.mixture))
    return LeastHarm(best=chosen, plain=tuple(plain), compared=len(trials), sure=sure)


def _total(trial: _Trial) -> float:
    # Of two that do as much harm the one that does less to the picture.
    edit = trial.mixture.edit
    return trial.mixture.harm.total + 1e-6 * (edit.bend + edit.fill)


def _possible(scales: _Scales, trials: Iterable[_Trial | None]) -> list[_Trial]:
    """Those that may be done."""
    found = [one for one in trials if one is not None]
    return [one for one in found if scales.keeps_foot(one)] if scales.weights.keep_foot else found


def _beside(edit: ShareCorners) -> Iterator[tuple[float, float]]:
    """Shares around those of a mixture."""
    for bend in (edit.bend - _BETWEEN, edit.bend, edit.bend + _BETWEEN):
        for fill in (edit.fill - _BETWEEN, edit.fill, edit.fill + _BETWEEN):
            if 0 <= bend <= 1 and 0 <= fill <= 1:
                yield bend, fill


def _best_made(scales: _Scales, trials: list[_Trial]) -> tuple[Mixture, bool]:
    """The best of some, once the fills of those that may be it are made, and whether all of those
    were.
    """
    best: Mixture | None = None
    made, sure = 0, True
    for trial in sorted(trials, key=_total):
        if best is not None and best.harm.total <= trial.mixture.harm.total:
            break
        mixture = trial.mixture
        if fills_corners(trial.solution, trial.recipe):
            if made == _MOST_MADE:
                sure = False
                continue
            mixture, made = scales.judged(trial).mixture, made + 1
        if best is None or mixture.harm.total < best.harm.total:
            best = mixture
    assert best is not None
    return best, sure

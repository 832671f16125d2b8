"""Exemplar-based synthesis: a hole filled with patches of the picture around it, coarse to fine.

At every level each patch that touches the hole looks for the patch of the known picture most like
it (Barnes et al., "PatchMatch: a randomized correspondence algorithm for structural image editing",
2009: good matches spread to neighbours, a few random trials find new ones), and every pixel of the
hole then takes the mean of what the patches over it say (Wexler, Shechtman and Irani, "Space-time
completion of video", 2007), or what the best of them says, patches near the known picture counting
most. Three things make it suit thin corners: it begins with the smoothest continuation and with the
matches nearest to the hole; known pixels count more than guessed ones; and a match far away must be
better than one nearby.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.fill.membrane import Colours, doubled_at, halved, membrane
from sequor.core.fill.patches import (
    LANES,
    REACH,
    Patches,
    Targets,
    best_says,
    in_lanes,
    mean_says,
    say,
    search,
)
from sequor.core.language import tr
from sequor.core.neighbourhood import box_mean, depth_in, grown, nearest_outside
from sequor.core.pixels import Mask
from sequor.core.recipe import FillCandidate

_PASSES = (20, 12, 8, 4, 2)
"""Rounds of search and vote on each level from the coarsest on: what is large is settled where a
round is cheap. Half as many on the three coarsest cost 0.002 SSIM (of eleven photographs of
tests/core/test_fill.py), half as many again 0.008 of the sharp fill and 0.004 of the calm one (here
and below on four pictures of it, 520 pixels wide)."""
_SEARCHES = 4
"""Random trials for a patch in each round; two cost 0.001 and 0.004 SSIM."""
_SEED = 0x9E3779B97F4A7C15
"""2^64 over the golden ratio, by which Steele, Lea and Flood, "Fast splittable pseudorandom number
generators", 2014, spread seeds (from memory): begun with a number of few bits the generator's first
numbers are all small."""
_MOST_SEARCHES, _FEWEST_SEARCHES = 250_000, 4
"""Of all patches of a level together over all of its rounds, so that a large level, which coarser
ones have settled, takes no longer than they did; but at least so many of each. Down to 400,000 SSIM
is unchanged on pictures 500 to 1,200 pixels wide, at 200,000 the sharp fill loses 0.001."""
_COARSEST_SIDE_PX, _COARSEST_DEPTH_PX = 40, 2.5
"""The picture is halved while its shorter side stays above the one and the hole is deeper than the
other: a patch has 9 pixels, and needs a picture around it. From 80 pixels on instead, the fills
lose 0.018 and 0.006 SSIM."""
_KNOWN_COUNTS, _FADING, _LEAST = 8.0, 1.4, 0.1
"""Weights in comparing patches: of a known pixel, by how much a guessed one counts less for every
pixel of depth in the hole, and what it counts at least (0.001 SSIM, and
so that patches deep in a hole still compare)."""
_AWAY_COSTS = 50.0
"""What a pixel of distance to a match costs, in squared grey levels: a match far away must be
better than one nearby."""
_NEAR_PX, _FINER_PX = 40, 8
"""How far the random trials reach at first, in pixels of the level: over a coarsest picture, and on
finer levels about the match that came from the coarser one."""
_DOUBT, _FLAT = 0.6, 20.0
"""How far a match is distrusted that differs as much as the picture's own contrast there, to which
the second adds some (in squared grey levels a pixel), lest in flat places everything be doubted."""
_BAND_PX = 12
"""Pixels beyond the seam that the step is spread over: more than a patch reaches."""
_LEAST_CONFIDENCE = 1e-3
"""So that the deepest patch still says something, and nothing is divided by zero."""
_SOFT_PERCENTILE = 75
"""The cost that counts as a poor match: that of the worst quarter."""
_ROUGH_PX, _ROUGH_COUNTS = 5.0, 40.0
"""Roughness is taken within so many pixels, and asked for by so much at the seam, fading as deep
into the hole: a sharp fill of grass is to begin as rough as the grass beside it."""


Places = NDArray[np.int32]


@dataclass(frozen=True)
class Synthesis:
    """What goes into a hole.

    Attributes
    ----------
    colours : ndarray, shape (height, width, 3)
        The picture with the hole filled.
    source : ndarray, shape (height, width, 2)
        Row and column that the middle of each patch over the hole was taken from; -1 where there is
        no patch.
    """

    colours: Colours
    source: Places


def synthesise(
    colours: Colours,
    hole: Mask,
    avoid: Mask,
    candidate: FillCandidate,
    cancelled: Callable[[], bool] = lambda: False,
    mute: Mask | None = None,
) -> Synthesis:
    """Fill a hole from its surroundings.

    Parameters
    ----------
    colours : ndarray, shape (height, width, 3), 0 to 255
    hole, avoid : ndarray of bool, shape (height, width)
        What to fill, and what not to copy from.
    candidate : FillCandidate
        Sharp or calm, and which draw; the same one always gives the same fill, and a sharp one and
        a calm one of the same draw begin alike.
    mute : ndarray of bool, shape (height, width), optional
        What of the avoided does not guide the fill either; all of it when None.

    Raises
    ------
    UnusableInput
        When nothing is left to copy from.
    """
    mute = avoid if mute is None else mute
    levels = [(colours.astype(np.float32), hole, avoid, mute)]
    while (
        min(levels[-1][1].shape) >= 2 * _COARSEST_SIDE_PX
        and depth_in(levels[-1][1]).max() > _COARSEST_DEPTH_PX
    ):
        fine, gap, shunned, silent = levels[-1]
        small, _ = halved(fine, gap)
        fewer = _any_of_four(gap), _any_of_four(shunned), _any_of_four(silent)
        levels.append((small, *fewer))
    while len(levels) > 1 and not _sources(levels[-1][1] | levels[-1][2]).any():
        levels.pop()
    if not _sources(hole | avoid).any():
        raise UnusableInput(
            tr(
                "Nothing is left to copy from: mark less of the picture as not to be copied, brush "
                "over less of it, or fill by mirroring."
            )
        )
    made: Synthesis | None = None
    for depth, level in enumerate(reversed(levels)):
        ground = _Ground(*level, candidate)
        passes = _PASSES[min(depth, len(_PASSES) - 1)]
        made = _level(ground, made, passes, cancelled)
    assert made is not None
    return _settled(levels[0][0], hole, mute, made, candidate.style == "sharp")


@dataclass(frozen=True)
class _Ground:
    """One level: the picture, what to fill, what not to copy from, what says nothing, and the
    candidate.
    """

    colours: Colours
    hole: Mask
    avoid: Mask
    mute: Mask
    candidate: FillCandidate

    @property
    def sharp(self) -> bool:
        """Whether every pixel is taken from one patch as it is."""
        return self.candidate.style == "sharp"

    @property
    def draw(self) -> int:
        """Which start."""
        return self.candidate.draw


def _level(
    ground: _Ground, coarser: Synthesis | None, passes: int, cancelled: Callable[[], bool]
) -> Synthesis:
    """One level: the colours and matches of the coarser one made finer."""
    shape = ground.hole.shape
    wanted = _inside(shape) & grown(ground.hole, REACH)
    places = np.argwhere(wanted).astype(np.int32, order="C")
    numbers = np.full(shape, -1, np.int32)
    numbers[wanted] = np.arange(len(places))
    targets = Targets(places, numbers, _sources(ground.hole | ground.avoid))
    picture, source = (
        _begun(ground, targets) if coarser is None else _finer(ground, targets, coarser)
    )
    picture = in_lanes(picture)
    depth = depth_in(ground.hole)
    confidence = np.maximum(_FADING**-depth, _LEAST_CONFIDENCE)
    patches = _patches(ground, picture, depth)
    random = np.array([ground.draw * _SEED % 2**64], np.uint64)
    costs = np.zeros(len(places), np.float32)
    reach = _NEAR_PX if coarser is None else _FINER_PX
    vote = best_says if ground.sharp else mean_says
    for searches in _rounds(passes, len(places)):
        if cancelled():
            raise Cancelled
        search(patches, targets, source, costs, random, searches, reach)
        softness = max(float(np.percentile(costs, _SOFT_PERCENTILE)), 1.0)
        vote(picture, ground.hole, places, source, costs, confidence, softness)
    sources = np.full((*shape, 2), -1, np.int32)
    sources[wanted] = source
    return Synthesis(np.ascontiguousarray(picture[:, :, :3]), sources)


def _rounds(passes: int, patches: int) -> list[int]:
    """How many searches for every patch there are in each round of a level."""
    affordable = max(_FEWEST_SEARCHES, _MOST_SEARCHES // max(patches, 1))
    if affordable >= passes * _SEARCHES:
        return [_SEARCHES] * passes
    rounds = max(2, affordable // _SEARCHES)
    return [affordable // rounds] * rounds


def _begun(ground: _Ground, targets: Targets) -> tuple[Colours, Places]:
    """The coarsest level: the smoothest continuation, and the matches nearest to the hole.

    A draw after the first one shakes these about.
    """
    unknown = ground.hole | ground.mute
    holed = ground.hole[:, :, None]
    picture = np.where(holed, membrane(ground.colours, unknown), ground.colours)
    source = _nearest(targets)
    if ground.draw > 1:
        random = np.random.default_rng(ground.draw)
        shaken = source + random.integers(-_NEAR_PX, _NEAR_PX + 1, source.shape, np.int32)
        source = _where_possible(targets.possible, shaken, lambda: source)
    return picture, source


def _finer(ground: _Ground, targets: Targets, coarser: Synthesis) -> tuple[Colours, Places]:
    """A finer level: colours and matches of the coarser one at twice the size."""
    picture, places = ground.colours.copy(), targets.places
    picture[ground.hole] = doubled_at(coarser.colours, np.argwhere(ground.hole))
    high, wide = coarser.source.shape[:2]
    rows, columns = np.minimum(places[:, 0] // 2, high - 1), np.minimum(places[:, 1] // 2, wide - 1)
    before = coarser.source[rows, columns]
    doubled = np.where(before >= 0, before * 2 + places % 2, -1).astype(np.int32)
    return picture, _where_possible(targets.possible, doubled, lambda: _nearest(targets))


def _nearest(targets: Targets) -> Places:
    """For every patch over the hole the nearest place that can be copied from."""
    return nearest_outside(~targets.possible, targets.places).T.astype(np.int32, order="C")


def _patches(ground: _Ground, picture: Colours, depth: NDArray[np.float32]) -> Patches:
    """What patches are compared by."""
    shunned = np.where(ground.mute, 0.0, _KNOWN_COUNTS)
    weights = np.where(ground.hole, np.maximum(_FADING**-depth, _LEAST), shunned)
    # A calm fill is to be smooth, so only a sharp one is asked for texture.
    known = ~(ground.hole | ground.mute)
    rough = _roughness(ground.colours, known) if ground.sharp else np.zeros(depth.shape, np.float32)
    asked = _ROUGH_COUNTS * np.exp(-depth / _ROUGH_PX)
    return Patches(
        picture.reshape(-1),
        np.repeat(weights.astype(np.float32).ravel(), LANES),
        LANES * depth.shape[1],
        rough,
        asked.astype(np.float32),
        np.float32(_AWAY_COSTS),
    )


def _settled(
    known: Colours, hole: Mask, mute: Mask, made: Synthesis, stays_sharp: bool
) -> Synthesis:
    """The synthesis joined to the picture without a step.

    If it is not to stay sharp, it is drawn towards the smoothest continuation where its matches are
    poor.

    The step that the patches leave at the seam is spread over the hole as a membrane (Perez,
    Gangnet and Blake, "Poisson image editing", 2003; Farbman et al., "Coordinates for instant image
    cloning", 2009, for the form as a membrane).
    """
    said, trust, covered = _said_all_over(made)
    seam = grown(hole, 2) & ~hole & ~mute & covered
    # Only the seam is known; a band beyond it is left open, so that on coarse grids nothing else is
    # taken for a step.
    apart = np.where(seam[:, :, None], known - said, 0).astype(np.float32)
    step = membrane(apart, grown(hole, _BAND_PX) & ~seam)
    joined = made.colours + step
    if stays_sharp:
        return Synthesis(
            np.clip(np.where(hole[:, :, None], joined, known), 0, 255).astype(np.float32),
            made.source,
        )
    unknown = hole | mute
    smooth = membrane(known, unknown)
    colours = np.where(hole[:, :, None], smooth + trust[:, :, None] * (joined - smooth), known)
    return Synthesis(np.clip(colours, 0, 255).astype(np.float32), made.source)


def _roughness(colours: Colours, known: Mask) -> NDArray[np.float32]:
    """How much the known picture stands off its local mean, shape (height, width).

    Elsewhere as much as at the nearest known place.
    """
    side = 2 * round(_ROUGH_PX) + 1
    weight = np.maximum(box_mean(known.astype(np.float32), side), 1e-6)
    shown = np.where(known[:, :, None], colours, 0)
    total = box_mean((shown**2).sum(axis=2), side) / weight
    for c in range(3):
        total -= (box_mean(shown[:, :, c], side) / weight) ** 2
    found: NDArray[np.float32] = np.sqrt(np.maximum(total, 0))
    unknown = np.argwhere(~known)
    found[~known] = found[tuple(nearest_outside(~known, unknown))]
    return found


def _said_all_over(made: Synthesis) -> tuple[Colours, NDArray[np.float32], Mask]:
    """What the patches say of every pixel, known ones too, how far they are to be trusted, and
    where they say anything.
    """
    wanted = made.source[:, :, 0] >= 0
    targets = np.argwhere(wanted).astype(np.int32, order="C")
    shape = wanted.shape
    # What a patch says is summed up as one run of numbers a row, its own one among them.
    colours = in_lanes(made.colours, 1.0)
    total, trust = np.zeros((*shape, LANES), np.float32), np.zeros(shape, np.float32)
    say(
        colours.reshape(-1),
        _contrasts(made.colours),
        targets,
        made.source[wanted],
        total.reshape(-1),
        trust,
        (np.float32(_DOUBT), np.float32(_FLAT * (2 * REACH + 1) ** 2)),
    )
    count = np.maximum(total[:, :, 3], np.float32(1))
    said = (total[:, :, :3] / count[:, :, None]).astype(np.float32, copy=False)
    trust /= count
    return said, trust, total[:, :, 3] > 0


def _contrasts(colours: Colours) -> NDArray[np.float32]:
    """How much the pixels of every patch stand off its mean, squared and summed up, shape (height,
    width).
    """
    side = 2 * REACH + 1
    mean, square = box_mean(colours, side), box_mean(colours**2, side)
    found: NDArray[np.float32] = (square - mean**2).sum(axis=2) * np.float32(side**2)
    return np.maximum(found, 0)


def _any_of_four(mask: Mask) -> Mask:
    """Half the size, true where any of four is."""
    padded = np.pad(mask, ((0, mask.shape[0] % 2), (0, mask.shape[1] % 2)))
    return np.asarray(
        padded.reshape(padded.shape[0] // 2, 2, padded.shape[1] // 2, 2).any(axis=(1, 3))
    )


def _inside(shape: tuple[int, ...]) -> Mask:
    """Where the middle of a whole patch can lie."""
    inside = np.zeros(shape, np.bool_)
    inside[REACH : shape[0] - REACH, REACH : shape[1] - REACH] = True
    return inside


def _sources(unusable: Mask) -> Mask:
    """Where the middle of a patch lies that can be copied from."""
    found: Mask = _inside(unusable.shape) & ~grown(unusable, REACH)
    return found


def _where_possible(possible: Mask, places: Places, otherwise: Callable[[], Places]) -> Places:
    """Places that can be copied from; others in their stead."""
    low = (places >= 0).all(axis=1) & (places < possible.shape).all(axis=1)
    row, column = np.clip(places, 0, np.array(possible.shape) - 1).T
    fits = low & possible[row, column]
    if fits.all():
        return places
    return np.where(fits[:, None], places, otherwise()).astype(np.int32)

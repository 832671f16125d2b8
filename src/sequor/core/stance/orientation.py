"""From readings to the stance: one solver for every number of readings.

All readings, and all but each of them, are solved for at the same time (`trials`); so single ones
can be judged by what the others say together.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import ASSUMED_FOCAL35_MM, Matrix, Stance, focal35_of, focal_px_of
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import MAX_FOCAL35_MM, MIN_FOCAL35_MM, Hold, LeaveIn, Reading
from sequor.core.stance.evidence import is_usual
from sequor.core.stance.focal import FocalEstimate, focal_from_readings
from sequor.core.stance.left_open import widened
from sequor.core.stance.sights import SHARED, Sights
from sequor.core.stance.trials import Judged, Trials, stance_in

V = TypeVar("V", float, bool)

_MOST_SCALE = 3.5
"""A long lens turns the picture by little for many degrees of the camera, so the prior that steers
is weaker for it, in the measure of its focal length and up to this."""
_REMEMBERED = 64
"""Measurements that are kept; one takes some kilobytes."""
_ENOUGH_FOR_FOCAL = 4
"""Readings from which on the focal length can be asked for: one more than the stance needs."""


@dataclass(frozen=True)
class Measured:
    """What the readings say together. Arrays run over the readings that were given.

    Attributes
    ----------
    stance : Stance
        Measured, or held where an axis is held; where it is neither, what explains the readings
        with as little as possible.
    sigma_rad : (float, float, float)
        Standard deviations of roll, lean and swing, with what is left open by the others, and by a
        focal length that is only assumed; 0 where the axis is held, or nothing at all is read.
    determined : (bool, bool, bool)
        Whether the readings determine the axis.
    roughly : (bool, bool, bool)
        Whether they say at least so much of it that it can be taken out if somebody wants that.
    checked : (bool, bool, bool)
        Whether a wrong reading would show before it moved the axis by much.
    open_rad : float
        The part of the roll's deviation that comes from what is left open: the direction of level
        lines, the height of eye level.
    front : bool
        Whether the level lines are taken to be those of a front, all of one direction.
    outliers : frozenset of int
        Readings that do not fit the others.
    suspects : tuple of int
        Readings each of which, if left out, makes all others agree; one: it is the odd one
        out; several: the readings contradict each other and cannot say which is right.
    may_be_wrong : tuple of int
        Readings that agree with the others and yet are not ruled out to be wrong, where the picture
        would be turned otherwise without them; the likeliest first.
    unlikely : (bool, bool)
        Whether lean and swing are such as cameras hardly have, and it is as likely that a reading
        is wrong.
    off_rad : ndarray, shape (N,)
        By how much every reading is off what all others say.
    without : ndarray, shape (N, 3)
        Roll, lean and swing without each reading.
    without_determined : ndarray of bool, shape (N, 3)
        Which of them are still determined then.
    information : ndarray, shape (4, 4)
        Inverse covariance of the stance and of what all levels share.
    focal : FocalEstimate or None
        What the readings say of the focal length, where they determine it.
    by_lens : (Stance, Stance) or None
        The stance for a short and a long lens, where the focal length is only assumed.
    focal_explains : bool
        Whether the readings agree only if the focal length, which is assumed, is another.
    hold_explains : bool
        Whether they agree only if what is held is let go: then no reading is wrong.
    roll_by_all_rad : float or None
        The roll by all lines together, where another one is better told without the lean or the
        swing that goes with it.
    """

    stance: Stance
    sigma_rad: tuple[float, float, float]
    determined: tuple[bool, bool, bool]
    roughly: tuple[bool, bool, bool]
    checked: tuple[bool, bool, bool]
    open_rad: float
    front: bool
    outliers: frozenset[int]
    suspects: tuple[int, ...]
    may_be_wrong: tuple[int, ...]
    unlikely: tuple[bool, bool]
    off_rad: Matrix
    without: Matrix
    without_determined: NDArray[np.bool_]
    information: Matrix
    focal: FocalEstimate | None
    by_lens: tuple[Stance, Stance] | None
    focal_explains: bool
    hold_explains: bool
    roll_by_all_rad: float | None = None

    def __post_init__(self) -> None:
        # It is remembered, so nobody may change it.
        for found in (self.off_rad, self.without, self.without_determined, self.information):
            found.setflags(write=False)


@lru_cache(maxsize=_REMEMBERED)
def measure_stance(
    photo: PhotoFacts,
    readings: tuple[Reading, ...],
    focal35_mm: float,
    hold: Hold,
    focal_known: bool = True,
    leave_in: LeaveIn | None = None,
) -> Measured:
    """Find roll, lean and swing from readings, all of which steer.

    What was found is remembered: while a turn is in the hand the readings stay as they are.

    Parameters
    ----------
    photo : PhotoFacts
        For the size of the picture.
    readings : tuple of Reading
        Level, plumb and horizon ones; any number, none included.
    focal35_mm : float
        Focal length in 35-mm terms.
    hold : Hold
        Axes that stay at a value.
    focal_known : bool
        Whether the focal length is more than an assumption.
    leave_in : LeaveIn, optional
        Whether the photographer has decided that the swing is taken out: level lines are those of a
        front then.
    """
    held = (hold.roll_deg, hold.lean_deg, hold.swing_deg)
    free = np.array([*(value is None for value in held), True])
    start = np.array([*np.radians([value or 0.0 for value in held]), 0.0])
    sights = Sights(photo, readings, focal_px_of(focal35_mm, photo))
    scale = min(max(focal35_mm / ASSUMED_FOCAL35_MM, 1.0), _MOST_SCALE)
    first = Trials(sights, free, start, scale)
    trials, front = first.with_what_is_open(leave_in.swing if leave_in else None)
    # Row 0 takes all readings, row i + 1 all but reading i.
    count = len(readings)
    masks = np.vstack([np.ones((1, count)), 1 - np.eye(count)])
    found = trials.solve(masks)
    agrees = trials.agree(found, masks)
    focal, fits = _focal_that_fits(photo, sights, trials, found) if free.all() else (None, False)
    # A focal length that is only assumed may be what is wrong, and no reading; nor is one wrong
    # that only contradicts what was stated by hand.
    focal_explains = not focal_known and not agrees[0] and fits
    hold_explains = not agrees[0] and not free.all() and _agree_when_let_go(first)
    explained = focal_explains or hold_explains
    judged = _judged(trials, found, masks, agrees, explained)
    outliers = () if explained else np.flatnonzero(trials.disagree(judged.best)[0])
    sigma, open_rad, determined = trials.deviations(judged)
    roughly = trials.roughly(sigma)
    sigma, likely_stances = widened(trials, judged, sigma, determined, focal_known)
    settled = bool(agrees[0]) and not judged.suspects and not len(outliers) and not explained
    may_be_wrong, unlikely = _in_doubt(trials, judged, found, masks, sigma, settled)
    return Measured(
        stance=stance_in(judged.best[0]),
        sigma_rad=_three(sigma, float),
        determined=_three(determined, bool),
        roughly=roughly,
        checked=_three(trials.checked(judged, sigma), bool),
        open_rad=open_rad,
        front=front,
        outliers=frozenset(int(i) for i in outliers),
        suspects=judged.suspects,
        may_be_wrong=may_be_wrong,
        unlikely=unlikely,
        off_rad=np.diagonal(trials.off(found[1:])) if count else np.zeros(0),
        without=found[1:, :3],
        without_determined=trials.determined(found[1:], masks[1:]),
        information=trials.known(judged),
        focal=focal,
        by_lens=likely_stances,
        focal_explains=focal_explains,
        hold_explains=hold_explains,
    )


def _focal_that_fits(
    photo: PhotoFacts, sights: Sights, trials: Trials, found: Matrix
) -> tuple[FocalEstimate | None, bool]:
    """The focal length that the readings tell, and whether all of them agree for one."""
    if sights.count < _ENOUGH_FOR_FOCAL:
        return None, False
    focal, fits = focal_from_readings(sights, found[:1, :3], trials.agree_all)
    if focal and not MIN_FOCAL35_MM <= focal35_of(focal.focal_px, photo) <= MAX_FOCAL35_MM:
        return None, False  # no lens has it: it is a reading that is wrong
    return focal, fits


def _judged(
    trials: Trials, found: Matrix, masks: Matrix, agrees: NDArray[np.bool_], explained: bool
) -> Judged:
    """Which readings are taken for wrong; none where something else explains what does not agree.

    Row 0 of the unknowns takes all readings, row i + 1 all but reading i.
    """
    if not agrees[0] and not explained:
        return trials.judged(found, masks, agrees)
    everything = Judged(found[:1], masks[:1], ())
    if agrees[0] and trials.free[:SHARED].all():
        return trials.stranger_than_one_wrong(found, masks) or everything
    return everything


def _in_doubt(
    trials: Trials, judged: Judged, found: Matrix, masks: Matrix, sigma: Matrix, settled: bool
) -> tuple[tuple[int, ...], tuple[bool, bool]]:
    """Readings that may be wrong although all is ``settled``, and whether lean and swing are such
    as cameras hardly have while a wrong reading is as likely.
    """
    may_be_wrong, likely = trials.not_ruled_out(found, masks, sigma) if settled else ((), False)
    lean, swing = ~is_usual(judged.best)[0] & (likely or len(judged.suspects) > 1)
    return may_be_wrong, (bool(lean), bool(swing))


def _agree_when_let_go(held: Trials) -> bool:
    """Whether all readings agree on a stance of which nothing is held, such as cameras have, and
    they tell it.
    """
    first = replace(held, free=np.ones(4, dtype=bool), held=np.zeros(4))
    trials, _ = first.with_what_is_open(None)
    everything = np.ones((1, held.sights.count))
    found = trials.solve(everything)
    sigma = trials.deviations(Judged(found, everything, ()))[0]
    told = (np.array(trials.roughly(sigma)) | held.free[:3]).all()
    return bool(trials.agree(found, everything)[0] and is_usual(found).all() and told)


def _three(values: NDArray[Any], kind: Callable[[Any], V]) -> tuple[V, V, V]:
    roll, lean, swing = (kind(value) for value in values)
    return roll, lean, swing

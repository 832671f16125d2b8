"""Solving for the stance of many sub-sets of readings at once, as rows of arrays.

Roll, lean and swing follow from what the readings are off (`sights`) by Levenberg-Marquardt steps,
from the roll that the lines have on average and from a closed form. What a camera usually does is a
prior that is there only where the readings know less than it: it is gone from every direction of
lean and swing that they know better, so that a determined axis is theirs alone, and gives way
wherever it would make a reading disagree. What stays open is a nuisance: it is solved for, and its
share in the deviations is stated.
"""

import math
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np
import scipy
from numpy.typing import NDArray

from sequor.core.camera import Matrix, Stance
from sequor.core.recipe import AXES
from sequor.core.stance.closed_form import closed_form
from sequor.core.stance.evidence import log_evidence, log_prior
from sequor.core.stance.eye_level import below_eye_level
from sequor.core.stance.fading import faded
from sequor.core.stance.sights import LEAN, LEVEL, PLUMB, ROLL, SHARED, SWING, Sights

PRIOR_SIGMA_DEG = {"lean": 5.0, "swing": 10.0}
"""Degrees that a camera points off level and off square to a level line, before readings are asked
(see docs/how-it-works.md, weak priors)."""
LEAN_BESIDE_PLUMBS_DEG = 14.0
"""The same of the lean where a plumb line is drawn: a camera is pointed up at a tower by 10 to 30
degrees, and nobody draws along an upright that is plumb already (common practice, no published
source)."""
_OWN_SHARE = 0.5
"""In a landscape so much of the variance of a level line's direction is its own: a quay and the
dike behind it run more or less alike."""
OWN_DIRECTION_RAD = math.radians(PRIOR_SIGMA_DEG["swing"]) * math.sqrt(_OWN_SHARE)
"""Deviation of that own direction."""
DISAGREE_SIGMAS = 3.0
"""A reading off by more of its deviations is no chance: one in 370 of normal errors."""
DISAGREE_DEG = 0.1
"""Less than this is not seen, however sure it is (common practice, no published source)."""
FRONT_DEG = 3.0
"""Level lines that lie so far above and below eye level are those of a front: a landscape has none
above it."""

_LEAN_RAD, _SWING_RAD = (math.radians(PRIOR_SIGMA_DEG[axis]) for axis in AXES[1:])
_USUAL_RAD = np.array([0.0, _LEAN_RAD, _SWING_RAD, _LEAN_RAD * _SWING_RAD])
"""Deviations before anything is read, of roll (none: it is always read), lean, swing, and what
both together tilt."""
_DETERMINED_RAD = np.radians([2.5, 1.0])
"""Lean and swing are measured when their deviations are below these, times the scale above: more
would be seen in the picture."""
_ROUGHLY = 3.0
"""An axis is known roughly when its deviation is no more than so many times that."""
_WORTH_IT = 2.0
"""What is not measured is asked to be anything but zero only if the readings then fit better by
this chi-square for each (Akaike's criterion, 1974)."""
_YIELDS = 1e-4
"""What is left of the prior when it makes a reading disagree."""
_ENOUGH_TO_DOUBT = 4
"""Readings from which on one can be doubted: one more than the stance needs."""
_BETTER, _MUCH_BETTER = 1.0, 2.0
"""A reading is taken for wrong when that is so much likelier, in the logarithm, than that all are
right; and alone when it is so much likelier than that any other is."""
_NOT_RULED_OUT = 0.05
"""Odds from which on an outcome is worth a word: one in twenty, as at the ends of 95 %."""
_WRONG_RAD, _MOVED_RAD = np.radians([1.5, 3.0]), math.radians(0.5)
"""A wrong reading is off by between these, and matters when it moves an axis by more than the other
(common practice, no published source)."""
_SEEN_RAD, _FAR_SIGMAS = math.radians(1.0), 4.0
"""It is when it turns the picture by so much more, and so many deviations."""
_CLEARLY = 4.5
"""A reading is named alone as the wrong one when that is so much likelier than any other being it,
in the logarithm: as a chi-square less by 9 says (99.7 %, one degree of freedom)."""
_MAX_PAIRS_OF = 10
"""Readings up to which every pair is left out once (45 sub-sets); of more, fours are sampled."""
_SAMPLES = 80
"""Fours that are sampled: with a third of the readings wrong one in five holds none of them, and to
find no such one among 80 has a chance of 2e-8."""
_ROUGH_RAD, _TIGHT_RAD = 1e-5, 1e-11
"""A descent ends at steps this small: to compare starts, and for the result (its rounding)."""
_TAILS = 1.1
"""The tilt of a level line is a product of two unknowns, whose tails are heavier: 95 % of such lie
within 2.18 of its deviations where 1.96 are meant (numerical integral)."""
_LEAST_KNOWN = 1e-14
"""What is left of the information in a direction beside that of the others by rounding alone."""
_NEVER_RAD = 1e-6
"""What all levels share is left out where its deviation is no more than this."""


@dataclass(frozen=True)
class Judged:
    """The unknowns, shape (1, 4), when readings have been judged: with which weights, shape (1, N),
    and which may be wrong.
    """

    best: Matrix
    weights: Matrix
    suspects: tuple[int, ...]

    @property
    def scatter(self) -> Matrix:
        """The readings whose scatter counts: all of those that contradict each other."""
        return np.ones_like(self.weights) if len(self.suspects) > 1 else self.weights


@dataclass(frozen=True)
class Trials:
    """Solving for the stance of many sub-sets of readings.

    Rows of every argument are trials; unknowns have shape (B, 4), weights of readings (B, N).

    Attributes
    ----------
    free : ndarray of bool, shape (4,)
        Unknowns that are not held.
    held : ndarray, shape (4,)
        Where the others stay.
    scale : float
        How many times weaker the prior is that steers.
    usual_rad : ndarray, shape (4,)
        What lean and swing usually are, and by how much both together, left open, tilt all levels
        alike: a product, of which no slope at zero knows.
    may_be_rad : ndarray, shape (4,)
        What they may well be, for the deviations: more than what steers, where lines are drawn that
        nobody draws when nothing leans.
    """

    sights: Sights
    free: NDArray[np.bool_]
    held: Matrix
    scale: float
    usual_rad: Matrix = field(default_factory=_USUAL_RAD.copy)
    may_be_rad: Matrix = field(default_factory=_USUAL_RAD.copy)

    def with_what_is_open(self, swing_stays: bool | None) -> tuple["Trials", bool]:
        """The same with what lean and swing leave open together, and whether there is a front."""
        sights = self.sights
        all_of_them = np.ones((1, sights.count))
        found = self.solve(all_of_them)
        plumbs = bool((sights.what == PLUMB).any())
        wide = _USUAL_RAD.copy()
        if plumbs:
            wide[LEAN] = math.radians(LEAN_BESIDE_PLUMBS_DEG)
        covariance = replace(self, may_be_rad=wide)._covariance(found, all_of_them)
        open_lean, open_swing = np.sqrt(np.maximum(np.diagonal(covariance)[[LEAN, SWING]], 0))
        below = below_eye_level(stance_in(found[0]), sights.middle, sights.focal)
        levels = sights.what == LEVEL
        both = bool(
            levels.any()
            and below[levels].max() > math.radians(FRONT_DEG)
            and below[levels].min() < -math.radians(FRONT_DEG)
        )
        asked = swing_stays is False or not self.free[SWING]
        front = asked or both or plumbs
        usual = _USUAL_RAD.copy()
        if levels.any() and not front:
            own = OWN_DIRECTION_RAD
            slant = np.where(levels, np.tan(below), 0.0)
            # The tangent grows by 1 + tan^2: a line far below eye level is tilted the more by it.
            sights = sights.with_changed(
                sigma=np.hypot(sights.sigma, np.abs(slant) * own),
                alike=sights.alike * (1 + slant**2),
            )
            usual[SWING], open_swing = own, math.hypot(open_swing, own)
        shared, free = float(open_lean * min(open_swing, _SWING_RAD)), self.free.copy()
        free[SHARED] = shared > _NEVER_RAD
        usual[SHARED] = max(shared, _NEVER_RAD)
        may_be = usual.copy()
        may_be[LEAN] = wide[LEAN]
        return replace(self, sights=sights, free=free, usual_rad=usual, may_be_rad=may_be), front

    def solve(self, weights: Matrix) -> Matrix:
        """The unknowns for every row of weights."""
        found = self._solved(weights, self._starts(weights), 1.0)
        odd = ~self.agree(found, weights)
        if odd.any():
            # A prior is no reason to call a reading wrong.
            again = self._solved(weights[odd], self._starts(weights[odd]), _YIELDS)
            better = self.agree(again, weights[odd])
            found[np.flatnonzero(odd)[better]] = again[better]
        return found

    def solve_from(self, weights: Matrix, start: Matrix) -> Matrix:
        """The same where it is known nearly, shape (B, 4)."""
        return self._solved(weights, start[None], 1.0)

    def off(self, found: Matrix) -> Matrix:
        """By how much every reading is off, in radians, shape (B, N): of a horizon the worse."""
        return self._of_readings(self.sights.residuals(found), 1.0)

    def disagree(self, found: Matrix) -> NDArray[np.bool_]:
        """Which readings are off by more than chance, and enough to see, shape (B, N)."""
        z = self._of_readings(self.sights.residuals(found), self._enough)
        large: NDArray[np.bool_] = np.abs(z) > 1
        return large

    def agree(self, found: Matrix, masks: Matrix) -> NDArray[np.bool_]:
        """Whether the readings that a row takes agree with its stance, shape (B,)."""
        fit: NDArray[np.bool_] = ~np.any(self.disagree(found) & (masks > 0), axis=1)
        return fit

    def agree_all(self, residual: Matrix) -> bool:
        """Whether residuals of all rows, shape (M,), are no more than chance."""
        return bool((np.abs(residual) <= self._enough).all())

    def judged(self, found: Matrix, masks: Matrix, agrees: NDArray[np.bool_]) -> Judged:
        """Which readings are wrong where not all agree: row 0 takes all, row i + 1 all but i."""
        suspects = self.likeliest(found[1:], masks[1:], agrees[1:])
        if len(suspects) > 1:
            # They cannot say which is wrong; but a stance that hardly any camera has says that one
            # is, and then the least strange without one is taken.
            rows = np.array([0, *(place + 1 for place in suspects)])
            stands = log_prior(found[rows], self.free)
            best = rows[int(np.argmax(stands))]
            row = best if stands.max() - stands[0] > _MUCH_BETTER else 0
            return Judged(found[[row]], masks[[row]], suspects)
        weights, best = self.without_outliers(found)
        return Judged(best, weights, suspects)

    def stranger_than_one_wrong(self, found: Matrix, masks: Matrix) -> Judged | None:
        """What the readings say when their stance is one that hardly any camera has, and one of
        them being wrong explains it better; row 0 takes all, row i + 1 all but i. None otherwise.

        With three unknowns and four readings a wrong one seldom disagrees: it turns the camera. So
        outcomes are compared by their evidence: how often a camera stands so (a Student
        distribution, whose tails are those of photographs), and how often a reading is wrong.
        """
        if self.sights.count < _ENOUGH_TO_DOUBT:
            return None
        evidence = self.evidence(found, masks)
        # Nothing contradicts the only one of its kind: without it there is less to explain.
        evidence[1:][~self.agree(found[1:], masks[1:]) | self._alone()] = -np.inf
        evidence[0] += _BETTER
        best = int(np.argmax(evidence))
        if best == 0:
            return None
        alike = np.flatnonzero(evidence[1:] > evidence[best] - _MUCH_BETTER)
        return Judged(found[[best]], masks[[best]], tuple(int(i) for i in alike))

    def not_ruled_out(
        self, found: Matrix, masks: Matrix, sigma: Matrix
    ) -> tuple[tuple[int, ...], bool]:
        """Readings that agree with the others and yet may be wrong, where that would be seen.

        What is told by row 0, which takes all, and by row i + 1, which takes all but reading i,
        differs by more than the deviations, shape (3,), say. The likeliest first; and whether that
        is hardly less likely than that none is wrong.
        """
        if self.sights.count < _ENOUGH_TO_DOUBT:
            return (), False
        evidence = self.evidence(found, masks)
        told = self.determined(found[:1], masks[:1])[0]
        enough = np.maximum(_SEEN_RAD, _FAR_SIGMAS * sigma)
        matters = (told & (np.abs(found[1:, :3] - found[0, :3]) > enough)).any(axis=1)
        likelier = np.where(matters, evidence[1:] - evidence[0], -np.inf)
        open_ = [i for i in np.argsort(-likelier) if likelier[i] > math.log(_NOT_RULED_OUT)]
        return tuple(int(i) for i in open_), bool(likelier.max() > -_BETTER)

    def _alone(self) -> NDArray[np.bool_]:
        """Which readings are the only ones of their kind, shape (N,)."""
        kinds = np.zeros(self.sights.count, dtype=int)
        kinds[self.sights.of] = self.sights.what
        alone: NDArray[np.bool_] = np.bincount(kinds, minlength=SHARED + 1)[kinds] == 1
        return alone

    def evidence(self, found: Matrix, masks: Matrix) -> Matrix:
        """How likely it is that just the readings of each row are right, as a logarithm, (B,)."""
        shared = float(self.usual_rad[SHARED])
        # What is not seen is no evidence, however sure it is.
        least = math.radians(DISAGREE_DEG) / DISAGREE_SIGMAS
        seen = self.sights.with_changed(sigma=np.maximum(self.sights.sigma, least))
        return log_evidence(seen, found, masks, self.free, shared)

    def likeliest(
        self, without: Matrix, masks: Matrix, agrees: NDArray[np.bool_]
    ) -> tuple[int, ...]:
        """Of the readings without which the others agree.

        Those without which all is clearly likeliest.
        """
        evidence = self.evidence(without, masks)
        enough = evidence[agrees].max(initial=-math.inf) - _CLEARLY
        return tuple(int(i) for i in np.flatnonzero(agrees & (evidence > enough)))

    def without_outliers(self, found: Matrix) -> tuple[Matrix, Matrix]:
        """Weights that leave out what does not fit, shape (1, N), and the unknowns with them, shape
        (1, 4).

        The start is the best of many sub-sets by a cost that does not grow beyond the precision
        (Torr & Zisserman, "MLESAC", 2000).
        """
        masks = _subsets(self.sights.count)
        tried = np.vstack([found, self.solve(masks)]) if len(masks) else found
        z = np.abs(self.sights.residuals(tried)) / self.sights.sigma
        cost = (self.sights.weight * np.minimum(z, DISAGREE_SIGMAS) ** 2).sum(axis=1)
        stands = log_prior(tried, self.free)
        best = tried[[int(np.argmin(cost - 2 * stands))]]
        weights = np.ones((1, self.sights.count))
        for _ in range(20):
            z = np.abs(self._of_readings(self.sights.residuals(best), self.sights.sigma))
            weights = np.minimum(1.0, (DISAGREE_SIGMAS / np.maximum(z, 1e-9)) ** 2) ** 2
            before, best = best, self._solved(weights, best[None], 1.0)
            if np.abs(best - before).max() < 1e-10:
                break
        return weights, best

    def determined(self, found: Matrix, weights: Matrix) -> NDArray[np.bool_]:
        """Which free axes the readings measure, shape (B, 3): the roll always, lean and swing where
        they say more of them than the prior.
        """
        data = self.sights.information(found, weights)
        covariance = _inverted(self._padded(data + self._faded(data)))
        known: NDArray[np.bool_] = self.free[:3] & np.any(weights > 0, axis=1, keepdims=True)
        enough = _DETERMINED_RAD * self.scale
        known[:, 1:] &= np.einsum("bii->bi", covariance)[:, [LEAN, SWING]] < enough**2
        return known

    def deviations(self, judged: Judged) -> tuple[Matrix, float, NDArray[np.bool_]]:
        """Standard deviations of the free axes, shape (3,); the part of the roll's that comes from
        what is open; and which are measured.

        Readings that scatter more than their precision explains, by the chi-square test at 95 %,
        widen the deviations.
        """
        found, weights = judged.best, judged.weights
        determined, wide = self.determined(found, weights)[0], self.scatter(judged)
        covariance = self._covariance(found, weights, wide, usual=_TAILS**2)
        drawn = self._covariance(found, weights, wide, usual=0.0)
        asked = self.free[:3] & bool(np.any(weights > 0))
        sigma = np.where(asked, np.sqrt(np.maximum(np.diagonal(covariance)[:3], 0)), 0.0)
        open_roll = math.sqrt(max(0.0, float(covariance[ROLL, ROLL] - drawn[ROLL, ROLL])))
        return sigma, open_roll if determined[ROLL] else 0.0, determined

    def known(self, judged: Judged) -> Matrix:
        """What is known of the unknowns, shape (4, 4): by the readings, and of what they leave open
        by how cameras are held. What is held has no part in it.
        """
        usual = np.diag(np.append(0.0, self.may_be_rad[1:] ** -2))
        known: Matrix = self._padded(
            self.sights.information(judged.best, judged.weights)[0] + usual
        )
        return known

    def checked(self, judged: Judged, sigma: Matrix) -> NDArray[np.bool_]:
        """Whether a wrong reading would show before it moved the axes by what is seen, shape (3,).

        An error of a reading moves the stance by one part and leaves the other over, by which it is
        found (internal and external reliability; Baarda, *A testing procedure for use in geodetic
        networks*, 1968).
        """
        found, weights = judged.best, judged.weights
        data = self.sights.information(found, weights)
        covariance = _inverted(self._padded(data + self._faded(data)))[0]
        slopes = self.sights.slopes(found, np.full(1, self.sights.focal))[1][0, :, :4]
        slopes = np.where(self.free, slopes, 0.0)
        moves = covariance @ slopes.T * self.sights.counted(weights)[0]
        left = np.clip(1 - np.einsum("mi,im->m", slopes, moves), 1e-9, 1.0)
        shows = self._enough / left
        hidden = np.where(shows > _WRONG_RAD[0], np.minimum(_WRONG_RAD[1], shows), 0.0)
        moved = np.abs(moves[:3] * hidden).max(axis=1, initial=0.0)
        found_out: NDArray[np.bool_] = moved < np.maximum(_MOVED_RAD, _FAR_SIGMAS * sigma)
        return found_out

    def scatter(self, judged: Judged) -> float:
        """By how much the variance of the readings is larger than their precision explains."""
        counted = judged.scatter[0, self.sights.of]
        z = self.sights.residuals(judged.best)[0] / self.sights.sigma
        total = float((counted * z**2).sum())
        spare = int((counted > 0.5).sum() - self.determined(judged.best, judged.weights).sum())
        return total / spare if spare > 0 and total > scipy.special.chdtri(spare, 0.05) else 1.0

    def roughly(self, sigma: Matrix) -> tuple[bool, bool, bool]:
        """Whether axes with some deviations are known roughly."""
        within = _ROUGHLY * _DETERMINED_RAD * self.scale
        lean, swing = (bool(0 < s < most) for s, most in zip(sigma[1:], within, strict=True))
        return bool(sigma[ROLL] > 0), lean, swing

    @property
    def _enough(self) -> Matrix:
        """How far the rows may be off."""
        enough: Matrix = np.maximum(DISAGREE_SIGMAS * self.sights.sigma, math.radians(DISAGREE_DEG))
        return enough

    def _of_readings(self, rows: Matrix, unit: Matrix | float) -> Matrix:
        """Of every reading the row that is largest in its unit, shape (B, N)."""
        scaled = rows / unit
        found = np.zeros((len(rows), self.sights.count))
        for row, place in enumerate(self.sights.of):
            larger = np.abs(scaled[:, row]) >= np.abs(found[:, place])
            found[larger, place] = scaled[larger, row]
        return found

    def _starts(self, weights: Matrix) -> Matrix:
        """Where to begin, shape (2, B, 4): the roll that the undirected angles have on average and
        nothing else, and the closed form.
        """
        usual = np.repeat(self.held[None, :], len(weights), axis=0)
        if self.free[ROLL] and self.sights.count:
            first = np.unique(self.sights.of, return_index=True)[1]
            counted = self.sights.counted(weights)[:, first]
            # Angles are doubled, so that a line and the same line drawn backwards agree (Mardia &
            # Jupp, section 1.3).
            usual[:, ROLL] = -0.5 * np.arctan2(
                counted @ np.sin(2 * self.sights.tilt), counted @ np.cos(2 * self.sights.tilt)
            )
        closed = usual.copy()
        if self.sights.count > 1:
            closed[:, :3] = closed_form(self.sights, weights, usual[:, :3])
        return np.stack([usual, np.where(self.free, closed, usual)])

    def _solved(self, weights: Matrix, starts: Matrix, strength: float) -> Matrix:
        """The unknowns, from the better of some starts, shape (S, B, 4), with a share of the
        prior.
        """
        prior = np.repeat(self._prior(strength)[None], len(weights), axis=0)
        free = np.repeat(self.free[None], len(weights), axis=0)
        descents = [
            self.sights.descend(weights, start, prior, free, _ROUGH_RAD) for start in starts
        ]
        best = np.argmin([cost for _, cost in descents], axis=0)
        found = np.array([found for found, _ in descents])[best, np.arange(len(weights))]
        for tight in (_ROUGH_RAD, _TIGHT_RAD):
            faded = self._faded(self.sights.information(found, weights), strength)
            found, cost = self.sights.descend(weights, found, faded, free, tight)
        found = _the_right_way_up(found) if self.free[:SHARED].all() else found
        return self._simplest(weights, found, cost, faded)

    def _simplest(self, weights: Matrix, found: Matrix, cost: Matrix, prior: Matrix) -> Matrix:
        """The same with what is not measured at zero, where that explains the readings as well."""
        free = np.repeat(self.free[None], len(weights), axis=0)
        idle = free.copy()
        idle[:, [ROLL, SHARED]] = False
        measured = self.determined(found, weights)
        idle[:, 1:3] &= ~measured[:, 1:]
        asked = np.flatnonzero((idle & (np.abs(found) > _ROUGH_RAD)).any(axis=1))
        if not len(asked):
            return found
        start = np.where(idle, 0.0, found)[asked]
        without, dearer = self.sights.descend(
            weights[asked], start, prior[asked], (free & ~idle)[asked], _TIGHT_RAD
        )
        enough = dearer < cost[asked] + _WORTH_IT * idle[asked].sum(axis=1)
        # What counts as measured where it is zero was not measured to be zero.
        enough &= (self.determined(without, weights[asked]) <= measured[asked]).all(axis=1)
        found[asked[enough]] = without[enough]
        return found

    def _prior(self, strength: float = 1.0) -> Matrix:
        """Inverse covariance of what steers where the readings do not, shape (4, 4)."""
        prior = np.zeros((4, 4))
        for unknown in (LEAN, SWING):
            prior[unknown, unknown] = strength / (self.usual_rad[unknown] * self.scale) ** 2
        prior[SHARED, SHARED] = self.usual_rad[SHARED] ** -2
        return prior

    def _faded(self, data: Matrix, strength: float = 1.0) -> Matrix:
        """The prior where the readings know less than it, shape (B, 4, 4)."""
        usual = self.usual_rad[1:3] * self.scale
        return faded(data, self._prior(), usual, self.free, strength)

    def _covariance(
        self, found: Matrix, weights: Matrix, wide: float = 1.0, usual: float = 1.0
    ) -> Matrix:
        """Covariance of the unknowns of one trial, shape (4, 4), that of readings times ``wide``.

        What steers may be weaker than what a camera usually does; the errors are those of the
        readings, and as much of the usual as the prior lets through.
        """
        data = self.sights.information(found, weights)
        prior = self._faded(data)
        let_through = _inverted(self._padded(data + prior))[0]
        errors = data[0] * wide + usual * (prior[0] * self.may_be_rad**2) @ prior[0]
        both = np.outer(self.free, self.free)
        covariance: Matrix = let_through @ np.where(both, errors, 0.0) @ let_through
        return np.where(both, covariance, 0.0)

    def _padded(self, information: Matrix) -> Matrix:
        """Information with what is held, or never asked, cut off so that it can be inverted."""
        both = np.outer(self.free, self.free)
        rest = np.where(self.free, 1e-9, 1.0)
        padded: Matrix = np.where(both, information, 0.0) + np.diag(rest)
        return padded


def stance_in(found: Matrix) -> Stance:
    """The stance among unknowns, shape (4,)."""
    return Stance(*(float(angle) for angle in found[:SHARED]))


def _inverted(information: Matrix) -> Matrix:
    """Covariances of informations, shape (B, 4, 4): very large, and no failure, in a direction that
    nothing tells, such as roll and lean along lines that all lie in one place.
    """
    size = np.sqrt(np.diagonal(information, axis1=1, axis2=2))
    both = size[:, :, None] * size[:, None, :]
    known, directions = np.linalg.eigh(information / both)
    known = np.maximum(known, _LEAST_KNOWN)
    inverse: Matrix = (directions / known[:, None, :]) @ directions.transpose(0, 2, 1) / both
    return inverse


def _the_right_way_up(found: Matrix) -> Matrix:
    """The same with the roll within a quarter turn: lines have no direction."""
    upside_down = np.abs(np.remainder(found[:, ROLL] + np.pi, 2 * np.pi) - np.pi) > np.pi / 2
    found = np.where(upside_down[:, None], found * [1, -1, -1, 1] + [np.pi, 0, 0, 0], found)
    found[:, ROLL] = np.remainder(found[:, ROLL] + np.pi, 2 * np.pi) - np.pi
    return found


def _subsets(count: int) -> Matrix:
    """Sub-sets of readings, shape (B, N), from which an agreeing one may start.

    All without two, or of many readings fours drawn at random.
    """
    if count <= _MAX_PAIRS_OF:
        left_out = list(combinations(range(count), 2)) if count > 3 else []
        masks = np.ones((len(left_out), count))
        for row, pair in enumerate(left_out):
            masks[row, pair] = 0
        return masks
    random = np.random.default_rng(count)
    some = np.zeros((_SAMPLES, count))
    for sample in some:
        sample[random.choice(count, 4, replace=False)] = 1
    return some

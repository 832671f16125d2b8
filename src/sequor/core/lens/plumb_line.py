"""The plumb-line method: the distortion that makes traces of straight things straight.

Sources: Brown, "Close-range camera calibration", 1971; Devernay & Faugeras, "Straight lines have
to be straight", 2001.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import LEAST_SLOPE, Distortion, radial
from sequor.core.lens.plumb_kernels import movements, off_lines
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading

K1, K2, K3, P1, P2, ACROSS, DOWN = NAMES = ("k1", "k2", "k3", "p1", "p2", "centre_x", "centre_y")
"""The coefficients of Brown's model, and how far the lens's centre is off the picture's middle, in
units of half the diagonal."""
K1_DETERMINED, K2_DETERMINED = 0.05, 0.012
"""k1 and k2 are taken to be determined when their standard deviations are below these. An error of
k1 by 0.05 moves a corner by 5 % of half the diagonal, one of k2 that is left out by 1 %."""
_K2_SURE = 0.006
"""k2 is taken, whatever it is, when it is known this well; else only when the traces ask for it."""
_USUAL = {K1: 0.5, K2: 0.1, K3: 0.05, P1: 0.003, P2: 0.003, ACROSS: 0.05, DOWN: 0.05}
"""Standard deviations of priors at zero where more than k1 and k2 is asked for: what lenses have.
They are centred to some hundredths of half the diagonal (common practice, no published source)."""
_WEAKEST = 0.5
"""The same for k1 and k2 alone: it only keeps the steps finite where traces say nothing."""
_MODELS: tuple[tuple[str, ...], ...] = (
    (K1,),
    (K1, K2),
    (K1, K2, K3),
    (K1, K2, P1, P2, ACROSS, DOWN),
    NAMES,
)
_BETTER_EACH = 3.0
"""More coefficients are worth it when the chi-square falls by this for each: of sixty sets of
traces from a plain lens one asks for four that it does not have (chi-square, 4 degrees)."""
_MANY_POINTS, _FEWEST = 1600, 6
"""Points of all traces, and of one of very many, that bound the time of a solution."""
_BORDER_KNOWN = 0.0012
"""And when they are known: no point of the border may then be moved, against its neighbours, by
more than this share of half the diagonal (one deviation)."""
_MOST_STRENGTH, _BISECTIONS = 8.0, 12
"""Powers of ten by which the priors are made stronger for the picture not to fold over, and how
often their range is halved."""
_CAUCHY, _REWEIGHTINGS = 2.385, 8
"""Cauchy's weights in units of the scatter, for 95 % efficiency on normal errors (textbook); so
many rounds settle them."""
_STEPS, _HALVINGS, _SETTLED = 40, 12, 1e-9
"""Steps of the descent and halvings of one at most, so that it ends; it has settled when no
coefficient moves by more than the last."""


@dataclass(frozen=True)
class Traced:
    """The distortion that makes traces straight.

    ``values`` are by the names of `NAMES`, zero where the traces do not determine one; ``sigma``
    the standard deviations of those that they do. ``decentred`` says that the traces ask for a
    centre or a tangential part, but reach too little of the border to tell which.
    """

    values: Mapping[str, float]
    sigma: Mapping[str, float]
    decentred: bool = False

    @property
    def k1(self) -> float:
        """The first radial coefficient."""
        return self.values[K1]

    @property
    def k2(self) -> float:
        """The second one."""
        return self.values[K2]

    def distortion(self, photo: PhotoFacts) -> Distortion:
        """That of a picture."""
        return _lens(photo, self.values)


@dataclass(frozen=True)
class _Fit:
    """A model that was fitted: its coefficients, their covariance, its cost, and how much more the
    points scatter than their precision explains.
    """

    names: tuple[str, ...]
    values: Matrix
    covariance: Matrix
    cost: float
    scatter: float

    def sigma(self, name: str) -> float:
        """Standard deviation of a coefficient."""
        place = self.names.index(name)
        return math.sqrt(float(self.covariance[place, place]))


@lru_cache(maxsize=64)
def from_traces(photo: PhotoFacts, traces: tuple[Reading, ...]) -> Traced:
    """The distortion that makes every trace straight.

    The squares of the distances of all undistorted points from the line through their trace, in
    units of their standard deviations, and those of the coefficients in units of weak priors, are
    made least by Gauss-Newton steps. Of the models, from k1 alone to Brown's full one, the largest
    is taken that fits clearly better than the smaller ones and whose coefficients are determined.
    """
    traces = _thinned(traces)
    fits = {names: _straightest(photo, traces, names) for names in _MODELS[:2]}
    one, both = (fits[names] for names in _MODELS[:2])
    best = None
    if one and one.sigma(K1) < K1_DETERMINED:
        best = one
    if (
        both
        and both.sigma(K2) < K2_DETERMINED
        and (best is None or both.sigma(K2) < _K2_SURE or _clearly_better(both, best))
    ):
        best = both
    decentred = False
    if best is not None:
        for names in _MODELS[2:]:
            more = _straightest(photo, traces, names) if len(names) > len(best.names) else None
            if more is None or not _clearly_better(more, best):
                continue
            best = more
            decentred = ACROSS in names and not _border_known(photo, more)
    if best is None:
        return Traced(dict.fromkeys(NAMES, 0.0), {})
    found = dict(zip(best.names, map(float, best.values), strict=True))
    return Traced(
        dict.fromkeys(NAMES, 0.0) | found,
        {name: best.sigma(name) for name in best.names},
        decentred,
    )


def _thinned(traces: tuple[Reading, ...]) -> tuple[Reading, ...]:
    """The same with fewer points where there are very many: they tell nothing new of a lens."""
    if sum(len(trace.points) for trace in traces) <= _MANY_POINTS:
        return traces
    most = max(_FEWEST, _MANY_POINTS // len(traces))

    def thin(trace: Reading) -> Reading:
        if len(trace.points) <= most:
            return trace
        places = np.linspace(0, len(trace.points) - 1, most).round().astype(int)
        points = tuple(trace.points[place] for place in places)
        return trace.model_copy(update={"points": points})

    return tuple(thin(trace) for trace in traces)


def _clearly_better(more: _Fit, fewer: _Fit) -> bool:
    gain = (fewer.cost - more.cost) / more.scatter
    return gain > _BETTER_EACH * (len(more.names) - len(fewer.names))


def _border_known(photo: PhotoFacts, fit: _Fit) -> bool:
    """Whether the border, undistorted, is known in its shape.

    What moves it like a turn of the camera is of no account: no line is bent by it.
    """
    values = dict(zip(fit.names, map(float, fit.values), strict=True))
    wide, high = photo.width, photo.height
    share = np.linspace(0, 1, 9)
    top = np.column_stack([share * wide, np.zeros(9)])
    left = np.column_stack([np.zeros(9), share * high])
    border = np.concatenate([top, top + [0, high], left, left + [wide, 0]])
    moved = _moved(_lens(photo, values), border, fit.names)
    x, y = ((border - [wide / 2, high / 2]) / (math.hypot(wide, high) / 2)).T
    none, unit = np.zeros_like(x), np.ones_like(x)
    across = np.column_stack([unit, x, y, none, none, none, x * x, x * y])
    down = np.column_stack([none, none, none, unit, x, y, x * y, y * y])
    turns = np.concatenate([across, down])
    flat = moved.transpose(1, 0, 2).reshape(-1, len(fit.names))
    bent = flat - turns @ np.linalg.lstsq(turns, flat, rcond=None)[0]
    variance = np.einsum("ni,ij,nj->n", bent, fit.covariance, bent)
    return float(variance.max()) < _BORDER_KNOWN**2


def _straightest(
    photo: PhotoFacts, traces: tuple[Reading, ...], names: tuple[str, ...]
) -> _Fit | None:
    """A model fitted, with priors only as strong as it takes for the picture not to fold over; None
    where there are too few points, or only k1 alone does not fold it.
    """
    spare = sum(len(trace.points) for trace in traces) - 2 * len(traces) - len(names)
    if spare < 0:
        return None
    traced = _Traces(photo, traces, names)
    radial_only = set(names) <= {K1, K2}
    usual = np.array([_WEAKEST if radial_only else _USUAL[name] for name in names])
    prior = usual**-2
    values, square, here = _settled(traced, prior, spare)
    bound = _folds(photo, names, values)
    if bound and len(names) > 1:
        return None  # a smaller model is asked instead
    if bound:
        # Traces that reach little of the border say nothing against a fold beyond them.
        low, high = 0.0, _MOST_STRENGTH
        for _ in range(_BISECTIONS):
            middle = (low + high) / 2
            trial = _settled(traced, prior * 10**middle, spare)
            if _folds(photo, names, trial[0]):
                low = middle
            else:
                high, (values, square, here) = middle, trial
        prior = prior * 10**high
    total = float(here @ here)
    # Points that scatter more than their precision explains (chi-square test, 95 %) widen it.
    scatter = (
        max(1.0, total / spare) if spare > 0 and total > scipy.special.chdtri(spare, 0.05) else 1.0
    )
    cost = total + float(prior @ values**2)
    covariance = (np.linalg.inv(square) * scatter).astype(np.float64)
    return _Fit(names, values, covariance, cost, scatter)


def _settled(traced: "_Traces", prior: Matrix, spare: int) -> tuple[Matrix, Matrix, Matrix]:
    """What costs least, with points that are worse than they are said to be counting for less."""
    traced.weights = np.ones_like(traced.weights)
    values, square, here = _descended(traced, prior)
    if spare > 0 and float(here @ here) > scipy.special.chdtri(spare, 0.05):
        for _ in range(_REWEIGHTINGS):
            off = np.abs(here) / np.sqrt(traced.weights)
            scale = max(1.0, 1.4826 * float(np.median(off)))
            traced.weights = 1 / (1 + (off / (_CAUCHY * scale)) ** 2)
            values, square, here = _descended(traced, prior, values)
    return values, square, here


def _folds(photo: PhotoFacts, names: tuple[str, ...], values: Matrix) -> bool:
    """Whether the picture would fold over, or nearly, before its corners."""
    lens = _lens(photo, dict(zip(names, map(float, values), strict=True)))
    return not lens.straight and lens.corner_slope() < LEAST_SLOPE


def _descended(
    traced: "_Traces", prior: Matrix, start: Matrix | None = None
) -> tuple[Matrix, Matrix, Matrix]:
    """The coefficients that cost least, the curvature there, and the distances."""
    values = np.zeros(len(prior)) if start is None else start
    here, slopes = traced.distances(values)
    for _ in range(_STEPS):
        square = slopes.T @ slopes + np.diag(prior)
        step = -np.linalg.solve(square, slopes.T @ here + prior * values)
        cost = here @ here + prior @ values**2
        for _ in range(_HALVINGS):
            trial, at_trial = traced.distances(values + step)
            if trial @ trial + prior @ (values + step) ** 2 <= cost + 1e-12:
                break
            step = step / 2
        else:
            break  # no step of any length is better
        values, here, slopes = values + step, trial, at_trial
        if np.abs(step).max() < _SETTLED:
            break
    return values, slopes.T @ slopes + np.diag(prior), here


def _lens(photo: PhotoFacts, values: Mapping[str, float]) -> Distortion:
    """The distortion with some coefficients."""
    known = dict.fromkeys(NAMES, 0.0) | dict(values)
    return Distortion.of(
        photo,
        radial(known[K1], known[K2], known[K3]),
        (known[P1], known[P2]),
        (known[ACROSS], known[DOWN]),
    )


def _moved(lens: Distortion, straight: Matrix, names: tuple[str, ...]) -> Matrix:
    """How undistorted points move with each coefficient, shape (N, 2, C), in units of half the
    diagonal, where the points as shot stay.
    """
    away = (straight - lens.centre) / lens.unit_px
    asked = np.array([NAMES.index(name) for name in names])
    moved: Matrix = movements(away, np.array(lens.polynomial), np.array(lens.tangential), asked)
    return moved


class _Traces:
    """The points of all traces, and how far they lie from straight lines, all at once."""

    def __init__(
        self, photo: PhotoFacts, traces: tuple[Reading, ...], names: tuple[str, ...]
    ) -> None:
        self._photo, self._names = photo, names
        self._points = np.concatenate([np.array(trace.points) for trace in traces])
        counts = np.array([len(trace.points) for trace in traces])
        self._first = np.concatenate([[0], np.cumsum(counts)])
        deviations = [trace.sigma_px / math.sqrt(trace.weight) for trace in traces]
        self._deviation = np.repeat(deviations, counts)
        self.weights = np.ones(len(self._points))

    def distances(self, values: Matrix) -> tuple[Matrix, Matrix]:
        """Distances of all undistorted points from the line through their trace, in deviations,
        and how each grows with each coefficient.
        """
        lens = _lens(self._photo, dict(zip(self._names, map(float, values), strict=True)))
        straight = lens.undistorted(self._points)
        moved = _moved(lens, straight, self._names) * lens.unit_px
        over, grown = off_lines(straight, moved, self.weights, self._first)
        counted = np.sqrt(self.weights) / self._deviation
        return over * counted, grown * counted[:, None]

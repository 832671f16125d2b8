"""What readings in pencil are enough for, and whether that may be relied on."""

import math

import cv2
import numpy as np

from sequor.core.lens.chosen import distortion_of
from sequor.core.measure.readings import sigma_rad, tilt_rad
from sequor.core.propose.attempts import ALIKE_RAD, Attempt, View
from sequor.core.propose.proposal import (
    TAKEN_OUT,
    Doubt,
    Proposal,
    ProposedAxis,
    ProposedReading,
    Told,
    Want,
)
from sequor.core.recipe import AXES, LeaveIn, Point, Reading

_SURE_RAD = np.radians([0.12, 0.6, 1.0])
"""Deviations of what is sure, at most."""
_RESTS_RAD = np.radians([0.15, 0.5, 0.8])
"""An axis that changes by more when one line is left out rests on that line, and is not sure."""
_EVIDENCE = 15.0
"""At least so likely must the best stance be, in the logarithm, for anything to be sure."""
_AGREEING = 0.7
"""At least this share of the lines that were fitted must agree in the end."""
_FEWEST = 3
"""Lines that must agree for the roll to be sure; a horizon alone is enough."""
_FRONT_SHARE, _FRONT_DEG = 0.25, 22.0
"""What is square by its own: a front over so much of the picture, turned by no more than this."""
_LEANS_DEG = 0.7
"""Less lean than this is not worth taking out of a picture that only asks to be level."""


def judged(view: View, want: Want, attempts: list[Attempt], horizon: bool) -> Proposal:
    """The proposal by the first attempt, and whether the others allow to be sure of it."""
    asked: Told = "level" if want == "any" else want
    if not attempts:
        return Proposal(want=want, told=asked, readings=_traces(view), doubt="nothing")
    best = attempts[0]
    plumbs = sum(reading.kind == "plumb" for reading in best.readings)
    together = best.likelihood >= _EVIDENCE and best.agreeing >= _AGREEING
    enough = horizon or (len(best.readings) >= _FEWEST and together)
    sigma = [attempt.deviations(view.focal_px) for attempt in attempts]
    alike = [
        all(
            abs(other.angles[axis] - best.angles[axis])
            < ALIKE_RAD[axis] + 2 * math.hypot(sigma[0][axis], theirs[axis])
            for other, theirs in zip(attempts[1:], sigma[1:], strict=True)
        )
        for axis in range(3)
    ]
    small = (sigma[0] <= _SURE_RAD) & (horizon | (best.without_one <= _RESTS_RAD))
    levels = sum(reading.kind == "level" for reading in best.readings)
    sure = [bool(enough and alike[axis] and small[axis]) for axis in range(3)]
    upright = plumbs >= 2 or horizon or (plumbs == 1 and levels >= _FEWEST)
    sure[1] = sure[1] and upright and sure[0]
    sure[2] = sure[2] and levels > 0 and sure[1]
    told: Told = _what_it_asks(view, best, sure) if want == "any" else want
    needed = [AXES.index(axis) for axis in TAKEN_OUT[told]]
    doubt: Doubt | None = None
    if not all(sure[axis] for axis in needed):
        first = next(axis for axis in needed if not sure[axis])
        if not best.readings:
            doubt = "nothing"
        elif first == 1 and sure[0]:
            doubt = "no_lean"
        elif first == 2 and sure[1]:
            doubt = "no_front"
        elif not enough:
            doubt = "few"
        else:
            doubt = "unsure" if alike[first] else "unlike"
    leave = {axis: axis not in TAKEN_OUT[told] for axis in AXES}
    return Proposal(
        want=want,
        told=told,
        readings=(*_in_pencil(view, best), *_traces(view)),
        **{
            axis: _axis(best, place, float(sigma[0][place]), sure[place])
            for place, axis in enumerate(AXES)
        },
        sure=doubt is None,
        doubt=doubt,
        leave_in=LeaveIn(**leave),
    )


def _axis(best: Attempt, place: int, sigma: float, sure: bool) -> ProposedAxis:
    if not math.isfinite(sigma):
        return ProposedAxis()
    return ProposedAxis(
        deg=math.degrees(best.angles[place]),
        sigma_deg=math.degrees(sigma),
        sure=sure,
    )


def _what_it_asks(view: View, best: Attempt, sure: list[bool]) -> Told:
    """Square for a front that fills the picture, plumb where uprights lean, else level."""
    if not any(reading.kind == "plumb" for reading in best.readings):
        return "level"
    lean, swing = np.degrees(np.abs(best.angles[1:]))
    if sure[2] and swing <= _FRONT_DEG and _spread(view, best) >= _FRONT_SHARE:
        return "square"
    return "plumb" if sure[1] and lean >= _LEANS_DEG else "level"


def _spread(view: View, best: Attempt) -> float:
    """The share of the picture between the lines of a front."""
    points = [
        point
        for reading in best.readings
        if reading.kind in ("plumb", "level")
        for point in reading.points
    ]
    hull = cv2.convexHull(np.array(points, np.float32))
    return float(cv2.contourArea(hull)) / (view.photo.width * view.photo.height)


def _in_pencil(view: View, best: Attempt) -> tuple[ProposedReading, ...]:
    """The readings with what is said of each, those that count most first."""
    slopes = best.slopes(view.focal_px)
    deviations = np.array([sigma_rad(reading) for reading in best.readings])
    information = slopes.T @ (slopes / deviations[:, None] ** 2) + np.eye(3) * 1e-3
    counts = np.einsum("ni,ij,nj->n", slopes, np.linalg.inv(information), slopes) / deviations**2
    shares = counts / counts.sum()
    kinds = [reading.kind for reading in best.readings]
    diagonal = math.hypot(view.photo.width, view.photo.height)
    found = [
        ProposedReading(
            reading=reading,
            straight=_as_lens_leaves(view, reading),
            angle_deg=math.degrees(tilt_rad(reading)),
            sigma_deg=math.degrees(deviation),
            share=float(share),
            length_share=math.dist(*reading.points) / diagonal,
            agree=kinds.count(reading.kind) - 1,
        )
        for reading, share, deviation in zip(best.readings, shares, deviations, strict=True)
    ]
    return tuple(sorted(found, key=lambda one: -one.share))


def _traces(view: View) -> tuple[ProposedReading, ...]:
    """The edges that tell the lens, which say nothing of the stance themselves."""
    diagonal = math.hypot(view.photo.width, view.photo.height)
    return tuple(
        ProposedReading(
            reading=reading,
            straight=_as_lens_leaves(view, reading),
            angle_deg=math.degrees(tilt_rad(reading)),
            sigma_deg=math.degrees(sigma_rad(reading)),
            share=0.0,
            length_share=math.dist(*reading.ends) / diagonal,
            agree=len(view.traces) - 1,
        )
        for reading in view.traces
    )


def _as_lens_leaves(view: View, reading: Reading) -> tuple[Point, ...]:
    """A reading's points where the picture is shown now."""
    shown, _ = distortion_of(view.photo, view.recipe)
    points = shown.undistorted(np.array(reading.points))
    return tuple((float(x), float(y)) for x, y in points)

"""What readings in pencil are enough for, and whether that may be relied on."""

import math

import cv2
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.lens.chosen import distortion_of
from sequor.core.photo import CameraLevel
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
from sequor.core.readings.by_camera import USUAL_SIGMA_DEG, reading_of
from sequor.core.readings.reading import sigma_rad, tilt_rad
from sequor.core.recipe import AXES, LeaveIn, Reading

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
    if not attempts:
        asked: Told = "level" if want == "any" else want
        nothing = Proposal(want=want, told=asked, readings=_traces(view), doubt="nothing")
        return _by_camera(view, nothing) if asked == "level" else nothing
    best = attempts[0]
    sigma = [attempt.deviations(view.focal_px) for attempt in attempts]
    alike = [_agree(axis, attempts, sigma) for axis in range(3)]
    enough = horizon or (
        len(best.readings) >= _FEWEST
        and best.likelihood >= _EVIDENCE
        and best.agreeing >= _AGREEING
    )
    small = (sigma[0] <= _SURE_RAD) & (horizon | (best.without_one <= _RESTS_RAD))
    sure = _in_turn(
        best, horizon, [bool(enough and a and s) for a, s in zip(alike, small, strict=True)]
    )
    told: Told = _what_it_asks(view, best, sure) if want == "any" else want
    needed = [AXES.index(axis) for axis in TAKEN_OUT[told]]
    doubt = next((_doubt(axis, sure, alike, enough) for axis in needed if not sure[axis]), None)
    said = _said(best, sigma[0])
    return Proposal(
        want=want,
        told=told,
        readings=(*_in_pencil(view, best), *_traces(view)),
        **{
            axis: ProposedAxis(deg=deg, sigma_deg=off, sure=sure[place])
            for place, (axis, (deg, off)) in enumerate(zip(AXES, said, strict=True))
        },
        sure=doubt is None,
        doubt=doubt,
        leave_in=LeaveIn(**{axis: axis not in TAKEN_OUT[told] for axis in AXES}),
    )


def _by_camera(view: View, nothing: Proposal) -> Proposal:
    """What the camera's own level says of a picture in which nothing else says anything."""
    pose = view.photo.pose
    if pose is None or pose.roll_deg is None or any(r.camera for r in view.recipe.readings):
        return nothing
    level = CameraLevel(**pose.model_dump(), sigma_deg=USUAL_SIGMA_DEG)
    camera = view.photo.model_copy(update={"focal35_mm": view.focal35_mm})
    reading = reading_of(level, camera)
    told = ProposedReading(
        reading=reading,
        straight=reading.points,
        angle_deg=math.degrees(tilt_rad(reading)),
        sigma_deg=level.sigma_deg,
        share=1.0,
        length_share=0.0,
        agree=0,
    )
    return Proposal(
        want=nothing.want,
        told="level",
        readings=(told, *nothing.readings),
        roll=ProposedAxis(deg=pose.roll_deg, sigma_deg=level.sigma_deg),
        doubt="camera",
        leave_in=LeaveIn(roll=False, lean=True, swing=True),
    )


def _agree(axis: int, attempts: list[Attempt], sigma: list[Matrix]) -> bool:
    """Whether all plausible explanations say the same of an axis."""
    return all(
        abs(other.angles[axis] - attempts[0].angles[axis])
        < ALIKE_RAD[axis] + 2 * math.hypot(sigma[0][axis], theirs[axis])
        for other, theirs in zip(attempts[1:], sigma[1:], strict=True)
    )


def _in_turn(best: Attempt, horizon: bool, sure: list[bool]) -> list[bool]:
    """No lean is sure without the roll and something upright, no swing without both and a wall."""
    kinds = [reading.kind for reading in best.readings]
    plumbs, levels = kinds.count("plumb"), kinds.count("level")
    upright = horizon or plumbs >= 2 or (plumbs == 1 and levels >= _FEWEST)
    roll = sure[0]
    lean = sure[1] and roll and upright
    return [roll, lean, sure[2] and lean and levels > 0]


def _doubt(axis: int, sure: list[bool], alike: list[bool], enough: bool) -> Doubt:
    """Why the first axis that is needed is not sure."""
    if axis == 1 and sure[0]:
        return "no_lean"
    if axis == 2 and sure[1]:
        return "no_front"
    if not enough:
        return "few"
    return "unsure" if alike[axis] else "unlike"


def _said(best: Attempt, sigma: Matrix) -> list[tuple[float | None, float | None]]:
    """Degrees and deviations of the axes, None where nothing is measured."""
    return [
        (math.degrees(angle), math.degrees(off)) if math.isfinite(off) else (None, None)
        for angle, off in zip(best.angles, sigma, strict=True)
    ]


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
    kinds = [reading.kind for reading in best.readings]
    found = [
        _proposed(view, reading, float(share), kinds.count(reading.kind) - 1)
        for reading, share in zip(best.readings, counts / counts.sum(), strict=True)
    ]
    return tuple(sorted(found, key=lambda one: -one.share))


def _traces(view: View) -> tuple[ProposedReading, ...]:
    """The edges that tell the lens, which say nothing of the stance themselves."""
    others = len(view.traces) - 1
    return tuple(_proposed(view, trace, 0.0, others) for trace in view.traces)


def _proposed(view: View, reading: Reading, share: float, agree: int) -> ProposedReading:
    shown, _ = distortion_of(view.photo, view.recipe)
    points = shown.undistorted(np.array(reading.points))
    return ProposedReading(
        reading=reading,
        straight=tuple((float(x), float(y)) for x, y in points),
        angle_deg=math.degrees(tilt_rad(reading)),
        sigma_deg=math.degrees(sigma_rad(reading)),
        share=share,
        length_share=math.dist(*reading.ends) / math.hypot(view.photo.width, view.photo.height),
        agree=agree,
    )

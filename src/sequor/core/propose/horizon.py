"""The skyline as the horizon, where nothing else in the picture speaks against it."""

import math

import numpy as np

from sequor.core.propose.attempts import Attempt, View, fitted_reading, measured_by
from sequor.core.propose.lines import SeenLine
from sequor.core.propose.pencil import drawn, refused
from sequor.core.propose.segments import about_centre
from sequor.core.propose.skyline import Skyline
from sequor.core.readings.reading import sigma_rad, tilt_rad
from sequor.core.recipe import FittedTo, Reading

_MEETS_RAD = math.radians(0.25)
"""A skyline so near to where the lines have eye level is the horizon."""
_WIDE_ENOUGH, _HELD = 0.6, 0.45
"""A horizon without any other line: how much of it is a step of one sense, and at what share of the
columns it is found."""
_GLANCING, _COARSER = 1.35, 1.2
"""What lies below a horizon without any other line is seen at a glancing angle and grows coarser
towards the camera, by this at least: generated slopes that face the camera come to 0.94 to 1.0 and
1.0, brick walls to 3 to 6 and 1.0, water to 1.5 and more and 1.2 to 1.6."""
STRONG = 45.0
"""Lines as likely as this, in the logarithm, are believed where a skyline is not where they have
eye level; less is waves and boats."""
_VAGUE_RAD = math.radians(1.0)
"""Eye level that is known no better than this does not make a line the horizon."""
_LIKELY, _TOLD_RAD = (15.0, 5.0), math.radians(1.5)
"""One upright, or several, as likely as this with what else there is, that tell the roll to this,
are believed as well."""
_KNOWN_RAD = np.radians([0.05, 0.3])
"""Deviations of roll and lean to which a horizon adds little."""
_HORIZON_DEG = 12.0
"""A boundary tilted by more is not taken for the horizon (set by hand; no source)."""


def lines_suffice(view: View, lines: Attempt) -> bool:
    """Whether lines that are believed tell roll and lean as well as a horizon would."""
    known = lines.deviations(view.focal_px)[:2] <= _KNOWN_RAD
    return lines.likelihood >= STRONG and bool(known.all())


def horizon_of(view: View, skyline: Skyline, lines: Attempt | None) -> Reading | None:
    """The skyline as a reading of the horizon, where nothing speaks against it."""
    (ax, ay), (bx, by) = skyline.straight
    tilt = math.atan2(by - ay, bx - ax)
    rubbed = refused(skyline.ends[None], view.recipe, skyline.near_px)[0]
    if rubbed or abs(tilt) > math.radians(_HORIZON_DEG):
        return None
    if lines is not None and not _meets(view, lines, skyline, tilt):
        return None
    if lines is None or lines.likelihood < STRONG:
        # Nothing else vouches for it: a slope, a wall's top or a ceiling is as straight.
        clear = skyline.coherent >= _WIDE_ENOUGH and skyline.held >= _HELD
        if not clear or skyline.glancing < _GLANCING or skyline.coarser < _COARSER:
            return None
    sharp, soft = fitted_reading(view, "horizon", skyline.ends), _as_found(view, skyline)
    if sharp is None or sigma_rad(sharp) > sigma_rad(soft):
        return soft
    apart = abs(tilt_rad(sharp) - tilt_rad(soft))
    return sharp if apart < 3 * math.hypot(sigma_rad(sharp), sigma_rad(soft)) else soft


def _meets(view: View, lines: Attempt, skyline: Skyline, slope_rad: float) -> bool:
    """Whether a skyline lies where the lines that are believed have eye level."""
    believed = lines.likelihood >= STRONG
    if not believed and not _upright(view, lines):
        return True
    near = np.maximum(_MEETS_RAD, 2 * lines.deviations(view.focal_px))
    roll, lean = lines.angles[:2]
    if abs(slope_rad + roll) > near[0]:
        return False
    (ax, ay), (bx, by) = skyline.straight
    x, y = (ax + bx - view.photo.width) / 2, (ay + by - view.photo.height) / 2
    above = math.atan2(x * math.sin(roll) + y * math.cos(roll), view.focal_px) - lean
    if near[1] > _VAGUE_RAD:
        # Lines that do not tell where that is, as without a focal length, do not vouch for it.
        return not believed
    return bool(abs(above) <= near[1])


def _upright(view: View, lines: Attempt) -> bool:
    """Whether uprights that agree among themselves tell the roll, as waves and boats do not."""
    plumbs = sum(reading.kind == "plumb" for reading in lines.readings)
    told = lines.deviations(view.focal_px)[0] <= _TOLD_RAD
    return bool(told and plumbs and lines.likelihood >= _LIKELY[min(plumbs, 2) - 1])


def _as_found(view: View, skyline: Skyline) -> Reading:
    """The skyline as a reading with the deviation that it was found with."""
    inside = np.clip(skyline.ends, 0, [view.photo.width, view.photo.height])
    reading = drawn("horizon", inside, view.end_px)
    facts = FittedTo(
        drawn=reading.points,
        sigma_deg=math.degrees(skyline.sigma_rad),
        stations=skyline.stations,
    )
    return reading.model_copy(update={"fitted": facts})


def with_horizon(view: View, horizon: Reading, lines: Attempt | None) -> Attempt:
    """The horizon with the lines that agree with it, or alone."""
    straight = about_centre(np.array([horizon.points]), view.photo, view.distortion, view.end_px)
    line = SeenLine("level", straight.seen[0], straight.ends[0], 1.0)
    if lines is not None and lines.likelihood >= STRONG:
        readings = (horizon, *lines.readings)
        measured = measured_by(view, readings)
        if not measured.outliers and not measured.suspects:
            scatter = np.append(0.0, lines.scatter_rad)
            both = (line, *lines.lines)
            return Attempt(readings, both, measured, lines.likelihood, scatter, lines.agreeing)
    return Attempt((horizon,), (line,), measured_by(view, (horizon,)), 0.0, np.zeros(1))

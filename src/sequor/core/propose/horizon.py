"""The skyline as the horizon, where nothing else in the picture speaks against it."""

import math

import numpy as np

from sequor.core.measure.readings import sigma_rad, tilt_rad
from sequor.core.propose.attempts import Attempt, View, fitted_reading, measured_by
from sequor.core.propose.lines import Line
from sequor.core.propose.pencil import drawn, refused
from sequor.core.propose.segments import about_centre
from sequor.core.propose.skyline import Skyline
from sequor.core.recipe import FittedTo, Reading

_MEETS_RAD = math.radians(0.25)
"""A skyline so near to where the lines have eye level is the horizon."""
_WIDE_ENOUGH, _HELD = 0.6, 0.45
"""A horizon without any other line: how much of it is a step of one sense, and at what share of the
columns it is found."""
STRONG = 45.0
"""Lines as likely as this, in the logarithm, are believed where a skyline is not where they have
eye level; less is waves and boats."""
_KNOWN_RAD = np.radians([0.05, 0.3])
"""Deviations of roll and lean to which a horizon adds little."""
_HORIZON_DEG = 12.0


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
    if lines is not None and lines.likelihood >= STRONG:
        # Enough else is in the picture: the horizon is where that has eye level, or is none.
        roll, lean = lines.angles[:2]
        x, y = (ax + bx - view.photo.width) / 2, (ay + by - view.photo.height) / 2
        above = math.atan2(x * math.sin(roll) + y * math.cos(roll), view.focal_px) - lean
        near = np.maximum(_MEETS_RAD, 2 * lines.deviations(view.focal_px))
        if abs(above) > near[1] or abs(tilt + roll) > near[0]:
            return None
    elif skyline.coherent < _WIDE_ENOUGH or skyline.held < _HELD:
        return None
    sharp, soft = fitted_reading(view, "horizon", skyline.ends), _as_found(view, skyline)
    if sharp is None or sigma_rad(sharp) > sigma_rad(soft):
        return soft
    apart = abs(tilt_rad(sharp) - tilt_rad(soft))
    return sharp if apart < 3 * math.hypot(sigma_rad(sharp), sigma_rad(soft)) else soft


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
    line = Line("level", straight.seen[0], straight.ends[0], 1.0)
    if lines is not None and lines.likelihood >= STRONG:
        readings = (horizon, *lines.readings)
        measured = measured_by(view, readings)
        if not measured.outliers and not measured.suspects:
            scatter = np.append(0.0, lines.scatter_rad)
            both = (line, *lines.lines)
            return Attempt(readings, both, measured, lines.likelihood, scatter, lines.agreeing)
    return Attempt((horizon,), (line,), measured_by(view, (horizon,)), 0.0, np.zeros(1))

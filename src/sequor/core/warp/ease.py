"""From what was measured to what is taken out: what was added by hand, and how much is left in."""

import math

from sequor.core.camera import Matrix, Stance, rotation
from sequor.core.recipe import Ease, Trim


def with_trim(measured: Stance, trim: Trim) -> Stance:
    """The measured stance with what was added by hand."""
    roll = measured.roll_rad + math.radians(trim.roll_deg)
    return Stance(
        # Remainder, so that turns of more than half a circle come back as the short way round.
        roll_rad=math.remainder(roll, 2 * math.pi),
        lean_rad=measured.lean_rad + math.radians(trim.lean_deg),
        swing_rad=measured.swing_rad + math.radians(trim.swing_deg),
    )


def eased(
    measured: Stance, wanted: Stance, ease: Ease, stay: tuple[bool, bool, bool] = (False,) * 3
) -> Matrix:
    """The corrective rotation, 3x3, that leaves the rest of what was measured in.

    ``stay`` says of which of roll, lean and swing that is all. The picture then is as a camera with
    that rest would have taken it: scaling the angles instead would roll it by some tenths of a
    degree.
    """
    roll, lean, swing = (
        1.0 if stays else 1 - share
        for stays, share in zip(stay, (ease.roll, ease.lean, ease.swing), strict=True)
    )
    rest = Stance(
        roll_rad=roll * measured.roll_rad,
        lean_rad=lean * measured.lean_rad,
        swing_rad=swing * measured.swing_rad,
    )
    if (rest.lean_rad, rest.swing_rad) == (wanted.lean_rad, wanted.swing_rad):
        # What stays cancels, exactly: a turn in the plane of the picture.
        return rotation(Stance(roll_rad=wanted.roll_rad - rest.roll_rad))
    turn: Matrix = rotation(rest).T @ rotation(wanted)
    return turn


def scaled(ease: Ease, share: float) -> Ease:
    """Only a share of what an ease takes out."""
    return Ease(roll=ease.roll * share, lean=ease.lean * share, swing=ease.swing * share)

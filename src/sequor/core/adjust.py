"""Changes to a recipe that need a rule of the job: here, setting the tilt by a typed angle."""

import math

from sequor.core.angles import TypedTilt, in_words, parse_tilt
from sequor.core.notes import turn_words
from sequor.core.recipe import PhotoFacts, Recipe, Trim
from sequor.core.solve import solve

_EXPLAINED = {
    "words": "",
    "sign": "",
    "tilt": " Taken in the direction the picture is tilted; write cw or acw for the other way.",
    "default": " Taken as clockwise; write acw for the other way.",
}


def set_tilt(photo: PhotoFacts, recipe: Recipe, text: str) -> tuple[Recipe, str]:
    """Take a typed tilt of the picture, and correct it by the opposite turn.

    The direction of a bare number is that of the tilt known so far: the one the
    readings say, else the one set before.

    Returns
    -------
    (Recipe, str)
        The recipe whose trim brings the roll to the opposite of the typed tilt,
        and a sentence that says what was understood.

    Raises
    ------
    UnusableInput
        When the text is not an angle.
    """
    stance = solve(photo, recipe).stance
    measured_deg = stance.measured_roll_deg or 0.0
    known = -measured_deg if abs(measured_deg) > (stance.sigma_deg or 0.0) else -stance.roll_deg
    typed: TypedTilt = parse_tilt(text, known)
    roll_deg = -typed.tilt_deg
    changed = recipe.model_copy(update={"trim": Trim(roll_deg=roll_deg - measured_deg)})
    said = f"Tilted {in_words(typed.tilt_deg)} as shot, so {turn_words(roll_deg)}." if roll_deg else "Not turned."
    explained = _EXPLAINED[typed.taken_from] if not math.isclose(roll_deg, 0, abs_tol=1e-9) else ""
    return changed, said + explained

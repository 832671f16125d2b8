"""The plain ways to deal with empty corners, and what each would cost before it is done."""

from typing import Literal

from sequor.core.advance import UNTOUCHED, advance
from sequor.core.edits import GiveMargin, ShareCorners
from sequor.core.edits.base import Lookups
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.core.value import Value

Way = Literal["crop", "bend", "fill"]
WAYS: dict[Way, ShareCorners] = {
    "crop": ShareCorners(bend=0.0, fill=0.0),
    "bend": ShareCorners(bend=1.0, fill=0.0),
    "fill": ShareCorners(bend=0.0, fill=1.0),
}


class WayCost(Value):
    """What a way costs: the share of the picture that is kept, the share of the frame that is
    invented, and how far the picture bends; ``done`` is how much of the bending is, ``edit`` takes
    the way.
    """

    way: Way
    edit: ShareCorners
    kept_fraction: float
    fill_fraction: float
    max_stretch: float
    max_turn_deg: float
    bent_share: float
    done: float


def corner_ways(
    photo: PhotoFacts, recipe: Recipe, lookups: Lookups = UNTOUCHED
) -> tuple[WayCost, ...]:
    """What cropping, bending and filling all of the corners would cost, whatever margin is added
    to them; a way that cannot be gone is left out.
    """
    found = []
    for way, edit in WAYS.items():
        wanted = advance(photo, recipe, (GiveMargin(margin=0), edit), lookups).recipe
        try:
            solution = solve(photo, wanted)
        except UnusableInput:
            continue
        bend = solution.bend
        found.append(
            WayCost(
                way=way,
                edit=edit,
                kept_fraction=solution.kept_fraction,
                fill_fraction=solution.cost.fill_fraction,
                max_stretch=bend.max_stretch if bend else 1.0,
                max_turn_deg=bend.max_turn_deg if bend else 0.0,
                bent_share=bend.bent_share if bend else 0.0,
                done=bend.share if bend else 1.0,
            )
        )
    return tuple(found)

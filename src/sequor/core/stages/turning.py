"""How much of the stance is taken out: the turn, the map that makes it, the outline it gives."""

from dataclasses import dataclass, replace

from sequor.core.bend.asked import asked_of
from sequor.core.bend.bend import bend
from sequor.core.bend.limits import Bent
from sequor.core.camera import Matrix, apply_homography, conjugated
from sequor.core.frame.convex import ConvexOutline
from sequor.core.frame.curved import CurvedOutline
from sequor.core.frame.outline import Outline
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Ease, Recipe, target_ratio
from sequor.core.stages.setting import Camera, FoundLens, Readings
from sequor.core.stance.staying import Staying
from sequor.core.warp.limits import safe_turn
from sequor.core.warp.map import Warp, laid_out


@dataclass(frozen=True, eq=False)
class Turned:
    """The turn, whether it was limited, the map and the outline of the valid picture after it."""

    turn: Matrix
    limited: bool
    warp: Warp
    outline: Outline


def turned_by(
    ease: Ease, standing: Staying, camera: Camera, lens: FoundLens, recipe: Recipe
) -> Turned:
    """The picture turned by as much of the stance as an ease takes out."""
    turn, limited = safe_turn(standing.turn(ease), camera.k, lens.border)
    moved = conjugated(camera.k, turn)
    h, border = laid_out(moved, recipe.proportion, lens.photo, lens.border)
    outline = ConvexOutline(border) if lens.distortion.straight else CurvedOutline(border)
    return Turned(turn, limited, Warp(h, lens.distortion), outline)


@dataclass(frozen=True, eq=False)
class Mapped:
    """The whole map, with how it bends if it does, and the outline in the end."""

    warp: Warp
    outline: Outline
    bent: Bent | None


def mapped(
    turned: Turned, photo: PhotoFacts, lens: FoundLens, readings: Readings, recipe: Recipe
) -> Mapped:
    """The turned picture, bent where the recipe asks for it."""
    if not recipe.bend.bends:
        return Mapped(turned.warp, turned.outline, None)
    border = apply_homography(turned.warp.homography, lens.dense_border)
    own = recipe.frame.ratio == "original" and not recipe.frame.print_size
    ratio = target_ratio(recipe.frame, photo) if own else None
    bent = bend(asked_of(recipe, photo, turned.warp, border, readings.every, ratio))
    outline = bent.bending.bent(border)
    low = outline.min(axis=0)
    # The box around the outline begins at the origin, as without bending.
    warp = replace(turned.warp, bending=bent.bending.moved(-low))
    return Mapped(warp, CurvedOutline(outline - low), bent)

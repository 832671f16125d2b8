"""Trying and keeping edits of a picture: the one way in which its recipe changes."""

from dataclasses import dataclass

from sequor.core.editing import apply, fitted_readings, to_fit, understood
from sequor.core.edits import Edit, TypeAngle
from sequor.core.measure.guide import HeldAgainst, edge_under_guide
from sequor.core.recipe import Direction, PhotoFacts, Point, Recipe
from sequor.core.report.acts import edit_words
from sequor.core.report.words import fit_words, understood_words
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.services.lenses import looked_up
from sequor.services.means import Means
from sequor.services.pictures import original, photo_of, recipe_of_entry, sha256_of
from sequor.store import ledger
from sequor.store.models import Picture

Edits = tuple[Edit, ...]


@dataclass(frozen=True)
class Tried:
    """A recipe that edits lead to, with its solution."""

    photo: PhotoFacts
    recipe: Recipe
    solution: Solution


def draft(means: Means, picture_id: int, based_on: int, edits: Edits) -> Tried:
    """What edits of an entry lead to; nothing is stored, and nothing is fitted to the picture."""
    photo = photo_of(means, picture_id)
    recipe = recipe_of_entry(means, picture_id, based_on)
    for edit in edits:
        recipe = apply(edit, recipe, photo)
    return Tried(photo, recipe, solve(photo, recipe))


def keep(means: Means, picture_id: int, based_on: int, edits: Edits) -> tuple[Picture, str]:
    """Enter what edits of an entry lead to into the ledger, and say what came of them.

    Raises
    ------
    Stale
        When another entry holds by now; nothing is changed.
    UnusableInput
        When an edit cannot be done; nothing is changed.
    """
    with means.sessions() as session:
        ledger.check_head(session, picture_id, based_on)
    photo = photo_of(means, picture_id)
    recipe = recipe_of_entry(means, picture_id, based_on)
    said = ""
    for edit in edits:
        recipe, words = _done(means, picture_id, photo, recipe, edit)
        said = words or said
    what = edit_words(edits[-1])
    with means.sessions.begin() as session:
        return ledger.append(session, picture_id, based_on, recipe, what), said


def _done(
    means: Means, picture_id: int, photo: PhotoFacts, recipe: Recipe, edit: Edit
) -> tuple[Recipe, str]:
    """The recipe after an edit, with what it needs from the picture, and a sentence about it."""
    said = ""
    sha256 = sha256_of(means, picture_id)
    edit = looked_up(edit, recipe, photo, means.files.original(sha256))
    if isinstance(edit, TypeAngle):
        said = understood_words(edit.axis, understood(edit, recipe, photo))
    changed, wanted = apply(edit, recipe, photo), to_fit(edit, recipe)
    if wanted:
        pixels = original(means, sha256).pixels
        changed = fitted_readings(wanted, changed, photo, pixels)
        found = [r.fitted for r in changed.readings if r.id in wanted and r.fitted]
        if len(found) < len(wanted):
            said = fit_words(sum(f.stations for f in found), len(found), len(wanted))
    return changed, said


def hold_guide(
    means: Means,
    picture_id: int,
    based_on: int,
    edits: Edits,
    direction: Direction,
    ends: tuple[Point, Point],
) -> HeldAgainst:
    """The angle between a guide and the edge under it in the corrected picture."""
    tried = draft(means, picture_id, based_on, edits)
    pixels = original(means, sha256_of(means, picture_id)).pixels
    return edge_under_guide(pixels, tried.solution.warp, direction, ends)

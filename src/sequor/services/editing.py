"""Trying and keeping edits of a picture: the one way in which its recipe changes."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from sequor.core.corner_ways import WAYS, WayCost, corner_ways
from sequor.core.editing import apply, lacks_edges, to_fit, understood, with_edges
from sequor.core.edits import Edit, TypeAngle, UseLens
from sequor.core.measure.guide import HeldAgainst
from sequor.core.recipe import Direction, PhotoFacts, Point, Recipe
from sequor.core.report.acts import edit_words
from sequor.core.report.words import fit_words, understood_words
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.making import fitting
from sequor.services.lenses import looked_up
from sequor.services.means import Means, Say, T
from sequor.services.pictures import Facts, facts_of, original_file, recipe_of_entry
from sequor.services.working import have_done
from sequor.store import ledger, versions
from sequor.store.ledger import Standing
from sequor.store.models import Picture
from sequor.work.engine import Lane

Edits = tuple[Edit, ...]


@dataclass(frozen=True)
class Tried:
    """A recipe that edits lead to, with its solution."""

    photo: PhotoFacts
    recipe: Recipe
    solution: Solution


def draft(means: Means, picture_id: int, based_on: int, edits: Edits) -> Tried:
    """What edits of an entry lead to; nothing is stored, and nothing is fitted to the picture."""
    facts = facts_of(means, picture_id)
    photo = facts.photo
    recipe = led_to(means, facts, recipe_of_entry(means, picture_id, based_on), edits)
    recipe = knowing_edges(means, facts, recipe)
    return Tried(photo, recipe, solve(photo, recipe))


def corner_costs(means: Means, picture_id: int, entry_id: int) -> tuple[WayCost, ...]:
    """What cropping, bending and filling the corners of an entry would cost."""
    facts = facts_of(means, picture_id)
    recipe = recipe_of_entry(means, picture_id, entry_id)
    bending = apply(WAYS["bend"], recipe, facts.photo)
    edges = knowing_edges(means, facts, bending).bend.edges
    return corner_ways(facts.photo, with_edges(recipe, edges or ()))


@dataclass(frozen=True)
class Kept:
    """How a picture stands after a change, and what came of the change where there is anything to
    say.
    """

    standing: Standing
    said: str = ""


def keep(means: Means, picture_id: int, based_on: int, edits: Edits, say: Say[Kept, T]) -> T:
    """Enter what edits of an entry lead to into the ledger.

    Raises
    ------
    Stale
        When another entry holds by now; nothing is changed.
    UnusableInput
        When an edit cannot be done; nothing is changed.
    """
    with means.database.reading() as session:
        ledger.check_head(session, picture_id, based_on)
    facts = facts_of(means, picture_id)
    recipe = recipe_of_entry(means, picture_id, based_on)
    said = ""
    for edit in edits:
        recipe, words = _done(means, facts, recipe, edit)
        said = words or said
    what = edit_words(edits[-1])

    def change(session: Session) -> T:
        picture = ledger.append(session, picture_id, based_on, recipe, what)
        return say(session, Kept(ledger.standing(session, picture), said))

    return means.database.write(change)


def go_back(means: Means, picture_id: int, based_on: int, entry_id: int, say: Say[Kept, T]) -> T:
    """Let the recipe of an earlier entry hold again, by a new entry."""

    def change(session: Session) -> T:
        wanted = ledger.entry_of_picture(session, picture_id, entry_id)
        recipe, what = ledger.recipe_of(wanted), f"back to: {wanted.what.removeprefix('back to: ')}"
        picture = ledger.append(session, picture_id, based_on, recipe, what)
        return say(session, Kept(ledger.standing(session, picture)))

    return means.database.write(change)


def add_version(
    means: Means, picture_id: int, based_on: int, edits: Edits, name: str, say: Say[Picture, T]
) -> T:
    """Begin another version of a picture, from an entry and edits of it."""
    facts, recipe = facts_of(means, picture_id), recipe_of_entry(means, picture_id, based_on)
    for edit in edits:
        recipe, _ = _done(means, facts, recipe, edit)
    what = edit_words(edits[-1]) if edits else "begun from another version"
    return means.database.write(
        lambda s: say(s, versions.add_version(s, picture_id, recipe, name, what))
    )


def undo(means: Means, picture_id: int, based_on: int, say: Say[Kept, T]) -> T:
    """Go back to the entry before; this needs no space on the disk."""
    return _moved(means, ledger.undo, picture_id, based_on, say)


def redo(means: Means, picture_id: int, based_on: int, say: Say[Kept, T]) -> T:
    """Go forward again to the newest entry after the present one."""
    return _moved(means, ledger.redo, picture_id, based_on, say)


def _moved(
    means: Means,
    move: Callable[[Session, int, int], Picture],
    picture_id: int,
    based_on: int,
    say: Say[Kept, T],
) -> T:
    def change(session: Session) -> T:
        picture = move(session, picture_id, based_on)
        return say(session, Kept(ledger.standing(session, picture)))

    return means.database.write(change, small=True)


def _done(means: Means, facts: Facts, recipe: Recipe, edit: Edit) -> tuple[Recipe, str]:
    """The recipe after an edit, with what it needs from the picture, and a sentence about it."""
    said, edit = "", _with_its_lens(means, facts, recipe, edit)
    if isinstance(edit, TypeAngle):
        said = understood_words(edit.axis, understood(edit, recipe, facts.photo))
    changed, wanted = apply(edit, recipe, facts.photo), to_fit(edit, recipe)
    if wanted:
        arguments = (facts.sha256, facts.photo, changed, wanted)
        changed = _by_the_pixels(means, facts, fitting.fit, *arguments)
        found = [r.fitted for r in changed.readings if r.id in wanted and r.fitted]
        if len(found) < len(wanted):
            said = fit_words(sum(f.stations for f in found), len(found), len(wanted))
    return knowing_edges(means, facts, changed), said


def led_to(means: Means, facts: Facts, recipe: Recipe, edits: Edits) -> Recipe:
    """The recipe that edits lead to, one after the other; nothing is fitted to the picture."""
    for edit in edits:
        recipe = apply(_with_its_lens(means, facts, recipe, edit), recipe, facts.photo)
    return recipe


def _with_its_lens(means: Means, facts: Facts, recipe: Recipe, edit: Edit) -> Edit:
    """An edit that names a lens, with what the database says of that; any other as it is."""
    if not isinstance(edit, UseLens):
        return edit
    with original_file(means, facts.sha256) as source:
        return looked_up(edit, recipe, facts.photo, source)


def knowing_edges(means: Means, facts: Facts, recipe: Recipe) -> Recipe:
    """The recipe with the straight edges of its picture, if it bends and does not have them yet."""
    if not lacks_edges(recipe):
        return recipe
    found = means.caches.edges.get(
        facts.sha256, lambda: _by_the_pixels(means, facts, fitting.edges, facts.sha256)
    )
    return with_edges(recipe, found)


def hold_guide(
    means: Means,
    picture_id: int,
    based_on: int,
    edits: Edits,
    direction: Direction,
    ends: tuple[Point, Point],
) -> HeldAgainst:
    """The angle between a guide and the edge under it in the corrected picture."""
    tried, facts = draft(means, picture_id, based_on, edits), facts_of(means, picture_id)
    arguments = (facts.sha256, facts.photo, tried.recipe, direction, ends)
    held: HeldAgainst = _by_the_pixels(means, facts, fitting.hold_guide, *arguments)
    return held


def _by_the_pixels(
    means: Means, facts: Facts, function: Callable[..., Any], *arguments: object
) -> Any:
    """What the hand waits for and needs the original's pixels."""
    needed_mb = facts.decoded_mb * 1.5
    return have_done(
        means, Lane.HAND, function, *arguments, about=facts.sha256, memory_mb=needed_mb
    )

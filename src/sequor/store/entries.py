"""What the ledger stores of a recipe; without the database, so that workers can make it too."""

import json

from pydantic import ValidationError

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.store.hashes import recipe_hash


def entry_columns(photo: PhotoFacts, recipe: Recipe, what: str) -> dict[str, object]:
    """What the ledger stores of a recipe: the one place where one is written.

    It is read back from what is written, and solved, before anything is kept.

    Raises
    ------
    UnusableInput
        When the recipe could not be read back, or cannot be solved.
    """
    stored = recipe.model_dump(mode="json")
    solution = solve(photo, _read_back(recipe, stored))
    return {
        "what": what[:200],
        "recipe": stored,
        "recipe_hash": recipe_hash(stored),
        "roll_deg": solution.stance.roll_deg,
        "lean_deg": solution.stance.lean_deg,
        "swing_deg": solution.stance.swing_deg,
        "kept_fraction": solution.kept_fraction,
        "framed": recipe.framed,
    }


def _read_back(recipe: Recipe, stored: dict[str, object]) -> Recipe:
    try:
        back = Recipe.model_validate_json(json.dumps(stored, allow_nan=False))
    except ValueError as problem:  # a validation error is one too
        raise UnusableInput(
            tr(
                "This recipe cannot be kept: {why_unreadable}. Nothing was changed.",
                why_unreadable=why_unreadable(problem),
            )
        ) from problem
    if back != recipe:
        raise UnusableInput(tr("This recipe cannot be kept as it is. Nothing was changed."))
    return back


def why_unreadable(problem: ValueError) -> str:
    """What is wrong with a stored recipe, in a few words: where, and what."""
    if not isinstance(problem, ValidationError):
        return str(problem).rstrip(".")
    first = problem.errors()[0]
    place = ".".join(map(str, first["loc"])) or "recipe"
    return f"{place}: {str(first['msg']).removeprefix('Value error, ')}"

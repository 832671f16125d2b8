"""What a screen needs to show a picture."""

from collections.abc import Mapping
from pathlib import Path

from sequor.core.recipe import Recipe
from sequor.core.report.files import file_words
from sequor.core.retelling import retold
from sequor.core.solution import Solution
from sequor.making.worker_cache import Developed
from sequor.pictures.proxy import PROXY_LONG_EDGE
from sequor.store.acting import Right, actor
from sequor.store.models import Original, Picture
from sequor.web.common_bodies import RightWord
from sequor.web.images import corrected_address, original_address
from sequor.web.pictures_bodies import Addresses, PictureFile, Shown

_RIGHTS: Mapping[Right, RightWord] = {
    Right.LOOK: "look",
    Right.WORK: "work",
    Right.EXPORT: "export",
    Right.OWN: "own",
}


def may_words(right: Right) -> list[RightWord]:
    """All that a right lets somebody do."""
    return [word for one, word in _RIGHTS.items() if one <= right]


def shown(picture: Picture, recipe_hash: str, recipe: Recipe, solution: Solution) -> Shown:
    """A picture with the solution of a recipe; ``recipe_hash`` names one that its ledger holds."""
    return Shown(
        file=file_of(picture),
        proxy_scale=proxy_scale(picture.original),
        addresses=addresses_of(picture.original_sha256, recipe_hash, recipe),
        solution=solution,
    )


def file_of(picture: Picture) -> PictureFile:
    """The original's file."""
    original = picture.original
    return PictureFile(
        name=picture.name,
        format=original.format,
        width=original.width,
        height=original.height,
        bits=original.bits,
        profile=retold(original.profile) if original.profile else None,
        focal35_mm=original.focal35_mm,
        byte_size=original.byte_size,
        taken_damaged=retold(original.taken_damaged or ""),
        remarks=list(file_words(original.remarks or ())),
        opened_from=_path_of(picture),
        inks="inks" in (original.remarks or ()),
    )


def _path_of(picture: Picture) -> str | None:
    """Where a file lies that stays there; only who looks after the machine sees the folder."""
    somebody, path = actor(), picture.opened_from
    if path is None or somebody is None or somebody.sees_everything:
        return path
    return Path(path).name


def proxy_scale(original: Original) -> float:
    """Pixels of the reduced picture for one of the original."""
    return min(1.0, PROXY_LONG_EDGE / max(original.width, original.height))


def addresses_of(sha256: str, recipe_hash: str, recipe: Recipe) -> Addresses:
    """Where images of an original with a recipe are."""
    developed = Developed.by(sha256, recipe)
    return Addresses(
        original=original_address(developed), corrected=corrected_address(sha256, recipe_hash)
    )

"""Images for the screen: asked of the engine, remembered, given up when nobody waits.

What they are made of and how is said in `making.previews` and `making.finishing`; here, how urgent
each is and what it needs.
"""

from dataclasses import dataclass, replace

from sequor.core.advance import Edits, advance
from sequor.core.frame.rectangle import Rectangle
from sequor.core.lens.distortion import Distortion
from sequor.core.recipe import Coefficients, PhotoFacts
from sequor.core.solve import solve
from sequor.making import finishing, previews
from sequor.making.finishing import Checked, FillFacts, Place
from sequor.making.kept import Corrected
from sequor.services.build import build
from sequor.services.lookups import PictureLookups
from sequor.services.means import Means
from sequor.services.pictures import Facts, facts_of_original
from sequor.services.working import Waits, have_done
from sequor.store.hashes import recipe_hash
from sequor.work.engine import Lane, Task

_SMALL_MB = 30.0
"""For a proxy and what is made of it."""
_VIEW, _FILLED, _FULL = 1.5, 2.5, 4.8
"""Memory of a view, a filled preview and a whole filled frame, in decoded originals (measured, the
last in tests/bench)."""
_ONE_FILL = "fill"
"""A fill takes all cores anyway; several at once would only be slower and need more memory."""


def proxy(means: Means, sha256: str) -> bytes:
    """The upright picture as shot, reduced for the screen."""
    facts = facts_of_original(means, sha256)
    path = means.files.proxy(sha256)
    if path.exists():
        return path.read_bytes()
    made: bytes = have_done(
        means,
        Lane.PREVIEW,
        previews.proxy,
        sha256,
        about=sha256,
        memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
        key=("proxy", sha256),
    )
    return made


def thumbnail(means: Means, what: Corrected, lane: Lane = Lane.PREVIEW) -> bytes:
    """The frame, small, as it would be exported."""
    path = means.files.thumbnail(build(), what.sha256, what.recipe_hash)
    if path.exists():
        return path.read_bytes()
    made: bytes = have_done(
        means,
        lane,
        previews.thumbnail,
        what,
        path,
        about=what.sha256,
        memory_mb=_SMALL_MB,
        key=("thumbnail", *what.key),
    )
    return made


def thumbnail_soon(means: Means, what: Corrected) -> None:
    """Have a thumbnail made when nobody waits for anything."""
    path = means.files.thumbnail(build(), what.sha256, what.recipe_hash)
    means.engine.submit(
        Task(
            previews.thumbnail,
            (means.kit, what, path),
            Lane.BACKGROUND,
            about=what.sha256,
            memory_mb=_SMALL_MB,
            key=("thumbnail", *what.key),
        )
    )


def source_tile(means: Means, sha256: str, column: int, row: int) -> bytes:
    """A square of source pixels as they are, for the loupe."""
    facts = facts_of_original(means, sha256)
    made: bytes = have_done(
        means,
        Lane.HAND,
        previews.source_tile,
        sha256,
        column,
        row,
        about=sha256,
        memory_mb=facts.decoded_mb * _VIEW,
        key=("tile", sha256, column, row),
    )
    return made


@dataclass(frozen=True)
class Lens:
    """A distortion as a solution names it; without a centre it is that of the picture."""

    polynomial: Coefficients
    tangential: tuple[float, float]
    centre: tuple[float | None, float | None]

    def on(self, photo: PhotoFacts) -> Distortion:
        """The distortion on a picture.

        Raises
        ------
        UnusableInput
            When it folds the picture over.
        """
        found = Distortion.of(photo, self.polynomial, self.tangential)
        x, y = self.centre
        if x is not None and y is not None:
            found = replace(found, centre=(x, y))
        found.check()
        return found


def undistorted(means: Means, sha256: str, lens: Lens, box: Rectangle, edge: int) -> bytes:
    """The picture as shot, freed of distortion; see `previews.undistorted`."""
    photo = facts_of_original(means, sha256).photo
    made: bytes = have_done(
        means,
        Lane.PREVIEW,
        previews.undistorted,
        sha256,
        photo,
        lens.on(photo),
        box,
        edge,
        about=sha256,
        memory_mb=3 * _SMALL_MB,
    )
    return made


def crisp_view(
    means: Means, what: Corrected, box: Rectangle, scale: float, nobody_waits: Waits
) -> bytes:
    """A part of the uncropped corrected picture, rendered from the original as an export is."""
    previews.check_view(box, scale)
    facts = facts_of_original(means, what.sha256)
    made: bytes = have_done(
        means,
        Lane.PREVIEW,
        previews.crisp_view,
        what,
        box,
        scale,
        about=what.sha256,
        memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
        key=("view", *what.key, box, scale),
        nobody_waits=nobody_waits,
    )
    return made


def filled_preview(
    means: Means,
    what: Corrected,
    edits: Edits,
    edge: int,
    quick: bool,
    nobody_waits: Waits,
) -> bytes:
    """The filled frame after some edits as a JPEG for the screen; see `finishing.filled_preview`.

    Raises
    ------
    GivenUp
        When nobody waits for it any more.
    """
    facts = facts_of_original(means, what.sha256)
    what = _after(means, facts, what, edits)
    key = ("filled", *what.key, edge, quick)
    found = means.caches.images.find(key)
    if found is None:
        made: bytes = have_done(
            means,
            Lane.PREVIEW,
            finishing.filled_preview,
            what,
            edge,
            quick,
            about=what.sha256,
            memory_mb=facts.decoded_mb * _FILLED + _SMALL_MB,
            alone=_ONE_FILL,
            key=key,
            nobody_waits=nobody_waits,
        )
        means.caches.images.put(key, made)
        return made
    return found


def _after(means: Means, facts: Facts, what: Corrected, edits: Edits) -> Corrected:
    """What it would be after some edits."""
    if not edits:
        return what
    lookups = PictureLookups(means, facts, fits=False)
    recipe = advance(what.photo, what.recipe, edits, lookups).recipe
    hashed = recipe_hash(recipe.model_dump(mode="json"))
    return replace(what, recipe=recipe, recipe_hash=hashed)


def fill_facts(means: Means, what: Corrected, nobody_waits: Waits) -> FillFacts:
    """What is filled, and where that is risky."""
    if solve(what.photo, what.recipe).cost.fill_fraction <= 0:
        return FillFacts((), (), ())
    facts = facts_of_original(means, what.sha256)
    found: FillFacts = have_done(
        means,
        Lane.PREVIEW,
        finishing.fill_facts,
        what,
        about=what.sha256,
        memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
        key=("facts", *what.key),
        nobody_waits=nobody_waits,
    )
    return found


def check(means: Means, what: Corrected, nobody_waits: Waits) -> Checked:
    """The frame rendered at full size as its file has it, every pixel counted."""
    facts = facts_of_original(means, what.sha256)
    found: Checked = have_done(
        means,
        Lane.PREVIEW,
        finishing.check,
        what,
        about=what.sha256,
        memory_mb=facts.decoded_mb * _FULL + _SMALL_MB,
        alone=_ONE_FILL,
        key=("check", *what.key),
        nobody_waits=nobody_waits,
    )
    for place, content in found.pieces.items():
        means.caches.images.put(("piece", *what.key, place), content)
    return found


def piece(means: Means, what: Corrected, place: Place, nobody_waits: Waits) -> bytes:
    """A corner, or a strip along an edge, of the full-size frame: real pixels as PNG."""
    found = means.caches.images.find(("piece", *what.key, place))
    return found if found is not None else check(means, what, nobody_waits).pieces[place]

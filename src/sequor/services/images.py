"""Images for the screen: asked of the engine, remembered, given up when nobody waits.

What they are made of and how is said in `making.previews` and `making.finishing`; here, how urgent
each is and what it needs.
"""

from dataclasses import dataclass, replace

from sequor.core.advance import Edits, advance
from sequor.core.corner_ways import WAYS
from sequor.core.frame.rectangle import Rectangle
from sequor.core.least_harm import HarmWeights, LeastHarm
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import Coefficients, PhotoFacts
from sequor.core.render.size import most_grown
from sequor.core.solve import solve
from sequor.making import finishing, previews
from sequor.making.finishing import Checked, FillFacts, Place
from sequor.making.worker_cache import Corrected, Developed
from sequor.services.build import build
from sequor.services.lookups import PictureLookups
from sequor.services.pictures import OriginalFacts, facts_of_original
from sequor.services.resources import Resources
from sequor.services.working import Waits, run_task
from sequor.store.hashes import recipe_hash
from sequor.work.engine import Lane, Task

_SMALL_MB = 30.0
"""For a proxy and what is made of it."""
_VIEW, _FILLED, _FULL = 1.5, 2.5, 4.8
"""Memory of a view, a filled preview and a whole filled frame, in decoded originals (measured, the
last in tests/bench)."""
_ONE_FILL = "fill"
"""A fill takes all cores anyway; several at once would only be slower and need more memory."""


def proxy(resources: Resources, which: Developed) -> bytes:
    """The upright picture as shot, reduced for the screen."""
    facts = facts_of_original(resources, which.sha256)
    path = resources.files.proxy(which.sha256, which.light)
    if path.exists():
        return path.read_bytes()
    made: bytes = run_task(
        resources,
        Task(
            previews.proxy,
            (which,),
            Lane.PREVIEW,
            about=which.sha256,
            memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
            key=("proxy", which),
        ),
    )
    return made


def thumbnail(resources: Resources, what: Corrected, lane: Lane = Lane.PREVIEW) -> bytes:
    """The frame, small, as it would be exported."""
    path = resources.files.thumbnail(build(), what.sha256, what.recipe_hash)
    if path.exists():
        return path.read_bytes()
    made: bytes = run_task(
        resources,
        Task(
            previews.thumbnail,
            (what, path),
            lane,
            about=what.sha256,
            memory_mb=_SMALL_MB,
            key=("thumbnail", *what.key),
        ),
    )
    return made


def thumbnail_soon(resources: Resources, what: Corrected) -> None:
    """Have a thumbnail made when nobody waits for anything."""
    path = resources.files.thumbnail(build(), what.sha256, what.recipe_hash)
    resources.engine.submit(
        Task(
            previews.thumbnail,
            (resources.task_resources, what, path),
            Lane.BACKGROUND,
            about=what.sha256,
            memory_mb=_SMALL_MB,
            key=("thumbnail", *what.key),
        )
    )


def source_tile(resources: Resources, which: Developed, column: int, row: int) -> bytes:
    """A square of source pixels as they are, for the loupe."""
    facts = facts_of_original(resources, which.sha256)
    made: bytes = run_task(
        resources,
        Task(
            previews.source_tile,
            (which, column, row),
            Lane.HAND,
            about=which.sha256,
            originals=(which.sha256,),
            memory_mb=facts.decoded_mb * _VIEW,
            key=("tile", which, column, row),
        ),
    )
    return made


@dataclass(frozen=True)
class ShownLens:
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


def undistorted(
    resources: Resources, which: Developed, lens: ShownLens, box: Rectangle, edge: int
) -> bytes:
    """The picture as shot, freed of distortion; see `previews.undistorted`."""
    photo = facts_of_original(resources, which.sha256).photo
    made: bytes = run_task(
        resources,
        Task(
            previews.undistorted,
            (which, photo, lens.on(photo), box, edge),
            Lane.PREVIEW,
            about=which.sha256,
            memory_mb=3 * _SMALL_MB,
        ),
    )
    return made


def crisp_view(
    resources: Resources, what: Corrected, box: Rectangle, scale: float, nobody_waits: Waits
) -> bytes:
    """A part of the uncropped corrected picture, rendered from the original as an export is."""
    previews.check_view(box, scale)
    facts = facts_of_original(resources, what.sha256)
    made: bytes = run_task(
        resources,
        Task(
            previews.crisp_view,
            (what, box, scale),
            Lane.PREVIEW,
            about=what.sha256,
            originals=(what.sha256,),
            memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
            key=("view", *what.key, box, scale),
        ),
        nobody_waits,
    )
    return made


def filled_preview(
    resources: Resources,
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
    facts = facts_of_original(resources, what.sha256)
    what = _after(resources, facts, what, edits)
    key = ("filled", *what.key, edge, quick)
    found = resources.caches.images.find(key)
    if found is None:
        made: bytes = run_task(
            resources,
            Task(
                finishing.filled_preview,
                (what, edge, quick),
                Lane.PREVIEW,
                about=what.sha256,
                originals=(what.sha256,),
                memory_mb=facts.decoded_mb * _FILLED + _SMALL_MB,
                alone=_ONE_FILL,
                key=key,
            ),
            nobody_waits,
        )
        resources.caches.images.put(key, made)
        return made
    return found


def framed(resources: Resources, what: Corrected, edge: int, nobody_waits: Waits) -> bytes:
    """The frame as it would be exported, for a screen: its longer side has at most so many pixels,
    and no more than its file.
    """
    if edge <= previews.THUMBNAIL_LONG_EDGE:
        return thumbnail(resources, what)
    solution = solve(what.photo, what.recipe)
    if solution.made_up:
        return filled_preview(resources, what, (), edge, True, nobody_waits)
    frame = solution.frame
    box = Rectangle(frame.x, frame.y, frame.width, frame.height)
    scale = min(1.0, edge / max(frame.width, frame.height))
    return crisp_view(resources, what, box, scale, nobody_waits)


def _after(resources: Resources, facts: OriginalFacts, what: Corrected, edits: Edits) -> Corrected:
    """What it would be after some edits."""
    if not edits:
        return what
    lookups = PictureLookups(resources, facts, fits=False)
    recipe = advance(what.photo, what.recipe, edits, lookups).recipe
    hashed = recipe_hash(recipe.model_dump(mode="json"))
    return replace(what, recipe=recipe, recipe_hash=hashed)


def fill_facts(resources: Resources, what: Corrected, nobody_waits: Waits) -> FillFacts:
    """What is filled, and where that is risky."""
    if not solve(what.photo, what.recipe).made_up:
        return FillFacts((), (), ())
    facts = facts_of_original(resources, what.sha256)
    found: FillFacts = run_task(
        resources,
        Task(
            finishing.fill_facts,
            (what,),
            Lane.PREVIEW,
            about=what.sha256,
            originals=(what.sha256,),
            memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
            alone=_ONE_FILL,
            key=("facts", *what.key),
        ),
        nobody_waits,
    )
    return found


def least_harm(
    resources: Resources, what: Corrected, weights: HarmWeights, nobody_waits: Waits
) -> LeastHarm:
    """The mixture of cropping, bending and filling of the corners that does the least harm."""
    facts = facts_of_original(resources, what.sha256)
    what = _after(resources, facts, what, (WAYS["bend"],))
    found: LeastHarm = run_task(
        resources,
        Task(
            finishing.least_harm_of,
            (what, weights),
            Lane.PREVIEW,
            about=what.sha256,
            originals=(what.sha256,),
            memory_mb=facts.decoded_mb * _VIEW + _SMALL_MB,
            alone=_ONE_FILL,
            key=("harm", weights, *what.key),
        ),
        nobody_waits,
    )
    return found


def check(resources: Resources, what: Corrected, nobody_waits: Waits) -> Checked:
    """The frame rendered at full size as its file has it, every pixel counted."""
    facts = facts_of_original(resources, what.sha256)
    found: Checked = run_task(
        resources,
        Task(
            finishing.check,
            (what,),
            Lane.PREVIEW,
            about=what.sha256,
            originals=(what.sha256,),
            memory_mb=facts.decoded_mb * _FULL * most_grown(what.recipe.frame) + _SMALL_MB,
            alone=_ONE_FILL,
            key=("check", *what.key),
        ),
        nobody_waits,
    )
    for place, content in found.pieces.items():
        resources.caches.images.put(("piece", *what.key, place), content)
    return found


def piece(resources: Resources, what: Corrected, place: Place, nobody_waits: Waits) -> bytes:
    """A corner, or a strip along an edge, of the full-size frame: real pixels as PNG."""
    found = resources.caches.images.find(("piece", *what.key, place))
    return found if found is not None else check(resources, what, nobody_waits).pieces[place]

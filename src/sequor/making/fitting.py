"""What the hand asks of the original's pixels: readings fitted to edges, a guide held to one, the
light of a grey spot.

Edges are read from a raw original as its camera developed it, whatever light is chosen: they lie
where they lie.
"""

from sequor.core.advance import fitted_readings
from sequor.core.edges.guide import HeldAgainst, edge_under_guide
from sequor.core.edits.base import Together
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Direction, Edges, Point, Recipe
from sequor.core.solve import solve
from sequor.core.white import Chromaticity
from sequor.making.worker_cache import Developed, TaskResources, check_original, original
from sequor.pictures import raw
from sequor.work.engine import TaskControl


def fit(
    control: TaskControl,
    resources: TaskResources,
    sha256: str,
    photo: PhotoFacts,
    recipe: Recipe,
    groups: tuple[Together, ...],
) -> Recipe:
    """A recipe with some of its readings fitted to the edges under them."""
    return fitted_readings(groups, recipe, photo, original(resources, Developed(sha256)).pixels)


def edges(control: TaskControl, resources: TaskResources, sha256: str) -> Edges:
    """The straight edges of an original, which bending keeps straight."""
    # OpenCV takes a while to load, and its threads must not be forked off.
    from sequor.core.propose.straight import straight_edges

    return straight_edges(original(resources, Developed(sha256)).pixels)


def grey_at(
    control: TaskControl, resources: TaskResources, sha256: str, point: Point
) -> Chromaticity:
    """The light under which a place of a raw original is grey."""
    path = resources.files.original(sha256)
    check_original(path, sha256)
    return raw.grey_at(path, point)


def check_light(
    control: TaskControl, resources: TaskResources, sha256: str, white: Chromaticity
) -> None:
    """Refuse a light that a raw original cannot be developed for."""
    raw.check_light(resources.files.original(sha256), white)


def hold_guide(
    control: TaskControl,
    resources: TaskResources,
    sha256: str,
    photo: PhotoFacts,
    recipe: Recipe,
    direction: Direction,
    ends: tuple[Point, Point],
) -> HeldAgainst:
    """The angle between a guide and the edge under it in the corrected picture."""
    warp = solve(photo, recipe).warp
    return edge_under_guide(original(resources, Developed(sha256)).pixels, warp, direction, ends)

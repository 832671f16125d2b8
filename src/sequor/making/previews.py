"""What the screen shows of a picture: proxies, thumbnails, tiles, crisp views."""

import math
from pathlib import Path

import pyvips

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.fill.apply import fill_roughly
from sequor.core.frame.rectangle import Rectangle
from sequor.core.language import tr
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.render.rendering import render_small, render_straight, render_view
from sequor.core.solve import solve
from sequor.making.worker_cache import (
    Corrected,
    Developed,
    TaskResources,
    original,
    read_original,
    reduced,
    worker_cache,
)
from sequor.pictures.encode import as_image
from sequor.pictures.proxy import (
    PROXY_LONG_EDGE,
    encode_preview,
    for_screen,
    make_proxy,
    pixels_of,
    tile,
)
from sequor.store.files import write_whole
from sequor.work.engine import TaskControl
from sequor.work.tracing import traced

THUMBNAIL_LONG_EDGE = 480
_MAX_VIEW_PX = 16_000_000
"""Pixels of the largest view: a screen of 5,120 x 2,880 has 15 million."""
_MAX_VIEW_SIDE = 16_000
_MAX_STRETCH = 8
"""Sides of the largest undistorted picture, in those of the picture."""


def proxy(control: TaskControl, resources: TaskResources, which: Developed) -> bytes:
    """The upright picture as shot, reduced for the screen, made again when its file is missing."""
    path = resources.files.proxy(which.sha256, which.light)
    if not path.exists():
        write_whole(path, make_proxy(read_original(resources, which, PROXY_LONG_EDGE)))
    return path.read_bytes()


def thumbnail(control: TaskControl, resources: TaskResources, what: Corrected, path: Path) -> bytes:
    """The frame, small, as it would be exported; kept at a path where there is room."""
    if path.exists():
        return path.read_bytes()
    solution = solve(what.photo, what.recipe)
    small = for_screen(
        pyvips.Image.thumbnail_buffer(
            proxy(control, resources, what.developed),
            THUMBNAIL_LONG_EDGE,
            height=THUMBNAIL_LONG_EDGE,
        ),
        None,
    )
    size = (what.photo.width, what.photo.height)
    rendered = render_small(small, solution, max(small.shape[:2]) / max(size)).pixels
    made = encode_preview(fill_roughly(rendered, solution, what.recipe, size))
    if resources.files.space.takes_files:
        write_whole(path, made)
    return made


def source_tile(
    control: TaskControl, resources: TaskResources, which: Developed, column: int, row: int
) -> bytes:
    """A square of source pixels as they are, for the loupe."""
    content = tile(original(resources, which), column, row)
    if content is None:
        raise NotFound(tr("There is no such place in the picture."))
    return content


def undistorted(
    control: TaskControl,
    resources: TaskResources,
    which: Developed,
    photo: PhotoFacts,
    distortion: Distortion,
    box: Rectangle,
    edge: int,
) -> bytes:
    """The picture as shot, freed of distortion, reduced for the screen.

    Parameters
    ----------
    box : Rectangle
        What it fills, in undistorted pixels: the box that the solution names.
    edge : int
        The longer side to make.
    """
    if max(box.width, box.height) > _MAX_STRETCH * max(photo.width, photo.height):
        raise UnusableInput(tr("The box is larger than any undistorted picture."))
    path = resources.files.proxy(which.sha256, which.light)
    pixels = worker_cache().proxies.get(path, lambda: pixels_of(proxy(control, resources, which)))
    share = pixels.shape[1] / photo.width
    scale = min(edge, PROXY_LONG_EDGE) / max(box.width, box.height)
    # The proxy's pixels are the source here; everything is measured in them.
    small = Rectangle(box.x * share, box.y * share, box.width * share, box.height * share)
    rendered = render_straight(pixels, distortion.scaled(share), small, scale / share)
    return encode_preview(rendered.pixels)


def check_view(box: Rectangle, scale: float) -> None:
    """Refuse a view that no screen could show."""
    sides = box.width * scale, box.height * scale
    if sides[0] * sides[1] > _MAX_VIEW_PX or max(sides) > _MAX_VIEW_SIDE:
        raise UnusableInput(tr("This part is larger than any screen; ask for a smaller one."))


def crisp_view(
    control: TaskControl, resources: TaskResources, what: Corrected, box: Rectangle, scale: float
) -> bytes:
    """A part of the uncropped corrected picture, rendered from the original as an export is."""
    check_view(box, scale)
    halvings = max(0, math.floor(-math.log2(scale)))
    pixels = reduced(resources, what.developed, halvings)
    solution = solve(what.photo, what.recipe)
    with traced("kernel", scale=scale):
        rendered = render_view(pixels, 0.5**halvings, solution, box, scale, control.cancelled)
    profile = original(resources, what.developed).profile
    return encode_preview(for_screen(as_image(rendered.pixels), profile))

"""Small sRGB versions of a picture, for the screen only."""

from typing import Any

import pyvips
from numpy.typing import NDArray

from sequor.core.pixels import Pixels
from sequor.core.render.alpha import is_transparent, premultiplied, unpremultiplied
from sequor.pictures.decode import DecodedPicture, as_pixels
from sequor.pictures.encode import as_image, on_white, to_8_bits

PROXY_LONG_EDGE = 2560
TILE_PX = 256
_QUALITY = 88


def make_proxy(picture: DecodedPicture, long_edge: int = PROXY_LONG_EDGE) -> bytes:
    """A JPEG of the upright picture in sRGB (IEC 61966-2-1), its longer side at most
    ``long_edge`` pixels; its pixels may be there at half the size of its facts.
    """
    width, height = picture.facts.width, picture.facts.height
    pixels = picture.pixels
    if is_transparent(pixels):  # laid on white before, so that nothing unseen is mixed in
        pixels = on_white(to_8_bits(pixels))
    image = as_image(pixels)
    scale = min(1.0, long_edge / max(width, height))
    if scale < 1:
        # The exact scale on both axes, so that proxy coordinates are a plain multiple of source
        # coordinates.
        image = image.resize(
            max(1, round(width * scale)) / image.width,
            vscale=max(1, round(height * scale)) / image.height,
            kernel="lanczos3",
        )
    return encode_preview(for_screen(image, picture.profile))


def for_screen(image: pyvips.Image, profile: bytes | None) -> Pixels:
    """Pixels in sRGB of an image in some profile."""
    if profile:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
        try:
            image = image.icc_transform("srgb", embedded=True, intent="relative", depth=8)
        except pyvips.Error:
            image.remove("icc-profile-data")  # an unreadable profile: show the numbers as sRGB
    return as_pixels(image)


def pixels_of(proxy: bytes) -> Pixels:
    """The pixels of a proxy's file, shape (height, width, channels)."""
    return for_screen(pyvips.Image.new_from_buffer(proxy, ""), None)


def halved(pixels: Pixels) -> Pixels:
    """Half the size, each pixel the mean of four; an odd last row or column stands for itself."""
    if is_transparent(pixels):
        return unpremultiplied(_halved(premultiplied(pixels)), pixels)
    return _halved(pixels)


def _halved(pixels: NDArray[Any]) -> NDArray[Any]:
    return as_pixels(as_image(pixels).shrink(2, 2, ceil=True))


def tile(picture: DecodedPicture, column: int, row: int) -> bytes | None:
    """A square of the original's own pixels as PNG in sRGB, or None outside the picture."""
    left, top = column * TILE_PX, row * TILE_PX
    patch = picture.pixels[top : top + TILE_PX, left : left + TILE_PX]
    if left < 0 or top < 0 or not patch.size:
        return None
    pixels = for_screen(as_image(patch), picture.profile)
    return bytes(as_image(on_white(to_8_bits(pixels))).pngsave_buffer(compression=1, keep="none"))


def encode_preview(pixels: Pixels) -> bytes:
    """An 8-bit JPEG of sRGB pixels, shape (height, width, channels), in memory."""
    return bytes(
        as_image(on_white(to_8_bits(pixels))).jpegsave_buffer(
            Q=_QUALITY, keep="none", optimize_coding=False
        )
    )

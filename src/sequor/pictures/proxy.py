"""Small sRGB versions of a picture, for the screen only."""

import pyvips

from sequor.core.resample import Pixels
from sequor.pictures.decode import Picture
from sequor.pictures.encode import as_image, on_white, to_8_bits

PROXY_LONG_EDGE = 2560
_QUALITY = 88


def make_proxy(picture: Picture, long_edge: int = PROXY_LONG_EDGE) -> bytes:
    """A JPEG of the upright picture in sRGB (IEC 61966-2-1), its longer side at most ``long_edge`` pixels."""
    height, width, _ = picture.pixels.shape
    image = as_image(picture.pixels)
    scale = min(1.0, long_edge / max(width, height))
    if scale < 1:
        # The exact scale on both axes, so that proxy coordinates are a plain multiple of source coordinates.
        image = image.resize(round(width * scale) / width, vscale=round(height * scale) / height, kernel="lanczos3")
    if picture.profile:
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", picture.profile)
        try:
            image = image.icc_transform("srgb", embedded=True, intent="relative", depth=8)
        except pyvips.Error:
            image.remove("icc-profile-data")  # an unreadable profile: show the numbers as sRGB
    return encode_preview(image.numpy())


def encode_preview(pixels: Pixels) -> bytes:
    """An 8-bit JPEG of sRGB pixels, shape (height, width, channels), in memory."""
    if pixels.ndim == 2:
        pixels = pixels[:, :, None]
    return bytes(as_image(on_white(to_8_bits(pixels))).jpegsave_buffer(Q=_QUALITY, keep="none", optimize_coding=False))

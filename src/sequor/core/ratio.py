"""Ratios as people write them."""

import re

from sequor.core.language import tr

USUAL_RATIOS = ("3:2", "4:3", "5:4", "7:5", "1:1", "16:9", "2:3", "3:4", "4:5", "5:7", "9:16")
"""The shapes that people name, lying and upright; common practice, no published source."""


def parse_ratio(text: str) -> float:
    """Width over height of a ratio as people write it: ``3:2``, ``5/7``, ``14.4x10.88``; raises
    ValueError when it is not one.
    """
    number = r"(\d+(?:[.,]\d+)?)"
    match = re.fullmatch(rf"\s*{number}\s*[:/x×]\s*{number}\s*", text, re.IGNORECASE)
    if not match:
        raise ValueError(
            tr("“{text}” is not a ratio; write original, free or W:H such as 3:2", text=text)
        )
    width, height = (float(match[side].replace(",", ".")) for side in (1, 2))
    if width <= 0 or height <= 0 or not 0.02 <= width / height <= 50:
        raise ValueError(
            tr(
                "{text} is not a usable ratio; neither side may exceed 50 times the other",
                text=text,
            )
        )
    return width / height

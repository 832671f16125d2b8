"""A TIFF of several pages: one of them as a file of its own."""

from pathlib import Path

import pyvips

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.tiff import page_places


def name_of_page(name: str, page: int) -> str:
    """What a page of a file is called: ``scan, page 2.tif``."""
    whole = Path(name)
    return tr("{stem}, page {page}{suffix}", stem=whole.stem, page=page, suffix=whole.suffix)


def write_page(source: Path, page: int, target: Path, name: str) -> None:
    """Write a page, counted from 1, as a TIFF with its pixels, profile and texts as they are.

    Raises
    ------
    UnusableInput
        When there is no such page, or it cannot be read.
    """
    try:
        places = page_places(source)
        if not 1 <= page <= len(places):
            raise UnusableInput(
                tr(
                    "{name} has no page {page}; there are {places}.",
                    name=name,
                    page=page,
                    places=len(places),
                )
            )
        image = pyvips.Image.tiffload(
            str(source), page=places[page - 1], access="sequential", fail_on="error"
        )
        predictor = "float" if image.format in ("float", "double") else "horizontal"
        image.tiffsave(str(target), compression="deflate", predictor=predictor, resunit="inch")
    except UnusableInput:
        raise
    except Exception as problem:  # a broken file fails in its own ways
        target.unlink(missing_ok=True)
        raise UnusableInput(
            tr("Page {page} of {name} cannot be read.", page=page, name=name)
        ) from problem

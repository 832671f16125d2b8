"""Load the demo pictures through the same door as an upload, once."""

import json
import logging
from pathlib import Path

from sqlalchemy import select

from sequor.core.recipe import PrintSize
from sequor.store import print_sizes
from sequor.store.library import create_set
from sequor.store.models import PictureSet
from sequor.web.context import Context
from sequor.web.intake import take_in

log = logging.getLogger(__name__)


def load_demo(means: Context, folder: Path) -> None:
    """Add the sets that ``sets.json`` in the demo folder lists, and a lab's print sizes; what is there already stays as it is."""
    with means.sessions.begin() as session:
        if not print_sizes.listed(session):
            for size in json.loads((folder / "lab-sizes.json").read_text()):
                print_sizes.add(session, size.pop("name"), PrintSize.model_validate(size))
    for listed in json.loads((folder / "sets.json").read_text()):
        with means.sessions.begin() as session:
            found = session.scalar(select(PictureSet).where(PictureSet.name == listed["name"]))
            set_id = (found or create_set(session, listed["name"])).id
        for name in listed["pictures"]:
            with (folder / "pictures" / name).open("rb") as stream:
                take_in(means.sessions, means.files, means.settings.max_megapixels, set_id, name, stream)

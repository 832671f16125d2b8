"""Load the demo pictures through the same door as an upload, once."""

import json
import logging
from functools import partial
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.print_size import PrintSize
from sequor.services.intake import take_in
from sequor.services.reply import Reply
from sequor.services.resources import Resources
from sequor.store import print_sizes
from sequor.store.library import create_set
from sequor.store.models import PictureSet

log = logging.getLogger(__name__)


def load_demo(resources: Resources, folder: Path) -> None:
    """Add the sets that ``sets.json`` in the demo folder lists, and a lab's print sizes.

    What is there already stays as it is.
    """

    def add_sizes(session: Session) -> None:
        if not print_sizes.listed(session):
            for size in json.loads((folder / "lab-sizes.json").read_text()):
                print_sizes.add(session, size.pop("name"), PrintSize.model_validate(size))

    def set_of(session: Session, name: str) -> int:
        found = session.scalar(select(PictureSet).where(PictureSet.name == name))
        return (found or create_set(session, name)).id

    resources.database.write(add_sizes)
    for listed in json.loads((folder / "sets.json").read_text()):
        set_id = resources.database.write(partial(set_of, name=listed["name"]))
        for name in listed["pictures"]:
            with (folder / "pictures" / name).open("rb") as stream:
                take_in(resources, set_id, name, stream, Reply(lambda taken: taken))

"""What a picture proposes itself, read off the original."""

from sequor.core.photo import PhotoFacts
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.propose.proposing import propose
from sequor.core.recipe import Recipe
from sequor.making.worker_cache import Developed, TaskResources, original
from sequor.work.engine import TaskControl


def read_picture(
    control: TaskControl,
    resources: TaskResources,
    sha256: str,
    photo: PhotoFacts,
    recipe: Recipe,
    want: Want,
) -> Proposal:
    """The proposal of an original; see `propose`."""
    return propose(original(resources, Developed(sha256)).pixels, photo, recipe, want)

"""What a worker works with, and what it keeps in memory from one task to the next."""

from dataclasses import dataclass, field
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.fill.judge import Judgement
from sequor.core.language import english, mark, tr
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import Recipe
from sequor.core.retelling import retold
from sequor.core.white import CHROMATICITY_PLACES, Chromaticity
from sequor.making.caches import ByteCache
from sequor.making.packed_plan import PackedPlan
from sequor.pictures.decode import DecodedPicture as Decoded
from sequor.pictures.decode import decode, first_look
from sequor.pictures.proxy import halved
from sequor.store.files import FileStore, content_hash
from sequor.work.engine import Lane
from sequor.work.tracing import send_to, traced

_MB = 2**20


class OriginalLost(UnusableInput):
    """The file of an original is gone, or is not what came in any more."""

    def __init__(self, sha256: str, how: str) -> None:
        super().__init__(sha256, how)
        self.sha256, self.how = sha256, how

    def __str__(self) -> str:
        return tr(
            "The original of this picture {how}. Its recipe and history are kept: add the same "
            "file again, and everything goes on as before.",
            how=retold(self.how),
        )

    def __reduce__(self) -> tuple[type["OriginalLost"], tuple[str, str]]:
        return OriginalLost, (self.sha256, self.how)


@dataclass(frozen=True)
class TaskResources:
    """Where files are, and how large a picture may be."""

    files: FileStore
    max_megapixels: float


@dataclass(frozen=True)
class Developed:
    """An original, and the light that a raw one is developed for; None what its camera chose."""

    sha256: str
    white: Chromaticity | None = None

    @classmethod
    def by(cls, sha256: str, recipe: Recipe) -> "Developed":
        """An original as a recipe has it developed."""
        return cls(sha256, recipe.white.chromaticity)

    @property
    def light(self) -> str:
        """A name of that light; empty for what its camera chose."""
        return ",".join(f"{part:.{CHROMATICITY_PLACES}f}" for part in self.white or ())


@dataclass(frozen=True)
class Corrected:
    """A recipe of an original: what everything that is shown of it is made from.

    Both are named by hashes of their content, so what is made from them never changes.
    """

    sha256: str
    recipe_hash: str
    photo: PhotoFacts
    recipe: Recipe

    @property
    def key(self) -> tuple[str, str]:
        """By which what was made of it is kept."""
        return self.sha256, self.recipe_hash

    @property
    def developed(self) -> Developed:
        """The original as the recipe has it developed."""
        return Developed.by(self.sha256, self.recipe)


@dataclass(frozen=True)
class DecodedOriginal:
    """An original in memory, with its halved versions, for views far from full size."""

    picture: Decoded
    halves: list[Pixels] = field(default_factory=list)


def _original_bytes(found: DecodedOriginal) -> int:
    floats = found.picture.floats
    return found.picture.pixels.nbytes * 4 // 3 + (floats.numbers.nbytes if floats else 0)


_JUDGED_BYTES = 12_000
"""Of what a fill was judged to be, with the recipe that it is of."""


class WorkerCache:
    """What a worker keeps, each kind with its share of the budget."""

    def __init__(self, budget_mb: float) -> None:
        budget = int(budget_mb * _MB)
        # Most of it for originals: the one on the bench is what everything is made from. Halved
        # versions add a third.
        self.originals: ByteCache[DecodedOriginal] = ByteCache(budget * 3 // 4, _original_bytes)
        self.plans: ByteCache[PackedPlan] = ByteCache(budget // 8, lambda plan: plan.nbytes)
        self.proxies: ByteCache[Pixels] = ByteCache(budget // 8, lambda pixels: pixels.nbytes)
        self.judgements: ByteCache[Judgement] = ByteCache(budget // 64, lambda _: _JUDGED_BYTES)


CACHING = (Lane.HAND, Lane.PREVIEW)
"""Lanes whose workers keep what they read: the hand comes back to the same picture, a batch of
exports does not."""
_cache = WorkerCache(0)


def prepare(lane: Lane, budget_mb: float, collector: str = "") -> None:
    """Say how much this process may keep, and where its traces go."""
    global _cache
    _cache = WorkerCache(budget_mb if lane in CACHING else 0)
    send_to(collector)


def worker_cache() -> WorkerCache:
    """What this process keeps."""
    return _cache


def original(resources: TaskResources, which: Developed) -> Decoded:
    """An original, decoded upright; its content is checked when it is read."""
    return _original(resources, which).picture


def reduced(resources: TaskResources, which: Developed, times: int) -> Pixels:
    """The pixels of an original halved so many times; each is the mean of those it covers."""
    found = _original(resources, which)
    halves = found.halves or [found.picture.pixels]
    while len(halves) <= times:
        halves.append(halved(halves[-1]))
    found.halves[:] = halves
    return halves[times]


def read_original(resources: TaskResources, which: Developed, edge: int | None = None) -> Decoded:
    """Read an original from its file, without keeping it.

    Parameters
    ----------
    edge : int, optional
        The longer side that is enough: a raw file may come at half its size then.

    Raises
    ------
    OriginalLost
        When the file is gone, or one of its bytes has changed.
    """
    path = resources.files.original(which.sha256)
    check_original(path, which.sha256)
    most, white = resources.max_megapixels, which.white
    with traced("decode", original=which.sha256):
        if edge is None:
            return decode(path, max_megapixels=most, stored=True, white=white)
        return first_look(path, path.name, most, edge, stored=True, white=white)


def check_original(path: Path, sha256: str) -> None:
    """Make sure that an original is there and is what came in; see `read_original`."""
    try:
        found = content_hash(path)
    except (FileNotFoundError, NotADirectoryError):
        raise OriginalLost(sha256, gone_from(path)) from None
    except OSError as problem:
        raise OriginalLost(
            sha256, english("cannot be read: {strerror}", strerror=problem.strerror)
        ) from problem
    if found != sha256:
        raise OriginalLost(sha256, english("was changed on the disk since it came in")) from None


GONE = "is gone from "


def gone_from(path: Path) -> str:
    """What is said of an original that is not there, by its place in the store."""
    folder = path.readlink().parent if path.is_symlink() else mark("the data folder")
    return english("is gone from {folder}", folder=folder)[:200]


def _original(resources: TaskResources, which: Developed) -> DecodedOriginal:
    path = resources.files.original(which.sha256)
    if not path.exists():
        raise OriginalLost(which.sha256, gone_from(path))
    return _cache.originals.get(
        (path, which), lambda: DecodedOriginal(read_original(resources, which))
    )

"""Originals are read again now and then, so that damage is known before an export needs them."""

from sequor.core.errors import Cancelled
from sequor.making.worker_cache import OriginalLost, TaskResources, check_original
from sequor.work.engine import TaskControl


def lost_originals(
    control: TaskControl, resources: TaskResources, hashes: tuple[str, ...]
) -> dict[str, str]:
    """Those whose file is gone or changed, each with what is wrong."""
    lost = {}
    for done, sha256 in enumerate(hashes, 1):
        if control.cancelled():
            raise Cancelled
        try:
            check_original(resources.files.original(sha256), sha256)
        except OriginalLost as problem:
            lost[sha256] = problem.how
        control.progress(done / len(hashes))
    return lost

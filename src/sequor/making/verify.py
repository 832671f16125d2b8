"""Originals are read again now and then, so that damage is known before an export needs them."""

from sequor.core.errors import Cancelled
from sequor.making.kept import Kit, OriginalLost, check_original
from sequor.work.engine import Told


def lost_originals(told: Told, kit: Kit, hashes: tuple[str, ...]) -> dict[str, str]:
    """Those whose file is gone or changed, each with what is wrong."""
    lost = {}
    for done, sha256 in enumerate(hashes, 1):
        if told.cancelled():
            raise Cancelled
        try:
            check_original(kit.files.original(sha256), sha256)
        except OriginalLost as problem:
            lost[sha256] = problem.how
        told.progress(done / len(hashes))
    return lost

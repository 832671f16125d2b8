"""The engine that an installation works with."""

from sequor.making.worker_cache import CACHING, prepare
from sequor.settings import Settings
from sequor.work.processes import CREWS, ProcessEngine

_WORKERS_SHARE = 0.75
"""Of the memory for what is kept; the rest is the server's (`web.app`)."""
_PRELOAD = "sequor.making.preload"


def engine_for(settings: Settings) -> ProcessEngine:
    """Processes on this machine; none is started before the first task."""
    workers = sum(CREWS[lane].workers for lane in CACHING)
    kept_mb = settings.cache_mb * _WORKERS_SHARE / workers
    return ProcessEngine(settings.work_mb, (prepare, (kept_mb,)), _PRELOAD)

"""The engine that an installation works with, and what its workers on other machines are."""

import os
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.making.worker_cache import CACHING, prepare
from sequor.services.build import build
from sequor.services.servers import OneServer, Servers
from sequor.settings import Settings
from sequor.store.files import FileStore
from sequor.work.dispatcher import Dispatcher, WorkPlace
from sequor.work.engine import Lane
from sequor.work.processes import CREWS, Crew, Processes

if TYPE_CHECKING:
    from sequor.work.far.board import Board
    from sequor.work.far.signed import Seal
    from sequor.work.far.worker import Node

_WORKERS_SHARE = 0.75
"""Of the memory for what is kept; the rest is the server's (`web.app`)."""
_PRELOAD = "sequor.making.preload"
_KEY_LETTERS = 16
_OWN_FOLDER = "worker"
NEAR = tuple(lane for lane in Lane if lane.at_screen)
FAR = tuple(lane for lane in Lane if not lane.at_screen)
"""Lanes that a worker has a process of its own for: what one waits for at a screen, and the rest;
no number of files takes the places of the first."""
_NEAR_SHARE = 0.4
"""Of a worker's memory for what one waits for at a screen."""


def engine_for(settings: Settings) -> Dispatcher:
    """Processes on this machine, and before them, if it is set up so, workers on any machine. None
    is started before the first task.

    Raises
    ------
    UnusableInput
        When what workers on other machines need is not set.
    """
    own = _processes(settings, CREWS, settings.work_mb)
    if settings.engine == "local":
        return Dispatcher([own])
    from sequor.making.freight import SentFreight
    from sequor.store.depot import Depot
    from sequor.work.far.place import FarPlace

    files = FileStore(settings.data, settings.reserve_mb)
    freight = SentFreight(files, Depot(settings.depot_address))
    address = redis_of(settings)
    places: list[WorkPlace] = [
        FarPlace(board_of(settings), address, seal_of(settings), freight),
        own,
    ]
    return Dispatcher(places)


def node_for(settings: Settings, lanes: Sequence[Lane]) -> "Node":
    """What takes tasks of some lanes from Redis and does them on this machine.

    Raises
    ------
    UnusableInput
        When what it needs is not set.
    """
    from sequor.making.freight import FetchingStore, FetchingWorkshop
    from sequor.store.depot import Depot
    from sequor.work.far.worker import Node

    crews = {lane: crew for lane, crew in crews_here().items() if lane in lanes}
    share = _NEAR_SHARE if Lane.HAND in lanes else 1 - _NEAR_SHARE
    depot = Depot(settings.depot_address)
    # Never the data folder itself: here originals are removed, to be fetched again.
    store = FetchingStore(settings.data / _OWN_FOLDER, settings.reserve_mb, depot)
    return Node(
        board_of(settings),
        seal_of(settings),
        FetchingWorkshop(store, depot, settings.depot_cache_mb),
        # How often a task may kill a process is counted where it comes from.
        Dispatcher([_processes(settings, crews, settings.work_mb * share)], tries=1),
        {lane: crew.workers for lane, crew in crews.items()},
    )


def crews_here() -> dict[Lane, Crew]:
    """The crews of a worker on this machine, by the cores that it may use."""
    cores = len(os.sched_getaffinity(0))
    most = {Lane.PREVIEW: 2, Lane.EXPORT: max(2, cores // 2)}
    return {
        lane: replace(crew, workers=most.get(lane, crew.workers)) for lane, crew in CREWS.items()
    }


def servers_of(settings: Settings) -> Servers:
    """What this server shares with others on the same data, where there may be any."""
    if not settings.may_be_several:
        return OneServer()
    from sequor.services.by_redis import ServersByRedis

    return ServersByRedis(redis_of(settings))


def board_of(settings: Settings) -> "Board":
    """The board of this installation's tasks."""
    from sequor.work.far.board import Board

    return Board(redis_of(settings), build())


def seal_of(settings: Settings) -> "Seal":
    """What signs and opens what goes to workers and comes back."""
    from sequor.work.far.signed import Seal

    key = settings.work_key.get_secret_value() if settings.work_key else ""
    if len(key) < _KEY_LETTERS:
        raise UnusableInput(
            tr(
                "SEQUOR_WORK_KEY must be set, with at least {letters} letters, and be the same for "
                "servers and workers: it signs what goes between them.",
                letters=_KEY_LETTERS,
            )
        )
    return Seal(key)


def redis_of(settings: Settings) -> str:
    """The address of the Redis by which tasks go."""
    if settings.redis_url is None:
        raise UnusableInput(
            tr("SEQUOR_REDIS must be set for that, such as redis://127.0.0.1:6379/0.")
        )
    return settings.redis_url


def _processes(settings: Settings, crews: Mapping[Lane, Crew], work_mb: float) -> Processes:
    workers = max(1, sum(CREWS[lane].workers for lane in CACHING))
    kept_mb = settings.cache_mb * _WORKERS_SHARE / workers
    return Processes(work_mb, (prepare, (kept_mb, settings.traces)), _PRELOAD, crews)

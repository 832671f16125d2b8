"""The queues of Celery: one for each lane and program, so that a worker of another program is not
even asked.

Messages are acknowledged when a task has ended, one is taken at a time, and what is urgent is taken
first. They carry a number and an attempt: everything else is on the board.
"""

from collections.abc import Sequence

from celery import Celery
from kombu import Queue

from sequor.work.engine import Lane

TASK = "sequor.work"
_UNSEEN_S = 6 * 3600
"""What a worker took and never acknowledged comes back after that. Its task was sent anew long
before, when the lease ran out, and this attempt of it counts no more."""


def queue_name(program: str, lane: Lane) -> str:
    """The queue of a lane."""
    return f"sequor.{program}.{lane.name.lower()}"


def celery_on(address: str, program: str, lanes: Sequence[Lane]) -> Celery:
    """Celery on Redis, for the queues of some lanes, the most urgent first."""
    app = Celery("sequor", broker=address, set_as_current=False)
    app.conf.update(
        task_acks_late=True,
        task_ignore_result=True,
        task_serializer="json",
        accept_content=["json"],
        worker_prefetch_multiplier=1,
        task_queues=[Queue(queue_name(program, lane)) for lane in sorted(lanes)],
        task_default_queue=queue_name(program, min(lanes)),
        task_create_missing_queues=False,
        broker_connection_retry_on_startup=True,
        broker_connection_max_retries=None,
        broker_transport_options={
            "visibility_timeout": _UNSEEN_S,
            "queue_order_strategy": "priority",
            "socket_timeout": 10,
            "socket_connect_timeout": 5,
        },
        worker_hijack_root_logger=False,
        worker_redirect_stdouts=False,
        worker_enable_remote_control=False,
        worker_send_task_events=False,
    )
    return app


def send(app: Celery, program: str, lane: Lane, number: str, attempt: int) -> None:
    """Have a worker take a task; raises kombu's OperationalError where Redis does not answer."""
    app.send_task(
        TASK,
        args=(number, attempt),
        queue=queue_name(program, lane),
        retry=False,
        ignore_result=True,
    )

"""Runs a worker: ``manage.py work``."""

import asyncio
import logging
import signal
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from procrastinate.contrib.django import app

from work.queues import BEHIND, CROWD, FRONT, HEARTBEAT, STALLED_AFTER, WATCH
from work.tasks import child_processes

log = logging.getLogger(__name__)
_AGAIN = 1.0
"""Seconds until a worker that stopped begins again."""
_GRACE = 2.0
"""Seconds that work may go on once the worker is asked to stop; then it is put back."""


class Command(BaseCommand):
    """``manage.py work``"""

    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        """How much goes on at once."""
        parser.add_argument("--concurrency", type=int, default=2, metavar="N")

    def handle(self, *args: Any, **options: Any) -> None:
        # it loads what children need while nobody waits yet, and before other threads run
        child_processes()
        connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]
        with app.replace_connector(connector):
            asyncio.run(_work(options["concurrency"]))


async def _work(concurrency: int) -> None:
    """What somebody waits for, what comes in numbers, what goes on behind, and the watch."""
    stopping = asyncio.Event()
    async with app.open_async():
        lanes = [
            asyncio.create_task(_lane(queues, at_once, stopping))
            for queues, at_once in (
                ([FRONT], 1),
                ([FRONT, CROWD], concurrency),
                ([BEHIND], 1),
                ([WATCH], 2),
            )
        ]

        def stop() -> None:
            stopping.set()
            for lane in lanes:
                lane.cancel()

        loop = asyncio.get_running_loop()
        for number in (signal.SIGTERM, signal.SIGINT):
            loop.add_signal_handler(number, stop)
        await asyncio.gather(*lanes, return_exceptions=True)


async def _lane(queues: list[str], at_once: int, stopping: asyncio.Event) -> None:
    """Work off some queues; begin again when the database was away, until asked to stop."""
    while not stopping.is_set():
        try:
            await app.run_worker_async(
                queues=queues,
                concurrency=at_once,
                shutdown_graceful_timeout=_GRACE,
                delete_jobs="successful",
                install_signal_handlers=False,
                update_heartbeat_interval=HEARTBEAT,
                stalled_worker_timeout=STALLED_AFTER,
            )
        except asyncio.CancelledError:
            if stopping.is_set():
                return
            raise
        except Exception:
            # whatever it was: a worker that ends for it would work off nothing
            log.exception("the worker of %s stopped", queues)
        if not stopping.is_set():
            await asyncio.sleep(_AGAIN)

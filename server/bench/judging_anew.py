"""What the queue does for the bench besides its jobs."""

from contextlib import suppress
from typing import Any

from django.db import close_old_connections, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from work.queues import WATCH

from .judging import judge_all


@app.task(name="judge_anew", queue=WATCH, queueing_lock="judge_anew")
def judge_anew() -> None:
    """Start judging every item whose verdict is by rules that hold no longer."""
    close_old_connections()
    judge_all()


@app.periodic(cron="*/10 * * * *")
@app.task(name="look_what_is_judged", queue=WATCH, queueing_lock="judge_anew")
def look_what_is_judged(timestamp: int) -> None:
    """Do so now and then, too: rules may have changed while no worker heard of it."""
    close_old_connections()
    judge_all()


def judge_anew_soon(**given: Any) -> None:
    """Do so once the change of the rules is through."""

    def defer() -> None:
        with suppress(AlreadyEnqueued):  # it looks at what holds when it begins
            judge_anew.defer()

    transaction.on_commit(defer)

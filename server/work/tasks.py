"""The queue: each job is a task and runs in a child process with limits.

A task may run twice: a job in a final state is left alone, and results are stored by content
and entered in one transaction together with the job's end.
"""

import logging
import multiprocessing
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache, partial
from pathlib import Path
from typing import Any, TypeVar

import pghistory
from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone
from procrastinate import JobContext
from procrastinate.contrib.django import app

from . import child
from .blobs import on_disk
from .models import Job
from .registry import NotEntered, Order, kind_of, modules

log = logging.getLogger(__name__)
_LOOK_AGAIN = 0.25
"""Seconds between looks at whether somebody asked for a stop."""
_TELL_EVERY = 0.4
"""Seconds between entries of the progress."""
_STALLED_AFTER = 30
"""Seconds without a heartbeat after which a worker counts as gone."""

SomeJob = TypeVar("SomeJob", bound=Job)


@cache
def _processes() -> Any:
    """The server that child processes are forked from, all they need loaded."""
    processes = multiprocessing.get_context("forkserver")
    processes.set_forkserver_preload(["work.preload", *modules()])
    return processes


def start(model: type[SomeJob], *, priority: int = 0, **fields: Any) -> SomeJob:
    """Enter a job and queue its task, once the surrounding transaction is through.

    Those of a lower priority wait until no others do.
    """
    job = model.objects.create(**fields)  # type: ignore[attr-defined]
    defer = run_job.configure(priority=priority).defer
    transaction.on_commit(partial(defer, job_id=job.pk))
    return job  # type: ignore[no-any-return]


def end(job: Job, state: Job.State, message: str = "") -> None:
    """End a job within the transaction that holds it."""
    job.state, job.message, job.finished = state, message, timezone.now()
    job.save()
    if state != Job.State.DONE:
        kind_of(job).not_done(job)


@app.task(name="run_job", queue="mesh", pass_context=True)
def run_job(context: JobContext, job_id: int) -> None:
    """Do a job, whatever its kind."""
    close_old_connections()
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(id=job_id).first()
        if job is None or job.state not in Job.OPEN:
            return
        if job.cancel_asked:
            end(job, Job.State.CANCELLED, "Stopped as asked; nothing was changed.")
            return
        job.tries += 1
        if job.tries > settings.JOB_TRIES:
            message = f"Given up after {settings.JOB_TRIES} tries: each time the worker died."
            end(job, Job.State.FAILED, message)
            return
        job.state, job.started, job.fraction = Job.State.RUNNING, timezone.now(), 0
        job.save()
    # what holds now: the result names it, though it be edited meanwhile
    order = kind_of(job).order(job)
    with tempfile.TemporaryDirectory(dir=_scratch(), prefix=f"job{job.id}-") as folder:
        state, answer = _in_child(job, order, Path(folder), context.should_abort)
        if state == "again":
            Job.objects.filter(id=job.id).update(state=Job.State.WAITING, tries=job.tries - 1)
            run_job.defer(job_id=job.id)
        elif state == "done":
            _enter(job.id, order, Path(folder), answer)
        else:
            with transaction.atomic():
                end(Job.objects.select_for_update().get(id=job.id), Job.State(state), answer)


def _enter(job_id: int, order: Order, folder: Path, answer: Any) -> None:
    """Store what a child made and end its job, both or neither."""
    try:
        with transaction.atomic(), _in_the_name_of(job_id):
            job = Job.objects.select_for_update().get(id=job_id)
            if job.state in Job.OPEN:
                kind_of(job).enter(job, order, folder, answer)
                end(job, Job.State.DONE)
    except NotEntered as why:
        with transaction.atomic():
            end(Job.objects.select_for_update().get(id=job_id), Job.State.REFUSED, str(why))


@contextmanager
def _in_the_name_of(job_id: int) -> Iterator[None]:
    """What a job enters is told in the trail as its maker's doing."""
    by = Job.objects.filter(id=job_id).values_list("made_by_id", flat=True).first()
    with pghistory.context(user=by, job=job_id):
        yield


def _scratch() -> Path:
    folder = Path(settings.DATA) / "scratch"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _in_child(
    job: Job, order: Order, folder: Path, stopping: Callable[[], bool]
) -> tuple[str, Any]:
    """Run the child and watch it; returns how it ended and its answer."""
    with on_disk(order.stored) as source:
        ours, theirs = _processes().Pipe(duplex=False)
        does, memory = kind_of(job).does, settings.JOB_MEMORY_BYTES
        process = _processes().Process(
            target=child.main, args=(theirs, does, source, folder, order.given, memory)
        )
        process.start()
        theirs.close()
        try:
            return _listen(job, ours, stopping)
        finally:
            process.kill()
            process.join()
            ours.close()


def _listen(job: Job, pipe: Any, stopping: Callable[[], bool]) -> tuple[str, Any]:
    last = time.monotonic() + settings.JOB_SECONDS
    told = asked = 0.0
    while True:
        if stopping():
            return "again", None
        if time.monotonic() > last:
            return "failed", (
                f"Stopped after {settings.JOB_SECONDS // 60} minutes, the most a job may take. "
                "Nothing was changed."
            )
        if time.monotonic() - asked > _LOOK_AGAIN:
            asked = time.monotonic()
            if Job.objects.filter(id=job.id, cancel_asked=True).exists():
                return "cancelled", "Stopped as asked; nothing was changed."
        if pipe.poll(_LOOK_AGAIN):
            try:
                message = pipe.recv()
            except EOFError:
                return "failed", (
                    "The work ended without a word, most likely for want of memory "
                    f"({settings.JOB_MEMORY_BYTES / 1e9:.1f} GB allowed). Nothing was changed."
                )
            if message[0] != "step":
                return message  # type: ignore[no-any-return]
            if time.monotonic() - told > _TELL_EVERY:
                told = time.monotonic()
                Job.objects.filter(id=job.id).update(step=message[1], fraction=message[2])


@app.periodic(cron="* * * * *")
@app.task(name="pick_up_stalled", queue="mesh", queueing_lock="pick_up_stalled", pass_context=True)
async def pick_up_stalled(context: JobContext, timestamp: int) -> None:
    """Queue again what a dead worker left behind."""
    stalled_jobs = await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_AFTER)
    for stalled in stalled_jobs:
        log.warning("taking up job %s again; its worker is gone", stalled.id)
        await app.job_manager.retry_job(stalled)

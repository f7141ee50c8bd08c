"""The queue: each job is a task and runs in a child process with limits.

A task may run twice: a job in a final state is left alone, and results are stored by content
and entered in one transaction together with the job's end.
"""

import errno
import logging
import multiprocessing
import os
import pwd
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from multiprocessing import forkserver
from pathlib import Path, PurePosixPath
from typing import Any, TypeVar

import pghistory
from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import close_old_connections, connection, transaction
from django.utils import timezone
from procrastinate import JobContext
from procrastinate.contrib.django import app

from . import child
from .blobs import Damaged, collect, on_disk
from .models import Job
from .outages import GONE, through_outages
from .queues import EVERY_FEW_SECONDS, FIRST, FRONT, STALLED_AFTER, STANDS_BACK, WATCH
from .registry import NotEntered, Order, kind_of, modules

log = logging.getLogger(__name__)
_LOOK_AGAIN = 0.25
"""Seconds between looks at whether somebody asked for a stop."""
_TELL_EVERY = 0.4
"""Seconds between entries of the progress."""
SomeJob = TypeVar("SomeJob", bound=Job)


_SECRET = ("IRONCAULK_DB", "IRONCAULK_SECRET_KEY", "IRONCAULK_S3", "AWS_")
"""How the names of settings begin that hostile files must not come near."""


@cache
def child_processes() -> Any:
    """The server that child processes are forked from, all they need loaded.

    It is a process of its own that never had the database's password or the secret key.
    """
    processes = multiprocessing.get_context("forkserver")
    processes.set_forkserver_preload([*modules(), "work.preload"])
    kept = {name: os.environ.pop(name) for name in list(os.environ) if name.startswith(_SECRET)}
    try:
        forkserver.ensure_running()
    finally:
        os.environ.update(kept)
    return processes


def start(model: type[SomeJob], **fields: Any) -> SomeJob:
    """Enter a job and queue its task, both in the surrounding transaction or neither.

    It waits where its kind does, unless ``queue`` says otherwise.
    """
    with transaction.atomic():
        job = model.objects.create(**fields)  # type: ignore[attr-defined]
        _queue(job)
    return job  # type: ignore[no-any-return]


def _queue(job: Job) -> None:
    """Queue a job where it waits, at first and again."""
    priority = FIRST if _is_first(job) else 0
    run_job.configure(queue=_queue_of(job), priority=priority).defer(job_id=job.pk)


def _queue_of(job: Job) -> str:
    return job.queue or kind_of(job).queue


def _is_first(job: Job) -> bool:
    """Whether somebody waits for it."""
    return _queue_of(job) == FRONT


def end(job: Job, state: Job.State, message: str = "") -> None:
    """End a job within the transaction that holds it."""
    job.state, job.message, job.finished = state, message, timezone.now()
    job.save()
    if state != Job.State.DONE:
        kind_of(job).not_done(job)


@app.task(name="run_job", queue=FRONT, pass_context=True)
def run_job(context: JobContext, job_id: int) -> None:
    """Do a job, whatever its kind; whatever happens, it ends."""
    close_old_connections()
    job = through_outages(lambda: _begin(job_id))
    if job is None:
        return
    try:
        _run(job, context)
    except Exception as fault:
        # the last line before a job that goes on for ever
        log.exception("job %s fell", job_id)
        words = _DAMAGED if isinstance(fault, Damaged) else child.OUR_FAULT
        words = child.NO_ROOM if _is_full(fault) else words
        through_outages(lambda: _end(job_id, Job.State.FAILED, words))


_DAMAGED = "A stored file was damaged on the server's disk; somebody has to look at it."


def _is_full(fault: BaseException) -> bool:
    return isinstance(fault, OSError) and fault.errno in (errno.ENOSPC, errno.EDQUOT)


def _begin(job_id: int) -> Job | None:
    """The job as running now; none if it has ended, or ends here."""
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(id=job_id).first()
        if job is None or job.state not in Job.OPEN:
            return None
        if job.cancel_asked:
            end(job, Job.State.CANCELLED, "Stopped as asked; nothing was changed.")
            return None
        job.tries += 1
        if job.tries > settings.JOB_TRIES:
            message = f"Given up after {settings.JOB_TRIES} tries: each time the worker died."
            end(job, Job.State.FAILED, message)
            return None
        job.state, job.started, job.fraction = Job.State.RUNNING, timezone.now(), 0
        job.step = job.message = ""
        job.save()
        return job


def _run(job: Job, context: JobContext) -> None:
    # what holds now: the result names it, though it be edited meanwhile
    order = through_outages(lambda: kind_of(job).order(job))
    with tempfile.TemporaryDirectory(dir=_scratch(), prefix=f"job{job.id}-") as folder:
        state, answer = _in_child(job, order, Path(folder), context.should_abort)
        if state == "again":
            through_outages(lambda: _put_back(job))
        elif state == "done":
            # what was computed is not lost while the database is away
            through_outages(lambda: _enter(job.id, order, Path(folder), answer))
        else:
            through_outages(lambda: _end(job.id, Job.State(state), answer))


def _put_back(job: Job) -> None:
    with transaction.atomic():
        Job.objects.filter(id=job.id).update(state=Job.State.WAITING, tries=job.tries - 1)
        _queue(job)


def _end(job_id: int, state: Job.State, message: str) -> None:
    """End a job that has not ended: a final state stays final."""
    with transaction.atomic():
        job = Job.objects.select_for_update().get(id=job_id)
        if job.state in Job.OPEN:
            end(job, state, message)


def _enter(job_id: int, order: Order, folder: Path, answer: Any) -> None:
    """Store what a child made and end its job, both or neither."""
    try:
        with transaction.atomic(), _in_the_name_of(job_id):
            job = Job.objects.select_for_update().get(id=job_id)
            if job.state in Job.OPEN:
                kind_of(job).enter(job, order, folder, answer)
                end(job, Job.State.DONE)
    except NotEntered as why:
        _end(job_id, Job.State.REFUSED, str(why))


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
    user = _child_user()
    source = f"source{PurePosixPath(order.stored).suffix}"
    for name, stored in {source: order.stored, **order.also}.items():
        _put_into(folder / name, stored)
    if user is not None:
        os.chown(folder, *user)
    ours, theirs = child_processes().Pipe(duplex=False)
    does, memory = kind_of(job).does, settings.JOB_MEMORY_BYTES
    nice = 0 if _is_first(job) else STANDS_BACK
    process = child_processes().Process(
        target=child.main,
        args=(theirs, does, folder, source, order.given, memory, user, nice),
    )
    process.start()
    theirs.close()
    try:
        return _listen(job, ours, stopping)
    finally:
        process.kill()
        process.join()
        ours.close()


def _put_into(path: Path, stored: str) -> None:
    """Give a child's folder a file that it works on."""
    with on_disk(stored) as source:
        try:
            os.link(source, path)
        except OSError:  # another disk, or one without links
            shutil.copyfile(source, path)
        if not path.stat().st_mode & 0o004:
            path.chmod(0o644)  # a copy from elsewhere; what is stored is readable


def _child_user() -> tuple[int, int] | None:
    """User and group that reads strangers' files where the worker is root."""
    if os.geteuid() != 0:
        return None
    found = pwd.getpwnam(settings.JOB_USER)
    return found.pw_uid, found.pw_gid


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
            if _cancel_asked(job):
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
                _tell(job, message[1], message[2])


def _cancel_asked(job: Job) -> bool:
    """Whether somebody asked for a stop; nobody could while the database is away."""
    try:
        return Job.objects.filter(id=job.id, cancel_asked=True).exists()
    except GONE:
        connection.close()
        return False


def _tell(job: Job, step: str, fraction: float) -> None:
    """Enter the progress; of no weight while the database is away."""
    try:
        Job.objects.filter(id=job.id).update(step=step, fraction=fraction)
    except GONE:
        connection.close()


@app.periodic(cron=EVERY_FEW_SECONDS)
@app.task(name="pick_up", queue=WATCH, queueing_lock="pick_up", pass_context=True)
async def pick_up(context: JobContext, timestamp: int) -> None:
    """Queue again what a dead worker left behind, and what is in no queue though it is open."""
    for stalled in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
        log.warning("taking up job %s again; its worker is gone", stalled.id)
        job_id = stalled.task_kwargs.get("job_id")
        if isinstance(job_id, int):
            await sync_to_async(_waits_again)(job_id)
        await app.job_manager.retry_job(stalled)
    await sync_to_async(queue_what_is_in_none)()


def _waits_again(job_id: int) -> None:
    """A job whose worker is gone waits again, and says so."""
    Job.objects.filter(id=job_id, state=Job.State.RUNNING).update(
        state=Job.State.WAITING, step="", message="Its worker is gone; another takes it up."
    )


@app.periodic(cron="17 3 * * *")
@app.task(name="collect_blobs", queue=WATCH, queueing_lock="collect_blobs")
def collect_blobs(timestamp: int) -> None:
    """Remove stored files that nothing refers to any more, once a night."""
    close_old_connections()
    for path in collect():
        log.info("nothing refers to %s any more", path)


_IN_NO_QUEUE = """
select job.id from work_job job
where job.state in ('waiting', 'running') and job.created < now() - interval '10 seconds'
and not exists (
    select 1 from procrastinate_jobs queued
    where queued.task_name = 'run_job' and queued.status in ('todo', 'doing')
    and (queued.args ->> 'job_id')::bigint = job.id
)
"""


def queue_what_is_in_none() -> list[int]:
    """Queue open jobs that no queue knows, as after a fault in the worker itself."""
    with connection.cursor() as cursor:
        cursor.execute(_IN_NO_QUEUE)
        lost = [row[0] for row in cursor.fetchall()]
    for job in Job.objects.filter(id__in=lost):
        log.warning("job %s was in no queue", job.id)
        with transaction.atomic():
            _waits_again(job.id)
            _queue(job)
    return lost

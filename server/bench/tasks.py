"""Long work: each job is a task in the queue and runs in a child process with limits.

A task may run twice: a job in a final state is left alone, and results are stored by content
and entered in one transaction together with the job's end.
"""

import logging
import multiprocessing
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from caulkcore.kinds import KINDS_BY_MATERIAL
from caulkcore.shop import Shop
from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone
from materials.models import Machine, Material, ShopSettings
from procrastinate import JobContext
from procrastinate.contrib.django import app

from bench import child
from bench.files import keep_file, on_disk
from bench.models import Job, Revision

log = logging.getLogger(__name__)
KEPT_BY_SHOP = "kept, as the shop has settled"
_LOOK_AGAIN = 0.25
_TELL_EVERY = 0.4

_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(["bench.preload"])


def start(**fields: Any) -> Job:
    """Enter a job and queue its task, once the surrounding transaction is through."""
    job = Job.objects.create(**fields)
    transaction.on_commit(partial(run_job.defer, job_id=job.id))
    return job


@app.task(name="run_job", queue="mesh", pass_context=True)
def run_job(context: JobContext, job_id: int) -> None:
    """Do a job, whatever its kind."""
    close_old_connections()
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(id=job_id).first()
        if job is None or job.state not in Job.OPEN:
            return
        if job.cancel_asked:
            _end(job, Job.State.CANCELLED, "Stopped as asked; nothing was changed.")
            return
        job.tries += 1
        if job.tries > settings.JOB_TRIES:
            message = f"Given up after {settings.JOB_TRIES} tries: each time the worker died."
            _end(job, Job.State.FAILED, message)
            return
        job.state, job.started, job.fraction = Job.State.RUNNING, timezone.now(), 0
        job.save()
    # the rules as they hold now; the result names these, though they be edited meanwhile
    material, shop = job.material, ShopSettings.now()
    with tempfile.TemporaryDirectory(dir=_scratch(), prefix=f"job{job.id}-") as folder:
        state, answer = _in_child(job, material, shop, Path(folder), context.should_abort)
        if state == "again":
            Job.objects.filter(id=job.id).update(state=Job.State.WAITING, tries=job.tries - 1)
            run_job.defer(job_id=job.id)
        elif state == "done":
            _enter(job, material, shop, Path(folder), answer)
        else:
            with transaction.atomic():
                _end(Job.objects.select_for_update().get(id=job.id), Job.State(state), answer)


def _scratch() -> Path:
    folder = Path(settings.DATA) / "scratch"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _in_child(
    job: Job, material: Material, shop: Shop, folder: Path, stopping: Callable[[], bool]
) -> tuple[str, Any]:
    """Run the child and watch it; returns how it ended and its answer."""
    sheets = list(Material.objects.exclude(rules=None).values_list("rules", flat=True))
    machines = [
        {"name": one.name, "process": one.process, "sides": [one.x, one.y, one.z]}
        for one in Machine.objects.all()
    ]
    rules = {
        "sheet": material.rules,
        "sheets": sheets,
        "shop": shop.as_json(),
        "machines": machines,
    }
    given = {**job.parameters, **rules}
    if job.base is None:
        stored, given["file_name"] = job.item.received_path, job.item.file_name
    else:
        stored, given["unit"] = job.base.mesh_path, job.base.unit
    with on_disk(stored) as source:
        ours, theirs = _processes.Pipe(duplex=False)
        process = _processes.Process(
            target=child.main,
            args=(theirs, job.kind, source, folder, given, settings.JOB_MEMORY_BYTES),
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
    end = time.monotonic() + settings.JOB_SECONDS
    told = asked = 0.0
    while True:
        if stopping():
            return "again", None
        if time.monotonic() > end:
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
                return message
            if time.monotonic() - told > _TELL_EVERY:
                told = time.monotonic()
                Job.objects.filter(id=job.id).update(step=message[1], fraction=message[2])


def _end(job: Job, state: Job.State, message: str) -> None:
    job.state, job.message, job.finished = state, message, timezone.now()
    job.save()
    if job.kind == Job.Kind.RECEIVE and state in (Job.State.REFUSED, Job.State.FAILED):
        job.item.problem = message
        job.item.save(update_fields=["problem"])


def _enter(job: Job, material: Material, shop: Shop, folder: Path, answer: dict[str, Any]) -> None:
    """Store what the child made and end the job, all or nothing."""
    if job.kind == Job.Kind.RELEASE:
        from dispatch.release import enter

        with transaction.atomic():
            enter(job, folder, answer)
            _end(job, Job.State.DONE, "")
        return
    soundings = folder / "soundings"
    fields = {
        "mesh_path": keep_file(folder / "mesh.npz", ".npz"),
        "skin_path": keep_file(folder / "skin", ".skin"),
        "marks_path": keep_file(folder / "marks", ".marks"),
        "soundings_path": keep_file(soundings, ".soundings") if soundings.exists() else "",
        "material": material,
        "rules": material.rules,
        "report": answer["report"],
        "unit": answer["unit"],
        "account": answer.get("account"),
        "steps": answer.get("steps", []),
        "left": answer.get("left", []),
    }
    with transaction.atomic():
        job = Job.objects.select_for_update().get(id=job.id)
        if job.state not in Job.OPEN:
            return
        item = job.item
        last = item.revisions.order_by("-number").values_list("number", flat=True).first()
        item.current = Revision.objects.create(
            item=item,
            number=0 if last is None else last + 1,
            parent=job.base,
            operation=job.parameters.get("operation", job.kind),
            title=job.title,
            parameters=job.parameters.get("parameters", {}),
            made_by=job.made_by,
            **fields,
        )
        item.problem = ""
        if item.material != material:
            # what was accepted in one material was not accepted in another
            item.waivers.filter(kind__in=KINDS_BY_MATERIAL).delete()
            item.material = material
        item.save(update_fields=["current", "problem", "material"])
        _accept(item.current, shop)
        _end(job, Job.State.DONE, "")


def _accept(revision: Revision, shop: Shop) -> None:
    """Accept what the shop keeps without a question, unless a person has said something to it."""
    found = {f["kind"] for f in revision.report["findings"] if f["severity"] == "call"}
    for kind in found.intersection(shop.accepted):
        revision.item.waivers.get_or_create(
            kind=kind, defaults={"reason": KEPT_BY_SHOP, "revision": revision, "at": timezone.now()}
        )


@app.periodic(cron="* * * * *")
@app.task(name="pick_up_stalled", queue="mesh", queueing_lock="pick_up_stalled", pass_context=True)
async def pick_up_stalled(context: JobContext, timestamp: int) -> None:
    """Queue again what a dead worker left behind."""
    for stalled in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=30):
        log.warning("taking up job %s again; its worker is gone", stalled.id)
        await app.job_manager.retry_job(stalled)

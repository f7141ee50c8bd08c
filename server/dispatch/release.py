"""Entering a release: the file as written and read back, and the letter that goes with it."""

from pathlib import Path
from typing import Any

from bench.models import ItemJob, Revision
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from orders.models import Item
from work.blobs import keep_file
from work.models import Job
from work.registry import Order, WorkKind, register

from .models import Release


def delivered_name(item: Item, revision: Revision, form: str) -> str:
    """A file name that says what it is, without spaces."""
    words = [item.order.number, slugify(item.name) or "item", item.material.key]
    return "_".join([*words, f"{item.quantity}x", f"r{revision.number}"]) + f".{form}"


def lineage(revision: Revision) -> list[Revision]:
    """The revisions that led to one, from the file as received on."""
    chain = [revision]
    while chain[-1].parent is not None:
        chain.append(chain[-1].parent)
    return chain[::-1]


def register_kinds() -> None:
    """Make releasing known to the queue."""
    register(WorkKind(ItemJob.Kind.RELEASE, "dispatch.writing:write_and_check", order, enter))


def order(job: Job) -> Order:
    """The revision to write."""
    revision = job.itemjob.base
    assert revision is not None, "only a revision is released"
    return Order(revision.mesh_path, job.parameters)


def enter(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store the written file and its letter."""
    job = job.itemjob
    item, revision = job.item, job.base
    assert revision is not None
    form = job.parameters["format"]
    path = folder / f"delivered.{form}"
    size = path.stat().st_size
    chain = lineage(revision)
    report = answer["report"]
    letter = render_to_string(
        "dispatch/letter.html",
        {
            "item": item,
            "order": item.order,
            "received": chain[0],
            "changes": chain[1:],
            "revision": revision,
            "report": report,
            "volume_cm3": report["volume_mm3"] / 1000,
            "area_cm2": report["area_mm2"] / 100,
            "megabytes": size / 1e6,
            "file_name": delivered_name(item, revision, form),
            "waivers": item.waivers.all(),
            "by": job.made_by,
            "at": timezone.localtime(),
        },
    )
    Release.objects.create(
        item=item,
        revision=revision,
        format=form,
        file_name=delivered_name(item, revision, form),
        file_path=keep_file(path, f".{form}"),
        file_bytes=size,
        report=report,
        letter=letter,
        by=job.made_by,
    )

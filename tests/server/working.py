"""Doing what a worker does, and what a person does who looks at an item, within a test."""

import os
import sys
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from dispatch.release import rests_on
from django.conf import settings
from django.db import connection
from orders.models import Item
from work import tasks
from work.models import Job

ROOT = Path(__file__).resolve().parents[2]
# what runs the whole is tried, too
sys.path.insert(0, str(ROOT / "tools"))


def of_this_test(**more: str) -> dict[str, str]:
    """The environment of real workers and web servers on a test's own database and files."""
    return {
        **os.environ,
        "IRONCAULK_DB": connection.settings_dict["NAME"],
        "IRONCAULK_DB_PORT": str(connection.settings_dict["PORT"]),
        "IRONCAULK_DB_PASSWORD": connection.settings_dict["PASSWORD"],
        "IRONCAULK_DATA": str(settings.DATA),
        "PYTHONPATH": os.pathsep.join([str(ROOT / "core"), str(ROOT / "server")]),
        **more,
    }


TEXT = {"opening": "Checked.", "found": "", "changed": "", "accepted": ""}
"""A letter as short as can be."""


def work(job_id: int | None = None, stop=lambda: False) -> Job:
    """Run the open job, or a given one, in a real child process."""
    job = Job.objects.get(id=job_id) if job_id else Job.objects.filter(state__in=Job.OPEN).get()
    tasks.run_job.func(SimpleNamespace(should_abort=stop), job.id)
    job.refresh_from_db()
    return job


def do(shop, item: int, what: str, **given: Any):
    """Ask for a change of an item as it is now, as somebody does who has just looked at it."""
    given.setdefault("revision", Item.objects.get(pk=item).workpiece.current_id)
    return shop.client.post(f"/api/items/{item}/{what}", given, format="json")


def mend(shop, item: int):
    return do(shop, item, "mend")


def operate(shop, item: int, operation: str, **parameters: Any):
    return do(shop, item, "operate", operation=operation, parameters=parameters)


def release(shop, item: int, form: str = "stl", **letter: str):
    read = rests_on(Item.objects.get(pk=item))
    return do(shop, item, "release", format=form, letter={**TEXT, **letter}, rests_on=read)


def accept(shop, item: int, kind: str, reason: str = "wanted so", places=None, **given: Any):
    """Accept places of a kind, all by default."""
    found = finding(item, kind)
    listed = len(found["spots"]) if found else 1
    judged = Item.objects.get(pk=item).workpiece.examination_id
    body = {"kind": kind, "reason": reason, "places": places, "listed": listed}
    body = {"examination": judged, **body, **given}
    return do(shop, item, "decisions", **body)


def report_of(item: int) -> dict[str, Any]:
    """What was found on the revision that holds."""
    return Item.objects.get(pk=item).workpiece.examination.report


def finding(item: int, kind: str) -> dict[str, Any] | None:
    return next((f for f in report_of(item)["findings"] if f["kind"] == kind), None)


def kinds(item: int) -> set[str]:
    return {f["kind"] for f in report_of(item)["findings"]}

"""Entering a release: the file as written and read back, and the letter that goes with it."""

from pathlib import Path
from typing import Any

from bench.decisions import Accepted, Held
from bench.kinds import judged_by, pieces_of
from bench.models import ItemJob, Revision, Workpiece
from bench.piece_names import names_of
from bench.standard import Standard
from caulkjob.accepted_places import STAYS_APART
from django.utils import timezone
from django.utils.text import slugify
from orders.models import Item
from work.blobs import keep_file
from work.models import Job
from work.registry import NotEntered, Order, WorkKind, register

from .letter import LetterText, page
from .models import Release
from .rules import blocked_by

_CHANGED = "Somebody changed something about this item while it was written; look at it again."


def delivered_name(item: Item, revision: Revision, form: str) -> str:
    """A file name that says what it is, without spaces."""
    words = [item.order.number, slugify(item.name) or "item", item.material.key]
    return "_".join([*words, f"{item.quantity}x", f"r{revision.number}"]) + f".{form}"


def register_kinds() -> None:
    """Make releasing known to the queue."""
    register(WorkKind(ItemJob.Kind.RELEASE, "dispatch.writing:write_and_check", order, enter))


def order(job: Job) -> Order:
    """The revision to write, with the rules and decisions that the file is held against."""
    job = job.itemjob
    revision, standard = job.base, Standard.now()
    assert revision is not None, "only a revision is released"
    held = Held.of(job.item)
    given = {
        **job.parameters,
        **judged_by(job.item.material, standard),
        **pieces_of(job),
        "accepted": held.accepted(),
        "piece_names": sorted(names_of(job.item).items()),
    }
    return Order(revision.mesh_path, given, (standard.of(job.item.material), _keys(held)))


def _keys(held: Held) -> list[list[int]]:
    """The acceptances that hold, by key of the decision and index of the place."""
    every = [one for chosen in held.by_kind.values() for one in chosen]
    return sorted([one.decision.pk, one.index] for one in every)


def relied_on(item: Item, report: dict[str, Any]) -> list[Accepted]:
    """The acceptances that a release of an item rests on: those of what is found on it."""
    held = Held.of(item)
    told: dict[tuple[int, int], Accepted] = {}
    for finding in report["findings"]:
        for one in held.covering(finding, report.get("pieces", ())):
            if one is not None:
                told[one.decision.pk, one.index] = one
    for one in held.by_kind.get(STAYS_APART, []):
        told[one.decision.pk, one.index] = one
    return [told[key] for key in sorted(told)]


def rests_on(item: Item) -> str:
    """The examination that holds and the last decision: what a person has read a release by."""
    last = max((one.pk for one in item.decisions.all()), default=0)
    return f"{item.workpiece.examination_id} {last}"


def enter(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store the written file and its letter, if all that it rests on still holds."""
    job = job.itemjob
    piece = Workpiece.objects.select_for_update().get(item=job.item)
    item = Item.objects.select_related("order__customer", "material", "workpiece").get(
        pk=job.item_id
    )
    revision = job.base
    standard, decisions = order.context
    assert revision is not None
    now = Standard.now()
    same = piece.current_id == revision.pk and standard == now.of(item.material)
    if not same or decisions != _keys(Held.of(item)) or blocked_by(item, now):
        raise NotEntered(_CHANGED)
    form = job.parameters["format"]
    path = folder / f"delivered.{form}"
    size = path.stat().st_size
    report = answer["report"]
    name = delivered_name(item, revision, form)
    assert piece.examination is not None
    relied = relied_on(item, piece.examination.report)
    letter = page(
        item,
        LetterText.of(job.parameters["letter"]),
        revision=revision,
        report=report,
        walls=report["thinnest"],
        file_name=name,
        file_bytes=size,
        by=job.made_by,
        at=timezone.localtime(),
    )
    Release.objects.create(
        item=item,
        revision=revision,
        material=item.material.key,
        format=form,
        file_name=name,
        file_path=keep_file(path, f".{form}"),
        file_bytes=size,
        report=report,
        standard=standard,
        decisions=[{"decision": one.decision.pk, "place": one.index} for one in relied],
        letter=letter,
        by=job.made_by,
    )

"""Keeping the verdict of each item fresh, behind everything else that goes on."""

from django.db import transaction
from django.db.models import Count, Q
from orders.models import Item
from work.tasks import start

from .models import Examination, ItemJob, Workpiece
from .standard import Standard


def hold_examination(piece: Workpiece) -> None:
    """Let the last examination of the current revision hold, in the ordered material if any is."""
    current = piece.current
    piece.examination = current.judged_in(piece.item.material_id) if current else None
    piece.save(update_fields=["examination"])


def is_judged(examination: Examination, item: Item, standard: Standard) -> bool:
    """Whether all questions were asked by what holds now."""
    if standard.outdated(examination, item.material):
        return False
    return all(one.get("reason") != "not-measured" for one in examination.brief["unasked"])


def judge_if_needed(item: Item, standard: Standard | None = None) -> ItemJob | None:
    """Start judging the current revision by what holds now, unless that is done or under way."""
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=item)
        if piece.current is None or piece.examination is None:
            return None
        item = Item.objects.select_related("material").get(pk=item.pk)
        if is_judged(piece.examination, item, standard or Standard.now()):
            return None
        return _judge(piece, item)


def _judge(piece: Workpiece, item: Item) -> ItemJob | None:
    """Start judging the current revision; within the transaction that holds its workpiece."""
    going_on = item.jobs.filter(kind=ItemJob.Kind.JUDGE, state__in=ItemJob.OPEN).first()
    if going_on is not None:
        if _is_of_now(going_on):
            return None  # by the rules that held when it began; if those changed, it begins again
        going_on.cancel_asked = True
        going_on.save(update_fields=["cancel_asked"])
        return None  # begun anew when that one has ended
    return start(
        ItemJob,
        subject=f"judging item {item.pk}",
        item=item,
        base=piece.current,
        kind=ItemJob.Kind.JUDGE,
        title="judged",
        parameters={"material": item.material.key},
    )


def _is_of_now(job: ItemJob) -> bool:
    """Whether a job judges the revision that holds, in the material ordered."""
    piece = job.item.workpiece
    return job.base_id == piece.current_id and job.material == job.item.material


def judge_again_if_moved_on(job: ItemJob) -> None:
    """After judging ended without a verdict: begin anew if it was of another state of the item."""
    if not _is_of_now(job):
        transaction.on_commit(lambda: judge_if_needed(job.item))


def judge_all(standard: Standard | None = None) -> int:
    """Start judging every item that has not left and whose verdict holds no longer.

    Returns
    -------
    int
        How many items there were.
    """
    standard = standard or Standard.now()
    left = Count("releases", filter=Q(releases__withdrawal__isnull=True))
    waiting = Item.objects.annotate(left=left).filter(
        workpiece__examination__isnull=False, left=0, set_aside=False
    )
    touched = 0
    waiting = waiting.select_related("material", "workpiece__examination")
    for item in waiting.defer("workpiece__examination__report"):
        examination = item.workpiece.examination
        if examination is not None and not is_judged(examination, item, standard):
            judge_if_needed(item, standard)
            touched += 1
    return touched

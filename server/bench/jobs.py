"""Starting work on an item."""

from typing import Any

from api.exception_handler import Conflict
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from orders.models import Item
from work.tasks import start

from .models import ItemJob, Workpiece

_AT_WORK = "Work on this item is going on; wait for it or cancel it."


def receive(item: Item, by: User) -> ItemJob:
    """Queue the reading of an item's file; called in the transaction that makes the item."""
    Workpiece.objects.create(item=item)
    return start(
        ItemJob,
        subject=_subject(item),
        item=item,
        kind=ItemJob.Kind.RECEIVE,
        title="as received",
        made_by=by,
    )


def start_on_current(item: Item, by: Any, **fields: Any) -> ItemJob:
    """Queue work on an item's current revision.

    Raises
    ------
    Conflict
        If the item cannot be worked on now.
    """
    current = item.workpiece.current
    if current is None:
        raise Conflict("This item has no mesh to work on yet.")
    try:
        with transaction.atomic():
            return start(
                ItemJob, subject=_subject(item), item=item, base=current, made_by=by, **fields
            )
    except IntegrityError:
        raise Conflict(_AT_WORK) from None


def refuse_while_at_work(item: Item) -> None:
    """Refuse what must not happen while work on an item goes on.

    Raises
    ------
    Conflict
    """
    if item.jobs.filter(state__in=ItemJob.OPEN).exists():
        raise Conflict(_AT_WORK)


def _subject(item: Item) -> str:
    return f"item {item.pk}"

"""Starting work on an item."""

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from typing import Any

from api.exception_handler import Conflict, MovedOn
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.utils import timezone
from orders.models import Item
from work.tasks import start

from .models import Decision, ItemJob, Workpiece


def receive(item: Item, by: User) -> ItemJob:
    """Queue the reading of an item's file; called in the transaction that makes the item."""
    Workpiece.objects.get_or_create(item=item)
    return start(
        ItemJob,
        subject=_subject(item),
        item=item,
        kind=ItemJob.Kind.RECEIVE,
        title="as received",
        made_by=by,
    )


def receive_again(item: Item, by: User) -> ItemJob:
    """Queue once more what was to make an item's first revision, and did not come to an end.

    Called in the transaction that holds the item.
    """
    last = item.jobs.filter(kind__in=ItemJob.FIRST).latest("id")
    return start(
        ItemJob,
        subject=_subject(item),
        item=item,
        kind=last.kind,
        title=last.title,
        parameters=last.parameters,
        made_by=by,
    )


@contextmanager
def at_revision(item: Item, seen: int | None) -> Iterator[Workpiece]:
    """Hold an item at the revision that a person has seen, and let nobody else move it meanwhile.

    Parameters
    ----------
    item : Item
    seen : int or None
        Key of the revision that the person looked at; none where there was none yet.

    Raises
    ------
    Conflict
        If the item has no mesh yet.
    MovedOn
        If another revision holds by now.
    """
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=item)
        if piece.current is None:
            raise Conflict("This item has no mesh to work on yet.")
        if piece.current_id != seen:
            raise _moved_on(piece)
        yield piece


def start_at(item: Item, seen: int | None, by: Any, **fields: Any) -> ItemJob:
    """Queue work on the revision that a person has seen, if it still holds.

    Raises
    ------
    Conflict
        If the item cannot be worked on now.
    MovedOn
        If another revision holds by now.
    """
    with at_revision(item, seen) as piece:
        refuse_while_at_work(item)
        try:
            with transaction.atomic():
                return start(
                    ItemJob,
                    subject=_subject(item),
                    item=item,
                    base=piece.current,
                    made_by=by,
                    **fields,
                )
        except IntegrityError:
            raise _at_work(item) from None


def start_once_received(item: Item, by: User, **fields: Any) -> None:
    """Have work done on an item as soon as its file is read, instead of what was asked so before.

    Parameters
    ----------
    item : Item
    by : User
    **fields
        Of the job, as JSON has them.

    Raises
    ------
    Conflict
        If the file is not being read.
    MovedOn
        If it is read by now.
    """
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=item)
        if piece.current is not None:
            raise _moved_on(piece)
        if not item.jobs.filter(state__in=ItemJob.OPEN, kind=ItemJob.Kind.RECEIVE).exists():
            raise Conflict("Its file has not been read; there is nothing to work on.")
        piece.once_received = {**fields, "by": by.pk}
        piece.save(update_fields=["once_received"])


def begin_what_waited(item: Item) -> None:
    """Queue what was to be done once an item's file was read, unless somebody was quicker."""
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=item)
        fields = piece.once_received
        if not fields or piece.current is None:
            return
        piece.once_received = None
        piece.save(update_fields=["once_received"])
        by = User.objects.filter(pk=fields.pop("by")).first()
        with suppress(Conflict, MovedOn):
            start_at(item, piece.current_id, by, **fields)


def refuse_while_at_work(item: Item) -> None:
    """Refuse what must not happen while work on an item goes on.

    Raises
    ------
    Conflict
    """
    if item.jobs.filter(state__in=ItemJob.OPEN, kind__in=ItemJob.BLOCKING).exists():
        raise _at_work(item)


def _at_work(item: Item) -> Conflict:
    job = item.jobs.filter(state__in=ItemJob.OPEN, kind__in=ItemJob.BLOCKING).first()
    who = job.made_by.get_full_name() if job and job.made_by else "Somebody"
    return Conflict(f"{who} has work going on here; wait for it, or stop it.")


def moved_by(item: Item) -> tuple[str, datetime, str]:
    """Who made the current revision hold, when, and in which words."""
    current = item.workpiece.current
    assert current is not None
    who, at, words = current.made_by, current.made, f"“{current.title}”"
    back = [one for one in item.decisions.all() if one.act == Decision.Act.RETURN]
    if back and back[-1].at > at:
        who, at, words = back[-1].by, back[-1].at, "gone back to"
    return who.get_full_name() if who else "Somebody", at, words


def _moved_on(piece: Workpiece) -> MovedOn:
    """Says who moved an item on, and to what."""
    current = piece.current
    assert current is not None
    name, at, words = moved_by(piece.item)
    told = f"{timezone.localtime(at):%H:%M}"
    return MovedOn(
        f"{name} moved this item on meanwhile: revision {current.number} holds ({words}, {told}). "
        "Nothing was done.",
        {"revision": current.pk, "number": current.number, "by": name},
    )


def _subject(item: Item) -> str:
    return f"item {item.pk}"

"""Removing an order with all that belongs to it; that it was there, and who removed it, stays."""

from datetime import timedelta

import pgtrigger
from api.exception_handler import Conflict
from bench.models import (
    Comparison,
    Decision,
    Examination,
    ItemJob,
    Measure,
    PieceClearance,
    PieceName,
    Revision,
    RevisionNote,
    Workpiece,
)
from dispatch.models import Letter, Release, Withdrawal
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone
from materials.models import ShopSettings
from orders.models import Comment, Customer, Item, Order, Removal
from work.models import Job

from .models import Summary, SummaryDue

_NEVER_CHANGED = (
    "bench.Revision",
    "bench.Examination",
    "bench.Decision",
    "bench.RevisionNote",
    "bench.PieceName",
    "dispatch.Release",
    "dispatch.Withdrawal",
    "dispatch.Letter",
    "orders.Comment",
)
"""Models whose rows the database lets nobody remove but here."""


def remove_order(order: Order, reason: str, by: User) -> Removal:
    """Remove an order, its items, their revisions, decisions, releases and letters.

    The events of the trail stay. The files go when they are collected next.

    Raises
    ------
    Conflict
        If it has not been kept as long as the shop has settled, or work on it goes on.
    """
    with transaction.atomic():
        order = Order.objects.select_for_update().select_related("customer").get(pk=order.pk)
        until = order.due + timedelta(days=ShopSettings.now().kept_days)
        if timezone.now() < until:
            raise Conflict(
                f"Order {order.number} is kept until {timezone.localtime(until):%-d %B %Y}, as the "
                "shop has settled."
            )
        items = list(Item.objects.select_for_update().filter(order=order).values_list(flat=True))
        if ItemJob.objects.filter(item__in=items, state__in=ItemJob.OPEN).exists():
            raise Conflict(f"Work on order {order.number} goes on; wait for it, or stop it.")
        told = Removal.objects.create(
            number=order.number,
            customer=order.customer.name,
            items=len(items),
            reason=reason,
            by=by,
        )
        _remove(order, items)
        return told


def _remove(order: Order, items: list[int]) -> None:
    jobs = list(ItemJob.objects.filter(item__in=items).values_list("job_ptr_id", flat=True))
    rows = (
        Withdrawal.objects.filter(release__item__in=items),
        Release.objects.filter(item__in=items),
        Letter.objects.filter(item__in=items),
        Decision.objects.filter(item__in=items),
        Workpiece.objects.filter(item__in=items),
        Examination.objects.filter(revision__item__in=items),
        ItemJob.objects.filter(item__in=items),
        Job.objects.filter(pk__in=jobs),
        RevisionNote.objects.filter(revision__item__in=items),
        Measure.objects.filter(revision__item__in=items),
        Comparison.objects.filter(revision__item__in=items),
        PieceClearance.objects.filter(revision__item__in=items),
        PieceName.objects.filter(item__in=items),
        Revision.objects.filter(item__in=items),
        Comment.objects.filter(item__in=items),
        Summary.objects.filter(item__in=items),
        SummaryDue.objects.filter(item_id__in=items),
        Item.objects.filter(pk__in=items),
        Order.objects.filter(pk=order.pk),
    )
    with pgtrigger.ignore(*(f"{model}:append_only" for model in _NEVER_CHANGED)):
        for one in rows:
            # each by itself: they point to each other, which is looked at when all is gone
            one._raw_delete(one.db)


def remove_customer(customer: Customer, reason: str, by: User) -> list[Removal]:
    """Remove all that a customer ever sent, and the name; all of it or nothing.

    Raises
    ------
    Conflict
        If one of the orders cannot be removed.
    """
    with transaction.atomic():
        told = [remove_order(one, reason, by) for one in customer.orders.all()]
        customer.delete()
        return told

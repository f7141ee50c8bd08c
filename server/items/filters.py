"""What a list of items can be narrowed to, and by what it can be sorted."""

from datetime import datetime, timedelta
from functools import reduce
from operator import or_
from typing import Any

from bench.models import ItemJob
from django.db.models import Count, Exists, F, OuterRef, Q, QuerySet
from django.utils import timezone
from django_filters import rest_framework as filters
from orders.models import Item

NOBODY, ME = "nobody", "me"

_AT_WORK = Q(Exists(ItemJob.objects.filter(item=OuterRef("pk"), state__in=ItemJob.OPEN)))
_OPEN = Q(summary__released=None, set_aside=False)

LISTS: dict[str, tuple[str, Q]] = {
    "open": ("To do", _OPEN),
    "you": ("Needs you", Q(summary__calls=True)),
    "leaks": ("Leaks", Q(summary__leaks=True)),
    "running": ("Running", _AT_WORK),
    "ready": ("Tight, to release", Q(summary__ready=True)),
    "released": ("Released", Q(summary__released__isnull=False)),
    "aside": ("Set aside", Q(set_aside=True)),
    "all": ("Everything", Q()),
}
"""The lists of the day, in its order: title and condition of each."""

SORTS: dict[str, tuple[str, ...]] = {
    "order": ("order__number",),
    "customer": ("order__customer__name", "order__number"),
    "item": ("name",),
    "file": ("file_name",),
    "triangles": ("workpiece__current__triangles",),
    "material": ("material__name",),
    "quantity": ("quantity",),
    "due": ("order__due", "order__number"),
    "received": ("created",),
    "seam": ("summary__step",),
    "next": ("summary__next",),
    "assignee": ("assignee__first_name", "assignee__last_name"),
}
"""Fields that each column is sorted by."""

_SEARCHED = ("order__number", "order__customer__name", "name", "file_name")
_DUE = (("late", "Late"), ("tomorrow", "Due by tomorrow"), ("week", "Due within a week"))


def listed() -> QuerySet[Item]:
    """Items that lists can tell of; one that came in this very moment has no summary yet."""
    return Item.objects.filter(summary__isnull=False)


def counts() -> dict[str, Any]:
    """How many items each list holds, and each customer has to do."""
    of_lists = {key: Count("pk", filter=condition) for key, (_t, condition) in LISTS.items()}
    of_customers = (
        listed()
        .filter(_OPEN)
        .order_by("order__customer__name")
        .values("order__customer__name")
        .annotate(count=Count("pk"))
    )
    found = listed().aggregate(**of_lists)
    return {
        "lists": [
            {"key": key, "title": title, "count": found[key]} for key, (title, _q) in LISTS.items()
        ],
        "customers": [
            {"name": one["order__customer__name"], "count": one["count"]} for one in of_customers
        ],
    }


class ItemFilter(filters.FilterSet):
    """All conditions hold together."""

    list = filters.ChoiceFilter(
        choices=[(key, title) for key, (title, _q) in LISTS.items()], method="of_list"
    )
    q = filters.CharFilter(
        method="with_words",
        max_length=200,
        label="Words that all stand in order, customer, item or file",
    )
    order = filters.CharFilter(field_name="order__number")
    customer = filters.CharFilter(field_name="order__customer__name")
    material = filters.CharFilter(field_name="material__key")
    assignee = filters.CharFilter(
        method="of_person", label=f"A login name, or {ME!r}, or {NOBODY!r}"
    )
    due = filters.ChoiceFilter(choices=_DUE, method="due_by")
    sort = filters.ChoiceFilter(
        choices=[(way + key, key) for key in SORTS for way in ("", "-")],
        method="sorted_by",
        label="A column; with a minus before it, backwards",
    )

    class Meta:
        model = Item
        fields: tuple[str, ...] = ()

    def of_list(self, items: QuerySet[Item], name: str, value: str) -> QuerySet[Item]:
        return items.filter(LISTS[value][1])

    def with_words(self, items: QuerySet[Item], name: str, value: str) -> QuerySet[Item]:
        for word in value.split():
            anywhere = (Q(**{f"{place}__icontains": word}) for place in _SEARCHED)
            items = items.filter(reduce(or_, anywhere))
        return items

    def of_person(self, items: QuerySet[Item], name: str, value: str) -> QuerySet[Item]:
        if value == NOBODY:
            return items.filter(assignee=None)
        username = self.request.user.get_username() if value == ME else value
        return items.filter(assignee__username=username)

    def due_by(self, items: QuerySet[Item], name: str, value: str) -> QuerySet[Item]:
        now = timezone.localtime()
        days = {"late": None, "tomorrow": 2, "week": 8}[value]
        end = now if days is None else _midnight(now) + timedelta(days=days)
        return items.filter(order__due__lt=end)

    def sorted_by(self, items: QuerySet[Item], name: str, value: str) -> QuerySet[Item]:
        return in_order(items, value)


def _midnight(moment: datetime) -> datetime:
    return moment.replace(hour=0, minute=0, second=0, microsecond=0)


def in_order(items: QuerySet[Item], sort: str) -> QuerySet[Item]:
    """Items sorted by a column, backwards with a minus before it; what is unknown comes last."""
    fields = SORTS[sort.removeprefix("-")]
    back = sort.startswith("-")
    ways = [
        F(field).desc(nulls_last=True) if back else F(field).asc(nulls_last=True)
        for field in fields
    ]
    return items.order_by(*ways, "order__number", "pk")

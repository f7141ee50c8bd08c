"""Items with what screens need of them, each in a fixed number of queries."""

from collections.abc import Sequence

from bench.models import ItemJob
from dispatch.models import Release
from django.db.models import Prefetch, Q, QuerySet
from orders.models import Item

_OF_REVISION = tuple(
    f"workpiece__current__{name}" for name in ("account", "steps", "left", "parameters")
)
"""What of a revision only the bench needs."""


def rows() -> QuerySet[Item]:
    """Items as rows of the list: with their summary, and the work that goes on."""
    going_on = ItemJob.objects.filter(state__in=ItemJob.OPEN).select_related("made_by", "item")
    related = ("order__customer", "material", "workpiece__current", "summary", "assignee")
    return (
        Item.objects.select_related(*related)
        .defer("material__rules", *_OF_REVISION)
        .prefetch_related(Prefetch("jobs", going_on))
    )


def whole(keys: Sequence[int]) -> QuerySet[Item]:
    """Some items with all that tells how they stand."""
    releases = Release.objects.select_related("by", "revision", "withdrawal__by").defer(
        "report", "letter", "decisions", "standard", "revision__account", "revision__steps"
    )
    related = ("order__customer", "material", "workpiece__current", "workpiece__examination")
    return (
        Item.objects.filter(pk__in=keys)
        .select_related(*related, "assignee")
        .prefetch_related(
            Prefetch("releases", releases), "decisions__by", Prefetch("jobs", _last_jobs(keys))
        )
    )


def outlines(keys: Sequence[int]) -> QuerySet[Item]:
    """The same without reports and accounts, which are large."""
    return whole(keys).defer("workpiece__examination__report", *_OF_REVISION)


def _last_jobs(keys: Sequence[int]) -> QuerySet[ItemJob]:
    """Of each item the last work, and the last judging behind it; comparing is neither."""
    theirs = ItemJob.objects.filter(item_id__in=keys).exclude(kind__in=ItemJob.ASIDE)
    each = theirs.order_by("item_id", "-id").distinct("item_id").values("pk")
    work, judging = each.exclude(kind=ItemJob.Kind.JUDGE), each.filter(kind=ItemJob.Kind.JUDGE)
    last = ItemJob.objects.filter(Q(pk__in=work) | Q(pk__in=judging))
    return last.order_by("-id").select_related("made_by", "item")

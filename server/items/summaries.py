"""Summaries of items for lists: told anew for those of which something changed."""

from bench.models import Examination
from bench.seam import LEAKS, NOT_RUN, Segment
from bench.serializers import SegmentSerializer
from bench.standard import Standard
from dispatch.rules import Standing, standing
from django.db import connection, transaction
from orders.models import Item

from .models import Summary, SummaryDue
from .queries import outlines

_TELLING = 1_401
"""Key of the database's lock on telling summaries; any number that no other lock has."""
_AT_ONCE = 200
"""Items that are told with one set of queries."""


def tell_what_is_due() -> int:
    """Tell the summaries of all items of which something changed since they were told.

    Of several who ask at once, one tells and the others wait for it.

    Returns
    -------
    int
        How many there were.
    """
    if not SummaryDue.objects.exists():
        return 0
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("select pg_advisory_xact_lock(%s)", [_TELLING])
        # those seen now, before anything is read that they are about
        seen = list(SummaryDue.objects.values_list("pk", "item_id"))
        told = sorted({item for _due, item in seen})
        standard = Standard.now()
        for start in range(0, len(told), _AT_ONCE):
            _tell(told[start : start + _AT_ONCE], standard)
        SummaryDue.objects.filter(pk__in=[due for due, _item in seen]).delete()
    return len(told)


def _tell(keys: list[int], standard: Standard) -> None:
    items = list(outlines(keys))
    _load_reports(items)
    made = [summary_of(item, standing(item, standard)) for item in items]
    fields = [f.name for f in Summary._meta.concrete_fields if not f.primary_key]
    Summary.objects.bulk_create(
        made, update_conflicts=True, unique_fields=["item"], update_fields=fields
    )


def _load_reports(every: list[Item]) -> None:
    """Fetch the reports of those of which something was decided, all at once."""
    decided = {
        one.workpiece.examination.pk: one.workpiece.examination
        for one in every
        if one.workpiece.examination is not None and one.decisions.all()
    }
    found = Examination.objects.filter(pk__in=list(decided)).values_list("pk", "report")
    for key, report in found:
        decided[key].report = report


def summary_of(item: Item, stands: Standing) -> Summary:
    """The summary of an item that stands so."""
    seam = stands.seam
    states = {segment.state for segment in seam}
    blocking = [at for at, segment in enumerate(seam) if segment.blocks]
    aside = item.set_aside
    return Summary(
        item=item,
        seam=SegmentSerializer(seam, many=True).data,
        next=_next_words(item, stands),
        step=blocking[0] if blocking else len(seam),
        leaks=not aside and LEAKS in states,
        calls=not aside and (bool(item.workpiece.problem) or "your call" in states),
        ready=stands.ready,
        released=stands.release.at if stands.release else None,
    )


def _next_words(item: Item, stands: Standing) -> str:
    if item.set_aside:
        return "set aside"
    if item.workpiece.problem:
        return item.workpiece.problem
    if item.workpiece.current_id is None:
        return "not examined"
    asked = [one for one in stands.seam if one.question != "release"]
    open_now = next((one for one in asked if one.blocks and one.state != NOT_RUN), None)
    open_now = open_now or next((one for one in asked if one.blocks), None)
    if open_now is not None:
        return open_now.text
    return "released" if stands.release else _ready_words(asked)


def _ready_words(asked: list[Segment]) -> str:
    """That it can go, with its thinnest wall if that was measured."""
    walls = next((one.text for one in asked if one.question == "walls"), "")
    return f"ready to release; {walls}" if " of " in walls else "tight, ready to release"

"""What happened, in order: kept by the database, told here.

Triggers of the database write an event for every row that is added or changed, whoever does so, and
let nobody change the events.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from heapq import merge
from itertools import islice
from typing import Any

from django.contrib.auth.models import User
from django.core.exceptions import ObjectDoesNotExist
from django.utils.text import Truncator

from .told import ALL, Told

_LONGEST = 300
"""Letters of an entry's text; the whole stands where it was decided."""


@dataclass(frozen=True)
class Entry:
    """One thing that happened.

    Attributes
    ----------
    at : datetime
    by : str
        Who did it; empty where nobody was logged in.
    what : str
        As of `Told`.
    item : int or None
    text : str
    """

    at: datetime
    by: str
    what: str
    item: int | None
    text: str


def entries(
    *, item: int | None = None, before: datetime | None = None, most: int | None = None
) -> Iterator[Entry]:
    """What happened, the last first.

    Parameters
    ----------
    item : int, optional
        Only what is about this one.
    before : datetime, optional
        Only what is older.
    most : int, optional
        So many entries; some more where the last ones happened at the same moment.
    """
    asked = [one for one in reversed(ALL) if item is None or one.of_item]
    each = (_rows(one, item, before) for one in asked)
    rows = merge(*each, key=lambda row: row[1].pgh_created_at, reverse=True)
    names = {user.pk: user.get_full_name() for user in User.objects.all()}
    return (_entry(told, event, names) for told, event in _page(rows, most))


def _rows(told: Told, item: int | None, before: datetime | None) -> Iterator[tuple[Told, Any]]:
    events = told.events._default_manager.select_related("pgh_context").order_by(
        "-pgh_created_at", "-pgh_id"
    )
    if item is not None:
        events = events.filter(**{told.of_item: item})
    if before is not None:
        events = events.filter(pgh_created_at__lt=before)
    return ((told, event) for event in events.iterator(chunk_size=200))


def _page(rows: Iterable[tuple[Told, Any]], most: int | None) -> Iterator[tuple[Told, Any]]:
    rows = iter(rows)
    last = None
    for row in islice(rows, most):
        last = row
        yield row
    for row in rows:
        if last is None or row[1].pgh_created_at != last[1].pgh_created_at:
            return
        yield row


def _entry(told: Told, event: Any, names: dict[int, str]) -> Entry:
    context = event.pgh_context.metadata if event.pgh_context else {}
    text = Truncator(told.tell(event)).chars(_LONGEST)
    item = _of(event, told.of_item) if told.of_item else None
    by = names.get(context.get("user") or 0, "")
    return Entry(event.pgh_created_at, by, told.what, item, text)


def _of(event: Any, lookup: str) -> int | None:
    value = event
    for name in lookup.split("__"):
        try:
            value = getattr(value, name, None)
        except ObjectDoesNotExist:  # it was removed with its order
            return None
    return value  # type: ignore[return-value]

"""What a person decides about an item: accepting what a check asked, going back to a revision."""

from api.exception_handler import Conflict
from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone
from orders.models import Item
from rest_framework.exceptions import ValidationError

from .jobs import refuse_while_at_work
from .models import Revision, Waiver, Workpiece


def accept(item: Item, kind: str, reason: str, by: User) -> None:
    """Accept what was found of a kind on the current revision.

    Raises
    ------
    Conflict
        If the item has not been examined yet.
    ValidationError
        If nothing of the kind was found, or it is a leak.
    """
    current = item.workpiece.current
    if current is None:
        raise Conflict("This item has not been examined yet.")
    found = next((f for f in current.report["findings"] if f["kind"] == kind), None)
    if found is None:
        raise ValidationError("Nothing of this kind was found.")
    if found["severity"] == "leak":
        raise ValidationError("A leak cannot be waived; it must be mended.")
    fields = {"reason": reason, "revision": current, "by": by, "at": timezone.now()}
    Waiver.objects.update_or_create(item=item, kind=kind, defaults=fields)


def go_back(item: Item, revision: Revision) -> None:
    """Make an earlier or later revision the one that holds; none is lost.

    Raises
    ------
    Conflict
        If work on the item goes on.
    """
    refuse_while_at_work(item)
    with transaction.atomic():
        Workpiece.objects.filter(item=item).update(current=revision)
        if revision.material is not None:
            item.material = revision.material
            item.save(update_fields=["material"])

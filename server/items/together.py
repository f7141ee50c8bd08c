"""One action for several items: each for itself, so that one that cannot does not hold the rest."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from api.exception_handler import Conflict
from bench.decisions import set_aside, take_material
from bench.jobs import start_at
from bench.models import ItemJob
from django.contrib.auth.models import User
from django.db import transaction
from materials.models import Material
from orders.assigning import assign, person_named
from orders.models import Item, Order
from rest_framework.exceptions import APIException, ValidationError
from work.queues import CROWD


@dataclass(frozen=True)
class Outcome:
    """What became of one item."""

    item: int
    done: bool
    why: str = ""
    """Why it was not done; empty if it was."""


def for_each(
    asked: Sequence[dict[str, Any]], act: Callable[[Item, int | None], Any]
) -> list[Outcome]:
    """Do something for each of the items asked for.

    Parameters
    ----------
    asked : list of dict
        ``item``, and ``revision`` as it was seen, none if there was none.
    act : callable
        Takes the item and the revision that was seen; what it refuses is told of that item only.
    """
    there = Item.objects.select_related("material", "order").in_bulk([x["item"] for x in asked])
    told = []
    for one in asked:
        item = there.get(one["item"])
        if item is None:
            told.append(Outcome(one["item"], False, "It is not there any more."))
            continue
        try:
            with transaction.atomic():
                act(item, one["revision"])
        except APIException as refusal:
            told.append(Outcome(item.pk, False, _sentence(refusal)))
        else:
            told.append(Outcome(item.pk, True))
    return told


def _sentence(refusal: APIException) -> str:
    detail = refusal.detail
    return " ".join(str(x) for x in detail) if isinstance(detail, list) else str(detail)


def mend_each(asked: Sequence[dict[str, Any]], by: User) -> list[Outcome]:
    """Start mending each."""

    def mend(item: Item, seen: int | None) -> None:
        seen = _looked_at(seen)
        start_at(item, seen, by, kind=ItemJob.Kind.MEND, title="mended", queue=CROWD)

    return for_each(asked, mend)


def material_for_each(
    asked: Sequence[dict[str, Any]], material: Material, reason: str, by: User
) -> list[Outcome]:
    """Make each of another material."""

    def take(item: Item, seen: int | None) -> None:
        take_material(item, _looked_at(seen), material, reason, by)

    return for_each(asked, take)


def set_each_aside(asked: Sequence[dict[str, Any]], reason: str, by: User) -> list[Outcome]:
    """Set each aside."""
    return for_each(asked, lambda item, _seen: set_aside(item, reason, by))


def assign_each(asked: Sequence[dict[str, Any]], to: User | None) -> list[Outcome]:
    """Give each to somebody to look after."""
    return for_each(asked, lambda item, _seen: assign(item, to))


def due_for_each(asked: Sequence[dict[str, Any]], due: Any) -> list[Outcome]:
    """Set the date on which the orders of all of them are due."""
    done: set[int] = set()

    def set_due(item: Item, _seen: int | None) -> None:
        if item.order_id not in done:
            order = Order.objects.select_for_update().get(pk=item.order_id)
            order.due = due
            order.save(update_fields=["due"])
            done.add(item.order_id)

    return for_each(asked, set_due)


def _looked_at(seen: int | None) -> int:
    if seen is None:
        raise Conflict("This item has no mesh to work on yet.")
    return seen


_NEEDS = {"material": ("material", "reason"), "set-aside": ("reason",), "due": ("due",)}


def act_on_each(asked: Sequence[dict[str, Any]], given: dict[str, Any], by: User) -> list[Outcome]:
    """Do for each what ``given["act"]`` names.

    Raises
    ------
    ValidationError
        If something is lacking that the action needs.
    """
    act = given["act"]
    for name in _NEEDS.get(act, ()):
        if not given.get(name):
            raise ValidationError({name: "This is needed."})
    match act:
        case "mend":
            return mend_each(asked, by)
        case "material":
            return material_for_each(asked, given["material"], given["reason"], by)
        case "set-aside":
            return set_each_aside(asked, given["reason"], by)
        case "due":
            return due_for_each(asked, given["due"])
        case _:
            return assign_each(asked, person_named(given["assignee"]))

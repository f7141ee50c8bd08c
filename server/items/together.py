"""One action for several items: each for itself, so that one that cannot does not hold the rest."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from api.exception_handler import sentence_of
from bench.decisions import set_aside, take_material
from bench.jobs import start_at, start_once_received
from bench.models import ItemJob
from caulkjob.operations import operation
from django.contrib.auth.models import User
from django.db import transaction
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


Act = Callable[[Item, int | None], Any]
"""Takes an item and the revision that was seen, none if there was none."""


def for_each(asked: Sequence[dict[str, Any]], act: Act) -> list[Outcome]:
    """Do something for each of the items asked for.

    Parameters
    ----------
    asked : list of dict
        ``item``, and ``revision`` as it was seen, none if there was none.
    act : callable
        What it refuses is told of that item only.
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
            told.append(Outcome(item.pk, False, sentence_of(refusal.detail)))
        else:
            told.append(Outcome(item.pk, True))
    return told


_NEEDS = {"material": ("material", "reason"), "set-aside": ("reason",), "due": ("due",)}


def act_on_each(asked: Sequence[dict[str, Any]], given: dict[str, Any], by: User) -> list[Outcome]:
    """Do for each what ``given["act"]`` names.

    Raises
    ------
    ValidationError
        If something is lacking that the action needs.
    """
    for name in _NEEDS.get(given["act"], ()):
        if not given.get(name):
            raise ValidationError({name: "This is needed."})
    if given["act"] == "size" and bool(given.get("unit")) == bool(given.get("factor")):
        raise ValidationError({"factor": "A factor is needed, or a unit."})
    return for_each(asked, _action(given, by))


def _action(given: dict[str, Any], by: User) -> Act:
    """What is done with one of them."""
    match given["act"]:
        case "mend":
            mending = {"kind": ItemJob.Kind.MEND, "title": "mended", "queue": CROWD}
            return lambda item, seen: start_at(item, seen, by, **mending)
        case "size":
            sized = _sizing(given)
            # what is being taken in is sized as soon as it is
            return lambda item, seen: (
                start_once_received(item, by, **sized)
                if seen is None
                else start_at(item, seen, by, **sized)
            )
        case "material":
            material, reason = given["material"], given["reason"]
            return lambda item, seen: take_material(item, seen, material, reason, by)
        case "set-aside":
            return lambda item, _seen: set_aside(item, given["reason"], by)
        case "due":
            return lambda item, _seen: _set_due(item.order_id, given["due"])
        case _:
            to = person_named(given["assignee"])
            return lambda item, _seen: assign(item, to)


def _sizing(given: dict[str, Any]) -> dict[str, Any]:
    """The work that takes a unit for an item, or scales it."""
    unit, factor = given.get("unit"), given.get("factor")
    chosen = operation("set-unit" if unit else "scale")
    parameters = {"unit": unit} if unit else {"factor": factor}
    chosen.check({"was": "mm", **parameters} if unit else parameters)
    return {
        "kind": ItemJob.Kind.OPERATE,
        "title": chosen.past,
        "parameters": {"operation": chosen.name, "parameters": parameters},
        "queue": CROWD,
    }


def _set_due(order_id: int, due: datetime) -> None:
    """Set when an order is due; nothing where another of its items has done so."""
    order = Order.objects.select_for_update().get(pk=order_id)
    if order.due != due:
        order.due = due
        order.save(update_fields=["due"])

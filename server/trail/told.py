"""How each kind of event is told: what it is about, which item it belongs to, and its sentence."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from bench.models import Decision, Examination, Measure, PieceName, Revision, RevisionNote
from caulkjob.accepted_places import STAYS_APART
from caulkjob.questions import noun
from dispatch.models import Letter, Release, Withdrawal
from django.core.exceptions import ObjectDoesNotExist
from django.db import models
from materials.models import Edition, Machine, ShopSettings
from orders.models import Comment, Item, Order, Removal
from people.models import Account, Onlooker, Visit

_LABELS = {"insert": "made", "update": "changed", "delete": "removed"}


@dataclass(frozen=True)
class Told:
    """How the events of one model are told.

    Attributes
    ----------
    model : Model
        What the events are of.
    what : str
        What they are about, as a code for screens.
    tell : callable
        The sentence about one, without who and when.
    of_item : str
        Lookup of the item that they belong to; empty for the shop's.
    """

    model: type[models.Model]
    what: str
    tell: Callable[[Any], str]
    of_item: str = ""

    @property
    def events(self) -> type[models.Model]:
        """The model of the events themselves."""
        return self.model.pgh_event_model  # type: ignore[attr-defined,no-any-return]


def _of_what_is_gone(event: Any, relation: str, field: str, otherwise: Any = "—") -> Any:
    """A field of a row that an event points to; the row may have been removed since."""
    try:
        return getattr(getattr(event, relation), field, otherwise)
    except ObjectDoesNotExist:
        return otherwise


def _visit(event: Any) -> str:
    words = {
        Visit.Kind.IN: "{} logged in",
        Visit.Kind.OUT: "{} logged out",
        Visit.Kind.REFUSED: "somebody was refused who gave the name {}",
    }
    return words[event.kind].format(event.username)


def _account(event: Any) -> str:
    lead = ", shop lead" if event.is_staff else ""
    active = "" if event.is_active else ", may not log in"
    name = f"{event.first_name} {event.last_name}"
    return f"account {event.username} {_LABELS[event.pgh_label]}: {name}{lead}{active}"


def _onlooker(event: Any) -> str:
    now = "only looks from now on" if event.pgh_label == "insert" else "may change things again"
    return f"{event.user.get_full_name()} {now}" if event.user else f"an account {now}"


def _edition(event: Any) -> str:
    why = f": “{event.why}”" if event.why else ""
    return f"edition {event.number} of the sheet of {event.material.name} holds{why}"


def _settings(event: Any) -> str:
    told = ", ".join(f"{name} {value}" for name, value in sorted(event.values.items()))
    return f"limits and policy settled: {told}"


def _machine(event: Any) -> str:
    sides = f"{event.x:g} × {event.y:g} × {event.z:g} mm"
    return f"machine {event.name} {_LABELS[event.pgh_label]}: {event.process}, {sides}"


def _order(event: Any) -> str:
    return f"order {event.number} {_LABELS[event.pgh_label]}, due {event.due:%Y-%m-%d}"


def _removal(event: Any) -> str:
    told = f"{event.items} item{'s'[: event.items != 1]} of {event.customer}, with all files"
    return f"order {event.number} removed: {told}: “{event.reason}”"


def _item(event: Any) -> str:
    aside = ", set aside" if event.set_aside else ""
    told = f"{event.quantity} in {event.material.name}, file {event.file_name}{aside}"
    to = f", looked after by {event.assignee.get_full_name()}" if event.assignee else ""
    return f"item {event.name} {_LABELS[event.pgh_label]}: {told}{to}"


def _comment(event: Any) -> str:
    return f"comment: “{event.text}”"


def _revision(event: Any) -> str:
    return f"revision {event.number}, “{event.title}”: {event.triangles:,} triangles"


def _examination(event: Any) -> str:
    number = _of_what_is_gone(event, "revision", "number")
    by = f"by the sheet of {event.material.name}" if event.material else "without a sheet"
    words = "no leak" if event.tight else "leaks"
    return f"revision {number} examined {by}: {words}"


def _decision(event: Any) -> str:
    reason = f": “{event.reason}”" if event.reason else ""
    about = event.about
    act = Decision.Act
    if event.act in (act.ACCEPT, act.WITHDRAW):
        places = event.places
        if event.act == act.WITHDRAW:
            accepted = _of_what_is_gone(event, "withdraws", "places", [])
            places = [accepted[i] for i in places] if accepted else []
        n = len(places)
        apart = event.kind == STAYS_APART
        what = ", ".join(f"{p['title']} ({p['measure']})" for p in places[:2])
        more = f" and {n - 2} more" if n > 2 else ""
        words = "stays apart" if apart else f"{n} {noun(event.kind, n)} accepted"
        back = "taken back: " if event.act == act.WITHDRAW else ""
        told = f"{back}{words}: {what}{more}"
        return told + (f", in {event.material.name}" if event.material else "") + reason
    words = {
        act.RETURN: f"back from revision {about.get('from')} to {about.get('to')}",
        act.MATERIAL: f"{about.get('to')} taken instead of {about.get('from')}",
        act.SET_ASIDE: "set aside",
        act.TAKE_UP: "taken up again",
        act.REPLACE: f"file {about.get('to')} taken in place of {about.get('from')}",
    }[event.act]
    return words + reason


def _note(event: Any) -> str:
    number = _of_what_is_gone(event, "revision", "number")
    called = f"called “{event.name}”" if event.name else "has no name of its own"
    return f"revision {number} {called}" + (f": “{event.text}”" if event.text else "")


def _piece_name(event: Any) -> str:
    called = f"called “{event.name}”" if event.name else "has no name of its own"
    return f"piece {event.number} {called}"


def _measure(event: Any) -> str:
    number = _of_what_is_gone(event, "revision", "number")
    unit = "°" if event.kind == Measure.Kind.ANGLE else " mm"
    words = {"insert": "kept", "update": "named", "delete": "let go"}[event.pgh_label]
    name = f" “{event.name}”" if event.name else ""
    return f"measure{name} {words}: {event.value:.2f}{unit}, {event.between}, revision {number}"


def _release(event: Any) -> str:
    number = _of_what_is_gone(event, "revision", "number")
    return f"revision {number} released as {event.file_name}"


def _withdrawal(event: Any) -> str:
    name = _of_what_is_gone(event, "release", "file_name")
    return f"release of {name} withdrawn: “{event.reason}”"


def _letter(event: Any) -> str:
    return "a letter was written to the customer"


ALL = (
    Told(Visit, "visit", _visit),
    Told(Account, "account", _account),
    Told(Onlooker, "account", _onlooker),
    Told(Edition, "sheet", _edition),
    Told(ShopSettings, "settings", _settings),
    Told(Machine, "machine", _machine),
    Told(Order, "order", _order),
    Told(Removal, "order", _removal),
    Told(Item, "item", _item, "pgh_obj_id"),
    Told(Comment, "comment", _comment, "item_id"),
    Told(Revision, "revision", _revision, "item_id"),
    Told(Examination, "examination", _examination, "revision__item_id"),
    Told(RevisionNote, "note", _note, "revision__item_id"),
    Told(PieceName, "piece", _piece_name, "item_id"),
    Told(Measure, "measure", _measure, "revision__item_id"),
    Told(Decision, "decision", _decision, "item_id"),
    Told(Release, "release", _release, "item_id"),
    Told(Withdrawal, "release", _withdrawal, "release__item_id"),
    Told(Letter, "letter", _letter, "item_id"),
)
"""All events of the trail; of those at the same moment, the later here are told first."""

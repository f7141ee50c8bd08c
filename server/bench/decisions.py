"""What people decide about an item, and which of it holds for what is found now."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from api.exception_handler import Conflict
from caulkjob.accepted_places import MAY_OVERLAP, STAYS_APART, answered, still_fits
from caulkjob.questions import KINDS_BY_MATERIAL
from django.contrib.auth.models import User
from django.db import transaction
from materials.models import Material
from orders.models import Item
from rest_framework.exceptions import ValidationError

from .jobs import at_revision, refuse_while_at_work
from .judging import hold_examination, judge_if_needed
from .models import Decision, Revision, Workpiece

Act = Decision.Act


@dataclass(frozen=True)
class Accepted:
    """One place that a decision covers."""

    decision: Decision
    index: int
    """Of the place in the decision."""

    @property
    def place(self) -> dict[str, Any]:
        """As it was found."""
        return self.decision.places[self.index]  # type: ignore[no-any-return]

    @property
    def by(self) -> User | None:
        """Who accepted it; nobody where the shop's policy did."""
        return self.decision.by


@dataclass(frozen=True)
class Held:
    """The decisions of an item that have not been withdrawn, and count in its material."""

    by_kind: dict[str, list[Accepted]]
    """The newest first."""

    @staticmethod
    def of(item: Item) -> "Held":
        """From the decisions of an item, in order."""
        events = list(item.decisions.all())
        taken_back: dict[int, set[int]] = {}
        for one in events:
            if one.act == Act.WITHDRAW and one.withdraws_id is not None:
                taken_back.setdefault(one.withdraws_id, set()).update(one.places)
        held: dict[str, list[Accepted]] = {}
        for one in reversed(events):
            if one.act != Act.ACCEPT or one.material_id not in (None, item.material_id):
                continue
            gone = taken_back.get(one.pk, set())
            places = [Accepted(one, i) for i in range(len(one.places)) if i not in gone]
            held.setdefault(one.kind, []).extend(places)
        return Held(held)

    def accepted(self) -> dict[str, list[dict[str, Any]]]:
        """The places accepted, by kind, as the core takes them."""
        return {kind: [one.place for one in every] for kind, every in self.by_kind.items()}

    def apart(self) -> set[int]:
        """Numbers of the pieces that stay apart."""
        return {one.place["piece"] for one in self.by_kind.get(STAYS_APART, [])}

    def covering(
        self, finding: dict[str, Any], pieces: Sequence[dict[str, Any]]
    ) -> list[Accepted | None]:
        """Which acceptance covers each place of a finding."""
        kind, spots = finding["kind"], finding["spots"]
        if kind not in MAY_OVERLAP:
            every = self.by_kind.get(kind, [])
            found = answered(kind, spots, [one.place for one in every])
            return [None if i is None else every[i] for i in found]
        of_piece = {one.place["piece"]: one for one in self.by_kind.get(STAYS_APART, [])}
        number = {p["shell"]: p.get("number", p["shell"] + 1) for p in pieces}
        told = []
        for spot in spots:
            two = [of_piece.get(number.get(shell, 0)) for shell in spot.get("pieces", ())]
            told.append(next((one for one in two if one is not None), None))
        return told


def accept(
    item: Item,
    seen: int,
    judged: int,
    kind: str,
    places: list[int] | None,
    listed: int,
    reason: str,
    by: User,
) -> Decision:
    """Accept some places of a kind, or all of them as they are listed.

    Parameters
    ----------
    item : Item
    seen : int
        Key of the revision that the person looked at.
    judged : int
        Key of the examination that the person looked at: the same revision may have been judged
        by other rules since.
    kind : str
        Of the finding.
    places : list of int or None
        Numbers of the places, from 1; None for all.
    listed : int
        How many places the person saw listed.
    reason : str
    by : User

    Raises
    ------
    Conflict, MovedOn
        If the item has not been examined, or is no longer what the person saw.
    ValidationError
        If nothing of the kind was found, or it is a leak.
    """
    with at_revision(item, seen) as piece:
        examination = piece.examination
        assert examination is not None
        if examination.pk != judged:
            raise Conflict("It has been judged anew meanwhile; look at what is found now.")
        found = _finding(piece, kind)
        if found["severity"] == "leak":
            raise ValidationError("A leak cannot be accepted; it must be mended.")
        spots = found["spots"]
        if listed != len(spots):
            raise Conflict(
                f"By now {len(spots)} places are listed, not {listed}: look at them again."
            )
        numbers = list(range(1, len(spots) + 1)) if places is None else sorted(set(places))
        if not numbers or numbers[0] < 1 or numbers[-1] > len(spots):
            raise ValidationError("There is no such place.")
        material = examination.material if kind in KINDS_BY_MATERIAL else None
        return Decision.objects.create(
            item=item, revision=piece.current, act=Act.ACCEPT, kind=kind, material=material,
            places=[spots[n - 1] for n in numbers], reason=reason, by=by,
        )  # fmt: skip


def keep_apart(item: Item, seen: int, numbers: list[int], reason: str, by: User) -> Decision:
    """Decide that some pieces are not united with others.

    Raises
    ------
    Conflict, MovedOn
        If the item is no longer what the person saw.
    ValidationError
        If there is no such piece.
    """
    with at_revision(item, seen) as piece:
        assert piece.examination is not None
        pieces = {
            one.get("number", one["shell"] + 1): one
            for one in piece.examination.report.get("pieces", ())
        }
        if not numbers or not set(numbers) <= set(pieces):
            raise ValidationError("There is no such piece.")
        places = [
            {
                "piece": n,
                "title": f"Piece {n}",
                "measure": pieces[n].get("name") or pieces[n]["what"],
            }
            for n in sorted(set(numbers))
        ]
        made = Decision.objects.create(
            item=item, revision=piece.current, act=Act.ACCEPT, kind=STAYS_APART, places=places,
            reason=reason, by=by,
        )  # fmt: skip
    judge_if_needed(item)
    return made


def withdraw(decision: Decision, indices: list[int] | None, reason: str, by: User) -> Decision:
    """Take back an acceptance, for some of its places or for all.

    Raises
    ------
    ValidationError
        If it is none, or has been taken back already.
    """
    with transaction.atomic():
        # what is being released is not changed under it, and two do not take back the same
        piece = Workpiece.objects.select_for_update().get(item=decision.item)
        held = {
            one.index
            for every in Held.of(decision.item).by_kind.values()
            for one in every
            if one.decision.pk == decision.pk
        }
        chosen = held if indices is None else set(indices)
        if decision.act != Act.ACCEPT or not chosen or not chosen <= held:
            raise ValidationError("That does not hold any more; somebody has taken it back.")
        return Decision.objects.create(
            item=decision.item, revision=piece.current, act=Act.WITHDRAW, kind=decision.kind,
            withdraws=decision, places=sorted(chosen), material=decision.material, reason=reason,
            by=by,
        )  # fmt: skip


def go_back(item: Item, seen: int, revision: Revision, by: User) -> None:
    """Make an earlier or later revision the one that holds; the material stays as ordered.

    Raises
    ------
    Conflict, MovedOn
        If work on the item goes on, or it is no longer what the person saw.
    """
    with at_revision(item, seen) as piece:
        refuse_while_at_work(item)
        before = piece.current
        assert before is not None
        if before == revision:
            raise Conflict(f"Revision {revision.number} holds already.")
        piece.current = revision
        piece.save(update_fields=["current"])
        hold_examination(piece)
        Decision.objects.create(
            item=item, revision=before, act=Act.RETURN, by=by, reason="",
            about={"from": before.number, "to": revision.number},
        )  # fmt: skip
    judge_if_needed(item)


def take_material(item: Item, seen: int | None, material: Material, reason: str, by: User) -> None:
    """Take another material for an item; it is judged by that at once.

    Raises
    ------
    Conflict, MovedOn
        If a release is under way, or the item is no longer what the person saw.
    """
    with at_revision(item, seen) as piece:
        refuse_while_at_work(item)
        item = Item.objects.select_for_update().select_related("material").get(pk=item.pk)
        before = item.material
        if before == material:
            raise Conflict(f"It is made of {material.name} already.")
        item.material = material
        item.save(update_fields=["material"])
        piece.item = item
        hold_examination(piece)
        Decision.objects.create(
            item=item, revision=piece.current, act=Act.MATERIAL, reason=reason, by=by,
            about={"from": before.name, "to": material.name},
        )  # fmt: skip
    judge_if_needed(item)


def set_aside(item: Item, reason: str, by: User, *, aside: bool = True) -> None:
    """Decide that nothing more is done about an item, or that something is again.

    Raises
    ------
    Conflict
        If work on it goes on, or that is so already.
    """
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=item)
        item = Item.objects.select_for_update().get(pk=item.pk)
        refuse_while_at_work(item)
        if item.set_aside == aside:
            raise Conflict(f"This item is {'set aside' if aside else 'worked on'} already.")
        item.set_aside = aside
        item.save(update_fields=["set_aside"])
        act = Act.SET_ASIDE if aside else Act.TAKE_UP
        Decision.objects.create(
            item=item, revision=piece.current, act=act, reason=reason, by=by
        )  # fmt: skip
    if not aside:
        judge_if_needed(item)


def keep_by_policy(piece: Workpiece, kinds: Iterable[str], reason: str) -> None:
    """Accept what the shop keeps without a question, unless a person has said something to it."""
    examination, item = piece.examination, piece.item
    assert examination is not None
    held = Held.of(item)
    taken_back = [
        one.withdraws.places[i]
        for one in item.decisions.filter(act=Act.WITHDRAW).select_related("withdraws")
        for i in one.places
        if one.withdraws is not None
    ]
    for found in examination.report["findings"]:
        if found["kind"] not in kinds or found["severity"] != "call":
            continue
        covered = held.covering(found, ())
        rest = [
            spot
            for spot, by in zip(found["spots"], covered, strict=True)
            if by is None
            and not any(still_fits(found["kind"], old, spot) for old in taken_back if "box" in old)
        ]
        if rest:
            Decision.objects.create(
                item=item, revision=piece.current, act=Act.ACCEPT, kind=found["kind"],
                places=rest, reason=reason,
            )  # fmt: skip


def _finding(piece: Workpiece, kind: str) -> dict[str, Any]:
    assert piece.examination is not None
    for one in piece.examination.report["findings"]:
        if one["kind"] == kind:
            return one  # type: ignore[no-any-return]
    raise ValidationError("Nothing of this kind was found.")

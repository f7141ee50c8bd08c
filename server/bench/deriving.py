"""Items made of what another item has: of some of its pieces, or a variant of the whole."""

from typing import Any, cast

from api.exception_handler import Conflict
from api.forms import checked
from caulkjob.operations import operation
from django.contrib.auth.models import User
from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from orders.models import LONGEST_NAME, Item
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from work.tasks import start

from .jobs import at_revision, start_at
from .models import ItemJob, PieceName, Revision, Workpiece
from .piece_names import names_of
from .serializers import DeriveSerializer

TAKE_OUT = "drop-pieces"
"""The operation by which pieces leave their item."""


class _MadeSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    name = serializers.CharField()


class DerivedSerializer(serializers.Serializer[Any]):
    """The items that are made, and the work by which the pieces leave the one they are of."""

    items = _MadeSerializer(many=True)
    job = serializers.IntegerField(allow_null=True)


class DeriveView(APIView):
    """Makes an item of some pieces of another one, or of each of them, without another upload."""

    @extend_schema(request=DeriveSerializer, responses={201: DerivedSerializer})
    def post(self, request: Request, pk: int) -> Response:
        source = get_object_or_404(Item.objects.select_related("order", "material"), pk=pk)
        given = checked(DeriveSerializer, request.data)
        made, leaving = derive(
            source,
            given["revision"],
            given["pieces"],
            given["name"],
            each=given["each"],
            take_out=given["take_out"],
            by=cast(User, request.user),
        )
        told = {"items": made, "job": leaving and leaving.pk}
        return Response(DerivedSerializer(told).data, status=status.HTTP_201_CREATED)


def derive(
    source: Item, seen: int, pieces: list[int], name: str, *, each: bool, take_out: bool, by: User
) -> tuple[list[Item], ItemJob | None]:
    """Make an item of some pieces of another one, or of all of it, or one of each piece.

    Returns what is made, and the work by which the pieces leave the other one if they do.

    Raises
    ------
    Conflict, MovedOn
        If the item is no longer what the person saw, or cannot be worked on now.
    """
    with transaction.atomic():
        with at_revision(source, seen) as piece:
            assert piece.examination is not None
            assert piece.current is not None
            known = {one["number"]: one for one in piece.examination.report["pieces"]}
            if not set(pieces) <= known.keys():
                raise Conflict("There is no such piece.")
            if take_out and set(pieces) in (set(), set(known)):
                raise Conflict("Nothing would be left of the item; leave the pieces in it, too.")
            base = piece.current
        if each:
            called = {n: one.get("name", "") for n, one in known.items()} | names_of(source)
            parts = [
                ([n], called[n] or f"{source.name[: LONGEST_NAME - 15]}, piece {n}") for n in pieces
            ]
        else:
            parts = [(pieces, name)]
        made = [_made_of(base, numbers, name, by) for numbers, name in parts]
        leaving = None
        if take_out:
            leaving = start_at(
                source,
                seen,
                by,
                kind=ItemJob.Kind.OPERATE,
                title=operation(TAKE_OUT).past,
                parameters={"operation": TAKE_OUT, "parameters": {"pieces": pieces}},
            )
    return made, leaving


def _made_of(base: Revision, pieces: list[int], name: str, by: User) -> Item:
    """An item of some pieces of a revision, or of all of it, with what is known of them."""
    source = base.item
    made = Item.objects.create(
        order=source.order,
        name=name[:LONGEST_NAME],
        material=source.material,
        quantity=source.quantity,
        file_name=source.file_name,
        received_path=source.received_path,
        received_bytes=source.received_bytes,
    )
    Workpiece.objects.create(item=made)
    for number, called in names_of(source).items():
        if not pieces or number in pieces:
            PieceName.objects.create(item=made, number=number, name=called, by=by)
    _start(made, base, pieces, by)
    return made


def _start(item: Item, base: Revision, pieces: list[int], by: User) -> None:
    """Queue the making of an item's first revision."""
    of = f"{base.item.name}, revision {base.number}"
    start(
        ItemJob,
        subject=f"item {item.pk}",
        item=item,
        kind=ItemJob.Kind.DERIVE,
        title=f"of {of}"[:120],
        parameters={"source": base.pk, "pieces": pieces},
        made_by=by,
    )

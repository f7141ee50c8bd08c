"""Items of an order that were scaled otherwise than the others: what came together should fit."""

from typing import Any

from caulkcore.io.units import MILLIMETRES
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from orders.models import Item
from rest_framework import serializers
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Revision, Workpiece

_SCALE = "scale"
"""The operation that makes everything larger or smaller by one factor."""
MOST = 50
"""Items that are named; of more only how many."""
_SAME = 1e-4
"""Share by which two factors may differ and still be one."""


class SiblingSerializer(serializers.Serializer[Any]):
    """Another item of the order, and how many times as large it is as its file has it."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    factor = serializers.FloatField()


class SiblingsSerializer(serializers.Serializer[Any]):
    """How an item is scaled beside the others of its order."""

    factor = serializers.FloatField(help_text="Times as large as its numbers in millimetres.")
    unequal = SiblingSerializer(many=True, help_text="Those that have another factor.")
    count = serializers.IntegerField(help_text="How many have another one.")
    equal = serializers.IntegerField(help_text="How many others have the same.")


class SiblingsView(APIView):
    """Which items of the order are scaled otherwise than this one."""

    permission_classes = [IsAuthenticated]

    @extend_schema(responses=SiblingsSerializer)
    def get(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        factors = factors_of_order(item.order_id)
        own = factors.get(item.pk, 1.0)
        others = {key: one for key, one in factors.items() if key != item.pk}
        unequal = [k for k, one in others.items() if abs(one - own) > _SAME * max(one, own)]
        names = Item.objects.in_bulk(unequal[:MOST])
        told = {
            "factor": own,
            "unequal": [
                {"id": key, "name": names[key].name, "factor": factors[key]}
                for key in unequal[:MOST]
            ],
            "count": len(unequal),
            "equal": len(others) - len(unequal),
        }
        return Response(SiblingsSerializer(told).data)


def factors_of_order(order: int) -> dict[int, float]:
    """How many times as large each item of an order is as its numbers, read in millimetres.

    Of those that have been read and are not set aside, by key. Where a file tells its unit itself,
    that is no factor.
    """
    pieces = Workpiece.objects.filter(item__order=order, item__set_aside=False)
    current = pieces.exclude(current=None).values_list("item_id", "current_id", "current__unit")
    scaled = Revision.objects.filter(item__order=order, operation=_SCALE)
    volumes = {
        row["pk"]: (row["account__volume_mm3"], row["account__area_mm2"])
        for row in scaled.values("pk", "account__volume_mm3", "account__area_mm2")
    }
    parents = (
        dict(Revision.objects.filter(item__order=order).values_list("pk", "parent_id"))
        if volumes
        else {}
    )
    factors: dict[int, float] = {}
    at: int | None
    for key, at, unit in current:
        factor = 1.0 if unit["source"] == "file" else MILLIMETRES[unit["unit"]]
        while at is not None and volumes:
            if at in volumes:
                factor *= _grown(*volumes[at])
            at = parents.get(at)
        factors[key] = factor
    return factors


def _grown(volume: dict[str, float], area: dict[str, float]) -> float:
    """By what everything was made larger, from what became of its volume or its area."""
    if volume["before"] and volume["after"] / volume["before"] > 0:
        return float((volume["after"] / volume["before"]) ** (1 / 3))
    return float((area["after"] / area["before"]) ** 0.5) if area["before"] else 1.0

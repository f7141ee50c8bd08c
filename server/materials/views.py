"""Materials with their rule sheets, and machines: read by all, changed by the lead."""

from itertools import pairwise
from typing import Any

from api.forms import checked
from caulkjob.rule_sheets import DEMANDS
from caulkjob.shop_policy import SETTINGS
from django.db import transaction
from django.db.models import Max, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from people.permissions import LeadChanges
from rest_framework import generics, viewsets
from rest_framework.exceptions import ValidationError
from rest_framework.renderers import JSONRenderer
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import BaseSerializer
from rest_framework.views import APIView

from .models import Machine, Material, ShopSettings
from .serializers import (
    BringSerializer,
    BroughtSerializer,
    DemandSerializer,
    EditionSerializer,
    EditSerializer,
    MachineSerializer,
    MaterialSerializer,
    SettleSerializer,
    ShopSerializer,
)
from .signals import standard_changed


def _materials() -> QuerySet[Material]:
    return Material.objects.annotate(edition=Max("editions__number"))


class MaterialsView(generics.ListAPIView[Material]):
    """All materials by name, with the sheets that hold."""

    serializer_class = MaterialSerializer

    def get_queryset(self) -> QuerySet[Material]:
        return _materials()


class DemandsView(APIView):
    """The numbers of a rule sheet and their limits, as the core describes them."""

    @extend_schema(responses=DemandSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(DemandSerializer(DEMANDS, many=True).data)


class MaterialView(APIView):
    """Changes a material's rule sheet; the one that held before stays as an edition."""

    permission_classes = [LeadChanges]

    @extend_schema(request=EditSerializer, responses=MaterialSerializer)
    def put(self, request: Request, key: str) -> Response:
        given = checked(EditSerializer, request.data)
        sheet = given["rules"]
        if sheet.key != key:
            raise ValidationError("The key of a material stays as it is.")
        get_object_or_404(Material, key=key)
        Material.take(sheet, request.user, given["why"])  # type: ignore[arg-type]
        return Response(MaterialSerializer(_materials().get(key=key)).data)


class EditionsView(APIView):
    """All sheets that ever held for a material, the last first."""

    @extend_schema(responses=EditionSerializer(many=True))
    def get(self, request: Request, key: str) -> Response:
        material = get_object_or_404(Material, key=key)
        editions = list(material.editions.select_related("by"))
        before = {one.number: old for one, old in pairwise(editions)}
        return Response(EditionSerializer(editions, many=True, context={"before": before}).data)


class BringView(APIView):
    """Takes sheets from a file: new materials, and new editions of known ones."""

    permission_classes = [LeadChanges]

    @extend_schema(request=BringSerializer, responses=BroughtSerializer)
    def post(self, request: Request) -> Response:
        given = checked(BringSerializer, request.data)
        sheets = given["sheets"]
        if len({one.key for one in sheets}) < len(sheets):
            raise ValidationError("Two of the sheets have the same key.")
        told: dict[str, list[str]] = {"changed": [], "unchanged": []}
        with transaction.atomic():
            for sheet in sheets:
                held = Material.objects.filter(key=sheet.key, rules=sheet.as_json()).exists()
                told["unchanged" if held else "changed"].append(sheet.name)
                Material.take(sheet, request.user, given["why"])  # type: ignore[arg-type]
        return Response(told)


class TakeAwayView(APIView):
    """The sheets that hold, as a file that can be brought in elsewhere."""

    @extend_schema(responses={(200, "application/json"): OpenApiTypes.BINARY})
    def get(self, request: Request) -> Any:
        sheets = list(Material.objects.exclude(rules=None).values_list("rules", flat=True))
        text = JSONRenderer().render({"sheets": sheets}, "application/json; indent=1")
        name = f"rule-sheets-{timezone.localdate():%Y-%m-%d}.json"
        disposition = {"Content-Disposition": f'attachment; filename="{name}"'}
        return HttpResponse(text, content_type="application/json", headers=disposition)


class ShopView(APIView):
    """The shop's limits and policy: what counts as debris or a near gap, what mending decides."""

    permission_classes = [LeadChanges]

    @extend_schema(responses=ShopSerializer)
    def get(self, request: Request) -> Response:
        last = ShopSettings.objects.select_related("by").first()
        told = {
            "values": ShopSettings.now().as_json(),
            "settings": SETTINGS,
            "by": last.by.get_full_name() if last and last.by else "",
            "at": last.at if last else None,
        }
        return Response(ShopSerializer(told).data)

    @extend_schema(request=SettleSerializer, responses=ShopSerializer)
    def put(self, request: Request) -> Response:
        given = checked(SettleSerializer, request.data)
        shop = given["values"]
        if shop != ShopSettings.now():
            with transaction.atomic():
                ShopSettings.objects.create(values=shop.as_json(), by=request.user)  # type: ignore[misc]
                standard_changed.send(ShopSettings)
        return self.get(request)


class MachinesView(viewsets.ModelViewSet[Machine]):
    """The shop's machines."""

    permission_classes = [LeadChanges]
    queryset = Machine.objects.all()
    serializer_class = MachineSerializer
    http_method_names = ["get", "post", "put", "delete", "head", "options"]

    @transaction.atomic
    def perform_create(self, serializer: BaseSerializer[Machine]) -> None:
        serializer.save()
        standard_changed.send(Machine)

    @transaction.atomic
    def perform_update(self, serializer: BaseSerializer[Machine]) -> None:
        serializer.save()
        standard_changed.send(Machine)

    @transaction.atomic
    def perform_destroy(self, instance: Machine) -> None:
        instance.delete()
        standard_changed.send(Machine)

"""Items: all of them, one with all that is known of it, and files as they come in."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, cast

from api.exception_handler import TooLarge
from bench.jobs import receive
from bench.models import ItemJob
from caulkcore.io.files import READERS, suffix_of
from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.models import Prefetch, QuerySet
from django.http import FileResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from materials.models import Material
from orders.models import Item, Order
from rest_framework import generics, status
from rest_framework.exceptions import ValidationError
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from work.blobs import keep

from .serializers import ItemLineSerializer, ItemSerializer, UploadSerializer

_ROOM_FOR_FORM = 20_000
"""Bytes that an upload may have beside the file's."""


def items() -> QuerySet[Item]:
    """Items with all that their lines need, in a fixed number of queries."""
    return Item.objects.select_related(
        "order__customer", "material", "workpiece__current"
    ).prefetch_related(
        "releases__by",
        "waivers__by",
        Prefetch("jobs", ItemJob.objects.order_by("-id")),
    )


class UploadView(APIView):
    """Adds a file to an order; it becomes an item."""

    parser_classes = [MultiPartParser]

    @extend_schema(
        request={"multipart/form-data": UploadSerializer}, responses={201: ItemLineSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        order = get_object_or_404(Order, pk=pk)
        limit = settings.MAX_UPLOAD_BYTES
        length = int(request.META.get("CONTENT_LENGTH") or 0)
        if length > limit + _ROOM_FOR_FORM:
            raise TooLarge(
                f"The file has {length / 1e6:,.0f} MB; the limit is {limit / 1e6:,.0f} MB."
            )
        form = UploadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        file = given["file"]
        name = Path(file.name).name
        suffix = suffix_of(name, READERS)
        material = Material.objects.filter(key=given["material"]).first()
        if material is None:
            raise ValidationError("There is no such material.")
        path = keep(file, suffix)
        with transaction.atomic():
            item = Item.objects.create(
                order=order,
                name=_spoken(name),
                material=material,
                quantity=given["quantity"],
                file_name=name,
                received_path=path,
                received_bytes=file.size,
            )
            receive(item, cast(User, request.user))
        line = ItemLineSerializer(items().get(pk=item.pk)).data
        return Response(line, status=status.HTTP_201_CREATED)


def _spoken(file_name: str) -> str:
    words = Path(file_name).stem.replace("_", " ").replace("-", " ").split()
    return " ".join(words).capitalize() or "Unnamed"


class ItemsView(generics.ListAPIView[Item]):
    """All items, by due date."""

    serializer_class = ItemLineSerializer

    def get_queryset(self) -> QuerySet[Item]:
        return items()


@contextmanager
def _at_one_moment() -> Iterator[None]:
    """What is read within is as it was at one moment, however many queries that takes."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


class ItemView(generics.RetrieveUpdateAPIView[Item]):
    """One item with its revisions."""

    serializer_class = ItemSerializer
    http_method_names = ["get", "patch", "head", "options"]

    def get_queryset(self) -> QuerySet[Item]:
        return items().prefetch_related("revisions__made_by")

    def retrieve(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """The item; a revision that is entered meanwhile is there and current, or neither."""
        with _at_one_moment():
            return super().retrieve(request, *args, **kwargs)


class ReceivedView(APIView):
    """The file exactly as it was received."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> Any:
        item = get_object_or_404(Item, pk=pk)
        stream = default_storage.open(item.received_path)
        return FileResponse(stream, as_attachment=True, filename=item.file_name)

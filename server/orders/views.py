"""Orders, items, and files as they come in."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from bench import tasks
from bench.files import keep
from bench.models import Job
from caulkcore.formats import READERS, suffix_of
from config.errors import TooLarge
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import IntegrityError, connection, transaction
from django.db.models import Prefetch, QuerySet
from django.http import FileResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from materials.models import Material
from rest_framework import generics, status
from rest_framework.exceptions import ValidationError
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Customer, Item, Order
from .serializers import (
    CustomerSerializer,
    ItemLineSerializer,
    ItemSerializer,
    NewOrderSerializer,
    OrderSerializer,
    UploadSerializer,
)

_ROOM_FOR_FORM = 20_000


def items() -> QuerySet[Item]:
    """Items with all that their lines need, in a fixed number of queries."""
    return Item.objects.select_related("order__customer", "material", "current").prefetch_related(
        "releases__by",
        "waivers__by",
        Prefetch("jobs", Job.objects.order_by("-id")),
    )


class CustomersView(generics.ListAPIView[Customer]):
    """Customers by name."""

    queryset = Customer.objects.all()
    serializer_class = CustomerSerializer


class OrdersView(generics.ListAPIView[Order]):
    """Orders by due date; new ones."""

    queryset = Order.objects.select_related("customer")
    serializer_class = OrderSerializer

    @extend_schema(request=NewOrderSerializer, responses={201: OrderSerializer})
    def post(self, request: Request) -> Response:
        form = NewOrderSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        for _ in range(5):
            try:
                with transaction.atomic():
                    customer, _made = Customer.objects.get_or_create(name=given["customer"])
                    order = Order.objects.create(
                        number=Order.next_number(),
                        customer=customer,
                        due=given["due"],
                        note=given["note"],
                    )
            except IntegrityError:
                continue  # somebody took the number at the same moment
            return Response(OrderSerializer(order).data, status=status.HTTP_201_CREATED)
        raise ValidationError("Too many orders at once; try again.")


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
            tasks.start(item=item, kind=Job.Kind.RECEIVE, title="as received", made_by=request.user)
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

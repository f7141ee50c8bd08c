"""Items: all of them, one with all that is known of it, and files as they come in."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, cast

from api.downloads import Download
from api.exception_handler import Conflict
from api.forms import ReasonSerializer, checked
from bench.jobs import receive, receive_again, refuse_while_at_work
from bench.models import Decision, Examination, Workpiece
from bench.serializers import JobSerializer
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.models import Prefetch, QuerySet
from django.shortcuts import get_object_or_404
from django_filters.rest_framework import DjangoFilterBackend
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from orders.models import Customer, Item, Order
from people.permissions import OnlyLead
from rest_framework import generics, status
from rest_framework.pagination import PageNumberPagination
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .filters import ItemFilter, counts, in_order, listed
from .queries import rows, whole
from .removal import remove_customer, remove_order
from .serializers import (
    CountsSerializer,
    ItemLineSerializer,
    ItemSerializer,
    OutcomeSerializer,
    ReplaceSerializer,
    TakenInSerializer,
    TogetherSerializer,
    UploadSerializer,
)
from .summaries import tell_what_is_due
from .together import act_on_each
from .uploads import received, received_together, spoken, spoken_together


class UploadView(APIView):
    """Adds a file to an order; it becomes an item, and so do several that are sent together.

    Of several each is a piece, or more, at the place that its coordinates give.
    """

    parser_classes = [MultiPartParser]

    @extend_schema(
        request={"multipart/form-data": UploadSerializer}, responses={201: TakenInSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        order = get_object_or_404(Order, pk=pk)
        given = checked(UploadSerializer, request.data)
        files = given["file"]
        if len(files) > 1:
            name = given["name"] or spoken_together(files)
            kept = received_together(files, name)
        else:
            kept = received(files[0])
            name = given["name"] or spoken(kept.file_name)
        with transaction.atomic():
            item = Item.objects.create(
                order=order,
                name=name,
                material=given["material"],
                quantity=given["quantity"],
                file_name=kept.file_name,
                received_path=kept.path,
                received_bytes=kept.size,
            )
            receive(item, cast(User, request.user))
        return Response(TakenInSerializer(item).data, status=status.HTTP_201_CREATED)


class ReplaceView(APIView):
    """Takes another file in place of one that could not be read; that one is kept, too."""

    parser_classes = [MultiPartParser]

    @extend_schema(
        request={"multipart/form-data": ReplaceSerializer}, responses={202: JobSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        get_object_or_404(Item, pk=pk)
        given = checked(ReplaceSerializer, request.data)
        kept = received(given["file"])
        by = cast(User, request.user)
        with _not_read(pk) as item:
            Decision.objects.create(
                item=item,
                act=Decision.Act.REPLACE,
                reason=given["reason"],
                by=by,
                about={"from": item.file_name, "to": kept.file_name, "kept": item.received_path},
            )
            item.file_name, item.received_path = kept.file_name, kept.path
            item.received_bytes = kept.size
            item.set_aside = False
            item.save()
            job = receive(item, by)
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class ReadAgainView(APIView):
    """Reads an item's file once more, as when that was stopped or fell on a fault of ours.

    An item that is made of another one's pieces is made of them once more.
    """

    @extend_schema(request=None, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        get_object_or_404(Item, pk=pk)
        with _not_read(pk) as item:
            job = receive_again(item, cast(User, request.user))
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


@contextmanager
def _not_read(pk: int) -> Iterator[Item]:
    """Hold an item that has no mesh, to have a file of it read; what went wrong is forgotten.

    Raises
    ------
    Conflict
        If it has a mesh, or its file is being read.
    """
    with transaction.atomic():
        piece = Workpiece.objects.select_for_update().get(item=pk)
        item = Item.objects.select_for_update().get(pk=pk)
        refuse_while_at_work(item)
        if piece.current_id is not None:
            raise Conflict("This item has been read; a corrected file is an item of its own.")
        piece.problem = ""
        piece.save(update_fields=["problem"])
        yield item


class _Pages(PageNumberPagination):
    page_size = 100
    page_size_query_param = "size"
    max_page_size = 500


class ItemsView(generics.ListAPIView[Item]):
    """Items, narrowed and sorted; a page of them at a time."""

    serializer_class = ItemLineSerializer
    pagination_class = _Pages
    filterset_class = ItemFilter
    filter_backends = [DjangoFilterBackend]

    def get_queryset(self) -> QuerySet[Item]:
        return in_order(listed(), "due")

    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        tell_what_is_due()
        # first which ones, then what they are like: sorting carries keys only
        found = self.filter_queryset(self.get_queryset())
        keys = self.paginate_queryset(found.values_list("pk", flat=True)) or []
        there = rows().in_bulk(list(keys))
        page = [there[key] for key in keys if key in there]
        return self.get_paginated_response(self.get_serializer(page, many=True).data)


class CountsView(APIView):
    """How many items each of the day's lists holds, and each customer has to do."""

    @extend_schema(responses=CountsSerializer)
    def get(self, request: Request) -> Response:
        tell_what_is_due()
        return Response(CountsSerializer(counts()).data)


class RemoveOrderView(APIView):
    """Removes an order with all that belongs to it, once it has been kept long enough."""

    permission_classes = [OnlyLead]

    @extend_schema(request=ReasonSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        order = get_object_or_404(Order, pk=pk)
        given = checked(ReasonSerializer, request.data)
        remove_order(order, given["reason"], cast(User, request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)


class RemoveCustomerView(APIView):
    """Removes all that a customer ever sent, and the name."""

    permission_classes = [OnlyLead]

    @extend_schema(request=ReasonSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        customer = get_object_or_404(Customer, pk=pk)
        given = checked(ReasonSerializer, request.data)
        remove_customer(customer, given["reason"], cast(User, request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)


class TogetherView(APIView):
    """Does one thing for several items; tells of each whether it was done."""

    @extend_schema(request=TogetherSerializer, responses=OutcomeSerializer(many=True))
    def post(self, request: Request) -> Response:
        given = checked(TogetherSerializer, request.data)
        told = act_on_each(given["items"], given, cast(User, request.user))
        return Response(OutcomeSerializer(told, many=True).data)


@contextmanager
def _at_one_moment() -> Iterator[None]:
    """What is read within is as it was at one moment, however many queries that takes."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


class ItemView(generics.RetrieveAPIView[Item]):
    """One item with its revisions."""

    serializer_class = ItemSerializer

    def get_queryset(self) -> QuerySet[Item]:
        return whole([self.kwargs["pk"]]).prefetch_related(
            "comments__by",
            "revisions__made_by",
            "revisions__notes",
            Prefetch("revisions__examinations", Examination.outlines()),
            "decisions__material",
            "decisions__revision",
            "decisions__withdraws",
            "decisions__withdrawals",
            "letters__by",
        )

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
        return Download(stream, as_attachment=True, filename=item.file_name)

"""Items: all of them, one with all that is known of it, and files as they come in."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, cast

from api.exception_handler import Conflict, TooLarge
from bench.jobs import receive, refuse_while_at_work
from bench.models import Decision, Examination, ItemJob, Workpiece
from bench.serializers import JobSerializer
from bench.standard import Standard
from caulkcore.io.files import READERS, suffix_of
from dispatch.models import Release
from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.models import Prefetch, Q, QuerySet
from django.http import FileResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from orders.models import Item, Order
from rest_framework import generics, status
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import Serializer
from rest_framework.views import APIView
from work.blobs import keep

from .serializers import (
    ItemLineSerializer,
    ItemSerializer,
    ReplaceSerializer,
    UploadSerializer,
)

_ROOM_FOR_FORM = 20_000
"""Bytes that an upload may have beside the file's."""


def items() -> QuerySet[Item]:
    """Items with all that their lines need, in a fixed number of queries."""
    return Item.objects.select_related(
        "order__customer", "material", "workpiece__current", "workpiece__examination"
    ).prefetch_related(
        Prefetch("releases", _releases),
        "decisions__by",
        Prefetch("jobs", _last_jobs()),
    )


def lines() -> QuerySet[Item]:
    """The same without what only the bench needs: reports, accounts."""
    return items().defer(
        "workpiece__examination__report",
        *(f"workpiece__current__{name}" for name in ("account", "steps", "left", "parameters")),
    )


def _load_reports(every: list[Item]) -> None:
    """Fetch the reports of those of which something was decided, all at once."""
    decided = {
        one.workpiece.examination.pk: one.workpiece.examination
        for one in every
        if one.workpiece.examination is not None and one.decisions.all()
    }
    found = Examination.objects.filter(pk__in=list(decided)).values_list("pk", "report")
    for key, report in found:
        decided[key].report = report


_releases = Release.objects.select_related("by", "revision", "withdrawal__by").defer(
    "report", "letter", "decisions", "standard", "revision__account", "revision__steps"
)


def _last_jobs() -> QuerySet[ItemJob]:
    """Of each item the last work, and the last judging behind it."""
    each = ItemJob.objects.order_by("item_id", "-id").distinct("item_id").values("pk")
    work, judging = each.exclude(kind=ItemJob.Kind.JUDGE), each.filter(kind=ItemJob.Kind.JUDGE)
    last = ItemJob.objects.filter(Q(pk__in=work) | Q(pk__in=judging))
    return last.order_by("-id").select_related("made_by", "item")


def _received(request: Request, form: Serializer[Any]) -> tuple[str, str, int]:
    """The file of an upload: its name, where it is kept, and its size.

    Raises
    ------
    TooLarge
        If it is larger than the limit.
    ValidationError, RefusedInput
        If the form is not right, or the format is none that is read.
    """
    limit = settings.MAX_UPLOAD_BYTES
    length = int(request.META.get("CONTENT_LENGTH") or 0)
    if length > limit + _ROOM_FOR_FORM:
        raise TooLarge(f"The file has {length / 1e6:,.0f} MB; the limit is {limit / 1e6:,.0f} MB.")
    form.is_valid(raise_exception=True)
    file = form.validated_data["file"]
    name = _kept_name(Path(file.name).name)
    return name, keep(file, suffix_of(name, READERS)), file.size


class UploadView(APIView):
    """Adds a file to an order; it becomes an item."""

    parser_classes = [MultiPartParser]

    @extend_schema(
        request={"multipart/form-data": UploadSerializer}, responses={201: ItemLineSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        order = get_object_or_404(Order, pk=pk)
        form = UploadSerializer(data=request.data)
        name, path, size = _received(request, form)
        given = form.validated_data
        with transaction.atomic():
            item = Item.objects.create(
                order=order,
                name=_spoken(name),
                material=given["material"],
                quantity=given["quantity"],
                file_name=name,
                received_path=path,
                received_bytes=size,
            )
            receive(item, cast(User, request.user))
        line = ItemLineSerializer(items().get(pk=item.pk)).data
        return Response(line, status=status.HTTP_201_CREATED)


class ReplaceView(APIView):
    """Takes another file in place of one that could not be read; that one is kept, too."""

    parser_classes = [MultiPartParser]

    @extend_schema(
        request={"multipart/form-data": ReplaceSerializer}, responses={202: JobSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        get_object_or_404(Item, pk=pk)
        form = ReplaceSerializer(data=request.data)
        name, path, size = _received(request, form)
        by = cast(User, request.user)
        with transaction.atomic():
            piece = Workpiece.objects.select_for_update().get(item=pk)
            item = Item.objects.select_for_update().get(pk=pk)
            refuse_while_at_work(item)
            if piece.current_id is not None:
                raise Conflict("This item has been read; a corrected file is an item of its own.")
            Decision.objects.create(
                item=item,
                act=Decision.Act.REPLACE,
                reason=form.validated_data["reason"],
                by=by,
                about={"from": item.file_name, "to": name, "kept": item.received_path},
            )
            item.file_name, item.received_path, item.received_bytes = name, path, size
            item.set_aside = False
            item.save()
            piece.problem = ""
            piece.save(update_fields=["problem"])
            job = receive(item, by)
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


def _kept_name(file_name: str) -> str:
    """A file's name as it is kept: the end of one that is longer than the table takes."""
    longest = Item._meta.get_field("file_name").max_length
    return file_name[-(longest or 0) :]


def _spoken(file_name: str) -> str:
    words = Path(file_name).stem.replace("_", " ").replace("-", " ").split()
    longest = Item._meta.get_field("name").max_length
    return " ".join(words).capitalize()[:longest].strip() or "Unnamed"


class ItemsView(generics.ListAPIView[Item]):
    """All items, by due date."""

    serializer_class = ItemLineSerializer

    def get_queryset(self) -> QuerySet[Item]:
        return lines()

    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        every = list(self.get_queryset())
        _load_reports(every)
        return Response(self.get_serializer(every, many=True).data)

    def get_serializer_context(self) -> dict[str, Any]:
        # what holds now is asked once for all of them
        return {**super().get_serializer_context(), "standard": Standard.now()}


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
        return items().prefetch_related(
            "revisions__made_by",
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
        return FileResponse(stream, as_attachment=True, filename=item.file_name)

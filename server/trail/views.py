"""What happened to an item, and in the shop, to be read and taken away."""

import csv
from collections.abc import Iterable, Iterator
from typing import Any

from api.forms import checked
from django.http import StreamingHttpResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from people.permissions import OnlyLead
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .entries import Entry, entries

_PAGE = 100


class EntrySerializer(serializers.Serializer[Any]):
    """One thing that happened."""

    at = serializers.DateTimeField()
    by = serializers.CharField(help_text="Empty where nobody was logged in.")
    what = serializers.CharField()
    item = serializers.IntegerField(allow_null=True)
    text = serializers.CharField()


class AskSerializer(serializers.Serializer[Any]):
    before = serializers.DateTimeField(required=False)


class _Echo:
    """A file that gives back what is written to it."""

    def write(self, line: str) -> str:
        return line


def _file(told: Iterable[Entry], name: str) -> StreamingHttpResponse:
    def lines() -> Iterator[str]:
        table = csv.writer(_Echo())
        yield table.writerow(["at", "by", "what", "item", "text"])
        for one in told:
            yield table.writerow([one.at.isoformat(), one.by, one.what, one.item, _safe(one.text)])

    disposition = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return StreamingHttpResponse(lines(), content_type="text/csv", headers=disposition)


def _safe(text: str) -> str:
    """A cell that no table program takes for a formula."""
    return f"'{text}" if text[:1] in "=+-@" else text


_CSV = {(200, "text/csv"): OpenApiTypes.BINARY}


class ItemTrailView(APIView):
    """What happened to one item, the last first."""

    @extend_schema(responses=EntrySerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        return Response(EntrySerializer(entries(item=pk), many=True).data)


class ItemTrailFileView(APIView):
    """The same as a table."""

    @extend_schema(responses=_CSV)
    def get(self, request: Request, pk: int) -> Any:
        return _file(entries(item=pk), f"trail-of-item-{pk}")


class TrailView(APIView):
    """What happened in the shop, the last first, a page at a time."""

    permission_classes = [OnlyLead]

    @extend_schema(
        parameters=[OpenApiParameter("before", OpenApiTypes.DATETIME)],
        responses=EntrySerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        given = checked(AskSerializer, request.query_params)
        told = entries(before=given.get("before"), most=_PAGE)
        return Response(EntrySerializer(told, many=True).data)


class TrailFileView(APIView):
    """All of it as a table."""

    permission_classes = [OnlyLead]

    @extend_schema(responses=_CSV)
    def get(self, request: Request) -> Any:
        return _file(entries(), f"trail-{timezone.localdate():%Y-%m-%d}")

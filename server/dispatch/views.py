"""Releasing an item, and fetching what was released."""

from typing import Any

from api.exception_handler import Conflict
from bench.jobs import start_on_current
from bench.models import ItemJob
from bench.serializers import JobSerializer
from caulkcore.io.files import WRITERS
from django.core.files.storage import default_storage
from django.http import FileResponse, HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from orders.models import Item
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Release
from .rules import blocked_by

FORMATS = tuple(suffix[1:] for suffix in WRITERS if suffix != ".off")


class ReleaseSerializer(serializers.Serializer[Any]):
    format = serializers.ChoiceField(FORMATS)


class ReleaseView(APIView):
    """Writes the file as it will be delivered, reads it back, examines it, and signs it off."""

    @extend_schema(request=ReleaseSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item.objects.select_related("workpiece__current"), pk=pk)
        form = ReleaseSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        blocked = blocked_by(item)
        if blocked:
            reasons = "; ".join(f"{s.title}: {s.text} ({s.state})" for s in blocked)
            raise Conflict(f"This item cannot be released yet. {reasons}.")
        job = start_on_current(
            item,
            request.user,
            kind=ItemJob.Kind.RELEASE,
            title="released",
            parameters={"format": form.validated_data["format"], "name": item.name},
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class FileView(APIView):
    """The file as delivered."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> Any:
        release = get_object_or_404(Release, pk=pk)
        stream = default_storage.open(release.file_path)
        return FileResponse(stream, as_attachment=True, filename=release.file_name)


class LetterView(APIView):
    """The letter to the customer."""

    @extend_schema(responses={(200, "text/html"): OpenApiTypes.STR})
    def get(self, request: Request, pk: int) -> Any:
        return HttpResponse(get_object_or_404(Release, pk=pk).letter)

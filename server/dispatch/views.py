"""Releasing an item, taking that back, fetching what was released, writing to the customer."""

from typing import Any

from api.downloads import Download
from api.exception_handler import Conflict
from api.forms import ReasonSerializer, checked
from bench.jobs import at_revision, start_at
from bench.models import ItemJob
from bench.serializers import JobSerializer
from bench.standard import Standard
from csp.constants import NONE, SELF, UNSAFE_INLINE
from csp.decorators import csp
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.decorators import method_decorator
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from orders.models import Item
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .letter import LetterText, page, proposed, withdrawn
from .models import Letter, Release, Withdrawal
from .release import delivered_name, relied_on, rests_on
from .rules import blocked_by
from .serializers import (
    FORMATS,
    LetterLineSerializer,
    LetterSerializer,
    ProposalSerializer,
    ReleaseLineSerializer,
    ReleaseSerializer,
)


def _item(pk: int) -> Item:
    items = Item.objects.select_related(
        "order__customer", "material", "workpiece__current", "workpiece__examination"
    )
    return get_object_or_404(items.prefetch_related("decisions", "jobs"), pk=pk)


class ReleaseView(APIView):
    """Writes the file as it will be delivered, reads it back, examines it, and signs it off."""

    @extend_schema(responses=ProposalSerializer)
    def get(self, request: Request, pk: int) -> Response:
        item = _item(pk)
        current, examination = item.workpiece.current, item.workpiece.examination
        if current is None or examination is None:
            raise Conflict("This item has no mesh to work on yet.")
        first = Standard.now().shop.format
        formats = sorted(FORMATS, key=lambda one: (one != first, one != "3mf"))
        told = {
            "revision": current.pk,
            "rests_on": rests_on(item),
            "offers": [
                {"format": one, "file_name": delivered_name(item, current, one)} for one in formats
            ],
            "letter": vars(proposed(item, current, relied_on(item, examination.report))),
        }
        return Response(ProposalSerializer(told).data)

    @extend_schema(request=ReleaseSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        given = checked(ReleaseSerializer, request.data)
        # nobody decides or moves anything between the question and the start
        with at_revision(get_object_or_404(Item, pk=pk), given["revision"]):
            item = _item(pk)
            if item.set_aside:
                raise Conflict("This item was set aside; take it up again first.")
            blocked = blocked_by(item, Standard.now())
            if blocked:
                reasons = "; ".join(f"{s.title}: {s.text} ({s.state})" for s in blocked)
                raise Conflict(f"This item cannot be released yet. {reasons}.")
            if given["rests_on"] != rests_on(item):
                raise Conflict(
                    "Something was decided or judged anew since you read this; read it again."
                )
            job = start_at(
                item,
                given["revision"],
                request.user,
                kind=ItemJob.Kind.RELEASE,
                title="released",
                parameters={
                    "format": given["format"],
                    "name": item.name,
                    "letter": dict(given["letter"]),
                },
            )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class TakeBackView(APIView):
    """Withdraws a release, with a reason; its letter says so from then on."""

    @extend_schema(request=ReasonSerializer, responses={201: ReleaseLineSerializer})
    def post(self, request: Request, pk: int) -> Response:
        release = get_object_or_404(Release, pk=pk)
        given = checked(ReasonSerializer, request.data)
        try:
            with transaction.atomic():
                Withdrawal.objects.create(
                    release=release,
                    reason=given["reason"],
                    by=request.user,  # type: ignore[misc]
                )
        except IntegrityError:
            raise Conflict("This release has been withdrawn already.") from None
        told = ReleaseLineSerializer(Release.objects.get(pk=pk)).data
        return Response(told, status=status.HTTP_201_CREATED)


class FileView(APIView):
    """The file as delivered; of a release that was withdrawn, its name says so."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> Any:
        release = get_object_or_404(Release.objects.select_related("withdrawal"), pk=pk)
        stream = default_storage.open(release.file_path)
        name = release.file_name if release.holds else f"WITHDRAWN_{release.file_name}"
        return Download(stream, as_attachment=True, filename=name)


_A_LETTER_MAY = method_decorator(
    csp({"default-src": [NONE], "style-src": [UNSAFE_INLINE], "frame-ancestors": [SELF]}),
    name="dispatch",
)
"""A letter is a page of its own, which carries its style in it and nothing else that acts."""


@_A_LETTER_MAY
class LetterView(APIView):
    """The letter to the customer."""

    @extend_schema(responses={(200, "text/html"): OpenApiTypes.STR})
    def get(self, request: Request, pk: int) -> Any:
        release = get_object_or_404(Release.objects.select_related("withdrawal"), pk=pk)
        if release.holds:
            return HttpResponse(release.letter)
        at = timezone.localtime(release.withdrawal.at)
        return HttpResponse(withdrawn(release.letter, f"{at:%-d %B %Y, %H:%M}"))


class LettersView(APIView):
    """Writes to the customer about an item that cannot be printed as it came."""

    @extend_schema(request=LetterSerializer, responses={201: LetterLineSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = _item(pk)
        given = checked(LetterSerializer, request.data)
        text = LetterText(given["text"], "", "", "")
        at = timezone.localtime()
        letter = Letter.objects.create(
            item=item,
            revision=item.workpiece.current,
            html=page(item, text, by=request.user, at=at),
            by=request.user,  # type: ignore[misc]
        )
        return Response(LetterLineSerializer(letter).data, status=status.HTTP_201_CREATED)


@_A_LETTER_MAY
class LetterPageView(APIView):
    """A letter that was written about an item."""

    @extend_schema(responses={(200, "text/html"): OpenApiTypes.STR})
    def get(self, request: Request, pk: int) -> Any:
        return HttpResponse(get_object_or_404(Letter, pk=pk).html)

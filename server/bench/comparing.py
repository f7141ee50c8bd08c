"""How far any two revisions of an order are apart: asked for once, computed in the queue."""

from typing import Any, cast

from api.downloads import stored_for_ever
from api.forms import checked
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from work.tasks import start

from .models import Comparison, ItemJob, Revision
from .serializers import AccountSerializer, JobSerializer


class AgainstSerializer(serializers.Serializer[Any]):
    against = serializers.IntegerField(help_text="Key of another revision of the same order.")


class ComparisonSerializer(serializers.Serializer[Any]):
    """What is known of how far two revisions are apart."""

    account = AccountSerializer(
        allow_null=True, help_text="As if one had been made of the other; null until it is known."
    )
    job = JobSerializer(allow_null=True, help_text="The last work on it; null if there was none.")


def _pair(pk: int, against: int) -> tuple[Revision, Revision]:
    """A revision, and another one of the same order."""
    revision = get_object_or_404(Revision.objects.select_related("item"), pk=pk)
    of_order = Revision.objects.filter(item__order=revision.item.order_id)
    return revision, get_object_or_404(of_order.exclude(pk=pk), pk=against)


def _subject(revision: Revision, against: Revision) -> str:
    return f"comparing {revision.pk} with {against.pk}"


def _told(revision: Revision, against: Revision) -> Response:
    found = Comparison.objects.filter(revision=revision, against=against).first()
    jobs = ItemJob.objects.filter(subject=_subject(revision, against))
    job = jobs.select_related("item", "made_by").first()
    told = {"account": found.account if found else None, "job": job}
    return Response(ComparisonSerializer(told).data)


class ComparisonsView(APIView):
    """Has a revision compared with another one, unless that is known or under way."""

    @extend_schema(request=AgainstSerializer, responses=ComparisonSerializer)
    def post(self, request: Request, pk: int) -> Response:
        revision, against = _pair(pk, checked(AgainstSerializer, request.data)["against"])
        if not Comparison.objects.filter(revision=revision, against=against).exists():
            _start(revision, against, cast(User, request.user))
        return _told(revision, against)


def _start(revision: Revision, against: Revision, by: User) -> None:
    try:
        with transaction.atomic():
            start(
                ItemJob,
                subject=_subject(revision, against),
                item=revision.item,
                base=revision,
                kind=ItemJob.Kind.COMPARE,
                title=f"compared with {against.number}",
                parameters={"against": against.pk},
                made_by=by,
            )
    except IntegrityError:
        pass  # it is under way


class ComparisonView(APIView):
    """How far a revision is from another one, as far as that is known."""

    @extend_schema(responses=ComparisonSerializer)
    def get(self, request: Request, pk: int, against: int) -> Response:
        return _told(*_pair(pk, against))


class ComparedView(APIView):
    """Where a revision differs from another one, in the form of `bench.packing`."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int, against: int) -> Any:
        found = get_object_or_404(Comparison, revision=pk, against=against)
        # neither revision ever changes
        return stored_for_ever(found.changes_path)

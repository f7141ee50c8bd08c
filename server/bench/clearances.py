"""How two pieces of a revision lie to each other: asked for once, computed in the queue."""

from typing import Any, cast

from api.exception_handler import Conflict
from api.forms import checked
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from work.tasks import start

from .models import ItemJob, PieceClearance, Revision
from .serializers import JobSerializer, PointField


class TwoPiecesSerializer(serializers.Serializer[Any]):
    pieces = serializers.ListField(
        child=serializers.IntegerField(min_value=1),
        min_length=2,
        max_length=2,
        help_text="Numbers of two pieces.",
    )


class FacingSerializer(serializers.Serializer[Any]):
    """The gap where the skins of two pieces face each other, at points all over it."""

    area_mm2 = serializers.FloatField()
    mean_mm = serializers.FloatField()
    most_mm = serializers.FloatField()
    widest = PointField(help_text="Where it is widest.")
    spacing_mm = serializers.FloatField(help_text="How far the points are apart, about.")


class ToldClearanceSerializer(serializers.Serializer[Any]):
    """The gap between two pieces, or what they share."""

    gap_mm = serializers.FloatField(help_text="The least distance; nothing where they meet.")
    ends = serializers.ListField(child=PointField(), help_text="Where that is, on each of them.")
    shared_mm3 = serializers.FloatField()
    depth_mm = serializers.FloatField(help_text="How deep the one lies in the other at most.")
    deepest = PointField()
    facing = FacingSerializer(
        allow_null=True, default=None, help_text="Null where they meet, or face each other nowhere."
    )


class ClearanceSerializer(serializers.Serializer[Any]):
    """What is known of how two pieces lie to each other."""

    told = ToldClearanceSerializer(allow_null=True, help_text="Null until it is known.")
    job = JobSerializer(allow_null=True, help_text="The last work on it; null if there was none.")


def _answer(revision: Revision, pieces: list[int]) -> Response:
    first, second = pieces
    found = PieceClearance.objects.filter(revision=revision, first=first, second=second).first()
    jobs = ItemJob.objects.filter(subject=_subject(revision, pieces))
    job = jobs.select_related("item", "made_by").first()
    told = {"told": found.told if found else None, "job": job}
    return Response(ClearanceSerializer(told).data)


def _subject(revision: Revision, pieces: list[int]) -> str:
    return f"pieces {pieces[0]} and {pieces[1]} of {revision.pk}"


class ClearancesView(APIView):
    """Has two pieces of a revision measured, unless that is known or under way."""

    @extend_schema(request=TwoPiecesSerializer, responses=ClearanceSerializer)
    def post(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision.objects.select_related("item"), pk=pk)
        pieces = sorted(set(checked(TwoPiecesSerializer, request.data)["pieces"]))
        examination = revision.examinations.last()
        assert examination is not None, "every revision has been examined"
        numbers = {one["number"] for one in examination.report["pieces"]}
        if len(pieces) < 2 or not set(pieces) <= numbers:
            raise Conflict("There are no two such pieces.")
        known = PieceClearance.objects.filter(
            revision=revision, first=pieces[0], second=pieces[1]
        ).exists()
        if not known:
            try:
                with transaction.atomic():
                    start(
                        ItemJob,
                        subject=_subject(revision, pieces),
                        item=revision.item,
                        base=revision,
                        kind=ItemJob.Kind.MEASURE,
                        title=f"pieces {pieces[0]} and {pieces[1]} measured",
                        parameters={"pieces": pieces},
                        made_by=cast(User, request.user),
                    )
            except IntegrityError:
                pass  # it is under way
        return _answer(revision, pieces)


class ClearanceView(APIView):
    """How two pieces lie to each other, as far as that is known."""

    @extend_schema(responses=ClearanceSerializer)
    def get(self, request: Request, pk: int, first: int, second: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        return _answer(revision, sorted((first, second)))

"""What people keep with a revision: its name and a note, and what they measured on it."""

from typing import cast

from api.forms import checked
from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Measure, Revision, RevisionNote
from .serializers import MeasureNameSerializer, MeasureSerializer, NoteSerializer

MOST_MEASURES = 200
"""Measures kept with one revision: more than anybody finds his way in."""


class NoteView(APIView):
    """Names a revision and notes something of it, for all who look at it."""

    @extend_schema(request=NoteSerializer, responses={204: None})
    def put(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        given = checked(NoteSerializer, request.data)
        by = cast(User, request.user)
        RevisionNote.objects.create(
            revision=revision, name=given["name"], text=given["note"], by=by
        )
        return Response(status=status.HTTP_204_NO_CONTENT)


class MeasuresView(APIView):
    """What was measured on a revision and kept."""

    @extend_schema(responses=MeasureSerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        found = revision.measures.select_related("by")
        return Response(MeasureSerializer(found, many=True).data)

    @extend_schema(request=MeasureSerializer, responses={201: MeasureSerializer})
    def post(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        given = checked(MeasureSerializer, request.data)
        if revision.measures.count() >= MOST_MEASURES:
            told = f"{MOST_MEASURES} measures are kept here already; let go of some first."
            return Response({"detail": told}, status=status.HTTP_409_CONFLICT)
        made = Measure.objects.create(revision=revision, by=cast(User, request.user), **given)
        return Response(MeasureSerializer(made).data, status=status.HTTP_201_CREATED)


class MeasureView(APIView):
    """One kept measure: named, or let go."""

    @extend_schema(request=MeasureNameSerializer, responses=MeasureSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        measure = get_object_or_404(Measure, pk=pk)
        measure.name = checked(MeasureNameSerializer, request.data)["name"]
        measure.save(update_fields=["name"])
        return Response(MeasureSerializer(measure).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        # who lets go of what somebody else has let go of already has what he wants
        Measure.objects.filter(pk=pk).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)

"""The bench: revisions, operations, jobs and decisions of one item."""

from typing import Any, cast

from caulkcore import OperationRefused
from caulkcore.remesh.estimate import MeshMeasures
from caulkjob.cost import cost_text
from caulkjob.operations import OPERATIONS, cost_of, operation
from caulkjob.questions import NOUNS, QUESTIONS
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.db.models import QuerySet
from django.http import FileResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from materials.models import Material
from orders.models import Item
from rest_framework import generics, status
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .decisions import accept, go_back
from .jobs import start_on_current
from .models import ItemJob, Revision
from .serializers import (
    CostSerializer,
    JobSerializer,
    JudgeSerializer,
    MendSerializer,
    OperateSerializer,
    OperationSerializer,
    QuestionSerializer,
    ReturnSerializer,
    RevisionSerializer,
    WaiveSerializer,
)

_OPEN = {"open-edges", "cracks", "open-sheets"}
_BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}


class QuestionsView(APIView):
    """The questions of the seam and their kinds of finding."""

    @extend_schema(responses=QuestionSerializer(many=True))
    def get(self, request: Request) -> Response:
        told = [
            {
                "key": q.key,
                "title": q.title,
                "asks": q.asks,
                "kinds": [{"kind": k, "one": NOUNS[k][0], "many": NOUNS[k][1]} for k in q.kinds],
            }
            for q in QUESTIONS
        ]
        return Response(told)


class OperationsView(APIView):
    """All that can be done to a mesh, as the core describes it."""

    @extend_schema(responses=OperationSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(OperationSerializer(OPERATIONS, many=True).data)


class RevisionView(generics.RetrieveAPIView[Revision]):
    """One revision with its report and account."""

    queryset = Revision.objects.select_related("made_by")
    serializer_class = RevisionSerializer


class _StoredView(APIView):
    field = ""

    @extend_schema(responses=_BINARY)
    def get(self, request: Request, pk: int) -> Any:
        revision = get_object_or_404(Revision.objects.exclude(**{self.field: ""}), pk=pk)
        answer = FileResponse(
            default_storage.open(getattr(revision, self.field)),
            content_type="application/octet-stream",
        )
        # a revision never changes
        answer["Cache-Control"] = "private, max-age=31536000, immutable"
        return answer


class SkinView(_StoredView):
    """The mesh for the screen, in the form of `bench.packing`."""

    field = "skin_path"


class MarksView(_StoredView):
    """Lines and faces of the findings' places."""

    field = "marks_path"


class SoundingsView(_StoredView):
    """Thickness all over, where it was measured."""

    field = "soundings_path"


class ChangesView(_StoredView):
    """Where a revision differs from its parent."""

    field = "changes_path"


class OperateView(APIView):
    """Runs one operation on the current revision."""

    @extend_schema(request=OperateSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = OperateSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        chosen = operation(form.validated_data["operation"])
        given = form.validated_data.get("parameters", {})
        chosen.check(given)
        job = start_on_current(
            item,
            request.user,
            kind=ItemJob.Kind.OPERATE,
            title=chosen.past,
            parameters={"operation": chosen.name, "parameters": given},
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class CostView(APIView):
    """What an operation would leave and take on a revision, from what its report knows."""

    @extend_schema(request=OperateSerializer, responses=CostSerializer)
    def post(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        form = OperateSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        report = revision.report
        measures = MeshMeasures(
            triangles=report["triangles"],
            area=report["area_mm2"],
            longest=max(report["size_mm"]),
            closed=all(f["kind"] not in _OPEN for f in report["findings"]),
            smallest=report.get("smallest_mm"),
        )
        given = form.validated_data.get("parameters", {})
        try:
            cost = cost_of(form.validated_data["operation"], given, measures)
        except OperationRefused as problem:
            return Response({"text": str(problem), "refused": True})
        return Response({"text": cost_text(cost) if cost else "", "refused": False})


class MendView(APIView):
    """Runs the plan on the current revision."""

    @extend_schema(request=MendSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = MendSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = {"parameters": form.validated_data}
        job = start_on_current(
            item, request.user, kind=ItemJob.Kind.MEND, title="mended", parameters=given
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class JudgeView(APIView):
    """Judges the current revision by a material's rules: another one, or its own once more.

    Walls are measured however large the mesh is. The mesh stays; the answer is a new revision.
    """

    @extend_schema(request=JudgeSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item.objects.select_related("material"), pk=pk)
        form = JudgeSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        material = get_object_or_404(Material, key=form.validated_data["material"])
        why = form.validated_data["why"].strip()
        other = material != item.material
        if other and not why:
            raise ValidationError("The customer ordered another material: give a reason.")
        job = start_on_current(
            item,
            request.user,
            kind=ItemJob.Kind.JUDGE,
            title=f"taken as {material.name}" if other else "walls measured",
            parameters={"material": material.key, "parameters": {"why": why} if other else {}},
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class ReturnView(APIView):
    """Makes an earlier or later revision the current one; none is lost."""

    @extend_schema(request=ReturnSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = ReturnSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        number = form.validated_data["revision"]
        go_back(item, get_object_or_404(Revision, item=item, number=number))
        return Response(status=status.HTTP_204_NO_CONTENT)


class WaiversView(APIView):
    """Accepts what a check asked about, with a reason."""

    @extend_schema(request=WaiveSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = WaiveSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        accept(item, given["kind"], given["reason"], cast(User, request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)


class JobsView(generics.ListAPIView[ItemJob]):
    """Work that waits or runs."""

    serializer_class = JobSerializer

    def get_queryset(self) -> QuerySet[ItemJob]:
        return ItemJob.objects.filter(state__in=ItemJob.OPEN).select_related("item")

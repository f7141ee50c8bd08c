"""The bench: revisions, operations, jobs and decisions of one item."""

from typing import Any, cast

from caulkcore.errors import RefusedRemedy
from caulkcore.kinds import NOUNS, QUESTIONS
from caulkcore.mend import OPERATIONS, Measures, cost_of, operation
from config.errors import Conflict
from django.contrib.auth.models import User
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.http import FileResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from materials.models import Material
from orders.models import Item
from rest_framework import generics, status
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from . import tasks
from .models import Job, Revision, Waiver
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
    """The mesh for the screen, in the form of the core's packing module."""

    field = "skin_path"


class MarksView(_StoredView):
    """Lines and faces of the findings' places."""

    field = "marks_path"


class SoundingsView(_StoredView):
    """Thickness all over, where it was measured."""

    field = "soundings_path"


def start_job(item: Item, request: Request, **fields: Any) -> Job:
    """Queue work on an item's current revision.

    Raises
    ------
    Conflict
        If the item cannot be worked on now.
    """
    if item.current is None:
        raise Conflict("This item has no mesh to work on yet.")
    try:
        with transaction.atomic():
            return tasks.start(item=item, base=item.current, made_by=request.user, **fields)
    except IntegrityError:
        raise Conflict("Work on this item is going on; wait for it or cancel it.") from None


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
        job = start_job(
            item,
            request,
            kind=Job.Kind.OPERATE,
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
        measures = Measures(
            triangles=report["triangles"],
            area=report["area_mm2"],
            longest=max(report["size_mm"]),
            closed=all(f["kind"] not in _OPEN for f in report["findings"]),
            smallest=report.get("smallest_mm"),
        )
        given = form.validated_data.get("parameters", {})
        try:
            cost = cost_of(form.validated_data["operation"], given, measures)
        except RefusedRemedy as problem:
            return Response({"text": str(problem), "refused": True})
        return Response({"text": cost.text if cost else "", "refused": False})


class MendView(APIView):
    """Runs the plan on the current revision."""

    @extend_schema(request=MendSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = MendSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = {"parameters": form.validated_data}
        job = start_job(item, request, kind=Job.Kind.MEND, title="mended", parameters=given)
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
        job = start_job(
            item,
            request,
            kind=Job.Kind.JUDGE,
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
        if item.jobs.filter(state__in=Job.OPEN).exists():
            raise Conflict("Work on this item is going on; wait for it or cancel it.")
        number = form.validated_data["revision"]
        item.current = get_object_or_404(Revision, item=item, number=number)
        item.material = item.current.material or item.material
        item.save(update_fields=["current", "material"])
        return Response(status=status.HTTP_204_NO_CONTENT)


class WaiversView(APIView):
    """Accepts what a check asked about, with a reason."""

    @extend_schema(request=WaiveSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        form = WaiveSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        if item.current is None:
            raise Conflict("This item has not been examined yet.")
        kind = form.validated_data["kind"]
        found = next((f for f in item.current.report["findings"] if f["kind"] == kind), None)
        if found is None:
            raise ValidationError("Nothing of this kind was found.")
        if found["severity"] == "leak":
            raise ValidationError("A leak cannot be waived; it must be mended.")
        Waiver.objects.update_or_create(
            item=item,
            kind=kind,
            defaults={
                "reason": form.validated_data["reason"],
                "revision": item.current,
                "by": cast(User, request.user),
                "at": timezone.now(),
            },
        )
        return Response(status=status.HTTP_204_NO_CONTENT)


class JobsView(generics.ListAPIView[Job]):
    """Work that waits or runs."""

    serializer_class = JobSerializer

    def get_queryset(self) -> QuerySet[Job]:
        return Job.objects.filter(state__in=Job.OPEN).select_related("item")


class CancelView(APIView):
    """Asks for a job to stop."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        with transaction.atomic():
            job = get_object_or_404(Job.objects.select_for_update(), pk=pk)
            if job.state == Job.State.WAITING:
                job.state, job.finished = Job.State.CANCELLED, timezone.now()
                job.message = "Stopped before it began."
            job.cancel_asked = True
            job.save()
        return Response(status=status.HTTP_204_NO_CONTENT)

"""The bench: revisions, operations, jobs and decisions of one item."""

from typing import Any, cast

from api.downloads import stored_for_ever
from api.forms import checked
from caulkcore import OperationRefused
from caulkcore.remesh.estimate import MeshMeasures
from caulkjob.cost import cost_text
from caulkjob.operations import OPERATIONS, cost_of, operation
from caulkjob.questions import NOUNS, QUESTIONS
from django.contrib.auth.models import User
from django.db.models import Prefetch, QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from materials.models import Material
from orders.models import Item
from rest_framework import generics, status
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .decisions import accept, go_back, keep_apart, set_aside, take_material, withdraw
from .jobs import at_revision, start_at
from .judging import judge_if_needed
from .kinds import others_of
from .models import Decision, Examination, ItemJob, Revision
from .seam import answers, covered
from .serializers import (
    AcceptSerializer,
    ApartSerializer,
    AskedSerializer,
    CostSerializer,
    DecisionSerializer,
    JobSerializer,
    MaterialChangeSerializer,
    OperateSerializer,
    OperationSerializer,
    QuestionSerializer,
    ReturnSerializer,
    RevisionSerializer,
    SeenSerializer,
    SetAsideSerializer,
    StandSerializer,
    WithdrawSerializer,
)
from .standard import Standard

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

    serializer_class = RevisionSerializer

    def get_queryset(self) -> QuerySet[Revision]:
        outlines = Prefetch("examinations", Examination.outlines())
        return Revision.objects.select_related("made_by", "item").prefetch_related(outlines)

    @extend_schema(
        parameters=[
            OpenApiParameter(
                "examination", int, description="Which one of its examinations; the last by default"
            )
        ]
    )
    def get(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        answer = super().get(request, *args, **kwargs)
        if request.query_params.get("examination"):
            # a report never changes; how it is told may, with an update
            answer["Cache-Control"] = "private, max-age=3600, immutable"
        return answer

    def get_serializer_context(self) -> dict[str, Any]:
        asked = self.request.query_params.get("examination", "")
        if not asked.isdigit():
            return dict(super().get_serializer_context())
        examination = get_object_or_404(
            Examination, pk=int(asked), revision_id=self.kwargs.get("pk")
        )
        return {**super().get_serializer_context(), "examination": examination}


class StandView(APIView):
    """How the questions stand for one revision by what holds now, whether it is current or not."""

    @extend_schema(responses=StandSerializer)
    def get(self, request: Request, pk: int) -> Response:
        revisions = Revision.objects.select_related("item__material", "item__workpiece")
        revision = get_object_or_404(revisions, pk=pk)
        item = revision.item
        examination = revision.judged_in(item.material_id)
        assert examination is not None, "every revision has been examined"
        told = {
            "seam": answers(item, Standard.now(), examination),
            "covered": covered(item, examination),
        }
        return Response(StandSerializer(told).data)


class _StoredView(APIView):
    model: type[Revision] | type[Examination] = Revision
    field = ""

    @extend_schema(responses=_BINARY)
    def get(self, request: Request, pk: int) -> Any:
        stored = self.model.objects.exclude(**{self.field: ""}).only(self.field)
        # neither a revision nor an examination ever changes
        return stored_for_ever(getattr(get_object_or_404(stored, pk=pk), self.field))


class SkinView(_StoredView):
    """The mesh for the screen, in the form of `bench.packing`."""

    field = "skin_path"


class MarksView(_StoredView):
    """Lines and faces of the findings' places."""

    model = Examination
    field = "marks_path"


class SoundingsView(_StoredView):
    """Thickness all over, where it was measured."""

    model = Examination
    field = "soundings_path"


class ChangesView(_StoredView):
    """Where a revision differs from its parent."""

    field = "changes_path"


class OperateView(APIView):
    """Runs one operation on the current revision."""

    @extend_schema(request=OperateSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(OperateSerializer, request.data)
        chosen, parameters = operation(given["operation"]), given.get("parameters", {})
        chosen.check(parameters)
        others_of(parameters, item)
        job = start_at(
            item,
            given["revision"],
            request.user,
            kind=ItemJob.Kind.OPERATE,
            title=chosen.past,
            parameters={"operation": chosen.name, "parameters": parameters},
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class CostView(APIView):
    """What an operation would leave and take on a revision, from what its report knows."""

    # nothing is changed: who may only look may ask
    permission_classes = [IsAuthenticated]

    @extend_schema(request=AskedSerializer, responses=CostSerializer)
    def post(self, request: Request, pk: int) -> Response:
        revision = get_object_or_404(Revision, pk=pk)
        given = checked(AskedSerializer, request.data)
        examination = revision.examinations.last()
        assert examination is not None, "every revision has been examined"
        report = examination.report
        measures = MeshMeasures(
            triangles=report["triangles"],
            area=report["area_mm2"],
            longest=max(report["size_mm"]),
            closed=all(f["kind"] not in _OPEN for f in report["findings"]),
            smallest=report.get("smallest_mm"),
        )
        try:
            cost = cost_of(given["operation"], given.get("parameters", {}), measures)
        except OperationRefused as problem:
            return Response({"text": str(problem), "refused": True})
        return Response({"text": cost_text(cost) if cost else "", "refused": False})


class MendView(APIView):
    """Runs the plan on the revision that was looked at."""

    @extend_schema(request=SeenSerializer, responses={202: JobSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(SeenSerializer, request.data)
        job = start_at(
            item,
            given["revision"],
            request.user,
            kind=ItemJob.Kind.MEND,
            title="mended",
        )
        return Response(JobSerializer(job).data, status=status.HTTP_202_ACCEPTED)


class JudgeView(APIView):
    """Judges the revision that holds once more, after judging it was stopped or has failed."""

    @extend_schema(request=SeenSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(SeenSerializer, request.data)
        with at_revision(item, given["revision"]):
            judge_if_needed(item)
        return Response(status=status.HTTP_204_NO_CONTENT)


class MaterialChangeView(APIView):
    """Takes another material than the one ordered, with a reason; the item is judged by it."""

    @extend_schema(request=MaterialChangeSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(MaterialChangeSerializer, request.data)
        material = get_object_or_404(Material, key=given["material"])
        by = cast(User, request.user)
        take_material(item, given["revision"], material, given["reason"], by)
        return Response(status=status.HTTP_204_NO_CONTENT)


class ReturnView(APIView):
    """Makes an earlier or later revision the current one; none is lost."""

    @extend_schema(request=ReturnSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(ReturnSerializer, request.data)
        revision = get_object_or_404(Revision, item=item, number=given["to"])
        go_back(item, given["revision"], revision, cast(User, request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)


class DecisionsView(APIView):
    """Accepts places that a check asked about, with a reason."""

    @extend_schema(request=AcceptSerializer, responses={201: DecisionSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item.objects.select_related("material"), pk=pk)
        given = checked(AcceptSerializer, request.data)
        made = accept(
            item,
            given["revision"],
            given["examination"],
            given["kind"],
            given["places"],
            given["listed"],
            given["reason"],
            cast(User, request.user),
        )
        return Response(DecisionSerializer(made).data, status=status.HTTP_201_CREATED)


class ApartView(APIView):
    """Decides that some pieces are not united with others, with a reason."""

    @extend_schema(request=ApartSerializer, responses={201: DecisionSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(ApartSerializer, request.data)
        by = cast(User, request.user)
        made = keep_apart(item, given["revision"], given["pieces"], given["reason"], by)
        return Response(DecisionSerializer(made).data, status=status.HTTP_201_CREATED)


class SetAsideView(APIView):
    """Sets an item aside, or takes it up again, with a reason."""

    @extend_schema(request=SetAsideSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(SetAsideSerializer, request.data)
        by = cast(User, request.user)
        set_aside(item, given["reason"], by, aside=given["aside"])
        return Response(status=status.HTTP_204_NO_CONTENT)


class WithdrawView(APIView):
    """Takes an acceptance back, for some of its places or all, with a reason."""

    @extend_schema(request=WithdrawSerializer, responses={201: DecisionSerializer})
    def post(self, request: Request, pk: int) -> Response:
        decision = get_object_or_404(Decision.objects.select_related("item"), pk=pk)
        given = checked(WithdrawSerializer, request.data)
        by = cast(User, request.user)
        made = withdraw(decision, given["places"], given["reason"], by)
        return Response(DecisionSerializer(made).data, status=status.HTTP_201_CREATED)


class JobsView(generics.ListAPIView[ItemJob]):
    """Work that waits or runs."""

    serializer_class = JobSerializer

    def get_queryset(self) -> QuerySet[ItemJob]:
        return ItemJob.objects.filter(state__in=ItemJob.OPEN).select_related("item", "made_by")

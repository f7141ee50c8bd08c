"""Items as the screens read them."""

from typing import Any

from api.forms import ReasonField
from bench.decisions import Held
from bench.jobs import moved_by
from bench.models import ItemJob
from bench.piece_names import names_of
from bench.seam import covered
from bench.serializers import (
    CoverSerializer,
    DecisionSerializer,
    JobSerializer,
    RevisionLineSerializer,
    SegmentSerializer,
)
from bench.standard import Standard
from caulkcore.io.bundle import MAX_FILES
from caulkcore.io.units import MILLIMETRES
from dispatch.rules import standing
from dispatch.serializers import LetterLineSerializer, ReleaseLineSerializer
from drf_spectacular.utils import extend_schema_field
from materials.models import Material
from orders.models import LONGEST_NAME, Item
from orders.serializers import CommentSerializer, OrderSerializer
from people.names import PersonName
from rest_framework import serializers

MOST_TOGETHER = 500
"""Items that one action may be for."""
_LONGEST_NAME = 4000
"""Letters that a file's name may come with; of longer ones than the table takes the end is kept."""


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.ListField(
        child=serializers.FileField(max_length=_LONGEST_NAME), min_length=1, max_length=MAX_FILES
    )
    name = serializers.CharField(max_length=LONGEST_NAME, default="", allow_blank=True)
    material = serializers.SlugRelatedField(
        slug_field="key",
        queryset=Material.objects.all(),
        error_messages={"does_not_exist": "There is no such material."},
    )
    quantity = serializers.IntegerField(min_value=1, max_value=100_000, default=1)


class TakenInSerializer(serializers.ModelSerializer[Item]):
    """An item that was just made of a file."""

    class Meta:
        model = Item
        fields = ("id", "name", "file_name")


class ReplaceSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(max_length=_LONGEST_NAME)
    reason = ReasonField()


class _ItemFields(serializers.ModelSerializer[Item]):
    """What lists and the bench both tell of an item."""

    order = OrderSerializer(read_only=True)
    problem = serializers.CharField(source="workpiece.problem", read_only=True)
    material_name = serializers.CharField(source="material.name", read_only=True)
    triangles = serializers.SerializerMethodField()
    current = serializers.IntegerField(
        source="workpiece.current_id",
        allow_null=True,
        read_only=True,
        help_text="The revision that holds.",
    )
    assignee = serializers.CharField(
        source="assignee.username", default="", read_only=True, help_text="Login name, or empty."
    )
    assignee_name = PersonName(source="assignee")

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_triangles(self, item: Item) -> int | None:
        current = item.workpiece.current
        return current.triangles if current else None

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, item: Item) -> Any:
        return self._work(item, judging=False)

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_judging(self, item: Item) -> Any:
        return self._work(item, judging=True)

    @staticmethod
    def _work(item: Item, *, judging: bool) -> Any:
        """The last work that was fetched with an item, judging or other than that."""
        kinds = (one for one in item.jobs.all() if judging == (one.kind == ItemJob.Kind.JUDGE))
        job = next(kinds, None)
        return JobSerializer(job).data if job else None


_FIELDS = (
    "id",
    "order",
    "name",
    "note",
    "file_name",
    "received_bytes",
    "created",
    "problem",
    "material",
    "material_name",
    "quantity",
    "triangles",
    "current",
    "assignee",
    "assignee_name",
    "seam",
    "job",
    "judging",
    "ready",
    "released",
    "set_aside",
)


class ItemLineSerializer(_ItemFields):
    """An item as a line of the list: from its summary."""

    seam = serializers.SerializerMethodField()
    next = serializers.CharField(source="summary.next", read_only=True)
    job = serializers.SerializerMethodField(help_text="The work that goes on, if any does.")
    judging = serializers.SerializerMethodField(help_text="The judging that goes on, if any does.")
    ready = serializers.BooleanField(
        source="summary.ready",
        read_only=True,
        help_text="Whether it can be released, and has not been.",
    )
    released = serializers.DateTimeField(source="summary.released", allow_null=True, read_only=True)

    class Meta:
        model = Item
        fields = (*_FIELDS, "next")

    @extend_schema_field(SegmentSerializer(many=True))
    def get_seam(self, item: Item) -> Any:
        """As it is kept: nothing is left to be done for a page of hundreds."""
        return item.summary.seam


class ListCountSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    title = serializers.CharField()
    count = serializers.IntegerField()


class CustomerCountSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    count = serializers.IntegerField()


class CountsSerializer(serializers.Serializer[Any]):
    lists = ListCountSerializer(many=True)
    customers = CustomerCountSerializer(many=True)


class SeenItemSerializer(serializers.Serializer[Any]):
    """An item as somebody saw it in a list."""

    item = serializers.IntegerField()
    revision = serializers.IntegerField(allow_null=True)


class TogetherSerializer(serializers.Serializer[Any]):
    """One action for several items."""

    act = serializers.ChoiceField(("mend", "size", "material", "due", "assign", "set-aside"))
    items = serializers.ListField(
        child=SeenItemSerializer(), min_length=1, max_length=MOST_TOGETHER
    )
    material = serializers.SlugRelatedField(
        slug_field="key",
        queryset=Material.objects.all(),
        required=False,
        error_messages={"does_not_exist": "There is no such material."},
    )
    unit = serializers.ChoiceField(
        tuple(MILLIMETRES), required=False, help_text="To read all their files in."
    )
    factor = serializers.FloatField(
        min_value=1e-4, max_value=1e4, required=False, help_text="To scale all of them by."
    )
    reason = ReasonField(required=False)
    due = serializers.DateTimeField(required=False)
    assignee = serializers.CharField(
        allow_blank=True, max_length=150, default="", help_text="Login name; empty for nobody."
    )


class OutcomeSerializer(serializers.Serializer[Any]):
    """What became of one of them."""

    item = serializers.IntegerField()
    done = serializers.BooleanField()
    why = serializers.CharField(help_text="Why it was not done; empty if it was.")


class ItemSerializer(_ItemFields):
    """An item as the bench needs it: as it stands at this moment."""

    seam = serializers.SerializerMethodField()
    job = serializers.SerializerMethodField(
        help_text="The work that goes on, or the last that ended."
    )
    judging = serializers.SerializerMethodField(
        help_text="The judging that goes on, or the last that ended."
    )
    ready = serializers.SerializerMethodField(
        help_text="Whether it can be released, and has not been."
    )
    released = serializers.SerializerMethodField()
    comments = CommentSerializer(many=True, read_only=True)
    revisions = RevisionLineSerializer(many=True, read_only=True)
    releases = ReleaseLineSerializer(many=True, read_only=True)
    decisions = DecisionSerializer(many=True, read_only=True)
    covered = serializers.SerializerMethodField(
        help_text="Which places of the current revision's findings are accepted, and by what."
    )
    moved_by = serializers.SerializerMethodField(
        help_text="Who made the current revision hold; empty where there is none."
    )
    apart = serializers.SerializerMethodField(help_text="Numbers of pieces that stay apart.")
    piece_names = serializers.SerializerMethodField(
        help_text="What people call the pieces, by number."
    )
    letters = LetterLineSerializer(many=True, read_only=True)

    class Meta:
        model = Item
        fields = (
            *_FIELDS,
            "comments",
            "revisions",
            "moved_by",
            "releases",
            "decisions",
            "covered",
            "apart",
            "piece_names",
            "letters",
        )

    def to_representation(self, instance: Item) -> Any:
        # for the fields that tell of it
        self._standing = standing(instance, Standard.now())
        return super().to_representation(instance)

    @extend_schema_field(SegmentSerializer(many=True))
    def get_seam(self, item: Item) -> Any:
        return SegmentSerializer(self._standing.seam, many=True).data

    def get_ready(self, item: Item) -> bool:
        return self._standing.ready

    @extend_schema_field(serializers.DateTimeField(allow_null=True))
    def get_released(self, item: Item) -> Any:
        release = self._standing.release
        return release.at if release else None

    def get_moved_by(self, item: Item) -> str:
        return moved_by(item)[0] if item.workpiece.current else ""

    @extend_schema_field(CoverSerializer(many=True))
    def get_covered(self, item: Item) -> Any:
        examination = item.workpiece.examination
        if examination is None:
            return []
        return CoverSerializer(covered(item, examination), many=True).data

    @extend_schema_field(serializers.DictField(child=serializers.CharField()))
    def get_piece_names(self, item: Item) -> dict[str, str]:
        return {str(number): name for number, name in names_of(item).items()}

    @extend_schema_field(serializers.ListField(child=serializers.IntegerField()))
    def get_apart(self, item: Item) -> list[int]:
        return sorted(Held.of(item).apart())

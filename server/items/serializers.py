"""Items as the screens read them."""

from typing import Any

from bench.decisions import Held
from bench.jobs import moved_by
from bench.models import ItemJob
from bench.seam import covered
from bench.serializers import (
    CoverSerializer,
    DecisionSerializer,
    JobSerializer,
    RevisionLineSerializer,
    SegmentSerializer,
)
from bench.standard import Standard
from dispatch.rules import standing
from dispatch.serializers import LetterLineSerializer, ReleaseLineSerializer
from drf_spectacular.utils import extend_schema_field
from materials.models import Material
from orders.models import Item
from orders.serializers import OrderSerializer
from rest_framework import serializers

_LONGEST_NAME = 4000
"""Letters that a file's name may come with; of longer ones than the table takes the end is kept."""


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(max_length=_LONGEST_NAME)
    material = serializers.SlugRelatedField(
        slug_field="key",
        queryset=Material.objects.all(),
        error_messages={"does_not_exist": "There is no such material."},
    )
    quantity = serializers.IntegerField(min_value=1, max_value=100_000, default=1)


class ReplaceSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(max_length=_LONGEST_NAME)
    reason = serializers.CharField(min_length=3, max_length=1000)


class ItemLineSerializer(serializers.ModelSerializer[Item]):
    """An item as a line of the orders screen."""

    order = OrderSerializer(read_only=True)
    problem = serializers.CharField(source="workpiece.problem", read_only=True)
    material_name = serializers.CharField(source="material.name", read_only=True)
    seam = serializers.SerializerMethodField()
    triangles = serializers.SerializerMethodField()
    job = serializers.SerializerMethodField()
    judging = serializers.SerializerMethodField()
    ready = serializers.SerializerMethodField(
        help_text="Whether it can be released, and has not been."
    )
    released = serializers.SerializerMethodField()

    class Meta:
        model = Item
        fields: tuple[str, ...] = (
            "id",
            "order",
            "name",
            "note",
            "file_name",
            "received_bytes",
            "problem",
            "material",
            "material_name",
            "quantity",
            "triangles",
            "seam",
            "job",
            "judging",
            "ready",
            "released",
            "set_aside",
        )

    def to_representation(self, instance: Item) -> Any:
        # for the fields that tell of it
        self._standing = standing(instance, self.context.get("standard") or Standard.now())
        return super().to_representation(instance)

    @extend_schema_field(SegmentSerializer(many=True))
    def get_seam(self, item: Item) -> Any:
        return SegmentSerializer(self._standing.seam, many=True).data

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_triangles(self, item: Item) -> int | None:
        current = item.workpiece.current
        return current.triangles if current else None

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, item: Item) -> Any:
        """The work that goes on, or the last that ended; judging goes on behind it."""
        job = next((one for one in item.jobs.all() if one.kind in ItemJob.BLOCKING), None)
        return JobSerializer(job).data if job else None

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_judging(self, item: Item) -> Any:
        """The judging that goes on, or the last that ended."""
        job = next((one for one in item.jobs.all() if one.kind == ItemJob.Kind.JUDGE), None)
        return JobSerializer(job).data if job else None

    def get_ready(self, item: Item) -> bool:
        return self._standing.ready

    @extend_schema_field(serializers.DateTimeField(allow_null=True))
    def get_released(self, item: Item) -> Any:
        release = self._standing.release
        return release.at if release else None


class ItemSerializer(ItemLineSerializer):
    """An item as the bench needs it."""

    revisions = RevisionLineSerializer(many=True, read_only=True)
    current = serializers.IntegerField(
        source="workpiece.current_id", allow_null=True, read_only=True
    )
    releases = ReleaseLineSerializer(many=True, read_only=True)
    decisions = DecisionSerializer(many=True, read_only=True)
    covered = serializers.SerializerMethodField(
        help_text="Which places of the current revision's findings are accepted, and by what."
    )
    moved_by = serializers.SerializerMethodField(
        help_text="Who made the current revision hold; empty where there is none."
    )
    apart = serializers.SerializerMethodField(help_text="Numbers of pieces that stay apart.")
    letters = LetterLineSerializer(many=True, read_only=True)

    class Meta(ItemLineSerializer.Meta):
        fields = (
            *ItemLineSerializer.Meta.fields,
            "revisions",
            "current",
            "moved_by",
            "releases",
            "decisions",
            "covered",
            "apart",
            "letters",
        )

    def get_moved_by(self, item: Item) -> str:
        return moved_by(item)[0] if item.workpiece.current else ""

    @extend_schema_field(CoverSerializer(many=True))
    def get_covered(self, item: Item) -> Any:
        examination = item.workpiece.examination
        if examination is None:
            return []
        return CoverSerializer(covered(item, examination), many=True).data

    @extend_schema_field(serializers.ListField(child=serializers.IntegerField()))
    def get_apart(self, item: Item) -> list[int]:
        return sorted(Held.of(item).apart())

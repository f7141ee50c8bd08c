"""Items as the screens read them."""

from typing import Any

from bench.serializers import JobSerializer, RevisionLineSerializer, SegmentSerializer
from dispatch.rules import standing
from drf_spectacular.utils import extend_schema_field
from orders.models import Item
from orders.serializers import OrderSerializer
from people.names import PersonName
from rest_framework import serializers


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField()
    material = serializers.SlugField()
    quantity = serializers.IntegerField(min_value=1, max_value=100_000, default=1)


class ItemLineSerializer(serializers.ModelSerializer[Item]):
    """An item as a line of the orders screen."""

    order = OrderSerializer(read_only=True)
    problem = serializers.CharField(source="workpiece.problem", read_only=True)
    material_name = serializers.CharField(source="material.name", read_only=True)
    seam = serializers.SerializerMethodField()
    triangles = serializers.SerializerMethodField()
    job = serializers.SerializerMethodField()
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
            "ready",
            "released",
        )
        read_only_fields = ("file_name", "received_bytes")

    def to_representation(self, instance: Item) -> Any:
        self._standing = standing(instance)  # for the fields that tell of it
        return super().to_representation(instance)

    @extend_schema_field(SegmentSerializer(many=True))
    def get_seam(self, item: Item) -> Any:
        return SegmentSerializer(self._standing.seam, many=True).data

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_triangles(self, item: Item) -> int | None:
        current = item.workpiece.current
        return current.report["triangles"] if current else None

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, item: Item) -> Any:
        """The work that goes on, or the last that ended."""
        job = next(iter(item.jobs.all()), None)
        return JobSerializer(job).data if job else None

    def get_ready(self, item: Item) -> bool:
        return self._standing.ready

    @extend_schema_field(serializers.DateTimeField(allow_null=True))
    def get_released(self, item: Item) -> Any:
        release = self._standing.release
        return release.at if release else None


class ReleaseLineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    format = serializers.CharField()
    file_name = serializers.CharField()
    file_bytes = serializers.IntegerField()
    revision = serializers.IntegerField(source="revision.number")
    by = PersonName()
    at = serializers.DateTimeField()


class WaiverSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    reason = serializers.CharField()
    by = PersonName()
    at = serializers.DateTimeField()


class ItemSerializer(ItemLineSerializer):
    """An item as the bench needs it."""

    revisions = RevisionLineSerializer(many=True, read_only=True)
    current = serializers.IntegerField(
        source="workpiece.current_id", allow_null=True, read_only=True
    )
    releases = ReleaseLineSerializer(many=True, read_only=True)
    waivers = WaiverSerializer(many=True, read_only=True)

    class Meta(ItemLineSerializer.Meta):
        fields = (*ItemLineSerializer.Meta.fields, "revisions", "current", "releases", "waivers")

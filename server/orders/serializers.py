"""Orders and items as the browser sees them."""

from typing import Any

from bench.seam import seam
from bench.serializers import JobSerializer, RevisionLineSerializer, SegmentSerializer
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from .models import Customer, Item, Order


class CustomerSerializer(serializers.ModelSerializer[Customer]):
    class Meta:
        model = Customer
        fields = ("id", "name")


class OrderSerializer(serializers.ModelSerializer[Order]):
    customer_name = serializers.CharField(source="customer.name", read_only=True)

    class Meta:
        model = Order
        fields = ("id", "number", "customer_name", "due", "received", "note")


class NewOrderSerializer(serializers.Serializer[Any]):
    customer = serializers.CharField(max_length=120)
    due = serializers.DateTimeField()
    note = serializers.CharField(allow_blank=True, default="", max_length=4000)


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField()
    material = serializers.SlugField()
    quantity = serializers.IntegerField(min_value=1, max_value=100_000, default=1)


class ItemLineSerializer(serializers.ModelSerializer[Item]):
    """An item as a line of the orders screen."""

    order = OrderSerializer(read_only=True)
    material_name = serializers.CharField(source="material.name", read_only=True)
    seam = serializers.SerializerMethodField()
    triangles = serializers.SerializerMethodField()
    job = serializers.SerializerMethodField()
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
            "released",
        )
        read_only_fields = ("file_name", "received_bytes", "problem")

    @extend_schema_field(SegmentSerializer(many=True))
    def get_seam(self, item: Item) -> Any:
        return SegmentSerializer(seam(item), many=True).data

    @extend_schema_field(serializers.IntegerField(allow_null=True))
    def get_triangles(self, item: Item) -> int | None:
        return item.current.report["triangles"] if item.current else None

    @extend_schema_field(JobSerializer(allow_null=True))
    def get_job(self, item: Item) -> Any:
        """The work that goes on, or the last that ended."""
        job = next(iter(item.jobs.all()), None)
        return JobSerializer(job).data if job else None

    @extend_schema_field(serializers.DateTimeField(allow_null=True))
    def get_released(self, item: Item) -> Any:
        release = next((r for r in item.releases.all() if r.revision_id == item.current_id), None)
        return release.at if release else None


class ReleaseLineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    format = serializers.CharField()
    file_name = serializers.CharField()
    file_bytes = serializers.IntegerField()
    revision = serializers.IntegerField(source="revision.number")
    by = serializers.SerializerMethodField()
    at = serializers.DateTimeField()

    def get_by(self, release: Any) -> str:
        return release.by.get_full_name() if release.by else ""


class WaiverSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    reason = serializers.CharField()
    by = serializers.SerializerMethodField()
    at = serializers.DateTimeField()

    def get_by(self, waiver: Any) -> str:
        return waiver.by.get_full_name() if waiver.by else ""


class ItemSerializer(ItemLineSerializer):
    """An item as the bench needs it."""

    revisions = RevisionLineSerializer(many=True, read_only=True)
    current = serializers.IntegerField(source="current_id", allow_null=True, read_only=True)
    releases = ReleaseLineSerializer(many=True, read_only=True)
    waivers = WaiverSerializer(many=True, read_only=True)

    class Meta(ItemLineSerializer.Meta):
        fields = (*ItemLineSerializer.Meta.fields, "revisions", "current", "releases", "waivers")

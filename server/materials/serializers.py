"""Materials, their rule sheets and machines as the browser sees them."""

from typing import Any

from api.parameters import ParameterSerializer
from caulkcore import RefusedInput
from caulkjob.rule_sheets import RuleSheet
from caulkjob.shop_policy import ShopPolicy
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from .models import Edition, Machine, Material


class RulesField(serializers.JSONField):
    """A whole rule sheet, validated by the core."""

    def to_internal_value(self, data: Any) -> RuleSheet:  # type: ignore[override]
        try:
            sheet = RuleSheet.from_json(data)
            sheet.refuse_contradictions()
            return sheet
        except RefusedInput as problem:
            raise serializers.ValidationError({"detail": str(problem)}) from problem


class RuleSheetSerializer(serializers.Serializer[Any]):
    """What a material demands; lengths in mm."""

    key = serializers.CharField()
    name = serializers.CharField()
    process = serializers.CharField()
    wall_supported = serializers.FloatField()
    wall_free = serializers.FloatField()
    wire_supported = serializers.FloatField()
    wire_free = serializers.FloatField()
    engraved = serializers.FloatField()
    embossed = serializers.FloatField()
    clearance = serializers.FloatField()
    drain_hole = serializers.FloatField()
    drain_holes = serializers.FloatField()
    smallest = serializers.FloatField()
    largest = serializers.ListField(child=serializers.FloatField())
    must_drain = serializers.BooleanField()
    density_g_cm3 = serializers.FloatField()
    price_per_cm3 = serializers.FloatField()
    price_per_part = serializers.FloatField()
    tolerance = serializers.FloatField()


class MaterialSerializer(serializers.ModelSerializer[Material]):
    rules = RuleSheetSerializer(allow_null=True, read_only=True)
    edition = serializers.IntegerField(
        read_only=True, allow_null=True, help_text="Number of the sheet that holds."
    )

    class Meta:
        model = Material
        fields = ("id", "key", "name", "process", "rules", "edition")


class DemandSerializer(serializers.Serializer[Any]):
    """One number of a rule sheet, for forms."""

    name = serializers.CharField()
    title = serializers.CharField()
    about = serializers.CharField()
    unit = serializers.CharField()
    least = serializers.FloatField()
    most = serializers.FloatField()


class ChangedSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    before = serializers.JSONField()
    now = serializers.JSONField()


class EditionSerializer(serializers.ModelSerializer[Edition]):
    by = serializers.SerializerMethodField()
    changes = serializers.SerializerMethodField()

    class Meta:
        model = Edition
        fields = ("number", "why", "by", "at", "changes", "rules")

    def get_by(self, edition: Edition) -> str:
        return edition.by.get_full_name() if edition.by else ""

    @extend_schema_field(ChangedSerializer(many=True))
    def get_changes(self, edition: Edition) -> Any:
        before = self.context["before"].get(edition.number)
        changes = edition.changes(before).items()
        return [{"name": n, "before": was, "now": now} for n, (was, now) in changes]


class EditSerializer(serializers.Serializer[Any]):
    rules = RulesField()
    why = serializers.CharField(max_length=1000, allow_blank=True, default="")


class BringSerializer(serializers.Serializer[Any]):
    """Sheets of a file, all or none of which are taken."""

    sheets = serializers.ListField(child=RulesField(), min_length=1, max_length=500)
    why = serializers.CharField(max_length=1000, allow_blank=True, default="")


class BroughtSerializer(serializers.Serializer[Any]):
    changed = serializers.ListField(child=serializers.CharField())
    unchanged = serializers.ListField(child=serializers.CharField())


class MachineSerializer(serializers.ModelSerializer[Machine]):
    x = serializers.FloatField(min_value=1, max_value=10_000)
    y = serializers.FloatField(min_value=1, max_value=10_000)
    z = serializers.FloatField(min_value=1, max_value=10_000)

    class Meta:
        model = Machine
        fields = ("id", "name", "process", "x", "y", "z")


class ShopField(serializers.JSONField):
    """The shop's settings, validated by the core."""

    def to_internal_value(self, data: Any) -> ShopPolicy:  # type: ignore[override]
        try:
            return ShopPolicy.from_json(data)
        except RefusedInput as problem:
            raise serializers.ValidationError({"detail": str(problem)}) from problem


class SettleSerializer(serializers.Serializer[Any]):
    values = ShopField()


class ShopSerializer(serializers.Serializer[Any]):
    """The shop's settings that hold, what can be settled, and who did so last."""

    values = serializers.DictField()
    settings = ParameterSerializer(many=True)
    by = serializers.CharField()
    at = serializers.DateTimeField(allow_null=True)

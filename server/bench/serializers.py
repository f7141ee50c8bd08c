"""Revisions, jobs and the seam as the browser sees them."""

from typing import Any

from api.parameters import ParameterSerializer
from caulkjob.findings.pieces import PIECES
from materials.serializers import RuleSheetSerializer
from people.names import PersonName
from rest_framework import serializers

from .models import ItemJob, Revision


class SegmentSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    title = serializers.CharField()
    state = serializers.ChoiceField(("tight", "leaks", "your call", "waived", "not run"))
    text = serializers.CharField()


class JobSerializer(serializers.ModelSerializer[ItemJob]):
    item_name = serializers.CharField(source="item.name", read_only=True)
    kind = serializers.ChoiceField(ItemJob.Kind.choices)

    class Meta:
        model = ItemJob
        fields = (
            "id",
            "item",
            "item_name",
            "kind",
            "title",
            "state",
            "step",
            "fraction",
            "message",
            "created",
            "started",
            "finished",
        )


class ChangeSerializer(serializers.Serializer[Any]):
    before = serializers.FloatField()
    after = serializers.FloatField()


class TakenOutSerializer(serializers.Serializer[Any]):
    """What was taken out whole: crumbs, scraps, skins of voids, buried solids."""

    pieces = serializers.IntegerField()
    faces = serializers.IntegerField()
    area_mm2 = serializers.FloatField()


class AccountSerializer(serializers.Serializer[Any]):
    triangles = ChangeSerializer()
    vertices = ChangeSerializer()
    volume_mm3 = ChangeSerializer()
    area_mm2 = ChangeSerializer()
    unchanged_faces = serializers.IntegerField()
    new_faces = serializers.IntegerField()
    gone_faces = serializers.IntegerField()
    touched_area_fraction = serializers.FloatField()
    deviation_mm = serializers.FloatField(allow_null=True, default=None)
    deviation_bound_mm = serializers.ListField(
        child=serializers.FloatField(),
        allow_null=True,
        default=None,
        help_text="What the true figure is not below, and not above; null in old accounts.",
    )
    max_deviation_mm = serializers.FloatField()
    max_deviation_at = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    lost_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True, default=None)
    added_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True, default=None)
    taken_out = TakenOutSerializer(allow_null=True, default=None)


class StepSerializer(serializers.Serializer[Any]):
    operation = serializers.CharField()
    text = serializers.CharField()
    left = serializers.ListField(child=serializers.CharField())
    account = AccountSerializer()


class SpotSerializer(serializers.Serializer[Any]):
    """One place of a finding."""

    title = serializers.CharField()
    measure = serializers.CharField()
    count = serializers.IntegerField()
    box = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    at = serializers.ListField(child=serializers.FloatField())
    facing = serializers.ListField(child=serializers.FloatField())
    thickness_mm = serializers.FloatField(
        allow_null=True, default=None, help_text="Of a wall or gap: what was measured."
    )
    limit_mm = serializers.FloatField(
        allow_null=True, default=None, help_text="Of a wall or gap: what the material asks for."
    )
    adds_mm3 = serializers.FloatField(
        allow_null=True, default=None, help_text="About what building it up on both sides adds."
    )
    shift_mm = serializers.FloatField(
        allow_null=True, default=None, help_text="By how much the skin moves then, at most."
    )


class FindingSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    count = serializers.IntegerField()
    places = serializers.IntegerField()
    severity = serializers.ChoiceField(("leak", "call", "note"))
    text = serializers.CharField()
    spots = SpotSerializer(many=True)


class PieceSerializer(serializers.Serializer[Any]):
    """One shell, and what it is."""

    shell = serializers.IntegerField()
    name = serializers.CharField(help_text="What the file calls it, if it tells parts apart.")
    what = serializers.ChoiceField(PIECES)
    within = serializers.IntegerField(help_text="The innermost shell around it, or -1.")
    triangles = serializers.IntegerField()
    volume_mm3 = serializers.FloatField()
    sides_mm = serializers.ListField(child=serializers.FloatField())
    longest_mm = serializers.FloatField(help_text="Longest side of its bounding box.")

    def to_representation(self, instance: dict[str, Any]) -> dict[str, Any]:
        # older reports tell the diagonal of its bounding box only
        diagonal = instance.get("across_mm", 0.0)
        return super().to_representation({"sides_mm": [], "longest_mm": diagonal} | instance)


class UnaskedSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    reason = serializers.CharField(default="", help_text="Why it was not asked, as a code.")
    words = serializers.CharField(help_text="The same in a few words.")
    about = serializers.CharField(help_text="The same in a sentence.")


class FaultSerializer(serializers.Serializer[Any]):
    what = serializers.CharField()
    title = serializers.CharField()
    found = serializers.FloatField()
    asked = serializers.FloatField()
    places = serializers.IntegerField()


class VerdictSerializer(serializers.Serializer[Any]):
    """What one material says to the part as it is."""

    key = serializers.CharField()
    name = serializers.CharField()
    process = serializers.CharField()
    passes = serializers.BooleanField()
    faults = FaultSerializer(many=True)
    weight_g = serializers.FloatField()
    price = serializers.FloatField()
    scale = serializers.FloatField(
        allow_null=True, help_text="Factor by which it would pass; null if by none."
    )


class ReportSerializer(serializers.Serializer[Any]):
    unit = serializers.CharField()
    unit_source = serializers.CharField()
    unit_reason = serializers.CharField()
    triangles = serializers.IntegerField()
    vertices = serializers.IntegerField()
    size_mm = serializers.ListField(child=serializers.FloatField())
    volume_mm3 = serializers.FloatField()
    area_mm2 = serializers.FloatField()
    smallest_mm = serializers.FloatField(
        required=False, allow_null=True, help_text="Size of the smallest feature, if it is small."
    )
    shells = serializers.IntegerField()
    pieces = PieceSerializer(many=True, required=False, help_text="The largest, by number.")
    tight = serializers.BooleanField()
    unasked = UnaskedSerializer(many=True)
    questions = serializers.ListField(
        child=serializers.CharField(), help_text="Keys of the questions that were asked."
    )
    could_miss_mm = serializers.FloatField(
        allow_null=True,
        default=None,
        help_text="Size below which a thin place could have been missed, if any.",
    )
    verdicts = VerdictSerializer(many=True, help_text="What each material says to it.")
    seconds = serializers.FloatField()
    findings = FindingSerializer(many=True)
    format = serializers.CharField(required=False)
    notes = serializers.ListField(child=serializers.CharField(), required=False)


class UnitSerializer(serializers.Serializer[Any]):
    unit = serializers.CharField()
    source = serializers.CharField()  # type: ignore[assignment]
    reason = serializers.CharField()
    doubtful = serializers.BooleanField()
    others = serializers.ListField(child=serializers.CharField())


class RevisionLineSerializer(serializers.ModelSerializer[Revision]):
    """A revision as an entry of the logbook."""

    parent = serializers.IntegerField(source="parent_id", allow_null=True, read_only=True)  # type: ignore[assignment]
    tight = serializers.BooleanField(read_only=True)
    made_by = PersonName()
    summary = serializers.SerializerMethodField()

    class Meta:
        model = Revision
        fields: tuple[str, ...] = (
            "id",
            "number",
            "parent",
            "operation",
            "title",
            "tight",
            "summary",
            "made_by",
            "made",
        )

    def get_summary(self, revision: Revision) -> str:
        if revision.account is None:
            return f"{revision.report['triangles']:,} triangles"
        change = revision.account["triangles"]
        return f"{change['after'] - change['before']:+,} triangles".replace("-", "\u2212")


class RevisionSerializer(RevisionLineSerializer):
    """A revision with its examination and account."""

    report = ReportSerializer()
    unit = UnitSerializer()
    account = AccountSerializer(allow_null=True)
    steps = StepSerializer(many=True)
    left = serializers.ListField(child=serializers.CharField())
    sounded = serializers.SerializerMethodField(help_text="Whether its walls were measured.")
    sheet = RuleSheetSerializer(
        source="rules", allow_null=True, help_text="The rules it was judged by."
    )
    parameters = serializers.JSONField()

    class Meta(RevisionLineSerializer.Meta):
        fields = (
            *RevisionLineSerializer.Meta.fields,
            "report",
            "unit",
            "account",
            "steps",
            "left",
            "sounded",
            "sheet",
            "parameters",
        )

    def get_sounded(self, revision: Revision) -> bool:
        return bool(revision.soundings_path)


class OperationSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    title = serializers.CharField()
    about = serializers.CharField()
    answers = serializers.ListField(child=serializers.CharField())
    freely = serializers.BooleanField(help_text="Whether it may be run where nothing was found.")
    parameters = ParameterSerializer(many=True)


class KindSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    one = serializers.CharField()
    many = serializers.CharField()  # type: ignore[assignment]


class QuestionSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    title = serializers.CharField()
    asks = serializers.CharField()
    kinds = KindSerializer(many=True)


class OperateSerializer(serializers.Serializer[Any]):
    operation = serializers.CharField()
    parameters = serializers.DictField(required=False)


class MendSerializer(serializers.Serializer[Any]):
    apart = serializers.ListField(
        child=serializers.IntegerField(min_value=1),
        default=list,
        max_length=1000,
        help_text="Numbers of the pieces, from 1, that are not united with others.",
    )


class CostSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(help_text="What it will leave and take, or why it is refused.")
    refused = serializers.BooleanField()


class JudgeSerializer(serializers.Serializer[Any]):
    material = serializers.SlugField(help_text="Key of the material.")
    why = serializers.CharField(
        max_length=1000, allow_blank=True, default="", help_text="Needed for another material."
    )


class ReturnSerializer(serializers.Serializer[Any]):
    revision = serializers.IntegerField(min_value=0)


class WaiveSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField()
    reason = serializers.CharField(min_length=3, max_length=1000)

"""Revisions, jobs and the seam as the browser sees them."""

from typing import Any

from api.forms import ReasonField
from api.parameters import ParameterSerializer
from caulkjob.findings.pieces import PIECES
from drf_spectacular.utils import extend_schema_field
from materials.serializers import RuleSheetSerializer
from orders.models import LONGEST_NAME
from people.names import PersonName
from rest_framework import serializers

from .models import Decision, Examination, ItemJob, Measure, Revision


class SegmentSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    title = serializers.CharField()
    state = serializers.ChoiceField(("tight", "leaks", "your call", "waived", "not run"))
    text = serializers.CharField()


class JobSerializer(serializers.ModelSerializer[ItemJob]):
    item_name = serializers.CharField(source="item.name", read_only=True)
    kind = serializers.ChoiceField(ItemJob.Kind.choices)
    by = PersonName(source="made_by")

    class Meta:
        model = ItemJob
        fields = (
            "id",
            "item",
            "item_name",
            "kind",
            "title",
            "by",
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
    area_mm2 = serializers.FloatField(
        allow_null=True,
        default=None,
        help_text="Of an open sheet: a thickness adds so much for each millimetre.",
    )
    stands_for = serializers.IntegerField(
        default=1, help_text="Places that this line gathers; 1 but for the last of very many."
    )
    pieces = serializers.ListField(
        child=serializers.IntegerField(), default=list, help_text="Shells that the title names."
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
    number = serializers.IntegerField(
        help_text="By which people know it; kept through changes while others come or go."
    )
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
        usual = {"sides_mm": [], "longest_mm": diagonal, "number": instance["shell"] + 1}
        return super().to_representation(usual | instance)


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


class ThinnestSerializer(serializers.Serializer[Any]):
    """The thinnest wall of a kind, whether that is enough or not."""

    kind = serializers.CharField()
    title = serializers.CharField()
    thickness_mm = serializers.FloatField(
        allow_null=True, help_text="Null where all of this kind is thicker than was measured."
    )
    limit_mm = serializers.FloatField()
    beyond_mm = serializers.FloatField(help_text="Up to where it was measured.")


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
    margin_deg = serializers.FloatField(
        required=False,
        allow_null=True,
        help_text="How far it can be tilted as it lies, z up, before it falls; null while open.",
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
    thinnest = ThinnestSerializer(many=True, default=list)
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
    tight = serializers.SerializerMethodField()
    examination = serializers.SerializerMethodField(
        help_text="The last one of it, in the material ordered if there is one."
    )
    made_by = PersonName()
    summary = serializers.SerializerMethodField()
    name = serializers.SerializerMethodField(help_text="What people call it; empty as a rule.")
    note = serializers.SerializerMethodField()

    class Meta:
        model = Revision
        fields: tuple[str, ...] = (
            "id",
            "number",
            "parent",
            "operation",
            "title",
            "name",
            "note",
            "tight",
            "examination",
            "summary",
            "made_by",
            "made",
        )

    def get_name(self, revision: Revision) -> str:
        held = revision.held_note
        return held.name if held else ""

    def get_note(self, revision: Revision) -> str:
        held = revision.held_note
        return held.text if held else ""

    def get_tight(self, revision: Revision) -> bool:
        examination = self._examination(revision)
        return examination is not None and examination.tight

    def get_examination(self, revision: Revision) -> int:
        examination = self._examination(revision)
        return examination.pk if examination else 0

    def _examination(self, revision: Revision) -> Examination | None:
        return revision.judged_in(revision.item.material_id)

    def get_summary(self, revision: Revision) -> str:
        if revision.account is None:
            return f"{revision.triangles:,} triangles"
        change = revision.account["triangles"]
        return f"{change['after'] - change['before']:+,} triangles".replace("-", "\u2212")


class RevisionSerializer(RevisionLineSerializer):
    """A revision with its examination and account."""

    report = serializers.SerializerMethodField()
    unit = UnitSerializer()
    account = AccountSerializer(allow_null=True)
    steps = StepSerializer(many=True)
    left = serializers.ListField(child=serializers.CharField())
    sounded = serializers.SerializerMethodField(help_text="Whether its walls were measured.")
    sheet = serializers.SerializerMethodField(help_text="The rules it was judged by.")
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

    def to_representation(self, instance: Revision) -> Any:
        asked = self.context.get("examination")
        self._shown = asked or super()._examination(instance)
        return super().to_representation(instance)

    def _examination(self, revision: Revision) -> Examination | None:
        return self._shown

    @extend_schema_field(ReportSerializer)
    def get_report(self, revision: Revision) -> Any:
        assert self._shown is not None, "every revision has been examined"
        return ReportSerializer(self._shown.report).data

    def get_sounded(self, revision: Revision) -> bool:
        return bool(self._shown and self._shown.soundings_path)

    @extend_schema_field(RuleSheetSerializer(allow_null=True))
    def get_sheet(self, revision: Revision) -> Any:
        sheet = self._shown.standard.get("sheet") if self._shown else None
        return RuleSheetSerializer(sheet).data if sheet else None


class PlaceSerializer(serializers.Serializer[Any]):
    """A place as it was found when somebody decided about it."""

    title = serializers.CharField()
    measure = serializers.CharField()
    piece = serializers.IntegerField(
        allow_null=True, default=None, help_text="Number of the piece, if it is one."
    )


class DecisionSerializer(serializers.Serializer[Any]):
    """What a person decided, as an event."""

    id = serializers.IntegerField()
    act = serializers.ChoiceField(Decision.Act.choices)
    kind = serializers.CharField()
    revision = serializers.IntegerField(source="revision.number", allow_null=True, default=None)
    places = serializers.SerializerMethodField()
    holds = serializers.SerializerMethodField(
        help_text="Indices of the places for which it has not been withdrawn."
    )
    withdraws = serializers.IntegerField(source="withdraws_id", allow_null=True)
    material = serializers.CharField(
        source="material.name", allow_null=True, default=None, help_text="If it counts only in one."
    )
    about = serializers.JSONField()
    reason = serializers.CharField()
    by = PersonName()
    at = serializers.DateTimeField()

    @extend_schema_field(PlaceSerializer(many=True))
    def get_places(self, decision: Decision) -> Any:
        of = decision.withdraws if decision.act == Decision.Act.WITHDRAW else decision
        places = of.places if of else []
        if decision.act == Decision.Act.WITHDRAW:
            places = [places[i] for i in decision.places]
        return PlaceSerializer(places, many=True).data

    @extend_schema_field(serializers.ListField(child=serializers.IntegerField()))
    def get_holds(self, decision: Decision) -> list[int]:
        if decision.act != Decision.Act.ACCEPT:
            return []
        gone = {i for one in decision.withdrawals.all() for i in one.places}
        return [i for i in range(len(decision.places)) if i not in gone]


class CoverSerializer(serializers.Serializer[Any]):
    """A place of a finding that is accepted, and by what."""

    kind = serializers.CharField()
    place = serializers.IntegerField(help_text="Number of the place within its finding, from 1.")
    decision = serializers.IntegerField(source="by.decision.pk")
    index = serializers.IntegerField(source="by.index", help_text="Of the place in the decision.")
    reason = serializers.CharField(source="by.decision.reason")
    by = serializers.SerializerMethodField()
    at = serializers.DateTimeField(source="by.decision.at")

    def get_by(self, told: dict[str, Any]) -> str:
        person = told["by"].by
        return person.get_full_name() if person else ""


class StandSerializer(serializers.Serializer[Any]):
    """How the questions stand for one revision, whether it holds or not."""

    seam = SegmentSerializer(many=True)
    covered = CoverSerializer(many=True)


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


class AskedSerializer(serializers.Serializer[Any]):
    operation = serializers.CharField()
    parameters = serializers.DictField(required=False)


class OperateSerializer(AskedSerializer):
    revision = serializers.IntegerField(help_text="Key of the revision that was looked at.")


class NoteSerializer(serializers.Serializer[Any]):
    """What a revision is called, and what is noted of it."""

    name = serializers.CharField(max_length=80, allow_blank=True)
    note = serializers.CharField(max_length=2000, allow_blank=True)


class PieceNameSerializer(serializers.Serializer[Any]):
    """What a piece is called; nothing to go by the file's name again."""

    name = serializers.CharField(max_length=80, allow_blank=True)


class DeriveSerializer(serializers.Serializer[Any]):
    """What becomes an item of its own."""

    revision = serializers.IntegerField(help_text="Key of the revision that was looked at.")
    pieces = serializers.ListField(
        child=serializers.IntegerField(min_value=1),
        allow_empty=True,
        help_text="Numbers of the pieces; all of it where there are none.",
    )
    name = serializers.CharField(
        max_length=LONGEST_NAME,
        default="",
        allow_blank=True,
        help_text="Of the item; needed unless there is one of each.",
    )
    each = serializers.BooleanField(
        default=False, help_text="Whether each piece becomes an item, called as the piece is."
    )
    take_out = serializers.BooleanField(
        default=False, help_text="Whether the pieces leave the item that they are of."
    )

    def validate(self, given: dict[str, Any]) -> dict[str, Any]:
        if not given["each"] and not given["name"]:
            raise serializers.ValidationError({"name": "Give the item a name."})
        if given["each"] and not given["pieces"]:
            raise serializers.ValidationError({"pieces": "Name the pieces."})
        return given


class PointField(serializers.ListField):
    """A place, mm."""

    def __init__(self, **options: Any) -> None:
        child = serializers.FloatField(min_value=-1e6, max_value=1e6)
        super().__init__(child=child, min_length=3, max_length=3, **options)


class MeasureSerializer(serializers.ModelSerializer[Measure]):
    """Something that was measured and kept."""

    by = PersonName()
    value = serializers.FloatField(min_value=0, max_value=1e6, help_text="mm; degrees of an angle.")
    line = serializers.ListField(child=PointField(), min_length=2, max_length=8)

    class Meta:
        model = Measure
        fields = ("id", "revision", "kind", "name", "value", "between", "line", "by", "at")
        read_only_fields = ("revision",)


class MeasureNameSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80, allow_blank=True)


class SeenSerializer(serializers.Serializer[Any]):
    """What every change names: the revision that the person looked at."""

    revision = serializers.IntegerField(help_text="Key of the revision that was looked at.")


class CostSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(help_text="What it will leave and take, or why it is refused.")
    refused = serializers.BooleanField()


class MaterialChangeSerializer(SeenSerializer):
    material = serializers.SlugField(help_text="Key of the material.")
    reason = ReasonField()


class ReturnSerializer(SeenSerializer):
    to = serializers.IntegerField(min_value=0, help_text="Number of the revision to go back to.")


class AcceptSerializer(SeenSerializer):
    examination = serializers.IntegerField(
        help_text="Key of the examination whose findings were looked at."
    )
    kind = serializers.CharField()
    places = serializers.ListField(
        child=serializers.IntegerField(min_value=1),
        allow_null=True,
        default=None,
        help_text="Numbers of the places, from 1; null for all that are listed.",
    )
    listed = serializers.IntegerField(
        min_value=1, help_text="How many lines of the kind the person saw."
    )
    reason = ReasonField()


class ApartSerializer(SeenSerializer):
    pieces = serializers.ListField(
        child=serializers.IntegerField(min_value=1), min_length=1, max_length=1000
    )
    reason = ReasonField()


class WithdrawSerializer(serializers.Serializer[Any]):
    places = serializers.ListField(
        child=serializers.IntegerField(min_value=0),
        allow_null=True,
        default=None,
        help_text="Indices in the decision; null for all of them.",
    )
    reason = ReasonField()


class SetAsideSerializer(serializers.Serializer[Any]):
    aside = serializers.BooleanField(help_text="Whether nothing more is to be done about it.")
    reason = ReasonField()

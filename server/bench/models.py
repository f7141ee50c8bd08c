"""Revisions of an item's mesh, the work that makes them, and the decisions about them."""

from typing import Any

import pghistory
import pgtrigger
from django.db import models
from materials.models import Material
from orders.models import Item
from people.models import APPEND_ONLY
from people.names import person_field
from work.models import Job


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(
    pghistory.InsertEvent(),
    fields=["item", "number", "parent", "operation", "title", "parameters", "triangles", "made_by"],
)
class Revision(models.Model):
    """One state of an item's mesh; never changed once made."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    operation = models.CharField(max_length=60)
    title = models.CharField(max_length=120)
    parameters = models.JSONField(default=dict)
    steps = models.JSONField(default=list)
    """What was done, step by step, each with its account."""
    account = models.JSONField(null=True)
    left = models.JSONField(default=list)
    """What was left alone and why, a sentence each."""
    unit = models.JSONField()
    mesh_path = models.CharField(max_length=255)
    skin_path = models.CharField(max_length=255)
    changes_path = models.CharField(max_length=255, blank=True)
    """Where it differs from its parent; empty if it has none."""
    triangles = models.PositiveIntegerField()
    highest_piece = models.PositiveIntegerField(default=0)
    """The highest number that a piece of it has; no other piece of the item gets it again."""
    made_by = person_field()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("item", "number"), name="revision_number"),)

    def __str__(self) -> str:
        return f"{self.item} revision {self.number}"

    @property
    def held_note(self) -> "RevisionNote | None":
        """What it is called and what is noted of it now."""
        return next(reversed(self.notes.all()), None)

    def judged_in(self, material_id: int | None) -> "Examination | None":
        """The last examination by the rules of a material; the last of all where there is none."""
        every = list(self.examinations.all())
        by_it = [one for one in every if one.material_id == material_id]
        return next(reversed(by_it or every), None)


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(
    pghistory.InsertEvent(), fields=["revision", "tight", "material", "standard", "made_by"]
)
class Examination(models.Model):
    """What was found on a revision, judged by one material's rules as they held; never changed."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="examinations")
    report = models.JSONField()
    brief = models.JSONField()
    """What the seam needs of the report where nothing was accepted: all but the places."""
    marks_path = models.CharField(max_length=255)
    soundings_path = models.CharField(max_length=255, blank=True)
    """Empty where walls were not measured."""
    tight = models.BooleanField()
    material = models.ForeignKey(Material, null=True, on_delete=models.PROTECT, related_name="+")
    standard = models.JSONField(default=dict)
    """The sheet, the limits and the machines it was judged by; see `bench.standard.Standard`."""
    made_by = person_field()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    @staticmethod
    def outlines() -> "models.QuerySet[Examination]":
        """All of them without their reports, which are large and fetched when asked for."""
        return Examination.objects.defer("report", "brief", "standard")

    @staticmethod
    def brief_of(report: dict[str, Any]) -> dict[str, Any]:
        """What lists need of a report, thousands of places shorter."""
        named = ("questions", "unasked", "size_mm", "thinnest")
        findings = [
            {name: one[name] for name in ("kind", "severity", "places", "count")}
            for one in report["findings"]
        ]
        return {**{name: report.get(name, []) for name in named}, "findings": findings}

    def __str__(self) -> str:
        return f"{self.revision}, examined {self.made:%Y-%m-%d %H:%M}"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class Decision(models.Model):
    """What a person decided about an item: an event, never changed once made."""

    class Act(models.TextChoices):
        """What was decided."""

        ACCEPT = "accept"
        """The places stay as they are."""
        WITHDRAW = "withdraw"
        """An earlier acceptance holds no longer, for some of its places or all."""
        RETURN = "return"
        """Another revision holds from now on."""
        MATERIAL = "material"
        """It is made of another material."""
        SET_ASIDE = "set-aside"
        """The item is worked on no further."""
        TAKE_UP = "take-up"
        """An item that was set aside is worked on again."""
        REPLACE = "replace"
        """Another file was received in place of the one before."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="decisions")
    revision = models.ForeignKey(
        Revision, null=True, on_delete=models.PROTECT, related_name="decisions"
    )
    """The revision that the person looked at."""
    act = models.CharField(max_length=12, choices=Act.choices)
    kind = models.CharField(max_length=40, blank=True)
    """Kind of the finding, or `caulkjob.accepted_places.STAYS_APART`."""
    places = models.JSONField(default=list)
    """The places as they were found; of a withdrawal, their indices in the acceptance."""
    withdraws = models.ForeignKey(
        "self", null=True, on_delete=models.PROTECT, related_name="withdrawals"
    )
    material = models.ForeignKey(Material, null=True, on_delete=models.PROTECT, related_name="+")
    """The material that it was decided for, if that makes a difference."""
    about = models.JSONField(default=dict)
    """From what to what, for those that change something."""
    reason = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.item}: {self.act} {self.kind}"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class RevisionNote(models.Model):
    """What a revision is called and what is noted of it; the last one holds."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="notes")
    name = models.CharField(max_length=80, blank=True)
    text = models.TextField(blank=True)
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.revision}: {self.name}"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class PieceName(models.Model):
    """What people call a piece of an item, through all its revisions; the last one holds."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="piece_names")
    number = models.PositiveIntegerField()
    """By which the piece is known."""
    name = models.CharField(max_length=80, blank=True)
    """Empty where it goes by its file's name again."""
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.item}, piece {self.number}: {self.name}"


@pghistory.track(pghistory.InsertEvent(), pghistory.UpdateEvent(), pghistory.DeleteEvent())
class Measure(models.Model):
    """Something that was measured on a revision, kept to be shown again."""

    class Kind(models.TextChoices):
        """What was measured."""

        DISTANCE = "distance"
        ANGLE = "angle"
        ROUND = "round"
        THROUGH = "through"

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="measures")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    name = models.CharField(max_length=80, blank=True)
    value = models.FloatField()
    """mm; degrees of an angle."""
    between = models.CharField(max_length=200)
    """From what to what, in words."""
    line = models.JSONField()
    """Points of the line that is drawn for it, mm."""
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.revision}: {self.kind} {self.value:g}"


class Comparison(models.Model):
    """How far a revision is from another one of the order; computed once, since neither changes."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="comparisons")
    against = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="+")
    account = models.JSONField()
    """As if `revision` had been made of `against`."""
    changes_path = models.CharField(max_length=255)
    """Where `revision` differs from `against`."""
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
        constraints = (
            models.UniqueConstraint(fields=("revision", "against"), name="compared_once"),
        )

    def __str__(self) -> str:
        return f"{self.revision} against {self.against.number}"


class PieceClearance(models.Model):
    """How two pieces of a revision lie to each other; computed once, since it never changes."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="clearances")
    first = models.PositiveIntegerField()
    second = models.PositiveIntegerField()
    """By which the pieces are known, the lower one first."""
    told = models.JSONField()
    """The gap or what they share, as `bench.computing.measure` tells it."""
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
        constraints = (
            models.UniqueConstraint(fields=("revision", "first", "second"), name="measured_once"),
        )

    def __str__(self) -> str:
        return f"{self.revision}, pieces {self.first} and {self.second}"


class Workpiece(models.Model):
    """An item as the bench has it."""

    item = models.OneToOneField(
        Item, on_delete=models.CASCADE, primary_key=True, related_name="workpiece"
    )
    current = models.ForeignKey(Revision, null=True, on_delete=models.SET_NULL, related_name="+")
    """The revision that holds; none until the file is read."""
    examination = models.ForeignKey(
        Examination, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    """The last one of the revision that holds, in the material ordered if there is one."""
    problem = models.TextField(blank=True)
    """Why the file could not be read, if it could not."""
    once_received = models.JSONField(null=True)
    """Work to begin as soon as the file is read: a job's fields, and ``by`` for who wants it."""

    def __str__(self) -> str:
        return str(self.item)


class ItemJob(Job):
    """One piece of long work on an item; a job of the queue with what it is about."""

    class Kind(models.TextChoices):
        """What is to be done."""

        RECEIVE = "receive"
        OPERATE = "operate"
        JUDGE = "judge"
        MEND = "mend"
        RELEASE = "release"
        COMPARE = "compare"
        DERIVE = "derive"
        MEASURE = "measure"

    BLOCKING = (Kind.RECEIVE, Kind.OPERATE, Kind.MEND, Kind.RELEASE, Kind.DERIVE)
    """Kinds that nothing else may run beside; judging goes on behind everything else."""
    FIRST = (Kind.RECEIVE, Kind.DERIVE)
    """Kinds that make an item's first revision."""
    ASIDE = (Kind.COMPARE, Kind.MEASURE)
    """Kinds that only look at revisions and change nothing of the item."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="jobs")
    base = models.ForeignKey(Revision, null=True, on_delete=models.CASCADE, related_name="+")

    @property
    def material(self) -> Material:
        """The material that the result is to be judged by."""
        key = self.parameters.get("material")
        return Material.objects.get(key=key) if key else self.item.material

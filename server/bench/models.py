"""Revisions of an item's mesh, the work that makes them, and the decisions about them."""

from django.db import models
from materials.models import Material
from orders.models import Item
from people.names import person_field
from work.models import Job


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
    report = models.JSONField()
    unit = models.JSONField()
    mesh_path = models.CharField(max_length=255)
    skin_path = models.CharField(max_length=255)
    marks_path = models.CharField(max_length=255)
    soundings_path = models.CharField(max_length=255, blank=True)
    """Empty where walls were not measured."""
    changes_path = models.CharField(max_length=255, blank=True)
    """Where it differs from its parent; empty if it has none."""
    material = models.ForeignKey(Material, null=True, on_delete=models.PROTECT, related_name="+")
    rules = models.JSONField(null=True)
    """The material and the sheet it was judged by."""
    made_by = person_field()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("item", "number"), name="revision_number"),)

    def __str__(self) -> str:
        return f"{self.item} revision {self.number}"

    @property
    def tight(self) -> bool:
        """Whether its examination found no leak."""
        return bool(self.report["tight"])


class Waiver(models.Model):
    """A person's decision to accept what a check asked about."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="waivers")
    kind = models.CharField(max_length=40)
    reason = models.TextField()
    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="+")
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("at",)
        constraints = (models.UniqueConstraint(fields=("item", "kind"), name="one_waiver_a_kind"),)

    def __str__(self) -> str:
        return f"{self.item}: {self.kind} waived"


class Workpiece(models.Model):
    """An item as the bench has it."""

    item = models.OneToOneField(
        Item, on_delete=models.CASCADE, primary_key=True, related_name="workpiece"
    )
    current = models.ForeignKey(Revision, null=True, on_delete=models.SET_NULL, related_name="+")
    """The revision that holds; none until the file is read."""
    problem = models.TextField(blank=True)
    """Why the file could not be read, if it could not."""

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

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="jobs")
    base = models.ForeignKey(Revision, null=True, on_delete=models.CASCADE, related_name="+")

    @property
    def material(self) -> Material:
        """The material that the result is to be judged by."""
        key = self.parameters.get("material")
        return Material.objects.get(key=key) if key else self.item.material

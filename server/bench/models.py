"""Revisions of an item's mesh, the work that makes them, and the decisions about them."""

from django.contrib.auth.models import User
from django.db import models
from materials.models import Material
from orders.models import Item


def _person() -> "models.ForeignKey[User | None, User | None]":
    return models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")


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
    material = models.ForeignKey(Material, null=True, on_delete=models.PROTECT, related_name="+")
    rules = models.JSONField(null=True)
    """The material and the sheet it was judged by."""
    made_by = _person()
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
    by = _person()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("at",)
        constraints = (models.UniqueConstraint(fields=("item", "kind"), name="one_waiver_a_kind"),)

    def __str__(self) -> str:
        return f"{self.item}: {self.kind} waived"


class Job(models.Model):
    """One piece of long work on an item."""

    class Kind(models.TextChoices):
        """What is to be done."""

        RECEIVE = "receive"
        OPERATE = "operate"
        JUDGE = "judge"
        MEND = "mend"
        RELEASE = "release"

    class State(models.TextChoices):
        """How far it is. All but the first two are final."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"
        CANCELLED = "cancelled"

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    title = models.CharField(max_length=120)
    parameters = models.JSONField(default=dict)
    base = models.ForeignKey(Revision, null=True, on_delete=models.CASCADE, related_name="+")
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    step = models.CharField(max_length=120, blank=True)
    fraction = models.FloatField(default=0)
    message = models.TextField(blank=True)
    tries = models.PositiveIntegerField(default=0)
    cancel_asked = models.BooleanField(default=False)
    made_by = _person()
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)

    OPEN = (State.WAITING, State.RUNNING)

    class Meta:
        ordering = ("-id",)
        constraints = (
            models.UniqueConstraint(
                fields=("item",),
                condition=models.Q(state__in=("waiting", "running")),
                name="one_open_job_an_item",
            ),
        )

    def __str__(self) -> str:
        return f"{self.title} ({self.state})"

    @property
    def material(self) -> Material:
        """The material that the result is to be judged by."""
        key = self.parameters.get("material")
        return Material.objects.get(key=key) if key else self.item.material

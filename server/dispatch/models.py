"""What left the shop, what was taken back, and what was written to customers."""

import pghistory
import pgtrigger
from bench.models import Revision
from django.db import models
from orders.models import Item
from people.models import APPEND_ONLY
from people.names import person_field


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent(), exclude=["report", "letter"])
class Release(models.Model):
    """A file as delivered, with its letter; never changed once made."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="releases")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    material = models.CharField(max_length=80, blank=True)
    """Key of the material that it was released in."""
    format = models.CharField(max_length=8)
    file_name = models.CharField(max_length=255)
    file_path = models.CharField(max_length=255)
    file_bytes = models.BigIntegerField()
    report = models.JSONField()
    """Of the written file, read back."""
    standard = models.JSONField(default=dict)
    """The sheet, the limits and the machines that the written file was judged by."""
    decisions = models.JSONField(default=list)
    """The acceptances that it rests on, by key of the decision and index of the place."""
    letter = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.file_name

    @property
    def holds(self) -> bool:
        """Whether it has not been withdrawn."""
        return not hasattr(self, "withdrawal")


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class Withdrawal(models.Model):
    """A release taken back, with a reason; never changed once made."""

    release = models.OneToOneField(Release, on_delete=models.PROTECT, related_name="withdrawal")
    reason = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.release} withdrawn"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent(), exclude=["html"])
class Letter(models.Model):
    """What was written to a customer about an item that cannot be printed as it came."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="letters")
    revision = models.ForeignKey(Revision, null=True, on_delete=models.PROTECT, related_name="+")
    html = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"Letter about {self.item}"

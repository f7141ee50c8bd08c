"""What left the shop."""

from bench.models import Revision
from django.db import models
from orders.models import Item
from people.names import person_field


class Release(models.Model):
    """A file as delivered, with its letter."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="releases")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    format = models.CharField(max_length=8)
    file_name = models.CharField(max_length=255)
    file_path = models.CharField(max_length=255)
    file_bytes = models.BigIntegerField()
    report = models.JSONField()
    """Of the written file, read back."""
    letter = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.file_name

"""What lists need of an item, kept ready, and which of it has to be told anew."""

from django.db import models
from orders.models import Item


class Summary(models.Model):
    """How an item stood when that was last told; only right while nothing is due for it."""

    item = models.OneToOneField(
        Item, on_delete=models.CASCADE, primary_key=True, related_name="summary"
    )
    seam = models.JSONField()
    """The segments of the seam, as `bench.seam.Segment`."""
    next = models.TextField(blank=True)
    """What is next with it, in a few words."""
    step = models.PositiveSmallIntegerField()
    """How many questions, from the first, stand in nobody's way."""
    leaks = models.BooleanField()
    calls = models.BooleanField()
    """Whether it waits for somebody to decide."""
    ready = models.BooleanField()
    """Whether it can be released, and has not been."""
    released = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.item}: {self.next}"


class SummaryDue(models.Model):
    """Something changed on which an item's summary rests.

    Triggers of the database write a row in the transaction of the change, so that none is missed
    and changes do not wait for each other; who tells the summary anew removes the rows that were
    seen before it was told.
    """

    item_id = models.BigIntegerField(db_index=True)

    def __str__(self) -> str:
        return f"summary of item {self.item_id}"

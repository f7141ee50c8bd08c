"""What customers sent."""

import pghistory
import pgtrigger
from django.contrib.auth.models import User
from django.db import models
from materials.models import Material
from people.models import APPEND_ONLY
from people.names import person_field

LONGEST_NAME = 120
"""Letters of an item's name."""
LONGEST_FILE_NAME = 255
"""Letters of its file's."""


class Customer(models.Model):
    """Somebody who orders; never logs in."""

    name = models.CharField(max_length=120, unique=True)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


@pghistory.track(pghistory.InsertEvent(), pghistory.UpdateEvent(), pghistory.DeleteEvent())
class Order(models.Model):
    """A number of items that came together."""

    number = models.CharField(max_length=12, unique=True)
    customer = models.ForeignKey(Customer, on_delete=models.PROTECT, related_name="orders")
    received = models.DateTimeField(auto_now_add=True)
    due = models.DateTimeField()
    note = models.TextField(blank=True)

    class Meta:
        ordering = ("due", "number")

    def __str__(self) -> str:
        return self.number

    @staticmethod
    def next_number() -> str:
        """The number after the highest, four digits at least."""
        last = Order.objects.order_by("-id").values_list("number", flat=True).first()
        return f"{int(last) + 1:04d}" if last and last.isdigit() else "0401"


@pghistory.track(pghistory.InsertEvent(), pghistory.UpdateEvent(), pghistory.DeleteEvent())
class Item(models.Model):
    """One model to be printed, in one material, in some quantity."""

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="items")
    name = models.CharField(max_length=LONGEST_NAME)
    note = models.TextField(blank=True)
    material = models.ForeignKey(Material, on_delete=models.PROTECT)
    quantity = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)
    set_aside = models.BooleanField(default=False)
    """Whether somebody has decided that nothing more is done about it."""
    assignee = models.ForeignKey(
        User, null=True, blank=True, on_delete=models.SET_NULL, related_name="items"
    )
    """Who looks after it."""

    file_name = models.CharField(max_length=LONGEST_FILE_NAME)
    received_path = models.CharField(max_length=255)
    received_bytes = models.BigIntegerField()

    class Meta:
        ordering = ("order__due", "order__number", "id")

    def __str__(self) -> str:
        return f"{self.order.number} {self.name}"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class Removal(models.Model):
    """An order that was removed with its items and files; never changed once made."""

    number = models.CharField(max_length=12)
    customer = models.CharField(max_length=120)
    items = models.PositiveIntegerField()
    reason = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.number} removed"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class Comment(models.Model):
    """What somebody of the shop wrote about an item for the others; never changed once made."""

    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="comments")
    text = models.TextField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.item}: {self.text[:40]}"

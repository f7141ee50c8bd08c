"""Accounts, and who came and went."""

import pghistory
import pgtrigger
from django.contrib.auth.models import User
from django.db import models

from .names import person_field

APPEND_ONLY = pgtrigger.Protect(name="append_only", operation=pgtrigger.Update | pgtrigger.Delete)
"""A trigger of the database that lets nobody change or remove a row."""


@pghistory.track(
    pghistory.InsertEvent(),
    pghistory.UpdateEvent(),
    pghistory.DeleteEvent(),
    fields=["username", "first_name", "last_name", "is_staff", "is_active"],
)
class Account(User):
    """A person's account, whose changes are kept."""

    class Meta:
        proxy = True


@pghistory.track(pghistory.InsertEvent(), pghistory.DeleteEvent())
class Onlooker(models.Model):
    """An account that may look at everything that technicians see, and change nothing."""

    user = models.OneToOneField(
        User, on_delete=models.CASCADE, primary_key=True, related_name="onlooker"
    )

    def __str__(self) -> str:
        return f"{self.user.get_username()} only looks"


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class Visit(models.Model):
    """Somebody logged in or out, or tried to."""

    class Kind(models.TextChoices):
        """What happened."""

        IN = "in"
        OUT = "out"
        REFUSED = "refused"

    kind = models.CharField(max_length=8, choices=Kind.choices)
    username = models.CharField(max_length=150)
    """As it was typed, where the name is not known."""
    person = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.username} {self.kind}"

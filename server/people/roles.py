"""The three roles, and who has which."""

from django.contrib.auth.models import AnonymousUser, User
from django.db import models

from .models import Onlooker

Anybody = User | AnonymousUser


class Role(models.TextChoices):
    """What an account may do."""

    TECHNICIAN = "technician"
    """Everything that is about items and orders."""
    LEAD = "lead"
    """That, and what holds for the whole shop: rule sheets, settings, accounts, the trail."""
    READ_ONLY = "read-only"
    """Look at all that a technician sees."""


def is_lead(user: Anybody) -> bool:
    """Whether somebody leads the shop."""
    return bool(user.is_authenticated and user.is_active and user.is_staff)


def may_change(user: Anybody) -> bool:
    """Whether somebody may change anything at all."""
    if is_lead(user):
        return True
    return user.is_authenticated and not Onlooker.objects.filter(user=user).exists()


def role_of(user: User) -> Role:
    """The role of an account."""
    if user.is_staff:
        return Role.LEAD
    return Role.READ_ONLY if hasattr(user, "onlooker") else Role.TECHNICIAN


def give_role(user: User, role: str) -> None:
    """Give an account a role, within the caller's transaction."""
    if user.is_staff != (role == Role.LEAD):
        user.is_staff = role == Role.LEAD
        user.save(update_fields=["is_staff"])
    if role == Role.READ_ONLY:
        Onlooker.objects.get_or_create(user=user)
    else:
        Onlooker.objects.filter(user=user).delete()

"""Who looks after an item."""

from django.contrib.auth.models import User
from people.roles import may_change
from rest_framework.exceptions import ValidationError

from .models import Item


def person_named(username: str) -> User | None:
    """Somebody who can be given items; none for an empty name.

    Raises
    ------
    ValidationError
        If there is nobody of that name who may work here.
    """
    if not username:
        return None
    user = User.objects.filter(username=username, is_active=True).first()
    if user is None:
        raise ValidationError(f"There is nobody called {username} who could look after it.")
    if not may_change(user):
        raise ValidationError(f"{user.get_full_name()} may only look, and cannot be given items.")
    return user


def assign(item: Item, to: User | None) -> None:
    """Give an item to somebody to look after."""
    item.assignee = to
    item.save(update_fields=["assignee"])

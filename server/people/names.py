"""People as other rooms refer to them."""

from typing import Any

from django.contrib.auth.models import User
from django.db import models
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers


def person_field() -> "models.ForeignKey[User | None, User | None]":
    """Who did something; empty once the account is gone."""
    return models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")


@extend_schema_field(serializers.CharField())
class PersonName(serializers.Field[Any, Any, str, Any]):
    """A person's full name, empty where nobody is named."""

    def __init__(self, **options: Any) -> None:
        super().__init__(read_only=True, **options)

    def get_attribute(self, instance: Any) -> Any:
        return getattr(instance, str(self.source)) or User()

    def to_representation(self, value: User) -> str:
        return value.get_full_name()

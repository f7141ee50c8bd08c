"""What requests bring, checked."""

from typing import Any

from rest_framework import serializers


def checked(form: type[serializers.Serializer[Any]], data: Any, *, partial: bool = False) -> Any:
    """The values of a form as it was sent, checked and converted.

    Raises
    ------
    ValidationError
        If one does not fit.
    """
    sent = form(data=data, partial=partial)
    sent.is_valid(raise_exception=True)
    return sent.validated_data


class ReasonField(serializers.CharField):
    """Why somebody decides something."""

    def __init__(self, **options: Any) -> None:
        super().__init__(min_length=3, max_length=1000, **options)


class ReasonSerializer(serializers.Serializer[Any]):
    reason = ReasonField()

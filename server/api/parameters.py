"""What can be chosen about an operation or settled for the shop, as forms need it."""

from typing import Any, get_args

from caulkjob.operation import Kind
from rest_framework import serializers


class ParameterSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    title = serializers.CharField()
    about = serializers.CharField()
    kind = serializers.ChoiceField(get_args(Kind))
    choices = serializers.ListField(child=serializers.CharField())
    offers = serializers.ListField(
        child=serializers.CharField(allow_blank=True),
        help_text="What a button says that takes each choice; empty for those without a button.",
    )
    unit = serializers.CharField()
    least = serializers.FloatField()
    most = serializers.FloatField()
    default = serializers.JSONField(
        allow_null=True, help_text="What is taken when nothing is given; null if that depends."
    )
    empty = serializers.CharField(
        help_text="What giving none means; empty for a region that has to be given."
    )
    needed = serializers.BooleanField(help_text="Whether it has to be given.")

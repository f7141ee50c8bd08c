"""Releases and letters as the browser sees them."""

from typing import Any

from bench.serializers import SeenSerializer
from caulkcore.io.files import WRITERS
from people.names import PersonName
from rest_framework import serializers

FORMATS = tuple(suffix[1:] for suffix in WRITERS if suffix != ".off")
_LONGEST = 20_000
"""Characters that a part of a letter may have."""


class LetterTextSerializer(serializers.Serializer[Any]):
    """The parts of a letter that a person may write anew; each line is an entry."""

    opening = serializers.CharField(max_length=_LONGEST)
    found = serializers.CharField(max_length=_LONGEST, allow_blank=True)
    changed = serializers.CharField(max_length=_LONGEST, allow_blank=True)
    accepted = serializers.CharField(max_length=_LONGEST, allow_blank=True)


class OfferSerializer(serializers.Serializer[Any]):
    """A format to release in, and what the file would be called."""

    format = serializers.ChoiceField(FORMATS)
    file_name = serializers.CharField()


class ProposalSerializer(serializers.Serializer[Any]):
    """What would leave: the letter as it would go, and the formats, the shop's own first."""

    revision = serializers.IntegerField()
    rests_on = serializers.CharField(
        help_text="What was found and decided when this was proposed; named by the release."
    )
    offers = OfferSerializer(many=True)
    letter = LetterTextSerializer()


class ReleaseSerializer(SeenSerializer):
    rests_on = serializers.CharField(help_text="As the proposal that was read told it.")
    format = serializers.ChoiceField(FORMATS)
    letter = LetterTextSerializer()


class WithdrawalSerializer(serializers.Serializer[Any]):
    reason = serializers.CharField()
    by = PersonName()
    at = serializers.DateTimeField()


class ReleaseLineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    format = serializers.CharField()
    file_name = serializers.CharField()
    file_bytes = serializers.IntegerField()
    revision = serializers.IntegerField(source="revision.number")
    by = PersonName()
    at = serializers.DateTimeField()
    withdrawal = WithdrawalSerializer(allow_null=True, default=None)


class LetterSerializer(serializers.Serializer[Any]):
    """A letter about an item that cannot be printed as it came."""

    text = serializers.CharField(min_length=3, max_length=_LONGEST)


class LetterLineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    by = PersonName()
    at = serializers.DateTimeField()

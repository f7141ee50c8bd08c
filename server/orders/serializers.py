"""Orders and items as the browser sees them."""

from typing import Any

from people.names import PersonName
from rest_framework import serializers

from .models import Comment, Customer, Order


class CustomerSerializer(serializers.ModelSerializer[Customer]):
    class Meta:
        model = Customer
        fields = ("id", "name")


class OrderSerializer(serializers.ModelSerializer[Order]):
    customer_name = serializers.CharField(source="customer.name", read_only=True)

    class Meta:
        model = Order
        fields = ("id", "number", "customer", "customer_name", "due", "received", "note")


class NewOrderSerializer(serializers.Serializer[Any]):
    customer = serializers.CharField(max_length=120)
    due = serializers.DateTimeField()
    note = serializers.CharField(allow_blank=True, default="", max_length=4000)


class ChangeOrderSerializer(serializers.Serializer[Any]):
    """What is changed, each beside what the person saw there before."""

    note = serializers.CharField(allow_blank=True, max_length=4000, required=False)
    note_seen = serializers.CharField(allow_blank=True, max_length=4000, required=False)
    due = serializers.DateTimeField(required=False)
    due_seen = serializers.DateTimeField(required=False)


class CommentSerializer(serializers.ModelSerializer[Comment]):
    by = PersonName()

    class Meta:
        model = Comment
        fields = ("id", "text", "by", "at")


class NewCommentSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=4000)


class AssignSerializer(serializers.Serializer[Any]):
    assignee = serializers.CharField(
        allow_blank=True, max_length=150, help_text="Login name; empty for nobody."
    )

"""Orders and items as the browser sees them."""

from typing import Any

from rest_framework import serializers

from .models import Customer, Order


class CustomerSerializer(serializers.ModelSerializer[Customer]):
    class Meta:
        model = Customer
        fields = ("id", "name")


class OrderSerializer(serializers.ModelSerializer[Order]):
    customer_name = serializers.CharField(source="customer.name", read_only=True)

    class Meta:
        model = Order
        fields = ("id", "number", "customer_name", "due", "received", "note")


class NewOrderSerializer(serializers.Serializer[Any]):
    customer = serializers.CharField(max_length=120)
    due = serializers.DateTimeField()
    note = serializers.CharField(allow_blank=True, default="", max_length=4000)

"""Orders and customers."""

from django.db import connection, transaction
from drf_spectacular.utils import extend_schema
from rest_framework import generics, status
from rest_framework.request import Request
from rest_framework.response import Response

from .models import Customer, Order
from .serializers import (
    CustomerSerializer,
    NewOrderSerializer,
    OrderSerializer,
)

_NUMBERING = 1_400
"""Key of the database's lock on the numbering of orders; any number that no other lock has."""


class CustomersView(generics.ListAPIView[Customer]):
    """Customers by name."""

    queryset = Customer.objects.all()
    serializer_class = CustomerSerializer


class OrdersView(generics.ListAPIView[Order]):
    """Orders by due date; new ones."""

    queryset = Order.objects.select_related("customer")
    serializer_class = OrderSerializer

    @extend_schema(request=NewOrderSerializer, responses={201: OrderSerializer})
    def post(self, request: Request) -> Response:
        form = NewOrderSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        with transaction.atomic(), connection.cursor() as cursor:
            # one at a time: the number after the highest is given once
            cursor.execute("select pg_advisory_xact_lock(%s)", [_NUMBERING])
            customer, _made = Customer.objects.get_or_create(name=given["customer"])
            order = Order.objects.create(
                number=Order.next_number(),
                customer=customer,
                due=given["due"],
                note=given["note"],
            )
        return Response(OrderSerializer(order).data, status=status.HTTP_201_CREATED)

"""Orders and customers."""

from django.db import IntegrityError, transaction
from drf_spectacular.utils import extend_schema
from rest_framework import generics, status
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response

from .models import Customer, Order
from .serializers import (
    CustomerSerializer,
    NewOrderSerializer,
    OrderSerializer,
)


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
        for _ in range(5):
            try:
                with transaction.atomic():
                    customer, _made = Customer.objects.get_or_create(name=given["customer"])
                    order = Order.objects.create(
                        number=Order.next_number(),
                        customer=customer,
                        due=given["due"],
                        note=given["note"],
                    )
            except IntegrityError:
                continue  # somebody took the number at the same moment
            return Response(OrderSerializer(order).data, status=status.HTTP_201_CREATED)
        raise ValidationError("Too many orders at once; try again.")

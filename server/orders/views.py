"""Orders and customers."""

from datetime import datetime
from typing import Any, cast

from api.exception_handler import Conflict
from api.forms import checked
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import generics, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .assigning import assign, person_named
from .models import Comment, Customer, Item, Order
from .serializers import (
    AssignSerializer,
    ChangeOrderSerializer,
    CommentSerializer,
    CustomerSerializer,
    NewCommentSerializer,
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
        given = checked(NewOrderSerializer, request.data)
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


class OrderView(APIView):
    """Changes an order's note or due date."""

    @extend_schema(request=ChangeOrderSerializer, responses=OrderSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        given = checked(ChangeOrderSerializer, request.data)
        with transaction.atomic():
            order = get_object_or_404(Order.objects.select_for_update(), pk=pk)
            for name in ("note", "due"):
                if name in given:
                    change_if_seen(order, name, given[name], given.get(f"{name}_seen"))
            order.save()
        return Response(OrderSerializer(order).data)


def change_if_seen(order: Order, name: str, value: Any, seen: Any) -> None:
    """Change a field of an order that the caller holds, if it is still as a person saw it.

    Raises
    ------
    Conflict
        If somebody changed it meanwhile; says to what.
    """
    holds = getattr(order, name)
    if seen is not None and seen != holds and value != holds:
        now = f"{holds:%-d %B %Y, %H:%M}" if isinstance(holds, datetime) else f"“{holds}”"
        raise Conflict(f"Somebody changed the {name} meanwhile; it is now {now}.")
    setattr(order, name, value)


class CommentsView(APIView):
    """Writes a comment about an item for the others of the shop."""

    @extend_schema(request=NewCommentSerializer, responses={201: CommentSerializer})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(NewCommentSerializer, request.data)
        comment = Comment.objects.create(item=item, text=given["text"], by=cast(User, request.user))
        return Response(CommentSerializer(comment).data, status=status.HTTP_201_CREATED)


class AssignView(APIView):
    """Gives an item to somebody to look after, or to nobody."""

    @extend_schema(request=AssignSerializer, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(AssignSerializer, request.data)
        assign(item, person_named(given["assignee"]))
        return Response(status=status.HTTP_204_NO_CONTENT)

"""What people call the pieces of an item."""

from typing import cast

from api.exception_handler import Conflict
from api.forms import checked
from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from orders.models import Item
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import PieceName, Revision
from .serializers import PieceNameSerializer


def names_of(item: Item) -> dict[int, str]:
    """What people call the pieces of an item, by number."""
    held = {one.number: one.name for one in item.piece_names.all()}
    return {number: name for number, name in held.items() if name}


class PieceNameView(APIView):
    """Names a piece of an item, in all its revisions and in what is released of it."""

    @extend_schema(request=PieceNameSerializer, responses={204: None})
    def put(self, request: Request, pk: int, number: int) -> Response:
        item = get_object_or_404(Item, pk=pk)
        given = checked(PieceNameSerializer, request.data)
        highest = Revision.objects.filter(item=item).values_list("highest_piece", flat=True)
        if not 1 <= number <= max(highest, default=0):
            raise Conflict("There is no such piece.")
        PieceName.objects.create(
            item=item, number=number, name=given["name"], by=cast(User, request.user)
        )
        return Response(status=status.HTTP_204_NO_CONTENT)

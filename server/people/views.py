"""Logging in and out."""

from typing import Any

from api.forms import checked
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.middleware.csrf import get_token
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Visit
from .roles import may_change


class PersonSerializer(serializers.Serializer[Any]):
    username = serializers.CharField()
    name = serializers.CharField(source="get_full_name")
    lead = serializers.BooleanField(source="is_staff")
    may_change = serializers.SerializerMethodField(help_text="Whether it may do more than look.")

    @staticmethod
    def get_may_change(user: User) -> bool:
        return may_change(user)


class SessionSerializer(serializers.Serializer[Any]):
    person = PersonSerializer(allow_null=True)


class LoginSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(trim_whitespace=False, max_length=1000)


def _answer(request: Request) -> Response:
    get_token(request._request)
    user = request._request.user
    return Response(SessionSerializer({"person": user if user.is_authenticated else None}).data)


class SessionView(APIView):
    """Who is logged in."""

    permission_classes = [AllowAny]

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        return _answer(request)

    @extend_schema(request=LoginSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        given = checked(LoginSerializer, request.data)
        user = authenticate(request._request, **given)
        if user is None:
            Visit.objects.create(kind=Visit.Kind.REFUSED, username=given["username"])
            raise AuthenticationFailed("Name and password do not fit together.")
        login(request._request, user)
        Visit.objects.create(kind=Visit.Kind.IN, username=user.get_username(), person=user)  # type: ignore[misc]
        return _answer(request)

    @extend_schema(request=None, responses=SessionSerializer)
    def delete(self, request: Request) -> Response:
        user = request._request.user
        if user.is_authenticated:
            Visit.objects.create(kind=Visit.Kind.OUT, username=user.get_username(), person=user)  # type: ignore[misc]
        logout(request._request)
        return _answer(request)

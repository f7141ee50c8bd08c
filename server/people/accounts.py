"""Accounts: kept by the lead; each owner changes the password."""

from typing import Any, cast

from api.exception_handler import Conflict
from api.forms import checked
from django.contrib.auth import password_validation, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core.exceptions import ValidationError as Unfit
from django.db import IntegrityError, transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .permissions import LeadChanges
from .roles import Role, give_role, role_of


class PersonAccountSerializer(serializers.Serializer[Any]):
    """An account as everybody in the shop may see it."""

    id = serializers.IntegerField()
    username = serializers.CharField()
    first_name = serializers.CharField()
    last_name = serializers.CharField()
    name = serializers.CharField(source="get_full_name")
    role = serializers.SerializerMethodField()
    active = serializers.BooleanField(source="is_active")

    @staticmethod
    def get_role(user: User) -> Role:
        return role_of(user)


class _NameFields(serializers.Serializer[Any]):
    first_name = serializers.CharField(max_length=150)
    last_name = serializers.CharField(max_length=150, allow_blank=True)
    role = serializers.ChoiceField(Role.choices)
    password = serializers.CharField(trim_whitespace=False, max_length=1000)


class NewAccountSerializer(_NameFields):
    username = serializers.CharField(max_length=150, validators=[UnicodeUsernameValidator()])


class ChangeAccountSerializer(_NameFields):
    active = serializers.BooleanField()


class PasswordSerializer(serializers.Serializer[Any]):
    old = serializers.CharField(trim_whitespace=False, max_length=1000)
    new = serializers.CharField(trim_whitespace=False, max_length=1000)


def set_password(user: User, password: str) -> None:
    """Give an account a password that is hard enough to guess.

    Raises
    ------
    ValidationError
        If it is not; says why.
    """
    try:
        password_validation.validate_password(password, user)
    except Unfit as problem:
        raise serializers.ValidationError(problem.messages) from None
    user.set_password(password)


def make_account(username: str, password: str, role: str, **names: str) -> User:
    """Make an account.

    Raises
    ------
    Conflict
        If somebody has the login name.
    ValidationError
        If the password is too easy.
    """
    user = User(username=username, **names)
    set_password(user, password)
    try:
        with transaction.atomic():
            user.save()
            give_role(user, role)
    except IntegrityError:
        raise Conflict(f"The login name {username} is taken.") from None
    return user


class AccountsView(APIView):
    """Everybody who has an account; new ones, by the lead."""

    permission_classes = [LeadChanges]

    @extend_schema(responses=PersonAccountSerializer(many=True))
    def get(self, request: Request) -> Response:
        everybody = User.objects.select_related("onlooker")
        everybody = everybody.order_by("first_name", "last_name", "username")
        return Response(PersonAccountSerializer(everybody, many=True).data)

    @extend_schema(request=NewAccountSerializer, responses={201: PersonAccountSerializer})
    def post(self, request: Request) -> Response:
        given = checked(NewAccountSerializer, request.data)
        user = make_account(**given)
        return Response(PersonAccountSerializer(user).data, status=status.HTTP_201_CREATED)


class AccountView(APIView):
    """Changes an account: names, role, whether it may log in, a new password."""

    permission_classes = [LeadChanges]

    @extend_schema(request=ChangeAccountSerializer, responses=PersonAccountSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        given = checked(ChangeAccountSerializer, request.data, partial=True)
        with transaction.atomic():
            # all leads are held, so that of two who step down at once one stays
            held = User.objects.select_for_update()
            leads = {one.pk for one in held.filter(is_staff=True, is_active=True)}
            user = get_object_or_404(held, pk=pk)
            role = given.get("role", role_of(user))
            user.first_name = given.get("first_name", user.first_name)
            user.last_name = given.get("last_name", user.last_name)
            user.is_active = given.get("active", user.is_active)
            if "password" in given:
                set_password(user, given["password"])
            user.save()
            give_role(user, role)
            if leads <= {user.pk} and not (user.is_active and role == Role.LEAD):
                raise Conflict("The shop would be without a lead; make somebody else one first.")
        if user == request.user and "password" in given:
            update_session_auth_hash(request._request, user)
        return Response(PersonAccountSerializer(User.objects.get(pk=pk)).data)


class PasswordView(APIView):
    """Changes one's own password; other sessions of the account end."""

    permission_classes = [IsAuthenticated]

    @extend_schema(request=PasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        given = checked(PasswordSerializer, request.data)
        user = cast(User, request.user)
        if not user.check_password(given["old"]):
            raise serializers.ValidationError("The password so far is another one.")
        set_password(user, given["new"])
        user.save(update_fields=["password"])
        update_session_auth_hash(request._request, user)
        return Response(status=status.HTTP_204_NO_CONTENT)

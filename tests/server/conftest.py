from dataclasses import replace
from types import SimpleNamespace

import pytest
from caulkjob.rule_sheets import usual_rule_sheet
from django.contrib.auth.models import User
from django.core.management.commands import flush
from django.db.backends.postgresql.operations import DatabaseOperations
from django.utils import timezone
from materials.models import Material
from orders.models import Customer, Order
from rest_framework.test import APIClient


@pytest.fixture(scope="session", autouse=True)
def emptied_row_by_row():
    """Empty the tables after each test by deleting their few rows.

    Truncating them makes every table a new file, which takes most of a second. What Django fills in
    itself, and would again after each, stays.
    """
    kept = {"django_content_type", "auth_permission"}

    def deletes(self, style, tables, *, reset_sequences=False, allow_cascade=False):
        assert not reset_sequences, "deleting leaves sequences as they are"
        # neither foreign keys nor what keeps rows from being deleted is looked at meanwhile
        return [
            "SET LOCAL session_replication_role = replica;",
            *(f"DELETE FROM {self.quote_name(table)};" for table in set(tables) - kept),
        ]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(DatabaseOperations, "sql_flush", deletes)
        patch.setattr(flush, "emit_post_migrate_signal", lambda *_args, **_kinds: None)
        yield


@pytest.fixture(autouse=True)
def own_files(settings, tmp_path):
    """Each test stores into a folder of its own."""
    settings.DATA = tmp_path
    settings.MEDIA_ROOT = tmp_path / "files"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture
def shop(transactional_db):
    """A person logged in, a material, an order."""
    person = User.objects.create_user("ane", password="pw", first_name="Ane", last_name="Vik")
    Material.take(replace(usual_rule_sheet("sintered-nylon"), key="nylon"), person)
    customer = Customer.objects.create(name="Breakwater Chandlers")
    order = Order.objects.create(number="0500", customer=customer, due=timezone.now())
    client = APIClient()
    client.force_login(person)
    return SimpleNamespace(person=person, order=order, client=client)


@pytest.fixture
def lead(shop) -> APIClient:
    person = User.objects.create_user("liv", first_name="Liv", last_name="Sund", is_staff=True)
    client = APIClient()
    client.force_login(person)
    return client

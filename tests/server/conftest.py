from dataclasses import replace
from types import SimpleNamespace

import pytest
from caulkjob.rule_sheets import usual_rule_sheet
from django.contrib.auth.models import User
from django.utils import timezone
from materials.models import Material
from orders.models import Customer, Order
from rest_framework.test import APIClient


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

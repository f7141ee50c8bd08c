"""Stored files: on a folder and on S3, collected when nothing refers to them, kept in a backup."""

import io
import os
import tarfile
from datetime import timedelta
from pathlib import Path

import psycopg
import pytest
from bench.models import Revision
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection, connections
from django.test.utils import override_settings
from django.utils import timezone
from items.models import Summary
from items.removal import remove_customer
from materials.models import ShopSettings
from orders.models import Customer, Item, Order
from people.models import Visit
from psycopg import sql
from test_path import HOLED, item_of, take_in
from work import blobs
from work.blobs import Damaged, collect, keep, on_disk, referred, stored
from working import mend, release, work

OLD = timedelta(days=3)


@pytest.fixture(scope="module")
def s3():
    """A stand-in for storage that speaks S3, on loopback."""
    import boto3
    from moto.server import ThreadedMotoServer
    from provide import free_port

    port = free_port()
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=port)
    server.start()
    address = f"http://127.0.0.1:{port}"
    options = {
        "bucket_name": "ironcaulk",
        "endpoint_url": address,
        "access_key": "none",
        "secret_key": "none",
        "region_name": "us-east-1",
    }
    boto3.client(
        "s3",
        endpoint_url=address,
        aws_access_key_id="none",
        aws_secret_access_key="none",
        region_name="us-east-1",
    ).create_bucket(Bucket="ironcaulk")
    yield {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}
    server.stop()


@pytest.fixture(params=["folder", "s3"])
def storage(request, settings):
    """Each kind of storage that files can be kept on."""
    if request.param == "folder":
        yield request.param
        return
    chosen = request.getfixturevalue("s3")
    with override_settings(STORAGES={**settings.STORAGES, "default": chosen}):
        yield request.param
        for path in list(stored()):
            default_storage.delete(path)


def test_a_file_is_kept_once_and_read_back(db, storage) -> None:
    data = os.urandom(3_000_000)
    path = keep(io.BytesIO(data), ".stl")
    assert keep(io.BytesIO(data), ".stl") == path
    assert list(stored()) == [path]
    with on_disk(path) as local:
        assert local.read_bytes() == data
        assert local.suffix == ".stl"


def test_a_damaged_file_is_not_worked_on(db, storage) -> None:
    path = keep(io.BytesIO(b"whole"), ".stl")
    default_storage.delete(path)
    default_storage.save(path, io.BytesIO(b"half"))
    with pytest.raises(Damaged), on_disk(path):
        pass
    with pytest.raises(Damaged):
        blobs.copy_out(path, io.BytesIO())


def test_an_item_goes_its_way_on_either_storage(shop, storage) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    assert work().state == "done"
    release(shop, item)
    assert work().state == "done"
    made = item_of(shop, item)["releases"][0]["id"]
    file = b"".join(shop.client.get(f"/api/releases/{made}/file").streaming_content)
    assert len(file) > 1000
    assert referred() == set(stored())


def test_only_what_nothing_refers_to_is_collected_and_not_at_once(shop, storage, monkeypatch):
    take_in(shop, HOLED)
    kept = set(stored())
    stray = keep(io.BytesIO(b"nobody's"), ".stl")
    assert collect() == []
    now = timezone.now()
    monkeypatch.setattr(blobs.timezone, "now", lambda: now + OLD)
    # stored once more while it is old: it counts as new
    monkeypatch.setattr(blobs, "LEFT_ALONE", timedelta(days=2))
    assert collect() == [stray]
    assert set(stored()) == kept


def test_what_is_stored_again_is_as_new_and_never_away(db, storage, monkeypatch) -> None:
    path = keep(io.BytesIO(b"twice"), ".stl")
    if storage == "folder":
        before = (timezone.now() - OLD).timestamp()
        os.utime(default_storage.path(path), (before, before))
    else:
        now = timezone.now()
        monkeypatch.setattr(blobs.timezone, "now", lambda: now + OLD)
    monkeypatch.setattr(default_storage, "delete", lambda *a: pytest.fail("it was away"))
    assert keep(io.BytesIO(b"twice"), ".stl") == path
    monkeypatch.undo()
    assert collect() == []
    assert list(stored()) == [path]


def ask_to_remove(client, order: Order, reason: str = "the time is over"):
    return client.post(f"/api/orders/{order.pk}/remove", {"reason": reason})


def test_an_order_is_removed_by_the_lead_after_its_time_and_the_trail_stays(shop, lead) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    release(shop, item)
    work()
    shop.client.post(f"/api/items/{item}/comments", {"text": "well done"})
    shop.client.put(f"/api/items/{item}/pieces/1", {"name": "lantern"}, format="json")
    first, second = Revision.objects.filter(item=item).values_list("pk", flat=True)
    shop.client.post(f"/api/revisions/{second}/comparisons", {"against": first}, format="json")
    work()
    shop.client.get("/api/items")
    before = [one["text"] for one in lead.get("/api/trail").data]
    assert ask_to_remove(shop.client, shop.order).status_code == 403
    early = ask_to_remove(lead, shop.order)
    assert early.status_code == 409
    assert "is kept until" in early.data["detail"]
    Order.objects.update(due=timezone.now() - timedelta(days=91))
    mend(shop, item)
    assert "goes on" in ask_to_remove(lead, shop.order).data["detail"]
    work()
    assert ask_to_remove(lead, shop.order, "").status_code == 400
    assert ask_to_remove(lead, shop.order).status_code == 204
    assert shop.client.get(f"/api/items/{item}").status_code == 404
    assert not Item.objects.exists()
    assert not Summary.objects.exists()
    assert shop.client.get("/api/items").data["count"] == 0
    after = [one["text"] for one in lead.get("/api/trail").data]
    assert any("order 0500 removed: 1 item of Breakwater Chandlers" in one for one in after)
    # what it told before it still tells, but for numbers of what is gone
    assert len(after) > len(before)
    assert any(one.startswith("revision 1, “mended”") for one in after)


def test_its_files_go_when_they_are_collected(shop, lead, monkeypatch) -> None:
    take_in(shop, HOLED)
    Order.objects.update(due=timezone.now() - timedelta(days=91))
    assert ask_to_remove(lead, shop.order).status_code == 204
    now = timezone.now()
    monkeypatch.setattr(blobs.timezone, "now", lambda: now + OLD)
    assert collect()
    assert not list(stored())


def test_a_customer_goes_whole_or_not_at_all(shop, lead) -> None:
    customer = shop.order.customer
    late = timezone.now() - timedelta(days=91)
    Order.objects.update(due=late)
    Order.objects.create(number="0501", customer=customer, due=timezone.now())
    body = {"reason": "they asked for it"}
    assert lead.post(f"/api/customers/{customer.pk}/remove", body).status_code == 409
    assert Order.objects.count() == 2
    Order.objects.update(due=late)
    assert lead.post(f"/api/customers/{customer.pk}/remove", body).status_code == 204
    assert not Customer.objects.exists()


def test_the_shop_settles_how_long_it_keeps(shop, lead) -> None:
    ShopSettings.objects.create(values={"kept_days": 0})
    Order.objects.update(due=timezone.now() - timedelta(hours=1))
    remove_customer(shop.order.customer, "asked for", shop.person)
    assert not Order.objects.exists()


NAME = "ironcaulk_restored"


@pytest.fixture
def empty_place(settings, tmp_path_factory):
    """Another database and another folder, both empty."""

    def run(command: str) -> None:
        given = connection.settings_dict
        with psycopg.connect(
            host=given["HOST"], port=given["PORT"], user=given["USER"],
            password=given["PASSWORD"], dbname="postgres", autocommit=True,
        ) as server:  # fmt: skip
            server.execute(sql.SQL(command).format(sql.Identifier(NAME)))

    run("drop database if exists {} with (force)")
    run("create database {}")
    before = connection.settings_dict["NAME"]
    connections["default"].close()
    connections["default"].settings_dict["NAME"] = NAME
    media, settings.MEDIA_ROOT = settings.MEDIA_ROOT, tmp_path_factory.mktemp("restored")
    yield lambda: (before, media)
    connections["default"].close()
    connections["default"].settings_dict["NAME"] = before
    run("drop database if exists {} with (force)")


@pytest.fixture
def archive(shop, tmp_path) -> Path:
    """A backup of a shop with one item, and what it was."""
    item = take_in(shop, HOLED)
    Visit.objects.create(kind="in", username="ane", person=shop.person)
    to = tmp_path / "shop.tar"
    call_command("backup", str(to))
    assert item_of(shop, item)["current"]
    return to


def test_a_shop_comes_back_in_an_empty_place(shop, archive, request) -> None:
    files = {path: default_storage.size(path) for path in stored()}
    told = shop.client.get("/api/items").json()
    request.getfixturevalue("empty_place")
    call_command("restore", str(archive))
    assert {path: default_storage.size(path) for path in stored()} == files
    shop.client.force_login(shop.person)
    assert shop.client.get("/api/items").json() == told
    with pytest.raises(CommandError, match="a shop here already"):
        call_command("restore", str(archive))


@pytest.mark.parametrize("harm", ["cut", "swapped", "no file", "not one"])
def test_a_harmed_backup_is_refused_before_there_is_a_shop(archive, request, tmp_path, harm):
    harmed = tmp_path / "harmed.tar"
    if harm == "cut":
        harmed.write_bytes(archive.read_bytes()[: archive.stat().st_size // 2])
    elif harm == "not one":
        harmed.write_bytes(b"solid part\nendsolid\n" * 100)
    else:
        with tarfile.open(archive) as whole, tarfile.open(harmed, "w") as made:
            names = [one.name for one in whole if one.name.startswith("files/")]
            for one in whole:
                data = whole.extractfile(one).read()
                if one.name == names[0]:
                    if harm == "no file":
                        continue
                    data = data[::-1]
                made.addfile(one, io.BytesIO(data))
    request.getfixturevalue("empty_place")
    with pytest.raises(CommandError):
        call_command("restore", str(harmed))
    assert not connection.introspection.table_names()

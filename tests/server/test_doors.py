"""Who may come in, and what each may do."""

import io
import os
import re
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from urllib.parse import urlencode

import pytest
import yaml
from api.body_limit import ROOM_FOR_FORM
from django.contrib.auth.models import User
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from materials.models import Material
from orders.models import Item
from people.models import Visit
from people.roles import Role, give_role, role_of
from rest_framework.test import APIClient
from test_path import HOLED, take_in, upload
from working import mend, release, work

ROOT = Path(__file__).resolve().parents[2]
SCHEMA = yaml.safe_load((ROOT / "server" / "schema.yaml").read_text())
GOOD = "mizzen-and-bobstay"
"""A password that nobody objects to."""

# who may: Strangers, the Read-only, Technicians, the Lead
DOORS = """
get    /api/session                        SRTL
post   /api/session                        SRTL
delete /api/session                        SRTL
post   /api/session/password               RTL
get    /api/accounts                       RTL
post   /api/accounts                       L
patch  /api/accounts/{id}                  L
get    /api/questions                      RTL
get    /api/operations                     RTL
get    /api/materials                      RTL
get    /api/materials/file                 RTL
post   /api/materials/bring                L
put    /api/materials/{key}                L
get    /api/materials/{key}/editions       RTL
get    /api/demands                        RTL
get    /api/shop                           RTL
put    /api/shop                           L
get    /api/machines                       RTL
post   /api/machines                       L
put    /api/machines/{id}                  L
delete /api/machines/{id}                  L
get    /api/customers                      RTL
post   /api/customers/{id}/remove          L
get    /api/orders                         RTL
post   /api/orders                         TL
patch  /api/orders/{id}                    TL
post   /api/orders/{id}/items              TL
post   /api/orders/{id}/remove             L
get    /api/items                          RTL
get    /api/items/counts                   RTL
post   /api/items/together                 TL
get    /api/items/{id}                     RTL
get    /api/items/{id}/received            RTL
get    /api/items/{id}/release             RTL
get    /api/items/{id}/siblings            RTL
get    /api/items/{id}/trail               RTL
get    /api/items/{id}/trail/file          RTL
post   /api/items/{id}/apart               TL
post   /api/items/{id}/assignee            TL
post   /api/items/{id}/comments            TL
post   /api/items/{id}/current             TL
post   /api/items/{id}/decisions           TL
post   /api/items/{id}/judge               TL
post   /api/items/{id}/letters             TL
post   /api/items/{id}/material            TL
post   /api/items/{id}/mend                TL
post   /api/items/{id}/operate             TL
post   /api/items/{id}/pieces              TL
put    /api/items/{id}/pieces/{number}     TL
post   /api/items/{id}/read                TL
post   /api/items/{id}/release             TL
post   /api/items/{id}/replace             TL
post   /api/items/{id}/set-aside           TL
post   /api/decisions/{id}/withdraw        TL
get    /api/revisions/{id}                 RTL
put    /api/revisions/{id}/note            TL
get    /api/revisions/{id}/measures        RTL
post   /api/revisions/{id}/measures        TL
patch  /api/measures/{id}                  TL
delete /api/measures/{id}                  TL
post   /api/revisions/{id}/clearances      TL
get    /api/revisions/{id}/clearances/{first}/{second}  RTL
post   /api/revisions/{id}/comparisons     TL
get    /api/revisions/{id}/comparisons/{against}  RTL
get    /api/revisions/{id}/comparisons/{against}/changes  RTL
get    /api/revisions/{id}/stand           RTL
post   /api/revisions/{id}/cost            RTL
get    /api/revisions/{id}/skin            RTL
get    /api/revisions/{id}/changes         RTL
get    /api/examinations/{id}/marks        RTL
get    /api/examinations/{id}/soundings    RTL
get    /api/jobs                           RTL
post   /api/jobs/{id}/cancel               TL
get    /api/letters/{id}                   RTL
get    /api/releases/{id}/file             RTL
get    /api/releases/{id}/letter           RTL
post   /api/releases/{id}/withdraw         TL
get    /api/trail                          L
get    /api/trail/file                     L
"""
TABLE = [tuple(line.split()) for line in DOORS.strip().splitlines()]
UPLOADS = {"/api/orders/{id}/items", "/api/items/{id}/replace"}


@pytest.fixture
def clients(shop, lead) -> dict[str, APIClient]:
    """Somebody of each role."""
    looks = User.objects.create_user("una", first_name="Una", last_name="Holm")
    give_role(looks, Role.READ_ONLY)
    reader = APIClient()
    reader.force_login(looks)
    return {"S": APIClient(), "R": reader, "T": shop.client, "L": lead}


def test_every_door_stands_in_the_table() -> None:
    known = {(method, path) for method, path, _who in TABLE}
    told = {
        (method, path)
        for path, methods in SCHEMA["paths"].items()
        for method in methods
        if method in ("get", "post", "put", "patch", "delete")
    }
    assert known == told


def test_every_door_opens_for_whom_it_should(clients) -> None:
    for method, path, who in TABLE:
        address = (
            path.replace("{id}", "999999")
            .replace("{against}", "999999")
            .replace("{key}", "no-such-sheet")
            .replace("{number}", "1")
            .replace("{first}", "1")
            .replace("{second}", "2")
        )
        form = "multipart" if path in UPLOADS else "json"
        for role, client in clients.items():
            if (method, path) == ("delete", "/api/session"):
                continue  # it would leave; who it is for is told by the test of logging out
            status = getattr(client, method)(address, {}, format=form).status_code
            refused = status == 403
            # a wrong password is refused as well
            if path.startswith("/api/session"):
                refused = refused and role not in who
            assert refused == (role not in who), (method, path, role, status)
            assert status < 500


def test_the_table_is_about_the_addresses_there_are() -> None:
    from config.urls import urlpatterns

    written = {str(one.pattern) for one in urlpatterns}
    as_in_schema = {
        re.sub(r"<[^>]*:(\w+)>", r"{\1}", one).replace("{pk}", "{id}") for one in written
    }
    of_table = {path.lstrip("/") for _method, path, _who in TABLE}
    assert of_table == {one for one in as_in_schema if one.startswith("api/")}


def log_in(name: str, password: str):
    client = APIClient()
    return client, client.post("/api/session", {"username": name, "password": password})


def test_passwords_are_tried_a_few_times_only(shop, settings) -> None:
    shop.person.set_password(GOOD)
    shop.person.save()
    tries = [log_in("ane", f"guess {n}")[1].status_code for n in range(8)]
    assert tries == [403] * 7 + [429]
    told = log_in("ane", GOOD)[1]
    assert told.status_code == 429
    assert "Wait 5 minutes" in told.json()["detail"]
    assert Visit.objects.filter(kind="refused", username="ane").count() >= 7
    # others come in; and so does she after a while
    User.objects.create_user("liv", password=GOOD)
    assert log_in("liv", GOOD)[1].status_code == 200
    settings.AXES_COOLOFF_TIME = timedelta(0)
    assert log_in("ane", GOOD)[1].status_code == 200


def test_a_name_that_nobody_has_is_answered_like_a_wrong_password(shop) -> None:
    wrong, nobody = log_in("ane", "no")[1], log_in("nobody", "no")[1]
    assert (wrong.status_code, wrong.json()) == (nobody.status_code, nobody.json())


@pytest.mark.parametrize(
    ("password", "words"),
    [("short", "at least 12"), ("123456789012", "numeric"), ("password1234", "common"),
     ("anevik-vik-ane", "similar")],
)  # fmt: skip
def test_a_password_that_is_easily_guessed_is_refused(shop, lead, password, words) -> None:
    shop.person.username = "anevik-vik"
    shop.person.set_password(GOOD)
    shop.person.save()
    client = APIClient()
    client.force_login(shop.person)
    answer = client.post("/api/session/password", {"old": GOOD, "new": password})
    assert answer.status_code == 400
    assert words in answer.data["detail"]
    body = {"username": "anevik-vik2", "first_name": "Ane", "last_name": "", "role": "technician"}
    answer = lead.post("/api/accounts", {**body, "password": password})
    assert answer.status_code == 400
    assert not User.objects.filter(username="anevik-vik2").exists()


def test_who_changes_the_password_stays_and_others_leave(shop) -> None:
    shop.person.set_password(GOOD)
    shop.person.save()
    here, _ = log_in("ane", GOOD)
    there, _ = log_in("ane", GOOD)
    wrong = here.post("/api/session/password", {"old": "no", "new": GOOD + "2"})
    assert wrong.status_code == 400
    changed = here.post("/api/session/password", {"old": GOOD, "new": GOOD + "2"})
    assert changed.status_code == 204
    assert here.get("/api/jobs").status_code == 200
    assert there.get("/api/jobs").status_code == 403
    assert log_in("ane", GOOD)[1].status_code == 403
    assert log_in("ane", GOOD + "2")[1].status_code == 200


def test_accounts_are_kept_by_the_lead(shop, lead) -> None:
    body = {"username": "una", "first_name": "Una", "last_name": "Holm", "role": "read-only"}
    made = lead.post("/api/accounts", {**body, "password": GOOD})
    assert made.status_code == 201
    assert lead.post("/api/accounts", {**body, "password": GOOD}).status_code == 409
    una, _ = log_in("una", GOOD)
    order = {"customer": "Spar & Sail", "due": "2031-02-03T10:00:00Z"}
    assert una.get("/api/session").json()["person"]["may_change"] is False
    assert una.post("/api/orders", order).status_code == 403
    address = f"/api/accounts/{made.data['id']}"
    assert lead.patch(address, {"role": "technician"}).data["role"] == "technician"
    assert una.post("/api/orders", order).status_code == 201
    assert lead.patch(address, {"role": "lead"}).data["role"] == "lead"
    assert una.get("/api/trail").status_code == 200
    lead.patch(address, {"active": False})
    assert una.get("/api/jobs").status_code == 403
    assert log_in("una", GOOD)[1].status_code == 403
    told = [one["text"] for one in lead.get("/api/trail").data]
    for words in ("Una Holm only looks", "may change things again", "shop lead", "may not log in"):
        assert any(words in one for one in told), words


def test_a_shop_is_never_without_a_lead(shop, lead) -> None:
    liv = User.objects.get(username="liv")
    for change in ({"role": "technician"}, {"role": "read-only"}, {"active": False}):
        assert lead.patch(f"/api/accounts/{liv.pk}", change).status_code == 409
    odd = User.objects.create_user("odd", is_staff=True)

    def step_down(user: User) -> int:
        client = APIClient()
        client.force_login(user)
        try:
            return client.patch(f"/api/accounts/{user.pk}", {"role": "technician"}).status_code
        finally:
            connection.close()

    with ThreadPoolExecutor(2) as both:
        answers = sorted(both.map(step_down, (liv, odd)))
    assert answers == [200, 409]
    assert [role_of(u) for u in User.objects.filter(is_staff=True)] == [Role.LEAD]


def test_a_request_that_is_too_large_is_not_read(shop, settings) -> None:
    settings.MAX_REQUEST_BYTES = 1000
    answer = shop.client.post("/api/orders", {"customer": "x" * 2000, "due": ""})
    assert answer.status_code == 413
    # nobody is asked who sends it, and nothing of it is kept
    settings.MAX_UPLOAD_BYTES = 1000 - ROOM_FOR_FORM
    assert upload(shop, HOLED).status_code == 413
    assert not Item.objects.exists()


@pytest.mark.parametrize(
    "kind", ["application/x-www-form-urlencoded", "multipart/form-data; boundary=x"]
)
def test_only_json_is_read_where_no_file_comes(shop, kind: str) -> None:
    answer = shop.client.generic("POST", "/api/orders", b"customer=X", content_type=kind)
    assert answer.status_code == 415


@pytest.mark.parametrize(
    "name",
    ["ж" * 300 + ".stl", "灯台.stl", "مرساة.stl", "🪝 hook.stl", "../../up.stl", "a\u202egnp.stl",
     "<img src=x onerror=alert(1)>.stl", "'; drop table orders_item; --.stl", " .stl"],
)  # fmt: skip
def test_file_names_of_any_kind(shop, name: str) -> None:
    item = take_in(shop, HOLED, name)
    told = shop.client.get(f"/api/items/{item}").data
    assert told["name"]
    assert told["file_name"].endswith(".stl")
    assert "/" not in told["file_name"]
    answer = shop.client.get(f"/api/items/{item}/received")
    assert b"".join(answer.streaming_content) == HOLED
    assert "\n" not in answer["Content-Disposition"]


def test_what_people_write_acts_nowhere(shop) -> None:
    item = take_in(shop, HOLED, "<script>alert(1)</script>.stl")
    mend(shop, item)
    work()
    release(shop, item, opening="<script>alert(2)</script>")
    work()
    made = shop.client.get(f"/api/items/{item}").data["releases"][0]["id"]
    page = shop.client.get(f"/api/releases/{made}/letter")
    assert "<script" not in page.content.decode().lower()
    assert "&lt;script&gt;" in page.content.decode()
    assert "default-src 'none'" in page["Content-Security-Policy"]
    assert "script" not in page["Content-Security-Policy"]


def test_pages_say_what_they_may_load(shop) -> None:
    policy = shop.client.get("/api/session")["Content-Security-Policy"]
    for words in ("default-src 'self'", "object-src 'none'", "frame-ancestors 'none'"):
        assert words in policy
    assert "unsafe" not in policy


WITH_TLS = {
    "IRONCAULK_TLS": "1",
    "IRONCAULK_HOSTS": "shop.example",
    "IRONCAULK_ORIGINS": "https://shop.example",
    "IRONCAULK_SECRET_KEY": "k7" * 20 + "Rq-Lw.xT_zu:ab!c@d#e",
}


def test_the_settings_for_many_machines_are_what_django_asks_for() -> None:
    command = [sys.executable, "server/manage.py", "check", "--deploy", "--fail-level", "WARNING"]
    env = {**os.environ, **WITH_TLS, "PYTHONPATH": "core:server:demo"}
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_the_web_server_does_not_start_without_a_key() -> None:
    env = {**os.environ, "PYTHONPATH": "core:server"}
    env.pop("IRONCAULK_SECRET_KEY", None)
    command = [sys.executable, "-c", "import config.asgi"]
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    assert done.returncode
    assert "IRONCAULK_SECRET_KEY is not set" in done.stderr


@pytest.fixture
def full_shop(shop, lead):
    """A shop in which each kind of thing is there, and the key of one of each."""
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    release(shop, item)
    work()
    found = Item.objects.get(pk=item)
    last = found.revisions.last()
    keys = {
        "items": item,
        "orders": found.order_id,
        "customers": found.order.customer_id,
        "revisions": last.pk,
        "examinations": last.examinations.first().pk,
        "releases": found.releases.first().pk,
        "jobs": found.jobs.first().pk,
    }
    return lead, keys


def _operations():
    import schemathesis

    return [found.ok() for found in schemathesis.openapi.from_dict(SCHEMA).get_all_operations()]


# what ends the session or the shop itself is tried above
LEFT_OUT = {"DELETE /api/session", "POST /api/session/password", "PATCH /api/accounts/{id}"}


def test_nothing_that_fits_the_schema_brings_the_server_down(full_shop) -> None:
    client, keys = full_shop
    for operation in _operations():
        if operation.label not in LEFT_OUT:
            _tried(client, operation, keys.get(operation.path.split("/")[2]))


def _tried(client: APIClient, operation, key: int | None) -> None:
    """Send what fits an operation, to what is there and to what is not."""
    form = "multipart" if operation.path in UPLOADS else "json"

    @settings(
        max_examples=6, deadline=None, database=None, derandomize=True,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(case=operation.as_strategy(), there=st.booleans())
    def tried(case, there: bool) -> None:
        if there and key is not None:
            case.path_parameters = {**(case.path_parameters or {}), "id": key}
        asked = case.as_transport_kwargs(base_url="http://testserver")
        query = urlencode({k: str(v) for k, v in (asked.get("params") or {}).items()})
        body = asked.get("json")
        told = (b"", "application/json") if body is None else client._encode_data(body, form, None)
        path = asked["url"].removeprefix("http://testserver")
        answer = client.generic(case.method, f"{path}?{query}", *told)
        assert answer.status_code < 500, (operation.label, path, query, body)

    tried()


def opened(monkeypatch, *lines: str) -> None:
    monkeypatch.setattr("sys.stdin", io.StringIO("".join(f"{line}\n" for line in lines)))
    call_command("open_shop")


def test_a_shop_of_its_own_begins_with_its_first_lead(db, monkeypatch, capsys) -> None:
    opened(monkeypatch, "siri", "Siri", "", "Nes", GOOD)  # an empty answer is asked for again
    siri = User.objects.get()
    assert (siri.get_full_name(), role_of(siri)) == ("Siri Nes", Role.LEAD)
    assert log_in("siri", GOOD)[1].status_code == 200
    assert Material.objects.count() > 5
    assert not Item.objects.exists()
    # the second time there is nobody to ask for, and nothing of the demo comes in
    opened(monkeypatch)
    call_command("demo")
    assert User.objects.count() == 1
    assert "Log in as" not in capsys.readouterr().out


@pytest.mark.parametrize(
    ("lines", "words"),
    [((), "Nobody answered"), (("siri", "Siri", "Nes", "short"), "could not be made")],
)
def test_a_shop_without_a_lead_does_not_begin(db, monkeypatch, lines, words: str) -> None:
    with pytest.raises(CommandError, match=words):
        opened(monkeypatch, *lines)
    assert not User.objects.exists()
    assert not Material.objects.exists()

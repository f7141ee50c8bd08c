"""The path of an item, through the API and the worker's tasks."""

import io
import zipfile
from urllib.parse import unquote

import numpy as np
import pytest
import trimesh
from api.body_limit import ROOM_FOR_FORM
from bench.models import Revision
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from harbour import breakers as b
from harbour import shapes
from makers import assert_tight_by_referees, binary_stl, box, hostile_files, sphere, unpacked
from orders.models import Item
from work import tasks
from work.models import Job
from working import accept, do, mend, operate, release, work


def upload(shop, data: bytes, name: str = "part.stl", **more):
    file = SimpleUploadedFile(name, data)
    return shop.client.post(
        f"/api/orders/{shop.order.id}/items",
        {"file": file, "material": "nylon", **more},
        format="multipart",
    )


def take_in(shop, data: bytes, name: str = "part.stl") -> int:
    answer = upload(shop, data, name)
    assert answer.status_code == 201, answer.data
    job = work()
    assert job.state == "done", job.message
    return answer.data["id"]


def item_of(shop, item: int):
    return shop.client.get(f"/api/items/{item}").data


def states(shop, item: int) -> dict[str, str]:
    return {s["question"]: s["state"] for s in item_of(shop, item)["seam"]}


HOLED = binary_stl(b.without(sphere(), np.array([0, 300])))


def test_from_the_upload_to_the_letter(shop) -> None:
    item = take_in(shop, HOLED, "harbour_bollard.stl")
    assert item_of(shop, item)["name"] == "Harbour bollard"
    assert states(shop, item) == {
        "size": "tight",
        "closed": "leaks",
        "solid": "tight",
        "inside": "tight",
        "walls": "tight",
        "release": "not run",
    }

    refused = release(shop, item)
    assert refused.status_code == 409
    assert "2 holes" in refused.data["detail"]

    assert mend(shop, item).status_code == 202
    assert work().state == "done"
    told = item_of(shop, item)
    assert [r["number"] for r in told["revisions"]] == [0, 1]
    revision = shop.client.get(f"/api/revisions/{told['current']}").data
    assert revision["steps"][0]["text"] == "2 holes filled with 2 triangles."
    assert revision["account"]["unchanged_faces"] == 1278
    assert states(shop, item)["closed"] == "tight"

    for form in ("stl", "obj", "ply", "3mf"):
        letter = shop.client.get(f"/api/items/{item}/release").data["letter"]
        assert release(shop, item, form, **letter).status_code == 202
        assert work().state == "done"
        left = item_of(shop, item)["releases"][0]
        answer = shop.client.get(f"/api/releases/{left['id']}/file")
        assert "0500_harbour-bollard_nylon_1x_r1" in unquote(answer["Content-Disposition"])
        data = b"".join(answer.streaming_content)
        judged = trimesh.load(io.BytesIO(data), file_type=form, force="mesh")
        assert judged.is_watertight
        letter = shop.client.get(f"/api/releases/{left['id']}/letter").content.decode()
        for words in ("harbour_bollard.stl", "2 holes filled", "Ane Vik", "Breakwater Chandlers"):
            assert words in letter
    assert states(shop, item)["release"] == "tight"


def test_files_sent_together_are_one_item_at_their_places(shop) -> None:
    parts = {
        "bollard_cap.stl": box(10, at=(0.0, 0.0, 20.0)),
        "bollard_foot.stl": box(20),
        "bollard_pin.stl": box(3, at=(30.0, 0.0, 0.0)),
    }
    files = [SimpleUploadedFile(name, binary_stl(one)) for name, one in parts.items()]
    told = {"file": files, "material": "nylon", "quantity": 2}
    answer = shop.client.post(f"/api/orders/{shop.order.id}/items", told, format="multipart")
    assert answer.status_code == 201, answer.data
    assert answer.data["name"] == "Bollard cap and 2 more"
    assert answer.data["file_name"] == "Bollard cap and 2 more.zip"
    assert work().state == "done"
    item = answer.data["id"]
    report = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data["report"]
    assert report["format"] == "zip"
    assert {(one["name"], round(one["volume_mm3"])) for one in report["pieces"]} == {
        ("bollard_cap", 1000), ("bollard_foot", 8000), ("bollard_pin", 27)
    }  # fmt: skip
    kept = b"".join(shop.client.get(f"/api/items/{item}/received").streaming_content)
    with zipfile.ZipFile(io.BytesIO(kept)) as archive:
        assert {n: archive.read(n) for n in archive.namelist()} == {
            name: binary_stl(one) for name, one in parts.items()
        }


def test_one_of_several_files_that_cannot_be_read_is_named(shop) -> None:
    files = [SimpleUploadedFile("lid.stl", HOLED), SimpleUploadedFile("lid.stl", b"solid\n" * 20)]
    told = {"file": files, "material": "nylon", "name": "Chest"}
    answer = shop.client.post(f"/api/orders/{shop.order.id}/items", told, format="multipart")
    assert answer.data["name"] == "Chest"
    assert work().state == "refused"
    assert "2/lid.stl: " in item_of(shop, answer.data["id"])["problem"]
    files = [SimpleUploadedFile("lid.stl", HOLED), SimpleUploadedFile("note.txt", b"hello")]
    told["file"] = files
    answer = shop.client.post(f"/api/orders/{shop.order.id}/items", told, format="multipart")
    assert answer.status_code == 400
    assert "“.txt” is not read" in answer.data["detail"]


def test_the_file_as_received_is_kept_untouched(shop) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    answer = shop.client.get(f"/api/items/{item}/received")
    assert b"".join(answer.streaming_content) == HOLED


def test_revisions_can_be_returned_to_and_branched_from(shop) -> None:
    item = take_in(shop, HOLED)
    first = item_of(shop, item)["current"]
    operate(shop, item, "fill-holes", places=[1])
    work()
    assert do(shop, item, "current", to=0).status_code == 204
    assert item_of(shop, item)["current"] == first
    mend(shop, item)
    work()
    revisions = item_of(shop, item)["revisions"]
    assert [(r["number"], r["parent"]) for r in revisions] == [(0, None), (1, first), (2, first)]
    assert [r["tight"] for r in revisions] == [False, False, True]


def test_the_unit_changes_the_size_and_answers_the_doubt(shop) -> None:
    item = take_in(shop, binary_stl(box(6)))
    assert states(shop, item)["size"] == "your call"
    assert operate(shop, item, "set-unit", unit="in").status_code == 202
    assert work().state == "done"
    report = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data["report"]
    assert report["size_mm"] == pytest.approx([152.4] * 3)
    assert states(shop, item)["size"] == "tight"


def test_a_doubt_can_be_accepted_with_a_reason_but_a_leak_cannot(shop) -> None:
    item = take_in(shop, binary_stl(b.without(box(6), np.array([0]))))
    for kind, status in (("unit-suspect", 201), ("open-edges", 400), ("cracks", 400)):
        assert accept(shop, item, kind, "The customer says so.").status_code == status
    assert states(shop, item) == {
        "size": "waived",
        "closed": "leaks",
        "solid": "tight",
        "inside": "tight",
        "walls": "tight",
        "release": "not run",
    }


def test_a_sheet_is_refused_with_the_reason_and_nothing_changes(shop) -> None:
    item = take_in(shop, binary_stl(shapes.pennant()))
    mend(shop, item)
    job = work()
    assert job.state == "refused"
    assert "open sheet" in job.message
    assert len(item_of(shop, item)["revisions"]) == 1


def test_the_skin_and_marks_come_in_the_agreed_form(shop) -> None:
    item = take_in(shop, HOLED)
    current = item_of(shop, item)["current"]
    skin = b"".join(shop.client.get(f"/api/revisions/{current}/skin").streaming_content)
    points, corners, starts = unpacked(skin)
    assert len(corners) == 1278
    assert starts.tolist() == [0, 1278]
    whole = trimesh.Trimesh(points, corners, process=False)
    assert whole.area == pytest.approx(sphere().area, rel=0.01)
    examination = item_of(shop, item)["revisions"][0]["examination"]
    marks = b"".join(shop.client.get(f"/api/examinations/{examination}/marks").streaming_content)
    assert marks[:4] == b"IKMK"
    assert np.frombuffer(marks, "<u4", 6, 4).tolist() == [1, 2, 3, 0, 3, 0]
    assert len(marks) == 12 + 16 + 6 * 24


def test_hostile_files_leave_an_item_that_says_why(shop, tmp_path) -> None:
    for what, (path, word) in hostile_files(tmp_path).items():
        answer = upload(shop, path.read_bytes(), path.name)
        if what == "empty":
            assert answer.status_code == 400
            assert "empty" in answer.data["detail"]
            continue
        assert work().state == "refused", what
        told = item_of(shop, answer.data["id"])
        assert word in told["problem"]
        assert {s["state"] for s in told["seam"]} == {"not run"}
        kept = shop.client.get(f"/api/items/{told['id']}/received")
        assert b"".join(kept.streaming_content) == path.read_bytes()


@pytest.mark.parametrize(
    ("change", "status", "words"),
    [
        ({"name": "part.doc"}, 400, ".doc"),
        ({"name": "part"}, 400, "without a suffix"),
        ({"material": "cheese"}, 400, "no such material"),
        ({"quantity": 0}, 400, "Quantity"),
    ],
)
def test_uploads_that_make_no_sense(shop, change, status, words) -> None:
    answer = upload(shop, HOLED, **{"name": "part.stl", **change})
    assert answer.status_code == status
    assert words in answer.data["detail"]
    assert not Item.objects.exists()


def test_uploads_beyond_the_limit_are_refused(shop, settings) -> None:
    settings.MAX_UPLOAD_BYTES = 1000 - ROOM_FOR_FORM
    answer = upload(shop, HOLED)
    assert answer.status_code == 413
    assert "limit" in answer.json()["detail"]


def test_a_cancelled_job_changes_nothing(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    assert shop.client.post(f"/api/jobs/{job}/cancel").status_code == 204
    assert work(job).state == "cancelled"
    assert len(item_of(shop, item)["revisions"]) == 1


def test_only_one_job_an_item_at_a_time(shop) -> None:
    item = take_in(shop, HOLED)
    assert mend(shop, item).status_code == 202
    again = mend(shop, item)
    assert again.status_code == 409
    assert "Ane Vik has work going on" in again.data["detail"]
    assert do(shop, item, "current", to=0).status_code == 409


def test_a_task_may_run_twice(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    work(job)
    work(job)
    assert Revision.objects.filter(item=item).count() == 2


def test_a_stopping_worker_puts_the_job_back(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    assert work(job, stop=lambda: True).state == "waiting"
    assert work(job).state == "done"


def test_what_kills_the_worker_each_time_is_given_up(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    Job.objects.filter(id=job).update(tries=3, state="running")
    assert work(job).state == "failed"
    assert "tries" in work(job).message


@pytest.mark.parametrize(
    ("setting", "value", "words"),
    [("JOB_SECONDS", 0, "minutes"), ("JOB_MEMORY_BYTES", 40_000_000, "")],
)
def test_limits_on_time_and_memory(shop, settings, setting, value, words) -> None:
    item = take_in(shop, HOLED)
    setattr(settings, setting, value)
    mend(shop, item)
    job = work()
    assert job.state == "failed"
    assert words in job.message
    assert len(item_of(shop, item)["revisions"]) == 1


def test_stored_meshes_are_named_by_content_and_never_overwritten(shop) -> None:
    first, second = take_in(shop, HOLED), take_in(shop, HOLED)
    paths = Item.objects.filter(id__in=(first, second)).values_list("received_path", flat=True)
    assert len(set(paths)) == 1
    revisions = Revision.objects.all()
    assert len({r.mesh_path for r in revisions}) == 1
    assert default_storage.exists(revisions[0].mesh_path)


def test_nothing_is_told_to_strangers(shop, client) -> None:
    item = take_in(shop, HOLED)
    for address in ("/api/items", f"/api/items/{item}", f"/api/items/{item}/received", "/api/jobs"):
        assert client.get(address).status_code == 403
    wrong = {"username": "ane", "password": "no"}
    answer = client.post("/api/session", wrong, content_type="application/json")
    assert answer.status_code == 403
    assert client.get("/api/session").json() == {"person": None}


def test_posting_needs_the_csrf_token(shop) -> None:
    from rest_framework.test import APIClient

    strict = APIClient(enforce_csrf_checks=True)
    strict.force_login(shop.person)
    assert strict.post("/api/orders", {"customer": "X", "due": "2026-12-01"}).status_code == 403


def test_new_orders_number_themselves(shop) -> None:
    body = {"customer": "Spar & Sail", "due": "2026-12-01T16:00:00Z"}
    numbers = [shop.client.post("/api/orders", body).data["number"] for _ in range(2)]
    assert numbers == ["0501", "0502"]
    assert shop.client.post("/api/orders", {"customer": "", "due": ""}).status_code == 400


def test_mended_mesh_at_rest_is_what_the_referees_call_tight(shop) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    from bench.packing import load

    revision = Revision.objects.get(item=item, number=1)
    with default_storage.open(revision.mesh_path) as stream:
        assert_tight_by_referees(load(stream), sphere().volume, 0.01)


def test_the_web_process_hands_all_computing_to_tasks(shop, monkeypatch) -> None:
    """No view starts a child or touches a mesh; they only queue."""
    monkeypatch.setattr(tasks, "_in_child", lambda *a: pytest.fail("computed in the web process"))
    answer = upload(shop, HOLED)
    assert answer.status_code == 201
    assert Job.objects.get().state == "waiting"

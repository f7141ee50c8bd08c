"""Work ends whatever happens: workers killed while busy, the database away, disks that fill up."""

import errno
import inspect
import os
import pwd
import signal
import subprocess
import time
from contextlib import contextmanager, suppress
from pathlib import Path

import pytest
from django.core.files.storage import default_storage
from django.db import OperationalError, connection, transaction
from makers import binary_stl, box, sphere
from test_path import HOLED, item_of, take_in, upload
from work import blobs, queues, registry, tasks
from work.models import Job
from work.outages import through_outages
from working import do, mend, of_this_test, report_of, work

PATIENCE = 600
"""Seconds that are waited for anything, on a machine that has other work, too."""


@pytest.fixture
def workers(own_files):
    """Starts real workers on the test's own database and files, and ends them all."""
    import run

    started: list[subprocess.Popen[bytes]] = []
    env = of_this_test()

    def start() -> subprocess.Popen[bytes]:
        started.append(run.worker(env))
        return started[-1]

    yield start
    for one in started:
        run.end(one)


def until(true):
    """Wait until a function of nothing gives something true, and give that."""
    end = time.monotonic() + PATIENCE
    while not (found := true()):
        assert time.monotonic() < end, f"not after {PATIENCE} s: {inspect.getsource(true).strip()}"
        time.sleep(0.05)
    return found


def state(job_id: int) -> str:
    return Job.objects.values_list("state", flat=True).get(id=job_id)


LARGE = binary_stl(sphere(60, 7))


def test_a_worker_killed_while_busy_loses_nothing(shop, workers) -> None:
    """Another takes its work up within 20 s, and it says that it waits."""
    looked_every = int(queues.EVERY_FEW_SECONDS.rpartition("/")[2])
    assert queues.STALLED_AFTER + looked_every <= 20
    first = workers()
    item = upload(shop, LARGE).data["id"]
    job = Job.objects.get(kind="receive").id
    until(lambda: state(job) == "running")
    os.killpg(first.pid, signal.SIGKILL)
    first.wait()
    workers()
    until(lambda: Job.objects.get(id=job).tries == 2)
    until(lambda: state(job) == "done")
    assert report_of(item)["triangles"] == 327_680
    assert len(item_of(shop, item)["revisions"]) == 1


def test_a_job_whose_worker_is_gone_says_so(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    Job.objects.filter(id=job).update(state="running", step="Mending")
    tasks._waits_again(job)
    told = item_of(shop, item)["job"]
    assert (told["state"], told["step"]) == ("waiting", "")
    assert "another takes it up" in told["message"]
    assert work(job).state == "done"
    assert item_of(shop, item)["job"]["message"] == ""


@contextmanager
def database_away():
    """Nobody but the one who looks comes to the test's database, and who was there is put out."""
    import psycopg

    told = connection.settings_dict
    name = told["NAME"]
    where = {k: told[k.upper()] for k in ("host", "port", "user", "password")}
    connection.close()
    with psycopg.connect(**where, dbname="postgres", autocommit=True) as other:
        other.execute(f'alter database "{name}" with allow_connections false')
        other.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname=%s", [name]
        )
        try:
            yield
        finally:
            other.execute(f'alter database "{name}" with allow_connections true')


def test_fifteen_seconds_without_the_database_lose_nothing(shop, workers) -> None:
    workers()
    item = upload(shop, LARGE).data["id"]
    job = Job.objects.get(kind="receive").id
    until(lambda: state(job) == "running")
    with database_away():
        time.sleep(15)  # this is the fault itself, not a wait for something
    until(lambda: state(job) == "done")
    assert len(item_of(shop, item)["revisions"]) == 1
    # and the worker goes on
    other = upload(shop, HOLED).data["id"]
    until(lambda: item_of(shop, other)["job"]["state"] == "done")


def test_what_is_in_no_queue_is_queued_again(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    assert tasks.queue_what_is_in_none() == []
    with connection.cursor() as cursor:
        cursor.execute("update procrastinate_jobs set status = 'failed'")
        cursor.execute("update work_job set created = created - interval '1 minute'")
    assert tasks.queue_what_is_in_none() == [job]
    assert tasks.queue_what_is_in_none() == []
    assert work(job).state == "done"


def test_judging_waits_behind_again_after_its_worker_was_stopped(shop) -> None:
    take_in(shop, LARGE)
    judging = Job.objects.get(kind="judge").id

    def queues() -> list[str]:
        with connection.cursor() as cursor:
            cursor.execute(
                "select queue_name from procrastinate_jobs where (args ->> 'job_id')::bigint = %s",
                [judging],
            )
            return [row[0] for row in cursor.fetchall()]

    assert queues() == ["behind"]
    assert work(judging, stop=lambda: True).state == "waiting"
    assert queues() == ["behind", "behind"]


def test_a_job_and_its_place_in_the_queue_are_entered_both_or_neither(shop) -> None:
    item = take_in(shop, HOLED)

    def queued() -> int:
        with connection.cursor() as cursor:
            cursor.execute("select count(*) from procrastinate_jobs where task_name = 'run_job'")
            return cursor.fetchone()[0]

    before = queued()

    def mended_and_undone() -> None:
        with transaction.atomic():
            assert mend(shop, item).status_code == 202
            assert queued() == before + 1
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        mended_and_undone()
    assert (queued(), Job.objects.filter(kind="mend").count()) == (before, 0)


def test_a_fault_of_the_parent_ends_the_job(shop, monkeypatch) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    monkeypatch.setattr(tasks, "_in_child", lambda *a: 1 / 0)
    assert work(job).state == "failed"
    monkeypatch.undo()
    # the item is not locked by it
    assert mend(shop, item).status_code == 202
    assert work().state == "done"


def test_a_final_state_stays_final(shop, monkeypatch) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]

    def cancelled_meanwhile(*given):
        Job.objects.filter(id=job).update(state="cancelled", message="Stopped as asked.")
        return 1 / 0

    monkeypatch.setattr(tasks, "_in_child", cancelled_meanwhile)
    assert (work(job).state, work(job).message) == ("cancelled", "Stopped as asked.")


def test_a_full_disk_is_told_and_leaves_no_half_file(shop, monkeypatch) -> None:
    item = take_in(shop, HOLED)
    files = sum(1 for one in Path(default_storage.location).rglob("*") if one.is_file())

    def full(descriptor: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("work.storage.os.fsync", full)
    mend(shop, item)
    job = work()
    assert (job.state, "no room left" in job.message) == ("failed", True)
    monkeypatch.undo()
    there = [one for one in Path(default_storage.location).rglob("*") if one.is_file()]
    assert len(there) == files
    do(shop, item, "mend")
    assert work().state == "done"


def test_a_damaged_file_is_noticed_when_it_is_read(shop) -> None:
    item = take_in(shop, binary_stl(box(20)))
    from bench.models import Revision

    stored = Path(default_storage.path(Revision.objects.get(item=item).mesh_path))
    data = bytearray(stored.read_bytes())
    data[len(data) // 2] ^= 1
    stored.write_bytes(bytes(data))
    with pytest.raises(blobs.Damaged), blobs.on_disk(Revision.objects.get(item=item).mesh_path):
        pass
    do(shop, item, "operate", operation="refine", parameters={})
    job = work()
    assert (job.state, "damaged" in job.message) == ("failed", True)


def test_the_database_away_for_a_moment_is_waited_for(monkeypatch) -> None:
    monkeypatch.setattr("work.outages._BETWEEN", 0.01)
    tries = []

    def falls_twice() -> str:
        tries.append(1)
        if len(tries) < 3:
            raise OperationalError("gone")
        return "there"

    assert through_outages(falls_twice) == "there"
    with pytest.raises(OperationalError):
        through_outages(lambda: exec("raise OperationalError('gone')", globals()), patience=0.05)


def environments_below(pid: int) -> list[dict[str, str]]:
    """Of all processes that a process has started, and those that these have."""
    parents = {}
    for one in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            parents[int(one.parent.name)] = int(one.read_text().rpartition(")")[2].split()[1])
    below, told = {pid}, []
    for _ in parents:
        below |= {child for child, parent in parents.items() if parent in below}
    for child in below - {pid}:
        with suppress(OSError):
            words = Path(f"/proc/{child}/environ").read_bytes().decode().split("\0")
            told.append(dict(word.split("=", 1) for word in words if "=" in word))
    return told


def test_child_processes_know_neither_password_nor_secret_key(shop, monkeypatch) -> None:
    """Read from the running child itself, by the operating system."""
    monkeypatch.setenv("IRONCAULK_DB_PASSWORD", "let me in")
    monkeypatch.setenv("IRONCAULK_SECRET_KEY", "signed")
    seen: list[dict[str, str]] = []
    listen = tasks._listen

    def look(*given):
        seen.extend(environments_below(os.getpid()))
        return listen(*given)

    monkeypatch.setattr(tasks, "_listen", look)
    take_in(shop, HOLED)
    assert seen
    for environ in seen:
        assert not [n for n in environ if n.startswith(("IRONCAULK_DB", "IRONCAULK_SECRET"))]
    assert os.environ["IRONCAULK_DB_PASSWORD"] == "let me in"


def test_strangers_files_are_worked_on_by_nobody_who_counts(shop, tmp_path, monkeypatch) -> None:
    """A worker that is root works in children that are not."""
    take_in(shop, HOLED)
    secrets = tmp_path / "secrets.json"
    secrets.write_text("{}")
    secrets.chmod(0o600)
    kept = next(path for path in blobs.stored() if path.endswith(".stl"))
    closed = {"secrets": str(secrets), "blob": default_storage.path(kept)}
    made: list[dict] = []
    looks = registry.WorkKind(
        "look",
        "looking:look_around",
        lambda job: registry.Order(kept, closed),
        lambda job, order, folder, answer: made.append(
            {**answer, "made": (folder / "made").read_text()}
        ),
    )
    monkeypatch.setitem(registry._KINDS, "look", looks)
    job = tasks.start(Job, kind="look", subject="nothing", title="looked")
    assert work(job.pk).state == "done"
    (found,) = made
    assert found["read"] == len(HOLED)
    assert found["made"] == "here"
    if os.geteuid() == 0:
        nobody = pwd.getpwnam("nobody")
        assert found["user"] == [nobody.pw_uid, nobody.pw_uid, nobody.pw_gid]
        assert found["secrets"] == found["blob"] == "PermissionError"
    else:
        assert found["user"][0] == os.getuid()

"""A shop's busy hour on loopback: two thousand items, a hundred files at once, a click meanwhile.

Runs the real web server, worker and PostgreSQL in a database and a folder of their own, which are
removed at the end: ``./ironcaulk bench load``.
"""

import http.client
import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "tools")]

import provide  # noqa: E402
import run  # noqa: E402

NAME = "ironcaulk_load"
ITEMS, REVISIONS_EACH = 2_000, 20
UPLOADS, TRIANGLES = 100, 50_000
PASSWORD = "tallow-and-oakum"
CLICKED = ("Junction blocks", "Gallery bracket")
"""Items on which somebody works meanwhile: a small one, and one whose walls take a second or so."""

# each item as the one that the demo brought, with its revisions and examinations
CLONES = f"""
create temporary table given as select i.*, w.current_id, w.examination_id
    from orders_item i join bench_workpiece w on w.item_id = i.id
    where i.name = 'Gallery bracket';
insert into orders_order (number, customer_id, received, due, note)
    select lpad((1000 + n)::text, 4, '0'), o.customer_id, now(), now() + n * interval '1 hour', ''
    from orders_order o, generate_series(1, {ITEMS // 10}) n
    where o.id = (select order_id from given);
insert into orders_item (order_id, name, note, material_id, quantity, created, set_aside, file_name,
        received_path, received_bytes)
    select o.id, 'Part ' || o.number || '-' || n, '', g.material_id, n, now(), false,
        'part_' || n || '.stl', g.received_path, g.received_bytes
    from given g, orders_order o, generate_series(1, 10) n where o.number >= '1001';
insert into bench_revision (item_id, number, parent_id, operation, title, parameters, steps,
        account, "left", unit, mesh_path, skin_path, changes_path, triangles, highest_piece,
        made_by_id, made)
    select i.id, n, null, r.operation, r.title, r.parameters, r.steps, r.account, r.left, r.unit,
        r.mesh_path, r.skin_path, r.changes_path, r.triangles, r.highest_piece, r.made_by_id, now()
    from given g join bench_revision r on r.id = g.current_id, orders_item i,
        generate_series(0, {REVISIONS_EACH - 1}) n where i.name like 'Part %';
insert into bench_examination (revision_id, report, brief, marks_path, soundings_path, tight,
        material_id, standard, made_by_id, made)
    select r.id, e.report, e.brief, e.marks_path, e.soundings_path, e.tight, e.material_id,
        e.standard, e.made_by_id, now()
    from given g join bench_examination e on e.id = g.examination_id, bench_revision r
    join orders_item i on i.id = r.item_id where i.name like 'Part %';
insert into bench_workpiece (item_id, current_id, examination_id, problem)
    select r.item_id, r.id, e.id, '' from bench_revision r
    join bench_examination e on e.revision_id = r.id join orders_item i on i.id = r.item_id
    where i.name like 'Part %' and r.number = {REVISIONS_EACH - 1};
analyze;
"""


class Person:
    """Somebody with a browser."""

    def __init__(self, port: int) -> None:
        self.port, self.cookies = port, dict[str, str]()
        self.ask("GET", "/api/session")
        self.ask("POST", "/api/session", {"username": "maren", "password": PASSWORD})

    def ask(self, method: str, path: str, body: Any = None, kind: str = "") -> Any:
        """An answer, as JSON."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=300)
        data = body if kind else (None if body is None else json.dumps(body).encode())
        headers = {
            "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
            "Content-Type": kind or "application/json",
        }
        connection.request(method, path, data, headers)
        answer = connection.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.partition(";")[0]
        told = answer.read()
        assert answer.status < 300, (path, answer.status, told[:200])
        connection.close()
        return json.loads(told) if told else None

    def upload(self, order: int, name: str, data: bytes) -> Any:
        """Send a file to an order."""
        edge = "a-line-that-is-in-no-file"
        fields = "".join(
            f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'
            for key, value in (("material", "sintered-nylon"), ("quantity", "1"))
        )
        head = (
            f'{fields}--{edge}\r\nContent-Disposition: form-data; name="file"; '
            f'filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
        )
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        kind = f"multipart/form-data; boundary={edge}"
        return self.ask("POST", f"/api/orders/{order}/items", body, kind)


def seconds(work: Callable[[], Any]) -> float:
    """Time of one run."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def several(work: Callable[[], Any], runs: int = 40) -> str:
    """Median and worst but one of some runs, ms."""
    taken = sorted(seconds(work) * 1000 for _ in range(runs))
    return (
        f"median {statistics.median(taken):4.0f} ms, 95 % within {taken[int(runs * 0.95)]:4.0f} ms"
    )


def row(what: str, figure: str, bar: str = "") -> None:
    """One line of the table."""
    print(f"| {what} | {figure} | {bar} |", flush=True)


@contextmanager
def shop() -> Iterator[tuple[int, Any]]:
    """The running application with one examined item; its port, and what runs SQL in it."""
    database = provide.Database()
    ours = database.start()
    folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
    env = {**provide.environment(database), "IRONCAULK_DB": NAME, "IRONCAULK_DATA": folder.name}

    def sql(text: str, where: str = NAME) -> None:
        password = {**os.environ, "PGPASSWORD": env["IRONCAULK_DB_PASSWORD"]}
        subprocess.run(
            [str(database.programs / "psql"), "-h", "127.0.0.1", "-p", env["IRONCAULK_DB_PORT"],
             "-U", "ironcaulk", "-d", where, "-q", "-v", "ON_ERROR_STOP=1"],
            input=text, text=True, env=password, check=True, stdout=subprocess.DEVNULL,
        )  # fmt: skip

    sql(f"drop database if exists {NAME} with (force); create database {NAME}", "postgres")
    parts = []
    try:
        run.manage(env, "migrate", "--verbosity=0")
        run.manage(env, "demo", "--only", *CLICKED)
        port = provide.free_port()
        parts = [run.worker(env), run.web(env, port)]
        run.wait_for(port, parts[1])
        yield port, sql
    finally:
        for one in parts:
            run.end(one)
        sql(f"drop database if exists {NAME} with (force)", "postgres")
        if ours:
            database.stop()
        folder.cleanup()


def until(true: Callable[[], Any], patience: float = 600) -> None:
    """Wait for something."""
    end = time.monotonic() + patience
    while not true():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.05)


def buoy_of(triangles: int) -> bytes:
    """A closed body of about so many triangles, as binary STL."""
    across = int((triangles / 2) ** 0.5)
    turn = np.linspace(0, 2 * np.pi, across, endpoint=False)
    rings = np.linspace(0, np.pi, across + 1)[1:-1]
    at = np.stack(
        [30 * np.outer(np.sin(rings), np.cos(turn)), 30 * np.outer(np.sin(rings), np.sin(turn)),
         np.outer(40 * np.cos(rings), np.ones(across))], axis=-1,
    ).reshape(-1, 3)  # fmt: skip
    top, low = len(at), len(at) + 1
    at = np.vstack([at, [[0, 0, 40], [0, 0, -40]]])
    i, j = np.meshgrid(np.arange(len(rings) - 1), np.arange(across), indexing="ij")
    p, q = (i * across + j).ravel(), (i * across + (j + 1) % across).ravel()
    k = np.arange(across)
    after, last = (k + 1) % across, (len(rings) - 1) * across
    faces = np.vstack(
        [np.stack([p, p + across, q + across], 1), np.stack([p, q + across, q], 1),
         np.stack([np.full(across, top), k, after], 1),
         np.stack([np.full(across, low), last + after, last + k], 1)]
    )  # fmt: skip
    records = np.zeros(
        len(faces), dtype=[("normal", "<f4", 3), ("at", "<f4", (3, 3)), ("n", "<u2")]
    )
    records["at"] = at[faces]
    return b"buoy".ljust(80) + np.uint32(len(faces)).tobytes() + records.tobytes()


def main() -> None:
    """Seed, measure, tell."""
    data = buoy_of(TRIANGLES)
    with shop() as (port, sql):
        person = Person(port)
        until(lambda: not person.ask("GET", "/api/jobs"))
        sql(CLONES)
        first = seconds(lambda: person.ask("GET", "/api/items"))
        n = person.ask("GET", "/api/items?list=all")["count"]
        row(
            f"{n:,} items, {n * REVISIONS_EACH:,} revisions: every summary told anew",
            f"{first:.1f} s",
        )
        some = person.ask("GET", "/api/items?page=7")["results"][0]["id"]
        for what, path, bar in (
            ("the list, a page of 100", "/api/items", "100 ms"),
            ("found by words, sorted", "/api/items?q=part+-7&sort=-item", "100 ms"),
            ("its last page", f"/api/items?page={ITEMS // 100}", "100 ms"),
            ("how many each list holds", "/api/items/counts", "100 ms"),
            (f"one item of {REVISIONS_EACH} revisions", f"/api/items/{some}", ""),
        ):
            row(what, several(lambda path=path: person.ask("GET", path)), bar)
        clicks(person, "at rest")
        crowd(person, port, data)


def crowd(person: Person, port: int, data: bytes) -> None:
    """A hundred files at once, with the list and a click meanwhile."""
    orders = [one["id"] for one in person.ask("GET", "/api/orders")]
    people = [Person(port) for _ in range(10)]
    listed: list[float] = []
    sent = threading.Event()

    def look() -> None:
        other = Person(port)
        while not sent.is_set():
            listed.append(seconds(lambda: other.ask("GET", "/api/items")) * 1000)
            time.sleep(0.1)

    watching = threading.Thread(target=look)
    watching.start()
    start = time.perf_counter()
    with ThreadPoolExecutor(UPLOADS) as at_once:
        done = [
            at_once.submit(people[k % 10].upload, orders[k % len(orders)], f"buoy-{k}.stl", data)
            for k in range(UPLOADS)
        ]
        for one in done:
            one.result()
    stored = time.perf_counter() - start
    row(f"{UPLOADS} files of {TRIANGLES:,} triangles sent at once, all stored", f"{stored:.1f} s")
    waiting = len(person.ask("GET", "/api/jobs"))
    clicks(person, f"{waiting} files waiting", "2 s")
    sent.set()
    watching.join()
    listed.sort()
    told = f"median {statistics.median(listed):.0f} ms, worst of {len(listed)}: {listed[-1]:.0f} ms"
    row("the list meanwhile", told, "200 ms")


def clicks(person: Person, when: str, bar: str = "") -> None:
    """What becomes of a click on each of the items that somebody works on."""
    for name in CLICKED:
        words = name.replace(" ", "+")
        item = person.ask("GET", f"/api/items?list=all&q={words}")["results"][0]["id"]
        taken = [_click(person, item) for _ in range(3)]
        row(f"a click on {name.lower()}, {when}", f"worst of 3: {max(taken):.1f} s", bar)


def _click(person: Person, item: int) -> float:
    """Time from the click on an operation to its result."""
    now = person.ask("GET", f"/api/items/{item}")

    def click() -> None:
        body = {"revision": now["current"], "operation": "set-unit", "parameters": {"unit": "mm"}}
        job = person.ask("POST", f"/api/items/{item}/operate", body)["id"]
        until(lambda: job not in {one["id"] for one in person.ask("GET", "/api/jobs")})

    return seconds(click)


if __name__ == "__main__":
    main()

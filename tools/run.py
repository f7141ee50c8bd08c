"""Running the whole: database, worker and web server together; and the tests."""

import fcntl
import os
import re
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from threading import Thread
from typing import NamedTuple

import provide
from provide import Database, Trouble, environment, say
from stamps import DEV, PYTHON, ROOT, SERVER

_WORKER_RESTARTS = 5
_OF_THE_CORE = ("tests/core", "tests/tools")
_OF_THE_SERVER = "tests/server"
_ONE_THREAD = {"NUMBA_NUM_THREADS": "1"}
"""Rooms that run beside each other fill the cores by themselves: kernels on several threads would
only wait for each other."""
_QUICK = (
    "tests/tools/test_contracts.py",
    *(f"tests/core/test_{name}.py" for name in (
        "cli", "closing", "contract", "core_docs", "cracks", "crossings", "do", "examine", "gaps",
        "inside", "kernels", "labels", "machines", "mend", "mesh", "pieces", "policy", "predicates",
        "samples", "solid", "thickness",
    )),
    "tests/server/test_schema.py",
    "tests/server/test_seam.py",
)  # fmt: skip
"""What `./ironcaulk test --quick` runs, an answer within three minutes; all under 10 s each."""
_ON_ANOTHER_DAY = ("tests/server/test_seam.py", "tests/core/test_cli.py")
"""What the test run also tries on another day: due dates, releases, the command line's answers."""


def up(port: int, *, empty: bool = False) -> int:
    """Start everything and stay until Ctrl-C, or until a part dies for good.

    An empty place gets the demo orders; one that is to be a shop of its own asks who leads it.
    """
    with _only_one("up.lock", "It is running already from this folder."):
        _must_be_free(port)
        provide.everything(SERVER)
        database = Database()
        ours = database.start()
        try:
            return _serve(port, database, empty=empty)
        finally:
            if ours:
                database.stop()
                say("Stopped. The data stays.")


@contextmanager
def _only_one(name: str, otherwise: str) -> Iterator[None]:
    """Hold a lock that the end of this process gives back, however it ends."""
    provide.data_folder().mkdir(parents=True, exist_ok=True)
    with (provide.data_folder() / name).open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Trouble(otherwise) from None
        yield


def _must_be_free(port: int) -> None:
    with socket.socket() as trial:
        trial.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            trial.bind(("127.0.0.1", port))
        except OSError:
            raise Trouble(f"Port {port} is taken; choose another with --port.") from None


def manage(env: dict[str, str], *arguments: str, aside: bool = True) -> str:
    """Run one of Django's commands, aside or where it can ask and tell; returns what it printed."""
    command = [str(PYTHON), str(ROOT / "server" / "manage.py"), *arguments]
    done = subprocess.run(command, env=env, capture_output=aside, text=True, check=False)
    if done.returncode and not aside:
        raise Trouble(f"{arguments[0]} was not done.")
    if done.returncode:
        line = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Trouble(f"manage.py {arguments[0]} failed: {line}")
    return (done.stdout or "").strip()


def worker(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start a worker."""
    manage_py = str(ROOT / "server" / "manage.py")
    return subprocess.Popen(
        [str(PYTHON), manage_py, "work", "--concurrency=2"], env=env, start_new_session=True
    )


def web(env: dict[str, str], port: int) -> subprocess.Popen[bytes]:
    """Start the web server."""
    return subprocess.Popen(
        [str(PYTHON), "-m", "uvicorn", "config.asgi:application", "--host=127.0.0.1",
         f"--port={port}", "--workers=2", "--timeout-graceful-shutdown=3",
         "--log-level=warning", "--no-access-log", "--no-server-header"],
        env=env, cwd=ROOT / "server", start_new_session=True,
    )  # fmt: skip


def wait_for(port: int, process: subprocess.Popen[bytes], seconds: float = 60) -> None:
    """Wait until the web server answers."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if process.poll() is not None:
            raise Trouble("The web server ended at once; its reason stands above.")
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/session", timeout=5).close()
        except urllib.error.HTTPError as problem:
            raise Trouble(f"The web server answers with {problem.code}.") from None
        except OSError:
            time.sleep(0.1)
        else:
            return
    raise Trouble("The web server does not answer.")


def end(process: subprocess.Popen[bytes]) -> None:
    """End a process kindly, then firmly."""
    if process.poll() is None:
        process.terminate()
        try:
            process.wait(8)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def with_database(*command: str) -> int:
    """Run one of Django's commands beside the database, whether the shop is open or not."""
    provide.everything(SERVER)
    database = Database()
    ours = database.start()
    try:
        database.make_database("ironcaulk")
        manage(environment(database), *command, aside=False)
    finally:
        if ours:
            database.stop()
    return 0


def _serve(port: int, database: Database, *, empty: bool) -> int:
    database.make_database("ironcaulk")
    env = environment(database)
    manage(env, "migrate", "--verbosity=0")
    logins = manage(env, *(("open_shop",) if empty else ("demo",)), aside=not empty)
    parts = {"worker": worker(env), "web": web(env, port)}
    restarts = 0
    # both ask for the same; a shell that starts us in the background may have SIGINT ignored
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.default_int_handler)
    try:
        wait_for(port, parts["web"])
        print(f"\nIroncaulk is at http://localhost:{port}", flush=True)
        if logins:
            print(logins)
        print("Ctrl-C stops it; the data stays.", flush=True)
        while True:
            if parts["web"].poll() is not None:
                raise Trouble("The web server died.")
            if parts["worker"].poll() is not None:
                restarts += 1
                if restarts > _WORKER_RESTARTS:
                    raise Trouble("The worker died again and again; its reason stands above.")
                say("The worker died; starting another.")
                parts["worker"] = worker(env)
            time.sleep(0.2)
    except KeyboardInterrupt:
        return 0
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        say("\nStopping")
        for process in parts.values():
            end(process)


def test(arguments: list[str]) -> int:
    """Run the checks and all tests, or those of the given pytest arguments."""
    quick = arguments == ["--quick"]
    provide.everything(DEV, meanwhile=_checks if quick or not arguments else None)
    if arguments[:1] == ["--another-day"]:
        command = [str(PYTHON), str(ROOT / "tools" / "ironcaulk.py"), "test", *arguments[1:]]
        os.execvpe("faketime", [*ANOTHER_DAY, *command], another_day(dict(os.environ)))
    # two runs would share the test database
    with _only_one("test.lock", "Tests are running already from this folder."):
        if quick:
            arguments = list(_QUICK)
        database = Database()
        ours = database.start()
        try:
            env = environment(database)
            pytest = [str(PYTHON), "-m", "pytest"]
            if arguments:
                return subprocess.run([*pytest, *arguments], cwd=ROOT, env=env).returncode
            return _all_tests(pytest, env)
        finally:
            if ours:
                database.stop()


ANOTHER_DAY = ("faketime", "-f", "+400d")


def another_day(env: dict[str, str]) -> dict[str, str]:
    """The environment 400 days on, in the zone where the day begins first.

    The clock that waiting is measured by stays as it is.
    """
    path = [str(ROOT / "tools" / "another_day"), *env.get("PYTHONPATH", "").split(os.pathsep)]
    return {
        **env,
        "TZ": "Pacific/Kiritimati",
        "FAKETIME_DONT_FAKE_MONOTONIC": "1",
        "PYTHONPATH": os.pathsep.join(filter(None, path)),
    }


def _all_tests(pytest: list[str], env: dict[str, str]) -> int:
    """The browser's tests, then some on another day; the other rooms at the same time.

    Each waits a lot, and none needs what another one has: each room has a test database of its own.
    """
    rooms = sorted(f"tests/{x.name}" for x in (ROOT / "tests").iterdir() if x.is_dir())
    beside = (*_OF_THE_CORE, _OF_THE_SERVER)
    others = [x for x in rooms if x not in beside and "__" not in x]
    say(f"Running {' and '.join([*others, *beside])} at the same time, shown when they are done")
    env = {**env, **_ONE_THREAD}
    server = sorted(str(x) for x in (ROOT / _OF_THE_SERVER).glob("test_*.py"))
    lanes = [
        Aside("tests-of-the-core", [*pytest, *_OF_THE_CORE], ROOT, env),
        *(
            Aside(f"tests-of-the-server-{half}", [*pytest, *files], ROOT, _apart(env, half))
            for half, files in (("1", server[::2]), ("2", server[1::2]))
        ),
    ]
    try:
        first = Aside("tests-in-the-browser", [*pytest, *others], ROOT, env)
        lanes.append(first)
        first.result()
        say(f"Running {' and '.join(_ON_ANOTHER_DAY)} 400 days on, in another zone")
        later = [*ANOTHER_DAY, *pytest, *_ON_ANOTHER_DAY]
        on_another_day = another_day(_apart(env, "another_day"))
        lanes += [
            Aside(
                "front-end-on-another-day",
                [*ANOTHER_DAY, "npm", "run", "--silent", "test"],
                ROOT / "web",
                another_day(provide.node()),
            ),
            Aside("tests-on-another-day", later, ROOT, on_another_day),
        ]
        # each is waited for and shown, whatever the others say
        for one in reversed(lanes):
            one.result()
        print(closing_table(lanes), flush=True)
        return max((one.result() for one in lanes), key=abs)
    finally:
        for one in lanes:
            one.end()


def closing_table(lanes: Sequence["Aside"]) -> str:
    """One line for each lane with what passed, failed and how long it took; failures below it."""
    lines = [f"{'lane':28}{'passed':>8}{'failed':>8}{'time':>8}"]
    failures = []
    passed = failed = 0
    for lane in lanes:
        ran = outcome_of(lane.said())
        passed, failed = passed + ran.passed, failed + ran.failed
        minutes, seconds = divmod(round(lane.seconds), 60)
        mark = f"  ended with {lane.result()}" if lane.result() else ""
        lines.append(f"{lane.name:28}{ran.passed:8}{ran.failed:8}{minutes:5}:{seconds:02}{mark}")
        failures += [f"{lane.name}: {line}" for line in ran.failures]
    return "\n".join(["", *lines, *failures, "", f"{passed} passed, {failed} failed"])


class Outcome(NamedTuple):
    """What the tests of a lane came to, and a line for each failure."""

    passed: int
    failed: int
    failures: list[str]


def outcome_of(said: str) -> Outcome:
    """What pytest or Vitest said at the end of its output."""
    plain = re.sub(r"\x1b\[[0-9;]*m", "", said)
    # pytest: "1 failed, 20 passed, 2 errors in 3s"; Vitest: "Tests  1 failed | 20 passed (21)"
    ends = re.findall(r"^(?:\s*Tests\s+)?\d+ (?:passed|failed|errors?)\b.*$", plain, re.MULTILINE)
    counts = {"passed": 0, "failed": 0, "error": 0}
    for number, what in re.findall(r"(\d+) (passed|failed|error)", ends[-1] if ends else ""):
        counts[what] = int(number)
    failures = re.findall(r"^(?:FAILED|ERROR|\s*FAIL) .*$", plain, re.MULTILINE)
    return Outcome(
        counts["passed"], counts["failed"] + counts["error"], [one.strip() for one in failures]
    )


def _apart(env: dict[str, str], name: str) -> dict[str, str]:
    """An environment whose test database is not that of the other rooms."""
    return {**env, "IRONCAULK_DB": f"ironcaulk_{name}"}


_NOTICES = re.compile(r"^nanobind: leaked (?:.*\n)*?See https://nanobind.*\n?", re.MULTILINE)
"""What a library of others says at exit of objects that the interpreter did not end. It is no
concern of the tests, and a hundred lines long."""


class Aside:
    """A command that runs meanwhile; what it says is shown once it is done."""

    def __init__(self, name: str, command: list[str], folder: Path, env: dict[str, str]) -> None:
        self.name, self.seconds, self._shown = name, 0.0, False
        self._began = time.monotonic()
        self.log = ROOT / ".stamps" / f"{name}.log"
        with self.log.open("w") as out:
            self.process = subprocess.Popen(
                command, cwd=folder, env=env, stdout=out, stderr=subprocess.STDOUT
            )
        self._watch = Thread(target=self._time, daemon=True)
        self._watch.start()

    def result(self) -> int:
        """Wait, show what it said the first time, and return its exit code."""
        self._watch.join()
        if not self._shown:
            self._shown = True
            print(f"{self.name}\n{self.said()}", flush=True)
        return self.process.wait()

    def _time(self) -> None:
        self.process.wait()
        self.seconds = time.monotonic() - self._began

    def said(self) -> str:
        """What it has said, without notices of foreign libraries."""
        return _NOTICES.sub("", self.log.read_text(errors="replace"))

    def end(self) -> None:
        """End it, if it still runs."""
        end(self.process)


def _checks() -> None:
    python = [
        [str(PYTHON), "-m", "ruff", "check", "."],
        [str(PYTHON), "-m", "ruff", "format", "--check", "."],
        [str(PYTHON), "-m", "mypy", "core/caulkcore", "core/caulkjob", "server"],
    ]
    web = Aside(
        "checks-of-the-front-end", ["npm", "run", "--silent", "check"], ROOT / "web", provide.node()
    )
    try:
        for command in python:
            if subprocess.run(command, cwd=ROOT, env=environment(), check=False).returncode:
                raise Trouble(f"{command[2]} is not content.")
        if web.result():
            raise Trouble("npm run check is not content.")
    finally:
        web.end()

"""Setting up what is missing: Debian packages, Python packages, kernels, front end, database.

Each step leaves a stamp of what it was made from and does nothing while that stays the same.
"""

import hashlib
import json
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import sys
import venv
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from importlib.util import cache_from_source
from pathlib import Path
from typing import Any

import stamps
from stamps import (
    CORE,
    DEV,
    LOCKS,
    PYTHON,
    ROOT,
    STAMPS,
    VENV,
    data_folder,
    digest_of,
    is_current,
    kernels_digest,
    lock_digest,
    write_stamp,
)

WEB = ROOT / "web"
_NODE_AT_LEAST = (20, 19)
_OWN_FOLDERS = ("core", "server", "demo", "tools")
"""Folders with modules that our processes import."""


class Trouble(Exception):
    """Something cannot be had; the message is one line for a person."""


def say(line: str) -> None:
    """Tell what is going on, on standard error, so that answers stay clean."""
    print(line, file=sys.stderr, flush=True)


def _run(command: list[str], what: str, to: str = "setup.log", **more: object) -> None:
    log = ROOT / ".stamps" / to
    log.parent.mkdir(exist_ok=True)
    with log.open("ab") as out:
        out.write(f"\n$ {' '.join(command)}\n".encode())
        out.flush()
        try:
            done = subprocess.run(command, stdout=out, stderr=out, check=False, **more)  # type: ignore[call-overload]
        except FileNotFoundError:
            raise Trouble(f"{what} failed: {command[0]} is not there.") from None
    if done.returncode:
        lines = [x for x in log.read_text(errors="replace").splitlines() if x.strip()]
        raise Trouble(f"{what} failed: {lines[-1].strip()} (all of it in {log})")


def debian(packages: list[str], what: str) -> None:
    """Install Debian packages, as root or with sudo."""
    if not shutil.which("apt-get"):
        raise Trouble(f"{what} is needed ({' '.join(packages)}), and there is no apt-get here.")
    prefix = [] if os.geteuid() == 0 else ["sudo"]
    say(f"Installing {what} from Debian's packages")
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    _run([*prefix, "apt-get", "update", "-qq"], "Reading Debian's package lists", env=env)
    _run(
        [*prefix, "apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages],
        f"Installing {what}",
        env=env,
    )


def python_packages(level: int) -> None:
    """The virtual environment with the packages of a level and those below it."""
    if not PYTHON.exists() or not (VENV / "bin" / "pip").exists():
        say("Making the virtual environment")
        try:
            venv.create(VENV, with_pip=True, clear=True)
        except (subprocess.CalledProcessError, ImportError):
            debian(["python3-venv"], "Python's venv")
            venv.create(VENV, with_pip=True, clear=True)
        for stamp in STAMPS.glob("packages-*"):
            stamp.unlink()
    for one in range(CORE, level + 1):
        lock, digest = ROOT / "requirements" / LOCKS[one], lock_digest(one)
        if is_current(f"packages-{one}", digest):
            continue
        say(f"Installing the Python packages of {lock.relative_to(ROOT)}")
        # pip compiles one file after the other: `_write_bytecode` uses all cores
        pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
        _run([*pip, "--no-compile", "-r", str(lock)], "Installing Python packages")
        for packages in VENV.glob("lib/python*/site-packages"):
            (packages / "ironcaulk.pth").write_text(f"{ROOT / 'core'}\n")
            # only pip writes here: nothing has to be compared when a module is imported
            files = [f for f in packages.rglob("*.py") if "tests" not in f.parts]
            missing = [f for f in files if not Path(cache_from_source(str(f))).exists()]
            _write_bytecode(missing, "unchecked-hash")
        write_stamp(f"packages-{one}", digest)


def _own_bytecode() -> None:
    """Compile our own modules, again whenever a source has changed.

    Bytecode is compared with its source by content, not by time stamp. It stays valid when the
    folder is copied or checked out again, and an edited module is never run as it was.
    """
    files = [f for folder in _OWN_FOLDERS for f in (ROOT / folder).rglob("*.py")]
    digest = digest_of(files)
    if is_current("bytecode", digest):
        return
    _write_bytecode(files, "checked-hash")
    write_stamp("bytecode", digest)


def _write_bytecode(files: list[Path], validated_by: str) -> None:
    """Compile modules on all cores, whatever PYTHONDONTWRITEBYTECODE says.

    Where that variable is set or the folder cannot be written to, every process would otherwise
    compile all that it imports.
    """
    command = [str(PYTHON), "-m", "compileall", "-q", "-f", "--invalidation-mode", validated_by]
    count = os.cpu_count() or 1

    def compile_share(number: int) -> None:
        share = [str(file) for file in files[number::count]]
        if share:
            # templates that packages bring are no Python; compileall reports them and goes on
            subprocess.run(
                [*command, "-i", "-"], input="\n".join(share), text=True, capture_output=True,
                check=False,
            )  # fmt: skip

    with ThreadPoolExecutor(count) as shares:
        list(shares.map(compile_share, range(count)))


def kernels() -> None:
    """Compile the kernels ahead of use."""
    digest = kernels_digest()
    if is_current("kernels", digest):
        return
    _own_bytecode()
    say("Compiling the kernels (once, some minutes)")

    def warm(part: str) -> None:
        # a log of its own: other things may be set up meanwhile
        module = ["bench.warm_packing"] if part == "screen" else ["caulkjob.warm", part]
        command = [str(PYTHON), "-m", *module]
        _run(command, "Compiling the kernels", to=f"kernels-{part}.log", env=environment())

    for parts in (("arranged", "others"), ("everything", "screen")):
        with ThreadPoolExecutor(2) as both:
            list(both.map(warm, parts))
    write_stamp("kernels", digest)


@cache
def _has_node() -> bool:
    """Whether this machine has a Node.js new enough for the build."""
    node = shutil.which("node")
    if not (node and shutil.which("npm")):
        return False
    said = subprocess.run([node, "--version"], capture_output=True, text=True, check=False)
    parts = said.stdout.strip().lstrip("v").split(".")
    return len(parts) == 3 and tuple(map(int, parts[:2])) >= _NODE_AT_LEAST


def node() -> dict[str, str]:
    """Environment with a Node.js new enough for the build."""
    env = dict(os.environ)
    if _has_node():
        return env
    wheel = ROOT / "requirements" / "node.txt"
    if not is_current("node", digest_of([wheel])):
        say("Installing Node.js from PyPI")
        pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
        _run([*pip, "-r", str(wheel)], "Installing Node.js")
        write_stamp("node", digest_of([wheel]))
    env["PATH"] = f"{VENV / 'bin'}:{env['PATH']}"
    return env


def front_end() -> None:
    """Build the front end into web/dist."""
    skip = {"node_modules", "dist"}
    files = [
        f
        for f in WEB.rglob("*")
        if f.is_file() and not skip & set(f.relative_to(WEB).parts) and f.suffix != ".log"
    ]
    digest = digest_of(files)
    if is_current("web", digest) and (WEB / "dist" / "index.html").is_file():
        return
    env, log = node(), "front-end.log"
    lock = digest_of([WEB / "package-lock.json"])
    if not is_current("npm", lock) or not (WEB / "node_modules").is_dir():
        say("Installing the front end's packages")
        _run(["npm", "ci", "--no-audit", "--no-fund"], "npm ci", to=log, cwd=WEB, env=env)
        write_stamp("npm", lock)
    say("Building the front end")
    _run(["npm", "run", "build"], "Building the front end", to=log, cwd=WEB, env=env)
    write_stamp("web", digest)


def browser() -> None:
    """Chromium and its driver, for the browser tests."""
    if not (Path("/usr/bin/chromium").exists() and Path("/usr/bin/chromedriver").exists()):
        debian(["chromium", "chromium-driver"], "Chromium and its driver")


def another_clock() -> None:
    """What lets the tests run as on another day."""
    if not shutil.which("faketime"):
        debian(["faketime"], "faketime")


def everything(level: int, *, meanwhile: Callable[[], None] | None = None) -> None:
    """All that a level needs, but for the running of it.

    Kernels are compiled, which takes minutes, as soon as the core's packages are there. What needs
    all packages and the front end, but no kernels, can be done meanwhile.
    """
    postgres_programs()
    with ThreadPoolExecutor(2) as aside:
        # where there is no Node.js, it comes with the packages
        page = aside.submit(front_end) if _has_node() else None
        python_packages(CORE)
        compiled = aside.submit(kernels)
        python_packages(level)
        _own_bytecode()
        if page:
            page.result()
        else:
            front_end()
        if level >= DEV:
            browser()
            another_clock()
        if meanwhile:
            meanwhile()
        compiled.result()


# the database


def postgres_programs() -> Path:
    """Folder of initdb and pg_ctl."""
    for _ in range(2):
        found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
        if found:
            return found[-1].parent
        debian(["postgresql"], "PostgreSQL")
    raise Trouble("PostgreSQL was installed, but its initdb is not where Debian puts it.")


def secrets_of_this_place() -> dict[str, str]:
    """Passwords and keys, made at first use."""
    file = data_folder() / "secrets.json"
    if not file.is_file():
        file.parent.mkdir(parents=True, exist_ok=True)
        made = {"database": secrets.token_urlsafe(24), "django": secrets.token_urlsafe(48)}
        handle = os.open(file, os.O_WRONLY | os.O_CREAT, 0o600)
        with os.fdopen(handle, "w") as out:
            json.dump(made, out)
    return json.loads(file.read_text())


class Database:
    """The private PostgreSQL cluster on the loopback address."""

    def __init__(self) -> None:
        self.programs = postgres_programs()
        self.user = "postgres" if os.geteuid() == 0 else None
        self.folder = self._folder()

    def _folder(self) -> Path:
        folder = data_folder() / "postgres"
        if self.user is None:
            return folder
        data_folder().mkdir(parents=True, exist_ok=True)
        can = subprocess.run(["test", "-x", data_folder()], check=False, **self._as())  # type: ignore[call-overload]
        if can.returncode == 0:
            return folder
        # PostgreSQL's user cannot reach this folder: keep the cluster where it can
        name = hashlib.sha256(str(folder).encode()).hexdigest()[:12]
        return Path("/var/lib/ironcaulk") / name

    def _as(self) -> dict[str, Any]:
        if self.user is None:
            return {}
        return {"user": self.user, "group": self.user, "extra_groups": [], "cwd": "/"}

    def _make(self) -> None:
        say("Making the database cluster")
        self.folder.mkdir(parents=True, exist_ok=True)
        password = self.folder.with_suffix(".password")
        password.write_text(secrets_of_this_place()["database"])
        if self.user:
            person = pwd.getpwnam(self.user)
            os.chown(self.folder, person.pw_uid, person.pw_gid)
            os.chown(password, person.pw_uid, person.pw_gid)
        password.chmod(0o600)
        command = [self.programs / "initdb", "-D", self.folder, "-U", "ironcaulk"]
        options = ["-A", "scram-sha-256", "--pwfile", password, "-E", "UTF8", "--locale=C.UTF-8"]
        try:
            _run([str(x) for x in [*command, *options]], "initdb", **self._as())
        finally:
            password.unlink()

    @property
    def running(self) -> bool:
        """Whether the cluster is up."""
        done = subprocess.run(
            [self.programs / "pg_ctl", "status", "-D", self.folder],
            capture_output=True,
            check=False,
            **self._as(),  # type: ignore[call-overload]
        )
        return done.returncode == 0

    @property
    def port(self) -> int:
        """Port of the running cluster, from its own note."""
        return int((self.folder / "postmaster.pid").read_text().splitlines()[3])

    def start(self) -> bool:
        """Start the cluster; False if it ran already."""
        if not (self.folder / "PG_VERSION").is_file():
            self._make()
        if self.running:
            return False
        options = (
            f"-p {free_port(8421)} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' "
            "-c fsync=on -c max_connections=60 -c shared_buffers=64MB"
        )
        log = self.folder / "server.log"
        command = [self.programs / "pg_ctl", "start", "-w", "-D", self.folder, "-l", log]
        _run(
            [str(x) for x in [*command, "-o", options]],
            "Starting PostgreSQL",
            start_new_session=True,
            **self._as(),
        )
        return True

    def stop(self) -> None:
        """Stop the cluster; its data stays."""
        command = [self.programs / "pg_ctl", "stop", "-m", "fast", "-D", self.folder]
        _run([str(x) for x in command], "Stopping PostgreSQL", **self._as())

    def make_database(self, name: str) -> None:
        """Create a database unless it is there."""
        env = {**os.environ, "PGPASSWORD": secrets_of_this_place()["database"]}
        at = ["-h", "127.0.0.1", "-p", str(self.port), "-U", "ironcaulk"]
        ask = subprocess.run(
            [str(self.programs / "psql"), *at, "-d", "postgres", "-Atc",
             f"select 1 from pg_database where datname = '{name}'"],
            capture_output=True, text=True, env=env, check=False,
        )  # fmt: skip
        if ask.stdout.strip() != "1":
            _run([str(self.programs / "createdb"), *at, name], "createdb", env=env)


def free_port(*wished: int) -> int:
    """A port of the loopback address that nobody listens on: one of those wished for, or any."""
    for port in (*wished, 0):
        with socket.socket() as trial:
            trial.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                trial.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(trial.getsockname()[1])
    raise Trouble("There is no free port on the loopback address.")


def environment(database: Database | None = None) -> dict[str, str]:
    """Environment of our own processes, those that use the database included."""
    env = stamps.environment()
    if database is not None:
        known = secrets_of_this_place()
        env |= {
            "IRONCAULK_DB_PORT": str(database.port),
            "IRONCAULK_DB_PASSWORD": known["database"],
            "IRONCAULK_SECRET_KEY": known["django"],
        }
    return env

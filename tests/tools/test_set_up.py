"""What ./ironcaulk says and does around the edges."""

import os
import socket
import stat
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tools"))

import provide  # noqa: E402
import run  # noqa: E402
import stamps  # noqa: E402


def ironcaulk(*arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [ROOT / "ironcaulk", *arguments], capture_output=True, text=True, check=False, timeout=1200
    )


def test_help_and_a_wrong_command() -> None:
    assert "./ironcaulk up" in ironcaulk("help").stdout
    wrong = ironcaulk("caulk")
    assert wrong.returncode == 2
    assert "./ironcaulk up" in wrong.stderr


def test_check_runs_from_any_folder_and_keeps_standard_output_clean(tmp_path) -> None:
    file = tmp_path / "a.obj"
    file.write_text("v 0 0 0\nv 20 0 0\nv 0 20 0\nv 0 0 20\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n")
    done = subprocess.run(
        [ROOT / "ironcaulk", "check", "--json", "a.obj"], cwd=tmp_path, capture_output=True,
        text=True, check=False, timeout=1200,
    )  # fmt: skip
    assert done.returncode == 0
    assert done.stdout.startswith('{"file": "a.obj"')
    assert done.stdout.count("\n") == 1


@pytest.mark.parametrize("command", [("check",), ("mend", "-o", "out.stl")])
def test_nothing_is_compiled_from_source_when_a_command_runs(command, tmp_path) -> None:
    file = tmp_path / "a.obj"
    file.write_text("v 0 0 0\nv 20 0 0\nv 0 20 0\nv 0 0 20\nf 1 3 2\nf 1 2 4\nf 2 3 4\n")
    done = subprocess.run(
        [ROOT / "ironcaulk", command[0], "a.obj", *command[1:]], cwd=tmp_path, text=True,
        capture_output=True, check=False,
        env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1", "PYTHONVERBOSE": "1"},
    )  # fmt: skip
    assert done.returncode in (0, 1), done.stderr[-2000:]
    # quoted where it comes from bytecode
    loaded = [x for x in done.stderr.splitlines() if x.startswith("# code object from ")]
    assert any("caulkjob/__pycache__/cli." in line for line in loaded)
    assert [line for line in loaded if ".pyc" not in line] == []


def test_bytecode_follows_an_edited_module_and_does_not_mind_its_age(tmp_path) -> None:
    module = tmp_path / "a_module.py"
    module.write_text("said = 'one'\n")
    provide._write_bytecode([module], "checked-hash")

    def said() -> tuple[str, bool]:
        command = [sys.executable, "-B", "-v", "-c", "import a_module; print(a_module.said)"]
        done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=True)
        return done.stdout.strip(), f"# code object from {module}\n" in done.stderr

    assert said() == ("one", False)
    os.utime(module, (1, 1))
    assert said() == ("one", False)
    module.write_text("said = 'two'\n")
    assert said() == ("two", True)


def test_a_port_that_is_taken_is_one_clear_line() -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        with pytest.raises(provide.Trouble, match=f"Port {port} is taken"):
            run._must_be_free(port)


def test_two_runs_from_one_folder_are_one_clear_line(monkeypatch, tmp_path) -> None:
    monkeypatch.setenv("IRONCAULK_DATA", str(tmp_path))
    with (
        run._only_one("test.lock", "running already"),
        pytest.raises(provide.Trouble, match="running already"),
        run._only_one("test.lock", "running already"),
    ):
        pass
    with run._only_one("test.lock", "running already"):
        pass


def test_a_package_that_cannot_be_had_is_one_clear_line(monkeypatch, tmp_path) -> None:
    monkeypatch.setattr(provide, "ROOT", tmp_path)
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(provide.Trouble, match="no apt-get here"):
        provide.debian(["postgresql"], "PostgreSQL")
    fake = tmp_path / "apt-get"
    fake.write_text("#!/bin/sh\necho 'E: Unable to locate package postgresql' >&2\nexit 100\n")
    fake.chmod(0o755)
    sudo = tmp_path / "sudo"
    sudo.write_text('#!/bin/sh\nexec "$@"\n')
    sudo.chmod(0o755)
    with pytest.raises(provide.Trouble) as told:
        provide.debian(["postgresql"], "PostgreSQL")
    assert "Unable to locate package postgresql" in str(told.value)
    assert "\n" not in str(told.value)


def test_stamps_follow_the_content(monkeypatch, tmp_path) -> None:
    monkeypatch.setattr(stamps, "ROOT", tmp_path)
    monkeypatch.setattr(stamps, "STAMPS", tmp_path / ".stamps")
    file = tmp_path / "a.txt"
    file.write_text("one")
    digest = stamps.digest_of([file])
    assert not stamps.is_current("thing", digest)
    stamps.write_stamp("thing", digest)
    assert stamps.is_current("thing", digest)
    file.write_text("two")
    assert not stamps.is_current("thing", stamps.digest_of([file]))


def test_secrets_are_made_once_and_are_private(monkeypatch, tmp_path) -> None:
    monkeypatch.setenv("IRONCAULK_DATA", str(tmp_path / "data"))
    first = provide.secrets_of_this_place()
    assert provide.secrets_of_this_place() == first
    assert len(first["database"]) > 20
    mode = os.stat(tmp_path / "data" / "secrets.json").st_mode
    assert stat.S_IMODE(mode) == 0o600


def test_a_process_that_will_not_end_is_ended() -> None:
    stubborn = subprocess.Popen(
        [sys.executable, "-c",
         "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN);"
         "print('ready', flush=True); time.sleep(600)"],
        stdout=subprocess.PIPE,
    )  # fmt: skip
    assert stubborn.stdout.readline() == b"ready\n"
    run.end(stubborn)
    assert stubborn.poll() is not None


@pytest.mark.parametrize("name", ["core.txt", "server.txt", "dev.txt", "node.txt"])
def test_requirements_are_pinned_and_name_no_address(name: str) -> None:
    lines = (ROOT / "requirements" / name).read_text().split()
    assert lines
    for line in lines:
        package, _, version = line.partition("==")
        assert package, line
        assert version, line
        assert "/" not in line


def test_the_front_ends_lock_names_no_address() -> None:
    lock = (ROOT / "web" / "package-lock.json").read_text()
    assert '"resolved"' not in lock

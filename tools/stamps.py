"""What has been set up already, by the content of what it was made from.

Short commands wait for this, so it imports next to nothing.
"""

import hashlib
import os
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
STAMPS = ROOT / ".stamps"
CORE, SERVER, DEV = 1, 2, 3
LOCKS = {CORE: "core.txt", SERVER: "server.txt", DEV: "dev.txt"}
"""Locked requirements of each level, which come on top of those below it."""
_THREADS = {"OMP_WAIT_POLICY": "passive", "OPENBLAS_NUM_THREADS": "1"}
"""How the threads of libraries behave, unless the environment says otherwise.

Between two parallel kernels OpenMP's threads would spin for some milliseconds on cores that another
job, the database or a browser could use: two examinations beside each other then take one and a
half times as long. They sleep instead. OpenBLAS starts its threads when NumPy is imported, which is
half of the processor time that this takes, and none of our matrices is large enough for them."""


def digest_of(files: Iterable[Path]) -> str:
    """Digest of the names and contents of files below `ROOT`."""
    total = hashlib.sha256()
    for file in sorted(files):
        total.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes())
    return total.hexdigest()


def is_current(name: str, digest: str) -> bool:
    """Whether a step was done with just this content."""
    stamp = STAMPS / name
    return stamp.is_file() and stamp.read_text() == digest


def write_stamp(name: str, digest: str) -> None:
    """Note that a step was done with this content."""
    STAMPS.mkdir(exist_ok=True)
    (STAMPS / name).write_text(digest)


def lock_digest(level: int) -> str:
    """Digest of the locked requirements of a level."""
    return digest_of([ROOT / "requirements" / LOCKS[level]])


def kernels_digest() -> str:
    """Digest of all sources that the compiled kernels are made from."""
    return digest_of([*(ROOT / "core").rglob("*.py"), ROOT / "server/bench/_packing_kernels.py"])


def can_compute() -> bool:
    """Whether the command line has all it needs: packages and compiled kernels."""
    return (
        PYTHON.exists()
        and is_current(f"packages-{CORE}", lock_digest(CORE))
        and is_current("kernels", kernels_digest())
    )


def data_folder() -> Path:
    """Where everything that must survive is kept."""
    return Path(os.environ.get("IRONCAULK_DATA", ROOT / ".data"))


def environment() -> dict[str, str]:
    """Environment of our own processes."""
    folders = ["core", "server", "demo"]
    if "FAKETIME" in os.environ:
        folders.append("tools/another_day")
    return {
        **_THREADS,
        **os.environ,
        "PYTHONPATH": ":".join(str(ROOT / x) for x in folders),
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "IRONCAULK_DATA": str(data_folder()),
        "PYTHONUNBUFFERED": "1",
    }

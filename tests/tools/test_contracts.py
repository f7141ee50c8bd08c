"""The rooms of the code stand on each other as `pyproject.toml` says; the linter notices."""

import os
import shutil
import subprocess
import sys
from collections import Counter
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
LINTER = Path(sys.executable).with_name("lint-imports")


def _lint(root: Path) -> str:
    env = {**os.environ, "PYTHONPATH": f"{root / 'core'}:{root / 'server'}"}
    done = subprocess.run(
        [LINTER, "--no-cache", "--config", str(root / "pyproject.toml")],
        cwd=root,
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    return done.stdout


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    """A copy of the code that may be spoilt."""
    for folder in ("core", "server"):
        shutil.copytree(
            ROOT / folder, tmp_path / folder, ignore=shutil.ignore_patterns("__pycache__")
        )
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def test_every_contract_is_kept() -> None:
    told = _lint(ROOT)
    assert "0 broken" in told, told


@pytest.mark.parametrize(
    ("file", "line", "contract"),
    [
        ("core/caulkcore/repair/orient.py", "import caulkjob.text", "The geometry knows neither"),
        ("core/caulkcore/mesh/weld.py", "import django.db", "The geometry knows neither"),
        ("core/caulkjob/plan.py", "import bench.seam", "The job knows nothing of the web"),
        ("core/caulkjob/cost.py", "import rest_framework.views", "The job knows nothing"),
        ("core/caulkcore/mesh/weld.py", "from ..spatial import box_tree", "Rooms of the geometry"),
        ("core/caulkcore/diagnose/nesting.py", "from ..repair import orient", "Rooms of the geom"),
        ("core/caulkcore/repair/orient.py", "from . import stitch", "A repair takes nothing"),
        ("core/caulkjob/findings/size.py", "from .. import plan", "Rooms of the job"),
        ("server/work/tasks.py", "import bench.jobs", "Applications of the server"),
        ("server/orders/models.py", "import bench.models", "Applications of the server"),
        ("server/bench/seam.py", "import dispatch.models", "Applications of the server"),
        ("server/bench/computing.py", "import work.tasks", "What child processes compute"),
    ],
)
def test_a_broken_contract_is_noticed(copy: Path, file: str, line: str, contract: str) -> None:
    spoilt = copy / file
    spoilt.write_text(f"{spoilt.read_text()}\n\n{line}\n")
    broken = [told for told in _lint(copy).splitlines() if told.endswith("BROKEN")]
    assert any(told.startswith(contract) for told in broken), broken


# Django's own names for what each application has
OF_EACH_APPLICATION = {"__init__", "apps", "models", "serializers", "views"}


def test_no_two_modules_share_a_name() -> None:
    files = [x for room in ("core", "server") for x in (ROOT / room).rglob("*.py")]
    names = Counter(x.stem for x in files if "migrations" not in x.parts)
    assert names["diagnosis"] == 1
    assert {n for n, times in names.items() if times > 1} == OF_EACH_APPLICATION

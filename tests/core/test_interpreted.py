"""Small files are looked at by the interpreter alone: the same answers, and an end to patience."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from caulkcore import Mesh
from caulkjob import examine, write
from makers import SOUND, random_mesh, sound

ROOT = Path(__file__).resolve().parents[2]
SMALL = ("box", "cone", "tube", "hollow box", "gauge lid")
ENV = {
    **os.environ,
    "PYTHONPATH": ":".join(str(ROOT / part) for part in ("core", "demo", "tests")),
}
# what the other process runs: the reports of the same meshes, kernels left uncompiled
OTHER = """
import json, sys
sys.path[:0] = sys.argv[1].split(":")
from core.test_interpreted import reports
from caulkcore.jit import nb
assert not hasattr(nb, "__version__")
print(json.dumps(reports()))
"""


def reports() -> list[dict]:
    """What is found in small meshes: sound ones, and random ones in which everything coincides."""
    rng = np.random.default_rng(11)
    meshes = [sound(name) for name in SMALL if name in SOUND]
    meshes += [random_mesh(kind, rng) for _ in range(6) for kind in (1, 2, 4)]
    told = [examine(mesh).as_json() for mesh in meshes if len(mesh.faces) < 800]
    return [{**one, "seconds": 0.0} for one in told]


def test_the_interpreter_finds_what_the_compiled_kernels_find() -> None:
    done = subprocess.run(
        [sys.executable, "-c", OTHER, f"{ROOT / 'tests'}:{ROOT / 'demo'}"],
        env={**ENV, "CAULKCORE_INTERPRETED": "1"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert done.stderr == ""
    found = json.loads(done.stdout)
    assert len(found) > 15
    assert sum(not one["tight"] for one in found) > 10
    assert found == json.loads(json.dumps(reports()))


def _check(path: Path, **env: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "caulkjob.cli", "check", str(path), "--json"],
        env={**ENV, **env},
        capture_output=True,
        text=True,
        check=False,
    )


def test_a_small_file_that_takes_long_is_begun_again_with_the_compiler(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    corners = rng.normal(size=(790 * 3, 3)) * 40
    file = tmp_path / "needles through the middle.stl"
    write(Mesh(corners, np.arange(len(corners)).reshape(-1, 3)), file)
    told = _check(file)
    assert told.stderr == ""
    compiled = _check(file, IRONCAULK_COMPILE="1")
    assert told.returncode == compiled.returncode == 1
    both = [{**json.loads(one.stdout), "seconds": 0.0} for one in (told, compiled)]
    assert both[0] == both[1]
    kinds = {f["kind"]: f["count"] for f in both[0]["findings"]}
    assert kinds["overlapping-shells"] > 50_000


LEAVES_ALONE = """
import os, sys
import numpy as np
before = dict(os.environ), np.geterr()
from caulkcore.mesh.simple_solids import cuboid
from caulkjob import examine
assert examine(cuboid()).tight
assert (dict(os.environ), np.geterr()) == before
assert None not in sys.modules.values()
"""


@pytest.mark.parametrize("env", [{}, {"CAULKCORE_INTERPRETED": "1"}])
def test_the_core_changes_nothing_of_whoever_imports_it(env: dict[str, str]) -> None:
    bare = {k: v for k, v in ENV.items() if k not in ("OMP_WAIT_POLICY", "OPENBLAS_NUM_THREADS")}
    done = subprocess.run(
        [sys.executable, "-c", LEAVES_ALONE], env={**bare, **env}, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr

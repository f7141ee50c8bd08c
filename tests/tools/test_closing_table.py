"""The end of a test run: a table of its lanes, failures below it, nothing of foreign libraries."""

import sys

import pytest
from test_set_up import run

PYTEST = """..F. [100%]
FAILED tests/core/test_a.py::test_b - assert 1 == 2
ERROR tests/core/test_c.py::test_d
1 failed, 20 passed, 2 warnings, 3 errors in 61.20s (0:01:01)
nanobind: leaked 2 instances!
 - leaked instance 0x7f of type "manifold3d.Mesh"
nanobind: this is likely caused by a reference counting issue in the binding code.
See https://nanobind.readthedocs.io/en/latest/refleaks.html
"""
VITEST = """ \x1b[31mFAIL\x1b[39m  src/a.test.ts > opens
 Test Files  1 failed | 39 passed (40)
      Tests  \x1b[31m1 failed\x1b[39m | 402 passed (403)
   Duration  3.20s
"""


@pytest.mark.parametrize(
    ("said", "passed", "failed", "failures"),
    [
        (PYTEST, 20, 4, ["FAILED tests/core/test_a.py::test_b - assert 1 == 2",
                         "ERROR tests/core/test_c.py::test_d"]),
        (VITEST, 402, 1, ["FAIL  src/a.test.ts > opens"]),
        ("45 passed in 3.00s\n", 45, 0, []),
        ("Traceback (most recent call last):\n", 0, 0, []),
    ],
)  # fmt: skip
def test_what_a_lane_came_to_is_read_from_its_output(said, passed, failed, failures) -> None:
    assert run.outcome_of(said) == (passed, failed, failures)


def test_the_table_has_a_line_for_each_lane_and_repeats_failures(tmp_path, monkeypatch) -> None:
    monkeypatch.setattr(run, "ROOT", tmp_path)
    (tmp_path / ".stamps").mkdir()

    def lane(name: str, said: str, code: int) -> run.Aside:
        script = f"import sys; print({said!r}); sys.exit({code})"
        return run.Aside(name, [sys.executable, "-c", script], tmp_path, {})

    lanes = [lane("core", PYTEST, 1), lane("page", VITEST.replace("1 failed", "0 failed"), 0)]
    assert [one.result() for one in lanes] == [1, 0]
    assert "nanobind" not in lanes[0].said()
    lines = run.closing_table(lanes).splitlines()
    core = next(line for line in lines if line.startswith("core "))
    assert core.split()[1:3] == ["20", "4"]
    assert core.endswith("ended with 1")
    assert "core: FAILED tests/core/test_a.py::test_b - assert 1 == 2" in lines
    assert lines[-1] == "422 passed, 4 failed"

import doctest
from pathlib import Path


def test_the_tasks_of_the_core_page_hold() -> None:
    page = Path(__file__).parents[2] / "docs" / "core.md"
    failed, tried = doctest.testfile(str(page), module_relative=False)
    assert tried > 50
    assert failed == 0

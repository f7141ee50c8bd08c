"""Plain `pytest` finds a database: `./ironcaulk test` brings one along."""

import os
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
NEED_A_DATABASE = ("server", "browser")
_started = []


def pytest_collection_finish(session: pytest.Session) -> None:
    """Start the cluster if a test needs it and nobody did."""
    rooms = {item.path.relative_to(ROOT / "tests").parts[0] for item in session.items}
    if "IRONCAULK_DB_PORT" in os.environ or not rooms.intersection(NEED_A_DATABASE):
        return
    sys.path.insert(0, str(ROOT / "tools"))
    import provide
    from django.conf import settings

    database = provide.Database()
    if database.start():
        _started.append(database)
    os.environ.update(provide.environment(database))
    settings.DATABASES["default"] |= {
        "PORT": os.environ["IRONCAULK_DB_PORT"],
        "PASSWORD": os.environ["IRONCAULK_DB_PASSWORD"],
    }


def pytest_unconfigure() -> None:
    """Stop it again."""
    for database in _started:
        database.stop()

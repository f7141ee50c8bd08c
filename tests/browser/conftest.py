"""The whole application on loopback: own database, own files, real worker, real browser."""

import os
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import SimpleNamespace

import psycopg
import pytest
from psycopg import sql

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tools"))

import run  # noqa: E402
from page import PASSWORD, Page, start_browser  # noqa: E402
from provide import free_port  # noqa: E402

NAME = "ironcaulk_browser"
ITEMS = (
    "Lantern housing",
    "Gallery bracket",
    "Seal on a rock",
    "Horn cleat, 6 in",
    "Half model, station 0–9",
    "Pennant",
    "Valve wheel",
)
"""Of the demo, what the tests look at."""


def _connect(database: str) -> psycopg.Connection:
    return psycopg.connect(
        host="127.0.0.1",
        port=os.environ["IRONCAULK_DB_PORT"],
        user="ironcaulk",
        password=os.environ["IRONCAULK_DB_PASSWORD"],
        dbname=database,
        autocommit=True,
    )


def _database(command: str) -> None:
    with _connect("postgres") as connection:
        connection.execute(sql.SQL(command).format(sql.Identifier(NAME)))


def _work_off(patience: float = 1200) -> None:
    """Wait until the demo orders are examined: who opens a file then need not queue behind them."""
    end = time.monotonic() + patience
    with _connect(NAME) as connection:
        count = "select count(*) from work_job where state in ('waiting', 'running')"
        while (waiting := connection.execute(count).fetchone()[0]) and time.monotonic() < end:
            time.sleep(0.2)
    assert not waiting, f"{waiting} jobs of the demo were not done in {patience:.0f} s"


@pytest.fixture(scope="session")
def shop(tmp_path_factory) -> Iterator[SimpleNamespace]:
    """The running application with the demo orders."""
    _database("drop database if exists {} with (force)")
    _database("create database {}")
    env = {
        **os.environ,
        "IRONCAULK_DB": NAME,
        "IRONCAULK_DATA": str(tmp_path_factory.mktemp("data")),
    }
    port = free_port()
    run.manage(env, "migrate", "--verbosity=0")
    run.manage(env, "demo", "--only", *ITEMS)
    worker, web = run.worker(env), run.web(env, port)
    running = SimpleNamespace(
        address=f"http://127.0.0.1:{port}",
        port=port,
        worker=worker,
        web=web,
        env=env,
        connect=lambda: _connect(NAME),
        items=ITEMS,
    )
    try:
        run.wait_for(port, web)
        _work_off()
        yield running
    finally:
        # they may be others by now
        for process in (running.worker, running.web):
            run.end(process)
        _database("drop database if exists {} with (force)")


@contextmanager
def _logged_in(shop: SimpleNamespace, name: str) -> Iterator[Page]:
    """A browser with somebody logged in; any severe console message fails the test."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        driver = start_browser(folder)
        try:
            one = Page(driver, shop.address, Path(folder))
            one.log_in(name, PASSWORD)
            yield one
            severe = [x["message"] for x in driver.get_log("browser") if x["level"] == "SEVERE"]
            assert not severe
        finally:
            driver.quit()


@pytest.fixture
def page(shop) -> Iterator[Page]:
    """The technician's browser."""
    with _logged_in(shop, "maren") as page:
        yield page


@pytest.fixture
def colleague(shop) -> Iterator[Page]:
    """The lead's browser, beside the technician's."""
    with _logged_in(shop, "odd") as page:
        yield page

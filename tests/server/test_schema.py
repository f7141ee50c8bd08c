"""What is checked in of the API's description is what the code says."""

import subprocess
from pathlib import Path

from django.core.management import call_command

ROOT = Path(__file__).resolve().parents[2]


def test_the_schema_is_current(tmp_path) -> None:
    made = tmp_path / "schema.yaml"
    call_command("spectacular", "--file", str(made), "--validate", "--fail-on-warn")
    assert made.read_text() == (ROOT / "server" / "schema.yaml").read_text()


def test_the_front_ends_types_are_current(tmp_path) -> None:
    made = tmp_path / "schema.d.ts"
    tool = ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run(
        [tool, ROOT / "server" / "schema.yaml", "--default-non-nullable=false", "-o", made],
        check=True,
        capture_output=True,
        cwd=ROOT / "web",
    )
    assert made.read_text() == (ROOT / "web" / "src" / "api" / "schema.d.ts").read_text()


def test_no_migration_is_missing(db) -> None:
    call_command("makemigrations", "--check", "--dry-run", verbosity=0)

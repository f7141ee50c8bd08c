"""Revisions of before: what they were judged by, and an empty list where none was kept."""

from typing import Any

from django.db import migrations


def fill_in(apps: Any, schema_editor: Any) -> None:
    for revision in apps.get_model("bench", "Revision").objects.select_related("item__material"):
        revision.material = revision.item.material
        revision.rules = revision.item.material.rules
        for name in ("verdicts", "unasked"):
            revision.report.setdefault(name, [])
        revision.save(update_fields=["material", "rules", "report"])


class Migration(migrations.Migration):
    dependencies = [("bench", "0003_judged_by")]

    operations = [migrations.RunPython(fill_in, migrations.RunPython.noop)]

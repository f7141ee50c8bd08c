"""Reports of before get what screens read instead of sentences: codes and numbers."""

import re
from typing import Any

from django.db import migrations

_REASONS = {
    "no rules for the material": "no-rules",
    "waits for one solid": "skins-cross",
    "not measured yet": "not-measured",
    "waits for a solid": "no-solid",
}
_MEASURED = re.compile(r"([\d.]+) of ([\d.]+) mm")


def fill_in(apps: Any, schema_editor: Any) -> None:
    for revision in apps.get_model("bench", "Revision").objects.iterator():
        for one in revision.report["unasked"]:
            one.setdefault("reason", _REASONS.get(one["words"], ""))
        for finding in revision.report["findings"]:
            for spot in finding["spots"]:
                told = _MEASURED.fullmatch(spot["measure"])
                spot.setdefault("thickness_mm", float(told[1]) if told else None)
                spot.setdefault("limit_mm", float(told[2]) if told else None)
        revision.save(update_fields=["report"])


class Migration(migrations.Migration):
    dependencies = [("bench", "0005_workpieces_and_jobs_of_the_queue")]

    operations = [migrations.RunPython(fill_in, migrations.RunPython.noop)]

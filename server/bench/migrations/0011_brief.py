"""What lists need of a report stands beside it."""

import pgtrigger
from typing import Any

from django.db import migrations, models


def fill_in(apps: Any, schema_editor: Any) -> None:
    from bench.models import Examination

    examinations = apps.get_model("bench", "Examination").objects
    with pgtrigger.ignore("bench.Examination:append_only"):
        for one in examinations.only("id", "report").iterator(chunk_size=50):
            brief = Examination.brief_of(one.report)
            examinations.filter(pk=one.pk).update(brief=brief)


class Migration(migrations.Migration):
    dependencies = [("bench", "0010_trail")]

    operations = [
        migrations.AddField(
            model_name="examination",
            name="brief",
            field=models.JSONField(default=dict),
            preserve_default=False,
        ),
        migrations.RunPython(fill_in, migrations.RunPython.noop),
    ]

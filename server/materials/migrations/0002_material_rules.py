"""Each material gets its rule sheet; those that ship with the product are filled in."""

from typing import Any

from caulkjob.rule_sheets import usual_rule_sheets
from django.db import migrations, models
from materials.models import is_rule_sheet


def fill_in(apps: Any, schema_editor: Any) -> None:
    for sheet in usual_rule_sheets().values():
        apps.get_model("materials", "Material").objects.filter(key=sheet.key).update(
            rules=sheet.as_json()
        )


class Migration(migrations.Migration):
    dependencies = [("materials", "0001_initial")]

    operations = [
        migrations.AddField(
            "material",
            "rules",
            models.JSONField(blank=True, null=True, validators=[is_rule_sheet]),
        ),
        migrations.RunPython(fill_in, migrations.RunPython.noop),
    ]

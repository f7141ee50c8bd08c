"""Rule sheets get their history; machines come in; the density stands in the sheet alone."""

from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def first_editions(apps: Any, schema_editor: Any) -> None:
    edition = apps.get_model("materials", "Edition")
    for material in apps.get_model("materials", "Material").objects.exclude(rules=None):
        edition.objects.create(material=material, number=1, rules=material.rules)


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("materials", "0002_material_rules"),
    ]

    operations = [
        migrations.CreateModel(
            "Machine",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80, unique=True)),
                ("process", models.CharField(max_length=80)),
                ("x", models.FloatField()),
                ("y", models.FloatField()),
                ("z", models.FloatField()),
            ],
            options={"ordering": ("process", "name")},
        ),
        migrations.RemoveField("material", "density_g_cm3"),
        migrations.AlterField("material", "key", models.SlugField(max_length=80, unique=True)),
        migrations.CreateModel(
            "Edition",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("rules", models.JSONField()),
                ("why", models.TextField(blank=True)),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "material",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="editions",
                        to="materials.material",
                    ),
                ),
            ],
            options={"ordering": ("-number",)},
        ),
        migrations.AddConstraint(
            "edition",
            models.UniqueConstraint(fields=("material", "number"), name="edition_number"),
        ),
        migrations.RunPython(first_editions, migrations.RunPython.noop),
    ]

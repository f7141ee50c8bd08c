"""What was found on a revision, and what people decided about it, get tables of their own.

A revision stays what it is, while it may be judged again by other rules; acceptances become events
that name the places as they were found.
"""

import django.db.models.deletion
from typing import Any

from django.conf import settings
from django.db import migrations, models


def move(apps: Any, schema_editor: Any) -> None:
    revisions = apps.get_model("bench", "Revision").objects
    examinations = apps.get_model("bench", "Examination").objects
    for revision in revisions.order_by("id").iterator(chunk_size=50):
        report = revision.report
        examination = examinations.create(
            revision=revision,
            report=report,
            marks_path=revision.marks_path,
            soundings_path=revision.soundings_path,
            tight=report["tight"],
            material_id=revision.material_id,
            standard={"sheet": revision.rules},
            made_by_id=revision.made_by_id,
        )
        examinations.filter(pk=examination.pk).update(made=revision.made)
        numbers = [p["shell"] + 1 for p in report.get("pieces", ())]
        revisions.filter(pk=revision.pk).update(
            triangles=report["triangles"], highest_piece=max(numbers, default=0)
        )
    for piece in apps.get_model("bench", "Workpiece").objects.exclude(current=None):
        piece.examination = examinations.filter(revision_id=piece.current_id).last()
        piece.save(update_fields=["examination"])


def decide(apps: Any, schema_editor: Any) -> None:
    from caulkjob.questions import KINDS_BY_MATERIAL

    decisions = apps.get_model("bench", "Decision").objects
    examinations = apps.get_model("bench", "Examination").objects
    for waiver in apps.get_model("bench", "Waiver").objects.select_related("item").order_by("at"):
        examination = examinations.filter(revision_id=waiver.revision_id).last()
        findings = examination.report["findings"] if examination else []
        found = next((f for f in findings if f["kind"] == waiver.kind), None)
        by_material = waiver.kind in KINDS_BY_MATERIAL
        made = decisions.create(
            item=waiver.item,
            revision_id=waiver.revision_id,
            act="accept",
            kind=waiver.kind,
            places=found["spots"] if found else [],
            material_id=waiver.item.material_id if by_material else None,
            reason=waiver.reason,
            by_id=waiver.by_id,
        )
        decisions.filter(pk=made.pk).update(at=waiver.at)


def person() -> Any:
    return models.ForeignKey(
        null=True,
        on_delete=django.db.models.deletion.SET_NULL,
        related_name="+",
        to=settings.AUTH_USER_MODEL,
    )


def material() -> Any:
    return models.ForeignKey(
        null=True,
        on_delete=django.db.models.deletion.PROTECT,
        related_name="+",
        to="materials.material",
    )


def key() -> Any:
    return models.BigAutoField(
        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
    )


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("bench", "0007_changes"),
        ("materials", "0004_shop_settings"),
        ("orders", "0003_set_aside"),
    ]

    operations = [
        migrations.CreateModel(
            name="Examination",
            fields=[
                ("id", key()),
                ("report", models.JSONField()),
                ("marks_path", models.CharField(max_length=255)),
                ("soundings_path", models.CharField(blank=True, max_length=255)),
                ("tight", models.BooleanField()),
                ("standard", models.JSONField(default=dict)),
                ("made", models.DateTimeField(auto_now_add=True)),
                ("made_by", person()),
                ("material", material()),
                (
                    "revision",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="examinations",
                        to="bench.revision",
                    ),
                ),
            ],
            options={"ordering": ("id",)},
        ),
        migrations.CreateModel(
            name="Decision",
            fields=[
                ("id", key()),
                (
                    "act",
                    models.CharField(
                        choices=[
                            ("accept", "Accept"),
                            ("withdraw", "Withdraw"),
                            ("return", "Return"),
                            ("material", "Material"),
                            ("set-aside", "Set Aside"),
                            ("take-up", "Take Up"),
                            ("replace", "Replace"),
                        ],
                        max_length=12,
                    ),
                ),
                ("kind", models.CharField(blank=True, max_length=40)),
                ("places", models.JSONField(default=list)),
                ("about", models.JSONField(default=dict)),
                ("reason", models.TextField()),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("by", person()),
                (
                    "item",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="decisions",
                        to="orders.item",
                    ),
                ),
                ("material", material()),
                (
                    "revision",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="decisions",
                        to="bench.revision",
                    ),
                ),
                (
                    "withdraws",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="withdrawals",
                        to="bench.decision",
                    ),
                ),
            ],
            options={"ordering": ("id",)},
        ),
        migrations.AddField(
            model_name="workpiece",
            name="examination",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to="bench.examination",
            ),
        ),
        migrations.AddField(
            model_name="revision",
            name="triangles",
            field=models.PositiveIntegerField(default=0),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="revision",
            name="highest_piece",
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.RunPython(move, migrations.RunPython.noop),
        migrations.RunPython(decide, migrations.RunPython.noop),
    ]

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [migrations.swappable_dependency(settings.AUTH_USER_MODEL)]

    operations = [
        migrations.CreateModel(
            name="Job",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("kind", models.CharField(max_length=12)),
                ("subject", models.CharField(max_length=60)),
                ("title", models.CharField(max_length=120)),
                ("parameters", models.JSONField(default=dict)),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "Waiting"),
                            ("running", "Running"),
                            ("done", "Done"),
                            ("refused", "Refused"),
                            ("failed", "Failed"),
                            ("cancelled", "Cancelled"),
                        ],
                        default="waiting",
                        max_length=12,
                    ),
                ),
                ("step", models.CharField(blank=True, max_length=120)),
                ("fraction", models.FloatField(default=0)),
                ("message", models.TextField(blank=True)),
                ("tries", models.PositiveIntegerField(default=0)),
                ("cancel_asked", models.BooleanField(default=False)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("started", models.DateTimeField(null=True)),
                ("finished", models.DateTimeField(null=True)),
                (
                    "made_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ("-id",),
                "constraints": [
                    models.UniqueConstraint(
                        condition=models.Q(("state__in", ("waiting", "running"))),
                        fields=("subject",),
                        name="one_open_job_a_subject",
                    )
                ],
            },
        ),
    ]

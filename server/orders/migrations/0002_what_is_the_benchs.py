"""Which revision holds, and why a file could not be read, are known to the bench alone now."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [
        ("orders", "0001_initial"),
        ("bench", "0005_workpieces_and_jobs_of_the_queue"),
    ]

    operations = [
        migrations.RemoveField(model_name="item", name="current"),
        migrations.RemoveField(model_name="item", name="problem"),
    ]

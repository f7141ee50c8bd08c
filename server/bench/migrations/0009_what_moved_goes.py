"""What examinations and decisions have taken over leaves the tables it stood in."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("bench", "0008_examinations_and_decisions")]

    operations = [
        migrations.RemoveField(model_name="revision", name="report"),
        migrations.RemoveField(model_name="revision", name="marks_path"),
        migrations.RemoveField(model_name="revision", name="soundings_path"),
        migrations.RemoveField(model_name="revision", name="material"),
        migrations.RemoveField(model_name="revision", name="rules"),
        migrations.DeleteModel(name="Waiver"),
    ]

"""Items that nothing more is done about."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("orders", "0002_what_is_the_benchs")]

    operations = [
        migrations.AddField(
            model_name="item", name="set_aside", field=models.BooleanField(default=False)
        ),
    ]

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('bench', '0006_codes_and_numbers'),
    ]

    operations = [
        migrations.AddField(
            model_name='revision',
            name='changes_path',
            field=models.CharField(blank=True, default='', max_length=255),
            preserve_default=False,
        ),
    ]

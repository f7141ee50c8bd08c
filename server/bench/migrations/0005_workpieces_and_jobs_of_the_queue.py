"""Which revision holds moves from the item to its workpiece; jobs move to the queue's own table.

Jobs keep their numbers, so that what waits in the queue finds them.
"""

import django.db.models.deletion
from django.db import migrations, models

_MOVE = """
insert into bench_workpiece (item_id, current_id, problem)
select id, current_id, problem from orders_item;

insert into work_job (id, kind, subject, title, parameters, state, step, fraction, message, tries,
                      cancel_asked, created, started, finished, made_by_id)
select id, kind, 'item ' || item_id, title, parameters, state, step, fraction, message, tries,
       cancel_asked, created, started, finished, made_by_id
from bench_job;

insert into bench_itemjob (job_ptr_id, item_id, base_id) select id, item_id, base_id from bench_job;

select setval(pg_get_serial_sequence('work_job', 'id'), (select max(id) from work_job))
where exists (select 1 from work_job);
"""


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0004_what_was_judged"),
        ("orders", "0001_initial"),
        ("work", "0001_initial"),
    ]

    operations = [
        migrations.CreateModel(
            name="Workpiece",
            fields=[
                (
                    "item",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="workpiece",
                        serialize=False,
                        to="orders.item",
                    ),
                ),
                ("problem", models.TextField(blank=True)),
                (
                    "current",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="bench.revision",
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="ItemJob",
            fields=[
                (
                    "job_ptr",
                    models.OneToOneField(
                        auto_created=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        parent_link=True,
                        primary_key=True,
                        serialize=False,
                        to="work.job",
                    ),
                ),
                (
                    "base",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
                        to="bench.revision",
                    ),
                ),
                (
                    "item",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="item_jobs",
                        to="orders.item",
                    ),
                ),
            ],
            bases=("work.job",),
        ),
        migrations.RunSQL(_MOVE, migrations.RunSQL.noop),
        migrations.DeleteModel(name="Job"),
        migrations.AlterField(
            model_name="itemjob",
            name="item",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="jobs",
                to="orders.item",
            ),
        ),
    ]

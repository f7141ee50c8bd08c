"""Notes of revisions and kept measures are told to all who listen."""

from django.db import migrations

TELL = """
create function items_of_measure() returns trigger language plpgsql as $$
begin
    perform items_tell(
        (select item_id from bench_revision where id = coalesce(new.revision_id, old.revision_id)),
        false
    );
    return null;
end $$;

create trigger items_tell after insert on bench_revisionnote
    for each row execute function items_of_revision_row();
create trigger items_tell after insert or update or delete on bench_measure
    for each row execute function items_of_measure();
"""

SILENT = """
drop trigger items_tell on bench_measure;
drop trigger items_tell on bench_revisionnote;
drop function items_of_measure();
"""


class Migration(migrations.Migration):
    dependencies = [
        ("items", "0002_changes_are_told"),
        ("bench", "0012_notes_and_measures"),
    ]

    operations = [migrations.RunSQL(TELL, SILENT)]

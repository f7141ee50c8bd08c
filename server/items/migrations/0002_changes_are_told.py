"""Triggers that note for which items the summary is due, and tell all who listen."""

from django.db import migrations

CHANNEL = "shop"
"""The channel of PostgreSQL's notifications; see `items.listening`."""

TELL = f"""
create function items_tell(item bigint, due boolean) returns void language plpgsql as $$
begin
    if item is null then return; end if;
    if due then insert into items_summarydue (item_id) values (item); end if;
    perform pg_notify('{CHANNEL}', 'item ' || item);
end $$;

create function items_of_item() returns trigger language plpgsql as $$
begin
    perform items_tell(new.id, true);
    return null;
end $$;

create function items_of_row() returns trigger language plpgsql as $$
begin
    perform items_tell(new.item_id, tg_argv[0] = 'due');
    return null;
end $$;

create function items_of_revision_row() returns trigger language plpgsql as $$
begin
    perform items_tell((select item_id from bench_revision where id = new.revision_id), false);
    return null;
end $$;

create function items_of_release_row() returns trigger language plpgsql as $$
begin
    perform items_tell((select item_id from dispatch_release where id = new.release_id), true);
    return null;
end $$;

create function items_of_job() returns trigger language plpgsql as $$
declare
    item bigint := (select item_id from bench_itemjob where job_ptr_id = new.id);
begin
    if old.state <> new.state then
        perform items_tell(item, true);
    elsif item is not null then
        -- how far it is: told several times a second, and no list rests on it
        perform pg_notify('{CHANNEL}', 'step ' || item);
    end if;
    return null;
end $$;

create function items_of_order() returns trigger language plpgsql as $$
begin
    perform pg_notify('{CHANNEL}', 'order ' || new.id);
    return null;
end $$;

create function items_of_rules() returns trigger language plpgsql as $$
begin
    -- what was released was judged by what held then
    insert into items_summarydue (item_id)
        select item_id from items_summary where released is null;
    perform pg_notify('{CHANNEL}', 'rules');
    return null;
end $$;

create trigger items_tell after insert or update on orders_item
    for each row execute function items_of_item();
create trigger items_tell after insert or update on bench_workpiece
    for each row execute function items_of_row('due');
create trigger items_tell after insert on bench_decision
    for each row execute function items_of_row('due');
create trigger items_tell after insert on bench_itemjob
    for each row execute function items_of_row('due');
create trigger items_tell after update on work_job
    for each row execute function items_of_job();
create trigger items_tell after insert on bench_examination
    for each row execute function items_of_revision_row();
create trigger items_tell after insert on dispatch_release
    for each row execute function items_of_row('due');
create trigger items_tell after insert on dispatch_withdrawal
    for each row execute function items_of_release_row();
create trigger items_tell after insert on dispatch_letter
    for each row execute function items_of_row('');
create trigger items_tell after insert on orders_comment
    for each row execute function items_of_row('');
create trigger items_tell after insert or update on orders_order
    for each row execute function items_of_order();
create trigger items_tell after insert or update or delete on materials_material
    for each statement execute function items_of_rules();
create trigger items_tell after insert or update or delete on materials_machine
    for each statement execute function items_of_rules();
create trigger items_tell after insert or update or delete on materials_shopsettings
    for each statement execute function items_of_rules();

insert into items_summarydue (item_id) select id from orders_item;
"""

TABLES = (
    "orders_item", "bench_workpiece", "bench_decision", "bench_itemjob", "work_job",
    "bench_examination", "dispatch_release", "dispatch_withdrawal", "dispatch_letter",
    "orders_comment", "orders_order", "materials_material", "materials_machine",
    "materials_shopsettings",
)  # fmt: skip
FUNCTIONS = (
    "items_of_rules()", "items_of_order()", "items_of_job()", "items_of_release_row()",
    "items_of_revision_row()", "items_of_row()", "items_of_item()", "items_tell(bigint, boolean)",
)  # fmt: skip
SILENT = "\n".join(
    [f"drop trigger items_tell on {table};" for table in TABLES]
    + [f"drop function {function};" for function in FUNCTIONS]
)


class Migration(migrations.Migration):
    dependencies = [
        ("items", "0001_initial"),
        ("orders", "0005_assignee_and_comments"),
        ("bench", "0011_brief"),
        ("dispatch", "0003_trail"),
        ("materials", "0005_trail"),
        ("work", "0001_initial"),
    ]

    operations = [migrations.RunSQL(TELL, SILENT)]

"""What open screens are told while things change."""

import asyncio
import json
from contextlib import asynccontextmanager

import pytest
from api.events import Events
from asgiref.sync import sync_to_async
from bench.models import ItemJob
from django.conf import settings
from django.db import connection, connections
from django.test import Client
from materials.models import Machine
from orders.models import Comment, Item, Order
from psycopg import sql
from test_list import stood_in
from work.models import Job

PATIENCE = 600


class Screen:
    """One open screen: what the server sent to it."""

    def __init__(self) -> None:
        self.sent: asyncio.Queue[dict] = asyncio.Queue()
        self.gone = asyncio.Event()

    async def receive(self) -> dict:
        await self.gone.wait()
        return {"type": "http.disconnect"}

    async def send(self, message: dict) -> None:
        await self.sent.put(message)

    async def told(self) -> dict:
        """The next event; lines without meaning are passed over."""
        while True:
            message = await asyncio.wait_for(self.sent.get(), PATIENCE)
            text = message.get("body", b"").decode()
            if text.startswith("data: "):
                return json.loads(text.removeprefix("data: "))


def cookie_of(person) -> list[tuple[bytes, bytes]]:
    client = Client()
    client.force_login(person)
    value = client.cookies[settings.SESSION_COOKIE_NAME].value
    return [(b"cookie", f"{settings.SESSION_COOKIE_NAME}={value}".encode())]


@asynccontextmanager
async def screen_of(events: Events, headers):
    """A screen that has heard that listening began."""
    screen = Screen()
    scope = {"type": "http", "path": "/api/events", "headers": headers}
    task = asyncio.create_task(events(scope, screen.receive, screen.send))
    assert (await screen.told())["all"]
    yield screen
    screen.gone.set()
    await asyncio.wait_for(task, PATIENCE)


def to_its_end(main):
    """Run something asynchronous, and leave no connection to the database behind."""

    async def both():
        try:
            return await main()
        finally:
            # of the thread that asks the database, which stays
            await sync_to_async(connections.close_all)()

    return asyncio.run(both())


def run(person, body) -> None:
    """Do something with the events of somebody's screen."""
    headers = cookie_of(person)

    async def main() -> None:
        events = Events()
        try:
            async with screen_of(events, headers) as screen:
                await body(screen)
        finally:
            events._listener.cancel()

    to_its_end(main)


CHANGES = {
    "item": (lambda item: Item.objects.filter(pk=item.pk).update(quantity=7), "items"),
    "comment": (lambda item: Comment.objects.create(item=item, text="look"), "items"),
    "order": (lambda item: Order.objects.filter(pk=item.order_id).update(note="by boat"), "orders"),
    "machine": (
        lambda item: Machine.objects.create(name="Skerry", process="Filament", x=9, y=9, z=9),
        "rules",
    ),
}


@pytest.mark.parametrize("what", CHANGES)
def test_each_change_is_told(shop, what: str) -> None:
    change, where = CHANGES[what]
    item = stood_in(shop.order, "Fender")

    async def body(screen: Screen) -> None:
        await sync_to_async(change)(item)
        told = await screen.told()
        expected = {"items": [item.pk], "orders": [item.order_id], "rules": True}[where]
        assert told[where] == expected

    run(shop.person, body)


def test_that_work_goes_on_is_told_apart_from_what_it_changes(shop) -> None:
    item = stood_in(shop.order, "Fender")
    job = ItemJob.objects.create(item=item, kind="mend", subject="it", title="mended")

    def change(**fields) -> None:
        Job.objects.filter(pk=job.pk).update(**fields)

    async def body(screen: Screen) -> None:
        await sync_to_async(change)(fraction=0.5)
        told = await screen.told()
        assert (told["steps"], told["items"]) == ([item.pk], [])
        await sync_to_async(change)(state="done")
        told = await screen.told()
        assert (told["steps"], told["items"]) == ([], [item.pk])

    run(shop.person, body)


def test_many_changes_at_once_are_one_event(shop) -> None:
    items = [stood_in(shop.order, f"Fender {n}") for n in range(30)]

    async def body(screen: Screen) -> None:
        await sync_to_async(Item.objects.update)(quantity=3)
        assert (await screen.told())["items"] == sorted(one.pk for one in items)
        assert screen.sent.empty()

    run(shop.person, body)


def _end_listeners() -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where query = 'listen shop'"
        )


def test_after_the_database_was_away_all_is_asked_for_again(shop) -> None:
    item = stood_in(shop.order, "Fender")

    async def body(screen: Screen) -> None:
        await sync_to_async(_end_listeners)()
        assert (await screen.told())["all"]
        await sync_to_async(Item.objects.filter(pk=item.pk).update)(quantity=5)
        assert (await screen.told())["items"] == [item.pk]

    run(shop.person, body)


@pytest.mark.parametrize("headers", [[], [(b"cookie", b"sessionid=nobodys")]])
def test_strangers_are_told_nothing(shop, headers) -> None:
    async def main() -> list[dict]:
        screen = Screen()
        scope = {"type": "http", "path": "/api/events", "headers": headers}
        await Events()(scope, screen.receive, screen.send)
        return [screen.sent.get_nowait() for _ in range(screen.sent.qsize())]

    sent = to_its_end(main)
    assert sent[0]["status"] == 403


def test_who_logs_out_is_told_nothing_more(shop, monkeypatch) -> None:
    monkeypatch.setattr("api.events._WHO_IS_IT", 0.0)
    headers = cookie_of(shop.person)
    item = stood_in(shop.order, "Fender")

    async def main() -> None:
        events, screen = Events(), Screen()
        scope = {"type": "http", "path": "/api/events", "headers": headers}
        task = asyncio.create_task(events(scope, screen.receive, screen.send))
        assert (await screen.told())["all"]
        await sync_to_async(_forget_all_sessions)()
        await sync_to_async(Item.objects.filter(pk=item.pk).update)(quantity=5)
        await asyncio.wait_for(task, PATIENCE)  # it ends by itself
        events._listener.cancel()

    to_its_end(main)


def _forget_all_sessions() -> None:
    with connection.cursor() as cursor:
        cursor.execute(sql.SQL("delete from django_session"))

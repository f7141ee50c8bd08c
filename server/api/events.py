"""Tells open screens what changed, as server-sent events.

Triggers of the database send a notification with each change; one connection for each process of
the web server listens to them and hands them on to all screens that it serves.

Each event is a JSON object: ``items`` and ``orders`` list the keys of what changed, ``steps`` items
of which only work has gone on, ``rules`` says whether sheets, limits or machines changed, and
``all`` that anything may have, because the connection to the database was away for a while.
"""

import asyncio
import json
import logging
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from http.cookies import SimpleCookie
from importlib import import_module
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.db import close_old_connections, connections
from django.http import HttpRequest

log = logging.getLogger(__name__)
CHANNEL = "shop"
"""Of PostgreSQL's notifications; the triggers that send them name it, too."""
_TOGETHER = 0.25
"""Seconds in which changes are gathered into one event: work tells its progress more often."""
_STILL_THERE = 15.0
"""Seconds after which a line without meaning keeps the connection open through proxies."""
_WHO_IS_IT = 60.0
"""Seconds between looks at whether somebody is still logged in."""
_AGAIN = 1.0
"""Seconds between tries to listen while the database is away."""

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]


@dataclass(eq=False)
class _Changes:
    """What changed since a screen was told last."""

    items: set[int] = field(default_factory=set)
    orders: set[int] = field(default_factory=set)
    steps: set[int] = field(default_factory=set)
    rules: bool = False
    all: bool = False
    any: asyncio.Event = field(default_factory=asyncio.Event)

    def add(self, payload: str) -> None:
        kind, _, key = payload.partition(" ")
        keyed = {"item": self.items, "order": self.orders, "step": self.steps}
        if kind in keyed:
            keyed[kind].add(int(key))
        elif kind == "rules":
            self.rules = True
        else:
            self.all = True
        self.any.set()

    def take(self) -> str:
        """All of it as the data of an event; nothing is left."""
        told = {
            "items": sorted(self.items),
            "orders": sorted(self.orders),
            "steps": sorted(self.steps - self.items),
            "rules": self.rules,
            "all": self.all,
        }
        self.items, self.orders, self.steps = set(), set(), set()
        self.rules = self.all = False
        self.any.clear()
        return json.dumps(told)


class Events:
    """An ASGI application that answers one address with the events of the shop."""

    def __init__(self) -> None:
        self._screens: set[_Changes] = set()
        self._listener: asyncio.Task[None] | None = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if not await _is_somebody(scope):
            await _refuse(send)
            return
        if self._listener is None or self._listener.done():
            self._listener = asyncio.create_task(self._listen())
        changes = _Changes()
        self._screens.add(changes)
        gone = asyncio.create_task(_disconnected(receive))
        try:
            await self._tell(scope, send, changes, gone)
        finally:
            self._screens.discard(changes)
            gone.cancel()

    async def _tell(
        self, scope: Scope, send: Send, changes: _Changes, gone: "asyncio.Task[None]"
    ) -> None:
        headers = [
            (b"content-type", b"text/event-stream"),
            (b"cache-control", b"no-store"),
            (b"x-accel-buffering", b"no"),
        ]
        await send({"type": "http.response.start", "status": 200, "headers": headers})
        await _line(send, ": listening\n\n")
        loop = asyncio.get_running_loop()
        asked = loop.time()
        while not gone.done():
            waiting = asyncio.create_task(changes.any.wait())
            await asyncio.wait(
                {waiting, gone}, timeout=_STILL_THERE, return_when=asyncio.FIRST_COMPLETED
            )
            waiting.cancel()
            if loop.time() - asked > _WHO_IS_IT:
                asked = loop.time()
                if not await _is_somebody(scope):
                    break
            if changes.any.is_set():
                await asyncio.sleep(_TOGETHER)
                await _line(send, f"data: {changes.take()}\n\n")
            else:
                await _line(send, ": still there\n\n")
        await send({"type": "http.response.body", "body": b""})

    async def _listen(self) -> None:
        """Hear the database, as long as any screen is open; begin again when it was away."""
        while True:
            try:
                async with await _connect() as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    self._spread("all")
                    async for notice in connection.notifies():
                        self._spread(notice.payload)
            except psycopg.OperationalError as fault:
                log.warning("the database is away: %s", str(fault).strip())
            await asyncio.sleep(_AGAIN)

    def _spread(self, payload: str) -> None:
        for screen in self._screens:
            screen.add(payload)


async def _connect() -> psycopg.AsyncConnection[Any]:
    parameters = connections["default"].get_connection_params()
    known = ("host", "port", "user", "password", "dbname")
    given = {name: parameters[name] for name in known if name in parameters}
    return await psycopg.AsyncConnection.connect(autocommit=True, keepalives_idle=30, **given)


async def _is_somebody(scope: Scope) -> bool:
    """Whether a request comes from somebody who is logged in."""
    cookies: SimpleCookie = SimpleCookie()
    for name, value in scope["headers"]:
        if name == b"cookie":
            cookies.load(value.decode("latin1"))
    found = cookies.get(settings.SESSION_COOKIE_NAME)
    return found is not None and await sync_to_async(_knows)(found.value)


def _knows(session_key: str) -> bool:
    close_old_connections()
    request = HttpRequest()
    request.session = import_module(settings.SESSION_ENGINE).SessionStore(session_key)
    return bool(get_user(request).is_authenticated)


async def _disconnected(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


async def _line(send: Send, text: str) -> None:
    await send({"type": "http.response.body", "body": text.encode(), "more_body": True})


async def _refuse(send: Send) -> None:
    body = json.dumps({"detail": "Authentication credentials were not provided."}).encode()
    headers = [(b"content-type", b"application/json")]
    await send({"type": "http.response.start", "status": 403, "headers": headers})
    await send({"type": "http.response.body", "body": body})

"""What the web server runs: events for open screens, and all else by Django, a thread each.

Django itself stays on WSGI: there its answers stream files of any size without holding them.
"""

import os
from typing import Any

from a2wsgi import WSGIMiddleware
from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
if not os.environ.get("IRONCAULK_SECRET_KEY"):
    raise SystemExit("IRONCAULK_SECRET_KEY is not set: sessions would end with each process.")
_THREADS = 12
"""Requests that one process of the web server answers at once."""

_pages: Any = WSGIMiddleware(get_wsgi_application(), workers=_THREADS)  # type: ignore[arg-type]

from api.events import Events  # noqa: E402  needs Django to be set up

EVENTS = "/api/events"
_events = Events()


async def application(scope: dict[str, Any], receive: Any, send: Any) -> None:
    """Hand a request to who answers it."""
    if scope["type"] == "http" and scope["path"] == EVENTS:
        await _events(scope, receive, send)
    else:
        await _pages(scope, receive, send)

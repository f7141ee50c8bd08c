"""What the web server runs: events for open screens, and all else by Django, a thread each.

Django itself stays on WSGI: there its answers stream files of any size without holding them.
"""

import gc
import os
from typing import Any

from a2wsgi import WSGIMiddleware
from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
if not os.environ.get("IRONCAULK_SECRET_KEY"):
    raise SystemExit("IRONCAULK_SECRET_KEY is not set: sessions would end with each process.")
_THREADS = 12
"""Requests that one process of the web server answers at once."""
_AT_THE_GATE = 3
"""Uploads that it takes at once: a crowd of files waits for itself, and nobody else for it."""

_django: Any = get_wsgi_application()
_pages: Any = WSGIMiddleware(_django, workers=_THREADS)
_uploads: Any = WSGIMiddleware(_django, workers=_AT_THE_GATE)

from api.events import Events  # noqa: E402  needs Django to be set up

EVENTS = "/api/events"
_events = Events()
# what was loaded by now stays: no answer waits for it to be looked through for garbage
gc.freeze()


async def application(scope: dict[str, Any], receive: Any, send: Any) -> None:
    """Hand a request to who answers it."""
    if scope["type"] == "http" and scope["path"] == EVENTS:
        await _events(scope, receive, send)
    elif scope["type"] == "http" and _brings_a_file(scope):
        await _uploads(scope, receive, send)
    else:
        await _pages(scope, receive, send)


def _brings_a_file(scope: dict[str, Any]) -> bool:
    headers = dict(scope["headers"])
    return headers.get(b"content-type", b"").startswith(b"multipart/form-data")

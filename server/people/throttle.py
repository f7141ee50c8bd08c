"""What is answered to somebody who has tried too many passwords."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest, JsonResponse


def locked_out(request: HttpRequest, *args: Any, **kwargs: Any) -> JsonResponse:
    """Say for how long no password is tried."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    words = f"Too many tries with this name. Wait {minutes} minutes, or ask the shop's lead."
    return JsonResponse({"detail": words}, status=429)

"""Requests that are larger than their limit are refused before anything of them is kept."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse

ROOM_FOR_FORM = 500_000
"""Bytes that an upload may have beside its files': some hundred for the head of each."""
_UPLOAD = "multipart/form-data"


class BodyLimit:
    """Middleware; stands before all that reads a request's body.

    Uploads may have the limit of files, all other requests that of requests. A body without a
    length is not read at all.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = request.META.get("CONTENT_LENGTH") or "0"
        length = int(told) if told.isdigit() else 0
        if request.content_type == _UPLOAD:
            most = settings.MAX_UPLOAD_BYTES
            if length > most + ROOM_FOR_FORM:
                return _refused(
                    f"That is {length / 1e6:,.0f} MB; the limit is {most / 1e6:,.0f} MB."
                )
        elif length > settings.MAX_REQUEST_BYTES:
            most = settings.MAX_REQUEST_BYTES
            return _refused(f"The request is larger than {most / 1e6:,.0f} MB.")
        return self.get_response(request)


def _refused(words: str) -> HttpResponse:
    return JsonResponse({"detail": words}, status=413)

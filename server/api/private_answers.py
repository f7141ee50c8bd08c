"""What the API answers is kept by no cache, unless a view says that it never changes."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class PrivateAnswers:
    """Middleware: answers of the API say so themselves, or are not stored."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        answer = self.get_response(request)
        if request.path.startswith("/api/") and not answer.has_header("Cache-Control"):
            answer["Cache-Control"] = "private, no-store"
        return answer

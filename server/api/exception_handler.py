"""How refusals reach the browser: always ``{"detail": sentence}``."""

from typing import Any

from caulkcore import CaulkError
from rest_framework import status
from rest_framework.exceptions import APIException
from rest_framework.response import Response
from rest_framework.views import exception_handler


class Conflict(APIException):
    """What was asked does not fit the state that things are in."""

    status_code = status.HTTP_409_CONFLICT


class MovedOn(Conflict):
    """What a person saw is no longer what holds; tells what does."""

    def __init__(self, detail: str, moved_on: dict[str, Any]) -> None:
        super().__init__(detail)
        self.moved_on = moved_on


def answer(problem: Exception, context: dict[str, Any]) -> Response | None:
    """Turn the core's refusals, and lists of field errors, into one sentence."""
    if isinstance(problem, CaulkError):
        return Response({"detail": str(problem)}, status=status.HTTP_400_BAD_REQUEST)
    response = exception_handler(problem, context)
    if isinstance(problem, MovedOn) and response is not None:
        response.data = {"detail": str(problem.detail), "moved_on": problem.moved_on}
        return response
    if response is not None and not (
        isinstance(response.data, dict) and set(response.data) == {"detail"}
    ):
        response.data = {"detail": sentence_of(response.data)}
    return response


def sentence_of(refused: Any) -> str:
    """What was refused, in one sentence: the detail of an `APIException`, however deep."""
    return " ".join(_sentences(refused))


def _sentences(data: Any, field: str = "") -> list[str]:
    if isinstance(data, dict):
        # within a list the key is a number: what is wrong is said of the list
        by_name = ((key if isinstance(key, str) else field, value) for key, value in data.items())
        return [line for key, value in by_name for line in _sentences(value, key)]
    if isinstance(data, list):
        return [line for value in data for line in _sentences(value, field)]
    named = field and field != "non_field_errors"
    return [f"{field.replace('_', ' ').capitalize()}: {data}" if named else str(data)]

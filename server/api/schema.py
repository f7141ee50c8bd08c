"""Finishing touches to the OpenAPI schema."""

from typing import Any


def answers_are_whole(result: dict[str, Any], **kwargs: Any) -> dict[str, Any]:
    """Answers always carry all their fields, whatever a request may leave out."""
    for name, component in result["components"]["schemas"].items():
        if "properties" in component and not name.endswith("Request"):
            optional = {
                field
                for field in component["properties"]
                if name == "Report" and field in ("format", "notes")
            }
            component["required"] = [f for f in component["properties"] if f not in optional]
    return result

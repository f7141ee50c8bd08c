"""What only the shop's lead may do."""

from typing import Any

from rest_framework.permissions import SAFE_METHODS, IsAuthenticated
from rest_framework.request import Request


class LeadChanges(IsAuthenticated):
    """Everybody logged in may look; only the lead may change."""

    message = "Only the shop's lead changes rule sheets, machines and settings."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may go on."""
        known = super().has_permission(request, view)
        return known and (request.method in SAFE_METHODS or request.user.is_staff)


class LeadReads(IsAuthenticated):
    """Only the lead may look."""

    message = "Only the shop's lead reads the trail of the shop."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may go on."""
        return super().has_permission(request, view) and bool(request.user.is_staff)

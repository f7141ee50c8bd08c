"""What each role may do; a view without a word of its own has `Works`."""

from typing import Any

from rest_framework.permissions import SAFE_METHODS, IsAuthenticated
from rest_framework.request import Request

from .roles import is_lead, may_change


class Works(IsAuthenticated):
    """Everybody logged in may look; who may only look may not change anything."""

    message = "Your account may look at everything and change nothing; ask the shop's lead."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may go on."""
        known = super().has_permission(request, view)
        return known and (request.method in SAFE_METHODS or may_change(request.user))


class LeadChanges(IsAuthenticated):
    """Everybody logged in may look; only the lead may change."""

    message = "Only the shop's lead changes rule sheets, machines, settings and accounts."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may go on."""
        known = super().has_permission(request, view)
        return known and (request.method in SAFE_METHODS or is_lead(request.user))


class OnlyLead(IsAuthenticated):
    """Only the lead may look or change."""

    message = "Only the shop's lead may do this."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may go on."""
        return super().has_permission(request, view) and is_lead(request.user)

"""What other rooms hear of when the rules that items are judged by change."""

from django.dispatch import Signal

standard_changed = Signal()
"""A rule sheet, the shop's settings or a machine was changed; sent within the transaction."""

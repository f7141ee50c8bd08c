"""Numbers as the letter writes them."""

from django import template

register = template.Library()


@register.filter
def whole(value: float) -> str:
    """A whole number with separators."""
    return f"{value:,.0f}"


@register.filter
def mm(value: float) -> str:
    """A length in millimetres, one decimal, more where it would vanish."""
    return f"{value:,.1f}" if value == 0 or abs(value) >= 0.1 else f"{value:.3f}"


@register.filter
def cm3(value: float) -> str:
    """Cubic millimetres as cubic centimetres."""
    return f"{value / 1000:,.2f}"

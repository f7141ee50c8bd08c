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
    return f"{value / 1000:,.2f}" if value >= 10 or value == 0 else f"{value / 1000:.4f}"


@register.filter
def cm2(value: float) -> str:
    """Square millimetres as square centimetres."""
    return f"{value / 100:,.1f}" if value >= 10 or value == 0 else f"{value / 100:.3f}"


@register.filter
def file_size(value: int) -> str:
    """Bytes in the unit that people would take."""
    if value < 1000:
        return f"{value} bytes"
    return f"{value / 1000:,.0f} kB" if value < 1e6 else f"{value / 1e6:,.1f} MB"


@register.filter
def in_sentence(name: str) -> str:
    """A material's name, which begins with a capital in a table, not in a sentence."""
    return name[:1].lower() + name[1:]

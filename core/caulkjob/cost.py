"""What an operation will take and leave, told in a sentence before it runs."""

from caulkcore.io.stl import stl_bytes
from caulkcore.remesh.estimate import Estimate

from .text import length_text

_MINUTES_FROM = 90.0
"""Seconds from which a time is told in minutes."""
_MOMENT = 1.5
"""Seconds below which it is told as a moment."""
_TOLD_GB = 0.5
"""Memory from which it is told, GB."""
_FIGURES = 3
"""Figures of a count that is an estimate."""


def cost_text(estimate: Estimate) -> str:
    """An estimate in one sentence, for a person.

    Parameters
    ----------
    estimate : Estimate

    Returns
    -------
    str

    Examples
    --------
    >>> cost_text(Estimate(12.0, 0.1, 20_512))
    'It leaves about 20,500 triangles, 1.0 MB as binary STL, and takes about 12 s.'
    """
    seconds = estimate.seconds
    long = f"{seconds:.0f} s" if seconds < _MINUTES_FROM else f"{seconds / 60:.0f} minutes"
    takes = "a moment" if seconds < _MOMENT else f"about {long}"
    takes += f" and {estimate.gigabytes:.1f} GB" if estimate.gigabytes >= _TOLD_GB else ""
    if estimate.triangles is None:
        detail = estimate.detail
        fine = f"At a detail size of {length_text(detail)} it" if detail else "It"
        return f"{fine} takes {takes}."
    size = stl_bytes(estimate.triangles) / 1e6
    told = f"{size:,.1f} MB" if size >= 1 else f"{size * 1000:,.0f} kB"
    leaves = f"about {_rounded(estimate.triangles):,} triangles, {told} as binary STL"
    return f"It leaves {leaves}, and takes {takes}."


def _rounded(count: int) -> int:
    step = 10 ** max(0, len(str(count)) - _FIGURES)
    return round(count / step) * step

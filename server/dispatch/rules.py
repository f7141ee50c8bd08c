"""When an item may be released, and how the seam tells it."""

from dataclasses import dataclass

from bench.seam import NOT_RUN, TIGHT, Segment, answers
from orders.models import Item

from .models import Release


@dataclass(frozen=True)
class Standing:
    """How an item stands."""

    seam: list[Segment]
    """All questions, *Release* last."""
    release: Release | None
    """That of the revision that holds."""
    ready: bool
    """Whether it can be released, and has not been."""


def standing(item: Item) -> Standing:
    """How an item stands before its release."""
    found = answers(item)
    current = item.workpiece.current_id
    release = next((r for r in item.releases.all() if r.revision_id == current), None)
    blocks = sum(segment.blocks for segment in found)
    ready = current is not None and not blocks and release is None
    return Standing([*found, _segment(current, release, blocks)], release, ready)


def blocked_by(item: Item) -> list[Segment]:
    """Questions that stand in the way of a release."""
    return [segment for segment in answers(item) if segment.blocks]


def _segment(current: int | None, release: Release | None, n: int) -> Segment:
    if current is None:
        return Segment("release", "Release", NOT_RUN, "waits")
    if release is not None:
        return Segment("release", "Release", TIGHT, f"released as {release.format.upper()}")
    if n:
        return Segment("release", "Release", NOT_RUN, f"waits for {n} question{'s'[: n != 1]}")
    return Segment("release", "Release", NOT_RUN, "ready")

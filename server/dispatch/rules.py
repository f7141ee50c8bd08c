"""When an item may be released, and how the seam tells it."""

from bench.seam import NOT_RUN, TIGHT, Segment, answers
from orders.models import Item


def seam(item: Item) -> list[Segment]:
    """How all questions stand, *Release* last."""
    found = answers(item)
    return [*found, _release(item, found)]


def blocked_by(item: Item) -> list[Segment]:
    """Questions that stand in the way of a release."""
    return [segment for segment in answers(item) if segment.blocks]


def may_be_released(item: Item) -> bool:
    """Whether there is a revision and nothing stands in its way."""
    return item.workpiece.current is not None and not blocked_by(item)


def _release(item: Item, others: list[Segment]) -> Segment:
    if item.workpiece.current is None:
        return Segment("release", "Release", NOT_RUN, "waits")
    current = item.workpiece.current_id
    release = next((r for r in item.releases.all() if r.revision_id == current), None)
    if release is not None:
        return Segment("release", "Release", TIGHT, f"released as {release.format.upper()}")
    n = sum(segment.blocks for segment in others)
    if n:
        return Segment("release", "Release", NOT_RUN, f"waits for {n} question{'s'[: n != 1]}")
    return Segment("release", "Release", NOT_RUN, "ready")

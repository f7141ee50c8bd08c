"""When an item may be released, and how the seam tells it."""

from dataclasses import dataclass

from bench.seam import NOT_RUN, TIGHT, Segment, answers
from bench.standard import Standard
from orders.models import Item

from .models import Release


@dataclass(frozen=True)
class Standing:
    """How an item stands."""

    seam: list[Segment]
    """All questions, *Release* last."""
    release: Release | None
    """That of the revision and the material that hold, unless it was withdrawn."""
    ready: bool
    """Whether it can be released, and has not been."""


def standing(item: Item, standard: Standard) -> Standing:
    """How an item stands before its release, by what holds now."""
    current = item.workpiece.current_id
    release = next((r for r in item.releases.all() if _is_of_now(r, item)), None)
    # what has left was judged by what held then, and is not judged again
    found = answers(item, None if release else standard)
    blocks = sum(segment.blocks for segment in found)
    ready = current is not None and not blocks and release is None and not item.set_aside
    return Standing([*found, _segment(item, release, blocks)], release, ready)


def blocked_by(item: Item, standard: Standard) -> list[Segment]:
    """Questions that stand in the way of a release."""
    return [segment for segment in answers(item, standard) if segment.blocks]


def _is_of_now(release: Release, item: Item) -> bool:
    same = release.revision_id == item.workpiece.current_id
    return same and release.material in ("", item.material.key) and release.holds


def _segment(item: Item, release: Release | None, n: int) -> Segment:
    if item.workpiece.current_id is None:
        words = "set aside" if item.set_aside else "waits"
    elif release is not None:
        return Segment("release", "Release", TIGHT, f"released as {release.format.upper()}")
    elif item.set_aside:
        words = "set aside"
    else:
        words = f"waits for {n} question{'s'[: n != 1]}" if n else "ready"
    return Segment("release", "Release", NOT_RUN, words)

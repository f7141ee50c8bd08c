"""Where items, and what was made of them, refer to stored files."""

from collections.abc import Iterator

from bench.models import Comparison, Decision, Examination, Revision
from dispatch.models import Release
from orders.models import Item

_FIELDS = (
    (Item, ("received_path",)),
    (Revision, ("mesh_path", "skin_path", "changes_path")),
    (Examination, ("marks_path", "soundings_path")),
    (Comparison, ("changes_path",)),
    (Release, ("file_path",)),
)


def paths() -> Iterator[str]:
    """Paths of all of them, some more than once, some empty."""
    for model, fields in _FIELDS:
        for row in model._default_manager.values_list(*fields).iterator(chunk_size=5000):
            yield from row
    replaced = Decision.objects.filter(act=Decision.Act.REPLACE)
    yield from replaced.values_list("about__kept", flat=True)

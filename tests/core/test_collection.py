"""A part of the collection of broken meshes; ``./ironcaulk bench collection`` mends all of it."""

import pytest
from collection import SOLIDS, WAYS, broken, judged, threes

_WAYS = list(WAYS)
# every solid and every way at least once, and each solid with ways of its own
SINGLY = [(name, (_WAYS[i % len(_WAYS)],)) for i, name in enumerate(SOLIDS)]
SEVERAL = [(name, threes(name, 5)[i % 5]) for i, name in enumerate(SOLIDS) if i % 3 == 0]


def test_the_collection_is_large_enough() -> None:
    assert len(SOLIDS) >= 40
    assert len(WAYS) >= 25
    assert {way for _, (way,) in SINGLY} == set(WAYS)


@pytest.mark.parametrize(("name", "ways"), SINGLY + SEVERAL, ids=lambda x: str(x))
def test_what_is_broken_ends_tight_or_is_refused_with_the_reason(name, ways) -> None:
    assert judged(*broken(name, ways)) in ("tight", "refused")

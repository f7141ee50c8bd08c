"""The questions of the seam and the kinds of finding that answer them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Question:
    """One segment of the seam.

    Attributes
    ----------
    key : str
        Stable name.
    title : str
        As it is shown.
    asks : str
        The question in words.
    kinds : tuple of str
        Kinds of finding that belong to it.
    """

    key: str
    title: str
    asks: str
    kinds: tuple[str, ...]


QUESTIONS = (
    Question("size", "Size", "Is it the size the customer meant?", ("unit-suspect",)),
    Question(
        "closed",
        "Closed",
        "Is the skin watertight and manifold, all of it facing outward?",
        (
            "open-edges",
            "open-sheets",
            "cracks",
            "flipped-faces",
            "inside-out-shells",
            "over-shared-edges",
            "pinched-vertices",
            "duplicate-faces",
            "zero-area-faces",
        ),
    ),
)

TITLES = {
    "unit-suspect": "Unit in doubt",
    "open-edges": "Holes",
    "open-sheets": "Open sheets",
    "cracks": "Cracks",
    "flipped-faces": "Patches facing inward",
    "inside-out-shells": "Shells inside out",
    "over-shared-edges": "Over-shared edges",
    "pinched-vertices": "Pinched vertices",
    "duplicate-faces": "Duplicate faces",
    "zero-area-faces": "Faces without area",
}


def question_of(kind: str) -> str:
    """Key of the question that a kind of finding belongs to."""
    return next(q.key for q in QUESTIONS if kind in q.kinds)

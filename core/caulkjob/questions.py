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
    Question(
        "size",
        "Size",
        "Is it the size the customer meant?",
        ("unit-suspect", "too-large", "too-small", "file-too-big"),
    ),
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
            "needle-faces",
        ),
    ),
    Question(
        "solid",
        "One solid",
        "Is it one skin, without crossings or overlapping pieces?",
        ("overlapping-shells", "self-intersections", "near-gaps", "loose-parts"),
    ),
    Question(
        "inside",
        "Inside",
        "Is there anything inside that does not belong?",
        ("sealed-voids", "buried-shells", "debris"),
    ),
    Question(
        "walls",
        "Walls",
        "Is it thick enough everywhere for its material?",
        (
            "thin-walls",
            "thin-free-walls",
            "thin-wires",
            "thin-necks",
            "narrow-gaps",
            "fine-relief",
            "fine-engraving",
        ),
    ),
)
"""The questions in the order of the work."""

CROSSINGS = ("overlapping-shells", "self-intersections")
"""Kinds where some of the skin lies in material that is not its own."""
THIN = ("thin-walls", "thin-free-walls", "thin-wires")
"""Kinds that building up answers."""
KINDS_BY_MATERIAL = ("too-large", "too-small", *THIN, "thin-necks", "narrow-gaps")
"""What is found or not found by the rules of a material."""

NOUNS = {
    "unit-suspect": ("unit in doubt", "units in doubt"),
    "too-large": ("part too large", "parts too large"),
    "too-small": ("part too small", "parts too small"),
    "file-too-big": ("file too big", "files too big"),
    "open-edges": ("hole", "holes"),
    "open-sheets": ("open sheet", "open sheets"),
    "cracks": ("crack", "cracks"),
    "flipped-faces": ("patch facing inward", "patches facing inward"),
    "inside-out-shells": ("shell inside out", "shells inside out"),
    "over-shared-edges": ("line of over-shared edges", "lines of over-shared edges"),
    "pinched-vertices": ("pinched vertex", "pinched vertices"),
    "duplicate-faces": ("doubled patch", "doubled patches"),
    "zero-area-faces": ("patch without area", "patches without area"),
    "needle-faces": ("patch of needles", "patches of needles"),
    "near-gaps": ("near gap", "near gaps"),
    "loose-parts": ("loose part", "loose parts"),
    "self-intersections": ("crossing with itself", "crossings with itself"),
    "sealed-voids": ("sealed void", "sealed voids"),
    "buried-shells": ("buried solid", "buried solids"),
    "debris": ("bit of debris", "bits of debris"),
    "thin-walls": ("thin wall", "thin walls"),
    "thin-free-walls": ("thin free wall", "thin free walls"),
    "thin-wires": ("thin wire", "thin wires"),
    "thin-necks": ("neck", "necks"),
    "narrow-gaps": ("slit", "slits"),
    "fine-relief": ("raised detail", "raised details"),
    "fine-engraving": ("cut detail", "cut details"),
    "overlapping-shells": ("overlap of pieces", "overlaps of pieces"),
}
"""What one place of a kind, and several, are called."""


def noun(kind: str, n: int) -> str:
    """Name of a kind's places, for `n` of them.

    Parameters
    ----------
    kind : str
    n : int

    Returns
    -------
    str
    """
    return NOUNS[kind][n != 1]


def question_of(kind: str) -> str:
    """Key of the question that a kind of finding belongs to.

    Parameters
    ----------
    kind : str

    Returns
    -------
    str

    Examples
    --------
    >>> question_of("thin-walls"), noun("open-edges", 2)
    ('walls', 'holes')
    """
    return next(q.key for q in QUESTIONS if kind in q.kinds)
